"""Rules in the kernel: they answer a tick's events and what is due, in the order of the times, then in file order."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

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


class Scene(NamedTuple):
    """What rules look at and change, of one world; see `haptos.engine.state.State`."""

    rules: Any
    states: Any
    visits: Any
    moving: Any
    spawning: Any
    counts: Any
    given: Any
    cells: Any


@leaf
def is_by(rules: Any, rule: Any, who: int) -> bool:
    """Whether what a piece does is what a rule is about."""
    for index in range(rule.first_who, rule.first_who + rule.whos):
        if rules.targets[index] == who:
            return True
    return False


@leaf
def apply_rules(
    rules: Any, scene: Any, stakes: Any, movers: Any, player: Any, journal: Any, first: int, dt: float, end: float
) -> None:  # fmt: skip
    """Let the rules answer the events since `first`, and what is due until the end of the tick."""
    if rules is None:
        return
    # Most ticks have no events: they are spared the call.
    if journal.written[0] > first or rules.repeats > 0:
        _answer(scene, stakes, movers, player, journal, first, dt, end)


@leaf
def _answer(
    scene: Any, stakes: Any, movers: Any, player: Any, journal: Any, first: int, dt: float, end: float
) -> None:  # fmt: skip
    states = scene.states
    for number in range(scene.rules.rules.shape[0]):
        states[number].burst = 0
    sort_since(journal, first)
    index = first
    while player.looping == 0:
        has_event = index < min(journal.written[0], journal.rows.shape[0])
        until = min(journal.rows[index].t, end) if has_event else end
        number, now = _next_timed(scene.rules, states, until)
        if number >= 0:
            _come_due(scene, stakes, movers, number, player, journal, now, dt)
            until = now
        elif has_event:
            _hear(scene, stakes, movers, player, journal, journal.rows[index], dt)
            index += 1
        _notice(scene, stakes, movers, player, journal, until)
        if number < 0 and not has_event:
            break
    sort_since(journal, first)


@leaf
def _next_timed(rules: Any, states: Any, until: float) -> tuple[int, float]:
    """Return the rule whose delay ends, or that comes again, first until a time, and when; -1 if none does."""
    best, first = -1, math.inf
    for number in range(rules.rules.shape[0]):
        rule, state = rules.rules[number], states[number]
        t = state.due
        if rule.moment == TIMER or (rule.moment == INSIDE and state.inside):
            t = min(t, state.next)
        if t <= until and t < first:
            best, first = number, t
    return best, first


@leaf
def _come_due(
    scene: Any, stakes: Any, movers: Any, number: int, player: Any, journal: Any, now: float, dt: float
) -> None:  # fmt: skip
    """Let a rule act whose delay is over, or fire that comes again."""
    rule, state = scene.rules.rules[number], scene.states[number]
    if state.due <= now:
        state.due = math.inf
        _act(scene, stakes, movers, number, player, journal, state.piece, now)
        return
    state.next += rule.every if rule.every > 0.0 else dt
    piece = _visited(scene.rules, rule, scene.visits) if rule.moment == INSIDE else NO_PIECE
    _fire(scene, stakes, movers, number, player, journal, piece, now, player.x, player.y)


@leaf
def _hear(scene: Any, stakes: Any, movers: Any, player: Any, journal: Any, event: Any, dt: float) -> None:
    """Let each rule answer an event that is about it."""
    kind, t, x, y, piece = event.kind, event.t, event.x, event.y, subject_of(event)
    rules = scene.rules
    for number in range(rules.rules.shape[0]):
        rule, state = rules.rules[number], scene.states[number]
        if rule.whos > 0:
            if rule.moment == kind and is_by(rules, rule, event.who) and is_about(rules, rule, event.piece):
                _fire(scene, stakes, movers, number, player, journal, event.piece, t, x, y)
            continue
        fires = rule.moment == kind
        if rule.moment == INSIDE:
            if kind == ENTER and not state.inside and is_about(rules, rule, piece):
                # It fires at once, and again from then on.
                state.inside = 1
                state.next = t + (rule.every if rule.every > 0.0 else dt)
                fires = True
            elif kind == LEAVE and state.inside and is_about(rules, rule, piece):
                state.inside = 0 if _visited(rules, rule, scene.visits) < 0 else 1
        if fires and piece != OTHERS and is_about(rules, rule, piece):
            _fire(scene, stakes, movers, number, player, journal, piece, t, x, y)


@leaf
def _visited(rules: Any, rule: Any, visits: Any) -> int:
    """Return the first piece that a rule is about and the body is inside, -1 for none."""
    for index in range(rule.first_target, rule.first_target + rule.targets):
        if visits[rules.targets[index]] > 0:
            return rules.targets[index]
    return NO_PIECE


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
def _notice(scene: Any, stakes: Any, movers: Any, player: Any, journal: Any, now: float) -> None:
    """Fire the rules of counters whose condition has become true, and look again after each."""
    rules, states = scene.rules.rules, scene.states
    number = 0
    while number < rules.shape[0] and player.looping == 0:
        rule, state = rules[number], states[number]
        number += 1
        if rule.moment != COUNTER:
            continue
        was_so = state.inside != 0
        is_so = holds(rule, scene.moving, scene.counts)
        state.inside = 1 if is_so else 0
        if is_so and not was_so:
            _fire(scene, stakes, movers, number - 1, player, journal, NO_PIECE, now, player.x, player.y)
            # What holds no longer can become true anew.
            for other in range(rules.shape[0]):
                if rules[other].moment == COUNTER and not holds(rules[other], scene.moving, scene.counts):
                    states[other].inside = 0
            number = 0


@leaf
def _fire(
    scene: Any, stakes: Any, movers: Any, number: int, player: Any, journal: Any, piece: int, t: float, x: float,
    y: float,
) -> None:  # fmt: skip
    """Let a rule act, or begin its delay, unless it has done so once or its `if` does not hold."""
    rule, state = scene.rules.rules[number], scene.states[number]
    if rule.once and state.fired:
        return
    if not holds(rule, scene.moving, scene.counts):
        return
    if rule.after > 0.0:
        # One that waits already goes on waiting.
        if state.due == math.inf:
            state.fired += 1
            state.due, state.piece, state.x, state.y = t + rule.after, piece, x, y
        return
    state.fired += 1
    state.x, state.y = x, y
    _act(scene, stakes, movers, number, player, journal, piece, t)


@leaf
def _act(
    scene: Any, stakes: Any, movers: Any, number: int, player: Any, journal: Any, piece: int, t: float
) -> None:  # fmt: skip
    rule, state = scene.rules.rules[number], scene.states[number]
    if state.acted == 0:
        state.first = t
    state.acted += 1
    state.burst += 1
    if state.burst > MOST_FIRINGS:
        player.looping = 1
        return
    for action in range(rule.first_action, rule.first_action + rule.actions):
        act(scene, stakes, movers, player, journal, action, piece, t, state.x, state.y)
