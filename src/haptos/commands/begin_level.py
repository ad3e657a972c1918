"""Begin a level."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from haptos.commands.tool import app
from haptos.errors import HaptosError

# What leads through the level that `new` writes, to its lamp.
STARTER_CUES = (
    'right until x > 140, right+jump until land shelf, right until ledge, right+jump until land "far shelf", wait 0.3 s'
)


@app.command()
def new(file: Annotated[Path, typer.Argument(help="The level file to write, .toml.", show_default=False)]) -> None:
    """Write a commented starter level that runs."""
    from importlib.resources import files

    from haptos.writing import write_text

    if file.suffix.lower() != ".toml":
        raise HaptosError(f"{file}: expected a file ending in .toml")
    if file.exists():
        raise HaptosError(f"{file}: exists already, and is left as it is; expected a new name")
    write_text(file, (files("haptos.files") / "starter.toml").read_text(encoding="utf-8"))
    print(f"level: {file}")
    print(f"next:  haptos run {file} '{STARTER_CUES}'")
