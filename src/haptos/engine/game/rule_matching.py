"""Whom and what a rule means: whether an event is about it, and who is inside what it is about."""

from __future__ import annotations

from typing import Any

from haptos.engine.compiling.contract import leaf
from haptos.engine.records.codes import ANY_PIECE, NO_PIECE, OTHERS, THE_PLAYER
from haptos.engine.records.events import DROPS, GOES, RETURNS, SPAWNS, VANISHES


@leaf
def subject_of(event: Any) -> int:
    """Return the piece that an event is about, for rules of the player's; OTHERS if it is between pieces alone."""
    if event.who < 0 or event.kind == SPAWNS:
        return event.piece
    if event.kind == DROPS or event.kind == GOES or event.kind == RETURNS or event.kind == VANISHES:
        return event.who
    return OTHERS


@leaf
def is_among(pieces: Any, first: int, count: int, piece: int) -> bool:
    """Whether a piece is one of so many."""
    for index in range(first, first + count):
        if pieces[index] == piece:
            return True
    return False


@leaf
def is_about(rules: Any, rule: Any, piece: int) -> bool:
    """Whether a rule is about a piece."""
    return rule.targets == ANY_PIECE or is_among(rules.targets, rule.first_target, rule.targets, piece)


@leaf
def is_by(rules: Any, rule: Any, who: int) -> bool:
    """Whether what a piece does is what a rule is about."""
    return is_among(rules.targets, rule.first_who, rule.whos, who)


@leaf
def piece_heard(rules: Any, rule: Any, event: Any) -> int:
    """Return the piece that an event is about for a rule, OTHERS if the event is none of the rule's."""
    if rule.players:
        piece = subject_of(event)
        if piece != OTHERS and is_about(rules, rule, piece):
            return piece
    if rule.whos > 0 and is_by(rules, rule, event.who) and is_about(rules, rule, event.piece):
        return event.piece
    return OTHERS


@leaf
def occupant(scene: Any, rule: Any) -> tuple[int, int]:
    """Return the first piece that a rule is about and somebody is inside, and who; no piece if nobody is."""
    rules = scene.rules
    if rule.players:
        for index in range(rule.first_target, rule.first_target + rule.targets):
            if scene.visits[rules.targets[index]] > 0:
                return rules.targets[index], THE_PLAYER
    return _noticed(scene.watches, scene.watching, rules, rule)


@leaf
def _noticed(watches: Any, watching: Any, rules: Any, rule: Any) -> tuple[int, int]:
    """Return the first piece that a rule is about and another piece is inside, and that one."""
    if watches is None:
        return NO_PIECE, THE_PLAYER
    for index in range(watches.shape[0]):
        watch = watches[index]
        if watching[index] and is_by(rules, rule, watch.who) and is_about(rules, rule, watch.zone):
            return watch.zone, watch.who
    return NO_PIECE, THE_PLAYER
