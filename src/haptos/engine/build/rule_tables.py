"""From the level's rules to tables."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np

from haptos.engine.build.changeable import Cells, change_of
from haptos.engine.build.filling import Row, filled
from haptos.engine.build.mover_plans import Motions
from haptos.engine.records import codes
from haptos.engine.records.codes import (
    ANY_PIECE,
    COMPARISONS,
    COUNTER,
    MEASURES,
    MOMENTS,
    NO_CONDITION,
    OWN_MEASURES,
    TIMER,
    WISHES,
)
from haptos.engine.records.events import EVENT_NAMES
from haptos.engine.records.tables import ACTION, CHANGE, RULE, Rules
from haptos.errors import LevelError
from haptos.level.conditions import PIECE_MEASURES, PLAYER, meant
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


def compile_rules(motions: Motions, cells: Cells | None) -> Ruled:
    """Return the rules that somebody can fire; without cells, of a level where they only say something."""
    resolved = motions.resolved
    rows: list[Row] = []
    targets: list[int] = []
    actions: list[Row] = []
    changes: list[Row] = []
    sayings: list[str] = []
    titles: list[str] = []
    queues = 0
    numbers = {piece.name: index for index, piece in enumerate(resolved.pieces)}
    for title, rule in resolved.rules:
        if not resolved.heeds(rule):
            continue
        whos = resolved.doers(rule)
        about = [] if rule.piece is None else [numbers[piece.name] for piece in resolved.selected(rule.piece)]
        moment = MOMENTS.get(rule.when)
        if moment is None:
            moment = EVENT_NAMES.index(RULE_EVENTS.get(rule.when, rule.when))
        count = ANY_PIECE if rule.piece is None else len(about)
        queue = -1
        if rule.after > 0.0:
            queue, queues = queues, queues + 1
        rows.append(
            {
                "moment": moment, "first_target": len(targets), "targets": count, "first_action": len(actions),
                "actions": len(rule.do), "once": rule.once, "every": rule.every or 0.0, "after": rule.after,
                **_condition(motions, rule, title), "players": resolved.means_player(rule.who),
                "first_who": len(targets) + len(about), "whos": len(whos), "crowd": rule.when in RULE_EVENTS,
                "queue": queue,
            }
        )  # fmt: skip
        targets += [*about, *whos]
        titles.append(title)
        for number, action in enumerate(rule.do):
            sayings.append(words_of(action))
            place = f"{title}, do[{number}]"
            verb, counter, amount, changed = _action(motions, cells, rule, action, (title, number))
            thrown = _kick_place(motions, rule, action, place)
            mass = resolved.level.player.mass
            speed = amount if action.kick is None else action.kick / mass
            actions.append(
                {
                    "verb": verb, "counter": counter, "first_target": len(changes), "targets": len(changed),
                    "mover": thrown[0], "amount": speed, "x": thrown[1], "y": thrown[2], "radius": action.radius,
                }
            )  # fmt: skip
            changes += [{"place": cell, "value": value} for cell, value in changed]
    table = filled(RULE, rows)
    looked_at = np.isin(table["moment"], [EVENT_NAMES.index("inside"), TIMER, COUNTER]) | (table["after"] > 0.0)
    rules = Rules(
        table, np.array(targets, dtype=np.int64), filled(ACTION, actions), filled(CHANGE, changes),
        int(np.sum(looked_at)), queues,
    )  # fmt: skip
    return Ruled(rules, tuple(titles), tuple(sayings))


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
        found = [row for row, piece in spawners.items() if piece.answers_to(str(action.spawn))]
    if not found:
        names = [*resolved.level.kinds, *(piece.name for piece in spawners.values())]
        hint = did_you_mean(str(action.spawn), names) if names else ", there are none"
        raise LevelError(f"{place}.spawn", f"no kind or spawner is called '{action.spawn}'{hint}")
    return [(row, 1.0) for row in found]


def _condition(motions: Motions, rule: Rule, title: str) -> Row:
    condition = rule.condition
    if condition is None:
        return {"asks": int(NO_CONDITION), "subject": -1, "at_x": 0.0, "at_y": 0.0, "number": 0.0, "compares": 0}
    resolved = motions.resolved
    counters = list(resolved.level.counters)
    try:
        condition = meant(condition, counters)
    except ValueError as error:
        raise LevelError(f"{title}, if", str(error)) from None
    asks, at_x, at_y = int(MEASURES.get(condition.measure, 0)), 0.0, 0.0
    if condition.measure in ("value", "left"):
        subject = counters.index(condition.subject)
    elif condition.subject == PLAYER:
        subject, asks = -1, int(OWN_MEASURES[condition.measure])
    else:
        names = {piece.name: index for index, piece in enumerate(resolved.pieces)}
        if condition.subject not in names:
            raise LevelError(f"{title}, if", f"no piece '{condition.subject}'{did_you_mean(condition.subject, names)}")
        index = names[condition.subject]
        if condition.subject in resolved.hung_on_player and condition.measure in PIECE_MEASURES:
            found = f"found '{rule.if_}' of a piece that hangs on the player"
            raise LevelError(f"{title}, if", f"{found}, expected player.{condition.measure}")
        subject = int(motions.numbers[index])
        at_x, at_y = motions.seen_from_mover(index)
    return {
        "asks": asks, "subject": subject, "at_x": at_x, "at_y": at_y, "number": condition.number,
        "compares": COMPARISONS.index(condition.comparison),
    }  # fmt: skip


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
