"""When what flies can next meet something: it is looked out for once, and again only when that time has come.

Of two things that fly straight on and do not turn, or one that does and one that stays, the gap is a convex function
of the time, so that Newton's method comes to the first touch from below, or finds that there is none [1]_. Of the
others it is known only how fast they can come nearer.

References
----------
.. [1] For convex bodies A and B, the distance of A + t v and B is the distance of a point on a line to the convex set
   B - A, whose slope is n . v, n being the normal at which they are nearest.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.advancement import first_within
from haptos.engine.collision.impact import SHALLOW, TOUCHING, is_on_side
from haptos.engine.collision.poses import flown_to, is_carried_by, is_there, point_velocity, stand_of
from haptos.engine.collision.separation import gap_between
from haptos.engine.compiling.contract import leaf
from haptos.engine.pieces.neighbours import MOST_CELLS, NONE, enter_cells, leave_cells
from haptos.engine.records.codes import CHANGES, EVERY_TICK, GONE, UNTOLD

# Of a tick, the shortest step toward what a piece all but touches for long.
SHORTEST = 1e-5
# Steps of Newton's method; a polygon's gap is made of few straight pieces, a circle's is all but straight near the end.
MOST_STEPS = 64


@leaf
def look_out(
    core: Any, movers: Any, moving: Any, due: Any, row: int, t: float, limit: float, end: float
) -> tuple[float, int, float, float, float]:
    """Return when a piece first touches a shape by a time, which, and the normal there; and when to look out again.

    Others that may meet it are to look out for that, too.
    """
    flight = movers.flights[row]
    pose = moving[flight.mover]
    meets = flight.breaks_on | flight.bounces_off
    met, which, met_nx, met_ny, again = math.inf, -1, 0.0, 0.0, math.inf
    if flight.hangs:
        again = end
    if flight.free:
        again = enter_cells(movers, row, t)
        for place in range(MOST_CELLS * row, MOST_CELLS * (row + 1)):
            if movers.links[place].list == NONE:
                break
            node = movers.heads[movers.links[place].list]
            while node != NONE:
                other = node // MOST_CELLS
                node = movers.links[node].after
                now, index, nx, ny, later = _meets(
                    core, movers, moving, due, row, other, t, limit, end, min(again, met)
                )
                again = min(again, later)
                if now < met:
                    met, which, met_nx, met_ny = now, index, nx, ny
    else:
        for other in range(movers.flying.shape[0]):
            now, index, nx, ny, later = _meets(core, movers, moving, due, row, other, t, limit, end, min(again, met))
            again = min(again, later)
            if now < met:
                met, which, met_nx, met_ny = now, index, nx, ny
    for place in range(movers.others.shape[0]):
        index = movers.others[place]
        shape = movers.shapes[index]
        breaks = ((shape.breaks_on >> flight.layer) | (meets >> shape.layer)) & 1
        if breaks | ((shape.bounces_off >> flight.layer) & 1) == 0 or shape.mover == flight.mover:
            continue
        other = movers.movers[shape.mover].flight if shape.mover >= 0 else -1
        if shape.mover >= 0:
            if (other >= 0 and moving[shape.mover].phase == GONE) or _rests_on(movers, pose, flight.mover, shape.mover):
                continue
        begins, ends, speed = _approach(core, movers, moving, row, shape, t)
        if other >= 0:
            bring_forward(movers, moving, due, other, begins, end)
        if begins >= min(again, met) or not breaks:
            continue
        now, nx, ny, later = _touches(
            core, movers, moving, row, index, begins, ends, speed, t, limit, end, min(again, met)
        )
        again = min(again, later)
        if now < met:
            met, which, met_nx, met_ny = now, index, nx, ny
    return met, which, met_nx, met_ny, again


@leaf
def _meets(
    core: Any, movers: Any, moving: Any, due: Any, row: int, other: int, t: float, limit: float, end: float,
    horizon: float,
) -> tuple[float, int, float, float, float]:  # fmt: skip
    """Return when a piece touches one that is free to fly, its shape, the normal; and when to look out for it again."""
    # More than ten arguments: one pair, and four times between which it matters.
    flight, its = movers.flights[row], movers.flying[other]
    met, which, met_nx, met_ny, again = math.inf, -1, 0.0, 0.0, math.inf
    own, meets = 1 << flight.layer, flight.breaks_on | flight.bounces_off
    if ((its.layer & meets) | (its.meets & own)) == 0 or other == row:
        return met, which, met_nx, met_ny, again
    if flight.free and _pass_by(movers.flying[row], its, t, TOUCHING * core.body.height):
        return met, which, met_nx, met_ny, again
    begins, ends, speed = _approach_of(core, movers, moving, row, other, t)
    bring_forward(movers, moving, due, other, begins, end)
    if begins >= horizon or (its.layer & meets) | (movers.flights[other].breaks_on & own) == 0:
        return met, which, met_nx, met_ny, again
    for index in range(movers.flights[other].first, movers.flights[other].last):
        now, nx, ny, later = _touches(
            core, movers, moving, row, index, begins, ends, speed, t, limit, end, min(horizon, min(again, met))
        )
        again = min(again, later)
        if now < met:
            met, which, met_nx, met_ny = now, index, nx, ny
    return met, which, met_nx, met_ny, again


@leaf
def _touches(
    core: Any, movers: Any, moving: Any, row: int, index: int, begins: float, ends: float, speed: float, t: float,
    limit: float, end: float, horizon: float,
) -> tuple[float, float, float, float]:  # fmt: skip
    """Return when a piece touches a shape by a time limit, and the normal there; and when to look out for it again."""
    # More than ten arguments: one pair, and four times between which it matters.
    flight, shape = movers.flights[row], movers.shapes[index]
    pose = moving[flight.mover]
    if shape.piece == pose.touches and not (flight.bounces_off >> shape.layer) & 1:
        return math.inf, 0.0, 0.0, math.inf
    is_straight = _is_straight(movers, moving, flight.mover) and (
        shape.mover < 0 or _is_straight(movers, moving, shape.mover)
    )
    if not is_straight and begins > limit:
        return math.inf, 0.0, 0.0, begins
    if shape.mover >= 0:
        if not is_there(moving[shape.mover]):
            return math.inf, 0.0, 0.0, max(begins, end)
    breaks = ((shape.breaks_on >> flight.layer) | (flight.breaks_on >> shape.layer)) & 1 != 0
    first, first_nx, first_ny = math.inf, 0.0, 0.0
    for own in range(flight.first, flight.last):
        until = min(horizon, first)
        if is_straight:
            now, nx, ny = _meets_straight(
                core, movers, moving, flight.mover, own, shape, max(t, begins), min(ends, until), breaks
            )
        else:
            now, nx, ny = _meets_at(core, movers, moving, row, own, shape, speed, t, min(limit, until), breaks)
        if now < first:
            first, first_nx, first_ny = now, nx, ny
    if first <= limit:
        return first, first_nx, first_ny, math.inf
    return math.inf, 0.0, 0.0, first if is_straight else end


@leaf
def bring_forward(movers: Any, moving: Any, due: Any, row: int, when: float, end: float) -> None:
    """Let a piece look out by a time; if that is in this tick, it is among those that do."""
    flying = movers.flying[row]
    flying.next = min(flying.next, when)
    if flying.next <= end:
        pose = moving[flying.mover]
        if not pose.listed:
            pose.listed = 1
            due[0] += 1
            due[due[0]] = row


@leaf
def stir(movers: Any, moving: Any, number: int) -> None:
    """Let what flies another way from now on look out anew, and all that may meet what it carries."""
    row = movers.movers[number].flight
    if row < 0:
        return
    note_flight(movers, moving, row)
    if movers.flights[row].carries:
        for other in range(movers.flights.shape[0]):
            if movers.flying[other].next < math.inf:
                movers.flying[other].next = -math.inf


@leaf
def note_flight(movers: Any, moving: Any, row: int) -> None:
    """Write as what a piece flies, for the others, and let it look out; what is not there needs not."""
    flight, flying = movers.flights[row], movers.flying[row]
    mover, pose = movers.movers[flight.mover], moving[flight.mover]
    there = is_there(pose) and not mover.still
    was_there = flying.layer != 0
    flying.next = -math.inf if there else math.inf
    flying.layer, flying.meets, flying.room = 0, 0, -math.inf
    flying.tell = UNTOLD
    if was_there and not there:
        leave_cells(movers, row)
    if not flight.free:
        if flight.flies and there:
            flying.tell = EVERY_TICK
        return
    if flight.flies and (there or was_there):
        flying.tell = CHANGES
    if not there:
        return
    flying.x = mover.x + pose.from_x - pose.from_t * pose.fly_vx
    flying.y = mover.y + pose.from_y - pose.from_t * pose.fly_vy
    flying.vx, flying.vy = pose.fly_vx, pose.fly_vy
    flying.reach, flying.room = flight.radius * pose.scale, mover.radius * max(pose.scale, 1.0)
    flying.layer, flying.meets = 1 << flight.layer, flight.breaks_on | flight.bounces_off


@leaf
def heed_player(core: Any, movers: Any, moving: Any, due: Any, begin: float, end: float) -> None:
    """Let pieces look out for what hangs on the player, whose way is not known for longer than a tick."""
    for index in range(movers.shapes.shape[0]):
        shape = movers.shapes[index]
        if not shape.hangs:
            continue
        stand, x, y = stand_of(movers, core.world, moving, shape.mover, begin)
        speed = shape.pace + flying_speed(movers, moving, shape.mover)
        for row in range(movers.flights.shape[0]):
            flight = movers.flights[row]
            pose = moving[flight.mover]
            if pose.phase == GONE or flight.mover == shape.mover:
                continue
            near = flight.radius * pose.scale + shape.reach * moving[stand].scale + core.body.height * TOUCHING
            near += (end - begin) * (speed + flight.pace + flying_speed(movers, moving, flight.mover))
            own_x, own_y = flown_to(movers, core.world, moving, flight.mover, begin)
            if (own_x - x) ** 2 + (own_y - y) ** 2 <= near * near:
                bring_forward(movers, moving, due, row, begin, end)


@leaf
def _is_straight(movers: Any, moving: Any, number: int) -> bool:
    """Whether a mover flies straight on without turning, and nothing else moves it."""
    row = movers.movers[number].flight
    if row < 0:
        return False
    return movers.flights[row].free != 0 and moving[number].fly_spin == 0.0


@leaf
def _rests_on(movers: Any, pose: Any, number: int, other: int) -> bool:
    """Whether a piece that does not fly is carried by another one, and so never comes to touch it."""
    flies = pose.fly_vx != 0.0 or pose.fly_vy != 0.0 or pose.fly_spin != 0.0
    return not flies and is_carried_by(movers, number, other)


@leaf
def _approach_of(core: Any, movers: Any, moving: Any, row: int, other: int, t: float) -> tuple[float, float, float]:
    """Return from when to when a piece and one that is free can be in touch, and how fast they come nearer at most."""
    flight, its = movers.flights[row], movers.flying[other]
    near, pace = its.reach + core.body.height * TOUCHING, flight.pace + movers.flights[other].pace
    if flight.free:
        own = movers.flying[row]
        vx, vy = own.vx - its.vx, own.vy - its.vy
        begins, ends = _in_circle(own.x - its.x + t * vx, own.y - its.y + t * vy, vx, vy, near + own.reach)
        return t + begins, t + ends, pace + math.sqrt(vx * vx + vy * vy)
    x, y = flown_to(movers, core.world, moving, flight.mover, t)
    near += flight.radius * moving[flight.mover].scale
    pace += flying_speed(movers, moving, flight.mover) + math.sqrt(its.vx * its.vx + its.vy * its.vy)
    return _at_most(t, x - its.x - t * its.vx, y - its.y - t * its.vy, near, pace)


@leaf
def _approach(core: Any, movers: Any, moving: Any, row: int, shape: Any, t: float) -> tuple[float, float, float]:
    """Return the same for a piece and a shape of what stays, or is not free."""
    flight = movers.flights[row]
    near = flight.radius * moving[flight.mover].scale + core.body.height * TOUCHING
    speed = flight.pace + flying_speed(movers, moving, flight.mover)
    if flight.free and shape.mover < 0:
        own = movers.flying[row]
        begins, ends = _between(own.x + t * own.vx, own.vx, shape.x0 - near, shape.x1 + near)
        low, high = _between(own.y + t * own.vy, own.vy, shape.y0 - near, shape.y1 + near)
        begins, ends = max(max(begins, low), 0.0), min(ends, high)
        return (t + begins, t + ends, speed) if begins <= ends else (math.inf, math.inf, speed)
    own_x, own_y = flown_to(movers, core.world, moving, flight.mover, t)
    stand, x, y = stand_of(movers, core.world, moving, shape.mover, t)
    if shape.mover < 0:
        x, y = shape.x, shape.y
    speed += shape.pace + flying_speed(movers, moving, shape.mover)
    return _at_most(t, own_x - x, own_y - y, near + shape.reach * moving[stand].scale, speed)


@leaf
def _at_most(t: float, dx: float, dy: float, near: float, speed: float) -> tuple[float, float, float]:
    """Return from when on two that are so far apart can be nearer, at a speed that they do not exceed."""
    gap = math.sqrt(dx * dx + dy * dy) - near
    if gap <= 0.0:
        return t, math.inf, speed
    return (t + gap / speed if speed > 0.0 else math.inf), math.inf, speed


@leaf
def _between(x: float, v: float, low: float, high: float) -> tuple[float, float]:
    """Return from when to when x + v t lies between two bounds; a time that begins after it ends means never."""
    if v == 0.0:
        return (-math.inf, math.inf) if low <= x <= high else (math.inf, -math.inf)
    one, other = (low - x) / v, (high - x) / v
    return min(one, other), max(one, other)


@leaf
def _pass_by(one: Any, other: Any, t: float, near: float) -> bool:
    """Whether the circles about two that fly straight on never meet from a time on, as most do not."""
    vx, vy = one.vx - other.vx, one.vy - other.vy
    x, y = one.x - other.x + t * vx, one.y - other.y + t * vy
    near += one.reach + other.reach
    inward = max(-(x * vx + y * vy), 0.0)
    # One test, nearly always with the same outcome, is much quicker than two that nobody can foresee.
    return inward * inward < (x * x + y * y - near * near) * (vx * vx + vy * vy)


@leaf
def _in_circle(x: float, y: float, vx: float, vy: float, radius: float) -> tuple[float, float]:
    """Return from when, now at the earliest, to when a point that goes straight is in a circle about the origin."""
    square, inward = vx * vx + vy * vy, -(x * vx + y * vy)
    over = x * x + y * y - radius * radius
    if square == 0.0:
        return (0.0, 0.0) if over <= 0.0 else (math.inf, math.inf)
    root = inward * inward - square * over
    if root < 0.0 or (inward < 0.0 and over > 0.0):
        return math.inf, math.inf
    root = math.sqrt(root)
    # The form without cancellation where it comes from outside.
    begins = over / (inward + root) if over > 0.0 else 0.0
    return begins, (inward + root) / square


@leaf
def _meets_straight(
    core: Any, movers: Any, moving: Any, number: int, own: int, shape: Any, t: float, limit: float, breaks: bool
) -> tuple[float, float, float]:
    """Return when a shape of what flies straight on touches another one that does, or stays, and the normal there."""
    near = TOUCHING * core.body.height
    one, pose, world = movers.shapes[own], moving[number], core.world
    t = max(t, pose.from_t)
    if shape.mover >= 0:
        # Before that it was not there, or flew another way.
        t = max(t, moving[shape.mover].from_t)
    for _ in range(MOST_STEPS):
        if t > limit:
            return math.inf, 0.0, 0.0
        x, y = flown_to(movers, world, moving, number, t)
        other_x, other_y, vx, vy, stand = 0.0, 0.0, pose.fly_vx, pose.fly_vy, movers.movers.shape[0]
        if shape.mover >= 0:
            stand = shape.mover
            other_x, other_y = flown_to(movers, world, moving, stand, t)
            vx, vy = vx - moving[stand].fly_vx, vy - moving[stand].fly_vy
        gap, nx, ny = gap_between(movers.corners, one, pose, x, y, shape, moving[stand], other_x, other_y)
        speed = vx * nx + vy * ny
        if gap <= near:
            if gap < -SHALLOW * core.body.height and breaks:
                # It came to be in it.
                return t, nx, ny
            if speed < 0.0 and _is_on_side(shape, moving[stand], nx, ny):
                return t, nx, ny
            return math.inf, nx, ny
        if speed >= 0.0:
            return math.inf, nx, ny
        t += (gap - 0.5 * near) / -speed
    return t, 0.0, 0.0


@leaf
def _is_on_side(shape: Any, pose: Any, nx: float, ny: float) -> bool:
    """Whether a shape is touched on its side, which turns with it."""
    side_x = shape.side_x * pose.cosine - shape.side_y * pose.sine
    side_y = shape.side_x * pose.sine + shape.side_y * pose.cosine
    return is_on_side(nx, ny, side_x, side_y)


@leaf
def _meets_at(
    core: Any, movers: Any, moving: Any, row: int, own: int, shape: Any, pace: float, t: float, limit: float,
    breaks: bool,
) -> tuple[float, float, float]:  # fmt: skip
    """Return when one shape of what flies touches another one, infinite if it does not, and the normal there."""
    # More than ten arguments: two shapes, and the stretch of time in which they may meet.
    world, one, flight = core.world, movers.shapes[own], movers.flights[row]
    pose = moving[flight.mover]
    touching, reach = TOUCHING * core.body.height, flight.radius * pose.scale
    scene = (movers, world, moving, flight.mover, one, shape)
    now = first_within(_gap_between_at, scene, pace, touching, t, limit, SHORTEST * world.dt)
    if now == math.inf:
        return math.inf, 0.0, 0.0
    _, x, y = stand_of(movers, world, moving, flight.mover, now)
    stand, other_x, other_y = stand_of(movers, world, moving, shape.mover, now)
    gap, nx, ny = gap_between(movers.corners, one, pose, x, y, shape, moving[stand], other_x, other_y)
    if gap < -SHALLOW * core.body.height and breaks:
        # It came to be in it.
        return now, nx, ny
    ovx, ovy = velocity_of(movers, moving, shape.mover, x - reach * nx, y - reach * ny)
    into = (pose.vx - ovx) * nx + (pose.vy - ovy) * ny
    if into < 0.0 and _is_on_side(shape, moving[stand], nx, ny):
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
def velocity_of(movers: Any, moving: Any, number: int, x: float, y: float) -> tuple[float, float]:
    """Return the velocity of a mover at a point; none of what stays."""
    if number < 0:
        return 0.0, 0.0
    return point_velocity(movers.movers[number], moving[number], x, y)


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
