"""Summaries and tables for a terminal, rendered by Rich."""

from __future__ import annotations

import math
import os
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from rich.console import Console, Group
from rich.table import Table
from rich.text import Text

if TYPE_CHECKING:
    import pandas as pd

    from haptos.engine.run import Run
    from haptos.study.explained import Explained
    from haptos.study.findings import Finding
    from haptos.study.why import Answer

PLAYER = "player"
# Wider than any table.
UNWRAPPED = 10_000
# Events that a run prints unless it is asked for all.
MOST_EVENTS = 60
SEVERITY_STYLES = {"error": "bold red", "warning": "bold yellow", "note": "cyan"}


def summary_table(run: Run) -> Group:
    """Return a run's summary as a few short lines."""
    unit = run.level.world.length_unit
    facts = run.summary()
    table = Table.grid(padding=(0, 2))
    table.add_column(style="dim", justify="right")
    table.add_column()
    start, end = facts["from"], facts["to"]
    table.add_row(
        "played", f"{facts['seconds']:.4g} s, {facts['ticks']} ticks at {run.level.world.tick_rate:g} a second"
    )
    table.add_row("from", f"({start[0]:.4g}, {start[1]:.4g})")
    support = f", on {facts['ends_on']}" if facts["ends_on"] else ", in the air" if facts["stance"] == "air" else ""
    table.add_row("to", f"({end[0]:.6g}, {end[1]:.6g}){support}")
    table.add_row("fastest", f"{facts['fastest']:.4g} {unit}/s")
    if run.level.world.view == "side":
        table.add_row("highest", f"{facts['highest']:.4g} {unit}")
        table.add_row("jumps", f"{facts['jumps']}, deepest drop {facts['deepest_drop']:.4g} {unit}")
    table.add_row("lost", "never" if not facts["lost"] else f"{facts['lost']} times" if facts["lost"] > 1 else "once")
    if run.compiled.tables.stakes is not None:
        lives = "" if facts["lives"] is None else f", lives {facts['lives']}"
        totals = {name: f" ({total:g} in the level)" for name, total in facts["totals"].items() if total}
        counted = "".join(f", {name} {value:g}{totals.get(name, '')}" for name, value in facts["counters"].items())
        table.add_row("ends with", f"health {facts['health']:g}{lives}{counted}{', finished' * facts['finished']}")
    for said in facts["says"]:
        table.add_row("says", Text(f"“{said}”"))
    return Group(Text(run.level.title or "Untitled level", style="bold"), table)


def events_table(run: Run, only: Sequence[str] = (), most: int | None = MOST_EVENTS) -> Table:
    """Return a run's events as a table, the last `most` of them, of all sorts or only some."""
    table = Table(box=None, header_style="dim", padding=(0, 2, 0, 0))
    table.add_column("t (s)", justify="right", no_wrap=True)
    table.add_column("event", no_wrap=True)
    table.add_column("piece", no_wrap=True)
    table.add_column("x", justify="right", no_wrap=True)
    table.add_column("y", justify="right", no_wrap=True)
    table.add_column("detail")
    has_cues = len(run.cues.steps) > 1
    if has_cues:
        table.add_column("cue", style="dim")
    rows = [row for row in run.event_rows if not only or row.event in only]
    first = 0 if most is None else max(len(rows) - most, 0)
    if first:
        table.add_row("", "…", "", "", "", f"{first} before; --all prints them, --only land,hurt some of them")
    for row in rows[first:]:
        # What pieces do by themselves, or to one another, begins with whose event it is.
        parties = row.piece if row.who == PLAYER else f"{row.who} → {row.piece}" if row.piece else row.who
        place = (f"{row.x:.2f}", f"{row.y:.2f}")
        cue = [Text(f"{row.cue} {run.cues.steps[row.cue - 1].words}" if row.cue else "")] if has_cues else []
        table.add_row(f"{row.t:.4f}", row.event, Text(parties), *place, Text(row.detail), *cue)
    return table


def findings_table(findings: Sequence[Finding], title: str) -> Group | Text:
    """Return findings one below the other, or the words that there are none."""
    if not findings:
        return Text(f"{title}: nothing found")
    table = Table.grid(padding=(0, 2))
    table.add_column(no_wrap=True)
    table.add_column(overflow="fold")
    for finding in findings:
        style = SEVERITY_STYLES[finding.severity]
        line = "" if finding.line is None else f"line {finding.line}, "
        text = Text(f"{line}{finding.place}: ", style="bold").append(finding.message, style="not bold")
        text.append(f"  [{finding.code}]", style="dim not bold")
        table.add_row(Text(finding.severity, style=style), text)
    return Group(Text(_count(findings, title)), table)


def explained_text(found: Explained) -> Group:
    """Return what a finding means, with a level that has it and one that has it not."""
    head = Text(found.severity, style=SEVERITY_STYLES[found.severity]).append(f"  {found.code}", style="bold not dim")
    return Group(
        head, Text(found.says), Text(), Text("A level that has it:", style="dim"), Text(), Text(found.wrong),
        Text("Nearly the same, without it:", style="dim"), Text(), Text(found.right.rstrip()),
    )  # fmt: skip


def _count(findings: Sequence[Finding], title: str) -> str:
    parts = []
    for severity in SEVERITY_STYLES:
        number = sum(finding.severity == severity for finding in findings)
        if number:
            parts.append(f"{number} {severity}{'s' if number > 1 else ''}")
    return f"{title}: {', '.join(parts)}"


def moves_table(moves: pd.DataFrame, title: str) -> Table:
    """Return the movement numbers as a table, closed form beside simulated."""
    table = Table(title=title or None, title_justify="left", box=None, header_style="dim", padding=(0, 2, 0, 0))
    for name, justify in (
        ("", "left"),
        ("gait", "left"),
        ("closed form", "right"),
        ("simulated", "right"),
        ("", "left"),
    ):
        table.add_column(name, justify=justify, no_wrap=True)  # type: ignore[arg-type]
    before = ""
    rows: Any = moves.itertuples()
    for row in rows:
        name = row.quantity if row.quantity != before else ""
        before = row.quantity
        table.add_row(name, row.gait, _number(row.closed_form), f"{row.simulated:.6g}", row.unit)
    return table


def _number(value: float) -> str:
    """Return a number, or that there is none."""
    return "none" if math.isnan(value) else f"{value:.6g}"


def integrators_table(methods: pd.DataFrame, tick_rate: float) -> Table:
    """Return how far each method of integration is from the closed form, as numbers and in per cent."""
    table = Table(
        title=f"Methods at {tick_rate:g} ticks a second", title_justify="left", box=None, header_style="dim",
        padding=(0, 2, 0, 0),
    )  # fmt: skip
    table.add_column("", no_wrap=True)
    names = [name for name in methods.columns if name not in ("quantity", "closed_form", "unit")]
    for name in ("closed form", *names):
        table.add_column(name, justify="right", overflow="fold")
    table.add_column("")
    rows: Any = methods.to_dict(orient="records")
    for row in rows:
        exact = row["closed_form"]
        cells = [f"{row[name]:.6g} ({round(row[name] / exact - 1, 6) + 0.0:.2%})" for name in names]
        table.add_row(row["quantity"], f"{exact:.6g}", *cells, row["unit"])
    return table


def gaps_table(gaps: pd.DataFrame, title: str, unit: str) -> Table:
    """Return the gaps between places to stand, each gait with what it clears or misses."""
    table = Table(title=title or None, title_justify="left", box=None, header_style="dim", padding=(0, 2, 0, 0))
    for name, justify in (
        ("from", "left"),
        ("to", "left"),
        (f"gap ({unit})", "right"),
        (f"rise ({unit})", "right"),
        ("gait", "left"),
        ("", "left"),
    ):
        table.add_column(name, justify=justify)  # type: ignore[arg-type]
    before = None
    rows: Any = gaps.itertuples()
    for row in rows:
        key = (row.start, row.goal, row.gap, row.rise)
        names = (Text(row.start), Text(row.goal), f"{row.gap:.4g}", f"{row.rise:.4g}") if key != before else ("",) * 4
        before = key
        table.add_row(*names, row.gait, _margin_text(row, unit))
    if not len(gaps):
        table.add_row("no gaps: no two places to stand are neighbours across one")
    return table


def _margin_text(row: Any, unit: str) -> Text:
    if row.needs > 0:
        return Text(f"too high by {row.needs:.4g} {unit}", style="red")
    if row.margin < 0:
        return Text(f"missed by {-row.margin:.4g} {unit}", style="red")
    if row.blocked_by:
        return Text(f"cleared by {row.margin:.4g} {unit}, but {row.blocked_by} is in the way", style="yellow")
    return Text(f"cleared by {row.margin:.4g} {unit}", style="green")


def answer_text(answer: Answer) -> Group:
    """Return the answer of `why` as a sentence and its reasons."""
    table = Table.grid(padding=(0, 1))
    for reason in answer.reasons:
        table.add_row("-", Text(reason))
    return Group(Text(answer.sentence, style="bold"), table)


def values_table(values: pd.DataFrame) -> Table:
    """Return what a name resolved to: key, value, origin."""
    table = Table(box=None, header_style="dim", padding=(0, 2, 0, 0))
    for name in ("key", "value", "from"):
        table.add_column(name, overflow="fold")
    rows: Any = values.itertuples()
    for row in rows:
        table.add_row(row.key, Text(_shown(row.value)), Text(row.origin))
    return table


def _shown(value: Any) -> str:
    if isinstance(value, list):
        return f"[{', '.join(_shown(part) for part in value)}]"
    if isinstance(value, bool):
        return str(value).lower()
    return f"{value:g}" if isinstance(value, float) else str(value)


def written_text(paths: dict[str, Path]) -> Table:
    """Return which files were written."""
    table = Table.grid(padding=(0, 2))
    table.add_column(style="dim", justify="right")
    table.add_column(overflow="fold")
    for name, path in paths.items():
        table.add_row(name, Text(str(path)))
    return table


def terminal() -> Console:
    """Return the console of the standard output; what is piped is not wrapped, unless COLUMNS says how wide to be."""
    console = Console(highlight=False, soft_wrap=False)
    if not console.is_terminal and "COLUMNS" not in os.environ:
        console.width = UNWRAPPED
    return console
