"""Rules in the kernel: they look at a tick's events, in the order of their times, then in file order."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiled import constant, leaf
from haptos.engine.journal import (
    DROPS,
    ENTER,
    GOES,
    INSIDE,
    LEAVE,
    RETURNS,
    SAY,
    SPAWNS,
    VANISHES,
    sort_since,
    write_at,
)

ANY_PIECE = -1
OTHERS = constant(-100)


@leaf
def subject_of(event: Any) -> int:
    """Return the piece that an event is about, for rules of the player's; OTHERS if it is between pieces alone."""
    if event.who < 0 or event.kind == SPAWNS:
        return event.piece
    if event.kind == DROPS or event.kind == GOES or event.kind == RETURNS or event.kind == VANISHES:
        return event.who
    return OTHERS


@leaf
def is_about(rules: Any, rule: Any, piece: int) -> bool:
    """Whether a rule is about a piece."""
    if rule.targets == ANY_PIECE:
        return True
    for index in range(rule.first_target, rule.first_target + rule.targets):
        if rules.targets[index] == piece:
            return True
    return False


@leaf
def apply_rules(
    rules: Any, states: Any, visits: Any, player: Any, journal: Any, first: int, dt: float, end: float
) -> None:
    """Let the rules answer the events since `first`; `end` is the end of the tick."""
    if rules is None:
        return
    # Most ticks have no events: they are spared the call.
    if journal.written[0] > first or rules.repeats > 0:
        _answer(rules, states, visits, player, journal, first, dt, end)


@leaf
def _answer(rules: Any, states: Any, visits: Any, player: Any, journal: Any, first: int, dt: float, end: float) -> None:
    last = min(journal.written[0], journal.rows.shape[0])
    for index in range(first, last):
        event = journal.rows[index]
        for number in range(rules.rules.shape[0]):
            rule = rules.rules[number]
            state = states[number]
            if rule.moment == INSIDE:
                _follow(rules, rule, state, visits, player, journal, event, dt)
            elif rule.moment == event.kind:
                piece = subject_of(event)
                if piece != OTHERS and is_about(rules, rule, piece):
                    _fire(rule, state, player, journal, event.t, piece, event.x, event.y)
    for number in range(rules.rules.shape[0]):
        rule = rules.rules[number]
        if rule.moment == INSIDE and states[number].inside:
            _repeat(rules, rule, states[number], visits, player, journal, dt, end)
    sort_since(journal, first)


@leaf
def _follow(rules: Any, rule: Any, state: Any, visits: Any, player: Any, journal: Any, event: Any, dt: float) -> None:
    """Start and stop the clock of an `inside` rule."""
    if event.kind == ENTER and not state.inside and is_about(rules, rule, event.piece):
        state.inside = 1
        state.next = event.t
        _repeat(rules, rule, state, visits, player, journal, dt, event.t)
    elif event.kind == LEAVE and state.inside and is_about(rules, rule, event.piece):
        if _visited(rules, rule, visits) < 0:
            _repeat(rules, rule, state, visits, player, journal, dt, event.t)
            state.inside = 0


@leaf
def _visited(rules: Any, rule: Any, visits: Any) -> int:
    for index in range(rule.first_target, rule.first_target + rule.targets):
        if visits[rules.targets[index]] > 0:
            return rules.targets[index]
    return -1


@leaf
def _repeat(rules: Any, rule: Any, state: Any, visits: Any, player: Any, journal: Any, dt: float, until: float) -> None:
    """Fire an `inside` rule at each of its times that has come."""
    period = rule.every if rule.every > 0.0 else dt
    piece = _visited(rules, rule, visits)
    while state.next <= until:
        _fire(rule, state, player, journal, state.next, piece, player.x, player.y)
        state.next += period


@leaf
def _fire(rule: Any, state: Any, player: Any, journal: Any, t: float, piece: int, x: float, y: float) -> None:
    if rule.once and state.fired:
        return
    if state.fired == 0:
        state.first = t
    state.fired += 1
    for action in range(rule.first_action, rule.first_action + rule.actions):
        write_at(journal, player, SAY, t, piece, x, y, math.nan, float(action))
