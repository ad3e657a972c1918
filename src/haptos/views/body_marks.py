"""How loose bodies look in a picture: ghosts along their way, where they end, and the hinges that pin them."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.report.replay import GONE
from haptos.engine.run import Run
from haptos.geometry.polygons import shape_polygons
from haptos.views.palette import INK, PAPER

GHOST = (0, (2, 2))
# A body is shown along its way after each of its own sizes, or so many degrees, but at most so many times.
APART, TURNED, MOST_GHOSTS = 1.0, 45.0, 8
# The arcs of a hinge reach so far from it, as a share of how far its body does; its arrow is so many degrees long.
ARC, ARROW = 0.55, 36.0


def draw_bodies(ax: Any, run: Run, colours: dict[str, str], at: float | None, last: int | None = None) -> None:
    """Draw where loose bodies were along their way, and, where no moment is asked for, where they end."""
    from matplotlib.patches import Polygon

    compiled = run.compiled
    loose = compiled.tables.loose
    if loose is None:
        return
    table = run.pieces if last is None else run.pieces[run.pieces["tick"] < last]
    for body in loose.bodies:
        index = int(body["piece"])
        if index >= len(compiled.resolved.pieces):
            continue
        piece = compiled.resolved.pieces[index]
        own = table[(table["piece"] == piece.name) & (table["state"] != GONE)]
        if at is not None:
            own = own[own["t"] <= at + 1e-9]
        if not len(own):
            continue
        rows = own[["x", "y", "angle"]].to_numpy(dtype=np.float64)
        shown = _spaced(rows, float(body["size"]))
        for number, row in enumerate(shown):
            ends = number == len(shown) - 1 and at is None
            for corners in _outlines(compiled, index, row):
                ax.add_artist(
                    Polygon(
                        corners, closed=True, facecolor=colours[piece.layer] if ends else "none",
                        edgecolor=colours[piece.layer], linewidth=1.2 if ends else 0.7, alpha=0.55 if ends else 0.8,
                        linestyle="-" if ends else GHOST, zorder=2.15 if ends else 1.75,
                    )
                )  # fmt: skip


def _spaced(rows: Any, size: float) -> Any:
    """Return places along a way that are so far apart that they can be told from one another, without the first."""
    gone = np.hypot(*np.diff(rows[:, :2], axis=0).T) / (APART * size) + np.abs(np.diff(rows[:, 2])) / TURNED
    way = np.concatenate(([0.0], np.cumsum(gone)))
    if way[-1] < 0.05:
        return rows[:0]
    count = min(max(int(way[-1]), 1), MOST_GHOSTS)
    return rows[np.searchsorted(way, np.linspace(0.0, way[-1], count + 1)[1:] - 1e-12)]


def _outlines(compiled: CompiledLevel, index: int, row: Any) -> list[Any]:
    """Return the outlines of a body where it is."""
    shapes = compiled.placement.only(compiled.placement.piece == index)
    origin = compiled.origins[index]
    moved = shapes.carried(index, origin, row[:2] - origin, math.radians(row[2]))
    return [np.asarray(polygon.exterior.coords) for polygon in shape_polygons(moved)]


def draw_hinges(ax: Any, compiled: CompiledLevel, then: CompiledLevel, hidden: frozenset[int]) -> None:
    """Draw the pin of each hinge, the arc of its limits, and an arrow for the way that its motor turns."""
    from matplotlib.patches import Arc

    loose = compiled.tables.loose
    if loose is None:
        return
    for hinge in loose.hinges:
        index = int(hinge["piece"])
        if index >= len(compiled.resolved.pieces) or index in hidden:
            continue
        body = loose.bodies[int(hinge["second"])]
        turned = math.radians(then.resolved.pieces[index].turn - compiled.resolved.pieces[index].turn)
        own = np.array([hinge["second_x"] + body["centre_x"], hinge["second_y"] + body["centre_y"]])
        cosine, sine = math.cos(turned), math.sin(turned)
        x, y = then.origins[index] + np.array([own[0] * cosine - own[1] * sine, own[0] * sine + own[1] * cosine])
        ax.scatter([x], [y], s=16, facecolor=PAPER, edgecolor=INK, zorder=3.8, linewidths=1.2)
        arm = compiled.origins[index] + np.array([body["centre_x"], body["centre_y"]])
        arm = arm - (compiled.origins[index] + own)
        begin = math.degrees(math.atan2(arm[1], arm[0]))
        size = ARC * max(float(body["reach"]) + float(np.hypot(*arm)), 0.5 * float(body["size"]))
        if math.isfinite(hinge["low"]) and math.isfinite(hinge["high"]):
            low, high = begin + math.degrees(hinge["low"]), begin + math.degrees(hinge["high"])
            ax.add_artist(
                Arc((x, y), 2 * size, 2 * size, theta1=low, theta2=high, color=INK, linewidth=0.9, linestyle=GHOST,
                    zorder=3.7)
            )  # fmt: skip
            for angle in (low, high):
                tip = np.radians(angle)
                ends = [(x + share * size * np.cos(tip), y + share * size * np.sin(tip)) for share in (0.9, 1.1)]
                ax.plot(*zip(*ends, strict=True), color=INK, linewidth=1.0, zorder=3.7)
        if hinge["torque"] > 0.0 and hinge["speed"] != 0.0:
            sense = 1.0 if hinge["speed"] > 0.0 else -1.0
            tip, tail = (
                (x + size * np.cos(np.radians(angle)), y + size * np.sin(np.radians(angle)))
                for angle in (begin + sense * ARROW, begin)
            )
            bend = f"arc3,rad={0.25 * sense:g}"
            style = {"arrowstyle": "-|>", "color": INK, "linewidth": 1.1, "connectionstyle": bend}
            ax.annotate("", xy=tip, xytext=tail, arrowprops=style, zorder=3.8)
