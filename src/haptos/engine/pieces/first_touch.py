"""When two shapes first touch.

Of two things that fly straight on and do not turn, or one that does and one that stays, the gap is a convex function
of the time, so that Newton's method comes to the first touch from below, or finds that there is none [1]_. Of the
others it is known only how fast they can come nearer: they are stepped to.

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
from haptos.engine.collision.poses import flown_to, point_velocity, stand_of
from haptos.engine.collision.separation import gap_between
from haptos.engine.compiling.contract import leaf

# Of a tick, the shortest step toward what a piece all but touches for long.
SHORTEST = 1e-5
# Steps of Newton's method; a polygon's gap is made of few straight pieces, a circle's is all but straight near the end.
MOST_STEPS = 64


@leaf
def flies_straight(movers: Any, moving: Any, number: int) -> bool:
    """Whether a mover flies straight on without turning, and nothing else moves it."""
    row = movers.movers[number].flight
    if row < 0:
        return False
    return movers.flights[row].free != 0 and moving[number].fly_spin == 0.0


@leaf
def meets_straight(
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
def meets_at(
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
