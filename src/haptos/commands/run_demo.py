"""The whole example."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from haptos.commands.inputs import announce_compiles
from haptos.commands.tool import app


@app.command()
def demo(
    room: Annotated[str | None, typer.Argument(help="One room, shown in full.", show_default=False)] = None,
    out: Annotated[Path, typer.Option("--out", help="A folder for the files.")] = Path("haptos-demo"),
) -> None:
    """Run the whole example: check the observatory, run its cue sheets, write pictures and tables."""
    from haptos.demo import DEMO_SHEETS, demo_file
    from haptos.demo.tour import tour
    from haptos.views import terminal
    from haptos.writing import writable_folder

    folder = writable_folder(out)
    console = terminal.terminal()
    announce_compiles()
    paths = tour(folder, console, room)
    if room is not None:
        console.rule("written", align="left", style="dim")
        console.print(terminal.written_text(paths))
        return
    first = next(iter(DEMO_SHEETS))
    level, sheet = demo_file(f"{first}.toml"), demo_file(f"{DEMO_SHEETS[first][0]}.toml")
    print(f"\nall of it: {paths['page']}, pictures and tables beside it ({len(paths)} files)")
    print("next:     haptos demo " + first)
    print(f"          haptos run {level} {sheet}")
    print(f'          haptos draw {level} "right until ledge, right+jump 1 s" --out picture.png')
    print("          haptos new my-level.toml")
