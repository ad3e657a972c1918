"""Outlines as Shapely polygons, for pictures and for the study of free space."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from haptos.geometry.outlines import Body, Outlines
from haptos.geometry.placement import Placement

# Segments of a quarter circle: a chord then misses the arc by 0.03 % of the radius.
QUARTER = 32


def shape_polygons(placement: Placement) -> list[Any]:
    """Return the shapes of a placement as polygons; a line's segment has no area."""
    return [_rounded(placement.corners(index), float(radius)) for index, radius in enumerate(placement.radius)]


def outline_polygons(outlines: Outlines, shrink: float = 0.0) -> list[Any]:
    """Return grown outlines as polygons.

    Parameters
    ----------
    outlines : Outlines
    shrink : float
        How much smaller they are made on every side.
    """
    polygons = []
    for first, count, radius in zip(outlines.first, outlines.sides, outlines.radius, strict=True):
        points = outlines.faces[first : first + count, :2]
        if radius > shrink:
            polygons.append(_rounded(points, float(radius - shrink)))
        else:
            polygons.append(_rounded(points, 0.0).buffer(radius - shrink, join_style="mitre"))
    return polygons


def body_polygon(body: Body, x: float = 0.0, y: float = 0.0, quarter: int = QUARTER) -> Any:
    """Return the body at a place as a polygon, each quarter circle in so many straight pieces."""
    return _rounded(body.corners + np.array([x, y]), body.radius, quarter)


def _rounded(points: Any, radius: float, quarter: int = QUARTER) -> Any:
    core = shapely.MultiPoint(points).convex_hull
    return core.buffer(radius, quad_segs=quarter) if radius > 0 else core
