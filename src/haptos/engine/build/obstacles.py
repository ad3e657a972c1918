"""Outlines as records in a grid, for the kernels."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.filling import filled
from haptos.engine.collision.grid import MOST_AROUND
from haptos.engine.records import Records
from haptos.engine.records.tables import FACE, GRID, OUTLINE, Obstacles
from haptos.geometry.cells import Cells, sort_into_cells
from haptos.geometry.outlines import Outlines, shifted
from haptos.level.level import Level

# Nothing that moves is near.
NOBODY = np.zeros(1, dtype=np.int64)
# Nothing was looked for yet.
AROUND = np.zeros(1 + int(MOST_AROUND), dtype=np.int64)
NO_BOX = np.array([np.inf, -np.inf, np.inf, -np.inf])
NOTHING_TURNS: NDArray[np.bool_] = np.zeros(0, dtype=bool)


def as_obstacles(
    outlines: Outlines, step: float, moves: NDArray[np.bool_] | None = None, room: float = 0.0
) -> Obstacles:
    """Return outlines as records, those that stay in a grid of cells about `step` wide.

    Parameters
    ----------
    outlines : Outlines
    step : float
    moves : (n,) ndarray of bool, optional
        Which of them do not stay.
    room : float
        How much farther the others may come to reach.
    """
    rows = np.zeros(len(outlines.piece), dtype=OUTLINE)
    rows["piece"], rows["first"], rows["count"] = outlines.piece, outlines.first, outlines.sides
    rows["radius"] = outlines.radius
    rows["side_x"], rows["side_y"] = outlines.side[:, 0], outlines.side[:, 1]
    rows["twin"] = rows["mover"] = rows["assembly"] = -1
    for column, name in enumerate(("x0", "y0", "x1", "y1")):
        rows[name] = outlines.box[:, column]
    faces = np.zeros(len(outlines.faces), dtype=FACE)
    for column, name in enumerate(("x", "y", "tx", "ty", "length", "nx", "ny")):
        faces[name] = outlines.faces[:, column]
    cells = sort_into_cells(outlines, step, None if moves is None else ~moves, room)
    return Obstacles(rows, faces, grid_of(cells), cells.start, cells.items, NOBODY, AROUND.copy(), NO_BOX.copy())


def grid_of(cells: Cells) -> Records:
    """Return the uniform grid of some cells as a record."""
    row = {name: getattr(cells, name) for name in ("x", "y", "size", "columns", "rows")}
    return filled(GRID, [{**row, "per_unit": 1.0 / cells.size}])


def repeated(level: Level, outlines: Outlines, turns: NDArray[np.bool_] = NOTHING_TURNS) -> Outlines:
    """Return the outlines with copies beyond the edges that wrap, so that both sides of such an edge are felt.

    Pieces that turn have none; `turns` says for each piece whether it does.
    """
    bounds = level.world.bounds
    if bounds is None:
        return outlines
    x0, y0, x1, y1 = bounds.corners
    if bounds.left == "wrap":
        period = x1 - x0
        ahead = _still(outlines, outlines.box[:, 0] < x0, turns)
        behind = _still(outlines, outlines.box[:, 2] > x1, turns)
        outlines = shifted(shifted(outlines, ahead, period, 0.0), behind, -period, 0.0)
    if bounds.bottom == "wrap":
        period = y1 - y0
        ahead = _still(outlines, outlines.box[:, 1] < y0, turns)
        behind = _still(outlines, outlines.box[:, 3] > y1, turns)
        outlines = shifted(shifted(outlines, ahead, 0.0, period), behind, 0.0, -period)
    return outlines


def _still(outlines: Outlines, which: NDArray[np.bool_], turns: NDArray[np.bool_]) -> NDArray[np.int64]:
    return np.flatnonzero(which & ~turns[outlines.piece] if len(turns) else which)


def is_sided(obstacles: Obstacles) -> NDArray[np.bool_]:
    """Which outlines are solid from one side alone."""
    one_way: NDArray[np.bool_] = (obstacles.outlines["side_x"] != 0) | (obstacles.outlines["side_y"] != 0)
    return one_way
