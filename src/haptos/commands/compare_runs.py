"""What did that change?"""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from haptos.commands.inputs import AsJson, Changes, LevelFile, load_level, read_cues, simulate_level
from haptos.commands.outputs import picture_file, print_json
from haptos.commands.tool import ANSWER_IS_NO, app
from haptos.errors import HaptosError


@app.command()
def compare(
    level: LevelFile,
    cues: Annotated[str, typer.Argument(help="Cues, or a cue sheet file.", show_default=False)],
    changes: Changes = None,
    with_level: Annotated[Path | None, typer.Option("--with", help="Another level, instead.")] = None,
    with_cues: Annotated[str | None, typer.Option("--with-cues", help="Other cues, instead.")] = None,
    out: Annotated[Path | None, typer.Option("--out", help="A picture of both: .png, .svg or .pdf.")] = None,
    every: Annotated[bool, typer.Option("--all", help="All events that differ, however many there are.")] = False,
    as_json: AsJson = False,
) -> None:
    """Say what is different if values, the level or the cues are others; exit code 1 if anything is."""
    if not changes and with_level is None and with_cues is None:
        raise HaptosError("found nothing to compare with, expected --set PATH=VALUE, --with LEVEL or --with-cues CUES")
    if out is not None:
        picture_file(out)
    one = load_level(level)
    one_cues = read_cues(cues, one)
    other = load_level(with_level or level, changes)
    other_cues = read_cues(with_cues if with_cues is not None else cues, other)
    from haptos.views.compared import compare as look

    found = look(simulate_level(one, one_cues), simulate_level(other, other_cues))
    marks = []
    if out is not None:
        from haptos.views.compared import save_comparison

        marks = save_comparison(found, out)
    if as_json:
        print_json(found.to_json())
    else:
        from haptos.views import terminal
        from haptos.views.comparison_text import MOST_EVENTS, comparison_text

        terminal.terminal().print(comparison_text(found, None if every else MOST_EVENTS))
        if out is not None:
            print()
        for number, text in marks:
            print(f"{number:>3}  {text}")
        if out is not None:
            print(f"picture: {out}")
    if not found.same:
        raise typer.Exit(ANSWER_IS_NO)
