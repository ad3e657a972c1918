"""Pieces that are noticed in zones: each enters and leaves when their shapes begin and cease to overlap.

Both go on through the tick as their poses have it, and the time of a change is stepped to.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.advancement import first_within
from haptos.engine.collision.poses import pose_at, stand_of
from haptos.engine.collision.separation import gap_between
from haptos.engine.collision.zones import DEPTH
from haptos.engine.compiling.contract import leaf
from haptos.engine.pieces.approaches import flying_speed
from haptos.engine.records.codes import GONE
from haptos.engine.records.events import ENTER, LEAVE
from haptos.engine.records.journal import write_of

# The shortest step through a tick, as a share of it: a shorter visit may be missed. The step with a change in it is
# halved so often; and so many changes can be in a tick. A piece is in a zone, or out, by more than this share of the
# body's height.
SHORTEST = 1e-5
HALVINGS = 40
MOST_VISITS = 64
TINY = 1e-12


@leaf
def watch_pieces(core: Any, watches: Any, movers: Any, moving: Any, watching: Any, begin: float, end: float) -> None:
    """Say which pieces enter and leave the zones that rules watch for them, from the begin of a tick to its end."""
    world, player = core.world, core.player
    if watches is None:
        return
    if player.over:
        return
    for index in range(watches.shape[0]):
        watch = watches[index]
        own_t, zone_t = moving[watch.mover].t, _time_of(moving, watch.zone_mover)
        _watch(core, watch, index, movers, moving, watching, begin, end)
        _go_back(movers, world, moving, watch.mover, own_t, end)
        if watch.zone_mover >= 0:
            _go_back(movers, world, moving, watch.zone_mover, zone_t, end)


@leaf
def _time_of(moving: Any, mover: int) -> float:
    return moving[mover].t if mover >= 0 else math.nan


@leaf
def _go_back(movers: Any, world: Any, moving: Any, number: int, t: float, end: float) -> None:
    """Leave a pose as it was if that was the tick's end; if not, its outlines are yet to be brought there."""
    pose_at(movers, world, moving, number, end)
    if t != end:
        moving[number].t = math.nan


@leaf
def _watch(
    core: Any, watch: Any, index: int, movers: Any, moving: Any, watching: Any, begin: float, end: float
) -> None:
    """Look at one piece and one zone through a tick."""
    world, body, player, journal = core.world, core.body, core.player, core.journal
    mover, pose = movers.movers[watch.mover], moving[watch.mover]
    # What was made in this tick, or bounced, is where it is from then on.
    t = max(begin, pose.from_t) if mover.flight >= 0 and pose.from_t < end else begin
    gap = _gap_at(watch, movers, world, body, moving, t)
    if (gap < 0.0) != (watching[index] != 0):
        # It was switched, made or taken away.
        since = max(t, pose.since) if pose.phase == GONE else t
        _note(watch, index, mover, pose, watching, player, journal, min(since, end))
    pace = watch.pace + flying_speed(movers, moving, watch.mover) + flying_speed(movers, moving, watch.zone_mover)
    for _ in range(MOST_VISITS):
        # It is left when the depth is used up, as it is entered when the gap is.
        side = -1.0 if watching[index] else 1.0
        scene = (watch, movers, world, body, moving, side)
        met = first_within(_gap_from_side, scene, pace, -TINY * body.height, t, end, SHORTEST * world.dt)
        if met == math.inf:
            return
        low, t = max(t, met - SHORTEST * world.dt), met
        for _ in range(HALVINGS):
            middle = 0.5 * (low + t)
            if _gap_from_side(scene, middle) <= 0.0:
                t = middle
            else:
                low = middle
        _note(watch, index, mover, pose, watching, player, journal, t)


@leaf
def _gap_from_side(scene: Any, t: float) -> float:
    """Return the gap between a piece and a zone, or, seen from inside, by how deep it is in there."""
    watch, movers, world, body, moving, side = scene
    return side * _gap_at(watch, movers, world, body, moving, t)


@leaf
def _note(watch: Any, index: int, mover: Any, pose: Any, watching: Any, player: Any, journal: Any, t: float) -> None:
    """Note that a piece enters a zone, or leaves it."""
    watching[index] = 1 - watching[index]
    kind = ENTER if watching[index] else LEAVE
    write_of(journal, player, kind, t, watch.who, watch.zone, mover.x + pose.x, mover.y + pose.y, math.nan, 0.0)


@leaf
def _gap_at(watch: Any, movers: Any, world: Any, body: Any, moving: Any, t: float) -> float:
    """Return the gap between a piece and a zone at a time, below zero where they overlap; infinite if one is gone.

    So shallow an overlap as between things that rest on each other is none.
    """
    _, own_x, own_y = stand_of(movers, world, moving, watch.mover, t)
    mover, pose = movers.movers[watch.mover], moving[watch.mover]
    if not pose.here or (mover.flight >= 0 and pose.from_t > t):
        return math.inf
    stand, x, y = stand_of(movers, world, moving, watch.zone_mover, t)
    zone_pose = moving[stand]
    if not zone_pose.here:
        return math.inf
    gap = math.inf
    for own in range(watch.first, watch.last):
        for other in range(watch.zone_first, watch.zone_last):
            apart, _, _ = gap_between(
                movers.corners, movers.shapes[own], pose, own_x, own_y, movers.shapes[other], zone_pose, x, y
            )
            gap = min(gap, apart)
    return gap + DEPTH * body.height
