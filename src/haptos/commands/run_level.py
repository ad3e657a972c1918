"""Run a level: what happened, event by event."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from haptos.commands.inputs import AsJson, Changes, LevelFile, load_level, read_cues, simulate_level
from haptos.commands.outputs import OutFolder, out_folder, print_json, write_run
from haptos.commands.tool import app
from haptos.usage import event_names


@app.command()
def run(
    level: LevelFile,
    cues: Annotated[str, typer.Argument(help="Cues, or a cue sheet file (TOML, JSON, CSV, TXT).")] = "wait 1 s",
    out: OutFolder = None,
    cues_out: Annotated[
        Path | None, typer.Option("--cues-out", help="A cue sheet (.toml) with the plain times that the cues came to.")
    ] = None,
    only: Annotated[str, typer.Option("--only", help="Only these events: land,hurt.", show_default=False)] = "",
    every: Annotated[bool, typer.Option("--all", help="All events, however many there are.")] = False,
    changes: Changes = None,
    as_json: AsJson = False,
) -> None:
    """Run a level with cues: a summary, the events, and files on demand."""
    the_level = load_level(level, changes)
    the_cues = read_cues(cues, the_level)
    folder = out_folder(out)
    chosen = event_names(only)
    result = simulate_level(the_level, the_cues)
    paths = write_run(result, folder) if folder else {}
    if cues_out is not None:
        from haptos.files.cue_sheets import save_cues

        save_cues(result.plain_cues, cues_out, title=the_level.title)
        paths["cues"] = cues_out
    if as_json:
        print_json(result.to_json() | {"files": {name: str(path) for name, path in paths.items()}})
        return
    from haptos.views import terminal

    console = terminal.terminal()
    console.print(terminal.summary_table(result))
    console.print()
    console.print(terminal.events_table(result, chosen, None if every else terminal.MOST_EVENTS))
    if paths:
        console.print()
        console.print(terminal.written_text(paths))
