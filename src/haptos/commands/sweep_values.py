"""What comes out when numbers are others?"""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from haptos.commands.inputs import AsJson, LevelFile, changes_of, load_level, read_cues
from haptos.commands.outputs import OutFolder, out_folder, print_json, progress_bar, rows_of
from haptos.commands.tool import INTERRUPTED, app
from haptos.errors import HaptosError

MOST_STEPS = 100_000


@app.command()
def sweep(
    level: LevelFile,
    cues: Annotated[str, typer.Argument(help="Cues, or a cue sheet file.", show_default=False)],
    values: Annotated[
        list[str], typer.Option("--set", help="Values: PATH=FROM:TO:COUNT, or PATH=ONE,ANOTHER.", show_default=False)
    ],
    measure: Annotated[
        list[str], typer.Option("--measure", help="'end x', 'event land loft', 'that oil'; may be given again.")
    ],
    out: OutFolder = None,
    dask: Annotated[str, typer.Option("--dask", help="The address of a Dask cluster that does the work.")] = "",
    every: Annotated[bool, typer.Option("--all", help="All rows, however many there are.")] = False,
    as_json: AsJson = False,
) -> None:
    """Run a level over one or more numbers, and measure what comes out: a table, and a picture on demand."""
    the_level = load_level(level)
    the_cues = read_cues(cues, the_level)
    table = values_of(values)
    folder = out_folder(out)
    from haptos.study.sweep import sweep as run_all

    with progress_bar("sweeping", 0) as tell:
        frame = run_all(the_level, the_cues, table, measure, dask=dask, progress=tell)
    paths: dict[str, Path] = {}
    if folder is not None and len(frame):
        from haptos.views.sweep_drawn import save_sweep

        paths = save_sweep(frame, len(table), folder)
    if as_json:
        print_json(rows_of(frame))
    else:
        from haptos.views import terminal
        from haptos.views.sweep_text import MOST_ROWS, sweep_table

        console = terminal.terminal()
        console.print(sweep_table(frame, len(table), None if every else MOST_ROWS, console.width))
        if paths:
            console.print()
            console.print(terminal.written_text(paths))
    if frame.attrs["interrupted"]:
        raise typer.Exit(INTERRUPTED)


def values_of(words: list[str]) -> dict[str, list[Any]]:
    """Return values by path: ``PATH=60:120:25`` evenly from one number to another, or ``PATH=60,80``.

    Raises
    ------
    HaptosError
        If some words say neither.

    Examples
    --------
    >>> values_of(["player.jump.height=60:120:4", "world.tick_rate=30,60"])
    {'player.jump.height': [60, 80, 100, 120], 'world.tick_rate': [30, 60]}
    """
    table: dict[str, list[Any]] = {}
    for one in words:
        path, sign, said = one.partition("=")
        path = path.strip()
        if not sign or not path or not said.strip():
            raise HaptosError(f"--set: found '{one}', expected PATH=FROM:TO:COUNT, as player.jump.height=60:120:25")
        if path in table:
            raise HaptosError(f"--set: found {path} twice, expected all its values at once, as {path}=60,80")
        parts = said.split(":")
        if len(parts) > 1:
            table[path] = list(_evenly(path, parts))
        else:
            table[path] = [changes_of([f"{path}={value}"])[path] for value in _split(said)]
    return table


def _split(said: str) -> list[str]:
    """Return values between commas, but those of a list such as ``[0, 80]`` together."""
    if said.strip().startswith(("[", "{")):
        return [said]
    return [value for value in said.split(",") if value.strip()]


def _evenly(path: str, parts: list[str]) -> list[float] | list[int]:
    """Return so many numbers, evenly from one to another."""
    try:
        first, last, count = float(parts[0]), float(parts[1]), int(parts[2])
        if len(parts) != 3 or not 2 <= count <= MOST_STEPS:
            raise ValueError
    except (ValueError, IndexError):
        found = ":".join(parts)
        raise HaptosError(
            f"--set: {path}: found '{found}', expected two numbers and a count of 2 or more, as 60:120:25"
        ) from None
    step = (last - first) / (count - 1)
    # To 12 digits, so that 0.1 steps are written as one writes them; whole numbers, as of jumps, are whole.
    values = [float(f"{first + index * step:.12g}") for index in range(count)]
    return [int(value) for value in values] if all(value.is_integer() for value in values) else values
