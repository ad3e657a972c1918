"""The contacts table of a level, in a terminal and as a picture."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from rich.console import Group
from rich.table import Table
from rich.text import Text

from haptos.views.palette import FAINT, INK, PAPER
from haptos.views.picture import save_figure
from haptos.views.sheet import DOTS_PER_INCH

if TYPE_CHECKING:
    import pandas as pd

SIGNS = {"solid": "■", "overlap": "▨", "nothing": "·"}
STYLES = {"solid": "bold", "overlap": "cyan", "nothing": "dim"}
MEANINGS = {"solid": "solid to each other", "overlap": "overlap: only felt", "nothing": "nothing: ignored"}
# Solid cells are filled, those that overlap hatched: told apart without colour.
LOOKS: dict[str, dict[str, Any]] = {
    "solid": {"facecolor": "#646d7c"},
    "overlap": {"facecolor": "#dcebe6", "hatch": "///", "edgecolor": "#1f6f8b"},
    "nothing": {"facecolor": "none"},
}


def contacts_text(table: pd.DataFrame, unused: Sequence[str]) -> Group:
    """Return the table as a triangle: a sign for what two layers are to each other, and the pairs that concerns."""
    layers, cells = _grid(table)
    grid = Table(box=None, header_style="dim", padding=(0, 1, 0, 0))
    grid.add_column("", no_wrap=True)
    for number in range(1, len(layers) + 1):
        grid.add_column(str(number), justify="right", no_wrap=True)
    for row, layer in enumerate(layers):
        name = Text(f"{row + 1} {layer}", style="dim" if layer in unused else "")
        line = []
        for column in range(row + 1):
            meeting, pairs = cells[layers[column], layer]
            line.append(Text(f"{SIGNS[meeting]} {pairs}" if pairs else SIGNS[meeting], style=STYLES[meeting]))
        grid.add_row(name, *line)
    key = Text("   ".join(f"{SIGNS[meeting]} {words}" for meeting, words in MEANINGS.items()), style="dim")
    parts: list[Any] = [grid, Text(), key, Text("numbers: pairs of pieces, the player among them", style="dim")]
    if unused:
        parts.append(Text(f"unused: {', '.join(unused)}"))
    return Group(*parts)


def save_contacts(table: pd.DataFrame, unused: Sequence[str], title: str, path: str | Path) -> None:
    """Write the table as a picture."""
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure
    from matplotlib.patches import Patch, Rectangle

    layers, cells = _grid(table)
    figure = Figure(figsize=(1280 / DOTS_PER_INCH, 800 / DOTS_PER_INCH), dpi=DOTS_PER_INCH, facecolor=PAPER)
    FigureCanvasAgg(figure)
    ax = figure.add_axes((0.16, 0.11, 0.6, 0.8))
    ax.set_facecolor(PAPER)
    ax.set_title(f"{title or 'Untitled level'}: who meets whom", loc="left", color=INK)
    for row, layer in enumerate(layers):
        for column in range(row + 1):
            meeting, pairs = cells[layers[column], layer]
            look: dict[str, Any] = {"edgecolor": FAINT, "linewidth": 0.6} | LOOKS[meeting]
            ax.add_patch(Rectangle((column, row), 1, 1, alpha=1.0 if pairs else 0.3, **look))
            if pairs:
                colour = "white" if meeting == "solid" else INK
                box = {"facecolor": PAPER, "edgecolor": "none", "pad": 1.0} if meeting == "overlap" else None
                ax.text(
                    column + 0.5, row + 0.5, str(pairs), ha="center", va="center", color=colour, fontsize=9, bbox=box
                )
    ax.set_xlim(-0.02, len(layers) + 0.02)
    ax.set_ylim(len(layers) + 0.02, -0.02)
    middles = [number + 0.5 for number in range(len(layers))]
    names = [f"{layer} (unused)" if layer in unused else layer for layer in layers]
    ax.set_yticks(middles, names)
    ax.set_xticks(middles, layers, rotation=30, ha="right")
    ax.tick_params(length=0, colors=INK)
    for label, layer in zip(ax.get_yticklabels(), layers, strict=True):
        label.set_color(FAINT if layer in unused else INK)
    for spine in ax.spines.values():
        spine.set_visible(False)
    handles = [Patch(label=MEANINGS[name], **({"edgecolor": FAINT} | look)) for name, look in LOOKS.items()]
    figure.legend(
        handles=handles, loc="upper left", bbox_to_anchor=(0.78, 0.9), fontsize=9, frameon=False, labelcolor=INK,
        title="a number: pairs of pieces,\nthe player among them; pale:\nno such pair in the level", title_fontsize=9,
        alignment="left",
    )  # fmt: skip
    save_figure(figure, path)


def _grid(table: pd.DataFrame) -> tuple[list[str], dict[tuple[str, str], tuple[str, int]]]:
    """Return the layers in order, and what two are to each other and how many pairs that concerns."""
    rows: Any = table.itertuples()
    return list(dict.fromkeys(table.layer)), {(row.layer, row.other): (row.meeting, row.pairs) for row in rows}
