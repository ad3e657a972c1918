"""Movers on the clock: who is near, and where they are when a segment begins and ends."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.moving_outlines import bring_felt, bring_solids
from haptos.engine.collision.poses import is_there, look_ahead, pose_at, remember_pose
from haptos.engine.collision.zones import set_inside
from haptos.engine.compiling.contract import leaf
from haptos.engine.movers.displacement import make_room, overlap
from haptos.engine.pieces.crumbling import is_due, pass_time

# Legs that end within this share of a tick have ended.
LEAST = 1e-9


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
    player.near = 0
    reach = _reach(movers, body, world, player, end - begin)
    for number in range(movers.movers.shape[0]):
        mover, pose = movers.movers[number], moving[number]
        if mover.still:
            # It is grown anew where the body turns, and does nothing else.
            continue
        if number != player.frame:
            if not is_there(pose) and not pose.here and pose.t >= 0.0:
                # It was brought out of the world before, and stays there.
                continue
            if _is_far(mover, player, reach):
                continue
        near[player.near] = number
        player.near += 1
        if pose.t != begin:
            # It was far away until now.
            _bring(core, felt, felt.zones, felt.effects, movers, moving, number, begin)
        remember_pose(pose)
        look_ahead(movers, moving, number, begin, LEAST * world.dt)
        if pose.passed and overlap(movers, solids, body, player, number) < 0:
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
    pose = moving[number]
    pose_at(movers, core.world, moving, number, t)
    bring_solids(movers, moving, number, core.solids)
    bring_felt(movers, moving, number, zones, effects)
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
def _is_far(mover: Any, player: Any, reach: float) -> bool:
    """Whether the body can't meet a mover in this tick, where it is or where it would start again."""
    if player.x + reach >= mover.x0 and player.x - reach <= mover.x1:
        if player.y + reach >= mover.y0 and player.y - reach <= mover.y1:
            return False
    if player.home_x + reach >= mover.x0 and player.home_x - reach <= mover.x1:
        return player.home_y + reach < mover.y0 or player.home_y - reach > mover.y1
    return True
