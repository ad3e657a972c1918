"""How far two convex shapes are apart, and which way [1]_.

References
----------
.. [1] C. Ericson, "Real-Time Collision Detection", Morgan Kaufmann (2005), chapter 5: separating axes where cores
   overlap, the nearest corner and side where they don't.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import leaf


@leaf
def corner_at(corners: Any, index: int, pose: Any, x: float, y: float) -> tuple[float, float]:
    """Return a corner of a core in the world: scaled and turned by a pose, about a place."""
    here = corners[index]
    dx, dy = pose.scale * here.x, pose.scale * here.y
    return x + dx * pose.cosine - dy * pose.sine, y + dx * pose.sine + dy * pose.cosine


@leaf
def gap_between(
    corners: Any, one: Any, pose: Any, x: float, y: float, other: Any, other_pose: Any, other_x: float, other_y: float
) -> tuple[float, float, float]:
    """Return the gap between two shapes, below zero where they overlap, and the normal toward the first of them."""
    near, nx, ny, deep, deep_x, deep_y = _against_sides(corners, one, pose, x, y, other, other_pose, other_x, other_y)
    near_too, mx, my, deep_too, deep_mx, deep_my = _against_sides(
        corners, other, other_pose, other_x, other_y, one, pose, x, y
    )
    if near_too < near:
        near, nx, ny = near_too, -mx, -my
    if deep_too > deep:
        deep, deep_x, deep_y = deep_too, -deep_mx, -deep_my
    radii = one.radius * pose.scale + other.radius * other_pose.scale
    if -math.inf < deep <= 0.0:
        return deep - radii, deep_x, deep_y
    return near - radii, nx, ny


@leaf
def _against_sides(
    corners: Any, one: Any, pose: Any, x: float, y: float, other: Any, other_pose: Any, other_x: float, other_y: float
) -> tuple[float, float, float, float, float, float]:
    """Return the nearest distance of one core's corners to the other's sides, and the deepest axis of the other's."""
    best, nx, ny = math.inf, 0.0, 0.0
    deepest, depth_x, depth_y = -math.inf, 0.0, 0.0
    for side in range(other.count):
        ax, ay = corner_at(corners, other.first + side, other_pose, other_x, other_y)
        bx, by = corner_at(corners, other.first + (side + 1) % other.count, other_pose, other_x, other_y)
        tx, ty = bx - ax, by - ay
        length = math.sqrt(tx * tx + ty * ty)
        if length > 0.0:
            tx, ty = tx / length, ty / length
        lowest = math.inf
        for index in range(one.count):
            cx, cy = corner_at(corners, one.first + index, pose, x, y)
            dx, dy = cx - ax, cy - ay
            along = min(max(dx * tx + dy * ty, 0.0), length)
            ex, ey = dx - along * tx, dy - along * ty
            distance = math.sqrt(ex * ex + ey * ey)
            if 0.0 < distance < best:
                best, nx, ny = distance, ex / distance, ey / distance
            lowest = min(lowest, dx * ty - dy * tx)
        if length > 0.0 and lowest > deepest:
            deepest, depth_x, depth_y = lowest, ty, -tx
    return best, nx, ny, deepest, depth_x, depth_y


@leaf
def distance_to_line(x: float, y: float, x0: float, y0: float, x1: float, y1: float) -> float:
    """Return how far a place is from a line between two places."""
    dx, dy = x1 - x0, y1 - y0
    square = dx * dx + dy * dy
    along = min(max(((x - x0) * dx + (y - y0) * dy) / square, 0.0), 1.0) if square > 0.0 else 0.0
    ex, ey = x - x0 - along * dx, y - y0 - along * dy
    return math.sqrt(ex * ex + ey * ey)


@leaf
def distance_to(corners: Any, shape: Any, pose: Any, x: float, y: float, px: float, py: float) -> float:
    """Return how far a shape, posed at (x, y), is from a point; below zero inside of it."""
    nearest, deepest = math.inf, -math.inf
    for side in range(shape.count):
        ax, ay = corner_at(corners, shape.first + side, pose, x, y)
        bx, by = corner_at(corners, shape.first + (side + 1) % shape.count, pose, x, y)
        nearest = min(nearest, distance_to_line(px, py, ax, ay, bx, by))
        length = math.sqrt((bx - ax) * (bx - ax) + (by - ay) * (by - ay))
        if length > 0.0:
            deepest = max(deepest, ((px - ax) * (by - ay) - (py - ay) * (bx - ax)) / length)
    if shape.count > 2 and deepest <= 0.0:
        nearest = deepest
    return nearest - shape.radius * pose.scale
