"""Whether the body came to a place."""

from __future__ import annotations

import math

import numpy as np

from haptos.engine.run import Run
from haptos.level.expectations import END, Expectation
from haptos.study.paths import broken_after


def judge_place(run: Run, one: Expectation) -> tuple[bool, str]:
    """Return whether the middle of the body came near enough to a place, and what to say of it.

    Between two rows of the track it goes straight.
    """
    assert one.near is not None
    assert one.within is not None
    unit, rate = run.level.world.length_unit, run.level.world.tick_rate
    words = f"near ({one.near[0]:g}, {one.near[1]:g})"
    rows = run.track_records
    if one.at is None:
        gap, t = _nearest(run, *one.near)
        held = gap <= one.within
        came = f"{gap:.4g} {unit} away at {t:.6g} s" if held else f"never nearer than {gap:.4g} {unit} (at {t:.6g} s)"
        return held, f"{words}: {came}" if held else f"{words}: expected within {one.within:g} {unit}, {came}"
    t = run.duration if one.at == END else float(one.at)
    if t > run.duration + 0.5 / rate:
        return False, f"{words}: expected at {t:g} s, the run ended at {run.duration:.6g} s"
    ticks = np.arange(len(rows))
    x, y = (float(np.interp(t * rate, ticks, rows[name])) for name in ("x", "y"))
    gap = math.hypot(x - one.near[0], y - one.near[1])
    held = gap <= one.within
    when = "at the end" if one.at == END else f"at {t:g} s"
    expected = "" if held else f"expected within {one.within:g} {unit}, "
    return held, f"{words}: {expected}{gap:.4g} {unit} away {when}, at ({x:.6g}, {y:.6g})"


def _nearest(run: Run, x: float, y: float) -> tuple[float, float]:
    """Return how near the path comes to a place, and when (s)."""
    rows, rate = run.track_records, run.level.world.tick_rate
    path = np.column_stack((rows["x"], rows["y"])).astype(np.float64)
    gaps = np.hypot(path[:, 0] - x, path[:, 1] - y)
    first = int(np.argmin(gaps))
    best, when = float(gaps[first]), first / rate
    goes_on = ~broken_after(run)
    ways = path[1:] - path[:-1]
    lengths = (ways**2).sum(axis=1)
    along = np.divide(
        ((np.array([x, y]) - path[:-1]) * ways).sum(axis=1), lengths, out=np.zeros(len(ways)), where=lengths > 0
    )
    along = np.clip(along, 0.0, 1.0)
    feet = path[:-1] + along[:, None] * ways
    between = np.where(goes_on, np.hypot(feet[:, 0] - x, feet[:, 1] - y), math.inf)
    if len(between) and between.min() < best:
        tick = int(np.argmin(between))
        best, when = float(between[tick]), (tick + float(along[tick])) / rate
    return best, when
