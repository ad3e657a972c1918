"""Pickups: they come when the player is near, and are taken when it is nearer.

Both distances are from the player's shape to the pickup's place. Seen from the pickup, the body goes straight through
the tick, so that a pickup is taken however fast it is passed.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.advancement import first_within
from haptos.engine.collision.grid import cells_of
from haptos.engine.collision.poses import pose_at
from haptos.engine.collision.separation import distance_to, distance_to_line
from haptos.engine.compiling.contract import leaf
from haptos.engine.game.counters import count
from haptos.engine.pieces.outlook import stir
from haptos.engine.records.codes import COMES, GONE, TAKEN_UP, THE_PLAYER, WAITS
from haptos.engine.records.events import ATTRACTS, COLLECTS, RELEASES
from haptos.engine.records.journal import write_at, write_of

# The way through a tick is stepped until this share of the body's height is left, by this share of it at least.
NEAR = 1e-9
SHORTEST = 1e-5


@leaf
def take(
    core: Any,
    played: Any,
    stakes: Any,
    movers: Any,
    moving: Any,
    from_x: float,
    from_y: float,
    begin: float,
    end: float,
) -> None:
    """Let pickups come and be taken in a tick through which the body went from a place to where it is."""
    taken = played.taken
    world, body, player = core.world, core.body, core.player
    if stakes.pickups.shape[0] == 0:
        return
    _come(core, played, stakes, from_x, from_y, begin, end)
    _give_to_others(core, stakes, movers, moving, taken, played.counts, played.given, begin, end)
    for index in range(stakes.mobile.shape[0]):
        number = stakes.mobile[index]
        if taken[number].status == WAITS:
            _follow(stakes.pickups[number], taken[number], movers, world, moving, begin)
            old_x, old_y = taken[number].x, taken[number].y
            here = _follow(stakes.pickups[number], taken[number], movers, world, moving, end)
            if here:
                _meet(core, played, stakes, number, from_x, from_y, old_x, old_y, begin, end)
    grid = stakes.grid[0]
    bonus = max(body.attract_bonus, 0.0)
    x0, x1 = min(from_x, player.x) - bonus, max(from_x, player.x) + bonus
    y0, y1 = min(from_y, player.y) - bonus, max(from_y, player.y) + bonus
    first_column, last_column, first_row, last_row = cells_of(grid, x0, x1, y0, y1)
    for row in range(first_row, last_row + 1):
        for column in range(first_column, last_column + 1):
            cell = row * grid.columns + column
            for item in range(stakes.start[cell], stakes.start[cell + 1]):
                number = stakes.items[item]
                state = taken[number]
                if state.status == WAITS:
                    _meet(core, played, stakes, number, from_x, from_y, state.x, state.y, begin, end)
    _make_room(stakes, movers, moving, taken, end)


@leaf
def _make_room(stakes: Any, movers: Any, moving: Any, taken: Any, end: float) -> None:
    """Let what was made and taken be gone, so that another can be made in its stead."""
    if movers is None:
        return
    for index in range(stakes.mobile.shape[0]):
        number = stakes.mobile[index]
        pickup, state = stakes.pickups[number], taken[number]
        if pickup.slot < 0 or state.status != TAKEN_UP:
            continue
        pose = moving[pickup.slot]
        if pose.phase != GONE and movers.movers[pickup.slot].piece == pickup.piece:
            pose.phase, pose.since, pose.due = GONE, end, math.inf
            pose.t = math.nan
            stir(movers, moving, pickup.slot)
        if pose.phase == GONE:
            state.status = WAITS


@leaf
def _come(core: Any, played: Any, stakes: Any, from_x: float, from_y: float, begin: float, end: float) -> None:
    """Move the pickups that come, and take those that arrive; the others keep their order."""
    taken, coming = played.taken, played.coming
    body, player, journal = core.body, core.player, core.journal
    kept = 0
    for index in range(coming[0]):
        number = coming[1 + index]
        pickup, state = stakes.pickups[number], taken[number]
        if state.status == TAKEN_UP:
            # Something else was there first.
            continue
        old_x, old_y = state.x, state.y
        _step(pickup, state, player, from_x, from_y, end - begin)
        t = _met_at(body, player, pickup.collect, from_x, from_y, player.x, player.y, old_x, old_y, state.x, state.y)
        if t <= 1.0:
            state.x, state.y = old_x + t * (state.x - old_x), old_y + t * (state.y - old_y)
            _collect(
                stakes,
                player,
                taken,
                played.counts,
                played.given,
                journal,
                number,
                THE_PLAYER,
                begin + t * (end - begin),
            )
            continue
        gap = _gap(body, player, state.x - player.x, state.y - player.y)
        if not pickup.latched and gap > pickup.attract + body.attract_bonus:
            state.status = WAITS
            write_at(journal, player, RELEASES, end, pickup.piece, state.x, state.y, gap, 0.0)
            continue
        coming[1 + kept] = number
        kept += 1
    coming[0] = kept


@leaf
def _step(pickup: Any, state: Any, player: Any, from_x: float, from_y: float, dt: float) -> None:
    """Move a pickup that comes through a tick in which the body goes evenly from a place to where it is [1]_.

    References
    ----------
    .. [1] For a target T that moves at V, x' = r (T - x) has x - T + V/r = (x0 - T0 + V/r) exp(-r t).
    """
    if dt <= 0.0:
        return
    if pickup.eases:
        fade = math.exp(-pickup.rate * dt)
        lag_x, lag_y = (player.x - from_x) / (dt * pickup.rate), (player.y - from_y) / (dt * pickup.rate)
        state.x = player.x - lag_x + (state.x - from_x + lag_x) * fade
        state.y = player.y - lag_y + (state.y - from_y + lag_y) * fade
        return
    dx, dy = player.x - state.x, player.y - state.y
    way = math.sqrt(dx * dx + dy * dy)
    share = min(pickup.speed * dt / way, 1.0) if way > 0.0 else 0.0
    state.x += share * dx
    state.y += share * dy


@leaf
def _meet(
    core: Any,
    played: Any,
    stakes: Any,
    number: int,
    from_x: float,
    from_y: float,
    old_x: float,
    old_y: float,
    begin: float,
    end: float,
) -> None:
    """Take a pickup that waits, or let it begin to come, if the body is or was near enough."""
    taken, coming, counts, given = played.taken, played.coming, played.counts, played.given
    body, player, journal = core.body, core.player, core.journal
    pickup, state = stakes.pickups[number], taken[number]
    t = _met_at(body, player, pickup.collect, from_x, from_y, player.x, player.y, old_x, old_y, state.x, state.y)
    if t <= 1.0 and pickup.by_player:
        _collect(stakes, player, taken, counts, given, journal, number, THE_PLAYER, begin + t * (end - begin))
        return
    if not pickup.by_player:
        return
    if pickup.attract <= 0.0:
        return
    within = pickup.attract + body.attract_bonus
    t = _met_at(body, player, within, from_x, from_y, player.x, player.y, old_x, old_y, state.x, state.y)
    if t > 1.0 or not _sees(stakes, pickup, player, state.x, state.y):
        return
    if not pickup.latched and _gap(body, player, state.x - player.x, state.y - player.y) > within:
        # It was near, and is no longer.
        return
    x, y = from_x + t * (player.x - from_x), from_y + t * (player.y - from_y)
    gap = _gap(body, player, old_x + t * (state.x - old_x) - x, old_y + t * (state.y - old_y) - y)
    write_at(journal, player, ATTRACTS, begin + t * (end - begin), pickup.piece, state.x, state.y, max(gap, 0.0), 0.0)
    state.status = COMES
    coming[1 + coming[0]] = number
    coming[0] += 1
    if t < 1.0:
        # It comes for the rest of the tick.
        old_x, old_y = state.x, state.y
        _step(pickup, state, player, x, y, (1.0 - t) * (end - begin))
        s = _met_at(body, player, pickup.collect, x, y, player.x, player.y, old_x, old_y, state.x, state.y)
        if s <= 1.0:
            coming[0] -= 1
            state.x, state.y = old_x + s * (state.x - old_x), old_y + s * (state.y - old_y)
            met = begin + (t + s * (1.0 - t)) * (end - begin)
            _collect(stakes, player, taken, counts, given, journal, number, THE_PLAYER, met)


@leaf
def _collect(
    stakes: Any, player: Any, taken: Any, counts: Any, given: Any, journal: Any, number: int, who: int, t: float
) -> None:
    """Let a pickup be taken by somebody, and count it."""
    pickup, state = stakes.pickups[number], taken[number]
    state.status = TAKEN_UP
    write_of(journal, player, COLLECTS, t, who, pickup.piece, state.x, state.y, pickup.worth, 0.0)
    if pickup.counter >= 0:
        if pickup.slot < 0:
            counts[pickup.counter].left -= pickup.worth
        count(stakes, player, counts, given, journal, pickup.counter, pickup.worth, t)


@leaf
def _give_to_others(
    core: Any, stakes: Any, movers: Any, moving: Any, taken: Any, counts: Any, given: Any, begin: float, end: float
) -> None:
    """Let pickups be taken by other things, which go straight through the tick as they are turned at its end."""
    world, body = core.world, core.body
    if movers is None:
        return
    for index in range(stakes.shared.shape[0]):
        number = stakes.shared[index]
        pickup, state = stakes.pickups[number], taken[number]
        for place in range(pickup.first_taker, pickup.first_taker + pickup.takers):
            if state.status == TAKEN_UP:
                break
            shape = movers.shapes[stakes.takers[place]]
            mover, pose = movers.movers[shape.mover], moving[shape.mover]
            pose_at(movers, world, moving, shape.mover, begin)
            old_x, old_y = pose.x, pose.y
            pose_at(movers, world, moving, shape.mover, end)
            if not pose.here:
                continue
            dx, dy = pose.x - old_x, pose.y - old_y
            way = math.sqrt(dx * dx + dy * dy)
            scene = (movers, shape, pose, mover.x + pose.x, mover.y + pose.y, dx, dy, state, pickup.collect)
            t = first_within(_gap_to_taker, scene, way, NEAR * body.height, 0.0, 1.0, SHORTEST)
            if t <= 1.0:
                met = begin + t * (end - begin)
                _collect(stakes, core.player, taken, counts, given, core.journal, number, shape.piece, met)


@leaf
def _gap_to_taker(scene: Any, t: float) -> float:
    """Return how far a pickup is from where a shape takes it, at a share of the way to where that is."""
    movers, shape, pose, x, y, dx, dy, state, collect = scene
    back = 1.0 - t
    return distance_to(movers.corners, shape, pose, x - back * dx, y - back * dy, state.x, state.y) - collect


@leaf
def _follow(pickup: Any, state: Any, movers: Any, world: Any, moving: Any, t: float) -> bool:
    """Put a pickup where the mover that it goes with is at a time; return whether that is there at all."""
    if movers is None:
        return False
    mover, pose = movers.movers[pickup.mover], moving[pickup.mover]
    if pose.t != t:
        pose_at(movers, world, moving, pickup.mover, t)
    dx, dy = pickup.x - mover.x, pickup.y - mover.y
    state.x = mover.x + pose.x + dx * pose.cosine - dy * pose.sine
    state.y = mover.y + pose.y + dx * pose.sine + dy * pose.cosine
    return pose.here != 0


@leaf
def _gap(body: Any, player: Any, dx: float, dy: float) -> float:
    """Return how far a place is from the body's shape, below zero inside; the place is relative to its middle."""
    up = abs(dx * player.up_x + dy * player.up_y) - body.half_height
    across = abs(dx * player.up_y - dy * player.up_x) - body.half_width
    if up <= 0.0 and across <= 0.0:
        return max(up, across) - body.radius
    up, across = max(up, 0.0), max(across, 0.0)
    return math.sqrt(up * up + across * across) - body.radius


@leaf
def _met_at(
    body: Any,
    player: Any,
    within: float,
    from_x: float,
    from_y: float,
    to_x: float,
    to_y: float,
    old_x: float,
    old_y: float,
    x: float,
    y: float,
) -> float:
    """Return at which share of a tick the body comes as near as that to a place; infinite if it does not."""
    # More than ten arguments: two ways through the tick are eight of them.
    dx, dy = old_x - from_x, old_y - from_y
    ex, ey = x - to_x - dx, y - to_y - dy
    way = math.sqrt(ex * ex + ey * ey)
    scene = (body, player, dx, dy, ex, ey, within)
    return first_within(_gap_on_way, scene, way, NEAR * body.height, 0.0, 1.0, SHORTEST)


@leaf
def _gap_on_way(scene: Any, t: float) -> float:
    """Return how far a place is from where it is met, at a share of its way as seen from the body."""
    body, player, dx, dy, ex, ey, within = scene
    return _gap(body, player, dx + t * ex, dy + t * ey) - within


@leaf
def _sees(stakes: Any, pickup: Any, player: Any, x: float, y: float) -> bool:
    """Whether nothing that blocks a pickup is between it and the body's middle."""
    if pickup.blocked_by == 0:
        return True
    for index in range(stakes.sights.shape[0]):
        side = stakes.sights[index]
        if (pickup.blocked_by >> side.layer) & 1:
            if _crosses(side, x, y, player.x, player.y):
                return False
    return True


@leaf
def _crosses(side: Any, x: float, y: float, to_x: float, to_y: float) -> bool:
    """Whether a line of sight comes within the radius of a side."""
    ux, uy = to_x - x, to_y - y
    vx, vy = side.x1 - side.x0, side.y1 - side.y0
    one = ux * (side.y0 - y) - uy * (side.x0 - x)
    other = ux * (side.y1 - y) - uy * (side.x1 - x)
    here = vx * (y - side.y0) - vy * (x - side.x0)
    there = vx * (to_y - side.y0) - vy * (to_x - side.x0)
    if one * other < 0.0 and here * there < 0.0:
        return True
    # Two lines that do not cross are nearest at an end of one of them.
    nearest = min(
        distance_to_line(side.x0, side.y0, x, y, to_x, to_y),
        distance_to_line(side.x1, side.y1, x, y, to_x, to_y),
        distance_to_line(x, y, side.x0, side.y0, side.x1, side.y1),
        distance_to_line(to_x, to_y, side.x0, side.y0, side.x1, side.y1),
    )
    return nearest < side.radius
