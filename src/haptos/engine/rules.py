"""Rules in the kernel: they answer a tick's events and what is due, in the order of the times, then in file order."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.acting import act
from haptos.engine.compiled import constant, leaf
from haptos.engine.journal import (
    DROPS,
    ENTER,
    GOES,
    INSIDE,
    LEAVE,
    NO_PIECE,
    RETURNS,
    SPAWNS,
    VANISHES,
    sort_since,
)

ANY_PIECE = -1
OTHERS = constant(-100)
# Moments that no event stands for: a timer's, and a counter's condition that becomes true.
TIMER, COUNTER = constant(-2), constant(-3)
# What an `if` asks about, and how it compares.
NO_CONDITION, OF_VALUE, OF_LEFT, OF_ACTIVE = (constant(kind) for kind in range(4))
COMPARISONS = ("==", "!=", "<=", ">=", "<", ">")
EQUAL, UNEQUAL, AT_MOST, AT_LEAST, BELOW, ABOVE = (constant(code) for code in range(len(COMPARISONS)))
# Rules that fire more often than this in one tick fire each other without end.
MOST_FIRINGS = 1000


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
    rules: Any, stakes: Any, movers: Any, states: Any, visits: Any, moving: Any, counts: Any, given: Any, cells: Any,
    player: Any, journal: Any, first: int, dt: float, end: float,
) -> None:  # fmt: skip
    """Let the rules answer the events since `first`, and what is due until the end of the tick."""
    if rules is None:
        return
    # Most ticks have no events: they are spared the call.
    if journal.written[0] > first or rules.repeats > 0:
        _answer(rules, stakes, movers, states, visits, moving, counts, given, cells, player, journal, first, dt, end)


@leaf
def _answer(
    rules: Any, stakes: Any, movers: Any, states: Any, visits: Any, moving: Any, counts: Any, given: Any, cells: Any,
    player: Any, journal: Any, first: int, dt: float, end: float,
) -> None:  # fmt: skip
    for number in range(rules.rules.shape[0]):
        states[number].burst = 0
    sort_since(journal, first)
    index = first
    while player.looping == 0:
        has_event = index < min(journal.written[0], journal.rows.shape[0])
        until = journal.rows[index].t if has_event else end
        due = _next_due(rules, states, min(until, end))
        if due >= 0:
            state = states[due]
            t = state.due
            state.due = math.inf
            _act(rules, stakes, movers, due, states, moving, counts, given, cells, player, journal, state.piece, t)
        elif has_event:
            event = journal.rows[index]
            index += 1
            for number in range(rules.rules.shape[0]):
                rule = rules.rules[number]
                if rule.moment == INSIDE:
                    _follow(rules, rule, states[number], visits, event)
                elif rule.moment == event.kind:
                    piece = subject_of(event)
                    if piece != OTHERS and is_about(rules, rule, piece):
                        _fire(
                            rules, stakes, movers, number, states, moving, counts, given, cells, player, journal, piece,
                            event.t, event.x, event.y,
                        )  # fmt: skip
        else:
            number, t = _next_repeat(rules, states, end)
            if number < 0:
                break
            state = states[number]
            rule = rules.rules[number]
            piece = _visited(rules, rule, visits) if rule.moment == INSIDE else NO_PIECE
            _fire(
                rules, stakes, movers, number, states, moving, counts, given, cells, player, journal, piece, t,
                player.x, player.y,
            )  # fmt: skip
            state.next += rule.every if rule.every > 0.0 else dt
            if rule.moment == INSIDE and state.next > state.until:
                state.inside = 0
        _notice(rules, stakes, movers, states, moving, counts, given, cells, player, journal, min(until, end))
    sort_since(journal, first)


@leaf
def _next_due(rules: Any, states: Any, until: float) -> int:
    """Return the rule whose delay ends first, until a time; -1 if none does."""
    best = -1
    for number in range(rules.rules.shape[0]):
        if states[number].due <= until:
            if best < 0 or states[number].due < states[best].due:
                best = number
    return best


@leaf
def _next_repeat(rules: Any, states: Any, end: float) -> tuple[int, float]:
    """Return the rule that comes again first in this tick, and when; -1 if none does."""
    best, first = -1, math.inf
    for number in range(rules.rules.shape[0]):
        rule, state = rules.rules[number], states[number]
        repeats = rule.moment == TIMER or (rule.moment == INSIDE and state.inside)
        if repeats and state.next <= min(end, state.until) and state.next < first:
            best, first = number, state.next
    return best, first


@leaf
def _follow(rules: Any, rule: Any, state: Any, visits: Any, event: Any) -> None:
    """Start and stop the clock of an `inside` rule."""
    if event.kind == ENTER and is_about(rules, rule, event.piece):
        if not state.inside:
            state.inside = 1
            state.next = event.t
        state.until = math.inf
    elif event.kind == LEAVE and state.inside and is_about(rules, rule, event.piece):
        if _visited(rules, rule, visits) < 0:
            state.until = event.t
            if state.next > event.t:
                state.inside = 0


@leaf
def _visited(rules: Any, rule: Any, visits: Any) -> int:
    for index in range(rule.first_target, rule.first_target + rule.targets):
        if visits[rules.targets[index]] > 0:
            return rules.targets[index]
    return rules.targets[rule.first_target] if rule.targets > 0 else NO_PIECE


@leaf
def holds(rule: Any, moving: Any, counts: Any) -> bool:
    """Whether what a rule's `if` asks is so."""
    if rule.asks == NO_CONDITION:
        return True
    if rule.asks == OF_ACTIVE:
        value = 0.0 if moving[rule.subject].off else 1.0
    elif rule.asks == OF_LEFT:
        value = counts[rule.subject].left
    else:
        value = counts[rule.subject].value
    if rule.compares == EQUAL:
        return value == rule.number
    if rule.compares == UNEQUAL:
        return value != rule.number
    if rule.compares == AT_MOST:
        return value <= rule.number
    if rule.compares == AT_LEAST:
        return value >= rule.number
    if rule.compares == BELOW:
        return value < rule.number
    return value > rule.number


@leaf
def _notice(
    rules: Any, stakes: Any, movers: Any, states: Any, moving: Any, counts: Any, given: Any, cells: Any, player: Any,
    journal: Any, now: float,
) -> None:  # fmt: skip
    """Fire the rules of counters whose condition has become true."""
    for number in range(rules.rules.shape[0]):
        rule, state = rules.rules[number], states[number]
        if rule.moment == COUNTER:
            is_so = holds(rule, moving, counts)
            was_so = state.inside != 0
            state.inside = 1 if is_so else 0
            if is_so and not was_so:
                _fire(
                    rules, stakes, movers, number, states, moving, counts, given, cells, player, journal, NO_PIECE, now,
                    player.x, player.y,
                )  # fmt: skip


@leaf
def _fire(
    rules: Any, stakes: Any, movers: Any, number: int, states: Any, moving: Any, counts: Any, given: Any, cells: Any,
    player: Any, journal: Any, piece: int, t: float, x: float, y: float,
) -> None:  # fmt: skip
    """Let a rule act, or begin its delay, unless it has done so once or its `if` does not hold."""
    rule, state = rules.rules[number], states[number]
    if rule.once and state.fired:
        return
    if not holds(rule, moving, counts):
        return
    if rule.after > 0.0:
        # One that waits already goes on waiting.
        if state.due == math.inf:
            state.fired += 1
            state.due, state.piece, state.x, state.y = t + rule.after, piece, x, y
        return
    state.fired += 1
    state.x, state.y = x, y
    _act(rules, stakes, movers, number, states, moving, counts, given, cells, player, journal, piece, t)


@leaf
def _act(
    rules: Any, stakes: Any, movers: Any, number: int, states: Any, moving: Any, counts: Any, given: Any, cells: Any,
    player: Any, journal: Any, piece: int, t: float,
) -> None:  # fmt: skip
    rule, state = rules.rules[number], states[number]
    if state.acted == 0:
        state.first = t
    state.acted += 1
    state.burst += 1
    if state.burst > MOST_FIRINGS:
        player.looping = 1
        return
    for action in range(rule.first_action, rule.first_action + rule.actions):
        act(
            rules, stakes, movers, moving, counts, given, cells, player, journal, action, piece, t, state.x, state.y
        )  # fmt: skip
