"""What came out of a sweep, for a terminal."""

from __future__ import annotations

import math
from string import ascii_lowercase
from typing import TYPE_CHECKING, Any

from rich.console import Group
from rich.table import Table
from rich.text import Text

if TYPE_CHECKING:
    import pandas as pd

# Blanks between columns.
GAP = 2
# Rows that are printed unless all are asked for: the first and the last of them.
MOST_ROWS = 40


def sweep_table(frame: pd.DataFrame, paths: int, most: int | None = MOST_ROWS, width: int = 80) -> Group:
    """Return a sweep as a table: the values first, then what was measured.

    Where the names of the columns do not fit beside each other, letters stand for them, and the names above.
    """
    rows = [[value_words(value) for value in row] for row in frame.itertuples(index=False, name=None)]
    left = 0 if most is None else len(rows) - most
    head, tail = (rows, []) if left <= 0 or most is None else (rows[: most // 2], rows[-(most - most // 2) :])
    names = [str(name) for name in frame.columns]
    shown = [*head, *tail]
    fits = [max(len(name), *(len(row[number]) for row in shown), 0) for number, name in enumerate(names)]
    parts: list[Any] = []
    headings = names
    if sum(fits) + GAP * len(names) > width:
        headings = [ascii_lowercase[number % len(ascii_lowercase)] for number in range(len(names))]
        parts += [Text(f"{letter}  {name}", style="dim") for letter, name in zip(headings, names, strict=True)]
        parts.append(Text())
    table = Table(box=None, header_style="dim", padding=(0, GAP, 0, 0))
    for number, name in enumerate(headings):
        table.add_column(Text(name), justify="right", style="bold" if number < paths else "", overflow="fold")
    for row in head:
        table.add_row(*row)
    if tail:
        table.add_row("…")
    for row in tail:
        table.add_row(*row)
    said = f"{len(rows)} runs" + ("; interrupted: the rest was not run" if frame.attrs.get("interrupted") else "")
    if tail:
        said += f", {left} of them not shown; --all prints them"
    return Group(*parts, table, Text(), Text(said))


def value_words(value: Any) -> str:
    """Return a value as it is read."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        return "never" if math.isnan(value) else f"{value:.6g}"
    return str(value) or "nothing"
