"""The picture of two runs in one level: both paths, where they part, and the events that differ."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.run import Run
from haptos.level.assemblies import PLAYER as PLAYER_NAME
from haptos.level.names import short
from haptos.study.compare import Difference, Differences
from haptos.study.paths import path_of
from haptos.views.event_marks import MARKED, by_place, mark_places
from haptos.views.labels import Box
from haptos.views.palette import CLEARED, INK, PLAYER
from haptos.views.picture import draw_sheet, save_figure
from haptos.views.sheet import Shown

# The first path and the second: told apart by dash as well as by colour.
LOOKS: tuple[dict[str, Any], ...] = (
    {"color": CLEARED, "linewidth": 3.4, "alpha": 0.75, "zorder": 6},
    {"color": PLAYER, "linewidth": 1.6, "linestyle": (0, (4, 1.5)), "zorder": 7},
)
# Where they part.
PARTING: dict[str, Any] = {
    "color": INK, "marker": "x", "markersize": 10, "markeredgewidth": 2.0, "linestyle": "none", "zorder": 9
}  # fmt: skip


class Comparison(Differences):
    """What is different between two runs, and its picture."""

    def draw(self, ax: Any = None, **shown: Any) -> Any:
        """Draw both paths in the level, where they part, and the events that differ, numbered.

        Parameters
        ----------
        ax : Matplotlib Axes, optional
        shown : dict
            See `haptos.draw`.

        Returns
        -------
        Axes
        """
        return draw_comparison(self, ax, **shown)[0]


def compare(one: Run, other: Run) -> Comparison:
    """Say what is different between two runs.

    Parameters
    ----------
    one, other : Run
        Of one level, or of two; with the same cues, or with others.

    Returns
    -------
    Comparison
        `same`, `parted`, `farthest`, `events` and `ends`, and `draw`.

    Raises
    ------
    TypeError
        If one of them is no run.

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "floor", "shape": {"box": [900, 16]}, "at": [0, -22]}])
    >>> higher = level.changed({"player.jump.height": 80})
    >>> found = compare(haptos.simulate(level, "jump 2 s"), haptos.simulate(higher, "jump 2 s"))
    >>> for one in found.events.itertuples():
    ...     print(one.change, one.event, round(one.t_one, 4), round(one.t_other, 4))
    changed jump 0.0 0.0
    moved apex 0.2828 0.2981
    moved touch 0.5657 0.5963
    moved land 0.5657 0.5963
    """
    for run in (one, other):
        if not isinstance(run, Run):
            raise TypeError(f"found {short(run)}, expected a run, as simulate gives it back")
    return Comparison(one, other)


def draw_comparison(found: Differences, ax: Any = None, **shown: Any) -> tuple[Any, list[tuple[int, str]]]:
    """Draw two runs in the level of the first; return the axes, and the numbered marks."""

    def over(ax: Any, then: CompiledLevel, taken: list[Box]) -> tuple[list[tuple[int, str]], list[Any]]:
        from matplotlib.lines import Line2D

        paths, lines = [], []
        for run, name, look in zip((found.one, found.other), ("the first run", "the second run"), LOOKS, strict=True):
            path = path_of(run)
            ax.plot(path[:, 0], path[:, 1], **look)
            paths.append(path[np.isfinite(path[:, 0])])
            lines.append(Line2D([], [], label=f"{name}, {run.duration:.4g} s", **{**look, "zorder": 1}))
        if found.parted is not None:
            row = found.one.track_records[round(found.parted * found.one.level.world.tick_rate)]
            ax.plot(float(row["x"]), float(row["y"]), **PARTING)
            lines.append(Line2D([], [], label=f"they part, at {found.parted:.4g} s", **PARTING))
        said = [
            (one.event.x, one.event.y, one.event.t, difference_text(one))
            for one in found.differences
            if one.event.event in MARKED
        ]
        return mark_places(ax, then, paths, by_place(ax, said), taken), lines

    window = _window(found, Shown(**shown)) if not {"window", "around"} & set(shown) else shown.pop("window", None)
    return draw_sheet(found.one.level, None, ax, Shown(window=window, **shown), over)


def save_comparison(found: Differences, path: str | Path, **shown: Any) -> list[tuple[int, str]]:
    """Write the picture of two runs; return the numbered marks."""
    ax, marks = draw_comparison(found, None, **shown)
    save_figure(ax.figure, path)
    return marks


def difference_text(one: Difference) -> str:
    """Return an event that differs in a few words."""
    event = one.event
    name = f"{event.event} {event.piece}".strip() if event.event != "say" else f"“{event.detail}”"
    if event.who != PLAYER_NAME:
        name = f"{event.who}: {name}"
    if one.one is None:
        return f"{name}: only in the second"
    if one.other is None:
        return f"{name}: only in the first"
    if one.change == "moved":
        return f"{name}: {abs(one.shift):.3g} s {'later' if one.shift > 0 else 'sooner'}"
    first, second = f"{one.one.amount:.4g}", f"{one.other.amount:.4g}"
    return f"{name}: {one.distance:.3g} away" if first == second else f"{name}: {first}, then {second}"


def _window(found: Differences, shown: Shown) -> Box:
    """Return what of the level is shown: all of it, and both paths."""
    from haptos.views.sheet import window_of

    boxes = np.array([window_of(run.compiled, run.compiled, run, shown) for run in (found.one, found.other)])
    x0, y0 = boxes[:, :2].min(axis=0)
    x1, y1 = boxes[:, 2:].max(axis=0)
    return (float(x0), float(y0), float(x1), float(y1))
