"""Merging of equal tiles into rectangles, so that a floor of a thousand tiles is one box."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def merge_tiles(cells: NDArray[np.int64]) -> NDArray[np.int64]:
    """Cover a set of tiles with few rectangles.

    Runs along the rows come first; equal runs in neighbouring rows are then joined.

    Parameters
    ----------
    cells : (n, 2) array
        Column and row of each tile, no tile twice.

    Returns
    -------
    (m, 4) array
        First column, first row, columns, rows of each rectangle. They do not overlap and cover exactly the cells.

    Examples
    --------
    >>> merge_tiles(np.array([[0, 0], [1, 0], [0, 1], [1, 1], [3, 0]])).tolist()
    [[0, 0, 2, 2], [3, 0, 1, 1]]
    """
    if len(cells) == 0:
        return np.zeros((0, 4), dtype=np.int64)
    order = np.lexsort((cells[:, 0], cells[:, 1]))
    column, row = cells[order, 0], cells[order, 1]
    begins = np.ones(len(cells), dtype=bool)
    begins[1:] = (np.diff(row) != 0) | (np.diff(column) != 1)
    first = np.flatnonzero(begins)
    width = np.diff(np.append(first, len(cells)))
    left, bottom = column[first], row[first]

    order = np.lexsort((bottom, width, left))
    left, width, bottom = left[order], width[order], bottom[order]
    begins = np.ones(len(left), dtype=bool)
    begins[1:] = (np.diff(left) != 0) | (np.diff(width) != 0) | (np.diff(bottom) != 1)
    first = np.flatnonzero(begins)
    height = np.diff(np.append(first, len(left)))
    return np.column_stack((left[first], bottom[first], width[first], height))
