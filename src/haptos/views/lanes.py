"""Lanes of a picture over time: what holds from when to when."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

import numpy as np

from haptos.engine.run import Run
from haptos.level.control_bits import CONTROLS
from haptos.views.palette import INK

# The height of a lane, of the room that it has.
FULL = 0.72
# A letter of a name is about so wide, dots.
LETTER = 4.6


class Span(NamedTuple):
    """What holds from one time to another, seconds."""

    begin: float
    end: float
    what: str


def spans_of(run: Run, values: Sequence[str]) -> list[Span]:
    """Return from when to when a column of the track has the same value; nothing where it is empty."""
    rate, found, begin = run.level.world.tick_rate, [], 0
    for tick in range(1, len(values) + 1):
        if tick == len(values) or values[tick] != values[begin]:
            if values[begin]:
                found.append(Span(begin / rate, min(tick, len(values) - 1) / rate, str(values[begin])))
            begin = tick
    return found


def held_spans(run: Run) -> dict[str, list[Span]]:
    """Return from when to when each control is held, of those that are."""
    rate = run.level.world.tick_rate
    held = run.plain_cues.schedule(rate).held[: run.ticks].astype(np.int64)
    found: dict[str, list[Span]] = {}
    for name, bit in CONTROLS.items():
        edges = np.flatnonzero(np.diff(np.concatenate(([0], (held & bit) != 0, [0])).astype(np.int64)))
        if len(edges):
            found[name] = [Span(begin / rate, end / rate, name) for begin, end in edges.reshape(-1, 2).tolist()]
    return found


def draw_lane(ax: Any, row: int, spans: Sequence[Span], colour_of: Callable[[str], str], is_named: bool = True) -> None:
    """Draw a lane of spans, named where there is room."""
    left, right = ax.get_xlim()
    dots = ax.get_window_extent().width / max(right - left, 1e-9)
    bars = [(span.begin, span.end - span.begin) for span in spans]
    colours = [colour_of(span.what) for span in spans]
    ax.broken_barh(bars, (row - FULL / 2, FULL), facecolors=colours, edgecolor="white", linewidth=0.5)
    for span in spans:
        if is_named and (span.end - span.begin) * dots > LETTER * len(span.what) + 4:
            ax.text(
                (span.begin + span.end) / 2, row, span.what, ha="center", va="center", fontsize=7, color=INK,
                clip_on=True,
            )  # fmt: skip
