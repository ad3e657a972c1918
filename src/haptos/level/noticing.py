"""Which pieces' moments a rule can be about: what they do themselves, and the zones in which they are noticed."""

from __future__ import annotations

from haptos.level.assemblies import PLAYER
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.roster import OTHER, Roster
from haptos.level.rules import ZONE_MOMENTS, Rule


def noticed_pairs(resolved: Roster, rule: Rule) -> list[tuple[int, int]]:
    """Return which pieces a rule notices in which zones: those that overlap them by the contacts table."""
    if rule.when not in ZONE_MOMENTS or rule.who == PLAYER or rule.piece is None:
        return []
    pieces, contacts = resolved.pieces, resolved.contacts
    pairs = []
    for zone in resolved.answering(rule.piece):
        piece = pieces[zone]
        if not piece.can_be_met:
            continue
        for layer, others in resolved.on_layers.items():
            if contacts.between(layer, piece.layer).meeting == "overlap":
                pairs += [
                    (who, zone)
                    for who in others
                    if (rule.who == OTHER or resolved.answers(pieces[who], rule.who))
                    and who != zone
                    and parts_from(resolved, who, zone)
                    and not never_meet(resolved, pieces[who], piece)
                ]
    return sorted(pairs)


def meeting_of(resolved: Roster, one: int, other: int) -> str:
    """What two pieces do when they meet: solid, overlap or nothing."""
    first, second = resolved.pieces[one], resolved.pieces[other]
    if one == other or never_meet(resolved, first, second):
        return "nothing"
    return resolved.contacts.between(first.layer, second.layer).meeting


def parts_from(resolved: Roster, one: int, other: int) -> bool:
    """Whether a piece moves as seen from another one, or is made while that is there."""
    own, its = {one, *resolved.carriers(one)}, {other, *resolved.carriers(other)}
    hung = [bool({resolved.pieces[index].name for index in chain} & resolved.hung_on_player) for chain in (own, its)]
    return hung[0] != hung[1] or any(resolved.moves(index) or index >= resolved.written for index in own ^ its)


def never_meet(resolved: Roster, one: ResolvedPiece, other: ResolvedPiece) -> bool:
    """Whether a `never_meets` of one of two pieces names the other."""
    return any(
        resolved.answers(its, selector) for its, by in ((one, other), (other, one)) for selector in by.never_meets
    )
