"""How near the body came to a piece in a run."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.affinity import rotate, translate

from haptos.engine.build.compile_level import body_of
from haptos.geometry.polygons import body_polygon, shape_polygons

if TYPE_CHECKING:
    from haptos.engine.run import Run


def nearest(run: Run, index: int, first: int = 0, last: int | None = None) -> tuple[float | None, int]:
    """Return how near the body came to a piece, and at which tick.

    Parameters
    ----------
    run : Run
    index : int
        The number of the piece.
    first, last : int
        The ticks to look at; to the end if there is no last.

    Returns
    -------
    gap : float or None
        Zero where they overlapped; None for a piece without a shape.
    tick : int
    """
    outlines = outlines_at_ticks(run, index)
    rows = run.track_records
    last = len(rows) - 1 if last is None else last
    if not len(outlines) or outlines[first].is_empty:
        return None, first
    gaps = shapely.distance(body_outlines(run, first, last), outlines[first : last + 1])
    which = int(np.argmin(gaps))
    return float(gaps[which]), first + which


def body_outlines(run: Run, first: int = 0, last: int | None = None) -> NDArray[np.object_]:
    """Return the body's own shape from the end of one tick to that of another; to the last one if none is said."""
    core, rows = body_of(run.level), run.track_records
    last = len(rows) - 1 if last is None else last
    bodies = [
        body_polygon(core._replace(angle=math.atan2(-row["up_x"], row["up_y"])), float(row["x"]), float(row["y"]))
        for row in rows[first : last + 1]
    ]
    return np.array(bodies, dtype=object)


def outlines_at_ticks(run: Run, index: int) -> NDArray[np.object_]:
    """Return the shape of a piece at the end of each tick; where it rests if it never moves."""
    compiled = run.compiled
    shape = shapely.union_all(shape_polygons(compiled.placement.only(compiled.placement.piece == index)))
    count = len(run.track_records)
    rows = run.pieces[run.pieces["piece"] == compiled.resolved.pieces[index].name]
    if len(rows) != count:
        return np.full(count, shape, dtype=object)
    x, y = compiled.origins[index]
    moved = [translate(rotate(shape, row.angle, (x, y)), row.x - x, row.y - y) for row in rows.itertuples(index=False)]
    return np.array(moved, dtype=object)
