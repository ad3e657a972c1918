"""What is different between two runs, for a terminal."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from rich.console import Group
from rich.table import Table
from rich.text import Text

from haptos.level.assemblies import PLAYER

if TYPE_CHECKING:
    from haptos.study.compare import Differences

# Events that are printed unless all are asked for.
MOST_EVENTS = 40
STYLES = {"gone": "red", "new": "green", "moved": "yellow", "changed": "cyan"}


def comparison_text(found: Differences, most: int | None = MOST_EVENTS) -> Group | Text:
    """Return what differs, one below the other, or the words that nothing does."""
    if found.same:
        return Text("no difference")
    unit = found.one.level.world.length_unit
    parts: list[Any] = []
    if found.parted is None:
        parts.append(Text("the paths are one and the same"))
    else:
        gap, when = found.farthest
        row = found.one.track_records[round(found.parted * found.one.level.world.tick_rate)]
        parts.append(
            Text(
                f"the paths part at {found.parted:.4g} s, at ({row['x']:.4g}, {row['y']:.4g}); "
                f"farthest apart at {when:.4g} s: {gap:.4g} {unit}"
            )
        )
    if found.differences:
        parts += [Text(), _events_table(found, most)]
    ends = found.ends[found.ends["differs"]]
    if len(ends):
        table = Table(box=None, header_style="dim", padding=(0, 2, 0, 0))
        for name, justify in (("at the end", "left"), ("first", "right"), ("second", "right")):
            table.add_column(name, justify=justify)  # type: ignore[arg-type]
        for row in ends.itertuples():
            table.add_row(str(row.what), _value(row.one), _value(row.other))
        parts += [Text(), table]
    return Group(*parts)


def _events_table(found: Differences, most: int | None) -> Table:
    table = Table(box=None, header_style="dim", padding=(0, 2, 0, 0))
    for name, justify in (
        ("change", "left"), ("event", "left"), ("piece", "left"), ("first (s)", "right"), ("second (s)", "right"),
        ("later (s)", "right"), ("amount", "left"),
    ):  # fmt: skip
        table.add_column(name, justify=justify, no_wrap=name != "amount")  # type: ignore[arg-type]
    shown = found.differences if most is None else found.differences[:most]
    for one in shown:
        event = one.event
        parties = event.piece if event.who == PLAYER else f"{event.who} → {event.piece}" if event.piece else event.who
        table.add_row(
            Text(one.change, style=STYLES[one.change]), event.event, Text(parties),
            "" if one.one is None else f"{one.one.t:.4f}", "" if one.other is None else f"{one.other.t:.4f}",
            "" if math.isnan(one.shift) else f"{round(one.shift, 4) + 0.0:+.4f}", _amounts(one),
        )  # fmt: skip
    left = len(found.differences) - len(shown)
    if left:
        table.add_row("…", "", f"{left} more; --all prints them")
    return table


def _amounts(one: Any) -> str:
    """Return the number of an event in both runs, or in the one that has it."""
    amounts = [event.amount for event in (one.one, one.other) if event is not None and not math.isnan(event.amount)]
    words = [f"{amount:.4g}" for amount in amounts]
    if len(set(words)) > 1:
        return " → ".join(words)
    return f"{one.distance:.3g} away" if one.change == "changed" else "".join(words[:1])


def _value(value: Any) -> str:
    if value is None:
        return "none"
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:.6g}" if isinstance(value, float | int) else str(value)
