"""Pieces that rest on others: moved along gravity at load until they touch, exactly."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from haptos.geometry.placement import Placement
from haptos.level.resolve import ResolvedLevel

Floats = NDArray[np.float64]


def drop_to_rest(resolved: ResolvedLevel, placement: Placement) -> tuple[Placement, Floats, tuple[str, ...]]:
    """Drop every piece with `rest`, and all that it holds, onto the first surface below it that it asks for.

    Parameters
    ----------
    resolved : ResolvedLevel
    placement : Placement
        With these pieces where the level puts them.

    Returns
    -------
    placement : Placement
    origins : (p, 2) ndarray, where each piece is then
    hanging : names of the pieces that have nothing below to rest on; they stay where they were
    """
    hanging = []
    ux, uy = resolved.level.world.up
    origins = np.array([piece.at for piece in resolved.pieces], dtype=np.float64).reshape(-1, 2)
    for index, piece in enumerate(resolved.pieces):
        rest = piece.facet("rest")
        if rest is None:
            continue
        held = resolved.descendants(index)
        targets = resolved.answering(rest.on)
        onto = np.isin(placement.piece, [number for number in targets if number != index and number not in held])
        own = placement.only(placement.piece == index)
        distance = drop_distance(own, placement.only(onto), (-ux, -uy))
        if math.isinf(distance):
            hanging.append(piece.name)
        else:
            way = np.array([-ux, -uy]) * (distance - rest.gap)
            moved = [index, *held]
            placement = placement.moved(np.isin(placement.piece, moved), float(way[0]), float(way[1]))
            origins[moved] += way
    return placement, origins, tuple(hanging)


def drop_distance(moving: Placement, still: Placement, direction: tuple[float, float]) -> float:
    """Return how far some shapes can be moved along a direction until they touch others; infinite if they never do.

    Two convex polygons moved along a line first touch with a corner of one on a side of the other, so every corner is
    sent along the direction, and every corner of the others against it, at the sides rounded by both radii.
    """
    best = math.inf
    way = np.array(direction)
    for one in range(len(moving.piece)):
        for other in range(len(still.piece)):
            radius = float(moving.radius[one] + still.radius[other])
            mover, target = moving.corners(one), still.corners(other)
            best = min(best, _first_touch(mover, target, way, radius), _first_touch(target, mover, -way, radius))
    return best


def _first_touch(points: Floats, corners: Floats, way: Floats, radius: float) -> float:
    """Return the least distance at which one of the points, sent along `way`, comes within `radius` of a side."""
    ends = np.roll(corners, -1, axis=0)
    start, begin, end = points[:, None, :], corners[None, :, :], ends[None, :, :]
    along = end - begin
    length = np.hypot(along[..., 0], along[..., 1])
    with np.errstate(divide="ignore", invalid="ignore"):
        tangent = along / length[..., None]
        normal = np.stack((tangent[..., 1], -tangent[..., 0]), axis=-1)
        gap = ((start - begin) * normal).sum(axis=-1) - radius
        closing = -(normal @ way)
        faces = np.where(closing > 0, gap / closing, np.inf)
        place = ((start - begin) * tangent).sum(axis=-1) + faces * (tangent @ way)
        faces = np.where((faces >= -1e-9 * (length + radius)) & (place >= 0) & (place <= length), faces, np.inf)
    offset = begin - start
    middle = offset @ way
    miss = (offset**2).sum(axis=-1) - middle**2
    depth = radius**2 - miss
    touches = np.where(depth >= 0, middle - np.sqrt(np.maximum(depth, 0.0)), np.inf)
    touches = np.where(touches >= -1e-9 * (radius + np.abs(middle)), touches, np.inf)
    found = np.concatenate((faces.ravel(), touches.ravel()))
    found = found[np.isfinite(found)]
    return float(found.min()) if len(found) else math.inf
