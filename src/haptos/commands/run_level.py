"""Run a level: what happened, event by event."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from haptos.commands.inputs import AsJson, Changes, LevelFile, load_level, read_cues, simulate_level
from haptos.commands.outputs import OutFolder, out_folder, print_json, write_run
from haptos.commands.tool import ANSWER_IS_NO, app
from haptos.errors import HaptosError
from haptos.usage import event_names

if TYPE_CHECKING:
    from haptos.engine.run import Run
    from haptos.study.outcomes import Outcome


@app.command()
def run(
    level: LevelFile,
    cues: Annotated[str, typer.Argument(help="Cues, or a cue sheet file (TOML, JSON, CSV, TXT).")] = "wait 1 s",
    out: OutFolder = None,
    cues_out: Annotated[
        Path | None, typer.Option("--cues-out", help="A cue sheet (.toml) with the plain times that the cues came to.")
    ] = None,
    expect_out: Annotated[
        Path | None, typer.Option("--expect-out", help="A cue sheet (.toml) that expects what this run did.")
    ] = None,
    only: Annotated[str, typer.Option("--only", help="Only these events: land,hurt.", show_default=False)] = "",
    every: Annotated[bool, typer.Option("--all", help="All events, however many there are.")] = False,
    changes: Changes = None,
    as_json: AsJson = False,
) -> None:
    """Run a level with cues: a summary, the events, what its sheet expects, and files on demand."""
    the_level = load_level(level, changes)
    the_cues = read_cues(cues, the_level)
    folder = out_folder(out)
    chosen = event_names(only)
    from haptos.study.outcomes import outcomes_of

    result = simulate_level(the_level, the_cues)
    paths = write_run(result, folder) if folder else {}
    if cues_out is not None:
        from haptos.files.cue_sheets import save_cues

        save_cues(result.plain_cues, cues_out, title=the_level.title)
        paths["cues"] = cues_out
    if expect_out is not None:
        paths["expectations"] = _write_expectations(result, level, expect_out)
    outcomes = outcomes_of(result)
    if as_json:
        told = {"outcomes": [one.to_json() for one in outcomes]} if outcomes else {}
        print_json(result.to_json() | told | {"files": {name: str(path) for name, path in paths.items()}})
    else:
        _print(result, chosen, every, outcomes, paths)
    if not all(one.held for one in outcomes):
        raise typer.Exit(ANSWER_IS_NO)


def _print(result: Run, chosen: Sequence[str], every: bool, outcomes: list[Outcome], paths: dict[str, Path]) -> None:
    """Print what became of a run."""
    from haptos.views import terminal
    from haptos.views.verified_text import outcomes_table

    console = terminal.terminal()
    console.print(terminal.summary_table(result))
    console.print()
    console.print(terminal.events_table(result, chosen, None if every else terminal.MOST_EVENTS))
    if outcomes:
        console.print()
        console.print(outcomes_table(outcomes))
    if paths:
        console.print()
        console.print(terminal.written_text(paths))


def _write_expectations(result: Run, level: Path, file: Path) -> Path:
    """Write a sheet with the cues of a run, which expects what it did."""
    from haptos.files.cue_sheets import save_cues
    from haptos.study.expectations_of import expectations_of

    if file.suffix.lower() != ".toml":
        raise HaptosError(f"{file}: expected a cue sheet ending in .toml")
    cues = replace(result.cues, expect=expectations_of(result))
    return save_cues(cues, file, title=result.level.title, level=level)
