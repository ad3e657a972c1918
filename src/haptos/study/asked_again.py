"""What conditions say of a run, tick by tick."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.asking import Asking
from haptos.engine.doing import NO_DEEDS, deed_rows
from haptos.engine.records.codes import STANCE_NAMES
from haptos.engine.report.replay import place_unmet
from haptos.engine.run import Run
from haptos.engine.stepping import NO_CONTROLS, ONE_TICK, Runner
from haptos.level.comparisons import PLAYER, Comparison
from haptos.level.conditions import Condition

AXES = ("x", "y")
Noted = dict[Comparison, Sequence[Any]]


class Answers:
    """What one condition says of a run.

    Attributes
    ----------
    condition : Condition
        As it is meant in the level of the run.
    values : dict
        Of each comparison: what is compared, at the start and after each tick.
    holds : (ticks + 1,) ndarray of bool
        Whether it holds then.
    """

    def __init__(self, run: Run, condition: Condition, values: Noted) -> None:
        self.condition, self.values, self._run = condition, values, run

    @cached_property
    def holds(self) -> NDArray[np.bool_]:
        """Whether it holds, at the start and after each tick."""
        return np.array([self.holds_at(tick) for tick in range(self._run.ticks + 1)], dtype=np.bool_)

    def holds_at(self, tick: int) -> bool:
        """Whether it holds after a tick."""
        return self.condition.holds(lambda comparison: self.values[comparison][tick])

    def value_words(self, tick: int) -> str:
        """Return what is compared, as it was after a tick, in words: ``oil was 3, lift.y was 40``."""
        return ", ".join(self._said(comparison, tick) for comparison in self.values)

    def nearest(self) -> int:
        """Return the tick at which the only number came nearest to what was asked; the last one if there is none."""
        numbers = [comparison for comparison in self.values if comparison.is_number]
        if len(numbers) != 1 or len(self.values) != 1:
            return self._run.ticks
        gaps = np.abs(np.array(self.values[numbers[0]], dtype=np.float64) - float(numbers[0].value))
        return int(np.argmin(np.where(np.isnan(gaps), np.inf, gaps)))

    def _said(self, comparison: Comparison, tick: int) -> str:
        value = self.values[comparison][tick]
        if comparison.measure == "active":
            return f"{comparison.subject} was {'there' if value else 'not there'}"
        if comparison.measure == "support":
            value = str(self._run.names.of_supports(self._run.track_records["support"])[tick]) or "nothing"
        word = value if isinstance(value, str) else f"{value:.6g}"
        return f"{words_of_subject(comparison)} was {word}"


def words_of_subject(comparison: Comparison) -> str:
    """Return what a comparison asks about, in words: ``oil``, ``the player's x``, ``lift.y``.

    Examples
    --------
    >>> words_of_subject(Comparison("player", "vx", ">", 3.0))
    "the player's vx"
    """
    return f"the player's {comparison.measure}" if comparison.subject == PLAYER else comparison.subject_words


def ask_again(run: Run, conditions: Sequence[tuple[Condition, str]]) -> list[Answers]:
    """Ask conditions at the start of a run and after each tick.

    What the track has is read from it; for the rest the run is played again.

    Parameters
    ----------
    run : Run
    conditions : sequence of (Condition, str)
        Each with where it stands, for messages.

    Raises
    ------
    CueError
        If one names something that the level does not have.
    """
    askings = [Asking(run.compiled, condition, where) for condition, where in conditions]
    found: list[Noted] = [{} for _ in askings]
    missing: list[dict[Comparison, list[Any]]] = [{} for _ in askings]
    for asking, noted, unknown in zip(askings, found, missing, strict=True):
        for comparison in asking.condition.comparisons:
            recorded = _recorded(run, asking, comparison)
            if recorded is None:
                unknown[comparison] = []
            else:
                noted[comparison] = recorded
    if any(missing):
        _play_again(run, askings, missing)
    return [
        Answers(run, asking.condition, {**noted, **unknown})
        for asking, noted, unknown in zip(askings, found, missing, strict=True)
    ]


def _recorded(run: Run, asking: Asking, comparison: Comparison) -> Sequence[Any] | None:
    """Return what a comparison asks about, as the track has it; None for what it does not have."""
    subject, measure, _, asked = comparison
    rows = run.track_records
    values: Any = None
    if measure == "value":
        values = run.scores[:, list(run.level.counters).index(subject)]
    elif subject != PLAYER:
        pieces = run.compiled.resolved.pieces
        index = asking.number_of(subject) if measure in AXES else len(pieces)
        if index >= len(pieces) or "pickup" in pieces[index].facets:
            return None
        values = place_unmet(run, index)[:, AXES.index(measure)]
    elif measure == "stance":
        return [STANCE_NAMES[code] for code in rows["stance"].tolist()]
    elif measure == "support":
        return [asking.stands_on(outline, str(asked)) for outline in rows["support"].tolist()]
    elif measure == "facing" and isinstance(asked, str):
        return ["left" if facing < 0 else "right" for facing in rows["facing"].tolist()]
    elif measure == "speed":
        values = np.hypot(rows["vx"], rows["vy"])
    else:
        values = rows[measure]
    plain: list[float] = values.tolist()
    return plain


def _play_again(run: Run, askings: Sequence[Asking], missing: Sequence[dict[Comparison, list[Any]]]) -> None:
    """Play a run again, and note what comparisons ask about."""
    runner = Runner(run.compiled)
    schedule = run.plain_cues.schedule(run.level.world.tick_rate)
    deeds: dict[int, list[Any]] = {}
    for tick, deed in schedule.deeds:
        deeds.setdefault(tick, []).append((0, deed))

    def note() -> None:
        for asking, unknown in zip(askings, missing, strict=True):
            for comparison, values in unknown.items():
                values.append(asking.value(comparison, runner))

    runner.run(NO_CONTROLS)
    note()
    for tick in range(run.ticks):
        done = deed_rows(run.compiled, deeds[tick]) if tick in deeds else NO_DEEDS
        runner.run(ONE_TICK[schedule.held[tick]], done)
        note()
