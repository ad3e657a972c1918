"""Shapes as convex cores with rounding: what every other step of the geometry works on."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from haptos.level.shapes import Shape, half_extents

Floats = NDArray[np.float64]

# Sines and cosines this small are those of a right angle: axis-parallel shapes stay exactly axis-parallel.
RIGHT_ANGLE = 1e-15
# A corner that turns inward by less than this share of its sides still counts as straight.
STRAIGHT = 1e-12


class Core(NamedTuple):
    """A convex core in its piece's frame: corners (k, 2), counter-clockwise, a radius, and whether it has one side.

    A line's segment has two corners, a circle one.
    """

    points: Floats
    radius: float
    from_left: bool = False


def convex_cores(shape: Shape) -> list[Core]:
    """Cut a shape into convex cores, before any turn.

    Parameters
    ----------
    shape : Shape

    Returns
    -------
    list of Core
        One for most shapes; the convex parts of a polygon; the segments of a line.

    Examples
    --------
    >>> [core.points.tolist() for core in convex_cores(Shape(line=[(0, 0), (8, 0), (8, 4)]))]
    [[[0.0, 0.0], [8.0, 0.0]], [[8.0, 0.0], [8.0, 4.0]]]
    """
    if shape.polygon is not None:
        return [Core(points, 0.0) for points in convex_polygons(np.array(shape.polygon, dtype=np.float64))]
    if shape.line is not None:
        points = np.array(shape.line, dtype=np.float64)
        return [Core(points[index : index + 2], 0.0, True) for index in range(len(points) - 1)]
    half_width, half_height, radius = half_extents(shape)
    return [Core(core_corners(half_width, half_height), radius)]


def core_corners(half_width: float, half_height: float, angle: float = 0.0) -> Floats:
    """Return the corners of a turned core box: four, two of a line, one of a point, counter-clockwise."""
    if half_width > 0 and half_height > 0:
        signs = np.array([[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]])
    elif half_width > 0 or half_height > 0:
        signs = np.array([[-1.0, -1.0], [1.0, 1.0]])
    else:
        signs = np.zeros((1, 2))
    return turned(signs * np.array([half_width, half_height]), angle)


def turned(points: Floats, angle: float) -> Floats:
    """Return points turned about the origin, counter-clockwise, radians; right angles exactly."""
    cosine, sine = np.cos(angle), np.sin(angle)
    cosine = 0.0 if abs(cosine) < RIGHT_ANGLE else cosine
    sine = 0.0 if abs(sine) < RIGHT_ANGLE else sine
    x, y = points[..., 0], points[..., 1]
    return np.stack((x * cosine - y * sine, x * sine + y * cosine), axis=-1)


def convex_polygons(points: Floats) -> list[Floats]:
    """Cut a simple polygon, which may touch itself, into convex ones, counter-clockwise.

    It is cut into triangles, and these are joined again while the result stays convex [1]_.

    References
    ----------
    .. [1] S. Hertel, K. Mehlhorn, "Fast triangulation of simple polygons", FCT 1983.
    """
    whole = shapely.Polygon(points)
    if not whole.is_valid:
        whole = shapely.make_valid(whole)
    parts: list[Floats] = []
    for simple in getattr(whole, "geoms", [whole]):
        if simple.geom_type != "Polygon" or simple.area == 0:
            continue
        ring = _counter_clockwise(simple)
        if not simple.interiors and _is_convex(ring):
            parts.append(_without_straight_corners(ring))
        else:
            parts += [_without_straight_corners(part) for part in _joined(_triangles(simple))]
    return parts


def _counter_clockwise(polygon: Any) -> Floats:
    return np.asarray(shapely.geometry.polygon.orient(polygon).exterior.coords)[:-1]


def _triangles(polygon: Any) -> list[Floats]:
    return [
        _counter_clockwise(triangle)
        for triangle in shapely.constrained_delaunay_triangles(polygon).geoms
        if triangle.area > 0
    ]


def _joined(parts: list[Floats]) -> list[Floats]:
    """Join neighbours along a shared side as long as the union stays convex."""
    index = 0
    while index < len(parts):
        for other in range(index + 1, len(parts)):
            union = _union_along_a_side(parts[index], parts[other])
            if union is not None and _is_convex(union):
                parts[index] = union
                del parts[other]
                break
        else:
            index += 1
    return parts


def _union_along_a_side(one: Floats, other: Floats) -> Floats | None:
    for i in range(len(one)):
        a, b = one[i], one[(i + 1) % len(one)]
        for j in range(len(other)):
            if np.array_equal(other[j], b) and np.array_equal(other[(j + 1) % len(other)], a):
                # Around `one` from b to a, then around `other` from a to b.
                first = np.roll(one, -(i + 1), axis=0)
                second = np.roll(other, -(j + 1), axis=0)
                return np.concatenate((first, second[1:-1]))
    return None


def _turns(points: Floats) -> Floats:
    """Return the cross product of the sides before and after each corner, as a share of their lengths."""
    before, after = points - np.roll(points, 1, axis=0), np.roll(points, -1, axis=0) - points
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    return np.asarray(cross / (np.hypot(*before.T) * np.hypot(*after.T)))


def _is_convex(points: Floats) -> bool:
    return bool(np.all(_turns(points) >= -STRAIGHT))


def _without_straight_corners(points: Floats) -> Floats:
    return points[_turns(points) > STRAIGHT]
