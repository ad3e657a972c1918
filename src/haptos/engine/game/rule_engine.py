"""Rules in the kernel: they answer a tick's events and what is due, in the order of the times, then in file order."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import leaf
from haptos.engine.game.rule_actions import act
from haptos.engine.game.rule_conditions import holds
from haptos.engine.game.rule_matching import occupant, piece_heard
from haptos.engine.records.codes import (
    COUNTER,
    CROWDED,
    ENDLESS,
    NO_PIECE,
    OTHERS,
    THE_PLAYER,
    TIMER,
)
from haptos.engine.records.events import ENTER, INSIDE, LEAVE
from haptos.engine.records.journal import sort_since
from haptos.engine.records.state import MOST_WAITING

# Rules that fire more often than this in one tick fire each other without end.
MOST_FIRINGS = 1000


@leaf
def apply_rules(core: Any, rules: Any, scene: Any, stakes: Any, movers: Any, first: int, dt: float, end: float) -> None:
    """Let the rules answer the events since `first`, and what is due until the end of the tick."""
    journal = core.journal
    if rules is None:
        return
    # Most ticks have no events: they are spared the call.
    if journal.written[0] > first or rules.repeats > 0:
        _answer(core, scene, stakes, movers, first, dt, end)


@leaf
def _answer(core: Any, scene: Any, stakes: Any, movers: Any, first: int, dt: float, end: float) -> None:
    player, journal = core.player, core.journal
    states = scene.states
    for number in range(scene.rules.rules.shape[0]):
        states[number].burst = 0
    sort_since(journal, first)
    index = first
    while player.halted == 0:
        has_event = index < min(journal.written[0], journal.rows.shape[0])
        until = min(journal.rows[index].t, end) if has_event else end
        number, now = _next_timed(scene.rules, states, scene.firings, until)
        if number >= 0:
            _come_due(core, scene, stakes, movers, number, now, dt)
            until = now
        elif has_event:
            _hear(core, scene, stakes, movers, journal.rows[index], dt)
            index += 1
        _notice(core, scene, stakes, movers, until)
        if number < 0 and not has_event:
            break
    sort_since(journal, first)


@leaf
def _next_timed(rules: Any, states: Any, firings: Any, until: float) -> tuple[int, float]:
    """Return the rule whose delay ends, or that comes again, first until a time, and when; -1 if none does."""
    best, first = -1, math.inf
    for number in range(rules.rules.shape[0]):
        rule, state = rules.rules[number], states[number]
        t = math.inf
        if state.waiting > 0:
            t = firings[rule.queue][state.head].due
        if rule.moment == TIMER or (rule.moment == INSIDE and state.inside > 0):
            t = min(t, state.next)
        if t <= until and t < first:
            best, first = number, t
    return best, first


@leaf
def _come_due(core: Any, scene: Any, stakes: Any, movers: Any, number: int, now: float, dt: float) -> None:
    """Let a rule act whose delay is over, or fire that comes again."""
    player = core.player
    rule, state = scene.rules.rules[number], scene.states[number]
    if state.waiting > 0:
        firing = scene.firings[rule.queue][state.head]
        if firing.due <= now:
            state.waiting -= 1
            state.head = (state.head + 1) % MOST_WAITING
            _act(core, scene, stakes, movers, number, firing.piece, firing.who, now, firing.x, firing.y)
            return
    state.next += rule.every if rule.every > 0.0 else dt
    piece, who = NO_PIECE, THE_PLAYER
    if rule.moment == INSIDE:
        piece, who = occupant(scene, rule)
    _fire(core, scene, stakes, movers, number, piece, who, now, player.x, player.y)


@leaf
def _hear(core: Any, scene: Any, stakes: Any, movers: Any, event: Any, dt: float) -> None:
    """Let each rule answer an event that is about it."""
    kind, t, x, y, who = event.kind, event.t, event.x, event.y, event.who
    rules = scene.rules
    for number in range(rules.rules.shape[0]):
        rule, state = rules.rules[number], scene.states[number]
        if rule.moment != kind and not rule.crowd and rule.moment != INSIDE:
            continue
        piece = piece_heard(rules, rule, event)
        if piece == OTHERS:
            continue
        fires = rule.moment == kind
        if rule.crowd or rule.moment == INSIDE:
            was = state.inside
            if kind == ENTER:
                state.inside = was + 1
                fires = was == 0 and rule.moment != LEAVE
                if fires:
                    # One that comes again does from now on.
                    state.next = t + (rule.every if rule.every > 0.0 else dt)
            elif kind == LEAVE:
                state.inside = max(was - 1, 0)
                fires = was == 1 and rule.moment == LEAVE
            else:
                fires = False
        if fires:
            _fire(core, scene, stakes, movers, number, piece, who, t, x, y)


@leaf
def _notice(core: Any, scene: Any, stakes: Any, movers: Any, now: float) -> None:
    """Fire the rules of counters whose condition has become true, and look again after each."""
    player = core.player
    rules, states = scene.rules.rules, scene.states
    number = 0
    while number < rules.shape[0] and player.halted == 0:
        rule, state = rules[number], states[number]
        number += 1
        if rule.moment != COUNTER:
            continue
        was_so = state.inside != 0
        is_so = holds(core, movers, scene, rule)
        state.inside = 1 if is_so else 0
        if is_so and not was_so:
            _fire(core, scene, stakes, movers, number - 1, NO_PIECE, THE_PLAYER, now, player.x, player.y)
            # What holds no longer can become true anew.
            for other in range(rules.shape[0]):
                if rules[other].moment == COUNTER and not holds(core, movers, scene, rules[other]):
                    states[other].inside = 0
            number = 0


@leaf
def _fire(
    core: Any, scene: Any, stakes: Any, movers: Any, number: int, piece: int, who: int, t: float, x: float, y: float
) -> None:
    """Let a rule act, or begin its delay, unless it has done so once or its `if` does not hold."""
    player = core.player
    rule, state = scene.rules.rules[number], scene.states[number]
    if rule.once and state.fired:
        return
    if not holds(core, movers, scene, rule):
        return
    state.fired += 1
    if rule.after == 0.0:
        _act(core, scene, stakes, movers, number, piece, who, t, x, y)
        return
    if state.waiting == MOST_WAITING:
        player.halted = CROWDED
        state.burst = MOST_FIRINGS
        return
    # The delay is always the same: what began first ends first.
    firing = scene.firings[rule.queue][(state.head + state.waiting) % MOST_WAITING]
    firing.due, firing.piece, firing.who, firing.x, firing.y = t + rule.after, piece, who, x, y
    state.waiting += 1


@leaf
def _act(
    core: Any, scene: Any, stakes: Any, movers: Any, number: int, piece: int, who: int, t: float, x: float, y: float
) -> None:
    player = core.player
    rule, state = scene.rules.rules[number], scene.states[number]
    if state.acted == 0:
        state.first = t
    state.acted += 1
    state.burst += 1
    if state.burst > MOST_FIRINGS:
        player.halted = ENDLESS
        return
    for action in range(rule.first_action, rule.first_action + rule.actions):
        act(core, scene, stakes, movers, action, piece, who, t, x, y)
