"""What came out of a sweep, for a terminal."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from rich.console import Group
from rich.table import Table
from rich.text import Text

if TYPE_CHECKING:
    import pandas as pd

# Rows that are printed unless all are asked for: the first and the last of them.
MOST_ROWS = 40


def sweep_table(frame: pd.DataFrame, paths: int, most: int | None = MOST_ROWS) -> Group:
    """Return a sweep as a table: the values first, then what was measured."""
    table = Table(box=None, header_style="dim", padding=(0, 2, 0, 0))
    for number, name in enumerate(frame.columns):
        table.add_column(Text(str(name)), justify="right", style="bold" if number < paths else "")
    rows = list(frame.itertuples(index=False, name=None))
    left = 0 if most is None else len(rows) - most
    head, tail = (rows, []) if left <= 0 else (rows[: most // 2 if most else 0], rows[-(most or 0) // 2 :])
    for row in head:
        table.add_row(*(value_words(value) for value in row))
    if tail:
        table.add_row("…", f"{left} more" if paths > 1 or len(frame.columns) > 1 else "")
    for row in tail:
        table.add_row(*(value_words(value) for value in row))
    said = f"{len(rows)} runs" + ("; interrupted: the rest was not run" if frame.attrs.get("interrupted") else "")
    if tail:
        said += "; --all prints them"
    return Group(table, Text(), Text(said))


def value_words(value: Any) -> str:
    """Return a value as it is read."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        return "never" if math.isnan(value) else f"{value:.6g}"
    return str(value) or "nothing"
