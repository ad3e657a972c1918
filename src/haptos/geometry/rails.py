"""Where the ladders of a level are: a box for each, about a place, along the ladder's own up."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.geometry.convex import turned
from haptos.geometry.placement import Placement, piece_box, piece_places
from haptos.level.resolve import ResolvedLevel
from haptos.level.resolved_piece import ResolvedPiece

Floats = NDArray[np.float64]


class Rails(NamedTuple):
    """One ladder: the corners of its box about a place, before it is turned as its piece is.

    Attributes
    ----------
    low, high : (2,)
    at : (2,)
    """

    low: Floats
    high: Floats
    at: Floats


def rails_of(resolved: ResolvedLevel, piece: ResolvedPiece, shapes: Placement) -> list[Rails]:
    """Return the ladders of a piece: one for each of its places; of tiles, one for each column of them.

    Parameters
    ----------
    resolved : ResolvedLevel
    piece : ResolvedPiece
    shapes : Placement
        Its shapes alone.
    """
    if not piece.fills_tile:
        if not shapes.piece.size:
            return []
        low, high = piece_box(piece)
        return [Rails(low, high, at) for at in piece_places(piece, shapes)]
    tiles = resolved.level.tiles
    assert tiles is not None
    upright = piece.turn == tiles.turn and piece.scale == 1.0
    found = []
    for column, row, height in column_runs(piece.tiles) if upright else [(*cell, 1) for cell in piece.tiles]:
        half = 0.5 * tiles.tile * piece.scale * np.array([1.0, float(height)])
        middle = tiles.tile * np.array([column + 0.5, row + 0.5 * height])
        found.append(Rails(-half, half, turned(middle, np.deg2rad(tiles.turn)) + np.array(tiles.at)))
    return found


def column_runs(cells: tuple[tuple[int, int], ...]) -> list[tuple[int, int, int]]:
    """Return the columns of tiles that stand on one another: column, lowest row, and how many.

    Examples
    --------
    >>> column_runs(((3, 0), (3, 1), (3, 3), (4, 0)))
    [(3, 0, 2), (3, 3, 1), (4, 0, 1)]
    """
    runs: list[tuple[int, int, int]] = []
    for column, row in sorted(cells):
        if runs and runs[-1][0] == column and row == runs[-1][1] + runs[-1][2]:
            runs[-1] = (column, runs[-1][1], runs[-1][2] + 1)
        else:
            runs.append((column, row, 1))
    return runs
