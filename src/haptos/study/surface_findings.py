"""Findings about what is stood on: slopes, steps, dead sides, and solids in one another's way."""

from __future__ import annotations

import math

import numpy as np
import shapely

from haptos.engine.build.compile_level import CompiledLevel, body_of
from haptos.geometry.outlines import grow_outlines
from haptos.geometry.placement import side_direction
from haptos.geometry.polygons import outline_polygons, shape_polygons
from haptos.level.resolved_piece import ResolvedPiece
from haptos.study.findings import Finding
from haptos.study.free_space import fill_from_start
from haptos.study.solids import other_gravity, solid_shapes
from haptos.study.surfaces import NEAR, Surface, axes, open_surfaces

# Overlaps less deep than this share of the body's height are touches.
OVERLAP = 1e-3
# A surface is reached if the body can be this share of its height away from it.
REACH = 1e-3
# A normal belongs to a side within 60 degrees, as in the simulation.
SIDE = 0.5


def find_steep_paths(compiled: CompiledLevel) -> list[Finding]:
    """Slopes too steep for the player that begin where it walks, and steps too high by little."""
    if compiled.level.world.view == "top":
        return []
    player = compiled.level.player
    surfaces = open_surfaces(compiled)
    frame = axes(compiled)
    size = player.shape.size[1]
    limit, step = player.ground.max_slope, player.step_height
    walkable = [surface for surface in surfaces if abs(surface.slope) <= limit]
    steep: dict[int, list[tuple[float, float, float]]] = {}
    elsewhere = other_gravity(compiled)
    for surface in surfaces:
        slope = abs(surface.slope)
        if slope <= limit + 1e-6:
            continue
        foot = min((surface.left, surface.right), key=lambda point: point[1])
        x, y = frame.T @ np.array(foot)
        if elsewhere.intersects(shapely.Point(x, y)):
            continue
        if any(_adjoins(foot, other, NEAR * size + step) for other in walkable):
            steep.setdefault(surface.piece, []).append((slope, float(x), float(y)))
    findings = []
    for index, places in steep.items():
        slope, x, y = max(places)
        more = f" (and at {len(places) - 1} more)" if len(places) > 1 else ""
        message = (
            f"its slope of {slope:.4g} degrees begins where the player walks, at ({x:.4g}, {y:.4g}){more}, and is "
            f"steeper than max_slope = {limit:g}: the body slides down; make it gentler, or raise "
            "player.ground.max_slope"
        )
        findings.append(Finding("warning", "too-steep", compiled.resolved.pieces[index].place, message, (x, y)))
    return findings + _slips(compiled, walkable)


def _adjoins(point: tuple[float, float], surface: Surface, near: float) -> bool:
    """Whether a surface passes by a point, within a distance across and along up."""
    if not surface.left[0] - near <= point[0] <= surface.right[0] + near:
        return False
    run = surface.right[0] - surface.left[0]
    share = min(max((point[0] - surface.left[0]) / run, 0.0), 1.0) if run > 0 else 0.0
    height = surface.left[1] + share * (surface.right[1] - surface.left[1])
    return abs(point[1] - height) <= near


def _slips(compiled: CompiledLevel, walkable: list[Surface]) -> list[Finding]:
    player = compiled.level.player
    size, step = player.shape.size[1], player.step_height
    frame = axes(compiled)
    findings = []
    for low in walkable:
        for high in walkable:
            if compiled.resolved.pieces[high.piece].facet("launch") is not None:
                continue
            for foot, head in ((low.right, high.left), (low.left, high.right)):
                rise = head[1] - foot[1]
                if abs(head[0] - foot[0]) <= NEAR * size and step * (1 + 1e-6) < rise <= 2 * step:
                    x, y = frame.T @ np.array(foot)
                    piece = compiled.resolved.pieces[high.piece]
                    message = (
                        f"a step of {rise:.4g} at ({x:.4g}, {y:.4g}) is higher than step_height = {step:.4g} by "
                        "little, so it stops the player; a slip of the drawing?"
                    )
                    findings.append(Finding("warning", "high-step", piece.place, message, (float(x), float(y))))
    return findings


def find_dead_sides(compiled: CompiledLevel) -> list[Finding]:
    """Launchers and one-way pieces that the body can come to, but not on the side that works."""
    if compiled.level.world.view == "top":
        return []
    reached = fill_from_start(compiled).reached
    if reached.is_empty:
        return []
    findings = []
    size = compiled.level.player.shape.size[1]
    outlines = grow_outlines(compiled.placement, body_of(compiled.level))
    for index, piece in enumerate(compiled.resolved.pieces):
        launch = piece.facet("launch")
        if compiled.resolved.meeting(piece) == "nothing" or (launch is None and piece.solid_from is None):
            continue
        side = _working_side(piece)
        if not side.any():
            continue
        live: list[shapely.Geometry] = []
        dead: list[shapely.Geometry] = []
        for number in np.flatnonzero(outlines.piece == index):
            rows = outlines.faces[outlines.first[number] : outlines.first[number] + outlines.sides[number]]
            for row in rows:
                start = row[:2] + (outlines.radius[number] + REACH * size) * row[5:7]
                line = shapely.LineString([start, start + row[4] * row[2:4]])
                (live if float(row[5:7] @ side) >= SIDE else dead).append(line)
        if any(reached.intersects(line) for line in dead) and not any(reached.intersects(line) for line in live):
            what = "trampoline" if launch is not None else "one-way piece"
            word = launch.from_ if launch is not None else piece.solid_from
            message = (
                f"this {what} works from {word} alone, and the player can't get there from its start, only to the "
                "other sides; turn it, or open a way"
            )
            findings.append(Finding("warning", "dead-side", piece.place, message, piece.at))
    return findings


def _working_side(piece: ResolvedPiece) -> np.ndarray:
    launch = piece.facet("launch")
    if launch is None:
        return side_direction(piece)
    if launch.from_ == "any":
        return np.zeros(2)
    return side_direction(ResolvedPiece(**{**vars(piece), "solid_from": launch.from_}))


def find_covered_zones(compiled: CompiledLevel) -> list[Finding]:
    """Zones that lie wholly inside solid pieces, so that nothing can be in them."""
    placement = compiled.placement
    solid = shapely.union_all(
        outline_polygons(grow_outlines(solid_shapes(compiled, one_way=False), body_of(compiled.level)))
    )
    findings = []
    for index, piece in enumerate(compiled.resolved.pieces):
        if compiled.resolved.meeting(piece) != "overlap" or index in compiled.resolved.moving:
            continue
        own = placement.only(placement.piece == index)
        grown = shapely.union_all(outline_polygons(grow_outlines(own, body_of(compiled.level))))
        if not grown.is_empty and grown.difference(solid).area <= 1e-9 * grown.area:
            message = "it is covered completely by solid pieces: the body can never be in it; move it out"
            findings.append(Finding("error", "zone-covered", piece.place, message, piece.at))
    return findings


def find_hanging_pieces(compiled: CompiledLevel) -> list[Finding]:
    """Pieces that were to rest on something, with nothing below them."""
    findings = []
    for name in compiled.hanging:
        piece = compiled.resolved.by_name[name]
        on = piece.facet("rest").on
        message = f"it is to rest on '{on}', and nothing of that is below it; it stays where it is"
        findings.append(Finding("error", "rests-on-nothing", piece.place, message, piece.at))
    return findings


def find_overlapping_solids(compiled: CompiledLevel) -> list[Finding]:
    """Solid pieces of different kinds that overlap."""
    placement = solid_shapes(compiled)
    shapes = shape_polygons(placement)
    size = compiled.level.player.shape.size[1]
    tree = shapely.STRtree(shapes)
    pairs: dict[tuple[int, int], tuple[float, tuple[float, float]]] = {}
    if not shapes:
        return []
    first, second = tree.query(shapes, predicate="intersects")
    for one, other in zip(first, second, strict=True):
        a, b = int(placement.piece[one]), int(placement.piece[other])
        if a >= b or _is_same_kind(compiled.resolved.pieces[a], compiled.resolved.pieces[b]):
            continue
        if compiled.resolved.root(a) == compiled.resolved.root(b):
            # Parts of one thing may lie in one another.
            continue
        overlap = shapes[one].intersection(shapes[other])
        depth = _depth(overlap)
        if depth > OVERLAP * size and depth > pairs.get((a, b), (0.0, (0.0, 0.0)))[0]:
            middle = overlap.representative_point()
            pairs[a, b] = (depth, (middle.x, middle.y))
    findings = []
    for (a, b), (depth, at) in pairs.items():
        one, other = compiled.resolved.pieces[a], compiled.resolved.pieces[b]
        message = f"it overlaps '{other.name}', which is solid too and of another kind, {depth:.3g} deep"
        findings.append(Finding("note", "solids-overlap", one.place, message, at))
    return findings


def _is_same_kind(one: ResolvedPiece, other: ResolvedPiece) -> bool:
    return bool(one.kinds) and one.kinds[:1] == other.kinds[:1]


def _depth(overlap: shapely.Geometry) -> float:
    """Return how thick an overlap is at most, about: twice its area over its perimeter."""
    return 2.0 * overlap.area / overlap.length if overlap.length > 0 and math.isfinite(overlap.length) else 0.0
