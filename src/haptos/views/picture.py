"""The picture of a level and of what the body did in it."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel, body_of, compile_level
from haptos.engine.records.events import EVENT_NAMES
from haptos.engine.report.event_text import EVENTS
from haptos.engine.run import Run
from haptos.geometry.polygons import body_polygon, shape_polygons
from haptos.level.assemblies import PLAYER as PLAYER_NAME
from haptos.level.level import Level
from haptos.views.facet_marks import draw_facets, draw_looks
from haptos.views.labels import spread
from haptos.views.leaps import draw_gaps, gap_text
from haptos.views.legend import draw_legend
from haptos.views.motion import at_time, draw_cracks, draw_flights, draw_motions, motion_boxes
from haptos.views.objective_marks import draw_stakes
from haptos.views.palette import FAINT, INK, PAPER, PLAYER, SPEED_MAP, layer_colours
from haptos.writing import write_whole

SIZE_INCHES = (12.8, 8.0)
DOTS_PER_INCH = 100
# Events that get a number in the picture.
MARKED = frozenset(EVENT_NAMES[kind] for kind, text in EVENTS.items() if text.is_marked)
MOST_MARKS = 40
DOT_EVERY = 0.1  # seconds


def draw(level: Level, run: Run | None = None, ax: Any = None, at: float | None = None) -> Any:
    """Draw a level, and the path of a run in it.

    Solid pieces are filled, zones hatched, the path coloured by speed with a dot every tenth of a second. What moves is
    drawn where it is at the start, with its route.

    Parameters
    ----------
    level : Level
    run : Run, optional
    ax : Matplotlib Axes, optional
        A figure of its own if not given.
    at : float, optional
        Seconds: what moves, and the body of a run, are drawn where they are then.

    Returns
    -------
    Axes

    Raises
    ------
    LevelError
        If a piece can't be resolved.
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
    compiled = run.compiled if run is not None else compile_level(level)
    if ax is None:
        from matplotlib.figure import Figure

        ax = Figure(figsize=SIZE_INCHES, dpi=DOTS_PER_INCH, facecolor=PAPER).add_subplot()
    ax.set_facecolor(PAPER)
    ax.set_aspect("equal")
    unit = level.world.length_unit
    ax.set_xlabel(f"x ({unit})", color=INK)
    ax.set_ylabel(f"y ({unit})", color=INK)
    ax.set_title(level.title, loc="left", color=INK)
    for spine in ax.spines.values():
        spine.set_color(FAINT)
    ax.tick_params(colors=INK)
    colours = layer_colours(compiled.resolved.contacts.layers, compiled.resolved.player_layer)
    draw_motions(ax, compiled, colours)
    then = at_time(compiled, at or 0.0, run)
    draw_looks(ax, then)
    _draw_pieces(ax, then)
    draw_facets(ax, then, colours)
    draw_stakes(ax, then, colours)
    draw_cracks(ax, then)
    _draw_bounds(ax, level)
    _set_view(ax, compiled, run)
    if run is None:
        _draw_body(ax, level, *level.player.at, alpha=0.9)
        return ax
    rows = run.track_records
    if at is None:
        _draw_body(ax, level, *level.player.at, alpha=0.9)
        _draw_body(ax, level, float(rows["x"][-1]), float(rows["y"][-1]), 0.45, _tilt(rows[-1]))
    else:
        row = rows[min(round(at * level.world.tick_rate), len(rows) - 1)]
        _draw_body(ax, level, float(row["x"]), float(row["y"]), 0.9, _tilt(row))
    draw_flights(ax, run, colours, at)
    _draw_path(ax, run)
    return ax


def save_picture(
    level: Level, run: Run | None, path: str | Path, gaps: bool = False, at: float | None = None
) -> list[tuple[int, str]]:
    """Write a picture of about 1280 by 800 dots, with numbered events and a legend beside it.

    Parameters
    ----------
    level : Level
    run : Run or None
    path : str or Path
        Ending in ``.png``, ``.svg`` or ``.pdf``.
    gaps : bool
        Whether the jumps across gaps are drawn.
    at : float or None
        The moment that is drawn, in seconds.

    Returns
    -------
    list of (number, text)
        The legend of the events.
    """
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure

    figure = Figure(figsize=SIZE_INCHES, dpi=DOTS_PER_INCH, facecolor=PAPER)
    FigureCanvasAgg(figure)
    ax = figure.add_axes((0.06, 0.09, 0.66, 0.84))
    draw(level, run, ax, at)
    compiled = run.compiled if run is not None else compile_level(level)
    figure.draw_without_rendering()
    marks = _mark_events(ax, run) if run is not None else []
    if gaps:
        unit = level.world.length_unit
        first = len(marks) + 1
        rows = draw_gaps(ax, compiled, first)
        marks += [(number, gap_text(row, unit)) for number, row in enumerate(rows, start=first)]
    draw_legend(figure, ax, compiled, run, marks, gaps, at)
    file = Path(path)
    write_whole(file, lambda beside: figure.savefig(beside, dpi=DOTS_PER_INCH, facecolor=PAPER))
    return marks


def _draw_pieces(ax: Any, compiled: CompiledLevel) -> None:
    from matplotlib.patches import PathPatch
    from matplotlib.path import Path as Outline

    resolved = compiled.resolved
    colours = layer_colours(resolved.contacts.layers, resolved.player_layer)
    polygons = shape_polygons(compiled.placement)
    by_piece: dict[int, list[Any]] = {}
    for piece, polygon in zip(compiled.placement.piece, polygons, strict=True):
        by_piece.setdefault(int(piece), []).append(polygon)
    import shapely

    for number, parts in by_piece.items():
        piece = resolved.pieces[number]
        colour = colours[piece.layer]
        parts = [part for part in parts if part.area > 0]
        if not parts:
            # Lines are drawn by their live edges.
            continue
        shape = shapely.union_all(parts) if len(parts) > 1 else parts[0]
        outline = Outline.make_compound_path(
            *(
                Outline(np.asarray(ring.coords), closed=True)
                for polygon in getattr(shape, "geoms", [shape])
                for ring in (polygon.exterior, *polygon.interiors)
            )
        )
        meeting = resolved.meeting(piece)
        style: dict[str, Any] = {"edgecolor": colour, "linewidth": 1.0}
        if meeting == "solid":
            style |= {"facecolor": colour, "alpha": 0.85 if piece.facet("look") is None else 0.35, "zorder": 2}
        elif meeting == "overlap":
            style |= {"facecolor": colour + "22", "hatch": "///", "zorder": 1}
        else:
            style |= {"facecolor": "none", "linestyle": ":", "zorder": 1}
        ax.add_artist(PathPatch(outline, **style))


def _draw_bounds(ax: Any, level: Level) -> None:
    bounds = level.world.bounds
    if bounds is not None:
        x0, y0, x1, y1 = bounds.corners
        sides = {
            "left": ((x0, x0), (y0, y1)),
            "right": ((x1, x1), (y0, y1)),
            "bottom": ((x0, x1), (y0, y0)),
            "top": ((x0, x1), (y1, y1)),
        }
        styles = {"wall": "-", "open": (0, (1, 3)), "wrap": "-.", "lost": (0, (4, 2))}
        for side, (xs, ys) in sides.items():
            kind = getattr(bounds, side)
            ax.plot(xs, ys, color=PLAYER if kind == "lost" else INK, linestyle=styles[kind], linewidth=1.4, zorder=3)
    if level.world.lost_below is not None:
        ux, uy = level.world.up
        foot = (ux * level.world.lost_below, uy * level.world.lost_below)
        ax.axline(
            foot, (foot[0] + uy, foot[1] - ux), color=PLAYER, linewidth=0.9, linestyle=(0, (4, 2)), zorder=1, alpha=0.7
        )


def _tilt(row: Any) -> float:
    """Return the turn of a body's up from +y, radians."""
    return math.atan2(-row["up_x"], row["up_y"])


def _draw_body(ax: Any, level: Level, x: float, y: float, alpha: float, tilt: float | None = None) -> None:
    from matplotlib.patches import Polygon

    body = body_of(level)
    body = body if tilt is None else body._replace(angle=tilt)
    shape = np.asarray(body_polygon(body, x, y).exterior.coords)
    ax.add_artist(Polygon(shape, closed=True, facecolor="none", edgecolor=PLAYER, linewidth=1.6, alpha=alpha, zorder=5))


def _draw_path(ax: Any, run: Run) -> None:
    from matplotlib.collections import LineCollection

    rows = run.track_records
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
    ax.add_collection(lines)
    stride = max(1, round(DOT_EVERY * run.level.world.tick_rate))
    ax.scatter(x[::stride], y[::stride], s=7, color=INK, zorder=7, linewidths=0)


def _set_view(ax: Any, compiled: CompiledLevel, run: Run | None) -> None:
    boxes = []
    bounds = compiled.level.world.bounds
    if bounds is not None:
        boxes.append(bounds.corners)
    for polygon in shape_polygons(compiled.placement):
        boxes.append(polygon.bounds)
    boxes += motion_boxes(compiled)
    x, y = compiled.level.player.at
    size = max(compiled.level.player.shape.size)
    boxes.append((x - size, y - size, x + size, y + size))
    if run is not None:
        rows = run.track_records
        boxes.append((rows["x"].min(), rows["y"].min(), rows["x"].max(), rows["y"].max()))
    table = np.array(boxes)
    x0, y0, x1, y1 = table[:, 0].min(), table[:, 1].min(), table[:, 2].max(), table[:, 3].max()
    margin = 0.02 * max(x1 - x0, y1 - y0)
    ax.set_xlim(x0 - margin, x1 + margin)
    ax.set_ylim(y0 - margin, y1 + margin)


def _mark_events(ax: Any, run: Run) -> list[tuple[int, str]]:
    """Number the events in the picture, and return their legend."""
    events = [row for row in run.event_rows if row.event in MARKED]
    groups: dict[tuple[float, float, float], list[str]] = {}
    for row in events:
        text = f"{row.event} {row.piece}".strip() if row.event != "say" else f"“{row.detail}”"
        if row.who != PLAYER_NAME:
            text = f"{row.who}: {text}"
        groups.setdefault((round(row.t, 9), row.x, row.y), []).append(text)
    chosen = list(groups.items())[:MOST_MARKS]
    transform = ax.transData
    points = [tuple(transform.transform((x, y))) for (_, x, y), _ in chosen]
    box = ax.get_window_extent()
    rows = run.track_records
    path = transform.transform(np.column_stack((rows["x"], rows["y"])))[:: max(1, len(rows) // 400)]
    taken = [(px - 3, py - 3, px + 3, py + 3) for px, py in path]
    size = 17.0
    places = spread(points, size, size, taken, (box.x0, box.y0, box.x1, box.y1))
    back = transform.inverted()
    legend = []
    for number, ((key, texts), point, place) in enumerate(zip(chosen, points, places, strict=True), start=1):
        start, end = back.transform(point), back.transform(place)
        ax.plot((start[0], end[0]), (start[1], end[1]), color=INK, linewidth=0.6, zorder=8)
        ax.text(
            end[0], end[1], str(number), fontsize=7, ha="center", va="center", color=INK, zorder=9,
            bbox={"boxstyle": "circle,pad=0.22", "facecolor": "white", "edgecolor": INK, "linewidth": 0.6},
        )  # fmt: skip
        legend.append((number, f"{key[0]:.3f} s  {', '.join(texts)}"))
    hidden = len(groups) - len(chosen)
    if hidden > 0:
        legend.append((len(chosen) + 1, f"and {hidden} more in the table of events"))
    return legend
