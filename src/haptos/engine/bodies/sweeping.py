"""When two that move on, and turn, first touch within a time: it is stepped to, as far as their gap allows."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.advancement import first_within
from haptos.engine.collision.separation import gap_between
from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import leaf

# Touching is nearer than this share of a body's size.
TOUCHING = 2e-4
# The shortest step, as a share of the time that is looked through.
SHORTEST = 1e-4


@leaf
def first_touch_in(
    stirred: Any, first_shape: int, first: int, second_shape: int, second: int, begin: float, time: float
) -> float:
    """Return when two shapes first touch, from a time on, with their bodies as they fly; infinite if they don't.

    The two spare rows behind all that take part are left where both are then.
    """
    a, b = stirred.partakers[first], stirred.partakers[second]
    spare = stirred.partakers.shape[0] - 2
    pace = math.sqrt(square(b.vx - a.vx) + square(b.vy - a.vy)) + abs(a.spin) * a.reach + abs(b.spin) * b.reach
    pace += time * math.sqrt(square(b.ax - a.ax) + square(b.ay - a.ay))
    if not pace > 0.0:
        return math.inf
    near = TOUCHING * min(a.size, b.size)
    scene = (stirred, first_shape, first, second_shape, second, spare)
    met = first_within(_gap_at, scene, pace, near, begin, time, SHORTEST * time)
    if met < math.inf:
        _gap_at(scene, met)
    return met


@leaf
def _gap_at(scene: Any, t: float) -> float:
    """Return the gap between two shapes after a time, and leave the spare rows where they are then."""
    stirred, first_shape, first, second_shape, second, spare = scene
    fly(stirred.partakers[first], stirred.partakers[spare], t)
    fly(stirred.partakers[second], stirred.partakers[spare + 1], t)
    a, b = stirred.partakers[spare], stirred.partakers[spare + 1]
    shapes = stirred.loose.shapes
    gap, _, _ = gap_between(
        stirred.movers.corners, shapes[first_shape], a, a.place_x, a.place_y, shapes[second_shape], b, b.place_x,
        b.place_y,
    )  # fmt: skip
    return gap


@leaf
def fly(row: Any, there: Any, t: float) -> None:
    """Write where one that takes part is after a time, if nothing meets it, into another row."""
    there.x = row.x + t * (row.vx + 0.5 * t * row.ax)
    there.y = row.y + t * (row.vy + 0.5 * t * row.ay)
    there.angle = row.angle + t * row.spin
    there.centre_x, there.centre_y, there.scale = row.centre_x, row.centre_y, row.scale
    there.size, there.reach = row.size, row.reach
    turn(there)


@leaf
def turn(row: Any) -> None:
    """Write how one that takes part stands by its angle, and where its shapes are placed."""
    row.cosine, row.sine = math.cos(row.angle), math.sin(row.angle)
    row.place_x = row.x - row.scale * (row.centre_x * row.cosine - row.centre_y * row.sine)
    row.place_y = row.y - row.scale * (row.centre_x * row.sine + row.centre_y * row.cosine)
