"""The whole example: every room checked and run, with its pictures and tables."""

from __future__ import annotations

import os
from concurrent.futures import Future, ProcessPoolExecutor
from pathlib import Path

from rich.console import Console
from rich.table import Table
from rich.text import Text

from haptos.demo import DEMO_SHEETS, demo_file
from haptos.engine.run import Run
from haptos.engine.simulation import simulate
from haptos.errors import HaptosError
from haptos.files.reading import load, read_cue_sheet
from haptos.level.names import did_you_mean
from haptos.study.check import SEVERITIES, check
from haptos.study.findings import Finding
from haptos.study.gaps import gaps
from haptos.study.moves import moves
from haptos.study.outcomes import Outcome, outcomes_of
from haptos.views import terminal
from haptos.views.tour_page import Shown, Visit, save_page
from haptos.views.verified_text import outcomes_table
from haptos.writing import writable_folder

# Processes that draw pictures, which take most of the time.
DRAWING = 2


def tour(folder: Path, console: Console, room: str | None = None) -> dict[str, Path]:
    """Check rooms of the demo, run their cue sheets, and write tables and pictures.

    Parameters
    ----------
    folder : Path
        Where the files go, those of each cue sheet in a folder of its own.
    console : Console
        What is found is printed there: a line a room and sheet, or all of one room.
    room : str, optional
        The one that is shown in full.

    Returns
    -------
    dict
        The paths by what they hold.

    Raises
    ------
    HaptosError
        If there is no such room.
    """
    if room is not None and room not in DEMO_SHEETS:
        raise HaptosError(f"no room of the demo is called '{room}'{did_you_mean(room, DEMO_SHEETS)}")
    rooms = DEMO_SHEETS if room is None else {room: DEMO_SHEETS[room]}
    paths: dict[str, Path] = {}
    visits: list[Visit] = []
    drawn: list[Future[None]] = []
    lines = Table(box=None, header_style="dim", padding=(0, 2, 0, 0))
    for name in ("room", "check", "cue sheet", "held", "what happens"):
        lines.add_column(name, overflow="fold")
    with ProcessPoolExecutor(min(os.cpu_count() or 1, DRAWING)) as pool:
        for name, sheets in rooms.items():
            drawn += [pool.submit(draw_run, name, sheet, writable_folder(folder / sheet)) for sheet in sheets]
            visit, written = _visit(name, folder, lines) if room is None else _show(name, folder, console)
            visits.append(visit)
            paths |= written
        for picture in drawn:
            picture.result()
    paths["page"] = folder / "index.html"
    save_page(visits, paths["page"], "The observatory")
    if room is None:
        console.print(lines)
    return paths


def _visit(room: str, folder: Path, lines: Table) -> tuple[Visit, dict[str, Path]]:
    """Check a room, run its cue sheets, write their tables, and add a line for each."""
    level = load(demo_file(f"{room}.toml"))
    findings = check(level)
    visit = Visit(room, level.title, findings, [])
    paths: dict[str, Path] = {}
    for number, name in enumerate(DEMO_SHEETS[room]):
        sheet = read_cue_sheet(demo_file(f"{name}.toml"), level.unit_table())
        run = simulate(level, sheet.cues)
        paths |= _write(run, name, folder)
        visit.runs.append(_shown(run, name, sheet.title, folder))
        first = (room, _count(findings)) if number == 0 else ("", "")
        held = _held(visit.runs[-1].outcomes)
        lines.add_row(Text(first[0], style="bold"), first[1], name, held, _outcome(run))
    return visit, paths


def _shown(run: Run, name: str, title: str, folder: Path) -> Shown:
    """Return what the page says of a run."""
    files = sorted(file.name for file in (folder / name).iterdir() if file.suffix in (".csv", ".json"))
    return Shown(name, title, _outcome(run), outcomes_of(run), run.event_rows, files)


def _held(outcomes: list[Outcome]) -> str:
    """Return how much of what was expected held."""
    held = sum(outcome.held for outcome in outcomes)
    return f"all {held}" if held == len(outcomes) else f"{held} of {len(outcomes)}"


def _count(findings: list[Finding]) -> str:
    """Return how many findings there are, by severity."""
    counts = {severity: sum(one.severity == severity for one in findings) for severity in SEVERITIES}
    said = [f"{count} {severity}{'s' if count > 1 else ''}" for severity, count in counts.items() if count]
    return ", ".join(said) or "nothing found"


def _outcome(run: Run) -> str:
    """Return what came of a run, in a few words."""
    facts = run.summary()
    said = f", “{facts['says'][-1]}”" if facts["says"] else ""
    lost = f", lost {facts['lost']} times" if facts["lost"] > 1 else ", lost once" if facts["lost"] else ""
    where = f"on {facts['ends_on']}" if facts["ends_on"] else "in the air"
    ends = "finished" if facts["finished"] else f"ends {where}"
    return f"{facts['seconds']:.4g} s, {ends}{lost}{said}"


def _write(run: Run, name: str, folder: Path) -> dict[str, Path]:
    """Write the tables of a run; return all its paths by what they hold."""
    written = run.save(folder / name)
    written |= {what: folder / name / f"{what}.png" for what in ("picture", "timeline")}
    return {f"{name}, {what}": path for what, path in written.items()}


def _show(room: str, folder: Path, console: Console) -> tuple[Visit, dict[str, Path]]:
    """Check one room, run its cue sheets, write their tables, and print all of it."""
    file = demo_file(f"{room}.toml")
    level = load(file)
    visit = Visit(room, level.title, check(level), [])
    paths: dict[str, Path] = {}
    console.rule(f"haptos check {file.name}", align="left", style="dim")
    console.print(terminal.findings_table(visit.findings, file.name))
    for name in DEMO_SHEETS[room]:
        sheet = read_cue_sheet(demo_file(f"{name}.toml"), level.unit_table())
        run = simulate(level, sheet.cues)
        console.rule(f"haptos run {file.name} {name}.toml: {sheet.title}", align="left", style="dim")
        console.print(terminal.summary_table(run))
        console.print()
        console.print(terminal.events_table(run))
        paths |= _write(run, name, folder)
        visit.runs.append(_shown(run, name, sheet.title, folder))
        console.print()
        console.print(outcomes_table(visit.runs[-1].outcomes))
    console.rule(f"haptos moves {file.name} --gaps", align="left", style="dim")
    console.print(terminal.gaps_table(gaps(level), "", level.world.length_unit))
    console.rule(f"haptos moves {file.name}", align="left", style="dim")
    console.print(terminal.moves_table(moves(level), ""))
    return visit, paths


def draw_run(room: str, sheet: str, folder: Path) -> None:
    """Run a cue sheet of the demo in its room, and write the pictures of that; in a process of its own."""
    from haptos.views.picture import save_picture
    from haptos.views.timeline_drawn import save_timeline

    level = load(demo_file(f"{room}.toml"))
    cues = read_cue_sheet(demo_file(f"{sheet}.toml"), level.unit_table()).cues
    run = simulate(level, cues)
    save_picture(level, run, folder / "picture.png")
    save_timeline(run, folder / "timeline.png")
