"""The whole example: every room checked and run, with its pictures and tables."""

from __future__ import annotations

import os
from concurrent.futures import Future, ProcessPoolExecutor
from pathlib import Path

from rich.console import Console

from haptos.demo import DEMO_SHEETS, demo_file
from haptos.engine.simulation import simulate
from haptos.files.reading import load, read_cue_sheet
from haptos.study.check import check
from haptos.study.gaps import gaps
from haptos.study.moves import moves
from haptos.views import terminal
from haptos.writing import writable_folder

# Processes that draw pictures, which take most of the time.
DRAWING = 2


def tour(folder: Path, console: Console) -> dict[str, Path]:
    """Check every room of the demo, run its cue sheets, and write tables and pictures.

    Parameters
    ----------
    folder : Path
        Where the files go, those of each cue sheet in a folder of its own.
    console : Console
        What is found is printed there.

    Returns
    -------
    dict
        The paths by what they hold.
    """
    paths: dict[str, Path] = {}
    drawn: list[Future[None]] = []
    with ProcessPoolExecutor(min(os.cpu_count() or 1, DRAWING)) as pool:
        for room, sheets in DEMO_SHEETS.items():
            file = demo_file(f"{room}.toml")
            paths[room] = file
            drawn += [pool.submit(draw_run, room, sheet, writable_folder(folder / sheet)) for sheet in sheets]
            paths |= _visit(room, folder, console)
        for picture in drawn:
            picture.result()
    return paths


def _visit(room: str, folder: Path, console: Console) -> dict[str, Path]:
    """Check one room, run its cue sheets, and write their tables."""
    file = demo_file(f"{room}.toml")
    level = load(file)
    paths: dict[str, Path] = {}
    console.rule(f"haptos check {file.name}", align="left", style="dim")
    console.print(terminal.findings_table(check(level), file.name))
    for name in DEMO_SHEETS[room]:
        sheet = read_cue_sheet(demo_file(f"{name}.toml"), level.unit_table())
        run = simulate(level, sheet.cues)
        console.rule(f"{name}.toml: {sheet.title}", align="left", style="dim")
        console.print(terminal.summary_table(run))
        console.print()
        console.print(terminal.events_table(run))
        written = run.save(folder / name)
        written["picture"] = folder / name / "picture.png"
        paths |= {f"{name}, {what}": path for what, path in written.items()}
    console.rule(f"haptos moves {file.name} --gaps", align="left", style="dim")
    console.print(terminal.gaps_table(gaps(level), "", level.world.length_unit))
    if room == list(DEMO_SHEETS)[-1]:
        console.rule(f"haptos moves {file.name}", align="left", style="dim")
        console.print(terminal.moves_table(moves(level), ""))
    return paths


def draw_run(room: str, sheet: str, folder: Path) -> None:
    """Run a cue sheet of the demo in its room, and write the picture of that; in a process of its own."""
    from haptos.views.picture import save_picture

    level = load(demo_file(f"{room}.toml"))
    cues = read_cue_sheet(demo_file(f"{sheet}.toml"), level.unit_table()).cues
    save_picture(level, simulate(level, cues), folder / "picture.png")
