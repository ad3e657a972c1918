"""Findings about rules that can never fire."""

from __future__ import annotations

from collections.abc import Callable

from haptos.engine.build.compile_level import CompiledLevel
from haptos.level.names import did_you_mean
from haptos.level.noticing import meeting_of, never_meet
from haptos.level.resolve import ACTIVE, ResolvedLevel
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.rules import SOLID_MOMENTS, ZONE_MOMENTS, Rule
from haptos.level.selectors import MARK, OF_KIND, in_words
from haptos.level.world import BOUNDS
from haptos.study.findings import Finding

# What a piece needs for the moments of facets.
FACETS_OF: dict[str, Callable[[ResolvedPiece], bool]] = {
    "launch": lambda piece: piece.facet("launch") is not None,
    "climb": lambda piece: piece.facet("ladder") is not None,
    "pass": lambda piece: (
        piece.solid_from is not None
        or piece.facet("ladder") is not None
        or any(part.shape.line is not None for part in piece.parts)
    ),
    **dict.fromkeys(("crumble", "drop"), lambda piece: piece.facet("crumble") is not None),
    **dict.fromkeys(("attract", "collect"), lambda piece: piece.facet("pickup") is not None),
    "hurt": lambda piece: piece.facet("harm") is not None,
    "checkpoint": lambda piece: piece.facet("checkpoint") is not None,
    "finish": lambda piece: piece.facet("finish") is not None,
}
# These need a piece that moves.
RIDES = ("board", "alight", "crush")


def find_dead_rules(compiled: CompiledLevel) -> list[Finding]:
    """Rules about what does not exist, and rules that the contacts table keeps from ever firing."""
    findings = []
    for title, rule in compiled.resolved.rules:
        finding = dead_rule(compiled.cast.resolved, rule, title)
        if finding is not None:
            findings.append(finding)
    return findings


def dead_rule(resolved: ResolvedLevel, rule: Rule, title: str) -> Finding | None:
    """Return why a rule can never fire; None if it can, as far as the level says."""
    if not resolved.heeds(rule):
        return _unknown_who(resolved, rule, title)
    if resolved.doers(rule):
        return None
    if rule.piece is None:
        return _never_lost(resolved, rule, title)
    if rule.piece in BOUNDS:
        return _unwalled(resolved, rule, title)
    pieces = resolved.selected(rule.piece)
    if not pieces:
        return _unknown_piece(resolved, rule, title)
    wanted = {"overlap"} if rule.when in ZONE_MOMENTS else {"solid"} if rule.when in SOLID_MOMENTS else set()
    meetings = {piece.name: resolved.meeting(piece) for piece in pieces}
    if rule.when in RIDES and not any(resolved.pieces.index(piece) in resolved.moving for piece in pieces):
        message = f"it can never fire: no piece that it is about moves, which makes a '{rule.when}'"
        return Finding("error", "rule-no-facet", title, message, pieces[0].at)
    if rule.when in FACETS_OF and not any(FACETS_OF[rule.when](piece) for piece in pieces):
        message = f"it can never fire: no piece that it is about has what makes a '{rule.when}'"
        return Finding("error", "rule-no-facet", title, message, pieces[0].at)
    if rule.when in ZONE_MOMENTS and all(piece.facet("pickup") is not None for piece in pieces):
        message = "it can never fire: what can be taken is not entered; use 'collect' or 'attract'"
        return Finding("error", "rule-pickup-zone", title, message, pieces[0].at)
    absent = _never_there(resolved, rule, title, pieces)
    if absent is not None or not wanted or wanted & set(meetings.values()):
        return absent
    piece = pieces[0]
    pair = f"'{resolved.player_layer}' and '{piece.layer}'"
    if resolved.is_switched_off(piece):
        message = f"it can never fire: a never_meets switches off the player and '{piece.name}'; take it away"
        return Finding("error", "rule-ignored-pair", title, message, piece.at)
    if meetings[piece.name] == "nothing":
        table = "the built-in contacts table" if resolved.contacts.built_in else "[contacts]"
        message = f"it can never fire: {table} makes the layers {pair} ignore each other; make them {wanted.pop()}"
        return Finding("error", "rule-ignored-pair", title, message, piece.at)
    if rule.when in ZONE_MOMENTS:
        message = (
            f"it can never fire: '{piece.name}' is solid to the player, so the body is stopped before it is inside; "
            f"make {pair} overlap"
        )
        return Finding("error", "rule-solid-zone", title, message, piece.at)
    message = (
        f"it can never fire: '{piece.name}' only overlaps the player, and '{rule.when}' is for solid pieces; "
        "use 'enter', or make the pair solid"
    )
    return Finding("error", "rule-felt-solid", title, message, piece.at)


def _never_there(
    resolved: ResolvedLevel, rule: Rule, title: str, pieces: list[ResolvedPiece]
) -> Finding | None:  # fmt: skip
    """Return the finding that what a rule is about is switched off, or could come and go but never does."""
    if rule.when in ("gone", "return"):
        comes_and_goes = any(
            piece.facet("crumble") is not None or resolved.pieces.index(piece) in resolved.switched for piece in pieces
        )
        if not comes_and_goes:
            message = (
                f"it can never fire: no piece that it is about gives way or is switched, which makes a '{rule.when}'"
            )
            return Finding("error", "rule-no-facet", title, message, pieces[0].at)
    switched_on = [
        action.set.removesuffix(ACTIVE)
        for _, other in resolved.rules
        for action in other.do
        if action.set is not None and action.set.endswith(ACTIVE) and action.to is True
    ]
    if all(not piece.active and not any(resolved.answers(piece, one) for one in switched_on) for piece in pieces):
        message = f"it can never fire: '{pieces[0].name}' is not active at the start, and no rule switches it on"
        return Finding("error", "rule-never-there", title, message, pieces[0].at)
    return None


def _unwalled(resolved: ResolvedLevel, rule: Rule, title: str) -> Finding | None:
    """Return the finding that a side of the bounds is no wall, or that walls have no such moments."""
    bounds, side = resolved.level.world.bounds, str(rule.piece).removeprefix("bounds/")
    if bounds is None or getattr(bounds, side) != "wall":
        found = "the world has no bounds" if bounds is None else f"bounds.{side} is '{getattr(bounds, side)}'"
        return Finding("error", "rule-no-piece", title, f"it can never fire: {found}; make it a 'wall'")
    if rule.when not in SOLID_MOMENTS:
        message = f"it can never fire: a wall of the bounds has no '{rule.when}'; use 'touch'"
        return Finding("error", "rule-no-facet", title, message)
    return None


def _known_selectors(resolved: ResolvedLevel) -> list[str]:
    names = [piece.name for piece in resolved.pieces] + list(resolved.level.kinds) + list(resolved.contacts.layers)
    marks = {f"#{mark}" for piece in resolved.pieces for mark in piece.marks}
    return names + sorted(marks)


def _unknown_piece(resolved: ResolvedLevel, rule: Rule, title: str) -> Finding:
    selector = rule.piece or ""
    exact = resolved.exactly(selector)
    if exact.startswith(MARK):
        hint = did_you_mean(selector, _known_selectors(resolved), lists=False)
        return Finding("error", "rule-no-mark", title, f"no piece bears the mark '{selector}'{hint}")
    if exact.startswith(OF_KIND):
        return Finding("error", "rule-no-piece", title, f"no piece is of {in_words(exact)}")
    return Finding("error", "rule-no-piece", title, f"no piece is on {in_words(exact)}")


def _unknown_who(resolved: ResolvedLevel, rule: Rule, title: str) -> Finding:
    whos = resolved.answering(rule.who)
    if whos and rule.when in ZONE_MOMENTS:
        return _unnoticed(resolved, rule, title, whos)
    known = ["player", resolved.player_layer, *(f"#{mark}" for mark in resolved.level.player.marks)]
    if rule.who in _known_selectors(resolved):
        message = f"it can never fire: who = '{rule.who}' is not the player, and a '{rule.when}' is the player's alone"
        return Finding("error", "rule-who-still", title, message)
    hint = did_you_mean(rule.who, known, lists=False)
    return Finding("error", "rule-no-who", title, f"who = '{rule.who}' is nobody{hint}")


def _unnoticed(resolved: ResolvedLevel, rule: Rule, title: str, whos: list[int]) -> Finding:
    """Return the finding why none of the pieces that a rule waits for is ever noticed in its zone."""
    zones = resolved.answering(rule.piece or "")
    if not zones:
        return _unknown_piece(resolved, rule, title)
    who, zone = resolved.pieces[whos[0]], resolved.pieces[zones[0]]
    pairs = [(one, other) for one in whos for other in zones]
    meetings = {meeting_of(resolved, *pair) for pair in pairs}
    if "overlap" in meetings:
        shaped = any(resolved.pieces[one].can_be_met and resolved.pieces[other].can_be_met for one, other in pairs)
        why = "neither ever moves" if shaped else "one of them has no shape"
        message = f"it can never fire: '{who.name}' is not noticed in '{zone.name}', as {why}"
        return Finding("error", "rule-who-still", title, message, who.at)
    if never_meet(resolved, who, zone):
        message = f"it can never fire: a never_meets switches off '{who.name}' and '{zone.name}'; take it away"
        return Finding("error", "rule-ignored-pair", title, message, who.at)
    table = "the built-in contacts table" if resolved.contacts.built_in else "[contacts]"
    how = "solid to each other" if "solid" in meetings else "ignore each other"
    message = (
        f"it can never fire: {table} makes the layers '{who.layer}' of '{who.name}' and '{zone.layer}' of "
        f"'{zone.name}' {how}; make them overlap"
    )
    return Finding("error", "rule-ignored-pair", title, message, who.at)


def _never_lost(resolved: ResolvedLevel, rule: Rule, title: str) -> Finding | None:
    world = resolved.level.world
    if rule.when in ("lost", "respawn"):
        sides = (
            [] if world.bounds is None else [getattr(world.bounds, side) for side in ("left", "right", "top", "bottom")]
        )
        hurts = resolved.level.player.fall.harm_per_unit > 0 or any("harm" in one.facets for one in resolved.pieces)
        asked = any(action.respawn for _, other in resolved.rules for action in other.do) and rule.when == "respawn"
        if world.lost_below is None and "lost" not in sides and not hurts and not asked:
            message = (
                "it can never fire: nothing loses the player; set world.lost_below or a side of the bounds to 'lost'"
            )
            return Finding("error", "rule-never-lost", title, message)
    if world.view == "top" and rule.when in ("jump", "apex", "land", "climb", "launch", "step", "board", "alight"):
        message = f"it can never fire: there is no '{rule.when}' in the top view"
        return Finding("error", "rule-wrong-view", title, message)
    return None
