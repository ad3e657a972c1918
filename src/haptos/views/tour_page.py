"""The page of a tour: all pictures, tables and what held, readable without a network."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from haptos.engine.report.event_rows import Event
from haptos.study.findings import Finding
from haptos.study.outcomes import Outcome
from haptos.writing import write_text


class Shown(NamedTuple):
    """One run: its cue sheet, what came of it in a few words, what held, its events, and its tables."""

    name: str
    title: str
    outcome: str
    outcomes: list[Outcome]
    events: list[Event]
    files: list[str]


class Visit(NamedTuple):
    """One level: its file, its title, what `check` found, and its runs."""

    room: str
    title: str
    findings: list[Finding]
    runs: list[Shown]


def save_page(visits: Sequence[Visit], path: Path, title: str) -> None:
    """Write the page of a tour; pictures and tables lie beside it, in a folder for each cue sheet.

    Parameters
    ----------
    visits : sequence of Visit
    path : Path
    title : str

    Raises
    ------
    HaptosError
        If the file can't be written.
    """
    from jinja2 import Environment, PackageLoader

    outcomes = [outcome for visit in visits for shown in visit.runs for outcome in shown.outcomes]
    held = sum(outcome.held for outcome in outcomes)
    runs = sum(len(visit.runs) for visit in visits)
    summary = f"{len(visits)} levels, {runs} cue sheets; of {len(outcomes)} things expected {held} held."
    pages = Environment(loader=PackageLoader("haptos", "views"), autoescape=True)
    text = pages.get_template("tour_page.html").render(title=title, visits=visits, summary=summary)
    write_text(path, text + "\n")
