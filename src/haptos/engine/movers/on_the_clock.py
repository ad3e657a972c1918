"""Movers on the clock: who is near, and where they are when a segment begins and ends."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.moving_outlines import forget_near, note_near, put, put_away
from haptos.engine.collision.poses import is_there, look_ahead, pose_at, remember_pose
from haptos.engine.collision.zones import set_inside
from haptos.engine.compiling.contract import leaf
from haptos.engine.movers.displacement import make_room, overlap
from haptos.engine.pieces.crumbling import is_due, pass_time
from haptos.engine.pieces.neighbours import MOST_CELLS, NONE, cell_of, list_of
from haptos.engine.records.codes import AFAR, LEFT_BEHIND, NEARBY

# Legs that end within this share of a tick have ended.
LEAST = 1e-9
# Where the body can come farther than this many cells in a tick, all that flies is near.
MOST_CELLS_WIDE = 4.0


@leaf
def gather_movers(
    core: Any, felt: Any, movers: Any, moving: Any, near: Any, rule_states: Any, begin: float, end: float
) -> None:
    """Do what is due for movers in a tick, and find those that the body can meet in it."""
    world, body, solids, player, journal = core.world, core.body, core.solids, core.player, core.journal
    if movers is None:
        return
    for place in range(movers.timed.shape[0]):
        number = movers.timed[place]
        _keep_time(movers, world, solids, body, player, moving, rule_states, journal, number, end)
    forget_near(solids, felt.zones, felt.effects)
    reach = _reach(movers, body, world, player, end - begin)
    # Those that were near go on being so, or are left behind.
    before, player.near = player.near, 0
    for place in range(before):
        _gather(core, felt, felt.zones, felt.effects, movers, moving, near, near[place], reach, begin)
    for place in range(movers.tied.shape[0]):
        number = movers.tied[place]
        pose = moving[number]
        if pose.placed == AFAR and is_there(pose) and _is_on_way(movers.movers[number], player, reach):
            _gather(core, felt, felt.zones, felt.effects, movers, moving, near, number, reach, begin)
    if movers.flying.shape[0] == 0:
        return
    _gather_flying(core, felt, felt.zones, felt.effects, movers, moving, near, player.x, player.y, reach, begin)
    if player.home_x != player.x or player.home_y != player.y:
        x, y = player.home_x, player.home_y
        _gather_flying(core, felt, felt.zones, felt.effects, movers, moving, near, x, y, reach, begin)


@leaf
def _gather_flying(
    core: Any, felt: Any, zones: Any, effects: Any, movers: Any, moving: Any, near: Any, x: float, y: float,
    reach: float, begin: float,
) -> None:  # fmt: skip
    """Bring what is free to fly and near a place to the begin of a tick."""
    size = movers.cell
    if not reach < MOST_CELLS_WIDE * size:
        for row in range(movers.flying.shape[0]):
            flying = movers.flying[row]
            if flying.layer != 0 and moving[flying.mover].placed == AFAR:
                _gather(core, felt, zones, effects, movers, moving, near, flying.mover, reach, begin)
        return
    for column in range(cell_of(x - reach, size), cell_of(x + reach, size) + 1):
        for line in range(cell_of(y - reach, size), cell_of(y + reach, size) + 1):
            node = movers.heads[list_of(movers, column, line)]
            while node != NONE:
                flying = movers.flying[node // MOST_CELLS]
                node = movers.links[node].after
                far_x, far_y = x - flying.x - begin * flying.vx, y - flying.y - begin * flying.vy
                far = reach + flying.room
                if far_x * far_x + far_y * far_y <= far * far and moving[flying.mover].placed == AFAR:
                    _gather(core, felt, zones, effects, movers, moving, near, flying.mover, reach, begin)


@leaf
def _gather(
    core: Any, felt: Any, zones: Any, effects: Any, movers: Any, moving: Any, near: Any, number: int, reach: float,
    begin: float,
) -> None:  # fmt: skip
    """Bring a mover to the begin of a tick if it is near the body, or was; what is there no more is taken away."""
    world, solids, player = core.world, core.solids, core.player
    mover, pose = movers.movers[number], moving[number]
    was_brought = pose.t == begin and pose.placed != AFAR
    if not was_brought:
        pose_at(movers, world, moving, number, begin)
    is_near = number == player.frame
    if not is_near and pose.here:
        x, y = mover.x + pose.x, mover.y + pose.y
        is_near = _is_within(player, x, y, reach + mover.radius * max(pose.scale, 1.0))
    if not is_near and pose.placed == AFAR:
        # Its outlines were not brought there.
        pose.t = math.nan
        return
    if not was_brought:
        _put(core, felt, zones, effects, movers, moving, number, begin)
    if not is_near and (pose.placed == LEFT_BEHIND or not pose.here):
        pose.placed, pose.t = AFAR, math.nan
        put_away(movers, moving, number, solids, zones, effects)
        return
    # What is far away now may still have to be left.
    pose.placed = NEARBY if is_near else LEFT_BEHIND
    near[player.near] = number
    player.near += 1
    note_near(movers, number, solids, zones, effects)
    remember_pose(pose)
    look_ahead(movers, moving, number, begin, LEAST * world.dt)
    if pose.passed and (mover.loose or overlap(movers, solids, core.body, player, number) < 0):
        # The body is clear of what it was let through.
        pose.passed = 0
        for item in range(mover.solid, mover.zone):
            core.passing[movers.items[item].outline] = 0


@leaf
def bring_movers(core: Any, felt: Any, zones: Any, effects: Any, movers: Any, moving: Any, near: Any, t: float) -> None:
    """Bring what is near to where it is at a time."""
    if movers is None:
        return
    for place in range(core.player.near):
        number = near[place]
        pose = moving[number]
        remember_pose(pose)
        if pose.t != t:
            _bring(core, felt, zones, effects, movers, moving, number, t)
        look_ahead(movers, moving, number, t, LEAST * core.world.dt)


@leaf
def _bring(core: Any, felt: Any, zones: Any, effects: Any, movers: Any, moving: Any, number: int, t: float) -> None:
    pose_at(movers, core.world, moving, number, t)
    _put(core, felt, zones, effects, movers, moving, number, t)


@leaf
def _put(core: Any, felt: Any, zones: Any, effects: Any, movers: Any, moving: Any, number: int, t: float) -> None:
    """Put the outlines of a mover where it is; what is gone is left."""
    pose = moving[number]
    put(movers, moving, number, core.solids, zones, effects, core.player.shape)
    if zones is not None:
        if not pose.here:
            _leave_zones(core, felt, zones, movers, number, t)


@leaf
def _leave_zones(core: Any, felt: Any, zones: Any, movers: Any, number: int, t: float) -> None:
    """Leave the zones of what is gone."""
    mover, player = movers.movers[number], core.player
    for place in range(mover.zone, mover.effect):
        index = movers.items[place].outline
        if felt.inside[index] and zones.outlines[index].twin < 0:
            set_inside(felt, index, False, player, core.journal, t, player.x, player.y)


@leaf
def limit_at_knots(movers: Any, moving: Any, near: Any, player: Any, segment: Any, now: float, knot: int) -> None:
    """End the segment where something near begins another leg, or whatever else it does."""
    if movers is None:
        return
    for place in range(player.near):
        left = moving[near[place]].until - now
        if left < segment.limit:
            segment.limit, segment.reason = left, knot


@leaf
def leave_movers(core: Any, movers: Any, moving: Any, near: Any, end: float) -> None:
    """Press the body out of what it has come to be in, as of what was made or put where it is."""
    player = core.player
    if movers is None:
        return
    for place in range(player.near):
        number = near[place]
        pose = moving[number]
        if pose.t == end and pose.here and not pose.passed:
            make_room(core, movers, moving, number)


@leaf
def _keep_time(
    movers: Any,
    world: Any,
    solids: Any,
    body: Any,
    player: Any,
    moving: Any,
    rule_states: Any,
    journal: Any,
    number: int,
    end: float,
) -> None:
    """Do what is due for a mover in this tick; let a route begin whose rule has fired."""
    pose = moving[number]
    if is_due(pose.due, end, world.dt):
        pass_time(movers, world, solids, body, player, moving, journal, number, end)
    if pose.clock == math.inf:
        rule = movers.movers[number].rule
        if rule >= 0:
            # A rule that has switched it off and on itself is not waited for again.
            if rule_states[rule].acted and pose.ran == 0.0:
                pose.clock = rule_states[rule].first


@leaf
def _reach(movers: Any, body: Any, world: Any, player: Any, dt: float) -> float:
    """Return how far the body can be from a mover that it meets in this tick."""
    speed = math.sqrt(player.vx * player.vx + player.vy * player.vy) + movers.fastest
    speed += math.sqrt(player.frame_vx * player.frame_vx + player.frame_vy * player.frame_vy)
    return body.height + (speed + world.weight * dt) * dt


@leaf
def _is_on_way(mover: Any, player: Any, reach: float) -> bool:
    """Whether the body, or where it would start again, is near the way of a mover."""
    if player.x + reach >= mover.x0 and player.x - reach <= mover.x1:
        if player.y + reach >= mover.y0 and player.y - reach <= mover.y1:
            return True
    if player.home_x + reach >= mover.x0 and player.home_x - reach <= mover.x1:
        return player.home_y + reach >= mover.y0 and player.home_y - reach <= mover.y1
    return False


@leaf
def _is_within(player: Any, x: float, y: float, reach: float) -> bool:
    """Whether the body, or where it would start again, is so near a place."""
    dx, dy = player.x - x, player.y - y
    if dx * dx + dy * dy <= reach * reach:
        return True
    dx, dy = player.home_x - x, player.home_y - y
    return dx * dx + dy * dy <= reach * reach
