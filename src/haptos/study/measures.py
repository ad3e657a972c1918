"""What is measured of a run: a number or a word, asked for in a few words."""

from __future__ import annotations

import math
from collections.abc import Callable

from haptos.engine.run import Run
from haptos.errors import CueError
from haptos.level.comparisons import PIECE_MEASURES, PLAYER, PLAYER_MEASURES, PLAYER_WORDS, Comparison, subject_of
from haptos.level.conditions import Condition, condition_of, is_condition
from haptos.level.expectations import Expectation
from haptos.level.level import Level
from haptos.level.names import did_you_mean
from haptos.level.waiting import AWAITED
from haptos.study.asked_again import Answers, ask_again
from haptos.study.expected_events import numbers_of_events
from haptos.study.outcomes import outcomes_of

Value = float | bool | str
EXAMPLES = "'end x', 'most y', 'event land gallery', 'count jump', 'that oil >= 3', 'seconds' or 'expect'"


class Measure:
    """One thing that is measured of runs.

    Parameters
    ----------
    words : str
        ``end WHAT``, ``most WHAT``, ``least WHAT`` (a column of the track, a counter, ``piece.y``), ``that CONDITION``
        (at the end), ``event EVENT PIECE`` (when it first comes, s), ``count EVENT PIECE``, ``seconds`` (how long it
        took), ``expect`` (whether all that the sheet expects holds).

    Raises
    ------
    CueError
        If it is none of these.

    Examples
    --------
    >>> import haptos
    >>> Measure("end stance").of(haptos.simulate(haptos.Level(), "wait 1 s"))
    'air'
    """

    def __init__(self, words: str) -> None:
        self.words = " ".join(words.split())
        self.where = f"measure '{self.words}'"
        verb, _, self._rest = self.words.partition(" ")
        known: dict[str, Callable[[Run], Value]] = {
            "end": self._at_end, "most": self._most, "least": self._least, "that": self._at_end, "event": self._first,
            "count": self._count, "seconds": _seconds, "expect": _expected,
        }  # fmt: skip
        if verb not in known:
            raise CueError(f"{self.where}: expected one such as {EXAMPLES}{did_you_mean(verb, known, lists=False)}")
        if bool(self._rest) != (verb not in ("seconds", "expect")):
            found = "nothing" if not self._rest else f"'{self._rest}'"
            raise CueError(f"{self.where}: found {found} after '{verb}', expected such as {EXAMPLES}")
        if verb in ("event", "count"):
            self._expectation = self._event()
        self._measured = known[verb]

    def unit(self, level: Level) -> str:
        """Return the unit of what is measured; nothing for what has none."""
        length, verb = level.world.length_unit, self.words.partition(" ")[0]
        if verb in ("event", "seconds"):
            return "s"
        if verb in ("count", "expect") or is_condition(self._rest):
            return ""
        what = self._rest.rpartition(".")[2]
        units = {"length": length, "speed": f"{length}/s", "angle": "°", "force": f"kg {length}/s²"}
        return "" if what in level.counters else units.get({**PLAYER_MEASURES, **PIECE_MEASURES}.get(what, ""), "")

    def of(self, run: Run) -> Value:
        """Return what a run comes to.

        Raises
        ------
        CueError
            If it names something that the level does not have.
        """
        return self._measured(run)

    def _event(self) -> Expectation:
        event, _, piece = self._rest.partition(" ")
        if event not in AWAITED:
            raise CueError(f"{self.where}: '{event}' is not an event{did_you_mean(event, AWAITED)}")
        return Expectation(event=event, piece=piece.strip().strip("\"'") or None)

    def _first(self, run: Run) -> Value:
        came = numbers_of_events(run, self._expectation, self.where)
        return float(run.event_records["t"][came[0]]) if came else math.nan

    def _count(self, run: Run) -> Value:
        return float(len(numbers_of_events(run, self._expectation, self.where)))

    def _at_end(self, run: Run) -> Value:
        if is_condition(self._rest):
            return self._answers(run).holds_at(run.ticks)
        return self._values(run)[-1]

    def _most(self, run: Run) -> Value:
        return max(self._numbers(run))

    def _least(self, run: Run) -> Value:
        return min(self._numbers(run))

    def _numbers(self, run: Run) -> list[float]:
        values = self._values(run)
        if isinstance(values[0], str | bool):
            raise CueError(f"{self.where}: found '{self._rest}', which is no number, expected one such as 'most y'")
        return [float(value) for value in values]

    def _values(self, run: Run) -> list[Value]:
        """Return what is asked about, at the start and after each tick."""
        if is_condition(self._rest):
            return self._answers(run).holds.tolist()
        try:
            subject, measure = subject_of(self._rest)
        except ValueError as error:
            raise CueError(f"{self.where}: {error}") from None
        word = subject if measure == "value" else measure if subject == PLAYER else ""
        if word in PLAYER_WORDS and word not in run.level.counters:
            words: list[Value] = run.track[word].tolist()
            return words
        # Compared with anything: it is the value that is wanted.
        alone = Comparison(subject, measure, "==", 0.0)
        answers = ask_again(run, [(Condition(self._rest, (alone,)), self.where)])[0]
        return list(next(iter(answers.values.values())))

    def _answers(self, run: Run) -> Answers:
        """Return what the condition says of a run."""
        try:
            condition = condition_of(self._rest, run.level.unit_table())
        except ValueError as error:
            raise CueError(f"{self.where}: {error}") from None
        return ask_again(run, [(condition, self.where)])[0]


def _seconds(run: Run) -> Value:
    return run.duration


def _expected(run: Run) -> Value:
    return all(outcome.held for outcome in outcomes_of(run))
