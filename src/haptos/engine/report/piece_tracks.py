"""Where everything that flew was at the end of every tick, from how it flew."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from haptos.engine.records import Records
from haptos.engine.records.codes import GOES_ON, IS_GONE
from haptos.engine.records.journal import PIECE_TRACK
from haptos.geometry.placement import ramps


def every_tick(flown: Records, firsts: NDArray[np.int64], last: int, rate: float) -> Records:
    """Return where everything that flew was, tick by tick.

    Parameters
    ----------
    flown : (n,) FLOWN
    firsts : (e,)
        The ticks at which the level began, and began again.
    last : int
        The last tick of the run.
    rate : float
        Ticks in a second.

    Returns
    -------
    (m,) PIECE_TRACK
        In the order of the ticks, and of the movers in each.
    """
    rows = flown[np.argsort(flown["mover"], kind="stable")]
    tick = rows["tick"]
    # When the level begins again, nothing goes on.
    era = np.searchsorted(firsts[1:], tick, side="left")
    end = np.append(firsts[1:], last)[era] + 1
    following = np.append(tick[1:], last + 1)
    same = np.append((rows["mover"][1:] == rows["mover"][:-1]) & (era[1:] == era[:-1]), False)
    end = np.where(same, np.minimum(end, following), end)
    counts = np.where(rows["lasts"] == GOES_ON, end - tick, np.where(rows["lasts"] == IS_GONE, 0, 1))
    which = np.repeat(np.arange(len(rows)), counts)
    rows = rows[which]
    found = np.zeros(len(rows), dtype=PIECE_TRACK)
    for name in ("mover", "vx", "vy", "spin", "scale", "torque"):
        found[name] = rows[name]
    found["tick"] = rows["tick"] + ramps(counts)
    time = (found["tick"] - firsts[era[which]]) * (1.0 / rate) - rows["t"]
    for name, pace in (("x", "vx"), ("y", "vy"), ("angle", "spin")):
        found[name] = rows[name] + time * rows[pace]
    return found[np.lexsort((found["mover"], found["tick"]))]
