"""Findings about shapes, layers and the player's start."""

from __future__ import annotations

import math

import shapely

from haptos.engine.build.compile_level import CompiledLevel, body_of
from haptos.geometry.polygons import body_polygon, shape_polygons
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.world import SIDES
from haptos.study.findings import Finding
from haptos.study.solids import OPPOSITE, side_above, solid_shapes

# A body may touch what it starts on; deeper than this share of its height it is inside.
INSIDE = 1e-6


def find_unshaped_pieces(compiled: CompiledLevel) -> list[Finding]:
    """Pieces without a shape, or with one that has no area: nothing can ever meet them."""
    findings = []
    for index, piece in enumerate(compiled.resolved.pieces):
        if piece.fills_tile or piece.can_be_met or "spawner" in piece.facets or compiled.resolved.descendants(index):
            continue
        if not piece.parts:
            message = (
                "it has no shape, so nothing ever meets it; give it or its kind one, such as shape = { box = [48, 8] }"
            )
            findings.append(Finding("error", "no-shape", piece.place, message, piece.at))
        else:
            width, height = piece.parts[0].shape.size
            message = f"its shape is {width:g} by {height:g} and has no area, so nothing ever meets it"
            findings.append(Finding("error", "no-area", piece.place, message, piece.at))
    return findings


def find_unused_layers(compiled: CompiledLevel) -> list[Finding]:
    """Layers of the level's own table that pair with nobody, or that nothing is on."""
    resolved = compiled.resolved
    contacts = resolved.level.contacts
    if contacts is None:
        return []
    findings = []
    used = {piece.layer for piece in compiled.cast.resolved.pieces} | {resolved.player_layer}
    for layer in contacts.layers:
        partners = [other for other in contacts.layers if resolved.contacts.between(layer, other).meeting != "nothing"]
        place = f"contacts.layers, '{layer}'"
        if layer not in used:
            findings.append(Finding("note", "layer-empty", place, "nothing is on this layer"))
        elif not partners and layer == resolved.player_layer:
            message = "the player is on it, but it is solid to no layer and overlaps none: the body meets nothing"
            findings.append(Finding("error", "layer-untouched", place, message))
        elif not partners:
            members = _some([piece for piece in resolved.pieces if piece.layer == layer])
            message = f"nobody touches it: no line of [contacts] pairs it with a layer, so {members} can only be seen"
            findings.append(Finding("note", "layer-untouched", place, message))
    return findings


def _some(pieces: list[ResolvedPiece]) -> str:
    names = ", ".join(f"'{piece.name}'" for piece in pieces[:3])
    return names if len(pieces) <= 3 else f"{names} and {len(pieces) - 3} more"


def find_start_faults(compiled: CompiledLevel) -> list[Finding]:
    """A start out of bounds, below where bodies are lost, inside something solid, or above nothing."""
    level = compiled.level
    x, y = level.player.at
    findings = []
    bounds = level.world.bounds
    if bounds is not None:
        x0, y0, x1, y1 = bounds.corners
        over = {"left": x0 - x, "right": x - x1, "bottom": y0 - y, "top": y - y1}
        for side in SIDES:
            if over[side] > 0:
                message = (
                    f"the player starts {over[side]:g} beyond the {side} side of the bounds, expected a start inside"
                )
                findings.append(Finding("error", "start-out-of-bounds", "player.at", message, (x, y)))
    ux, uy = level.world.up
    height = x * ux + y * uy
    lost_below = level.world.lost_below
    if lost_below is not None and height < lost_below:
        message = f"the player starts at height {height:g}, below lost_below = {lost_below:g}, and is lost at once"
        findings.append(Finding("error", "start-lost", "player.at", message, (x, y)))
    if bounds is not None:
        low_x, low_y, high_x, high_y = body_polygon(body_of(level), x, y).bounds
        into = {"left": x0 - low_x, "right": high_x - x1, "bottom": y0 - low_y, "top": high_y - y1}
        for side in SIDES:
            if getattr(bounds, side) == "wall" and into[side] > INSIDE * level.player.shape.size[1] and over[side] <= 0:
                message = (
                    f"the player starts {into[side]:.3g} deep inside the {side} wall of the bounds; move it inward"
                )
                findings.append(Finding("error", "start-inside", "player.at", message, (x, y)))
    inside = solids_around(compiled, x, y)
    for piece, depth in inside:
        message = f"the player starts {depth:.3g} deep inside '{piece.name}', which is solid to it; move one of them"
        findings.append(Finding("error", "start-inside", "player.at", message, (x, y)))
    if level.world.view == "side" and not inside and not has_floor(compiled, x, y):
        message = "there is nothing solid below the player's start: it falls at once, and meets no ground"
        if has_floor(compiled, x, y, upward=True):
            gravity = ", ".join(f"{part:g}" for part in level.world.gravity)
            message += f"; gravity [{gravity}] points away from what is solid on the other side: is its sign meant?"
        findings.append(Finding("error", "start-above-nothing", "player.at", message, (x, y)))
    return findings


def solids_around(compiled: CompiledLevel, x: float, y: float) -> list[tuple[ResolvedPiece, float]]:
    """Return what is solid to a body at a place, and how deep that is inside of it."""
    level = compiled.level
    placement = solid_shapes(compiled, one_way=False)
    shapes = shape_polygons(placement)
    body = body_polygon(body_of(level), x, y)
    size = level.player.shape.size[1]
    found: dict[str, tuple[ResolvedPiece, float]] = {}
    core = body.buffer(-INSIDE * size)
    for index in shapely.STRtree(shapes).query(core, predicate="intersects"):
        overlap = shapes[index].intersection(body)
        box = overlap.bounds
        depth = min(box[2] - box[0], box[3] - box[1])
        piece = compiled.resolved.pieces[placement.piece[index]]
        if piece.name not in found or depth > found[piece.name][1]:
            found[piece.name] = (piece, depth)
    return list(found.values())


def has_floor(compiled: CompiledLevel, x: float, y: float, upward: bool = False) -> bool:
    """Whether the body's shadow, straight down or up, falls on something solid or on a wall of the bounds."""
    level = compiled.level
    ux, uy = level.world.up
    if upward:
        ux, uy = -ux, -uy
    bounds = level.world.bounds
    if bounds is not None:
        side = side_above(level) if upward else OPPOSITE[side_above(level)]
        if getattr(bounds, side) in ("wall", "wrap"):
            return True
    shapes = shape_polygons(solid_shapes(compiled))
    if not shapes:
        return False
    union = shapely.box(*shapely.total_bounds(shapes))
    far = math.hypot(union.bounds[2] - union.bounds[0], union.bounds[3] - union.bounds[1])
    far += math.hypot(union.centroid.x - x, union.centroid.y - y)
    start = body_polygon(body_of(level), x, y)
    end = body_polygon(body_of(level), x - far * ux, y - far * uy)
    # What it touches on the other side, or beside it, is no floor.
    shadow = shapely.MultiPolygon([start, end]).convex_hull.buffer(-INSIDE * level.player.shape.size[1])
    return len(shapely.STRtree(shapes).query(shadow, predicate="intersects")) > 0
