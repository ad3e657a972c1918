"""A level as the text of a TOML file."""

from __future__ import annotations

from typing import Any

from haptos.level.changes import as_written
from haptos.level.level import FORMAT_VERSION, Level

# Sections that hold tables by name.
NAMED = ("kinds", "routes", "counters")
# What one looks for first in a piece or a rule.
FIRST = ("name", "kind", "based_on", "at", "when", "piece")


def toml_text(level: Level) -> str:
    """Return a level as TOML: a table for each section and piece, with what is in it on one line a key.

    Examples
    --------
    >>> toml_text(Level(title="attic", player={"jump": {"height": 90}})).splitlines()
    ['haptos = 1', 'title = "attic"', '', '[player]', 'jump = {height = 90}']
    """
    import tomlkit

    document = tomlkit.document()
    document.add("haptos", tomlkit.item(FORMAT_VERSION))
    written = as_written(level)
    written.pop("haptos", None)
    plain = {key: value for key, value in written.items() if not isinstance(value, dict | list)}
    for key, value in plain.items():
        document.add(key, _item(value))
    for key, value in written.items():
        if key in plain:
            continue
        if isinstance(value, list):
            document.add(key, _entries(value))
        elif key in NAMED:
            document.add(key, _tables(value))
        else:
            document.add(key, _table(value))
    return str(tomlkit.dumps(document))


def _tables(tables: dict[str, Any]) -> Any:
    """Return tables within one, as kinds are."""
    import tomlkit

    outer = tomlkit.table(is_super_table=True)
    for key, value in tables.items():
        outer.add(key, _table(value))
    return outer


def _entries(tables: list[Any]) -> Any:
    import tomlkit

    entries = tomlkit.aot()
    for table in tables:
        entries.append(_table(table))
    return entries


def _table(values: dict[str, Any]) -> Any:
    import tomlkit

    table = tomlkit.table()
    for key in sorted(values, key=lambda one: FIRST.index(one) if one in FIRST else len(FIRST)):
        table.add(key, _item(values[key]))
    return table


def _item(value: Any) -> Any:
    """Return a value as it is written on one line; a drawing on several."""
    import tomlkit

    if isinstance(value, dict):
        inline = tomlkit.inline_table()
        for key, one in value.items():
            inline.add(key, _item(one))
        return inline
    if isinstance(value, list):
        array = tomlkit.array()
        for one in value:
            array.append(_item(one))
        return array
    if isinstance(value, str) and "\n" in value:
        return tomlkit.string(value, multiline=True)
    if isinstance(value, float) and value.is_integer() and abs(value) < 2**53:
        return tomlkit.item(int(value))
    return tomlkit.item(value)
