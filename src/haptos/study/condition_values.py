"""What a condition asked about, tick by tick in a run."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.named_pieces import numbers_named
from haptos.engine.records.codes import STANCE_NAMES
from haptos.engine.records.events import COLLECTS, RESTARTS
from haptos.engine.run import Run
from haptos.level.comparisons import PLAYER, Comparison, meant
from haptos.level.conditions import Condition


def values_asked(run: Run, comparison: Comparison) -> NDArray[Any]:
    """Return what a comparison asks about at the end of each tick.

    Parameters
    ----------
    run : Run
    comparison : Comparison

    Returns
    -------
    (n + 1,) ndarray
        Of numbers, or of words.
    """
    level, rows = run.level, run.track_records
    comparison = meant(comparison, level.counters, level.world.view)
    subject, measure = comparison.subject, comparison.measure
    if measure == "value":
        return run.scores[:, list(level.counters).index(subject)]
    if measure == "left":
        return _left(run, subject)
    if subject != PLAYER:
        return _of_piece(run, comparison)
    if measure == "stance":
        return np.array(STANCE_NAMES, dtype=object)[rows["stance"]]
    if measure == "support":
        return _supports(run, str(comparison.value))
    if measure == "speed":
        return np.hypot(rows["vx"], rows["vy"])
    if measure == "facing" and level.world.view != "top":
        return np.where(rows["facing"] < 0, "left", "right")
    return np.asarray(rows[measure], dtype=np.float64)


def held_at(run: Run, condition: Condition, tick: int) -> bool:
    """Whether a condition held at the end of a tick."""
    return condition.holds(lambda comparison: _python(values_asked(run, comparison)[tick]))


def values_in_words(run: Run, condition: Condition, tick: int) -> str:
    """Return what a condition asks about, and what it was at the end of a tick: ``oil was 3, lift.y was 40``."""
    said = []
    for comparison in dict.fromkeys(condition.comparisons):
        value = _python(values_asked(run, comparison)[tick])
        name = words_of_subject(run, comparison)
        if comparison.measure == "load":
            said.append(f"{name} is not kept after the run")
        elif comparison.measure == "active":
            said.append(f"{comparison.subject} was {'there' if value else 'not there'}")
        else:
            said.append(f"{name} was {value:.6g}" if isinstance(value, float) else f"{name} was {value or 'nothing'}")
    return ", ".join(said)


def words_of_subject(run: Run, comparison: Comparison) -> str:
    """Return what a comparison asks about, in words: ``oil``, ``the player's x``, ``lift.y``.

    Examples
    --------
    >>> import haptos
    >>> from haptos.level.comparisons import comparison_of
    >>> words_of_subject(haptos.simulate(haptos.Level()), comparison_of("player.vx > 3"))
    "the player's vx"
    """
    comparison = meant(comparison, run.level.counters, run.level.world.view)
    return f"the player's {comparison.measure}" if comparison.subject == PLAYER else comparison.subject_words


def _python(value: Any) -> float | str:
    return str(value) if isinstance(value, str) else float(value)


def _of_piece(run: Run, comparison: Comparison) -> NDArray[np.float64]:
    """Return the place of a piece, or whether it was there."""
    subject, measure = comparison.subject, comparison.measure
    if measure == "load":
        # What rests on a piece is not kept.
        return np.full(len(run.track_records), np.nan)
    moved = run.pieces[run.pieces["piece"] == subject]
    if len(moved) == len(run.track_records):
        if measure == "active":
            return np.asarray(moved["state"] != "gone", dtype=np.float64)
        values = np.asarray(moved[measure], dtype=np.float64)
        return (values + 180.0) % 360.0 - 180.0 if measure == "angle" else values
    number = next(index for index, piece in enumerate(run.compiled.resolved.pieces) if piece.name == subject)
    at_rest = {"x": run.compiled.origins[number][0], "y": run.compiled.origins[number][1], "angle": 0.0, "active": 1.0}
    return np.full(len(run.track_records), at_rest[measure])


def _supports(run: Run, name: str) -> NDArray[Any]:
    """Return what the player stood on: the name asked for where it is one of its pieces, else the piece's own."""
    compiled = run.compiled
    asked = numbers_named(compiled.cast.resolved, name)
    supports = run.track_records["support"]
    said = {}
    for support in np.unique(supports).tolist():
        said[support] = name if compiled.support_piece(support) in asked else compiled.support_name(support)
    return np.array([said[support] for support in supports.tolist()], dtype=object)


def _left(run: Run, counter: str) -> NDArray[np.float64]:
    """Return what was left to take for a counter."""
    stakes, events = run.compiled.tables.stakes, run.event_records
    left = np.zeros(len(run.track_records))
    if stakes is None:
        return left
    column = list(run.level.counters).index(counter)
    own = stakes.pickups["piece"][(stakes.pickups["counter"] == column) & (stakes.pickups["slot"] < 0)]
    total = float(stakes.counters["total"][column])
    left[:] = total
    for event in events[np.isin(events["kind"], (COLLECTS, RESTARTS))]:
        first = int(event["tick"])
        if event["kind"] == RESTARTS:
            left[first:] = total
        elif event["piece"] in own:
            left[first:] -= event["amount"]
    return left
