"""What a condition asked about, tick by tick in a run."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.run import Run
from haptos.level.conditions import PLAYER, Condition, meant


def values_asked(run: Run, condition: Condition) -> NDArray[np.float64] | None:
    """Return what a condition asks about at the end of each tick, None where the run does not tell.

    Parameters
    ----------
    run : Run
    condition : Condition

    Returns
    -------
    (n + 1,) ndarray or None
    """
    subject, measure, *_ = meant(condition, run.level.counters)
    if measure == "value":
        return run.scores[:, list(run.level.counters).index(subject)]
    if measure in ("left", "active"):
        return None
    rows: Any = run.track_records
    if subject == PLAYER:
        return np.asarray(rows[measure], dtype=np.float64)
    moved = run.pieces[run.pieces["piece"] == subject]
    if len(moved) == len(rows):
        return np.asarray(moved[measure], dtype=np.float64)
    number = next(index for index, piece in enumerate(run.compiled.resolved.pieces) if piece.name == subject)
    return np.full(len(rows), run.compiled.origins[number][0 if measure == "x" else 1])


def words_of_subject(run: Run, condition: Condition) -> str:
    """Return what a condition asks about, in words: ``oil``, ``x``, ``lift.y``.

    Examples
    --------
    >>> import haptos
    >>> from haptos.level.conditions import condition_of
    >>> words_of_subject(haptos.simulate(haptos.Level()), condition_of("player.vx > 3"))
    "the player's vx"
    """
    subject, measure, *_ = meant(condition, run.level.counters)
    if measure in ("value", "active"):
        return subject
    return f"the player's {measure}" if subject == PLAYER else f"{subject}.{measure}"
