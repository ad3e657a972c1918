"""Findings about facets that can't act: on what the player ignores, or of the wrong sort; and zones nobody asks for."""

from __future__ import annotations

from haptos.engine.build.compile_level import CompiledLevel
from haptos.level.resolved_piece import ResolvedPiece
from haptos.study.findings import Finding

# What a facet needs of the player and the piece: to be stood on or met, to be felt, or either of them. Pickups and
# harm have findings of their own; what flies and what is made is not the player's alone.
SOLID, FELT, EITHER = ("solid",), ("overlap",), ("solid", "overlap")
NEEDS = {
    "surface": SOLID, "crumble": SOLID, "field": FELT, "ladder": FELT, "launch": EITHER, "checkpoint": EITHER,
    "finish": EITHER,
}  # fmt: skip
WHY = {
    "surface": "it acts on who stands on it", "crumble": "it gives way under who stands on it",
    "field": "it acts on who is inside", "ladder": "it is climbed from inside", "launch": "it throws who meets it",
    "checkpoint": "it saves who meets it", "finish": "it ends the level for who meets it",
    "solid_from": "it says from where the piece is solid",
}  # fmt: skip
HOW = {"solid": "solid to the player", "overlap": "only felt by the player", "nothing": "ignored by the player"}
# Facets that make something of a piece that nobody has to meet, or that others meet.
ACTS_ALONE = ("look", "spawner", "drift", "fragile", "rest")


def find_idle_facets(compiled: CompiledLevel) -> list[Finding]:
    """Facets on layers that the player ignores, or that are solid where they should be felt, or the other way round."""
    resolved = compiled.resolved
    top_view = compiled.level.world.view == "top"
    findings = []
    for piece in resolved.pieces:
        meeting = resolved.meeting(piece)
        for name, needs in NEEDS.items():
            if piece.facet(name) is None:
                continue
            # Seen from above, what is overlapped is the floor.
            wanted = EITHER if top_view and name == "surface" else needs
            if meeting not in wanted:
                findings.append(_idle(compiled, piece, name, meeting, wanted))
        if piece.solid_from is not None and meeting != "solid":
            findings.append(_idle(compiled, piece, "solid_from", meeting, SOLID))
    return findings


def find_unheard_zones(compiled: CompiledLevel) -> list[Finding]:
    """Zones without a facet that acts on who is inside, that no rule asks for."""
    resolved = compiled.resolved
    carriers = {index for number in range(len(resolved.pieces)) for index in resolved.carriers(number)}
    asked = {name for _, rule in resolved.rules for name in (rule.piece, rule.who) if name is not None}
    named = {action.at for _, rule in resolved.rules for action in rule.do} | {
        action.parent for _, rule in resolved.rules for action in rule.do
    }
    findings = []
    for index, piece in enumerate(resolved.pieces):
        if resolved.meeting(piece) != "overlap" or index in carriers or piece.parent == "player":
            continue
        acts = any(name in piece.facets for name in (*NEEDS, "pickup", "harm", *ACTS_ALONE))
        if acts or piece.name in named or any(resolved.answers(piece, name) for name in asked):
            continue
        message = (
            "the player only feels it, and nothing comes of that: it has no facet that acts, and no rule asks for it"
        )
        findings.append(Finding("note", "zone-unheard", piece.place, message, piece.at))
    return findings


def _idle(
    compiled: CompiledLevel, piece: ResolvedPiece, name: str, meeting: str, needs: tuple[str, ...]
) -> Finding:  # fmt: skip
    resolved = compiled.resolved
    place = f"{piece.place}, {name}"
    if piece.name in resolved.hung_on_player:
        message = f"it can never act: {WHY[name]}, and what hangs on the player is never met by it"
        return Finding("warning", "facet-ignored", place, message, piece.at)
    if resolved.is_switched_off(piece):
        message = f"it can never act: {WHY[name]}, and a never_meets switches off the player and the piece"
        return Finding("warning", "facet-ignored", place, message, piece.at)
    pair = f"'{resolved.player_layer}' and '{piece.layer}'"
    should = "solid to each other" if needs == SOLID else "overlap"
    message = f"it can never act: {WHY[name]}, but the piece is {HOW[meeting]}; make the layers {pair} {should}"
    code = "facet-ignored" if meeting == "nothing" else "facet-wrong-sort"
    return Finding("warning", code, place, message, piece.at)
