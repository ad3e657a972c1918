"""The way that the body took, and where it is broken."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from haptos.engine.run import Run


def broken_after(run: Run) -> NDArray[np.bool_]:
    """Return after which ticks the body was put elsewhere: it is farther away than any speed would take it.

    Returns
    -------
    (ticks,) ndarray of bool
    """
    rows = run.track_records
    path = np.column_stack((rows["x"], rows["y"]))
    speed = np.hypot(rows["vx"], rows["vy"])
    far = np.hypot(*(path[1:] - path[:-1]).T)
    usual = (speed[:-1] + speed[1:]) / run.level.world.tick_rate + max(run.level.player.shape.size)
    broken: NDArray[np.bool_] = far > usual
    return broken


def path_of(run: Run) -> NDArray[np.float64]:
    """Return the way of the body's middle, with a row of nan where it was put elsewhere.

    Returns
    -------
    (n, 2) ndarray
    """
    rows = run.track_records
    path = np.column_stack((rows["x"], rows["y"])).astype(np.float64)
    return np.insert(path, np.flatnonzero(broken_after(run)) + 1, np.nan, axis=0)
