"""What held and what did not, for a terminal."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from rich.console import Group
from rich.table import Table
from rich.text import Text

if TYPE_CHECKING:
    from haptos.study.outcomes import Outcome
    from haptos.study.verify_sheets import Verified

HELD, FAILED, BROKEN = ("held", "green"), ("failed", "bold red"), ("unusable", "bold red")


def outcomes_table(outcomes: Sequence[Outcome]) -> Table:
    """Return what became of expectations: what each came to, and of what failed the nearest miss."""
    table = _table()
    for outcome in outcomes:
        _add(table, outcome)
    return table


def verified_text(found: Sequence[Verified], count: int, every: bool = False) -> Group:
    """Return what was verified: a line a sheet, and what failed in it; what held as well if all is wanted."""
    table = _table()
    for one in found:
        word, style = BROKEN if one.error else HELD if one.held else FAILED
        held = sum(outcome.held for outcome in one.outcomes)
        said = one.error or (f"{held} of {len(one.outcomes)}" if held < len(one.outcomes) else f"all {held}")
        if one.error:
            said = said.removeprefix(f"{one.sheet}: ")
        table.add_row(Text(word, style=style), Text(str(one.sheet), style="bold").append(f": {said}", style="not bold"))
        for outcome in one.outcomes:
            if every or not outcome.held:
                _add(table, outcome, "  ")
    return Group(table, Text(), Text(_summary(found, count)))


def _table() -> Table:
    table = Table.grid(padding=(0, 2))
    table.add_column(no_wrap=True)
    table.add_column(overflow="fold")
    return table


def _add(table: Table, outcome: Outcome, indent: str = "") -> None:
    word, style = HELD if outcome.held else FAILED
    name = outcome.expectation.name
    text: Any = Text(f"{name}: " if name else "", style="italic").append(outcome.message, style="not italic")
    table.add_row(Text(indent + word, style=style), text)


def _summary(found: Sequence[Verified], count: int) -> str:
    outcomes = [outcome for one in found for outcome in one.outcomes]
    failed = sum(not outcome.held for outcome in outcomes)
    broken = sum(bool(one.error) for one in found)
    words = f"{len(outcomes) - failed} held, {failed} failed, in {len(found)} sheet{'s' * (len(found) != 1)}"
    if broken:
        words += f", {broken} of them unusable"
    left = count - len(found)
    return words + (f"; {left} not run" if left else "")
