"""What of a level a sheet shows, and how the sheet is divided between the level and what is written about it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.run import Run
from haptos.errors import HaptosError
from haptos.geometry.polygons import shape_polygons
from haptos.level.names import did_you_mean
from haptos.level.roster import PLAYER
from haptos.views.motion import motion_boxes

DOTS_PER_INCH = 100
# Around a piece or a place, so many heights of the body are shown.
AROUND = (24.0, 15.0)
# Room for the ticks and the labels of the axes, inches: left, bottom, top, right; and between them and the legend.
MARGINS = (0.75, 0.55, 0.4, 0.2)
GAP = 0.3
# A legend beside the level is at least so wide, one below it at least so high, inches.
BESIDE, BELOW = 3.4, 2.2
COLUMN = 3.3
# What is shown below the level rather than beside it makes that larger by this factor at least.
WORTH_IT = 1.08
# A wide level is shown so high at least, as a share of its width, and a tall one so wide.
LEAST_HIGH, LEAST_WIDE = 0.16, 0.24
NAMES = ("all", "some", "none")
THEMES = ("light", "dark")
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class Shown:
    """What a picture shows.

    Attributes
    ----------
    at : the moment, s; the start of the level if None, and all of a run
    begin, end : from when to when a run is shown, s
    window : the part of the level, (x0, y0, x1, y1)
    around : a piece, ``player``, or a place, whose surroundings are shown
    layers : only pieces on these are drawn; all if None
    names : of which pieces names are written: all, some (where there is room, and of what a run met) or none
    size : of the sheet, dots
    theme : light or dark
    gaps : whether the jumps across gaps are drawn
    """

    at: float | None = None
    begin: float | None = None
    end: float | None = None
    window: Box | None = None
    around: str | tuple[float, float] | None = None
    layers: tuple[str, ...] | None = None
    names: str = "some"
    size: tuple[int, int] = (1280, 800)
    theme: str = "light"
    gaps: bool = False

    def require_usable(self, compiled: CompiledLevel, run: Run | None) -> None:
        """Raise where something is asked for that can't be shown.

        Raises
        ------
        HaptosError
            One sentence about the first such thing.
        """
        if self.names not in NAMES:
            raise HaptosError(f"names: found '{self.names}', expected one of {', '.join(NAMES)}")
        if self.theme not in THEMES:
            raise HaptosError(f"theme: found '{self.theme}', expected one of {', '.join(THEMES)}")
        if not all(200 <= dots <= 10_000 for dots in self.size):
            raise HaptosError(f"size: found {self.size[0]}x{self.size[1]}, expected 200 to 10000 dots each")
        known = compiled.resolved.contacts.layers
        for layer in self.layers or ():
            if layer not in known:
                raise HaptosError(f"layers: no layer '{layer}'{did_you_mean(layer, known)}")
        over = math.inf if run is None else run.duration
        for name, time in (("at", self.at), ("begin", self.begin), ("end", self.end)):
            if time is not None and not 0.0 <= time <= over + 1e-9:
                what = "the level begins at 0 s" if not time >= 0.0 else f"the run is over at {over:.4g} s"
                raise HaptosError(f"{name}: found {time:g} s, but {what}")
        if self.begin is not None and self.end is not None and not self.begin < self.end:
            raise HaptosError(f"found begin {self.begin:g} s and end {self.end:g} s, expected an end after the begin")
        if self.window is not None and not (self.window[0] < self.window[2] and self.window[1] < self.window[3]):
            raise HaptosError(f"window: found {list(self.window)}, expected [left, bottom, right, top]")
        if self.window is not None and self.around is not None:
            raise HaptosError("found both window and around, expected one of them")

    def ticks(self, run: Run) -> slice:
        """Return which rows of the track are shown."""
        rate, rows = run.level.world.tick_rate, len(run.track_records)
        last = self.end if self.at is None else self.at
        end = rows if last is None else min(round(last * rate) + 1, rows)
        return slice(0 if self.begin is None else min(round(self.begin * rate), rows - 1), end)

    def has_time(self, t: float) -> bool:
        """Whether a moment of a run is shown."""
        last = self.end if self.at is None else self.at
        return (self.begin or 0.0) <= t + 1e-9 and (last is None or t <= last + 1e-9)


class Layout(NamedTuple):
    """Where the level is on a sheet, and where the legend, in shares of it: (left, bottom, width, height)."""

    level: Box
    legend: Box
    columns: int


def layout_of(window: Box, size: tuple[int, int]) -> Layout:
    """Return how a sheet is divided: a wide level fills its width, what is written stands below; else beside it.

    Examples
    --------
    >>> wide, tall = layout_of((0, 0, 6000, 300), (1280, 800)), layout_of((0, 0, 300, 6000), (1280, 800))
    >>> wide.level[2] > 0.9, tall.level[3] > 0.8, tall.columns
    (True, True, 3)
    """
    width, height = (dots / DOTS_PER_INCH for dots in size)
    left, bottom, top, right = MARGINS
    wide, high = window[2] - window[0], window[3] - window[1]
    beside = min((width - left - GAP - BESIDE) / wide, (height - bottom - top) / high)
    below = min((width - left - right) / wide, (height - bottom - top - BELOW) / high)
    if below > beside * WORTH_IT:
        level = (left, height - top - high * below, wide * below, high * below)
        legend = (0.25, 0.15, width - 0.4, level[1] - bottom - 0.15)
    else:
        level = (left, height - top - high * beside, wide * beside, high * beside)
        begin = left + level[2] + GAP
        legend = (begin, 0.15, width - begin - 0.1, height - top - 0.15)
    columns = max(1, int(legend[2] / COLUMN))
    share = (width, height, width, height)
    return Layout(
        tuple(part / whole for part, whole in zip(level, share, strict=True)),  # type: ignore[arg-type]
        tuple(part / whole for part, whole in zip(legend, share, strict=True)),  # type: ignore[arg-type]
        columns,
    )


def window_of(compiled: CompiledLevel, then: CompiledLevel, run: Run | None, shown: Shown) -> Box:
    """Return which part of a level is shown."""
    if shown.window is not None:
        return shown.window
    if shown.around is not None:
        x, y = _place(then, run, shown)
        height = compiled.level.player.shape.size[1]
        wide, high = (0.5 * times * height for times in AROUND)
        return (x - wide, y - high, x + wide, y + high)
    boxes: list[Any] = [polygon.bounds for polygon in shape_polygons(compiled.placement)]
    bounds = compiled.level.world.bounds
    if bounds is not None:
        boxes.append(bounds.corners)
    boxes += motion_boxes(compiled)
    x, y = compiled.level.player.at
    size = max(compiled.level.player.shape.size)
    boxes.append((x - size, y - size, x + size, y + size))
    if run is not None:
        rows = run.track_records[shown.ticks(run)]
        boxes.append((rows["x"].min(), rows["y"].min(), rows["x"].max(), rows["y"].max()))
    table = np.array(boxes)
    x0, y0, x1, y1 = table[:, 0].min(), table[:, 1].min(), table[:, 2].max(), table[:, 3].max()
    # A strip is given a little air, but not so much that it is one no longer.
    margin = 0.02 * min(max(x1 - x0, y1 - y0), 6.0 * min(x1 - x0, y1 - y0))
    return _with_air(float(x0 - margin), float(y0 - margin), float(x1 + margin), float(y1 + margin))


def _with_air(x0: float, y0: float, x1: float, y1: float) -> Box:
    """Return a box that is no mere strip: marks and names need room, of what is wide above all over it."""
    more_high = max(LEAST_HIGH * (x1 - x0) - (y1 - y0), 0.0)
    more_wide = max(LEAST_WIDE * (y1 - y0) - (x1 - x0), 0.0)
    return (x0 - more_wide / 2, y0 - 0.25 * more_high, x1 + more_wide / 2, y1 + 0.75 * more_high)


def _place(then: CompiledLevel, run: Run | None, shown: Shown) -> tuple[float, float]:
    """Return the place around which a picture is drawn."""
    around = shown.around
    if not isinstance(around, str):
        assert around is not None
        return around
    parts = around.split(",")
    if len(parts) == 2:
        try:
            return (float(parts[0]), float(parts[1]))
        except ValueError:
            pass
    if around == PLAYER:
        if run is None:
            return then.level.player.at
        row = run.track_records[shown.ticks(run)][-1]
        return (float(row["x"]), float(row["y"]))
    names = {piece.name: index for index, piece in enumerate(then.resolved.pieces)}
    if around not in names:
        raise HaptosError(f"around: no piece is called '{around}'{did_you_mean(around, [PLAYER, *names])}")
    shapes = shape_polygons(then.placement.only(then.placement.piece == names[around]))
    if shapes:
        middles = np.array([shape.bounds for shape in shapes])
        low, high = middles[:, :2].min(axis=0), middles[:, 2:].max(axis=0)
        return (float(low[0] + high[0]) / 2, float(low[1] + high[1]) / 2)
    x, y = then.origins[names[around]]
    return (float(x), float(y))
