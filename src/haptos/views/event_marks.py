"""The numbered marks of a picture: what happened, and where."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.records.events import EVENT_NAMES
from haptos.engine.report.event_text import EVENTS
from haptos.engine.run import Run
from haptos.geometry.polygons import shape_polygons
from haptos.level.assemblies import PLAYER as PLAYER_NAME
from haptos.views.labels import Box, room_for
from haptos.views.palette import INK
from haptos.views.piece_names_drawn import boxes_of
from haptos.views.sheet import Shown

# Events that get a number in the picture.
MARKED = frozenset(EVENT_NAMES[kind] for kind, text in EVENTS.items() if text.is_marked)
MOST_MARKS = 40
# A bubble is so large, and events so near to each other share one, dots.
BUBBLE = 17.0
ONE_PLACE = 6.0
# How many steps away from its place a bubble may stand so that it covers no piece; and at all.
NEAR, FAR = 8, 14


class Group:
    """What happened at one place."""

    def __init__(self, x: float, y: float) -> None:
        self.x, self.y = x, y
        self.said: dict[float, list[str]] = {}

    @property
    def text(self) -> str:
        """All that happened there, in order."""
        return "; ".join(f"{t:.3f} s  {', '.join(texts)}" for t, texts in self.said.items())


def mark_events(
    ax: Any, then: CompiledLevel, run: Run, shown: Shown, taken: list[Box]
) -> list[tuple[int, str]]:  # fmt: skip
    """Number the events of a run in the picture, and return their legend; the boxes of the marks are added to taken."""
    rows = run.track_records[shown.ticks(run)]
    return mark_places(ax, then, [np.column_stack((rows["x"], rows["y"]))], _groups(ax, run, shown), taken)


def mark_places(
    ax: Any, then: CompiledLevel, paths: list[NDArray[np.float64]], groups: list[Group], taken: list[Box]
) -> list[tuple[int, str]]:
    """Number places in the picture, clear of paths and pieces as far as there is room, and return their legend."""
    chosen = groups[:MOST_MARKS]
    box = ax.get_window_extent()
    inside = (box.x0, box.y0, box.x1, box.y1)
    transform = ax.transData
    for places in paths:
        path = transform.transform(places)[:: max(1, len(places) // 400)]
        taken += [(px - 3, py - 3, px + 3, py + 3) for px, py in path]
    pieces = boxes_of(ax, shape_polygons(then.placement))
    legend = []
    for number, group in enumerate(chosen, start=1):
        px, py = transform.transform((group.x, group.y))
        point = (float(px), float(py))
        free = [*taken, *pieces]
        place = room_for(point, BUBBLE, BUBBLE, free, inside, NEAR)
        if place is None:
            place = room_for(point, BUBBLE, BUBBLE, [*taken], inside, FAR) or point
        taken.append(_around(place))
        end = transform.inverted().transform(place)
        ax.plot((group.x, end[0]), (group.y, end[1]), color=INK, linewidth=0.6, zorder=8)
        ax.text(
            end[0], end[1], str(number), fontsize=7, ha="center", va="center", color=INK, zorder=9, clip_on=True,
            bbox={"boxstyle": "circle,pad=0.22", "facecolor": "white", "edgecolor": INK, "linewidth": 0.6},
        )  # fmt: skip
        legend.append((number, group.text))
    hidden = sum(len(group.said) for group in groups[MOST_MARKS:])
    if hidden:
        legend.append((len(chosen) + 1, f"and {hidden} more in the table of events"))
    return legend


def _groups(ax: Any, run: Run, shown: Shown) -> list[Group]:
    """Return the events that are shown, joined where they are at one place."""
    x0, x1 = ax.get_xlim()
    y0, y1 = ax.get_ylim()
    said: list[tuple[float, float, float, str]] = []
    for row in run.event_rows:
        seen = x0 <= row.x <= x1 and y0 <= row.y <= y1
        if row.event not in MARKED or not shown.has_time(row.t) or not seen:
            continue
        text = f"{row.event} {row.piece}".strip() if row.event != "say" else f"“{row.detail}”"
        if row.who != PLAYER_NAME:
            text = f"{row.who}: {text}"
        said.append((row.x, row.y, row.t, text))
    return by_place(ax, said)


def by_place(ax: Any, said: list[tuple[float, float, float, str]]) -> list[Group]:
    """Return what is said at places and times (x, y, t, text), joined where the picture has it at one place."""
    near = ONE_PLACE / max(float(np.hypot(*(ax.transData.transform((1, 0)) - ax.transData.transform((0, 0))))), 1e-9)
    groups: list[Group] = []
    for x, y, t, text in said:
        here = (group for group in groups if abs(group.x - x) <= near and abs(group.y - y) <= near)
        group = next(here, None)
        if group is None:
            group = Group(x, y)
            groups.append(group)
        group.said.setdefault(round(t, 9), []).append(text)
    return groups


def _around(place: Any) -> Box:
    x, y = place
    return (x - BUBBLE / 2, y - BUBBLE / 2, x + BUBBLE / 2, y + BUBBLE / 2)
