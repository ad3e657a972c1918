"""What flies by itself: straight on, until it meets something, leaves the bounds, or its time is up.

Each of these happens at its exact time; between them the place is a closed form of the time.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.poses import pose_at
from haptos.engine.compiling.contract import leaf
from haptos.engine.pieces.flight_contacts import first_touch, rebase, touch
from haptos.engine.pieces.rng import chance
from haptos.engine.pieces.spawning import flown_to, vanish
from haptos.engine.records.codes import GONE, NO_PIECE, NOTHING_THERE, VANISHES_THERE, WRAPS_THERE
from haptos.engine.records.events import LEFT_BOUNDS, REAIMS, TIMED_OUT, WRAP
from haptos.engine.records.journal import was_put, write_of

# Streams of random numbers for what is aimed anew; those of what is made come before.
EXIT_STREAM = 1 << 20
# Things that can happen to one piece in one tick.
MOST_TURNS = 16


@leaf
def follow_player(movers: Any, player: Any, moving: Any, now: float) -> None:
    """Let what hangs on the player go on from where it is, as fast as it is."""
    if movers is None:
        return
    if movers.player < 0:
        return
    mover, pose = movers.movers[movers.player], moving[movers.player]
    pose.from_x, pose.from_y, pose.from_t = player.x - mover.x, player.y - mover.y, now
    pose.fly_vx, pose.fly_vy = player.vx + player.frame_vx, player.vy + player.frame_vy


@leaf
def go_with_player(
    movers: Any,
    player: Any,
    moving: Any,
    journal: Any,
    first: int,
    from_x: float,
    from_y: float,
    begin: float,
    end: float,
) -> None:
    """Let what hangs on the player have gone straight from where that was to where it is, unless it was put there."""
    if movers is None:
        return
    if movers.player < 0:
        return
    mover, pose = movers.movers[movers.player], moving[movers.player]
    if was_put(journal, first):
        from_x, from_y = player.x, player.y
    pose.from_x, pose.from_y, pose.from_t = from_x - mover.x, from_y - mover.y, begin
    pose.fly_vx, pose.fly_vy = (player.x - from_x) / (end - begin), (player.y - from_y) / (end - begin)


@leaf
def advance_flights(core: Any, movers: Any, moving: Any, begin: float, end: float) -> None:
    """Let everything that flies go on to the end of a tick, but for its pose."""
    if movers is None:
        return
    for row in range(movers.flights.shape[0]):
        pose = moving[movers.flights[row].mover]
        if pose.phase == GONE:
            continue
        t = max(begin, pose.from_t)
        for _ in range(MOST_TURNS):
            t = _go_on(core, movers, moving, row, t, end)
            if t >= end:
                break


@leaf
def _go_on(core: Any, movers: Any, moving: Any, row: int, t: float, end: float) -> float:
    """Go on from a time until something happens; return when, the end of the tick if nothing does."""
    world, edges, player, journal = core.world, core.edges, core.player, core.journal
    flight = movers.flights[row]
    number = flight.mover
    pose = moving[number]
    limit, dies, leaves = end, False, False
    if pose.dies <= limit:
        limit, dies = max(pose.dies, t), True
    if flight.on_exit != NOTHING_THERE:
        out = _leaves_at(edges[0], movers, world, moving, row, t)
        if out <= limit:
            limit, dies, leaves = out, False, True
    met, shape, nx, ny = first_touch(movers, world, core.body, moving, row, t, limit)
    if met <= limit:
        touch(movers, world, moving, journal, player, row, shape, nx, ny, met)
        return end if pose.phase == GONE else met
    if dies:
        vanish(movers, world, moving, journal, player, number, NO_PIECE, TIMED_OUT, limit)
        return end
    if leaves:
        _leave(movers, world, edges[0], moving, journal, player, row, limit)
        return end if pose.phase == GONE else limit
    return end


@leaf
def _leaves_at(edge: Any, movers: Any, world: Any, moving: Any, row: int, t: float) -> float:
    """Return when the whole piece is out of the bounds, having been inside; infinite if it never is."""
    flight = movers.flights[row]
    pose = moving[flight.mover]
    reach = flight.radius * pose.scale
    x, y = flown_to(movers, world, moving, flight.mover, t)
    enters, leaves = -math.inf, math.inf
    for axis in range(2):
        place, speed = (x, pose.fly_vx) if axis == 0 else (y, pose.fly_vy)
        low, high = (edge.x0 - reach, edge.x1 + reach) if axis == 0 else (edge.y0 - reach, edge.y1 + reach)
        if speed == 0.0:
            if place < low or place > high:
                return math.inf
            continue
        one, other = (low - place) / speed, (high - place) / speed
        enters, leaves = max(enters, min(one, other)), min(leaves, max(one, other))
    if leaves <= 0.0 or leaves <= enters or leaves == math.inf:
        return math.inf
    return t + leaves


@leaf
def _leave(movers: Any, world: Any, edge: Any, moving: Any, journal: Any, player: Any, row: int, now: float) -> None:
    """Vanish, come in again opposite, or turn back, as the piece does at the bounds."""
    flight = movers.flights[row]
    mover, pose = movers.movers[flight.mover], moving[flight.mover]
    if flight.on_exit == VANISHES_THERE:
        vanish(movers, world, moving, journal, player, flight.mover, NO_PIECE, LEFT_BOUNDS, now)
        return
    rebase(pose, now)
    pose.touches = NO_PIECE
    x, y = mover.x + pose.from_x, mover.y + pose.from_y
    reach = flight.radius * pose.scale
    kind, side = REAIMS, 0.0
    if flight.on_exit == WRAPS_THERE:
        kind = WRAP
        if x >= edge.x1 + reach * (1.0 - 1e-9) and pose.fly_vx > 0.0:
            x, side = edge.x0 - reach, 1.0
        elif x <= edge.x0 - reach * (1.0 - 1e-9) and pose.fly_vx < 0.0:
            x = edge.x1 + reach
        elif pose.fly_vy > 0.0:
            y, side = edge.y0 - reach, 3.0
        else:
            y, side = edge.y1 + reach, 2.0
        pose.from_x, pose.from_y = x - mover.x, y - mover.y
    else:
        pose.exits += 1
        stream = EXIT_STREAM + 2 * row
        to_x = 0.5 * (edge.x0 + edge.x1) + chance(world.seed, stream, pose.exits, -flight.box_x, flight.box_x)
        to_y = 0.5 * (edge.y0 + edge.y1) + chance(world.seed, stream + 1, pose.exits, -flight.box_y, flight.box_y)
        speed = math.sqrt(pose.fly_vx * pose.fly_vx + pose.fly_vy * pose.fly_vy)
        away = math.sqrt((to_x - x) ** 2 + (to_y - y) ** 2)
        pose.fly_vx, pose.fly_vy = speed * (to_x - x) / away, speed * (to_y - y) / away
    write_of(journal, player, kind, now, mover.piece, NO_PIECE, x, y, math.nan, side)


@leaf
def record_flights(movers: Any, world: Any, moving: Any, player: Any, rows: Any, written: Any) -> None:
    """Write where everything that flies is at the end of a tick; what does not fit is counted."""
    if movers is None:
        return
    end = player.tick * world.dt
    for index in range(movers.flights.shape[0]):
        flight = movers.flights[index]
        pose = moving[flight.mover]
        if not flight.flies or pose.phase == GONE:
            continue
        if pose.t != end:
            # The body never meets it, so that it was not brought there.
            pose_at(movers, world, moving, flight.mover, end)
        if not pose.here:
            continue
        place = written[0]
        written[0] = place + 1
        if place < rows.shape[0]:
            row, mover = rows[place], movers.movers[flight.mover]
            row.tick, row.mover = player.tick, flight.mover
            row.x, row.y = mover.x + pose.x, mover.y + pose.y
            row.angle = pose.from_angle + pose.fly_spin * (end - pose.from_t)
            if not flight.free:
                # Turned by what carries it, too.
                row.angle = math.atan2(pose.sine, pose.cosine)
            row.vx, row.vy, row.spin, row.scale = pose.vx, pose.vy, pose.spin, pose.scale
