"""Who is near what flies: cells of a plane without edges, each with a list of those whose next stretch of way is in it.

The stretch is so short that its box, grown by what flies and by the body, is no wider than a cell, so that it lies in
four of them at most. Cells share lists by chance: who is found in one may still be far away.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import constant, leaf

# Cells that one piece is in, at most.
MOST_CELLS = constant(4)
# No list, and the end of one.
NONE = constant(-1)
# Cells from the middle, beyond which they are not told apart: a number that is larger has no integer.
FARTHEST = 1e15
# Two large primes, by which the cells near each other come into different lists.
ACROSS, ALONG = 73856093, 19349663


@leaf
def list_of(movers: Any, column: int, row: int) -> int:
    """Return the list of a cell; there are as many of them as a power of two."""
    return ((column * ACROSS) ^ (row * ALONG)) & (movers.heads.shape[0] - 1)


@leaf
def cell_of(x: float, size: float) -> int:
    """Return which column, or row, of cells a place is in; all that is farther than `FARTHEST` is in the last one."""
    return int(math.floor(min(max(x / size, -FARTHEST), FARTHEST)))


@leaf
def enter_cells(movers: Any, row: int, t: float) -> float:
    """Put a piece that is free to fly into the cells of its way from a time on; return until when that holds."""
    leave_cells(movers, row)
    flying, size = movers.flying[row], movers.cell
    fastest = max(abs(flying.vx), abs(flying.vy))
    time = (size - 2.0 * flying.room) / fastest if fastest > 0.0 else math.inf
    x, y = flying.x + t * flying.vx, flying.y + t * flying.vy
    far_x, far_y = (x + time * flying.vx, y + time * flying.vy) if fastest > 0.0 else (x, y)
    first_column = cell_of(min(x, far_x) - flying.room, size)
    last_column = cell_of(max(x, far_x) + flying.room, size)
    first_row = cell_of(min(y, far_y) - flying.room, size)
    last_row = cell_of(max(y, far_y) + flying.room, size)
    node = MOST_CELLS * row
    for column in range(first_column, min(last_column, first_column + 1) + 1):
        for line in range(first_row, min(last_row, first_row + 1) + 1):
            _link(movers, node, list_of(movers, column, line))
            node += 1
    return t + time


@leaf
def leave_cells(movers: Any, row: int) -> None:
    """Take a piece out of all cells."""
    for node in range(MOST_CELLS * row, MOST_CELLS * (row + 1)):
        link = movers.links[node]
        if link.list == NONE:
            continue
        if link.before == NONE:
            movers.heads[link.list] = link.after
        else:
            movers.links[link.before].after = link.after
        if link.after != NONE:
            movers.links[link.after].before = link.before
        link.list = NONE


@leaf
def _link(movers: Any, node: int, which: int) -> None:
    """Put a node at the begin of a list."""
    link, first = movers.links[node], movers.heads[which]
    link.list, link.before, link.after = which, NONE, first
    if first != NONE:
        movers.links[first].before = node
    movers.heads[which] = node
