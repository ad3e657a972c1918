"""What is likely wrong with fields of gravity: ties, worlds that one falls off, ceilings that one never leaves."""

from __future__ import annotations

import math
from itertools import combinations
from typing import Any

import shapely
import shapely.affinity

from haptos.engine.build.compile_level import CompiledLevel
from haptos.geometry.polygons import shape_polygons
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.world import SIDES
from haptos.study.findings import Finding
from haptos.study.solids import solid_shapes

# A round world and its field have one middle if these are no farther apart than this, in heights of the body.
ONE_MIDDLE = 1.0


def find_gravity_faults(compiled: CompiledLevel) -> list[Finding]:
    """Fields of equal rank that overlap, worlds that stick out of their field, ceilings without a way back."""
    pieces = compiled.resolved.pieces
    fields = [
        (index, piece, shapely.union_all(shape_polygons(compiled.placement.only(compiled.placement.piece == index))))
        for index, piece in enumerate(pieces)
        if piece.facet("field") is not None
        and piece.facet("field").gravity is not None
        and compiled.resolved.meeting(piece) == "overlap"
    ]
    if compiled.level.world.view == "top":
        return []
    floats = _floats_away(compiled)
    if not fields:
        return floats
    findings = floats + [tie for one, other in combinations(fields, 2) for tie in _tie(one, other)]
    for index, piece, zone in fields:
        findings += _sticks_out(compiled, index, piece, zone)
        findings += _no_way_back(compiled, piece, zone, [other for _, other, _ in fields], [z for _, _, z in fields])
    return findings


def _floats_away(compiled: CompiledLevel) -> list[Finding]:
    """Return the finding that nothing brings back who leaves the ground in a world without gravity."""
    world = compiled.level.world
    if not world.is_weightless:
        return []
    sides = SIDES if world.bounds is None else [side for side in SIDES if getattr(world.bounds, side) == "open"]
    if not sides:
        return []
    where = "world.bounds" if world.bounds is None else f"world.bounds.{sides[0]}"
    message = (
        "the world has no gravity and is open: who leaves the last piece, or the last field, floats away for ever; "
        "give it bounds on all sides that are 'lost', a 'wall', or 'wrap'"
    )
    return [Finding("warning", "floats-away", where, message)]


def _tie(one: tuple[int, ResolvedPiece, Any], other: tuple[int, ResolvedPiece, Any]) -> list[Finding]:
    first, second = one[1].facet("field"), other[1].facet("field")
    both_inside = first.gravity.lasts == second.gravity.lasts == "inside"
    if not both_inside or first.rank != second.rank or first.gravity == second.gravity:
        return []
    if one[2].intersection(other[2]).area <= 0.0:
        return []
    message = (
        f"it overlaps '{one[1].name}', both have the rank {first.rank}, and their gravity differs: the one that was "
        "entered last holds; give one a higher rank"
    )
    return [Finding("warning", "gravity-tie", f"{other[1].place}, field.rank", message, other[1].at)]


def _sticks_out(compiled: CompiledLevel, index: int, piece: ResolvedPiece, zone: Any) -> list[Finding]:
    """Return the finding that one can stand on a round world where its field does not reach."""
    gravity = piece.facet("field").gravity
    if not gravity.toward or (gravity.strength is not None and gravity.strength <= 0.0):
        return []
    height = compiled.level.player.shape.size[1]
    x, y = compiled.origins[index]
    found = []
    for number, other in enumerate(compiled.resolved.pieces):
        dx, dy = compiled.origins[number] - compiled.origins[index]
        if compiled.resolved.meeting(other) != "solid" or math.hypot(dx, dy) > ONE_MIDDLE * height:
            continue
        world = shapely.union_all(shape_polygons(compiled.placement.only(compiled.placement.piece == number)))
        if not world.is_empty and not zone.covers(world.buffer(height)):
            message = (
                f"the surface of '{other.name}' lies partly outside of it, by less than a body's height of room: who "
                "stands or jumps there falls off for ever; make the field larger"
            )
            found.append(Finding("warning", "world-sticks-out", f"{piece.place}, field", message, (float(x), float(y))))
    return found


def _no_way_back(
    compiled: CompiledLevel, piece: ResolvedPiece, zone: Any, others: list[ResolvedPiece], zones: list[Any]
) -> list[Finding]:
    """Return the finding that who is turned over by a field meets nothing, or never gets to a field again."""
    gravity = piece.facet("field").gravity
    if gravity.lasts == "inside" or gravity.toward:
        return []
    level = compiled.level
    ux, uy = level.world.up
    if gravity.vector is not None:
        pull = math.hypot(*gravity.vector)
        if pull == 0.0:
            return []
        ux, uy = gravity.vector[0] / pull, gravity.vector[1] / pull
    solids = shape_polygons(solid_shapes(compiled))
    bounds = level.world.bounds
    walls = bounds is not None and "wall" in (bounds.left, bounds.right, bounds.top, bounds.bottom)
    far = 2.0 * math.hypot(*(shapely.union_all([*solids, zone]).bounds[2 + axis] for axis in (0, 1))) + 1e4
    low_x, low_y, high_x, high_y = zone.bounds
    start = shapely.box(low_x, low_y, high_x, high_y)
    shadow = shapely.MultiPolygon([start, shapely.affinity.translate(start, far * ux, far * uy)]).convex_hull
    # What the field stands on touches it without being over it; on what is over it, one can walk to its ends.
    over = [
        shape for shape in solids
        if shape.intersection(shadow).area > 0.0 or (shape.area == 0.0 and shape.intersection(shadow).length > 0.0)
    ]  # fmt: skip
    if not over:
        if walls:
            return []
        message = "there is nothing solid over it: who is turned over there falls up for ever; give it a ceiling"
        if gravity.vector is not None:
            x, y = gravity.vector
            message = (
                f"gravity [{x:g}, {y:g}] points to nothing solid: who it holds for falls for ever; give it a floor"
            )
        return [Finding("error", "flip-above-nothing", f"{piece.place}, field.gravity", message, piece.at)]
    if gravity.lasts != "toggle" or gravity.vector is not None:
        return []
    # From the ceiling, as far as a jump and the body itself reach.
    jump = level.player.jump_speed(math.hypot(*level.world.gravity)) ** 2 / (2.0 * math.hypot(*level.world.gravity))
    reach = jump + level.player.shape.size[1]
    nearest = min((float(shape.distance(zone)) for shape in over if shape.area > 0.0), default=0.0)
    turns_back = [
        own for other, own in zip(others, zones, strict=True) if other.facet("field").gravity.lasts != "inside"
    ]
    again = any(own.distance(shape) <= reach for own in turns_back for shape in over)
    if again:
        return []
    message = (
        f"who is turned over by it stands on a ceiling {nearest:.4g} away, and a jump from there reaches {reach:.4g}: "
        "no field that turns gravity back is in reach; bring the ceiling nearer, or put another field there"
    )
    return [Finding("warning", "toggle-stuck", f"{piece.place}, field.gravity", message, piece.at)]
