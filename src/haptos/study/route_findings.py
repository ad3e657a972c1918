"""What is likely wrong with the ways of pieces that move."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import shapely

from haptos.engine.build.compile_level import CompiledLevel, body_of
from haptos.geometry.outlines import Body
from haptos.geometry.polygons import shape_polygons
from haptos.geometry.ways import way_of
from haptos.study.findings import Finding
from haptos.study.sampling import LONGEST, MOMENTS, TOGETHER, moments_of, moving_solids, period_of, shapes_at, swept
from haptos.study.solids import solid_shapes, walls_of

# Overlaps of less than this share of the body's height, squared, are touching.
TOUCH = 1e-6
# A gap of less than this share of the body's height less than it needs is what it needs.
ROUNDING = 1e-6
# A straight way is looked at in so many parts.
STRAIGHT_PARTS = 9
# A mover closes in on what lies within this of its way, as a cosine, and beside it by this share of the body's width.
HEAD_ON = 0.7
BESIDE = 0.75


def find_idle_routes(compiled: CompiledLevel) -> list[Finding]:
    """Routes and spins that go nowhere: no speed, or the same stop twice in a row."""
    findings = []
    for piece in compiled.resolved.pieces:
        route, spin = piece.facet("route"), piece.facet("spin")
        if spin is not None and spin.speed == 0:
            message = "found a spin of speed 0: it never turns; give it a speed, or take the spin away"
            findings.append(Finding("warning", "idle-spin", f"{piece.place}, spin.speed", message, piece.at))
        if route is None:
            continue
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
    """Solid pieces whose way goes through other solid pieces that stay where they are."""
    pieces = compiled.resolved.pieces
    names, polygons = _still(compiled)
    tree = shapely.STRtree(polygons)
    least = TOUCH * compiled.level.player.shape.size[1] ** 2
    findings = []
    for index in moving_solids(compiled):
        met: dict[str, None] = {}
        shapes = shapes_at(compiled, index, moments_of(compiled, index))
        for before, after in pairwise(shapes):
            for way in swept(before, after):
                for other in tree.query(way):
                    if way.intersection(polygons[other]).area > least:
                        met[names[other]] = None
        if met:
            message = (
                f"its way goes through {', '.join(met)}: a mover stops for nothing solid, and crushes whoever is "
                "between; move its stops, or put them on layers that don't meet"
            )
            place = f"{pieces[index].place}, route"
            findings.append(Finding("warning", "swept-solid", place, message, pieces[index].at))
    return findings


def find_squeezes(compiled: CompiledLevel) -> list[Finding]:
    """Solid pieces that leave the body too little room between them and what stays, where there was enough before."""
    pieces = compiled.resolved.pieces
    names, polygons = _still(compiled)
    for side, wall in walls_of(compiled).items():
        names, polygons = [*names, side], [*polygons, wall]
    tree = shapely.STRtree(polygons)
    body = body_of(compiled.level)
    size = compiled.level.player.shape.size[1]
    findings = []
    for index in moving_solids(compiled):
        if pieces[index].solid_from is not None:
            # It lets through whom it would squeeze.
            continue
        times = moments_of(compiled, index)
        parts = STRAIGHT_PARTS if len(times) <= MOMENTS else 2
        times = np.unique(np.concatenate([times, *(np.linspace(a, b, parts) for a, b in pairwise(times))]))
        shapes = shapes_at(compiled, index, times)
        squeezed: dict[str, tuple[float, float, float]] = {}
        for number in range(1, len(times)):
            for before, after in zip(shapes[number - 1], shapes[number], strict=True):
                way = np.array(after.centroid.coords[0]) - np.array(before.centroid.coords[0])
                if not np.hypot(*way) > 0:
                    continue
                way /= np.hypot(*way)
                for other in tree.query(after.buffer(2 * size)):
                    gap = _squeeze(before, after, polygons[other], way, body, size)
                    known = squeezed.get(names[other])
                    if gap is not None and (known is None or gap[0] < known[0]):
                        squeezed[names[other]] = (gap[0], gap[1], times[number])
        for name, (left, needs, time) in squeezed.items():
            message = (
                f"it squeezes the player against '{name}': after {time:.2f} s of its way it leaves {left:.3g} where "
                f"the body needs {needs:.3g}; stop it earlier, or make it solid from above alone"
            )
            place = pieces[index].place
            findings.append(Finding("warning", "squeezes", place, message, pieces[index].at))
    return findings


def find_crossing_movers(compiled: CompiledLevel) -> list[Finding]:
    """Solid pieces that move through each other."""
    resolved = compiled.resolved
    movers = moving_solids(compiled)
    least = TOUCH * compiled.level.player.shape.size[1] ** 2
    findings = []
    boxes = {}
    for index in movers:
        every = shapes_at(compiled, index, moments_of(compiled, index))
        boxes[index] = shapely.box(*shapely.total_bounds([polygon for polygons in every for polygon in polygons]))
    for place, one in enumerate(movers):
        for other in movers[place + 1 :]:
            if resolved.root(one) == resolved.root(other) or not boxes[one].intersects(boxes[other]):
                continue
            horizon = min(2.0 * max(period_of(compiled, one), period_of(compiled, other)), LONGEST)
            times = np.linspace(0.0, horizon, TOGETHER)
            pairs = zip(shapes_at(compiled, one, times), shapes_at(compiled, other, times), strict=True)
            meets = next((number for number, pair in enumerate(pairs) if _overlap(*pair) > least), None)
            if meets is not None:
                piece, second = resolved.pieces[one], resolved.pieces[other]
                message = (
                    f"it moves through '{second.name}', as at {times[meets]:.2f} s: movers stop for nothing; give one "
                    "of them another way, pause or start"
                )
                findings.append(Finding("warning", "movers-cross", piece.place, message, piece.at))
    return findings


def _still(compiled: CompiledLevel) -> tuple[list[str], list[shapely.Geometry]]:
    """Return names and shapes of what is solid and stays where it is."""
    solids = solid_shapes(compiled)
    still = solids.only(~np.isin(solids.piece, list(compiled.resolved.moving)))
    return [compiled.resolved.pieces[index].name for index in still.piece], shape_polygons(still)


def _overlap(one: list[shapely.Geometry], other: list[shapely.Geometry]) -> float:
    return max((a.intersection(b).area for a in one for b in other), default=0.0)


def _squeeze(
    before: shapely.Geometry, after: shapely.Geometry, still: shapely.Geometry, way: np.ndarray, body: Body, size: float
) -> tuple[float, float] | None:
    """Return what a shape that closes in on another one leaves, and what the body needs, if that is more."""
    line = shapely.shortest_line(after, still)
    (x0, y0), (x1, y1) = line.coords[0], line.coords[-1]
    toward = np.array([x1 - x0, y1 - y0])
    left = float(np.hypot(*toward))
    toward = toward / left if left > ROUNDING * size else way
    needs = _width(body, toward)
    if left >= needs - ROUNDING * size or before.distance(still) <= left:
        return None
    if float(toward @ way) < HEAD_ON:
        return None
    # How broad the parts of both are between which there is too little room.
    across = np.array([-way[1], way[0]])
    near = [after.intersection(still.buffer(needs)), still.intersection(after.buffer(needs))]
    spans = [shapely.get_coordinates(part) @ across for part in near]
    beside = min(span.max() for span in spans) - max(span.min() for span in spans)
    return (left, needs) if beside >= BESIDE * _width(body, across) else None


def _width(body: Body, direction: np.ndarray) -> float:
    """Return how much room the body takes along a direction."""
    reach = body.corners @ direction
    return float(reach.max() - reach.min()) + 2.0 * body.radius
