"""From when to when two can be in touch at all: by circles and boxes about them, and by how fast they come nearer."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import TOUCHING
from haptos.engine.collision.poses import flown_to, stand_of
from haptos.engine.compiling.contract import leaf


@leaf
def approach_of(core: Any, movers: Any, moving: Any, row: int, other: int, t: float) -> tuple[float, float, float]:
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
def approach(core: Any, movers: Any, moving: Any, row: int, shape: Any, t: float) -> tuple[float, float, float]:
    """Return the same as `approach_of` for a piece and a shape of what stays, or is not free."""
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
def pass_by(one: Any, other: Any, t: float, near: float) -> bool:
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
def flying_speed(movers: Any, moving: Any, number: int) -> float:
    """Return how fast a mover, and what carries it, flies at most; how it turns is known from the start."""
    speed = 0.0
    while number >= 0:
        mover, pose = movers.movers[number], moving[number]
        if mover.flight >= 0:
            speed += math.sqrt(pose.fly_vx * pose.fly_vx + pose.fly_vy * pose.fly_vy)
            if mover.loose:
                # How a body turns is not.
                speed += abs(pose.fly_spin) * mover.radius
        number = mover.parent
    return speed
