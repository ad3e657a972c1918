"""Where marks and labels go so that none covers another."""

from __future__ import annotations

import math
from collections.abc import Sequence

Box = tuple[float, float, float, float]

# Directions are tried upward first, then around; each in growing distance.
DIRECTIONS = tuple(math.radians(angle) for angle in (90, 50, 130, 20, 160, -90, -50, -130, -20, -160))
STEPS = 14


def spread(
    points: Sequence[tuple[float, float]], width: float, height: float, taken: list[Box], inside: Box
) -> list[tuple[float, float]]:
    """Return a centre for a label of each point, near it and clear of all others.

    Parameters
    ----------
    points : sequence of (x, y)
    width, height : size of a label
    taken : boxes (x0, y0, x1, y1) that stay free; the labels' own are added
    inside : box that labels stay in

    Returns
    -------
    list of (x, y)

    Examples
    --------
    >>> one, other = spread([(50, 50), (50, 50)], 10, 10, [], (0, 0, 100, 100))
    >>> abs(one[0] - other[0]) >= 10 or abs(one[1] - other[1]) >= 10
    True
    """
    return [_place(point, width, height, taken, inside) for point in points]


def _place(
    point: tuple[float, float], width: float, height: float, taken: list[Box], inside: Box
) -> tuple[float, float]:
    """Return a place that is free, or the point itself if there is none near."""
    found = _free(point, width, height, taken, inside, range(1, STEPS)) or point
    taken.append(_box(found, width, height))
    return found


def room_for(
    point: tuple[float, float], width: float, height: float, taken: list[Box], inside: Box, steps: int
) -> tuple[float, float] | None:
    """Return a centre for a label at a point or near it, clear of all others; None where there is no room.

    Examples
    --------
    >>> room_for((50, 50), 10, 10, [(0, 0, 100, 100)], (0, 0, 100, 100), 3) is None
    True
    """
    found = _free(point, width, height, taken, inside, range(steps))
    if found is not None:
        taken.append(_box(found, width, height))
    return found


def _free(
    point: tuple[float, float], width: float, height: float, taken: list[Box], inside: Box, steps: range
) -> tuple[float, float] | None:
    # A label that is much wider than high is moved by less than its width at a time.
    wide = min(width, 3.0 * height)
    for step in steps:
        for direction in DIRECTIONS:
            x = point[0] + math.cos(direction) * step * wide * 0.9
            y = point[1] + math.sin(direction) * step * height * 0.9
            box = _box((x, y), width, height)
            within = box[0] >= inside[0] and box[1] >= inside[1] and box[2] <= inside[2] and box[3] <= inside[3]
            if within and not any(_overlap(box, other) for other in taken):
                return (x, y)
            if step == 0:
                break
    return None


def _box(centre: tuple[float, float], width: float, height: float) -> Box:
    x, y = centre
    return (x - width / 2, y - height / 2, x + width / 2, y + height / 2)


def _overlap(one: Box, other: Box) -> bool:
    return one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3]
