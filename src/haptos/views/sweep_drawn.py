"""Pictures of a sweep: a line over one number, a map over two."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from haptos.errors import HaptosError
from haptos.views.palette import INK, PLAYER
from haptos.views.picture import save_figure
from haptos.writing import write_whole

if TYPE_CHECKING:
    import pandas as pd

WIDE, HIGH, DPI = 12.8, 8.0, 100
# So many measures have room on a sheet.
MOST_PANELS = 6


def draw_sweep(frame: pd.DataFrame, paths: int) -> Any:
    """Draw what was measured over one number, as lines, or over two, as maps; a panel a measure.

    Parameters
    ----------
    frame : DataFrame
        As `haptos.sweep` gives it.
    paths : int
        How many of its columns are values that were set.

    Returns
    -------
    Figure
    """
    from matplotlib.figure import Figure

    measures = list(frame.columns[paths:])
    if paths > 2:
        raise HaptosError(f"found {paths} paths, expected one or two: more can't be drawn")
    if len(measures) > MOST_PANELS:
        raise HaptosError(f"found {len(measures)} measures, expected {MOST_PANELS} at most in one picture")
    columns = 1 if paths == 1 or len(measures) == 1 else 2
    rows = -(-len(measures) // columns)
    figure = Figure(figsize=(WIDE, HIGH), dpi=DPI, layout="constrained")
    panels = figure.subplots(rows, columns, squeeze=False, sharex=paths == 1)
    for number, measure in enumerate(measures):
        ax = panels[number // columns][number % columns]
        if paths == 1:
            _draw_line(ax, frame, measure)
        else:
            _draw_map(figure, ax, frame, measure)
    for number in range(len(measures), rows * columns):
        panels[number // columns][number % columns].set_axis_off()
    if paths == 1:
        panels[-1][0].set_xlabel(_label(frame, frame.columns[0]))
    return figure


def save_sweep(frame: pd.DataFrame, paths: int, folder: Path) -> dict[str, Path]:
    """Write a sweep as CSV, and its picture if there is one of it; return the paths by what they hold."""
    written = {"table": folder / "sweep.csv"}
    write_whole(written["table"], partial(frame.to_csv, index=False))
    if paths <= 2 and len(frame.columns) - paths <= MOST_PANELS:
        written["picture"] = folder / "sweep.png"
        save_figure(draw_sweep(frame, paths), written["picture"])
    return written


def _draw_line(ax: Any, frame: pd.DataFrame, measure: str) -> None:
    """Draw one measure over one number; words are steps of their own, what never came is marked at the foot."""
    x, x_words = _as_numbers(frame.iloc[:, 0].tolist())
    y, words = _as_numbers(frame[measure].tolist())
    ax.plot(x, y, color=PLAYER, marker="o", markersize=4, linewidth=1.4, clip_on=False, zorder=3)
    missing = np.isnan(y)
    if missing.any():
        ax.plot(
            x[missing], np.zeros(missing.sum()), color=INK, marker="x", markersize=6, linestyle="none", clip_on=False,
            transform=ax.get_xaxis_transform(), label="never", zorder=4,
        )  # fmt: skip
        ax.legend(loc="best", frameon=False)
    if words:
        ax.set_yticks(range(len(words)), words)
        ax.set_ylim(-0.5, len(words) - 0.5)
    if x_words:
        ax.set_xticks(range(len(x_words)), x_words)
    if missing.all():
        ax.set_yticks([])
    ax.set_title(measure, loc="left", fontsize=10)
    ax.set_ylabel(frame.attrs.get("units", {}).get(measure, ""))
    ax.grid(alpha=0.25)
    ax.spines[["top", "right"]].set_visible(False)


def _draw_map(figure: Any, ax: Any, frame: pd.DataFrame, measure: str) -> None:
    """Draw one measure over two numbers; what never came stays white, with a cross."""
    (x, x_words), (y, y_words) = (_as_numbers(frame.iloc[:, number].tolist()) for number in (0, 1))
    values, words = _as_numbers(frame[measure].tolist())
    columns, rows = np.unique(x), np.unique(y)
    grid = np.full((len(rows), len(columns)), np.nan)
    grid[np.searchsorted(rows, y), np.searchsorted(columns, x)] = values
    look: dict[str, Any] = {"cmap": "cividis", "shading": "flat"}
    if words:
        from matplotlib import colormaps

        # A colour a word.
        look |= {"cmap": colormaps["cividis"].resampled(len(words)), "vmin": -0.5, "vmax": len(words) - 0.5}
    image = ax.pcolormesh(range(len(columns) + 1), range(len(rows) + 1), grid, **look)
    for row, column in np.argwhere(np.isnan(grid)):
        ax.plot(column + 0.5, row + 0.5, color=INK, marker="x", markersize=6)
    _name_cells(ax.set_xticks, columns, x_words)
    _name_cells(ax.set_yticks, rows, y_words)
    ax.set_xlabel(_label(frame, frame.columns[0]))
    ax.set_ylabel(_label(frame, frame.columns[1]))
    ax.set_title(_label(frame, measure), loc="left")
    if np.isnan(values).all():
        ax.set_title(f"{measure}: never", loc="left")
        return
    bar = figure.colorbar(image, ax=ax)
    if words:
        bar.set_ticks(range(len(words)), labels=words)


def _label(frame: pd.DataFrame, column: str) -> str:
    """Return what a column is called, with its unit."""
    unit = frame.attrs.get("units", {}).get(column, "")
    return f"{column} ({unit})" if unit else column


def _name_cells(set_ticks: Any, values: Any, words: list[str]) -> None:
    """Name the cells of a map along one side, as many as there is room for."""
    step = -(-len(values) // 10)
    shown = range(0, len(values), step)
    set_ticks([index + 0.5 for index in shown], [words[index] if words else f"{values[index]:.6g}" for index in shown])


def _as_numbers(values: list[Any]) -> tuple[Any, list[str]]:
    """Return values as numbers, and if they are words, in their order, which words the numbers stand for."""
    if all(isinstance(value, int | float) and not isinstance(value, bool) for value in values):
        return np.array(values, dtype=np.float64), []
    named = [("no", "yes")[value] if isinstance(value, bool) else str(value) or "nothing" for value in values]
    words = ["no", "yes"] if set(named) <= {"no", "yes"} else list(dict.fromkeys(named))
    return np.array([words.index(name) for name in named], dtype=np.float64), words
