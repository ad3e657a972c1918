"""Outlines grown by the body: where its centre may not go.

A body of any convex shape touches an obstacle exactly when its centre touches the Minkowski sum of the obstacle and the
mirrored body [1]_. With cores that are boxes, lines or points, the sum is a convex polygon, rounded by the sum of both
radii, so the simulation has to move a point alone.

References
----------
.. [1] T. Lozano-Pérez, "Spatial planning: a configuration space approach", IEEE Transactions on Computers C-32 (1983).
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.geometry.placement import Placement

Floats = NDArray[np.float64]

# Edges of both shapes that are parallel to within this angle (radians) become one face.
PARALLEL = 1e-9
# Sines and cosines this small are those of a right angle: axis-parallel shapes stay exactly axis-parallel.
RIGHT_ANGLE = 1e-15


class Body(NamedTuple):
    """The moving body: half extents of its core, its radius, and the turn of its own up from +y (radians)."""

    half_width: float = 0.0
    half_height: float = 0.0
    radius: float = 0.0
    angle: float = 0.0


class Outlines(NamedTuple):
    """Convex outlines: a polygon, counter-clockwise, and a radius around it.

    Attributes
    ----------
    piece : (n,) index of the piece
    first, sides : (n,) the polygon's faces within `faces`
    radius : (n,)
    box : (n, 4) x0, y0, x1, y1 with the radius
    faces : (m, 7) start x, y; direction x, y; length; outward normal x, y. A point is one face of no length.
    """

    piece: NDArray[np.int64]
    first: NDArray[np.int64]
    sides: NDArray[np.int64]
    radius: Floats
    box: Floats
    faces: Floats


def grow_outlines(placement: Placement, body: Body) -> Outlines:
    """Grow every shape of a placement by a body.

    Parameters
    ----------
    placement : Placement
    body : Body
        ``Body()`` is a point, which leaves the shapes as they are.

    Returns
    -------
    Outlines
        In the order of the placement.
    """
    total = len(placement.piece)
    wide, high = placement.half_width > 0, placement.half_height > 0
    counts = np.zeros(total, dtype=np.int64)
    group_faces: list[tuple[NDArray[np.int64], NDArray[np.int64], Floats]] = []
    for has_width, has_height in ((True, True), (True, False), (False, True), (False, False)):
        members = np.flatnonzero((wide == has_width) & (high == has_height))
        if len(members) == 0:
            continue
        owner, faces = _sum_group(placement, members, body)
        counts += np.bincount(owner, minlength=total)
        group_faces.append((owner, np.arange(len(owner)), faces))
    first = np.concatenate(([0], np.cumsum(counts)[:-1])) if total else np.zeros(0, dtype=np.int64)
    faces = np.zeros((int(counts.sum()), 7))
    for owner, _, rows in group_faces:
        begin = np.concatenate(([True], np.diff(owner) != 0))
        start = np.maximum.accumulate(np.where(begin, np.arange(len(owner)), 0))
        faces[first[owner] + np.arange(len(owner)) - start] = rows
    radius = placement.radius + body.radius
    return Outlines(placement.piece, first, counts, radius, _boxes(first, counts, faces, radius), faces)


def shifted(outlines: Outlines, which: NDArray[np.int64], dx: float, dy: float) -> Outlines:
    """Return the outlines with copies of some of them, moved, at the end."""
    count = outlines.sides[which]
    picked = np.repeat(outlines.first[which], count) + ramps(count)
    copies = outlines.faces[picked].copy()
    copies[:, 0] += dx
    copies[:, 1] += dy
    first = len(outlines.faces) + np.concatenate(([0], np.cumsum(count)[:-1])) if len(which) else count
    return Outlines(
        np.concatenate((outlines.piece, outlines.piece[which])),
        np.concatenate((outlines.first, first)),
        np.concatenate((outlines.sides, count)),
        np.concatenate((outlines.radius, outlines.radius[which])),
        np.concatenate((outlines.box, outlines.box[which] + np.array([dx, dy, dx, dy]))),
        np.concatenate((outlines.faces, copies)),
    )


def core_corners(half_width: Floats, half_height: Floats, angle: Floats) -> Floats:
    """Return the corners of turned core boxes about their centres, (n, 4, 2), counter-clockwise."""
    cosine, sine = np.cos(angle), np.sin(angle)
    cosine = np.where(np.abs(cosine) < RIGHT_ANGLE, 0.0, cosine)
    sine = np.where(np.abs(sine) < RIGHT_ANGLE, 0.0, sine)
    u = np.stack((-half_width, half_width, half_width, -half_width), axis=-1)
    v = np.stack((-half_height, -half_height, half_height, half_height), axis=-1)
    x = u * cosine[..., None] - v * sine[..., None]
    y = u * sine[..., None] + v * cosine[..., None]
    return np.stack((x, y), axis=-1)


def _sum_group(placement: Placement, members: NDArray[np.int64], body: Body) -> tuple[NDArray[np.int64], Floats]:
    """Sum a group of shapes whose cores have equally many edges: owner and row of every face."""
    half_width, half_height = placement.half_width[members], placement.half_height[members]
    shape = core_corners(half_width, half_height, placement.angle[members])
    one = np.ones(len(members))
    mover = core_corners(one * body.half_width, one * body.half_height, one * body.angle)
    edges = np.concatenate((_edges(shape), _edges(mover)), axis=1)
    centre = np.column_stack((placement.x[members], placement.y[members]))
    if edges.shape[1] == 0:
        rows = np.zeros((len(members), 7))
        rows[:, 0:2] = centre
        rows[:, 2] = 1.0
        rows[:, 6] = -1.0
        return members, rows

    # Sorted by angle, counted from just before the first edge, so that no pair of parallel edges is cut apart.
    angle = np.arctan2(edges[..., 1], edges[..., 0])
    angle = np.mod(angle - angle[:, :1] + 1e-6, 2 * np.pi)
    order = np.argsort(angle, axis=1, kind="stable")
    angle = np.take_along_axis(angle, order, axis=1)
    edges = np.take_along_axis(edges, order[..., None], axis=1)
    begins = np.ones(angle.shape, dtype=bool)
    begins[:, 1:] = np.diff(angle, axis=1) > PARALLEL

    corners = np.zeros_like(edges)
    corners[:, 1:] = np.cumsum(edges, axis=1)[:, :-1]
    corners += (shape.max(axis=1) + mover.max(axis=1) - corners.max(axis=1) + centre)[:, None, :]
    flat = np.flatnonzero(begins.ravel())
    merged = np.add.reduceat(edges.reshape(-1, 2), flat, axis=0)
    length = np.hypot(merged[:, 0], merged[:, 1])
    direction = merged / length[:, None]
    rows = np.column_stack((corners.reshape(-1, 2)[flat], direction, length, direction[:, 1], -direction[:, 0]))
    return np.repeat(members, begins.sum(axis=1)), rows


def _edges(corners: Floats) -> Floats:
    """Return the edges that have a length: four of a box, two of a line, none of a point."""
    edges = np.roll(corners, -1, axis=1) - corners
    present = np.any(edges != 0, axis=(0, 2)) if len(corners) else np.zeros(4, dtype=bool)
    return edges[:, present]


def _boxes(first: NDArray[np.int64], count: NDArray[np.int64], faces: Floats, radius: Floats) -> Floats:
    if len(first) == 0:
        return np.zeros((0, 4))
    low = np.minimum.reduceat(faces[:, :2], first, axis=0) - radius[:, None]
    high = np.maximum.reduceat(faces[:, :2], first, axis=0) + radius[:, None]
    return np.column_stack((low, high))


def ramps(count: NDArray[np.int64]) -> NDArray[np.int64]:
    """Return 0, 1, …, count - 1 for every count, one after another."""
    ends = np.cumsum(count)
    return np.arange(int(ends[-1]) if len(ends) else 0) - np.repeat(ends - count, count)
