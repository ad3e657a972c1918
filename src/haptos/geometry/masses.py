"""Area, centre and moment of inertia of shapes, in closed form [1]_.

References
----------
.. [1] A convex polygon is triangles about its first corner; a capsule is a box with half a disc at each end. Moments
   are put together by Steiner's theorem.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.geometry.placement import Placement

Floats = NDArray[np.float64]


class Matter(NamedTuple):
    """How much of a shape there is, where its centre is, and the moment about that of one unit of mass an area."""

    area: float
    x: float
    y: float
    moment: float


def matter_of(core: Floats, radius: float) -> Matter:
    """Return the matter of a convex core with a rounding.

    Parameters
    ----------
    core : (n, 2) ndarray
        Counter-clockwise; one corner is a disc, two are a capsule.
    radius : float

    Examples
    --------
    >>> import numpy as np
    >>> disc = matter_of(np.zeros((1, 2)), 2.0)
    >>> round(disc.moment / disc.area, 12)
    2.0
    >>> box = matter_of(np.array([[0.0, 0.0], [4.0, 0.0], [4.0, 2.0], [0.0, 2.0]]), 0.0)
    >>> box.area, box.x, round(box.moment / box.area, 12) == round(20 / 12, 12)
    (8.0, 2.0, True)
    """
    if len(core) == 1:
        area = math.pi * radius**2
        return Matter(area, float(core[0, 0]), float(core[0, 1]), 0.5 * area * radius**2)
    if len(core) == 2:
        return _capsule(core, radius)
    origin = core[0]
    sides = core[1:] - origin
    one, other = sides[:-1], sides[1:]
    doubled = one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]
    area = float(doubled.sum()) / 2
    middle = ((one + other) * doubled[:, None]).sum(axis=0) / (6 * area)
    squares = (one**2 + one * other + other**2).sum(axis=1)
    moment = float((doubled * squares).sum()) / 12 - area * float(middle @ middle)
    x, y = origin + middle
    return Matter(area, float(x), float(y), moment)


def _capsule(core: Floats, radius: float) -> Matter:
    length = float(np.hypot(*(core[1] - core[0])))
    x, y = core.mean(axis=0)
    box, ends = 2 * length * radius, math.pi * radius**2
    # A half disc's centre is 4 r / 3 π from its flat side.
    out = 4 * radius / (3 * math.pi)
    moment = box * (length**2 + 4 * radius**2) / 12
    moment += ends * (radius**2 / 2 - out**2 + (length / 2 + out) ** 2)
    return Matter(box + ends, float(x), float(y), moment)


def matter_of_shapes(shapes: Placement, which: NDArray[np.int64]) -> Matter:
    """Return the matter of several shapes together; what overlaps counts twice."""
    parts = [matter_of(shapes.corners(int(index)), float(shapes.radius[index])) for index in which]
    area = sum(part.area for part in parts)
    if not area > 0.0:
        # Lines have none, and so no middle.
        return Matter(0.0, 0.0, 0.0, 0.0)
    x = sum(part.area * part.x for part in parts) / area
    y = sum(part.area * part.y for part in parts) / area
    moment = sum(part.moment + part.area * ((part.x - x) ** 2 + (part.y - y) ** 2) for part in parts)
    return Matter(area, x, y, moment)
