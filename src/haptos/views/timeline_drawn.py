"""A run over time: height, speed, stance and support, controls, health and counters, with what happened."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.run import Run
from haptos.level.assemblies import PLAYER as PLAYER_NAME
from haptos.level.names import short
from haptos.views.event_marks import MARKED
from haptos.views.lanes import Span, draw_lane, held_spans, spans_of
from haptos.views.palette import CLEARED, FAINT, INK, PAPER, PLAYER
from haptos.views.picture import save_figure

WIDE, HIGH, DPI = 12.8, 8.0, 100
# The share of the sheet that the legend of the events has.
LEGEND = 0.25
MOST_MARKS = 34
# Events so near to each other in time, as a share of the time axis, have one mark; a longer line is cut.
ONE_TIME, LONGEST = 0.003, 44
# Marks nearer to each other than this share of the time axis stand one above the other, on so many rows.
NEAR, ROWS = 0.016, 4
# So many lines of health and counters have room.
MOST_LINES = 5
# One run, and the other that it is compared with: told apart by dash as well as by colour.
LOOKS: tuple[dict[str, Any], ...] = (
    {"color": PLAYER, "linewidth": 1.5},
    {"color": CLEARED, "linewidth": 1.5, "linestyle": (0, (4, 1.5))},
)
# In the top view y is drawn so beside x.
FAINTLY = 0.45
STANCES = {"ground": "#b8a07a", "air": "#d6e6f2", "ladder": "#6b8f3a", "gone": "#b4483c"}


def timeline(run: Run, other: Run | None = None, names: tuple[str, str] = ("the first run", "the second run")) -> Any:
    """Draw a run over time.

    Parameters
    ----------
    run : Run
    other : Run, optional
        Another one, drawn beside it, dashed.
    names : (str, str)
        What the two are called.

    Returns
    -------
    Figure
        Panels from above: height along up, each landing with its drop and its speed; speed; stance and support;
        controls; health and counters, those that change; beside them the events, numbered.

    Raises
    ------
    TypeError
        If one of them is no run.

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "floor", "shape": {"box": [900, 16]}, "at": [0, -22]}])
    >>> figure = haptos.timeline(haptos.simulate(level, "right 0.5 s, jump 1 s"))
    >>> [axes.get_ylabel() for axes in figure.axes][:2]
    ['height (px)', 'speed (px/s)']
    """
    from matplotlib.figure import Figure

    runs = [run] if other is None else [run, other]
    for one in runs:
        if not isinstance(one, Run):
            raise TypeError(f"found {short(one)}, expected a run, as simulate gives it back")
    lines = _lines(runs)
    lanes = 2 * len(runs)
    controls = [held_spans(one) for one in runs]
    held = sum(max(len(some), 1) for some in controls)
    shares = [6.0, 3.0, 0.75 * lanes, 0.55 * held, *[1.2] * len(lines)]
    figure = Figure(figsize=(WIDE, HIGH), dpi=DPI, facecolor=PAPER)
    grid = figure.add_gridspec(
        len(shares), 1, height_ratios=shares, left=0.085, right=1 - LEGEND, top=0.9, bottom=0.065, hspace=0.18
    )
    first = figure.add_subplot(grid[0])
    panels = [first, *(figure.add_subplot(grid[row], sharex=first) for row in range(1, len(shares)))]
    unit = run.level.world.length_unit
    end = max(one.duration for one in runs)
    first.set_xlim(0.0, max(end, 1e-9))
    for one, look in zip(runs, LOOKS, strict=False):
        _draw_height(panels[0], one, look, is_told=one is run)
        rows = one.track_records
        panels[1].plot(_times(one), np.hypot(rows["vx"], rows["vy"]), **look)
    top_view = run.level.world.view == "top"
    panels[0].set_ylabel(f"{'x, faintly y' if top_view else 'height'} ({unit})")
    panels[1].set_ylabel(f"speed ({unit}/s)")
    panels[1].set_ylim(bottom=0.0)
    _draw_stances(panels[2], runs)
    _draw_controls(panels[3], controls)
    for ax, (name, values) in zip(panels[4:], lines, strict=True):
        for one, look, value in zip(runs, LOOKS, values, strict=False):
            if value is not None:
                ax.step(_times(one), value, where="post", **look)
        ax.set_ylabel(name, rotation=0, ha="right", va="center")
        ax.margins(y=0.25)
    _number_events(figure, panels, run)
    for ax in panels:
        ax.set_facecolor(PAPER)
        ax.spines[["top", "right"]].set_visible(False)
        ax.tick_params(labelbottom=ax is panels[-1], labelsize=8)
        ax.grid(axis="x", color=FAINT, alpha=0.25)
    panels[-1].set_xlabel("t (s)")
    _name_runs(figure, runs, names)
    return figure


def save_timeline(run: Run, path: str | Path, *other: Any) -> None:
    """Write the picture of a run over time; see `timeline`."""
    save_figure(timeline(run, *other), path)


def _times(run: Run) -> NDArray[np.float64]:
    return np.arange(len(run.track_records)) / run.level.world.tick_rate


def _height(run: Run, x: Any, y: Any) -> Any:
    """Return heights along the world's own up; in the top view y."""
    if run.level.world.view == "top":
        return y
    up_x, up_y = run.level.world.up
    return x * up_x + y * up_y


def _draw_height(ax: Any, run: Run, look: dict[str, Any], is_told: bool) -> None:
    """Draw the height of the body's middle; of each landing its drop and its speed, where there is room."""
    rows = run.track_records
    if run.level.world.view == "top":
        ax.plot(_times(run), rows["x"], **look)
        look = {**look, "alpha": FAINTLY}
    ax.plot(_times(run), _height(run, rows["x"], rows["y"]), **look)
    ax.margins(y=0.18)
    last = -math.inf
    for row in run.event_rows:
        if row.event != "land" or row.who != PLAYER_NAME:
            continue
        height = float(_height(run, row.x, row.y))
        ax.plot(row.t, height, marker="v", color=look["color"], markersize=5, zorder=5)
        if is_told and row.t - last > 0.05 * max(run.duration, 1e-9):
            last = row.t
            words = row.detail.partition("after a drop of ")[2].partition(";")[0]
            ax.annotate(
                words.replace(", at ", "\n"), (row.t, height), (2, -5), textcoords="offset points", fontsize=6.5,
                va="top", ha="left", color=INK, annotation_clip=True,
            )  # fmt: skip


def _draw_stances(ax: Any, runs: list[Run]) -> None:
    """Draw bands of stance and support, two a run."""
    names = []
    for number, run in enumerate(runs):
        stances = run.track["stance"].tolist()
        supports = run.track["support"].tolist()
        row = 2 * number
        draw_lane(ax, row, spans_of(run, stances), lambda one: STANCES[one])
        draw_lane(ax, row + 1, spans_of(run, supports), lambda one: "#e4ddd0" if one else "none")
        which = "" if len(runs) == 1 else (" 1", " 2")[number]
        names += [f"stance{which}", f"support{which}"]
    ax.set_yticks(range(len(names)), names)
    ax.set_ylim(len(names) - 0.5, -0.5)


def _draw_controls(ax: Any, controls: list[dict[str, list[Span]]]) -> None:
    """Draw which controls are held, one below the other."""
    names: list[str] = []
    for number, held in enumerate(controls):
        which = "" if len(controls) == 1 else (" 1", " 2")[number]
        for name, spans in held.items() or [("none held", [])]:
            colour = LOOKS[number]["color"]
            draw_lane(ax, len(names), spans, lambda one, colour=colour: colour, is_named=False)  # type: ignore[misc]
            names.append(name + which)
    ax.set_yticks(range(len(names)), names)
    ax.set_ylim(len(names) - 0.5, -0.5)


def _lines(runs: list[Run]) -> list[tuple[str, list[Any]]]:
    """Return health, lives and counters over time, of those that change in a run: a name, and values for each run."""
    found: dict[str, list[Any]] = {}
    for number, run in enumerate(runs):
        columns = {name: run.track_records[name] for name in ("health", "lives")}
        columns |= {name: run.scores[:, index] for index, name in enumerate(run.level.counters)}
        for name, values in columns.items():
            found.setdefault(name, [None] * len(runs))[number] = values if np.isfinite(values).all() else None
    changing = [
        (name, values)
        for name, values in found.items()
        if any(value is not None and np.ptp(value) > 0 for value in values)
    ]
    return changing[:MOST_LINES]


def _number_events(figure: Any, panels: list[Any], run: Run) -> None:
    """Number what happened above the panels, with a line through all of them and a legend beside."""
    span = max(panels[0].get_xlim()[1], 1e-9)
    said = _said(run, ONE_TIME * span)
    ends = [-math.inf] * ROWS
    times = [t for t, _ in said[:MOST_MARKS]]
    for ax in panels:
        ax.vlines(times, 0, 1, FAINT, linewidth=0.5, alpha=0.6, zorder=0, transform=ax.get_xaxis_transform())
    for number, (t, texts) in enumerate(said[:MOST_MARKS], start=1):
        level = next((row for row in range(ROWS) if t - ends[row] > NEAR * span), ends.index(min(ends)))
        ends[level] = t
        panels[0].annotate(
            str(number), (t, 1.0), (0, 8 + 13 * level), xycoords=("data", "axes fraction"),
            textcoords="offset points", ha="center", va="center", fontsize=7, color=INK, annotation_clip=False,
            bbox={"boxstyle": "circle,pad=0.2", "facecolor": "white", "edgecolor": INK, "linewidth": 0.6},
        )  # fmt: skip
        line = f"{t:.3f} s  {', '.join(texts)}"
        _add_line(figure, number, str(number), line if len(line) < LONGEST else line[: LONGEST - 2] + "…")
    if len(said) > MOST_MARKS:
        hidden = sum(len(texts) for _, texts in said[MOST_MARKS:])
        _add_line(figure, MOST_MARKS + 1, "", f"and {hidden} more in the table of events")


def _said(run: Run, near: float) -> list[tuple[float, list[str]]]:
    """Return what happened when, joined where it is at one time."""
    said: list[tuple[float, list[str]]] = []
    for row in run.event_rows:
        if row.event not in MARKED:
            continue
        text = f"{row.event} {row.piece}".strip() if row.event != "say" else f"“{row.detail}”"
        text = text if row.who == PLAYER_NAME else f"{row.who}: {text}"
        if said and abs(row.t - said[-1][0]) <= near:
            said[-1][1].append(text)
        else:
            said.append((row.t, [text]))
    return said


def _add_line(figure: Any, row: int, number: str, text: str) -> None:
    """Write a line of the legend."""
    y = 0.9 - 0.0245 * row
    figure.text(1 - LEGEND + 0.026, y, number, fontsize=8, color=INK, ha="right")
    figure.text(1 - LEGEND + 0.032, y, text, fontsize=8, color=INK)


def _name_runs(figure: Any, runs: list[Run], names: tuple[str, str]) -> None:
    """Say which run is which."""
    from matplotlib.lines import Line2D

    title = runs[0].level.title or "Untitled level"
    figure.text(1 - LEGEND + 0.012, 0.965, title, fontsize=10, color=INK, va="center")
    if len(runs) > 1:
        handles = [Line2D([], [], label=name, **look) for name, look in zip(names, LOOKS, strict=True)]
        figure.legend(
            handles=handles, loc="center left", bbox_to_anchor=(1 - LEGEND + 0.002, 0.925), fontsize=8, frameon=False,
            ncols=2,
        )  # fmt: skip
