"""Jumps across gaps, drawn as the arcs that the body's foot would take."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel
from haptos.study.ballistics import Flight
from haptos.study.gaps import Gap, find_gaps
from haptos.study.surfaces import axes
from haptos.views.labels import Box, spread
from haptos.views.palette import CLEARED, MISSED, PAPER

SAMPLES = 40
# A number takes this many dots.
MARK = 11.0
STYLES: dict[str, Any] = {"walk": (0, (2, 1.5)), "sprint": "-", "launch": (0, (6, 2))}


def draw_gaps(ax: Any, compiled: CompiledLevel, first: int, taken: list[Box]) -> list[Gap]:
    """Draw the arc of every gait from edge to edge, numbered from `first` on where nothing is, and return the gaps."""
    rows = find_gaps(compiled)
    flight = Flight(compiled.level)
    frame = axes(compiled)
    tops = []
    for row in rows:
        points = _arc(flight, row, frame)
        ok = row.needs == 0 and row.margin >= 0 and not row.blocked_by
        ax.plot(
            points[:, 0], points[:, 1], color=CLEARED if ok else MISSED, linestyle=STYLES[row.gait], linewidth=1.3,
            zorder=7.5,
        )  # fmt: skip
        tops.append(tuple(ax.transData.transform(points[np.argmax(points @ frame[1])])))
    box = ax.get_window_extent()
    places = spread(tops, MARK, MARK, taken, (box.x0, box.y0, box.x1, box.y1))
    for number, (place, row) in enumerate(zip(places, rows, strict=True), start=first):
        x, y = ax.transData.inverted().transform(place)
        colour = CLEARED if row.needs == 0 and row.margin >= 0 and not row.blocked_by else MISSED
        top = ax.transData.inverted().transform(tops[number - first])
        ax.plot((top[0], x), (top[1], y), color=colour, linewidth=0.5, zorder=7.4)
        ax.text(
            x, y, str(number), fontsize=7, ha="center", va="center", color=colour, zorder=9, clip_on=True,
            bbox={"boxstyle": "round,pad=0.08", "facecolor": PAPER, "edgecolor": "none", "alpha": 0.8},
        )  # fmt: skip
    return rows


def gap_text(row: Gap, unit: str) -> str:
    """Return what a legend says of one gap and gait."""
    if row.needs > 0:
        return f"{row.start} → {row.goal}, {row.gait}: too high by {row.needs:.3g} {unit}"
    word = "cleared by" if row.margin >= 0 else "missed by"
    blocked = f", {row.blocked_by} in the way" if row.blocked_by else ""
    return f"{row.start} → {row.goal}, {row.gait}: {word} {abs(row.margin):.3g} {unit}{blocked}"


def _arc(flight: Flight, row: Gap, frame: Any) -> Any:
    """Return the way of the foot: to the goal's height again, or to the apex where that is too high."""
    start, goal = frame @ np.array(row.at), frame @ np.array(row.to)
    way = math.copysign(1.0, goal[0] - start[0])
    up, ahead = row.up, row.ahead
    rising_time = up / flight.rising
    apex = up * up / (2 * flight.rising)
    total = rising_time + (flight.fall_time(apex - row.rise) if row.needs == 0 and apex >= row.rise else 0.0)
    t = np.linspace(0.0, total, SAMPLES)
    falling = np.maximum(t - rising_time, 0.0)
    until = flight.terminal / flight.falling if flight.falling > 0 else math.inf
    drop = np.where(
        falling <= until, 0.5 * flight.falling * falling**2, flight.terminal * (falling - until / 2)
    )  # fmt: skip
    height = np.where(t <= rising_time, up * t - 0.5 * flight.rising * t**2, apex - drop)
    return np.column_stack((start[0] + way * ahead * t, start[1] + height)) @ frame
