"""Outlines grown by the body: where its centre may not go.

A body of any convex shape touches an obstacle exactly when its centre touches the Minkowski sum of the obstacle and the
mirrored body [1]_. With cores that are boxes, lines or points, the sum is a convex polygon, rounded by the sum of both
radii, so the simulation has to move a point alone.

References
----------
.. [1] T. Lozano-Pérez, "Spatial planning: a configuration space approach", IEEE Transactions on Computers C-32 (1983).
"""

from __future__ import annotations

from functools import lru_cache
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.geometry.convex import core_corners
from haptos.geometry.placement import Placement, ramps, starts

Floats = NDArray[np.float64]

# Edges of both shapes that are parallel to within this angle (radians) become one face.
PARALLEL = 1e-9
# Outlines of so many shapes at most are kept, for levels that have the same ones.
MOST_KEPT = 1000


class Body(NamedTuple):
    """The moving body: half extents of its core, its radius, and the turn of its own up from +y (radians)."""

    half_width: float = 0.0
    half_height: float = 0.0
    radius: float = 0.0
    angle: float = 0.0

    @property
    def corners(self) -> Floats:
        """The corners of its core about its centre."""
        return core_corners(self.half_width, self.half_height, self.angle)


class Outlines(NamedTuple):
    """Convex outlines: a polygon, counter-clockwise, and a radius around it.

    Attributes
    ----------
    piece : (n,) index of the piece
    first, sides : (n,) the polygon's faces within `faces`
    radius : (n,)
    side : (n, 2) the direction from which it is solid; zero if from everywhere
    box : (n, 4) x0, y0, x1, y1 with the radius
    faces : (m, 7) start x, y; direction x, y; length; outward normal x, y. A point is one face of no length.
    """

    piece: NDArray[np.int64]
    first: NDArray[np.int64]
    sides: NDArray[np.int64]
    radius: Floats
    side: Floats
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
        In the order of the placement; nobody may change them.
    """
    if len(placement.piece) > MOST_KEPT:
        return _grow(placement, body)
    return _kept(_Shapes(placement, body))


class _Shapes:
    """Shapes and a body, told apart by what is in them."""

    def __init__(self, placement: Placement, body: Body) -> None:
        self.placement, self.body = placement, body
        self.content = (body, *((column.shape, column.tobytes()) for column in placement))

    def __hash__(self) -> int:
        return hash(self.content)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Shapes) and self.content == other.content


@lru_cache(maxsize=32)
def _kept(shapes: _Shapes) -> Outlines:
    """Return grown outlines: of levels that differ in numbers alone, they are the same again and again."""
    outlines = _grow(shapes.placement, shapes.body)
    for column in outlines:
        column.flags.writeable = False
    return outlines


def _grow(placement: Placement, body: Body) -> Outlines:
    """Grow every shape of a placement by a body."""
    total = len(placement.piece)
    counts = np.zeros(total, dtype=np.int64)
    group_faces: list[tuple[NDArray[np.int64], NDArray[np.int64], Floats]] = []
    for corners in np.unique(placement.sides):
        members = np.flatnonzero(placement.sides == corners)
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
    box = _boxes(first, faces, radius)
    return Outlines(placement.piece, first, counts, radius, placement.side, box, faces)


def picked(outlines: Outlines, which: NDArray[np.int64]) -> Outlines:
    """Return some of the outlines."""
    sides = outlines.sides[which]
    rows = np.repeat(outlines.first[which], sides) + ramps(sides)
    return Outlines(
        outlines.piece[which],
        starts(sides),
        sides,
        outlines.radius[which],
        outlines.side[which],
        outlines.box[which],
        outlines.faces[rows],
    )


def joined_outlines(one: Outlines, other: Outlines) -> Outlines:
    """Return the outlines of both, one after the other."""
    pairs: Any = zip(one, other._replace(first=other.first + len(one.faces)), strict=True)
    columns: Any = (np.concatenate(pair) for pair in pairs)
    return Outlines(*columns)


def shifted(outlines: Outlines, which: NDArray[np.int64], dx: float, dy: float) -> Outlines:
    """Return the outlines with copies of some of them, moved, at the end."""
    copies = picked(outlines, which)
    faces = copies.faces + np.array([dx, dy, 0, 0, 0, 0, 0])
    return joined_outlines(outlines, copies._replace(faces=faces, box=copies.box + np.array([dx, dy, dx, dy])))


def _sum_group(placement: Placement, members: NDArray[np.int64], body: Body) -> tuple[NDArray[np.int64], Floats]:
    """Sum a group of shapes whose cores have equally many edges: owner and row of every face."""
    count = int(placement.sides[members[0]])
    shape = placement.points[placement.first[members][:, None] + np.arange(count)]
    mover = np.broadcast_to(body.corners, (len(members), *body.corners.shape))
    edges = np.concatenate((_edges(shape), _edges(mover)), axis=1)
    if edges.shape[1] == 0:
        rows = np.zeros((len(members), 7))
        rows[:, 0:2] = shape[:, 0]
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
    corners += (shape.max(axis=1) + mover.max(axis=1) - corners.max(axis=1))[:, None, :]
    flat = np.flatnonzero(begins.ravel())
    merged = np.add.reduceat(edges.reshape(-1, 2), flat, axis=0)
    length = np.hypot(merged[:, 0], merged[:, 1])
    direction = merged / length[:, None]
    rows = np.column_stack((corners.reshape(-1, 2)[flat], direction, length, direction[:, 1], -direction[:, 0]))
    return np.repeat(members, begins.sum(axis=1)), rows


def _edges(corners: Floats) -> Floats:
    """Return the edges: as many as corners, two of a line, none of a point."""
    if corners.shape[1] == 1:
        return corners[:, :0]
    return np.roll(corners, -1, axis=1) - corners


def _boxes(first: NDArray[np.int64], faces: Floats, radius: Floats) -> Floats:
    if len(first) == 0:
        return np.zeros((0, 4))
    low = np.minimum.reduceat(faces[:, :2], first, axis=0) - radius[:, None]
    high = np.maximum.reduceat(faces[:, :2], first, axis=0) + radius[:, None]
    return np.column_stack((low, high))
