"""The dark theme: a finished picture with paper and ink exchanged."""

from __future__ import annotations

from typing import Any

from haptos.views.palette import FAINT, INK, PAPER

DARK_PAPER, DARK_INK, DARK_FAINT = "#1d2126", "#e9e6dc", "#7d858d"


def darken(figure: Any) -> None:
    """Exchange paper and ink, and what is between them, in all that a figure holds; other colours stay."""
    from matplotlib.colors import to_rgba

    swaps = {
        to_rgba(old)[:3]: to_rgba(new)[:3]
        for old, new in (
            (PAPER, DARK_PAPER), ("white", DARK_PAPER), (INK, DARK_INK), ("black", DARK_INK), (FAINT, DARK_FAINT),
        )
    }  # fmt: skip

    def exchanged(colour: Any) -> Any:
        red, green, blue, alpha = to_rgba(colour)
        return (*swaps.get((red, green, blue), (red, green, blue)), alpha)

    figure.set_facecolor(exchanged(figure.get_facecolor()))
    found = figure.findobj()
    # A text holds what stands around it, and its arrow, for itself.
    held = [getattr(artist, name, None) for artist in found for name in ("_bbox_patch", "arrow_patch")]
    for artist in [*found, *(one for one in held if one is not None)]:
        if getattr(artist, "get_array", lambda: None)() is not None:
            # Coloured by speed.
            continue
        for name in ("color", "facecolor", "edgecolor", "markerfacecolor", "markeredgecolor"):
            if name == "color" and hasattr(artist, "get_facecolor"):
                continue
            get, put = getattr(artist, f"get_{name}", None), getattr(artist, f"set_{name}", None)
            if get is None or put is None:
                continue
            colour = get()
            if colour is None or (isinstance(colour, str) and colour in ("none", "auto")):
                continue
            if isinstance(colour, tuple) and len(colour) == 4 and colour[3] == 0.0:
                # Nothing is drawn: an alpha of the whole would show it.
                continue
            try:
                put(exchanged(colour))
            except (ValueError, TypeError):
                put([exchanged(one) for one in colour])
