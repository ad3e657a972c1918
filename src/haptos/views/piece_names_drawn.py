"""The names of pieces in a picture: where there is room, and always of what a run met."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.run import Run
from haptos.geometry.polygons import shape_polygons
from haptos.level.roster import MAP_PREFIX
from haptos.views.labels import Box, room_for
from haptos.views.palette import FAINT, INK, PAPER

FONT_SIZE = 6.8
# The size of a letter, and of the air around a name, dots.
LETTER, LINE, AIR = 5.3, 11.0, 4.0
# How many steps away from its piece a name may stand: one that has to, and one that may.
FAR, NEAR = 9, 4


def draw_names(
    ax: Any, then: CompiledLevel, run: Run | None, which: str, hidden: frozenset[int], taken: list[Box]
) -> None:
    """Write the names of pieces where they cover nothing that is taken.

    Parameters
    ----------
    ax : Axes
    then : CompiledLevel
        As it is at the moment that is drawn.
    run : Run or None
    which : all, some or none
    hidden : numbers of the pieces that are not drawn
    taken : boxes in dots that stay free; those of the names are added
    """
    if which == "none":
        return
    met = met_pieces(run)
    box = ax.get_window_extent()
    inside = (box.x0, box.y0, box.x1, box.y1)
    pieces = list(enumerate(then.resolved.pieces))
    boxes = boxes_of(ax, shape_polygons(then.placement))
    for index, piece in sorted(pieces, key=lambda one: one[1].name not in met):
        is_met = piece.name in met
        if index in hidden or (piece.name.startswith(MAP_PREFIX) and not is_met and which != "all"):
            continue
        shapes = shape_polygons(then.placement.only(then.placement.piece == index))
        corners = _in_dots(ax, shapes, inside)
        if corners is None:
            continue
        name = piece.name.removeprefix(MAP_PREFIX)
        width, height = LETTER * len(name) + AIR, LINE
        must = is_met or which == "all"
        wide, high = corners[1] - corners[0]
        fits = width <= wide and height <= high
        # Inside of its piece, or else where it covers none.
        place = room_for(_middle(corners), width, height, taken, inside, NEAR) if fits else None
        if place is None:
            free = [*taken, *boxes]
            place = room_for(_middle(corners), width, height, free, inside, FAR if must else NEAR)
            if place is None:
                continue
            taken.append(free[-1])
        at = ax.transData.inverted().transform(place)
        if _is_away(place, corners):
            # So that it is not taken for the name of what is nearer.
            ends = np.array([at, ax.transData.inverted().transform(_middle(corners))])
            ax.plot(ends[:, 0], ends[:, 1], color=FAINT, linewidth=0.5, zorder=4.1)
        ax.text(
            *at, name, fontsize=FONT_SIZE, ha="center", va="center", color=INK, zorder=8.5, clip_on=True,
            bbox={"boxstyle": "round,pad=0.1", "facecolor": PAPER, "edgecolor": "none", "alpha": 0.72},
        )  # fmt: skip


def boxes_of(ax: Any, shapes: Iterable[Any]) -> list[Box]:
    """Return the boxes of shapes, in dots."""
    bounds = np.array([shape.bounds for shape in shapes]).reshape(-1, 2)
    return [(x0, y0, x1, y1) for x0, y0, x1, y1 in ax.transData.transform(bounds).reshape(-1, 4).tolist()]


def met_pieces(run: Run | None) -> frozenset[str]:
    """Return the names of the pieces that the events of a run name."""
    if run is None:
        return frozenset()
    return frozenset(name for row in run.event_rows for name in (row.piece, row.who) if name)


def _in_dots(ax: Any, shapes: Iterable[Any], inside: Box) -> Any:
    """Return the corners of the part of some shapes that is seen, in dots; None if nothing is."""
    points = [ax.transData.transform(np.asarray(shape.bounds).reshape(2, 2)) for shape in shapes]
    seen = [
        np.clip(box, inside[:2], inside[2:])
        for box in points
        if box[1, 0] > inside[0] and box[0, 0] < inside[2] and box[1, 1] > inside[1] and box[0, 1] < inside[3]
    ]
    return max(seen, key=lambda box: float(np.prod(box[1] - box[0]))) if seen else None


def _is_away(place: tuple[float, float], corners: Any) -> bool:
    """Whether a name stands farther from its piece than beside it."""
    nearest = np.clip(place, corners[0], corners[1])
    return bool(np.max(np.abs(nearest - place) - [0.0, LINE]) > LINE and np.hypot(*(nearest - place)) > 2.2 * LINE)


def _middle(corners: Any) -> tuple[float, float]:
    x, y = corners.mean(axis=0)
    return (float(x), float(y))
