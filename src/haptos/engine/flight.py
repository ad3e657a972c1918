"""What flies by itself: straight on, until it meets something, leaves the bounds, or its time is up.

Each of these happens at its exact time; between them the place is a closed form of the time.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.chance import chance
from haptos.engine.compiled import constant, leaf
from haptos.engine.impact import SHALLOW, TOUCHING, is_on_side
from haptos.engine.journal import ENTER, MEETS_PLAYER, NO_PIECE, REAIMS, THE_PLAYER, TOUCHES, WRAP, write_of
from haptos.engine.poses import GONE, pose_at
from haptos.engine.separation import gap_between
from haptos.engine.spawning import BROKE, LEFT, TIMED_OUT, vanish

# What happens to what leaves the bounds.
NOTHING_THERE, VANISHES_THERE, WRAPS_THERE, REAIMS_THERE = (constant(way) for way in range(4))
# Streams of random numbers for what is aimed anew; those of what is made come before.
EXIT_STREAM = 1 << 20
# Things that can happen to one piece in one tick, and steps toward what it meets.
MOST_TURNS = 16
MOST_STEPS = 64


@leaf
def advance_flights(
    movers: Any, world: Any, edges: Any, body: Any, player: Any, moving: Any, journal: Any, begin: float, end: float
) -> None:  # fmt: skip
    """Let everything that flies go on to the end of a tick, but for its pose."""
    if movers is None:
        return
    for row in range(movers.flights.shape[0]):
        pose = moving[movers.flights[row].mover]
        if pose.phase == GONE:
            continue
        t = max(begin, pose.from_t)
        for _ in range(MOST_TURNS):
            t = _go_on(movers, world, edges, body, player, moving, journal, row, t, begin, end)
            if t >= end:
                break


@leaf
def _go_on(
    movers: Any, world: Any, edges: Any, body: Any, player: Any, moving: Any, journal: Any, row: int, t: float,
    begin: float, end: float,
) -> float:  # fmt: skip
    """Go on from a time until something happens; return when, the end of the tick if nothing does."""
    flight = movers.flights[row]
    number = flight.mover
    pose = moving[number]
    limit, dies, leaves = end, False, False
    if pose.dies <= limit:
        limit, dies = max(pose.dies, t), True
    if flight.on_exit != NOTHING_THERE:
        out = _leaves_at(edges[0], movers.movers[number], pose, flight.radius * pose.scale, t)
        if out <= limit:
            limit, dies, leaves = out, False, True
    met, shape, nx, ny = _first_touch(movers, world, body, moving, row, t, limit, begin)
    if met <= limit:
        _touch(movers, moving, journal, player, row, shape, nx, ny, met)
        return end if pose.phase == GONE else met
    if dies:
        vanish(movers, moving, journal, player, number, NO_PIECE, TIMED_OUT, limit)
        return end
    if leaves:
        _leave(movers, world, edges[0], moving, journal, player, row, limit)
        return end if pose.phase == GONE else limit
    return end


@leaf
def _place(mover: Any, pose: Any, t: float) -> tuple[float, float]:
    time = max(t - pose.from_t, 0.0)
    return mover.x + pose.from_x + pose.fly_vx * time, mover.y + pose.from_y + pose.fly_vy * time


@leaf
def _rebase(mover: Any, pose: Any, t: float) -> None:
    """Let the flight be counted from a time."""
    x, y = _place(mover, pose, t)
    pose.from_angle += pose.fly_spin * (t - pose.from_t)
    pose.from_x, pose.from_y, pose.from_t = x - mover.x, y - mover.y, t


@leaf
def _leaves_at(edge: Any, mover: Any, pose: Any, reach: float, t: float) -> float:
    """Return when the whole piece is out of the bounds, having been inside; infinite if it never is."""
    x, y = _place(mover, pose, t)
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
def _leave(
    movers: Any, world: Any, edge: Any, moving: Any, journal: Any, player: Any, row: int, now: float
) -> None:  # fmt: skip
    """Vanish, come in again opposite, or turn back, as the piece does at the bounds."""
    flight = movers.flights[row]
    mover, pose = movers.movers[flight.mover], moving[flight.mover]
    if flight.on_exit == VANISHES_THERE:
        vanish(movers, moving, journal, player, flight.mover, NO_PIECE, LEFT, now)
        return
    _rebase(mover, pose, now)
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
def _first_touch(
    movers: Any, world: Any, body: Any, moving: Any, row: int, t: float, limit: float, begin: float
) -> tuple[float, int, float, float]:  # fmt: skip
    """Return when a piece first touches a shape that it breaks on or bounces off, which, and the normal there."""
    flight = movers.flights[row]
    number = flight.mover
    mover, pose = movers.movers[number], moving[number]
    first, which, best_nx, best_ny = math.inf, -1, 0.0, 0.0
    meets = flight.breaks_on | flight.bounces_off
    x, y = _place(mover, pose, t)
    for index in range(movers.shapes.shape[0]):
        shape = movers.shapes[index]
        breaks_it = ((shape.breaks_on >> flight.layer) & 1) != 0
        if not (breaks_it or ((meets >> shape.layer) & 1) != 0) or shape.mover == number:
            continue
        if shape.piece == pose.touches and not ((flight.bounces_off >> shape.layer) & 1):
            continue
        stand, other_x, other_y, ovx, ovy = _stand_of(movers, world, moving, shape, begin)
        other_pose = moving[stand]
        if not other_pose.here:
            continue
        rvx, rvy = pose.fly_vx - ovx, pose.fly_vy - ovy
        pace = math.sqrt(rvx * rvx + rvy * rvy)
        cx, cy = other_x, other_y
        if shape.mover < 0:
            cx, cy = shape.x, shape.y
        near = flight.radius * pose.scale + shape.reach * other_pose.scale + (limit - t) * pace + body.height * TOUCHING
        if (x - cx) ** 2 + (y - cy) ** 2 > near * near:
            continue
        for own in range(flight.first, flight.last):
            met, nx, ny = _meets_at(
                movers, body, mover, pose, own, shape, other_pose, other_x, other_y, ovx, ovy, t, min(limit, first),
                breaks_it or (flight.breaks_on >> shape.layer) & 1 != 0,
            )  # fmt: skip
            if met < first:
                first, which, best_nx, best_ny = met, index, nx, ny
    return first, which, best_nx, best_ny


@leaf
def _stand_of(
    movers: Any, world: Any, moving: Any, shape: Any, begin: float
) -> tuple[int, float, float, float, float]:  # fmt: skip
    """Return which pose, the place and the velocity of a shape at the begin of a tick; the last pose is what stays."""
    if shape.mover < 0:
        return movers.movers.shape[0], 0.0, 0.0, 0.0, 0.0
    other, pose = movers.movers[shape.mover], moving[shape.mover]
    if pose.t != begin and pose.here:
        pose_at(movers, world, moving, shape.mover, begin)
        # Its outlines are brought there before the body can meet them.
        pose.t = math.nan
    return shape.mover, other.x + pose.x, other.y + pose.y, pose.vx, pose.vy


@leaf
def _meets_at(
    movers: Any, body: Any, mover: Any, pose: Any, own: int, shape: Any, other_pose: Any, other_x: float,
    other_y: float, ovx: float, ovy: float, t: float, limit: float, breaks: bool,
) -> tuple[float, float, float]:  # fmt: skip
    """Return when one shape of what flies touches another one, infinite if it does not; steps of the gap at most."""
    one = movers.shapes[own]
    touching = TOUCHING * body.height
    reach = one.reach * pose.scale
    bound = math.sqrt((pose.fly_vx - ovx) ** 2 + (pose.fly_vy - ovy) ** 2) + abs(pose.fly_spin) * reach
    cosine, sine = pose.cosine, pose.sine
    now = t
    result = math.inf
    nx, ny = 0.0, 0.0
    for _ in range(MOST_STEPS):
        angle = pose.from_angle + pose.fly_spin * (now - pose.from_t)
        pose.cosine, pose.sine = math.cos(angle), math.sin(angle)
        x, y = _place(mover, pose, now)
        time = now - t
        gap, nx, ny = gap_between(
            movers.corners, one, pose, x, y, shape, other_pose, other_x + ovx * time, other_y + ovy * time
        )
        if gap < -SHALLOW * body.height and breaks:
            # It came to be in it.
            result = now
            break
        if gap <= touching:
            into = (pose.fly_vx - ovx) * nx + (pose.fly_vy - ovy) * ny
            # The side of a one-way piece turns with it.
            side_x = shape.side_x * other_pose.cosine - shape.side_y * other_pose.sine
            side_y = shape.side_x * other_pose.sine + shape.side_y * other_pose.cosine
            if into < 0.0 and is_on_side(nx, ny, side_x, side_y):
                result = now
            break
        if bound <= 0.0:
            break
        now += gap / bound
        if now > limit:
            break
    pose.cosine, pose.sine = cosine, sine
    return result, nx, ny


@leaf
def _touch(
    movers: Any, moving: Any, journal: Any, player: Any, row: int, shape_index: int, nx: float, ny: float,
    now: float,
) -> None:  # fmt: skip
    """Break on what is touched, break it, or bounce off it."""
    flight, shape = movers.flights[row], movers.shapes[shape_index]
    mover, pose = movers.movers[flight.mover], moving[flight.mover]
    is_new = shape.piece != pose.touches
    pose.touches = shape.piece
    ovx, ovy = 0.0, 0.0
    if shape.mover >= 0:
        ovx, ovy = moving[shape.mover].vx, moving[shape.mover].vy
        other = movers.movers[shape.mover].flight
        if other >= 0 and is_new:
            if (movers.flights[other].breaks_on >> flight.layer) & 1:
                hit(movers, moving, journal, player, other, mover.piece, now)
    if is_new and ((flight.breaks_on >> shape.layer) & 1):
        hit(movers, moving, journal, player, row, shape.piece, now)
    if pose.phase != GONE and ((flight.bounces_off >> shape.layer) & 1):
        _rebase(mover, pose, now)
        into = (pose.fly_vx - ovx) * nx + (pose.fly_vy - ovy) * ny
        if into < 0.0:
            pose.fly_vx -= (1.0 + flight.restitution) * into * nx
            pose.fly_vy -= (1.0 + flight.restitution) * into * ny
            x, y = mover.x + pose.from_x, mover.y + pose.from_y
            write_of(journal, player, TOUCHES, now, mover.piece, shape.piece, x, y, -into, 0.0)


@leaf
def hit(movers: Any, moving: Any, journal: Any, player: Any, row: int, what: int, now: float) -> None:
    """Count a hit of what breaks; after enough of them it is gone."""
    flight = movers.flights[row]
    pose = moving[flight.mover]
    pose.hits += 1
    if pose.hits >= flight.hits:
        vanish(movers, moving, journal, player, flight.mover, what, BROKE, now)


@leaf
def break_on_player(movers: Any, moving: Any, layer: int, player: Any, journal: Any, first: int) -> None:
    """Let what breaks on the player's layer be hit by each of its touches since an event."""
    if movers is None:
        return
    if movers.flights.shape[0] == 0:
        return
    last = min(journal.written[0], journal.rows.shape[0])
    for index in range(first, last):
        event = journal.rows[index]
        if event.who != THE_PLAYER or not (event.kind == TOUCHES or event.kind == ENTER):
            continue
        for row in range(movers.flights.shape[0]):
            flight = movers.flights[row]
            if movers.movers[flight.mover].piece == event.piece and (flight.breaks_on >> layer) & 1:
                if moving[flight.mover].phase != GONE:
                    hit(movers, moving, journal, player, row, MEETS_PLAYER, event.t)


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
            row.vx, row.vy, row.spin, row.scale = pose.vx, pose.vy, pose.spin, pose.scale
