"""The observatory: levels and cue sheets that come with Haptos."""

from __future__ import annotations

from importlib.resources import files
from pathlib import Path


def demo_file(name: str) -> Path:
    """Return the path of a file of the demo.

    Examples
    --------
    >>> demo_file("first-room.toml").name
    'first-room.toml'
    """
    return Path(str(files("haptos.demo") / name))
