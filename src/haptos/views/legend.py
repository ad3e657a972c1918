"""The legend beside the picture: what its looks mean, and the numbered marks."""

from __future__ import annotations

from typing import Any

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.run import Run
from haptos.level.world import SIDES
from haptos.views.leaps import STYLES
from haptos.views.motion import ROUTE
from haptos.views.palette import CLEARED, FAINT, INK, MISSED, PAPER, PLAYER, layer_colours

# The lines of the legend are at least this far apart, as a share of the figure's height.
LEAST_LINE = 0.0125
ROUTE_TEXT = "a route; outlines: the piece at its stops"
_MEANING = {"solid": "solid to the player", "overlap": "only felt", "nothing": "ignored"}


def draw_legend(
    figure: Any,
    ax: Any,
    compiled: CompiledLevel,
    run: Run | None,
    marks: list[tuple[int, str]],
    gaps: bool,
    at: float | None,
) -> None:
    """Write beside the picture what its looks mean, and the numbered marks."""
    from matplotlib.collections import LineCollection
    from matplotlib.lines import Line2D
    from matplotlib.patches import Patch

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
    if any(piece.facet("crumble") is not None for piece in resolved.pieces):
        style = {"color": FAINT, "marker": (3, 0, 0), "markersize": 4, "linewidth": 1.4}
        handles.append(Line2D([], [], label="a crack: gives way when it is touched", **style))
    handles += _stakes_handles(compiled)
    if run is not None and len(run.flight_records):
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
    if gaps:
        handles += [
            Line2D([], [], color=INK, linestyle=style, linewidth=1.2, label=f"a jump across a gap: {gait}")
            for gait, style in STYLES.items()
        ]
        handles += [
            Line2D([], [], color=CLEARED, linewidth=2, label="clears it"),
            Line2D([], [], color=MISSED, linewidth=2, label="misses it"),
        ]
    legend = figure.legend(
        handles=handles, loc="upper left", bbox_to_anchor=(0.735, 0.94), fontsize=8, frameon=False, labelcolor=INK
    )
    figure.draw_without_rendering()
    bottom = legend.get_window_extent().y0 / figure.bbox.height
    if run is None:
        _list_marks(figure, bottom - 0.02, marks)
        return
    path = next(
        lines for lines in ax.collections if isinstance(lines, LineCollection) and lines.get_array() is not None
    )
    scale_top = bottom - 0.035
    bar = figure.add_axes((0.745, scale_top - 0.014, 0.2, 0.014))
    colour_bar = figure.colorbar(path, cax=bar, orientation="horizontal")
    colour_bar.set_label(f"speed ({compiled.level.world.length_unit}/s), a dot every 0.1 s", fontsize=8, color=INK)
    bar.tick_params(labelsize=7, colors=INK)
    _list_marks(figure, scale_top - 0.085, marks)


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
    if len(stakes.harms):
        handles.append(Line2D([], [], color=MISSED, linestyle="none", marker="^", markersize=5, label="it hurts"))
    if len(stakes.checkpoints):
        style: dict[str, Any] = {"color": PLAYER, "linestyle": (0, (3, 2)), "linewidth": 1.1}
        handles.append(Line2D([], [], label="where the player comes back", **style))
    if len(stakes.finishes):
        style = {"color": INK, "linestyle": "none", "marker": "$\u25a9$", "markersize": 7}
        handles.append(Line2D([], [], label="the finish", **style))
    return handles


def _list_marks(figure: Any, top: float, marks: list[tuple[int, str]]) -> None:
    """Write the numbered marks below one another, smaller where there are many; what does not fit is counted."""
    most = int((top - 0.03) / LEAST_LINE)
    if len(marks) > most:
        marks = [*marks[: most - 1], (most, f"and {len(marks) - most + 1} more in the table")]
    step = min(0.021, (top - 0.03) / max(len(marks), 1))
    for index, (number, text) in enumerate(marks):
        y = top - index * step
        size = 7.5 if step >= 0.018 else 6.2
        figure.text(0.742, y, f"{number}", fontsize=size, ha="right", va="top", color=FAINT)
        figure.text(0.75, y, _shorten(text, 52 if size > 7 else 62), fontsize=size, ha="left", va="top", color=INK)


def _body_text(run: Run | None, at: float | None) -> str:
    if run is None:
        return "the player"
    return "the player, at the start and the end" if at is None else f"the player at {at:g} s"


def _shorten(text: str, length: int) -> str:
    return text if len(text) <= length else text[: length - 1] + "…"
