"""What is likely wrong with what can be taken, hurts, saves, ends the level, or is counted."""

from __future__ import annotations

import shapely

from haptos.engine.build.compile_level import CompiledLevel, body_of
from haptos.geometry.polygons import body_polygon, shape_polygons
from haptos.level.resolved_piece import ResolvedPiece
from haptos.study.findings import Finding
from haptos.study.start_findings import has_floor, solids_around

# A body, or a pickup, deeper than this inside something solid is not meant to be there, as a share of the height.
INSIDE = 1e-6


def find_pickup_faults(compiled: CompiledLevel) -> list[Finding]:
    """Pickups out of reach, that never come, are never caught, or that nobody notices."""
    stakes = compiled.tables.stakes
    resolved = compiled.resolved
    findings = _ignored(compiled, "pickup", "taken")
    if stakes is None:
        return findings
    for row in stakes.pickups:
        index = int(row["piece"])
        if index >= len(resolved.pieces):
            continue
        piece = resolved.pieces[index]
        findings += [
            finding
            for finding in (
                _never_comes(piece, float(row["collect"]), float(row["attract"])),
                _never_caught(compiled, piece, float(row["collect"]), float(row["attract"])),
                _out_of_place(compiled, index),
                _unnoticed(compiled, piece),
            )
            if finding is not None
        ]
    return _once(findings)


def find_harm_faults(compiled: CompiledLevel) -> list[Finding]:
    """Harm that the player's layer ignores, or that harms nobody."""
    resolved = compiled.resolved
    findings = _ignored(compiled, "harm", "felt")
    for piece in resolved.pieces:
        harm = piece.facet("harm")
        if harm is not None and harm.points == 0 and not harm.lethal:
            message = "it takes 0 points and is not lethal, so it only knocks; give it points"
            findings.append(Finding("note", "harmless", f"{piece.place}, harm", message, piece.at))
    return _once(findings)


def _once(findings: list[Finding]) -> list[Finding]:
    """Return findings without those of copies, which have the faults of the one that they are copies of."""
    return list({(finding.code, finding.place): finding for finding in findings}.values())


def find_respawn_faults(compiled: CompiledLevel) -> list[Finding]:
    """Checkpoints that can't be reached, or bring the player back inside something solid, into harm, above nothing."""
    stakes = compiled.tables.stakes
    resolved = compiled.resolved
    findings = _ignored(compiled, "checkpoint", "reached")
    for row in () if stakes is None else stakes.checkpoints:
        if int(row["piece"]) >= len(resolved.pieces):
            continue
        piece = resolved.pieces[int(row["piece"])]
        x, y = float(row["x"]), float(row["y"])
        place, where = f"{piece.place}, checkpoint", f"brings the player back at ({x:g}, {y:g}),"
        inside = solids_around(compiled, x, y)
        if inside:
            other, depth = inside[0]
            message = f"it {where} {depth:.3g} deep inside '{other.name}', which is solid to it; move respawn_at"
            findings.append(Finding("error", "respawn-inside", place, message, (x, y)))
        elif compiled.level.world.view == "side" and not has_floor(compiled, x, y):
            message = f"it {where} above nothing solid: the body falls at once; move respawn_at"
            findings.append(Finding("error", "respawn-above-nothing", place, message, (x, y)))
        harmful = _harm_at(compiled, x, y)
        if harmful is not None:
            message = f"it {where} which lies in the harm of '{harmful.name}'; move respawn_at"
            findings.append(Finding("error", "respawn-in-harm", place, message, (x, y)))
    return findings


def find_finish_faults(compiled: CompiledLevel) -> list[Finding]:
    """A level that can be saved or counted but not finished, or whose finish can't be touched or fulfilled."""
    resolved = compiled.resolved
    finishes = [piece for piece in resolved.pieces if piece.facet("finish") is not None]
    findings = _ignored(compiled, "finish", "reached")
    for piece in finishes:
        needs = piece.facet("finish").needs
        if needs is not None and not any(_counts(other, needs) for other in resolved.pieces):
            message = f"it needs all of '{needs}', but nothing can be taken for that: it is finished at once"
            findings.append(
                Finding("warning", "finish-needs-nothing", f"{piece.place}, finish.needs", message, piece.at)
            )
    ends = any(action.finish for _, rule in resolved.rules for action in rule.do)
    saves = next((piece for piece in resolved.pieces if piece.facet("checkpoint") is not None), None)
    if saves is not None and not finishes and not ends:
        message = "the level has checkpoints, but no finish and no rule that ends it; give a zone finish = {}"
        findings.append(Finding("warning", "no-finish", saves.place, message))
    return findings


def find_unread_counters(compiled: CompiledLevel) -> list[Finding]:
    """Counters that no reward, no finish and no rule ever reads, and those that nothing adds to."""
    resolved = compiled.resolved
    findings = []
    for name, counter in resolved.level.counters.items():
        asked = any(one.measure in ("value", "left") and one.subject == name for one in resolved.asked)
        needed = any(
            piece.facet("finish") is not None and piece.facet("finish").needs == name for piece in resolved.pieces
        )
        added = any(action.add == name for _, rule in resolved.rules for action in rule.do)
        place = f"counters.{name}"
        if not any(_counts(piece, name) for piece in compiled.cast.resolved.pieces) and not added:
            findings.append(Finding("warning", "counter-stands", place, "nothing ever adds to it"))
        elif not asked and not needed and not counter.rewards:
            message = "it is counted, but nothing reads it: no reward, no finish that needs it, no rule that asks"
            findings.append(Finding("note", "counter-unread", place, message))
    return findings


def _counts(piece: ResolvedPiece, counter: str) -> bool:
    pickup = piece.facet("pickup")
    return pickup is not None and pickup.counter == counter


def _ignored(compiled: CompiledLevel, facet: str, done: str) -> list[Finding]:
    """Return the findings that the player's layer ignores what has a facet."""
    resolved = compiled.resolved
    findings = []
    for piece in resolved.pieces:
        if piece.facet(facet) is not None and resolved.meeting(piece) == "nothing":
            pair = f"'{resolved.player_layer}' and '{piece.layer}'"
            message = f"it can never be {done}: the layers {pair} ignore each other; make them overlap in [contacts]"
            findings.append(Finding("error", f"{facet}-ignored", f"{piece.place}, {facet}", message, piece.at))
    return findings


def _never_comes(piece: ResolvedPiece, collect: float, attract: float) -> Finding | None:
    if 0.0 < attract <= collect:
        message = (
            f"attract_within {attract:g} is not larger than collect_within {collect:g}: it is taken before it comes"
        )
        return Finding("warning", "attract-too-near", f"{piece.place}, pickup", message, piece.at)
    return None


def _never_caught(compiled: CompiledLevel, piece: ResolvedPiece, collect: float, attract: float) -> Finding | None:
    """Return the finding that a player who runs away from what comes leaves it behind for good."""
    pickup, player = piece.facet("pickup"), compiled.level.player
    if attract <= 0.0:
        return None
    fastest = max(player.gaits.walk, player.gaits.sprint)
    unit = compiled.level.world.length_unit
    place = f"{piece.place}, pickup"
    if pickup.motion == "ease":
        # It lags behind the middle by speed over rate; from its side, half a width less.
        lag = fastest / pickup.rate - player.shape.size[0] / 2
        if lag > collect:
            wanted = fastest / (collect + player.shape.size[0] / 2)
            message = (
                f"behind a player at {fastest:g} {unit}/s it stays {lag:.4g} {unit} away, more than it is taken at "
                f"({collect:g}): it is caught only once the player slows down; a rate of {wanted:.3g} would do"
            )
            return Finding("note", "ease-too-slow", place, message, piece.at)
    elif pickup.speed <= fastest:
        message = f"it comes at {pickup.speed:g} {unit}/s and never catches a player who goes at {fastest:g}"
        return Finding("note", "steady-too-slow", place, message, piece.at)
    return None


def _out_of_place(compiled: CompiledLevel, index: int) -> Finding | None:
    piece = compiled.resolved.pieces[index]
    x, y = map(float, compiled.origins[index])
    bounds = compiled.level.world.bounds
    if bounds is not None:
        x0, y0, x1, y1 = bounds.corners
        if not (x0 <= x <= x1 and y0 <= y <= y1):
            message = f"it lies at ({x:g}, {y:g}), out of the bounds; move it inside"
            return Finding("error", "pickup-out-of-bounds", piece.place, message, (x, y))
    if index in compiled.resolved.moving:
        return None
    point = shapely.Point(x, y)
    for other, solid in enumerate(compiled.resolved.pieces):
        if compiled.resolved.meeting(solid) != "solid" or solid.solid_from is not None:
            continue
        shapes = shape_polygons(compiled.placement.only(compiled.placement.piece == other))
        if any(shape.contains(point) for shape in shapes):
            message = f"its middle lies inside '{solid.name}', which is solid to the player; move one of them"
            return Finding("warning", "pickup-inside", piece.place, message, (x, y))
    return None


def _unnoticed(compiled: CompiledLevel, piece: ResolvedPiece) -> Finding | None:
    if piece.facet("pickup").counter is not None:
        return None
    for _, rule in compiled.resolved.rules:
        if rule.when in ("collect", "attract") and (rule.piece is None or compiled.resolved.answers(piece, rule.piece)):
            return None
    message = "nothing comes of taking it: it has no counter, and no rule waits for 'collect'"
    return Finding("warning", "pickup-unnoticed", f"{piece.place}, pickup", message, piece.at)


def _harm_at(compiled: CompiledLevel, x: float, y: float) -> ResolvedPiece | None:
    """Return a piece that hurts a body at a place, where it stays and is there from the start."""
    resolved = compiled.resolved
    core = body_of(compiled.level)
    body = body_polygon(core, x, y).buffer(-INSIDE * compiled.level.player.shape.size[1])
    for index, piece in enumerate(resolved.pieces):
        if piece.facet("harm") is None or not piece.active or resolved.meeting(piece) == "nothing":
            continue
        if any(
            shape.intersects(body)
            for shape in shape_polygons(compiled.placement.only(compiled.placement.piece == index))
        ):
            return piece
    return None
