"""From the level's rules to tables."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np

from haptos.engine.build.changeable import Cells, change_of
from haptos.engine.build.condition_tables import step_of
from haptos.engine.build.filling import Row, filled
from haptos.engine.build.mover_plans import Motions
from haptos.engine.build.named_pieces import numbers_meant
from haptos.engine.records import codes
from haptos.engine.records.codes import (
    ANY_PIECE,
    COUNTER,
    MOMENTS,
    TIMER,
    WISHES,
)
from haptos.engine.records.events import EVENT_NAMES
from haptos.engine.records.objective_records import Stakes
from haptos.engine.records.tables import ACTION, CHANGE, CONDITION, RULE, Rules
from haptos.errors import Faults, LevelError
from haptos.level.names import did_you_mean
from haptos.level.roster import OTHER
from haptos.level.rules import Action, Rule

# Which rule moments are which events, of those where the first one in counts, or the last one out.
RULE_EVENTS = {"occupied": "enter", "empty": "leave"}


class Ruled(NamedTuple):
    """The rules of a level as tables; the title of each, and what each action says, or does, in words."""

    rules: Rules
    titles: tuple[str, ...]
    sayings: tuple[str, ...]


class _Found(NamedTuple):
    """The rows of the tables, as they are found."""

    rules: list[Row]
    steps: list[Row]
    targets: list[int]
    actions: list[Row]
    changes: list[Row]
    titles: list[str]
    sayings: list[str]


def compile_rules(motions: Motions, cells: Cells | None, stakes: Stakes | None) -> Ruled:
    """Return the rules that somebody can fire; without cells, of a level where they only say something."""
    resolved = motions.resolved
    found = _Found([], [], [], [], [], [], [])
    queues, faults = 0, Faults()
    for title, rule in resolved.rules:
        if not resolved.heeds(rule):
            continue
        queue = -1
        if rule.after > 0.0:
            queue, queues = queues, queues + 1
        _add_rule(found, motions, rule, queue)
        with faults.gathered():
            _add_condition(found, motions, stakes, rule, title)
        found.titles.append(title)
        for number, action in enumerate(rule.do):
            with faults.gathered():
                _add_action(found, motions, cells, rule, (title, number), action)
    faults.raise_any()
    table = filled(RULE, found.rules)
    looked_at = np.isin(table["moment"], [EVENT_NAMES.index("inside"), TIMER, COUNTER]) | (table["after"] > 0.0)
    rules = Rules(
        table, filled(CONDITION, found.steps), np.array(found.targets, dtype=np.int64), filled(ACTION, found.actions),
        filled(CHANGE, found.changes), int(np.sum(looked_at)), queues,
    )  # fmt: skip
    return Ruled(rules, tuple(found.titles), tuple(found.sayings))


def _add_rule(found: _Found, motions: Motions, rule: Rule, queue: int) -> None:
    """Add a rule, and the pieces that it is about."""
    resolved = motions.resolved
    whos = resolved.doers(rule)
    about = [] if rule.piece is None else numbers_meant(resolved, rule.piece)
    moment = MOMENTS.get(rule.when)
    if moment is None:
        moment = EVENT_NAMES.index(RULE_EVENTS.get(rule.when, rule.when))
    found.rules.append(
        {
            "moment": moment, "first_target": len(found.targets),
            "targets": ANY_PIECE if rule.piece is None else len(about), "first_action": len(found.actions),
            "actions": len(rule.do), "once": rule.once, "every": rule.every or 0.0, "after": rule.after,
            "first_step": len(found.steps), "steps": 0 if rule.if_ is None else len(rule.if_.steps),
            "players": resolved.means_player(rule.who), "first_who": len(found.targets) + len(about),
            "whos": len(whos), "crowd": rule.when in RULE_EVENTS, "queue": queue,
        }
    )  # fmt: skip
    found.targets.extend([*about, *whos])


def _add_condition(found: _Found, motions: Motions, stakes: Stakes | None, rule: Rule, title: str) -> None:
    """Add what a rule's `if` asks, and the pieces that it names."""
    for step in () if rule.if_ is None else rule.if_.steps:
        row, pieces = step_of(motions, stakes, step, title)
        found.steps.append({**row, "first_target": len(found.targets), "targets": len(pieces)})
        found.targets.extend(pieces)


def _add_action(
    found: _Found, motions: Motions, cells: Cells | None, rule: Rule, number: tuple[str, int], action: Action
) -> None:
    """Add what a rule does, and what that changes."""
    found.sayings.append(words_of(action))
    verb, counter, amount, changed = _action(motions, cells, rule, action, number)
    mover, x, y = _kick_place(motions, rule, action, f"{number[0]}, do[{number[1]}]")
    speed = amount if action.kick is None else action.kick / motions.resolved.level.player.mass
    found.actions.append(
        {
            "verb": verb, "counter": counter, "first_target": len(found.changes), "targets": len(changed),
            "mover": mover, "amount": speed, "x": x, "y": y, "radius": action.radius,
        }
    )  # fmt: skip
    found.changes.extend({"place": cell, "value": value} for cell, value in changed)


def acts(motions: Motions) -> bool:
    """Whether any rule does more than say something when it happens."""
    return any(
        rule.when in MOMENTS
        or rule.if_ is not None
        or rule.after > 0.0
        or any(one.say is None for one in rule.do)
        or motions.resolved.noticed
        for _, rule in motions.resolved.rules
    )


def words_of(action: Action) -> str:
    """Return what an action says, or what it does in words."""
    if action.say is not None:
        return action.say
    if action.set is not None:
        return f"sets {action.set} to {str(action.to).lower() if isinstance(action.to, bool) else action.to}"
    if action.add is not None:
        return f"adds {action.amount:g} to {action.add}"
    if action.spawn is not None:
        return f"makes {action.spawn}"
    if action.kick is not None:
        return f"kicks by {action.kick:g} within {action.radius:g}"
    if action.remove is not None:
        return f"takes {action.remove} away"
    return {"respawn": "puts the player back", "restart": "begins the level again", "finish": "ends the level"}[
        action.verb
    ]


def _made_by(motions: Motions, action: Action, number: tuple[str, int], place: str) -> list[tuple[int, float]]:
    """Return which makers a rule lets make one: its own, or spawners."""
    resolved, makers = motions.resolved, motions.cast.makers
    found = [row for row, maker in enumerate(makers) if maker.action == number]
    spawners = {row: resolved.pieces[maker.piece] for row, maker in enumerate(makers) if maker.is_spawner}
    if not found:
        found = [row for row, piece in spawners.items() if resolved.answers(piece, str(action.spawn))]
    if not found:
        names = [*resolved.level.kinds, *(piece.name for piece in spawners.values())]
        hint = did_you_mean(str(action.spawn), names) if names else ", there are none"
        raise LevelError(f"{place}.spawn", f"no kind or spawner is called '{action.spawn}'{hint}")
    return [(row, 1.0) for row in found]


def _kick_place(motions: Motions, rule: Rule, action: Action, place: str) -> tuple[float, ...]:
    """Return where a kick comes from: the mover of a piece, -1 for none, and its place at rest."""
    if action.kick is None:
        return -1, 0.0, 0.0
    name = action.at or rule.piece
    found = [] if name is None else motions.resolved.answering(name)
    if len(found) != 1:
        what = "no piece" if not found else f"{len(found)} pieces"
        raise LevelError(f"{place}.kick", f"found {what} called '{name}' to kick from, expected one, by at = 'NAME'")
    x, y = motions.origins[found[0]]
    return int(motions.numbers[found[0]]), x, y


def _action(
    motions: Motions, cells: Cells | None, rule: Rule, action: Action, number: tuple[str, int]
) -> tuple[int, int, float, list[tuple[int, float]]]:
    """Return what an action does: the verb, a counter or a wish, an amount, and what is changed."""
    resolved = motions.resolved
    place = f"{number[0]}, do[{number[1]}]"
    verb = action.verb
    nothing: list[Any] = []
    if verb == "say" or cells is None:
        return int(codes.SAYS), -1, 0.0, nothing
    if verb in WISHES:
        return int(codes.ASKS), int(WISHES[verb]), 0.0, nothing
    if action.add is not None:
        counters = list(resolved.level.counters)
        if action.add not in counters:
            raise LevelError(f"{place}.add", f"no counter '{action.add}'{did_you_mean(action.add, counters)}")
        return int(codes.ADDS), counters.index(action.add), action.amount, nothing
    if action.kick is not None:
        return int(codes.KICKS), -1, 0.0, nothing
    if action.spawn is not None:
        return int(codes.MAKES), -1, 0.0, _made_by(motions, action, number, place)
    if action.remove == OTHER:
        if not resolved.doers(rule):
            message = f"found 'other' where who = '{rule.who}' is the player alone, expected a who that means pieces"
            raise LevelError(f"{place}.remove", message)
        return int(codes.REMOVES), -1, 0.0, [(int(codes.WHOEVER), 0.0)]
    if action.remove is not None:
        found = resolved.answering(action.remove)
        if not found:
            hint = did_you_mean(action.remove, resolved.by_name)
            raise LevelError(f"{place}.remove", f"no piece '{action.remove}'{hint}")
        movers = sorted({int(motions.numbers[index]) for index in found})
        return int(codes.REMOVES), -1, 0.0, [(number, 0.0) for number in movers]
    change = change_of(motions, cells, str(action.set), action.to, f"{place}.set")
    verbs = {None: codes.SETS_CELL, "active": codes.SWITCHES, "route.running": codes.RUNS}
    return int(verbs[change.switch]), -1, 0.0, change.places
