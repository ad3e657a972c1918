"""The picture of a level and of what the body did in it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel, body_of, compile_level
from haptos.engine.run import Run
from haptos.geometry.polygons import body_polygon
from haptos.level.level import Level
from haptos.views.body_marks import draw_bodies, draw_hinges
from haptos.views.event_marks import mark_events
from haptos.views.facet_marks import draw_facets, draw_looks
from haptos.views.labels import Box
from haptos.views.leaps import draw_gaps, gap_text
from haptos.views.legend import draw_legend
from haptos.views.motion import at_time, draw_cracks, draw_flights, draw_motions
from haptos.views.objective_marks import draw_stakes
from haptos.views.outlines_drawn import draw_bounds, draw_pieces
from haptos.views.palette import FAINT, INK, PAPER, PLAYER, SPEED_MAP, layer_colours
from haptos.views.piece_names_drawn import draw_names
from haptos.views.sheet import DOTS_PER_INCH, Shown, layout_of, window_of
from haptos.views.signs import draw_signs
from haptos.views.themes import darken
from haptos.writing import write_whole

DOT_EVERY = 0.1  # seconds
# What is drawn over a level: given axes, the level as drawn and the boxes that are taken, it returns numbered marks and
# lines of the legend.
Over = Callable[[Any, CompiledLevel, list[Box]], tuple[list[tuple[int, str]], list[Any]]]


def draw(level: Level, run: Run | None = None, ax: Any = None, at: float | None = None, **shown: Any) -> Any:
    """Draw a level, and the path of a run in it, as the tool does.

    Solid pieces are filled, zones hatched, the path coloured by speed with a dot every tenth of a second. What moves is
    drawn where it is at the start, with its route.

    Parameters
    ----------
    level : Level
    run : Run, optional
    ax : Matplotlib Axes, optional
        If not given, a figure of its own with a legend: ``ax.figure``.
    at : float, optional
        Seconds: the world, the body, and what has happened, are those of that moment.
    shown : dict
        More of what is shown: `begin`, `end` (s), `window` (x0, y0, x1, y1), `around` (a piece, ``player`` or a place),
        `layers`, `names` (all, some, none), `size` (dots), `theme` (light, dark), `gaps`; see
        `haptos.views.sheet.Shown`.

    Returns
    -------
    Axes

    Raises
    ------
    LevelError
        If a piece can't be resolved.
    HaptosError
        If something is to be shown that can't be.
    TypeError
        If it is no level.

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -22]}])
    >>> ax = haptos.draw(level, haptos.simulate(level, "right 1 s"))
    >>> ax.get_xlabel()
    'x (px)'
    """
    return draw_sheet(level, run, ax, Shown(at=at, **shown))[0]


def save_picture(level: Level, run: Run | None, path: str | Path, **shown: Any) -> list[tuple[int, str]]:
    """Write a picture with its legend; see `draw` for what may be said about it.

    Parameters
    ----------
    level : Level
    run : Run or None
    path : str or Path
        Ending in ``.png``, ``.svg`` or ``.pdf``.
    shown : dict

    Returns
    -------
    list of (number, text)
        The legend of the events.
    """
    ax, marks = draw_sheet(level, run, None, Shown(**shown))
    save_figure(ax.figure, path)
    return marks


def save_figure(figure: Any, path: str | Path) -> None:
    """Write a figure to a file, whole or not at all."""
    write_whole(Path(path), lambda beside: figure.savefig(beside, dpi=DOTS_PER_INCH, facecolor=figure.get_facecolor()))


def draw_sheet(
    level: Level, run: Run | None, ax: Any, shown: Shown, over: Over | None = None
) -> tuple[Any, list[tuple[int, str]]]:
    """Draw on axes, or on a sheet of its own with a legend; return the axes, and the numbered marks.

    What is drawn over it may add marks and lines of the legend of its own.
    """
    compiled = run.compiled if run is not None else compile_level(level)
    shown.require_usable(compiled, run)
    then, gone = at_time(compiled, shown.at or 0.0, run if shown.at is not None else None)
    window = window_of(compiled, then, run, shown)
    layout = None
    if ax is None:
        from matplotlib.backends.backend_agg import FigureCanvasAgg
        from matplotlib.figure import Figure

        figure = Figure(
            figsize=(shown.size[0] / DOTS_PER_INCH, shown.size[1] / DOTS_PER_INCH), dpi=DOTS_PER_INCH, facecolor=PAPER
        )
        FigureCanvasAgg(figure)
        layout = layout_of(window, shown.size)
        ax = figure.add_axes(layout.level)
    _prepare(ax, level, window)
    others = frozenset(
        index
        for index, piece in enumerate(compiled.resolved.pieces)
        if shown.layers is not None and piece.layer not in shown.layers
    )
    hidden = gone | others
    then = replace(then, placement=then.placement.only(~np.isin(then.placement.piece, list(others))))
    colours = layer_colours(compiled.resolved.contacts.layers, compiled.resolved.player_layer)
    draw_motions(ax, compiled, colours, hidden)
    draw_looks(ax, then)
    draw_pieces(ax, then)
    draw_facets(ax, then, colours, hidden)
    draw_stakes(ax, then, colours, hidden)
    draw_cracks(ax, then)
    draw_bounds(ax, level)
    draw_hinges(ax, compiled, then, hidden)
    bodies = _draw_bodies(ax, level, run, shown)
    if run is not None:
        draw_flights(ax, run, colours, shown.at, shown.ticks(run).stop)
        draw_bodies(ax, run, colours, shown.at, shown.ticks(run).stop)
        _draw_path(ax, run, shown)
    # From here on it is known which dot is where.
    ax.apply_aspect()
    signs = draw_signs(ax, then, hidden)
    taken = [*_body_boxes(ax, level, bodies), *signs]
    marks = mark_events(ax, then, run, shown, taken) if run is not None else []
    lines: list[Any] = []
    if over is not None:
        marks, lines = over(ax, then, taken)
    if shown.gaps:
        first = len(marks) + 1
        rows = draw_gaps(ax, compiled, first, taken)
        marks += [(number, gap_text(row, level.world.length_unit)) for number, row in enumerate(rows, start=first)]
    draw_names(ax, then, run, shown.names, hidden, taken)
    if layout is not None:
        draw_legend(ax.figure, ax, compiled, run, marks, shown, layout, lines)
    if shown.theme == "dark":
        darken(ax.figure)
    return ax, marks


def _prepare(ax: Any, level: Level, window: Box) -> None:
    """Set the axes up for a part of a level."""
    ax.set_facecolor(PAPER)
    ax.set_aspect("equal")
    unit = level.world.length_unit
    ax.set_xlabel(f"x ({unit})", color=INK)
    ax.set_ylabel(f"y ({unit})", color=INK)
    ax.set_title(level.title, loc="left", color=INK)
    for spine in ax.spines.values():
        spine.set_color(FAINT)
    ax.tick_params(colors=INK)
    ax.set_autoscale_on(False)
    ax.set_xlim(window[0], window[2])
    ax.set_ylim(window[1], window[3])


def _draw_bodies(ax: Any, level: Level, run: Run | None, shown: Shown) -> list[tuple[float, float]]:
    """Draw the body where it is, or at the begin and the end of what is shown; return where that is."""
    if run is None:
        _draw_body(ax, level, *level.player.at, alpha=0.9)
        return [level.player.at]
    rows = run.track_records[shown.ticks(run)]
    ends = [(rows[-1], 0.9)] if shown.at is not None else [(rows[0], 0.9), (rows[-1], 0.45)]
    for row, alpha in ends:
        _draw_body(ax, level, float(row["x"]), float(row["y"]), alpha, math.atan2(-row["up_x"], row["up_y"]))
    return [(float(row["x"]), float(row["y"])) for row, _ in ends]


def _draw_body(ax: Any, level: Level, x: float, y: float, alpha: float, tilt: float | None = None) -> None:
    from matplotlib.patches import Polygon

    body = body_of(level)
    body = body if tilt is None else body._replace(angle=tilt)
    shape = np.asarray(body_polygon(body, x, y).exterior.coords)
    ax.add_artist(Polygon(shape, closed=True, facecolor="none", edgecolor=PLAYER, linewidth=1.6, alpha=alpha, zorder=5))


def _body_boxes(ax: Any, level: Level, places: list[tuple[float, float]]) -> list[Box]:
    """Return the boxes of bodies, in dots."""
    size = max(level.player.shape.size) / 2
    corners = [ax.transData.transform([(x - size, y - size), (x + size, y + size)]).ravel().tolist() for x, y in places]
    return [(x0, y0, x1, y1) for x0, y0, x1, y1 in corners]


def _draw_path(ax: Any, run: Run, shown: Shown) -> None:
    from matplotlib.collections import LineCollection

    rows = run.track_records[shown.ticks(run)]
    x, y = rows["x"], rows["y"]
    speed = np.hypot(rows["vx"], rows["vy"])
    points = np.column_stack((x, y))
    steps = np.stack((points[:-1], points[1:]), axis=1)
    # Where the body was put somewhere else, no line is drawn.
    jumps = np.hypot(*(points[1:] - points[:-1]).T)
    size = max(run.level.player.shape.size)
    usual = (speed[:-1] + speed[1:]) / run.level.world.tick_rate + size
    keep = jumps <= usual
    lines = LineCollection(list(steps[keep]), cmap=SPEED_MAP, linewidths=2.2, zorder=6)
    lines.set_array(((speed[:-1] + speed[1:]) / 2)[keep])
    lines.set_clim(0, max(float(speed.max()), 1e-9))
    ax.add_collection(lines, autolim=False)
    stride = max(1, round(DOT_EVERY * run.level.world.tick_rate))
    ax.scatter(x[::stride], y[::stride], s=7, color=INK, zorder=7, linewidths=0)
