"""The uniform grid: which outlines reach into which cell."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.geometry.outlines import Outlines
from haptos.geometry.placement import ramps

# More cells than this many for each outline only cost memory.
CELLS_PER_OUTLINE = 16
LEAST_CELLS = 4096
# Outlines that reach into more cells than this are tested against each cell, so that long slanted ones stay thin.
LARGE = 16


class Cells(NamedTuple):
    """A grid over outlines.

    Attributes
    ----------
    x, y : lower left corner
    size : side of a cell
    columns, rows : how many
    start : (columns * rows + 1,) where each cell's items begin, row by row
    items : outline indices
    """

    x: float
    y: float
    size: float
    columns: int
    rows: int
    start: NDArray[np.int64]
    items: NDArray[np.int64]


def sort_into_cells(
    outlines: Outlines, step: float, chosen: NDArray[np.bool_] | None = None, room: float = 0.0
) -> Cells:
    """Sort outlines into a grid.

    Parameters
    ----------
    outlines : Outlines
    step : float
        The side of a cell if nothing speaks against it: about the body's size.
    chosen : (n,) ndarray of bool, optional
        Which of them; all if not given.
    room : float
        How much farther each may come to reach.
    """
    which = np.arange(len(outlines.box)) if chosen is None else np.flatnonzero(chosen)

    def reaches(index: NDArray[np.int64], *cells: Any) -> NDArray[np.bool_]:
        if room > 0.0:
            return np.ones(len(index), dtype=bool)
        return _reaches(outlines, which[index], *cells)

    cells = sort_boxes(outlines.box[which] + room * np.array([-1.0, -1.0, 1.0, 1.0]), step, reaches)
    return cells._replace(items=which[cells.items])


def sort_boxes(box: NDArray[np.float64], step: float, reaches: Callable[..., NDArray[np.bool_]] | None = None) -> Cells:
    """Sort boxes (n, 4), left to top, into a grid; `reaches` says of large ones which cells they really reach into."""
    if len(box) == 0:
        return Cells(0.0, 0.0, step, 0, 0, np.zeros(1, dtype=np.int64), np.zeros(0, dtype=np.int64))
    x0, y0 = box[:, 0].min(), box[:, 1].min()
    width, height = box[:, 2].max() - x0, box[:, 3].max() - y0
    most = max(LEAST_CELLS, CELLS_PER_OUTLINE * len(box))
    size = max(step, float(np.sqrt(width * height / most)), width / most, height / most)
    # A hair larger on every side, so that what lies exactly on a border is found from both cells.
    hair = 1e-6 * size
    columns, rows = int(width / size) + 1, int(height / size) + 1
    low_x = np.clip(((box[:, 0] - hair - x0) / size).astype(np.int64), 0, columns - 1)
    high_x = np.clip(((box[:, 2] + hair - x0) / size).astype(np.int64), 0, columns - 1)
    low_y = np.clip(((box[:, 1] - hair - y0) / size).astype(np.int64), 0, rows - 1)
    high_y = np.clip(((box[:, 3] + hair - y0) / size).astype(np.int64), 0, rows - 1)
    across = high_x - low_x + 1
    number = across * (high_y - low_y + 1)
    outline = np.repeat(np.arange(len(box)), number)
    ramp = ramps(number)
    column = low_x[outline] + ramp % across[outline]
    row = low_y[outline] + ramp // across[outline]
    keep = np.ones(len(outline), dtype=bool)
    large = np.flatnonzero((number > LARGE)[outline])
    if len(large) and reaches is not None:
        keep[large] = reaches(outline[large], column[large], row[large], x0, y0, size, hair)
    outline, cell = outline[keep], (row * columns + column)[keep]
    order = np.lexsort((outline, cell))
    counts = np.bincount(cell, minlength=columns * rows)
    start = np.concatenate(([0], np.cumsum(counts))).astype(np.int64)
    return Cells(float(x0), float(y0), size, columns, rows, start, outline[order])


def _reaches(
    outlines: Outlines,
    outline: NDArray[np.int64],
    column: NDArray[np.int64],
    row: NDArray[np.int64],
    x0: float,
    y0: float,
    size: float,
    hair: float,
) -> NDArray[np.bool_]:
    """Whether no face of an outline has a whole cell on its outside."""
    reaches = np.ones(len(outline), dtype=bool)
    centre_x, centre_y = x0 + (column + 0.5) * size, y0 + (row + 0.5) * size
    for face in range(int(outlines.sides[outline].max(initial=0))):
        has = face < outlines.sides[outline]
        rows = outlines.faces[outlines.first[outline] + np.where(has, face, 0)]
        normal_x, normal_y = rows[:, 5], rows[:, 6]
        distance = normal_x * (centre_x - rows[:, 0]) + normal_y * (centre_y - rows[:, 1])
        half = (np.abs(normal_x) + np.abs(normal_y)) * size / 2 + hair
        outside = has & (rows[:, 4] > 0) & (distance - outlines.radius[outline] > half)
        reaches &= ~outside
    return reaches
