"""The observatory: levels and cue sheets that come with Haptos."""

from __future__ import annotations

from importlib.resources import files
from pathlib import Path

# The rooms of the demo and their cue sheets.
DEMO_SHEETS = {
    "first-room": ("gets-through", "falls-short"),
    "stair-hall": ("up-the-rigging", "slips-on-the-flags"),
    "lift-shaft": ("over-the-pit", "under-the-press"),
    "orrery-loft": ("across-the-loft",),
    "ember-gallery": ("through-the-embers",),
    "lantern-way": ("to-the-lantern",),
    "orrery-hall": ("round-the-globes",),
    "library": ("through-the-cellar", "by-hand"),
}


def demo_file(name: str) -> Path:
    """Return the path of a file of the demo.

    Examples
    --------
    >>> demo_file("first-room.toml").name
    'first-room.toml'
    """
    return Path(str(files("haptos.demo") / name))
