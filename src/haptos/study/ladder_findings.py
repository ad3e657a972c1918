"""Findings about ladders: tops at which nobody can stand, and solid floors in the way."""

from __future__ import annotations

import numpy as np
import shapely

from haptos.engine.build.compile_level import CompiledLevel, body_of
from haptos.engine.build.facet_tables import ladder_tops
from haptos.geometry.convex import turned
from haptos.geometry.polygons import body_polygon, shape_polygons
from haptos.geometry.rails import rails_of
from haptos.study.findings import Finding
from haptos.study.solids import solid_shapes

# Overlaps less deep than this share of the body's height are touches.
OVERLAP = 1e-3


def find_blocked_ladders(compiled: CompiledLevel) -> list[Finding]:
    """Ladders at whose top the body would be inside something solid."""
    findings = []
    level = compiled.level
    if level.world.view == "top":
        return []
    size = level.player.shape.size[1]
    tops = ladder_tops(compiled.resolved, compiled.placement)
    placement = solid_shapes(compiled, one_way=False)
    shapes = shape_polygons(placement)
    tree = shapely.STRtree(shapes)
    for index in range(len(tops.piece)):
        piece = compiled.resolved.pieces[tops.piece[index]]
        place = tops.corners(index).mean(axis=0) + tops.side[index] * size / 2
        body = body_polygon(body_of(level), *place).buffer(-OVERLAP * size)
        blocking = tree.query(body, predicate="intersects")
        if len(blocking):
            other = compiled.resolved.pieces[placement.piece[blocking[0]]]
            message = (
                f"its top ends inside '{other.name}': a body that climbs it can't stand there; make it shorter, or "
                "open a hole"
            )
            findings.append(
                Finding("error", "ladder-top-blocked", piece.place, message, (float(place[0]), float(place[1])))
            )
    return findings


def find_cut_ladders(compiled: CompiledLevel) -> list[Finding]:
    """Ladders that go through something solid, so that a body that climbs stops below it."""
    level, resolved = compiled.level, compiled.resolved
    if level.world.view == "top":
        return []
    width, height = level.player.shape.size
    placement = solid_shapes(compiled, one_way=False)
    shapes = shape_polygons(placement)
    tree = shapely.STRtree(shapes)
    findings = []
    for index, piece in enumerate(resolved.pieces):
        if piece.facet("ladder") is None or resolved.meeting(piece) != "overlap":
            continue
        for low, high, at in rails_of(resolved, piece, compiled.placement.only(compiled.placement.piece == index)):
            half, middle = (0.5 - OVERLAP) * width, 0.5 * (low[0] + high[0])
            box = np.array([[middle - half, low[1]], [middle + half, low[1]], [middle + half, high[1]],
                            [middle - half, high[1]]])  # fmt: skip
            way = shapely.Polygon(turned(box, np.deg2rad(piece.turn)) + at)
            for number in tree.query(way, predicate="intersects"):
                rest = way.difference(shapes[number])
                parts = [part for part in getattr(rest, "geoms", [rest]) if part.area > 0.5 * height * half]
                if len(parts) > 1:
                    other = resolved.pieces[placement.piece[number]]
                    x, y = shapes[number].intersection(way).centroid.coords[0]
                    message = (
                        f"it goes through '{other.name}' at ({x:.4g}, {y:.4g}), which is solid: a body that climbs "
                        "stops below; open a hole, or make it solid_from above"
                    )
                    findings.append(Finding("error", "ladder-cut", piece.place, message, (x, y)))
    return findings
