"""Haptos' own colours: one a layer, told apart by colour-blind people too, and a scale for speed.

The set keeps the lightness of neighbours apart, and alternates warm and cold, so that it also works in grey.
"""

from __future__ import annotations

PAPER = "#fbfaf6"
INK = "#23282e"
FAINT = "#8d949b"
PLAYER = "#c2410c"
# Of jumps that clear a gap, and of those that miss.
CLEARED = "#1f6f8b"
MISSED = "#b4483c"

# Slate, ochre, teal, plum, moss, brick, sky, sand: given out to the layers in the order of the contacts table.
LAYER_COLOURS = (
    "#4a5568",
    "#c58a1b",
    "#1f8a8c",
    "#7b4b94",
    "#6b8f3a",
    "#b4483c",
    "#5b9bd5",
    "#b8a07a",
)
# From rest to the fastest: dark to light, monotone in lightness.
SPEED_MAP = "viridis"


def layer_colours(layers: tuple[str, ...], player: str) -> dict[str, str]:
    """Return a colour for every layer in the order of the contacts table, the player's own last.

    Examples
    --------
    >>> layer_colours(("hero", "stone"), "hero")
    {'stone': '#4a5568', 'hero': '#c58a1b'}
    """
    others = [layer for layer in layers if layer != player]
    return {layer: LAYER_COLOURS[index % len(LAYER_COLOURS)] for index, layer in enumerate([*others, player])}
