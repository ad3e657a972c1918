"""Why a rule did or did not fire in a run."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from haptos.engine.build.rule_tables import RULE_EVENTS
from haptos.engine.nearness import nearest, outlines_at_ticks
from haptos.engine.records.codes import MOMENTS, THE_PLAYER
from haptos.engine.records.events import (
    DROPS,
    EVENT_NAMES,
    GOES,
    RETURNS,
    SAY,
    SETS,
    SPAWNS,
    VANISHES,
)
from haptos.engine.run import Run
from haptos.errors import LevelError
from haptos.level.names import did_you_mean
from haptos.level.rules import Rule
from haptos.study.asked_again import Answers, ask_again, words_of_subject
from haptos.study.rule_findings import dead_rule
from haptos.study.why import Answer

# What a piece does by itself.
OF_ONE = (DROPS, GOES, RETURNS, VANISHES)
# So many times are told one by one.
TOLD = 3


def why_rule(run: Run, name: str) -> Answer:
    """Say when a rule acted in a run, or which of its conditions failed, and at which tick.

    Parameters
    ----------
    run : Run
    name : str
        The rule's name, or its title, such as ``rules[2]``.

    Returns
    -------
    Answer
        Fired or not fired, a sentence, and the reasons.

    Raises
    ------
    LevelError
        If there is no such rule.

    Examples
    --------
    >>> import haptos
    >>> pieces = [{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -22]},
    ...           {"name": "room", "shape": {"box": [9, 90]}, "at": [150, 0]}]
    >>> rules = [{"name": "hello", "when": "enter", "piece": "room", "do": [{"say": "hello"}]}]
    >>> run = haptos.simulate(haptos.Level(pieces=pieces, rules=rules), "right 0.5 s")
    >>> why_rule(run, "hello").sentence
    "rules[0] 'hello' did not fire: there was no 'enter' of 'room'"
    """
    title, rule, number = _find(run, name)
    resolved = run.compiled.resolved
    if number is None:
        finding = dead_rule(run.compiled.cast.resolved, rule, title)
        reasons = [] if finding is None else [finding.message]
        return Answer("not fired", f"{title} did not fire: its who = '{rule.who}' did not match", reasons)
    acted = _acted(run, number)
    if len(acted):
        times = ", ".join(f"{t:.4g} s" for t in acted[:TOLD]) + (" …" if len(acted) > TOLD else "")
        reasons = [f"its 'after' = {rule.after:g} s is included"] if rule.after else []
        if rule.once and len(_moments(run, rule, number)) > len(acted):
            reasons.append("what came later did not count: once = true, and it had fired already")
        often = "once" if len(acted) == 1 else f"{len(acted)} times"
        return Answer("fired", f"{title} fired {often}: at {times}", reasons)
    moments = _moments(run, rule, number)
    if rule.piece is not None and not resolved.selected(rule.piece):
        reason = f"no piece, kind, mark or layer is called '{rule.piece}'"
        return Answer("not fired", f"{title} did not fire: it is about nothing that is there", [reason])
    if rule.when == "timer":
        return _why_no_timer(run, rule, title)
    if not len(moments):
        about = "" if rule.piece is None else f" of '{rule.piece}'"
        sentence = f"{title} did not fire: there was no '{rule.when}'{about}"
        if rule.when == "counter":
            sentence = f"{title} did not fire: its if = '{rule.if_}' never became true"
        reasons = [*_counted(run, rule), *_met_by_others(run, rule), *_why_not_met(run, rule)]
        return Answer("not fired", sentence, reasons)
    tick, t = int(moments[0]["tick"]), float(moments[0]["t"])
    first = f"the first '{rule.when}' was at {t:.4g} s (tick {tick})"
    answers = _asked(run, rule)
    if answers is not None and not any(answers.holds_at(int(row["tick"])) for row in moments):
        reasons = [first, f"then {answers.value_words(tick)}; it did not hold at {_times(len(moments))}"]
        return Answer("not fired", f"{title} did not fire: its if = '{rule.if_}' did not hold", reasons)
    if rule.after > 0.0:
        reasons = [first, f"its delay ends at {t + rule.after:.4g} s, after the run's end at {run.duration:.4g} s"]
        return Answer("not fired", f"{title} did not fire: its delay of {rule.after:g} s was not over", reasons)
    return Answer("not fired", f"{title} did not fire, though its moment came", [first])


def _why_no_timer(run: Run, rule: Rule, title: str) -> Answer:
    """Say why a rule that comes again and again never acted."""
    every = rule.every or 0.0
    count, answers = int(run.duration / every), _asked(run, rule)
    if count == 0 or answers is None:
        reason = f"the run was over at {run.duration:.4g} s"
        return Answer("not fired", f"{title} did not fire: it comes every {every:g} s", [reason])
    found = answers.value_words(round(every * run.level.world.tick_rate))
    reasons = [f"the first time was at {every:.4g} s", f"then {found}; it did not hold at {_times(count)}"]
    return Answer("not fired", f"{title} did not fire: its if = '{rule.if_}' did not hold", reasons)


def _find(run: Run, name: str) -> tuple[str, Rule, int | None]:
    """Return a rule, its title, and its number among those that are about the player."""
    resolved = run.compiled.resolved
    number = 0
    for title, rule in resolved.rules:
        is_ours = run.compiled.cast.resolved.heeds(rule)
        if rule.is_called(name) or name in (title, title.split(" ")[0]):
            return title, rule, number if is_ours else None
        number += 1 if is_ours else 0
    names = [rule.name for _, rule in resolved.rules if rule.name]
    raise LevelError("rules", f"no rule is called '{name}'{did_you_mean(name, names)}")


def _acted(run: Run, number: int) -> NDArray[np.float64]:
    """Return when a rule acted."""
    rules = run.compiled.ruled.rules
    first = int(rules.rules["first_action"][number])
    events = run.event_records
    said = np.isin(events["kind"], (SAY, SETS)) & (events["more"] == first)
    return np.asarray(events["t"][said])


def _moments(run: Run, rule: Rule, number: int) -> NDArray[np.void]:
    """Return the events that a rule is about."""
    events = run.event_records
    if rule.when in MOMENTS:
        return events[:0]
    kind = EVENT_NAMES.index(RULE_EVENTS.get(rule.when, "enter" if rule.when == "inside" else rule.when))
    rules = run.compiled.ruled.rules
    row = rules.rules[number]
    found = events["kind"] == kind
    whos = rules.targets[row["first_who"] : row["first_who"] + row["whos"]]
    theirs, ours = np.isin(events["who"], whos), np.full(len(events), row["players"] != 0)
    if row["targets"] >= 0:
        targets = rules.targets[row["first_target"] : row["first_target"] + row["targets"]]
        # What a piece does by itself is about that piece, for rules of the player's.
        own = (events["who"] != THE_PLAYER) & np.isin(events["kind"], OF_ONE)
        theirs = theirs & np.isin(events["piece"], targets)
        ours = ours & np.isin(np.where(own, events["who"], events["piece"]), targets)
        ours = ours & ((events["who"] == THE_PLAYER) | own | (events["kind"] == SPAWNS))
    return np.asarray(events[found & (theirs | ours)])


def _counted(run: Run, rule: Rule) -> list[str]:
    """Say what a rule that waits until its condition is true came to."""
    answers = _asked(run, rule)
    if rule.when != "counter" or answers is None:
        return []
    reasons = [f"at the end {answers.value_words(run.ticks)}"]
    for comparison, said in answers.values.items():
        if comparison.is_number:
            values = np.array(said, dtype=np.float64)
            nearest = values[np.argmin(np.abs(values - float(comparison.value)))]
            if nearest != values[-1]:
                reasons.append(f"{words_of_subject(comparison)} came as near as {nearest:.6g}")
    return reasons


def _asked(run: Run, rule: Rule) -> Answers | None:
    """Return what a rule's condition says of a run; None if it has none."""
    return None if rule.if_ is None else ask_again(run, [(rule.if_, "if")])[0]


def _met_by_others(run: Run, rule: Rule) -> list[str]:
    """Say who else did what a rule is about, whom its `who` does not mean."""
    if rule.piece is None or rule.when in MOMENTS:
        return []
    kind = RULE_EVENTS.get(rule.when, "enter" if rule.when == "inside" else rule.when)
    names = {piece.name for piece in run.compiled.cast.resolved.selected(rule.piece)}
    events = run.events
    others = events[(events["event"] == kind) & events["piece"].isin(names)]
    return [
        f"{who} did: its '{kind}' of '{rows['piece'].iloc[0]}' was at {rows['t'].iloc[0]:.4g} s (tick "
        f"{rows['tick'].iloc[0]}), but who = '{rule.who}' does not mean it"
        for who, rows in list(others.groupby("who", sort=False))[:TOLD]
    ]


def _why_not_met(run: Run, rule: Rule) -> list[str]:
    """Say how near the body came to what a rule is about, and what else was in the way."""
    if rule.piece is None:
        return []
    resolved = run.compiled.resolved
    unit = run.level.world.length_unit
    reasons = _nearest_visitors(run, rule)
    if not resolved.means_player(rule.who):
        return reasons
    for piece in resolved.selected(rule.piece)[:TOLD]:
        meeting = resolved.meeting(piece)
        if meeting == "nothing":
            reasons.append(f"the player ignores '{piece.name}': their layers pair with nothing, or never_meets says so")
        elif not piece.active:
            reasons.append(f"'{piece.name}' is not active at the start")
        gap, tick = nearest(run, resolved.pieces.index(piece))
        if gap is not None:
            t = tick / run.level.world.tick_rate
            word = "they overlapped" if gap == 0 else f"the body came as near as {gap:.4g} {unit}"
            felt = "solid to" if meeting == "solid" else "only felt by"
            reasons.append(f"'{piece.name}' is {felt} the player; {word}, at {t:.4g} s (tick {tick})")
    return reasons


def _nearest_visitors(run: Run, rule: Rule) -> list[str]:
    """Say how near the pieces that a rule waits for came to its zones."""
    unit, dt = run.level.world.length_unit, 1.0 / run.level.world.tick_rate
    reasons = []
    for who, zone in run.compiled.resolved.noticed_by(rule)[:TOLD]:
        own, its = outlines_at_ticks(run, who), outlines_at_ticks(run, zone)
        gaps = shapely.distance(own, its)
        tick = int(np.argmin(gaps))
        names = [run.compiled.resolved.pieces[index].name for index in (who, zone)]
        reasons.append(
            f"'{names[0]}' came as near to '{names[1]}' as {gaps[tick]:.4g} {unit}, at {tick * dt:.4g} s (tick {tick})"
        )
    return reasons


def _times(count: int) -> str:
    """Return how many moments there were, in words."""
    return "its only moment" if count == 1 else f"any of its {count} moments"
