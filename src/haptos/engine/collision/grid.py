"""Who is near: what stays, in the cells of the uniform grid that a box reaches into, and what moves nearby."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import constant, leaf

# So many outlines are noted around a box; where there are more, the cells are gone through each time.
MOST_AROUND = constant(64)
# A longer path, in cells, is gone through cell by cell.
MOST_CELLS = 4.0


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
    # Bounded first: a number that is far off the grid has no integer. Below zero, numbers are rounded up here; nothing
    # reaches into the cells that are looked at for that in addition.
    return (
        int(min(max((x0 - grid.x) * grid.per_unit, 0.0), grid.columns * 1.0)),
        int(max(min((x1 - grid.x) * grid.per_unit, grid.columns - 1.0), -1.0)),
        int(min(max((y0 - grid.y) * grid.per_unit, 0.0), grid.rows * 1.0)),
        int(max(min((y1 - grid.y) * grid.per_unit, grid.rows - 1.0), -1.0)),
    )


@leaf
def visit_outlines(obstacles: Any, x0: float, x1: float, y0: float, y1: float, visit: Any, scene: Any) -> None:
    """Visit the outlines whose boxes overlap a box: those that stay, more than once where they are large, then others.

    Parameters
    ----------
    obstacles : Obstacles
    x0, x1, y0, y1 : float
    visit : leaf
        Of the scene and the index of an outline.
    scene : tuple
        All that it needs.
    """
    visit_cells(obstacles, x0, x1, y0, y1, visit, scene)
    for place in range(obstacles.near[0]):
        index = obstacles.near[1 + place]
        outline = obstacles.outlines[index]
        if outline.x0 <= x1 and outline.x1 >= x0 and outline.y0 <= y1 and outline.y1 >= y0:
            visit(scene, index)


@leaf
def visit_cells(obstacles: Any, x0: float, x1: float, y0: float, y1: float, visit: Any, scene: Any) -> None:
    """Visit those alone that stay: of what was around the last box, if this one lies in it, else of the cells."""
    box = obstacles.box
    if x0 >= box[0] and x1 <= box[1] and y0 >= box[2] and y1 <= box[3]:
        is_around = True
    else:
        is_around = _look_around(obstacles, x0, x1, y0, y1)
    if is_around:
        for place in range(1, obstacles.around[0] + 1):
            index = obstacles.around[place]
            outline = obstacles.outlines[index]
            if outline.x0 <= x1 and outline.x1 >= x0 and outline.y0 <= y1 and outline.y1 >= y0:
                visit(scene, index)
        return
    grid = obstacles.grid[0]
    first_column, last_column, first_row, last_row = cells_of(grid, x0, x1, y0, y1)
    for row in range(first_row, last_row + 1):
        for column in range(first_column, last_column + 1):
            cell = row * grid.columns + column
            for item in range(obstacles.start[cell], obstacles.start[cell + 1]):
                index = obstacles.items[item]
                outline = obstacles.outlines[index]
                if outline.x0 <= x1 and outline.x1 >= x0 and outline.y0 <= y1 and outline.y1 >= y0:
                    visit(scene, index)


@leaf
def _look_around(obstacles: Any, x0: float, x1: float, y0: float, y1: float) -> bool:
    """Note what is around a box, for those boxes that will lie near it; return whether it is worth it, and all fits."""
    grid, around, box = obstacles.grid[0], obstacles.around, obstacles.box
    size = grid.size
    if x1 - x0 > MOST_CELLS * size or y1 - y0 > MOST_CELLS * size:
        return False
    x0, x1, y0, y1 = x0 - size, x1 + size, y0 - size, y1 + size
    first_column, last_column, first_row, last_row = cells_of(grid, x0, x1, y0, y1)
    box[0] = math.inf
    count = 0
    for row in range(first_row, last_row + 1):
        for column in range(first_column, last_column + 1):
            cell = row * grid.columns + column
            for item in range(obstacles.start[cell], obstacles.start[cell + 1]):
                index = obstacles.items[item]
                outline = obstacles.outlines[index]
                if outline.x0 > x1 or outline.x1 < x0 or outline.y0 > y1 or outline.y1 < y0:
                    continue
                if _is_noted(around, count, index):
                    continue
                if count == MOST_AROUND:
                    return False
                count += 1
                around[count] = index
    around[0] = count
    box[0], box[1], box[2], box[3] = x0, x1, y0, y1
    return True


@leaf
def _is_noted(around: Any, count: int, index: int) -> bool:
    for place in range(1, count + 1):
        if around[place] == index:
            return True
    return False


@leaf
def look_anew(obstacles: Any) -> None:
    """Forget what is around, since what stays has been grown anew."""
    obstacles.box[0] = math.inf


@leaf
def visit_near(obstacles: Any, visit: Any, scene: Any) -> None:
    """Visit those alone that move and are near in this tick, wherever they are."""
    for place in range(obstacles.near[0]):
        visit(scene, obstacles.near[1 + place])
