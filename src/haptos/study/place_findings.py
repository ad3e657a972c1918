"""Findings about where things are: out of the bounds, stops that look like places, lamps that put one far away."""

from __future__ import annotations

import math

import numpy as np
import shapely

from haptos.engine.build.compile_level import CompiledLevel
from haptos.geometry.polygons import shape_polygons
from haptos.level.resolved_piece import ResolvedPiece
from haptos.study.findings import Finding
from haptos.study.sampling import moments_of, shapes_at

# A respawn place farther from its lamp than so many heights of the body is likely not meant; nearer than so many it is,
# but for one that is nearly the lamp's own place: that is likely meant as a place in the level.
FAR_FROM_LAMP, NEAR_LAMP, LIKE_ITS_PLACE = 20.0, 2.0, 0.5


def find_out_of_bounds(compiled: CompiledLevel) -> list[Finding]:
    """Pieces that lie, or go, wholly outside the bounds."""
    level, resolved = compiled.level, compiled.resolved
    bounds = level.world.bounds
    if bounds is None or "wrap" in (bounds.left, bounds.bottom):
        return []
    room = shapely.box(*bounds.corners)
    findings = []
    for index, piece in enumerate(resolved.pieces):
        chain = [resolved.pieces[one] for one in (index, *resolved.carriers(index))]
        if any("drift" in one.facets for one in chain) or piece.name in resolved.hung_on_player:
            continue
        if "spawner" in piece.facets or "pickup" in piece.facets:
            continue
        shapes = shape_polygons(compiled.placement.only(compiled.placement.piece == index))
        if not shapes:
            continue
        if not any(shape.intersects(room) for shape in shapes):
            message = "it lies wholly outside of the bounds, where the player is not; move it in, or widen the bounds"
            findings.append(Finding("warning", "out-of-bounds", piece.place, message, piece.at))
        elif any("route" in one.facets for one in chain):
            findings += _leaves(compiled, index, piece, room)
    return findings


def _leaves(compiled: CompiledLevel, index: int, piece: ResolvedPiece, room: shapely.Polygon) -> list[Finding]:
    """Return the finding that the way of a piece leads out of the bounds."""
    times = moments_of(compiled, index)
    for time, shapes in zip(times, shapes_at(compiled, index, times), strict=True):
        if not any(shape.intersects(room) for shape in shapes):
            x, y = np.mean([shape.centroid.coords[0] for shape in shapes], axis=0)
            message = f"its way leads wholly out of the bounds, to ({x:.4g}, {y:.4g}) after {time:.3g} s; stops are "
            message += "relative to `at`"
            return [Finding("warning", "route-out-of-bounds", f"{piece.place}, route.stops", message, (x, y))]
    return []


def find_odd_stops(compiled: CompiledLevel) -> list[Finding]:
    """Routes whose first stop is not where the piece is put, as if stops were places in the level."""
    findings = []
    for piece in compiled.resolved.pieces:
        route = piece.facet("route")
        if route is None or route.stops[0] == (0.0, 0.0) or "/" in piece.name:
            continue
        (x, y), (at_x, at_y) = route.stops[0], piece.at
        begins = f"stops are relative to `at`: it begins at ({at_x + x:g}, {at_y + y:g})"
        if math.hypot(x - at_x, y - at_y) < math.hypot(x, y):
            message = f"the first stop ({x:g}, {y:g}) looks like a place in the level, but {begins}"
            findings.append(Finding("warning", "stops-absolute", f"{piece.place}, route.stops", message, piece.at))
        else:
            message = f"the first stop is ({x:g}, {y:g}), not [0, 0]; {begins}"
            findings.append(Finding("note", "first-stop", f"{piece.place}, route.stops", message, piece.at))
    return findings


def find_far_lamps(compiled: CompiledLevel) -> list[Finding]:
    """Checkpoints that put the player back far away, as if `respawn_at` were a place in the level."""
    height = compiled.level.player.shape.size[1]
    findings = []
    for index, piece in enumerate(compiled.resolved.pieces):
        checkpoint = piece.facet("checkpoint")
        if checkpoint is None or checkpoint.respawn_at is None:
            continue
        (dx, dy), (x, y) = checkpoint.respawn_at, compiled.origins[index]
        away = math.hypot(dx, dy)
        is_place = away > NEAR_LAMP * height and math.hypot(dx - x, dy - y) < LIKE_ITS_PLACE * away
        if is_place or away > FAR_FROM_LAMP * height:
            looks = "looks like a place in the level, but" if is_place else "is far from the lamp:"
            back = f"the player comes back at ({x + dx:g}, {y + dy:g})"
            message = f"({dx:g}, {dy:g}) {looks} it is relative to the piece: {back}"
            place = f"{piece.place}, checkpoint.respawn_at"
            findings.append(Finding("warning", "respawn-far", place, message, piece.at))
    return findings
