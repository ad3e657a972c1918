"""Draw a level, and the path through it."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from haptos.commands.inputs import Changes, LevelFile, load_level, read_cues, simulate_level
from haptos.commands.outputs import picture_file
from haptos.commands.tool import app
from haptos.usage import numbers_of


@app.command()
def draw(
    level: LevelFile,
    cues: Annotated[
        str | None, typer.Argument(help="Cues or a cue sheet, to draw the path.", show_default=False)
    ] = None,
    out: Annotated[Path | None, typer.Option("--out", help="The picture: .png, .svg or .pdf.")] = None,
    gaps: Annotated[bool, typer.Option("--gaps", help="Draw the jumps across gaps as arcs.")] = False,
    at: Annotated[float | None, typer.Option("--at", help="The world and all that has happened then (s).")] = None,
    begin: Annotated[float | None, typer.Option("--from", help="Show the run from this time on (s).")] = None,
    end: Annotated[float | None, typer.Option("--to", help="Show the run until this time (s).")] = None,
    around: Annotated[str | None, typer.Option("--around", help="A piece, player, or x,y: what is around it.")] = None,
    window: Annotated[str | None, typer.Option("--window", help="A part of the level: left,bottom,right,top.")] = None,
    layers: Annotated[str | None, typer.Option("--layers", help="Only pieces on these layers: stone,oil.")] = None,
    names: Annotated[str, typer.Option("--names", help="Names of pieces: all, some or none.")] = "some",
    size: Annotated[str, typer.Option("--size", help="The sheet in dots: 1280x800.")] = "1280x800",
    theme: Annotated[str, typer.Option("--theme", help="light or dark.")] = "light",
    changes: Changes = None,
) -> None:
    """Draw a level, and the body's path if there are cues."""
    the_level = load_level(level, changes)
    path = picture_file(out or Path(f"{level.stem}.png"))
    result = simulate_level(the_level, read_cues(cues, the_level)) if cues is not None else None
    from haptos.views.picture import save_picture

    marks = save_picture(
        the_level, result, path, at=at, begin=begin, end=end, around=around, gaps=gaps, names=names, theme=theme,
        window=None if window is None else numbers_of("--window", window, ",", "left,bottom,right,top"),
        layers=None if layers is None else tuple(name.strip() for name in layers.split(",")),
        size=tuple(int(dots) for dots in numbers_of("--size", size.lower(), "x", "1280x800")),
    )  # fmt: skip
    for number, text in marks:
        print(f"{number:>3}  {text}")
    print(f"picture: {path}")
