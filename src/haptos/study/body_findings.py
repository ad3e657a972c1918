"""What is likely wrong with loose bodies: where they start, what they weigh, and whether they can be pushed."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.simulation import simulate
from haptos.geometry.polygons import shape_polygons
from haptos.level.noticing import meeting_of
from haptos.study.findings import Finding
from haptos.study.solids import walls_of

# Deeper overlaps than this share of a body's size are told.
DEEP = 0.01
# Of two that lie on each other, the heavier has at most so many times the other's mass.
MOST_RATIO = 1000.0
# So long is looked whether a body comes to lie on something.
FALLS_FOR = 3.0


def find_body_faults(compiled: CompiledLevel) -> list[Finding]:
    """Bodies that overlap at the start, are far heavier than what they lie on, fall out, or can't be moved."""
    loose = compiled.tables.loose
    if loose is None:
        return []
    rows = [row for row, piece in enumerate(loose.bodies["piece"]) if piece < len(compiled.resolved.pieces)]
    shapes = {row: _shape(compiled, int(loose.bodies["piece"][row])) for row in rows}
    return [
        *_overlaps(compiled, rows, shapes),
        *_ratios(compiled, rows, shapes),
        *_falls(compiled, rows),
        *_blocks(compiled, rows, shapes),
    ]


def _shape(compiled: CompiledLevel, piece: int) -> Any:
    import shapely

    return shapely.union_all(shape_polygons(compiled.placement.only(compiled.placement.piece == piece)))


def _overlaps(compiled: CompiledLevel, rows: list[int], shapes: dict[int, Any]) -> list[Finding]:
    """Bodies that are inside something solid when the level begins, and are pressed out of it at once."""
    loose, resolved = compiled.tables.loose, compiled.resolved
    assert loose is not None
    findings = []
    of_piece = {int(loose.bodies["piece"][row]): row for row in rows}
    for row in rows:
        piece = int(loose.bodies["piece"][row])
        if not resolved.pieces[piece].active:
            continue
        deep = DEEP * float(loose.bodies["size"][row])
        core = shapes[row].buffer(-deep)
        pinned = _pinned_to(compiled, row) | {piece}
        others = [
            other
            for other in range(len(resolved.pieces))
            if other not in pinned
            and (other not in of_piece or other > piece)
            and resolved.pieces[other].active
            and resolved.pieces[other].solid_from is None
            and meeting_of(resolved, piece, other) == "solid"
        ]
        for other in others:
            if piece in _pinned_to(compiled, of_piece.get(other, -1)):
                continue
            its = shapes[of_piece[other]] if other in of_piece else _shape(compiled, other)
            if core.intersects(its):
                names = f"'{resolved.pieces[piece].name}' is inside '{resolved.pieces[other].name}'"
                message = f"{names} when the level begins, and is pressed out of it; move them apart"
                place = f"{resolved.pieces[piece].place}, body"
                findings.append(Finding("warning", "body-overlaps", place, message, resolved.pieces[piece].at))
        for side, wall in walls_of(compiled).items():
            if core.intersects(wall):
                message = f"'{resolved.pieces[piece].name}' is inside {side} when the level begins; move it in"
                place = f"{resolved.pieces[piece].place}, body"
                findings.append(Finding("warning", "body-overlaps", place, message, resolved.pieces[piece].at))
    return findings


def _pinned_to(compiled: CompiledLevel, row: int) -> set[int]:
    """Return the pieces that a hinge pins a body to, or holds on it."""
    loose, resolved = compiled.tables.loose, compiled.resolved
    assert loose is not None
    if row < 0:
        return set()
    hinge = resolved.pieces[int(loose.bodies["piece"][row])].facet("hinge")
    return set() if hinge is None or hinge.to is None else set(resolved.answering(hinge.to))


def _ratios(compiled: CompiledLevel, rows: list[int], shapes: dict[int, Any]) -> list[Finding]:
    """Bodies that lie on far lighter ones, into which they sink."""
    loose, resolved = compiled.tables.loose, compiled.resolved
    assert loose is not None
    findings = []
    for index, row in enumerate(rows):
        for other in rows[index + 1 :]:
            one, its = float(loose.bodies["mass"][row]), float(loose.bodies["mass"][other])
            heavy, light = (row, other) if one > its else (other, row)
            if max(one, its) <= MOST_RATIO * min(one, its):
                continue
            near = DEEP * float(loose.bodies["size"][light])
            if shapes[row].distance(shapes[other]) <= near:
                names = [resolved.pieces[int(loose.bodies["piece"][which])].name for which in (heavy, light)]
                message = (
                    f"'{names[0]}' touches '{names[1]}' and has {max(one, its) / min(one, its):.0f} times its mass; "
                    "what lies on far lighter bodies sinks into them, bring the masses nearer to each other"
                )
                piece = resolved.pieces[int(loose.bodies["piece"][heavy])]
                findings.append(Finding("warning", "mass-ratio", f"{piece.place}, body", message, piece.at))
    return findings


def _falls(compiled: CompiledLevel, rows: list[int]) -> list[Finding]:
    """Bodies that fall out of the level though nobody touches them."""
    if compiled.level.world.view == "top" or not rows:
        return []
    level = compiled.level
    run = simulate(level, f"wait {FALLS_FOR} s")
    pieces, up = run.pieces, level.world.up
    findings = []
    lost = set(run.events[run.events["event"] == "lost"]["who"])
    for row in rows:
        piece = compiled.resolved.pieces[int(compiled.tables.loose.bodies["piece"][row])]
        own = pieces[pieces["piece"] == piece.name]
        if not len(own):
            continue
        fall = -(np.diff(own["x"]) * up[0] + np.diff(own["y"]) * up[1])
        drops = math.hypot(*level.world.gravity) > 0 and len(fall) > 1 and fall[-1] > max(level.player.shape.size) / 4
        if piece.name in lost or drops:
            message = f"'{piece.name}' falls out of the level by itself within {FALLS_FOR:g} s; put something under it"
            findings.append(Finding("warning", "body-falls-out", f"{piece.place}, body", message, piece.at))
    return findings


def _blocks(compiled: CompiledLevel, rows: list[int], shapes: dict[int, Any]) -> list[Finding]:
    """Bodies on the ground that the player can't push, and that are too high to be stepped over or jumped onto."""
    level, loose = compiled.level, compiled.tables.loose
    assert loose is not None
    gravity = math.hypot(*level.world.gravity)
    if level.world.view == "top" or gravity == 0.0:
        return []
    force = float(loose.laws["force"][0])
    reach = level.player.jump_speed(gravity) ** 2 / (2.0 * gravity * level.player.fall.rising_factor)
    findings = []
    for row in rows:
        body = loose.bodies[row]
        piece = compiled.resolved.pieces[int(body["piece"])]
        needed = float(body["friction"] * body["mass"] * body["gravity_factor"]) * gravity
        x0, y0, x1, y1 = shapes[row].bounds
        up = level.world.up
        height = abs(up[0]) * (x1 - x0) + abs(up[1]) * (y1 - y0)
        if body["pinned"] or needed <= force or height <= reach or compiled.resolved.meeting(piece) != "solid":
            continue
        message = (
            f"'{piece.name}' needs a push of {needed:.0f} to slide and the player has {force:.0f}, and it is too high "
            "to be jumped onto: where it stands, nobody passes; make it lighter, or push.force greater"
        )
        findings.append(Finding("warning", "body-blocks", f"{piece.place}, body", message, piece.at))
    return findings
