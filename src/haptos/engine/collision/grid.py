"""Who is near: the cells of the uniform grid that a path goes through."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import leaf


@leaf
def span(x: float, v: float, a: float, begin: float, end: float) -> tuple[float, float]:
    """Return the least and greatest of x + v t + a t²/2 between two times."""
    one = x + begin * (v + 0.5 * a * begin)
    other = x + end * (v + 0.5 * a * end)
    low, high = min(one, other), max(one, other)
    if a != 0.0:
        turn = -v / a
        if begin < turn < end:
            extreme = x + 0.5 * v * turn
            low, high = min(low, extreme), max(high, extreme)
    return low, high


@leaf
def cells_of(grid: Any, x0: float, x1: float, y0: float, y1: float) -> tuple[int, int, int, int]:
    """Return the first and last column, and the first and last row, that a box reaches into."""
    return (
        max(0, int(math.floor((x0 - grid.x) * grid.per_unit))),
        min(grid.columns - 1, int(math.floor((x1 - grid.x) * grid.per_unit))),
        max(0, int(math.floor((y0 - grid.y) * grid.per_unit))),
        min(grid.rows - 1, int(math.floor((y1 - grid.y) * grid.per_unit))),
    )
