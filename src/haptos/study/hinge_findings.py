"""What is likely wrong with hinges: where they are, what they let turn, and which way."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import shapely

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.records import Records
from haptos.geometry.polygons import shape_polygons
from haptos.level.noticing import meeting_of
from haptos.level.resolved_piece import ResolvedPiece
from haptos.study.findings import Finding

# A leaf is looked at every so many degrees of its way.
EVERY = 5.0
# A hinge is outside of its body if it is farther from it than this share of its size.
OUTSIDE = 0.05


def find_hinge_faults(compiled: CompiledLevel) -> list[Finding]:
    """Hinges outside their body, limits without the start, weak motors, leaves that meet walls, ways of doors."""
    loose = compiled.tables.loose
    if loose is None:
        return []
    findings = []
    for hinge in loose.hinges:
        index = int(hinge["piece"])
        if index >= len(compiled.resolved.pieces):
            continue
        piece, body = compiled.resolved.pieces[index], loose.bodies[int(hinge["second"])]
        centre = compiled.origins[index] + np.array([body["centre_x"], body["centre_y"]])
        pin = centre + np.array([hinge["second_x"], hinge["second_y"]])
        leaf = shapely.union_all(shape_polygons(compiled.placement.only(compiled.placement.piece == index)))
        findings += [
            finding
            for finding in (
                _outside(piece, body, pin, leaf),
                _excluded(piece, hinge),
                _weak(compiled, piece, body, hinge),
                _swept(compiled, index, hinge, pin, leaf),
            )
            if finding is not None
        ]
        findings += _ways(compiled, piece, index, hinge, pin)
    return findings


def _outside(piece: ResolvedPiece, body: Any, pin: Any, leaf: Any) -> Finding | None:
    """Return the finding that a hinge is not on its body."""
    away = leaf.distance(shapely.Point(pin))
    if away <= OUTSIDE * float(body["size"]):
        return None
    message = (
        f"the hinge of '{piece.name}' is at ({pin[0]:g}, {pin[1]:g}), {away:.3g} outside of its shape; hinge.at counts "
        "from the piece's place, in its own frame"
    )
    return Finding("warning", "hinge-outside", f"{piece.place}, hinge.at", message, (float(pin[0]), float(pin[1])))


def _excluded(piece: ResolvedPiece, hinge: Any) -> Finding | None:
    """Return the finding that the limits do not hold where the body starts."""
    if hinge["low"] <= 0.0 <= hinge["high"]:
        return None
    low, high = math.degrees(hinge["low"]), math.degrees(hinge["high"])
    message = (
        f"the limits of '{piece.name}', {low:g}° to {high:g}°, do not hold at its start, which is 0°: it is thrown "
        "round at once; turn the piece, or the limits"
    )
    return Finding("error", "limits-exclude-start", f"{piece.place}, hinge.limits", message, piece.at)


def _weak(compiled: CompiledLevel, piece: ResolvedPiece, body: Any, hinge: Any) -> Finding | None:
    """Return the finding that a motor can't lift its leaf."""
    laws = compiled.tables.loose.laws[0]
    if hinge["torque"] <= 0.0 or hinge["speed"] == 0.0 or laws["top"]:
        return None
    gravity = math.hypot(laws["gravity_x"], laws["gravity_y"]) * float(body["gravity_factor"])
    arm = math.hypot(hinge["second_x"], hinge["second_y"])
    needed = float(body["mass"]) * gravity * arm
    if needed <= float(hinge["torque"]):
        return None
    message = (
        f"the motor of '{piece.name}' gives a torque of {hinge['torque']:.4g}, and its leaf weighs on the hinge with "
        f"up to {needed:.4g}: it does not get round; give it more max_torque"
    )
    return Finding("warning", "weak-motor", f"{piece.place}, hinge.motor", message, piece.at)


def _swept(compiled: CompiledLevel, index: int, hinge: Any, pin: Any, leaf: Any) -> Finding | None:
    """Return the finding that a leaf comes into fixed pieces as it turns."""
    resolved = compiled.resolved
    low, high = math.degrees(hinge["low"]), math.degrees(hinge["high"])
    low, high = (-180.0, 180.0) if low == -math.inf or high == math.inf else (low, high)
    pinned = {index, *(resolved.answering(resolved.pieces[index].facet("hinge").to or "") or [])}
    fixed = [
        other
        for other, one in enumerate(resolved.pieces)
        if other not in pinned
        and other not in resolved.moving
        and one.solid_from is None
        and meeting_of(resolved, index, other) == "solid"
    ]
    if not fixed:
        return None
    shapes = {
        other: shapely.union_all(shape_polygons(compiled.placement.only(compiled.placement.piece == other)))
        for other in fixed
    }
    core = leaf.buffer(-0.02 * math.sqrt(leaf.area))
    for angle in np.linspace(low, high, max(int((high - low) / EVERY), 1) + 1):
        turned = shapely.affinity.rotate(core, float(angle), origin=tuple(pin))
        met = next((other for other in fixed if turned.intersects(shapes[other])), None)
        if met is not None and abs(angle) > EVERY:
            message = (
                f"'{resolved.pieces[index].name}' comes into '{resolved.pieces[met].name}' at {angle:.0f}°, where it "
                "stops; give it limits, or never_meets, if that is not meant"
            )
            place = f"{resolved.pieces[index].place}, hinge"
            return Finding("note", "leaf-meets-solid", place, message, resolved.pieces[index].at)
    return None


def _ways(compiled: CompiledLevel, piece: ResolvedPiece, index: int, hinge: Any, pin: Any) -> list[Finding]:
    """Return which way a door turns that a detector drives, as seen from that: away from it, or toward it."""
    findings = []
    origin = compiled.origins[index]
    arm = compiled.origins[index] + _centre(compiled, index, hinge) - pin
    for title, rule in compiled.resolved.rules:
        for action in rule.do:
            path = action.set or ""
            is_motor = path.endswith(".hinge.motor.speed") and path.removesuffix(".hinge.motor.speed") == piece.name
            if not is_motor or rule.piece is None or rule.when not in ("enter", "occupied", "inside", "touch"):
                continue
            speed = _speed(compiled, action.to)
            for zone in compiled.resolved.answering(rule.piece):
                side = compiled.origins[zone] - origin
                # The far end of the leaf goes this way first.
                way = np.array([-arm[1], arm[0]]) * np.sign(speed)
                if speed == 0.0 or not np.hypot(*way) > 0.0 or not np.hypot(*side) > 0.0:
                    continue
                toward = float(way @ side) / float(np.hypot(*way) * np.hypot(*side))
                sense = "counter-clockwise" if speed > 0 else "clockwise"
                where = "toward" if toward > 0.1 else "away from" if toward < -0.1 else "alongside"
                message = (
                    f"'{piece.name}' turns {sense} when '{compiled.resolved.pieces[zone].name}' is entered: {where} "
                    "the side on which that lies; change the sign of the speed if that is not meant"
                )
                findings.append(Finding("note", "door-way", f"{title}, do", message, piece.at))
    return findings


def _centre(compiled: CompiledLevel, index: int, hinge: Records) -> Any:
    body = compiled.tables.loose.bodies[int(hinge["second"])]
    return np.array([body["centre_x"], body["centre_y"]])


def _speed(compiled: CompiledLevel, to: Any) -> float:
    """Return the angular speed that a rule sets, degrees a second."""
    if isinstance(to, str):
        return compiled.level.unit_table().convert(to, "turning")
    return float(to)
