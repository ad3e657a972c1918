"""Whether a run did what its cue sheet expects."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

from haptos.engine.run import Run
from haptos.level.conditions import Condition
from haptos.level.expectations import END, Expectation
from haptos.study.asked_again import Answers, ask_again
from haptos.study.expected_events import judge_event, judge_time
from haptos.study.expected_places import judge_place


class Outcome(NamedTuple):
    """What became of one expectation.

    Attributes
    ----------
    name : what the expectation is called: its own name, or what it expects in words
    held : whether the run did that
    message : one sentence; of what did not hold, the nearest miss
    expectation : Expectation
    """

    name: str
    held: bool
    message: str
    expectation: Expectation

    def to_json(self) -> dict[str, Any]:
        """Return the outcome as plain values."""
        return {"name": self.name, "held": self.held, "message": self.message}


def outcomes_of(run: Run, expect: Sequence[Expectation] | None = None) -> list[Outcome]:
    """Say of each expectation whether a run meets it.

    Parameters
    ----------
    run : Run
    expect : sequence of Expectation, optional
        Those of its cues, unless others are given.

    Returns
    -------
    list of Outcome
        In the order of the sheet.

    Raises
    ------
    CueError
        If an expectation names something that the level does not have.

    Examples
    --------
    >>> import haptos
    >>> run = haptos.simulate(haptos.Level(), "wait 0.5 s")
    >>> [outcome.message for outcome in outcomes_of(run, [Expectation(under=0.2)])]
    ['the run: expected under 0.2 s, took 0.5 s']
    """
    wanted = run.cues.expect if expect is None else tuple(expect)
    places = [f"expect[{index}]{f' {one.name!r}' if one.name else ''}" for index, one in enumerate(wanted)]
    asked: list[tuple[Condition, str]] = [
        (one.that, f"{place}.that") for one, place in zip(wanted, places, strict=True) if one.that is not None
    ]
    answers = iter(ask_again(run, asked))
    found = []
    for one, place in zip(wanted, places, strict=True):
        if one.sort == "that":
            held, message = _judge_condition(run, one, next(answers))
        elif one.sort == "near":
            held, message = judge_place(run, one)
        elif one.sort == "under":
            held, message = judge_time(run, one, place)
        else:
            held, message = judge_event(run, one, place)
        found.append(Outcome(one.name or one.words, held, message, one))
    return found


def _judge_condition(run: Run, one: Expectation, answers: Answers) -> tuple[bool, str]:
    """Return whether a condition held when it had to, and what to say of it."""
    rate, count = run.level.world.tick_rate, run.ticks + 1
    if one.at is not None:
        tick = count - 1 if one.at == END else round(float(one.at) * rate)
        if tick >= count:
            return False, f"{one.that}: expected at {one.at:g} s, the run ended at {run.duration:.6g} s"
        when = "at the end" if one.at == END else f"at {one.at:g} s"
        held = answers.holds_at(tick)
        return held, f"{one.that}: {'' if held else 'expected '}{when}, {answers.value_words(tick)}"
    if one.always:
        broken = [tick for tick in range(count) if not answers.holds[tick]]
        if not broken:
            return True, f"{one.that}: always"
        first = broken[0]
        return False, f"{one.that}: expected always, at {first / rate:.6g} s {answers.value_words(first)}"
    if answers.holds.any():
        return True, f"{one.that}: so at {int(answers.holds.argmax()) / rate:.6g} s"
    nearest = answers.nearest()
    return False, f"{one.that}: never so; at {nearest / rate:.6g} s {answers.value_words(nearest)}"
