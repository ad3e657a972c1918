"""Sides of shapes that lie all along other shapes: joints of tiles and boxes, which nothing can touch."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from haptos.geometry.placement import Placement

# Just outside of a side, as a share of its length, there is another shape all along, but for so much of its ends.
OUTSIDE, ENDS = 1e-6, 1e-6


def covered_sides(shapes: Placement, which: NDArray[np.int64], hides: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Return for each corner of a placement whether the side that begins there lies all along other shapes.

    Parameters
    ----------
    shapes : Placement
    which : (k,) ndarray
        The shapes that are looked at: sharp ones, that never move as seen from one another.
    hides : (k, k) or broadcastable ndarray of bool
        Which of them hides which: `hides[i, j]` says that j can hide a side of i.
    """
    from shapely import STRtree
    from shapely.geometry import LineString, Polygon
    from shapely.ops import unary_union

    covered = np.zeros(len(shapes.points), dtype=np.int64)
    outlines = [Polygon(shapes.corners(int(index))) for index in which]
    tree = STRtree(outlines)
    for number, index in enumerate(which):
        corners = shapes.corners(int(index))
        size = float(np.ptp(corners, axis=0).max())
        near = [
            other
            for other in tree.query(outlines[number].buffer(OUTSIDE * size))
            if other != number and hides[number, other]
        ]
        if not near:
            continue
        around = unary_union([outlines[other] for other in near])
        for side in range(len(corners)):
            begin, end = corners[side], corners[(side + 1) % len(corners)]
            along = end - begin
            out = OUTSIDE * np.array([along[1], -along[0]])
            line = LineString([begin + ENDS * along + out, end - ENDS * along + out])
            if around.buffer(1e-9 * size).covers(line):
                covered[int(shapes.first[index]) + side] = 1
    return covered
