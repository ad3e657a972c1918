"""Which line of a level file says a thing."""

from __future__ import annotations

import re
from pathlib import Path

HEADER = re.compile(r"^\s*\[(\[?)\s*([^\]]+?)\s*\]?\]")
KEY = re.compile(r"""^\s*("[^"]*"|'[^']*'|[\w.-]+)\s*=""")


def find_line(file: Path, table: str, key: str, index: int | None = None) -> int | None:
    """Return the number of the line of a TOML file on which a key of a table is written.

    Parameters
    ----------
    file : Path
    table : str
        The table's name, ``contacts.solid``.
    key : str
    index : int, optional
        Which one of ``[[table]]`` it is.

    Returns
    -------
    int or None
        Counted from one; None if it is not written in that plain way (JSON, inline tables).
    """
    if file.suffix.lower() == ".json":
        return None
    try:
        lines = file.read_text(encoding="utf-8").splitlines()
    except (OSError, UnicodeDecodeError):
        return None
    here = ""
    count: dict[str, int] = {}
    quoted = ""
    for number, line in enumerate(lines, start=1):
        if quoted:
            if quoted in line:
                quoted = ""
            continue
        header = HEADER.match(line)
        if header:
            here = header.group(2).replace(" ", "")
            count[here] = count.get(here, -1) + 1
        found = KEY.match(line)
        if found and here == table and (index is None or count[here] == index):
            if found.group(1).strip("\"'") == key:
                return number
        for mark in ('"""', "'''"):
            if line.count(mark) % 2 == 1:
                quoted = mark
    return None
