"""What is likely wrong with the routes of pieces."""

from __future__ import annotations

import math

import numpy as np
import shapely

from haptos.engine.compile import CompiledLevel
from haptos.geometry.polygons import shape_polygons
from haptos.geometry.ways import Leg, way_of
from haptos.level.resolve import ResolvedPiece
from haptos.study.findings import Finding
from haptos.study.solids import solid_shapes

# Overlaps of less than this share of the body's height, squared, are touching.
TOUCH = 1e-6


def find_idle_routes(compiled: CompiledLevel) -> list[Finding]:
    """Routes that go nowhere: no speed, or the same stop twice in a row."""
    findings = []
    for piece in _movers(compiled):
        route = piece.facet("route")
        if route.speed == 0:
            message = "found a route of speed 0: it never moves; give it a speed, or take the route away"
            findings.append(Finding("warning", "idle-route", f"{piece.place}, route.speed", message, piece.at))
        legs = way_of(route).legs
        repeated = [index for index, leg in enumerate(legs[: len(route.stops)]) if leg.dx == 0 and leg.dy == 0]
        if repeated:
            x, y = legs[repeated[0]].x, legs[repeated[0]].y
            message = f"found the stop ({x:g}, {y:g}) twice in a row: it rests there; `pause` says that more plainly"
            findings.append(Finding("warning", "repeated-stop", f"{piece.place}, route.stops", message, piece.at))
    return findings


def find_swept_solids(compiled: CompiledLevel) -> list[Finding]:
    """Solid pieces whose route goes through other solid pieces that stay where they are."""
    moving = {piece.name for piece in _movers(compiled)}
    pieces = compiled.resolved.pieces
    solids = solid_shapes(compiled)
    polygons = shape_polygons(solids)
    still = [index for index, number in enumerate(solids.piece) if pieces[number].name not in moving]
    tree = shapely.STRtree([polygons[index] for index in still])
    least = TOUCH * compiled.level.player.shape.size[1] ** 2
    findings = []
    for number, piece in enumerate(pieces):
        if piece.name not in moving:
            continue
        met: dict[str, None] = {}
        for polygon in (polygons[index] for index in np.flatnonzero(solids.piece == number)):
            for leg in way_of(piece.facet("route")).legs:
                way = _swept(polygon, leg)
                for index in tree.query(way):
                    if way.intersection(tree.geometries[index]).area > least:
                        met[pieces[solids.piece[still[index]]].name] = None
        if met:
            message = (
                f"its route goes through {', '.join(met)}: a mover stops for nothing solid, and crushes whoever is "
                "between; move its stops, or put them on layers that don't meet"
            )
            findings.append(Finding("warning", "swept-solid", f"{piece.place}, route", message, piece.at))
    return findings


def _movers(compiled: CompiledLevel) -> list[ResolvedPiece]:
    return [piece for piece in compiled.resolved.pieces if piece.facet("route") is not None]


def _swept(polygon: shapely.Geometry, leg: Leg) -> shapely.Geometry:
    """Return what a convex shape covers on its way along a leg; of one that never ends, where it begins."""
    dx, dy = (leg.dx, leg.dy) if math.isfinite(leg.duration) else (0.0, 0.0)
    ends = [shapely.affinity.translate(polygon, leg.x + share * dx, leg.y + share * dy) for share in (0.0, 1.0)]
    return shapely.union_all(ends).convex_hull
