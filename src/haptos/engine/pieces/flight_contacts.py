"""What flies and meets something: it breaks, or bounces off, at the time at which it first touches it."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.advancement import first_within
from haptos.engine.collision.impact import SHALLOW, TOUCHING, is_on_side
from haptos.engine.collision.poses import is_carried_by, is_there, point_velocity, pose_at, stand_of
from haptos.engine.collision.separation import gap_between
from haptos.engine.compiling.contract import leaf
from haptos.engine.pieces.spawning import flown_to, vanish
from haptos.engine.records.codes import GONE, MEETS_PLAYER, THE_PLAYER
from haptos.engine.records.events import BROKE, ENTER, TOUCHES
from haptos.engine.records.journal import write_of

# Of a tick, the shortest step toward what a piece all but touches for long.
SHORTEST = 1e-5


@leaf
def first_touch(
    movers: Any, world: Any, body: Any, moving: Any, row: int, t: float, limit: float
) -> tuple[float, int, float, float]:
    """Return when a piece first touches a shape that it breaks on or bounces off, which, and the normal there."""
    flight = movers.flights[row]
    number = flight.mover
    pose = moving[number]
    first, which, best_nx, best_ny = math.inf, -1, 0.0, 0.0
    meets = flight.breaks_on | flight.bounces_off
    x, y = flown_to(movers, world, moving, number, t)
    own_pace = flight.pace + flying_speed(movers, moving, number)
    for index in range(movers.shapes.shape[0]):
        shape = movers.shapes[index]
        breaks_it = ((shape.breaks_on >> flight.layer) & 1) != 0
        if not (breaks_it or ((meets >> shape.layer) & 1) != 0) or shape.mover == number:
            continue
        if shape.piece == pose.touches and not ((flight.bounces_off >> shape.layer) & 1):
            continue
        if _rests_on(movers, pose, number, shape.mover):
            continue
        if shape.mover >= 0:
            # What is free to be made costs no more than this.
            if not is_there(moving[shape.mover]):
                continue
        stand, other_x, other_y = stand_of(movers, world, moving, shape.mover, t)
        if not moving[stand].here:
            continue
        pace = own_pace + shape.pace + flying_speed(movers, moving, shape.mover)
        if shape.mover < 0:
            other_x, other_y = shape.x, shape.y
        near = flight.radius * pose.scale + shape.reach * moving[stand].scale + body.height * TOUCHING
        near += (limit - t) * pace
        if (x - other_x) ** 2 + (y - other_y) ** 2 > near * near:
            continue
        for own in range(flight.first, flight.last):
            met, nx, ny = _meets_at(
                movers,
                world,
                body,
                moving,
                row,
                own,
                shape,
                pace,
                t,
                min(limit, first),
                breaks_it or (flight.breaks_on >> shape.layer) & 1 != 0,
            )
            if met < first:
                first, which, best_nx, best_ny = met, index, nx, ny
    return first, which, best_nx, best_ny


@leaf
def _rests_on(movers: Any, pose: Any, number: int, other: int) -> bool:
    """Whether a piece that does not fly is carried by another one, and so never comes to touch it."""
    flies = pose.fly_vx != 0.0 or pose.fly_vy != 0.0 or pose.fly_spin != 0.0
    return not flies and is_carried_by(movers, number, other)


@leaf
def _velocity_of(movers: Any, moving: Any, number: int, x: float, y: float) -> tuple[float, float]:
    """Return the velocity of a mover at a point; none of what stays."""
    if number < 0:
        return 0.0, 0.0
    return point_velocity(movers.movers[number], moving[number], x, y)


@leaf
def _meets_at(
    movers: Any,
    world: Any,
    body: Any,
    moving: Any,
    row: int,
    own: int,
    shape: Any,
    pace: float,
    t: float,
    limit: float,
    breaks: bool,
) -> tuple[float, float, float]:
    """Return when one shape of what flies touches another one, infinite if it does not, and the normal there."""
    # More than ten arguments: two shapes, and the stretch of time in which they may meet.
    one, flight = movers.shapes[own], movers.flights[row]
    pose = moving[flight.mover]
    touching, reach = TOUCHING * body.height, flight.radius * pose.scale
    scene = (movers, world, moving, flight.mover, one, shape)
    now = first_within(_gap_between_at, scene, pace, touching, t, limit, SHORTEST * world.dt)
    if now == math.inf:
        return math.inf, 0.0, 0.0
    _, x, y = stand_of(movers, world, moving, flight.mover, now)
    stand, other_x, other_y = stand_of(movers, world, moving, shape.mover, now)
    other_pose = moving[stand]
    gap, nx, ny = gap_between(movers.corners, one, pose, x, y, shape, other_pose, other_x, other_y)
    if gap < -SHALLOW * body.height and breaks:
        # It came to be in it.
        return now, nx, ny
    ovx, ovy = _velocity_of(movers, moving, shape.mover, x - reach * nx, y - reach * ny)
    into = (pose.vx - ovx) * nx + (pose.vy - ovy) * ny
    # The side of a one-way piece turns with it.
    side_x = shape.side_x * other_pose.cosine - shape.side_y * other_pose.sine
    side_y = shape.side_x * other_pose.sine + shape.side_y * other_pose.cosine
    if into < 0.0 and is_on_side(nx, ny, side_x, side_y):
        return now, nx, ny
    return math.inf, nx, ny


@leaf
def _gap_between_at(scene: Any, t: float) -> float:
    """Return the gap between a shape of what flies and another one at a time."""
    movers, world, moving, number, one, shape = scene
    _, x, y = stand_of(movers, world, moving, number, t)
    stand, other_x, other_y = stand_of(movers, world, moving, shape.mover, t)
    gap, _, _ = gap_between(movers.corners, one, moving[number], x, y, shape, moving[stand], other_x, other_y)
    return gap


@leaf
def touch(
    movers: Any,
    world: Any,
    moving: Any,
    journal: Any,
    player: Any,
    row: int,
    shape_index: int,
    nx: float,
    ny: float,
    now: float,
) -> None:
    """Break on what is touched, break it, or bounce off it."""
    flight, shape = movers.flights[row], movers.shapes[shape_index]
    mover, pose = movers.movers[flight.mover], moving[flight.mover]
    is_new = shape.piece != pose.touches
    pose.touches = shape.piece
    if shape.mover >= 0:
        other = movers.movers[shape.mover].flight
        if other >= 0 and is_new:
            if (movers.flights[other].breaks_on >> flight.layer) & 1:
                hit(movers, world, moving, journal, player, other, mover.piece, now)
    if is_new and ((flight.breaks_on >> shape.layer) & 1):
        hit(movers, world, moving, journal, player, row, shape.piece, now)
    if pose.phase != GONE and ((flight.bounces_off >> shape.layer) & 1):
        _, x, y = stand_of(movers, world, moving, flight.mover, now)
        reach = flight.radius * pose.scale
        ovx, ovy = _velocity_of(movers, moving, shape.mover, x - reach * nx, y - reach * ny)
        into = (pose.vx - ovx) * nx + (pose.vy - ovy) * ny
        if into < 0.0:
            change = (1.0 + flight.restitution) * into
            kick_flight(movers, world, moving, flight.mover, -change * nx, -change * ny, now)
            write_of(journal, player, TOUCHES, now, mover.piece, shape.piece, x, y, -into, 0.0)


@leaf
def flying_speed(movers: Any, moving: Any, number: int) -> float:
    """Return how fast a mover, and what carries it, flies at most; how it turns is known from the start."""
    speed = 0.0
    while number >= 0:
        mover, pose = movers.movers[number], moving[number]
        if mover.flight >= 0:
            speed += math.sqrt(pose.fly_vx * pose.fly_vx + pose.fly_vy * pose.fly_vy)
        number = mover.parent
    return speed


@leaf
def rebase(pose: Any, t: float) -> None:
    """Let a flight be counted from a time."""
    time = max(t - pose.from_t, 0.0)
    pose.from_angle += pose.fly_spin * time
    pose.from_x += pose.fly_vx * time
    pose.from_y += pose.fly_vy * time
    pose.from_t = t
    # How fast it is may change now, so that its pose does not hold any more.
    pose.t = math.nan


@leaf
def kick_flight(movers: Any, world: Any, moving: Any, number: int, dvx: float, dvy: float, now: float) -> None:
    """Change the velocity of what flies, from a time on; what is carried flies as seen from its carrier."""
    carrier, pose = movers.movers[number].parent, moving[number]
    rebase(pose, now)
    if carrier >= 0:
        stand = moving[carrier]
        pose_at(movers, world, moving, carrier, now)
        # Its outlines are brought there before the body can meet them.
        stand.t = math.nan
        dvx, dvy = dvx * stand.cosine + dvy * stand.sine, dvy * stand.cosine - dvx * stand.sine
    pose.fly_vx += dvx
    pose.fly_vy += dvy


@leaf
def hit(movers: Any, world: Any, moving: Any, journal: Any, player: Any, row: int, what: int, now: float) -> None:
    """Count a hit of what breaks; after enough of them it is gone."""
    flight = movers.flights[row]
    pose = moving[flight.mover]
    pose.hits += 1
    if pose.hits >= flight.hits:
        vanish(movers, world, moving, journal, player, flight.mover, what, BROKE, now)


@leaf
def break_on_player(movers: Any, world: Any, moving: Any, player: Any, journal: Any, first: int) -> None:
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
            if movers.movers[flight.mover].piece == event.piece and (flight.breaks_on >> world.layer) & 1:
                if moving[flight.mover].phase != GONE:
                    hit(movers, world, moving, journal, player, row, MEETS_PLAYER, event.t)
