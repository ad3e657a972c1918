"""The legend of a picture: what its looks mean, and the numbered marks."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.run import Run
from haptos.level.world import SIDES
from haptos.views.labels import Box
from haptos.views.leaps import STYLES
from haptos.views.motion import ROUTE
from haptos.views.palette import CLEARED, FAINT, INK, MISSED, PAPER, PLAYER, layer_colours
from haptos.views.sheet import COLUMN, Layout, Shown
from haptos.views.signs import sign_handles

# The lines of the legend are so far apart, inches: the first of these at which all have room.
STEPS = (0.168, 0.15, 0.135, 0.12, 0.105)
# A letter's width, dots, for each point of its size.
LETTER = 0.86
# The scale of speed takes so much of a wide sheet.
SCALE = 0.27
ROUTE_TEXT = "a route; outlines: the piece at its stops"
_MEANING = {"solid": "solid to the player", "overlap": "only felt", "nothing": "ignored"}


def draw_legend(
    figure: Any,
    ax: Any,
    compiled: CompiledLevel,
    run: Run | None,
    marks: list[tuple[int, str]],
    shown: Shown,
    layout: Layout,
    more: Sequence[Any] = (),
) -> None:
    """Write beside the level, or below it, what its looks mean, lines besides those, and the numbered marks."""
    from matplotlib.collections import LineCollection
    from matplotlib.lines import Line2D
    from matplotlib.patches import Patch

    at = shown.at
    resolved = compiled.resolved
    colours = layer_colours(resolved.contacts.layers, resolved.player_layer)
    # What the table says of a layer; single pieces may be switched off, and are drawn so.
    between = resolved.contacts.between
    every = compiled.cast.resolved.pieces
    present = {piece.layer: between(resolved.player_layer, piece.layer).meeting for piece in every}
    handles: list[Any] = []
    for layer in resolved.contacts.layers:
        if layer in present:
            meeting = present[layer]
            look: dict[str, Any] = {"facecolor": colours[layer], "alpha": 0.85}
            if meeting == "overlap":
                look = {"facecolor": colours[layer] + "22", "hatch": "///"}
            elif meeting == "nothing":
                look = {"facecolor": "none", "linestyle": ":"}
            handles.append(Patch(edgecolor=colours[layer], label=f"{layer} — {_MEANING[meeting]}", **look))
    if any(piece.solid_from is not None for piece in resolved.pieces):
        handles.append(Line2D([], [], color=INK, linewidth=3.0, label="solid from this side alone"))
    if any(piece.facet("route") is not None for piece in resolved.pieces):
        style: dict[str, Any] = {"color": INK, "linewidth": 0.9, "marker": "o", "markersize": 3, "linestyle": ROUTE}
        handles.append(Line2D([], [], label=ROUTE_TEXT, **style))
    if any(piece.facet("spin") is not None for piece in resolved.pieces):
        style = {"color": INK, "marker": "o", "markersize": 5, "markerfacecolor": PAPER, "linestyle": "none"}
        handles.append(Line2D([], [], label="turns about this point", **style))
    if any(piece.facet("hinge") is not None for piece in resolved.pieces):
        style = {"color": INK, "marker": "o", "markersize": 5, "markerfacecolor": PAPER, "linestyle": (0, (2, 2))}
        handles.append(Line2D([], [], label="a hinge, its limits, the way its motor turns", linewidth=0.9, **style))
    if any(piece.facet("crumble") is not None for piece in resolved.pieces):
        style = {"color": FAINT, "marker": (3, 0, 0), "markersize": 4, "linewidth": 1.4}
        handles.append(Line2D([], [], label="a crack: gives way when it is touched", **style))
    handles += [*sign_handles(compiled), *_stakes_handles(compiled)]
    if run is not None and any(piece.facet("body") is not None for piece in resolved.pieces):
        style = {"color": FAINT, "linewidth": 0.9, "linestyle": (0, (2, 2))}
        where = "and ends" if at is None else f"before {at:g} s"
        handles.append(Line2D([], [], label=f"where a loose body was, {where}", **style))
    elif run is not None and len(run.flight_records):
        style = {"color": FAINT, "linewidth": 0.7, "marker": "o", "markerfacecolor": "none", "markersize": 6}
        where = "its last place" if at is None else f"where it is at {at:g} s"
        handles.append(Line2D([], [], label=f"the way of what flies, and {where}", **style))
    world = compiled.level.world
    loses = world.bounds is not None and "lost" in (getattr(world.bounds, side) for side in SIDES)
    if world.lost_below is not None or loses:
        handles.append(
            Line2D([], [], color=PLAYER, linestyle=(0, (4, 2)), linewidth=1.2, label="the player is lost here")
        )
    handles.append(Patch(edgecolor=PLAYER, facecolor="none", label=_body_text(run, at)))
    if shown.gaps:
        handles += [
            Line2D([], [], color=INK, linestyle=style, linewidth=1.2, label=f"a jump across a gap: {gait}")
            for gait, style in STYLES.items()
        ]
        handles += [
            Line2D([], [], color=CLEARED, linewidth=2, label="clears it"),
            Line2D([], [], color=MISSED, linewidth=2, label="misses it"),
        ]
    handles += more
    left, bottom, width, height = layout.legend
    top = bottom + height
    legend = figure.legend(
        handles=handles, loc="upper left", bbox_to_anchor=(left, top), fontsize=8, frameon=False, labelcolor=INK,
        ncols=layout.columns, borderaxespad=0.0, columnspacing=1.2, handleheight=1.1, labelspacing=0.5,
    )  # fmt: skip
    extent = legend.get_window_extent(figure.canvas.get_renderer())
    below, legend_right = (extent.y0 / figure.bbox.height, extent.x1 / figure.bbox.width) if handles else (top, left)
    if run is None:
        _list_marks(figure, (left, bottom, width, top - bottom), (legend_right, below - 0.02 - bottom), marks)
        return
    path = next(
        lines for lines in ax.collections if isinstance(lines, LineCollection) and lines.get_array() is not None
    )
    inch = 1.0 / (figure.bbox.height / figure.dpi)
    scale_top = below - 0.28 * inch
    bar = figure.add_axes((left + 0.01, scale_top - 0.11 * inch, min(0.2, 0.9 * width), 0.11 * inch))
    colour_bar = figure.colorbar(path, cax=bar, orientation="horizontal")
    colour_bar.set_label(f"speed ({compiled.level.world.length_unit}/s), a dot every 0.1 s", fontsize=8, color=INK)
    bar.tick_params(labelsize=7, colors=INK)
    free = scale_top - 0.68 * inch
    if layout.columns > 1 and width > 0.5:
        # Beside the scale there is room too.
        left, width, free = left + SCALE, width - SCALE, below - 0.02
    _list_marks(figure, (left, bottom, width, top - bottom), (legend_right, free - bottom), marks)


def _stakes_handles(compiled: CompiledLevel) -> list[Any]:
    """Return what stands for what is at stake."""
    from matplotlib.lines import Line2D

    stakes = compiled.tables.stakes
    if stakes is None:
        return []
    handles = []
    circle: dict[str, Any] = {"linestyle": "none", "marker": "o", "markerfacecolor": "none"}
    if (stakes.pickups["attract"] > 0).any():
        handles.append(Line2D([], [], color=INK, linestyle=":", linewidth=1.1, label="it comes to a player so near"))
    if len(stakes.pickups):
        handles.append(Line2D([], [], color=INK, markersize=5, label="it is taken by a player so near", **circle))
    if len(stakes.checkpoints):
        style: dict[str, Any] = {"color": PLAYER, "linestyle": (0, (3, 2)), "linewidth": 1.1}
        handles.append(Line2D([], [], label="where the player comes back", **style))
    return handles


def _list_marks(figure: Any, region: Box, beside: tuple[float, float], marks: list[tuple[int, str]]) -> None:
    """Write the numbered marks in columns, smaller where there are many; what does not fit is counted.

    Parameters
    ----------
    figure : Figure
    region : (left, bottom, width, height)
    beside : (right, height)
        Where the lines of the legend end; columns that begin before that have this height alone.
    marks : list
    """
    left, bottom, width, height = region
    wide, tall = figure.bbox.width / figure.dpi, figure.bbox.height / figure.dpi
    columns = max(1, int(width * wide / COLUMN))
    begins = [left + width / columns * number for number in range(columns)]
    heights = [height if begin > beside[0] else beside[1] for begin in begins]
    step = next((one for one in STEPS if sum(_lines(high, tall, one) for high in heights) >= len(marks)), STEPS[-1])
    rooms = [_lines(high, tall, step) for high in heights]
    if len(marks) > sum(rooms):
        kept = max(sum(rooms) - 1, 0)
        marks = [*marks[:kept], (kept + 1, f"and {len(marks) - kept} more in the table")]
    size = 7.5 if step >= 0.14 else 6.2
    letters = int(width / columns * figure.bbox.width / (size * LETTER)) - 4
    rest = iter(marks)
    for begin, high, room in zip(begins, heights, rooms, strict=True):
        for line, (number, text) in zip(range(room), rest, strict=False):
            y = bottom + high - step / tall * line
            figure.text(begin + 0.016, y, f"{number}", fontsize=size, ha="right", va="top", color=FAINT)
            figure.text(begin + 0.021, y, _shorten(text, letters), fontsize=size, ha="left", va="top", color=INK)


def _lines(height: float, tall: float, step: float) -> int:
    """Return how many lines a column of a height has room for."""
    return max(int(height * tall / step), 0)


def _body_text(run: Run | None, at: float | None) -> str:
    if run is None:
        return "the player"
    return "the player, at the start and the end" if at is None else f"the player at {at:g} s"


def _shorten(text: str, length: int) -> str:
    return text if len(text) <= length else text[: length - 1] + "…"
