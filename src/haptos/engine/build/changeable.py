"""What rules can change while the level runs, and by which path: numbers of facets and of the player, and switches.

All numbers lie in one row of cells for each world, of which the tables that kernels read are views: a rule writes a
cell, whatever it means.
"""

from __future__ import annotations

import math
from typing import Annotated, Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import TypeAdapter, ValidationError

from haptos.engine.build.mover_plans import Motions
from haptos.engine.records import Records
from haptos.engine.records.tables import Tables
from haptos.errors import LevelError
from haptos.level.assemblies import PLAYER
from haptos.level.level import Level
from haptos.level.names import did_you_mean, short
from haptos.level.pieces import FACETS
from haptos.level.soundness import too_often

# Tables that lie in the cells, in this order.
TABLES = ("body", "walls", "surfaces", "fields", "launches", "pickups", "harms", "bodies", "hinges")
WORD = 8


# The tables of facets that have something to change.
TABLE_OF = {
    "field": "fields", "surface": "surfaces", "launch": "launches", "pickup": "pickups", "harm": "harms",
    "body": "bodies", "hinge": "hinges",
}  # fmt: skip
# Columns that are not called as their keys.
COLUMN_OF = {
    "motor.speed": "speed", "motor.max_torque": "torque", "hold.angle": "angle", "hold.stiffness": "stiffness",
    "hold.damping": "damping", "limits.low": "low", "limits.high": "high",
}  # fmt: skip
# Paths of pieces that rules can change, besides the switches.
FACET_PATHS = tuple(f"{name}.{key}" for name, section in FACETS.items() for key in section.changeable)
# Of the player: paths and columns of the body's table.
BODY_PATHS = {
    "gaits.walk": "walk",
    "gaits.sprint": "sprint",
    "run.ground_accel": "ground_accel",
    "run.ground_brake": "ground_brake",
    "run.air_accel": "air_accel",
    "run.air_brake": "air_brake",
    "jump.height": "jump_speed",
    "jump.speed": "jump_speed",
    "jump.coyote_time": "coyote_time",
    "jump.buffer_time": "buffer_time",
    "jump.release_cut": "release_cut",
    "fall.terminal_speed": "terminal_speed",
    "fall.rising_factor": "rising_factor",
    "fall.falling_factor": "falling_factor",
    "climb.speed": "climb",
    "attract_bonus": "attract_bonus",
}
SWITCHES = ("active", "route.running")


class Cells(NamedTuple):
    """The tables that rules can change, as one row of numbers.

    Attributes
    ----------
    values : (n,) ndarray
    tables : where each table begins, how many rows it has, and their layout
    owners : the piece behind each row of a table
    """

    values: NDArray[np.float64]
    tables: dict[str, tuple[int, int, np.dtype[np.void]]]
    owners: dict[str, NDArray[np.int64]]

    def place(self, table: str, row: int, column: str) -> int:
        """Return which cell a number is."""
        first, _, layout = self.tables[table]
        fields: Any = layout.fields
        return first + row * (layout.itemsize // WORD) + int(fields[column][1]) // WORD

    def coded(self, table: str, column: str, value: float) -> float:
        """Return what to write into a cell: the bits of an integer where the column is one."""
        fields: Any = self.tables[table][2].fields
        if fields[column][0].kind == "i":
            return float(np.array([int(value)], dtype=np.int64).view(np.float64)[0])
        return value

    def tables_of(self, tables: Tables, cells: NDArray[np.float64]) -> Tables:
        """Return the tables of a level with the numbers of one world, of which they are views."""
        views: dict[str, Records] = {}
        for name, (first, rows, layout) in self.tables.items():
            views[name] = cells[first : first + rows * layout.itemsize // WORD].view(layout)
        stakes = tables.stakes._replace(pickups=views.pop("pickups"), harms=views.pop("harms"))
        loose, bodies, hinges = tables.loose, views.pop("bodies", None), views.pop("hinges", None)
        if loose is not None:
            loose = loose._replace(bodies=bodies, hinges=hinges)
        known: dict[str, Any] = {name: view for name, view in views.items() if getattr(tables, name) is not None}
        tables = tables._replace(loose=loose)
        return tables._replace(stakes=stakes, **known)


def cells_of(tables: dict[str, Records], owners: dict[str, NDArray[np.int64]]) -> Cells:
    """Put tables one after another into a row of cells."""
    places: dict[str, tuple[int, int, np.dtype[np.void]]] = {}
    values: list[NDArray[np.float64]] = []
    count = 0
    for name in TABLES:
        if name not in tables:
            continue
        rows = tables[name]
        words = np.ascontiguousarray(rows).view(np.float64).reshape(-1) if len(rows) else np.zeros(0)
        places[name] = (count, len(rows), rows.dtype)
        values.append(words)
        count += len(words)
    return Cells(np.concatenate(values), places, owners)


class Change(NamedTuple):
    """What `set` comes to: cells and their values, or movers that are switched, or whose routes run."""

    switch: str | None
    places: list[tuple[int, float]]


def change_of(motions: Motions, cells: Cells, path: str, to: Any, place: str) -> Change:
    """Return what setting a path to a value comes to.

    Raises
    ------
    LevelError
        If nothing has such a path, it can't be changed while the level runs, or the value is none for it.
    """
    resolved = motions.resolved
    if path.startswith(PLAYER + "."):
        return _of_player(resolved.level, cells, path, path[len(PLAYER) + 1 :], to, place)
    pieces, rest = split_path(motions, path, place)
    if rest in SWITCHES:
        if not isinstance(to, bool):
            raise LevelError(place, f"found {path} set to {short(to)}, expected true or false")
        numbers = sorted({int(motions.numbers[index]) for index in pieces})
        if rest == "route.running":
            for index in pieces:
                if resolved.pieces[index].facet("route") is None:
                    raise LevelError(place, f"found {path}, but '{resolved.pieces[index].name}' has no route")
        return Change(rest, [(number, float(to)) for number in numbers])
    facet, _, key = rest.partition(".")
    if rest not in FACET_PATHS:
        hint = did_you_mean(rest, [*SWITCHES, *FACET_PATHS])
        message = f"found {path}, which can't be changed while the level runs{hint}"
        raise LevelError(place, message)
    section, table = FACETS[facet], TABLE_OF[facet]
    column = COLUMN_OF.get(key, key)
    given = _checked(resolved.level, section, key, to, path, place)
    fault = too_often(resolved.level, given) if rest == "harm.every" and given is not None else None
    if fault is not None:
        raise LevelError(place, f"{path}: {fault}")
    value = section.number(key, given)
    if table not in cells.tables:
        raise LevelError(place, f"found {path}, but none of these pieces has a {facet}")
    value = cells.coded(table, column, value)
    places = [
        (cells.place(table, row, column), value)
        for row, owner in enumerate(cells.owners[table])
        if int(owner) in pieces
    ]
    if not places:
        raise LevelError(place, f"found {path}, but none of these pieces has a {facet}")
    return Change(None, places)


def split_path(motions: Motions, path: str, place: str) -> tuple[set[int], str]:
    """Return the pieces that a path begins with, by number, and the rest of it; names may have points in them."""
    resolved = motions.resolved
    ends = [number for number, sign in enumerate(path) if sign == "."]
    for end in reversed(ends):
        selected = set(resolved.answering(path[:end]))
        if selected:
            return selected, path[end + 1 :]
    name = path.split(".")[0]
    names = [*resolved.by_name, *resolved.level.kinds, PLAYER]
    raise LevelError(place, f"found {path}, but there is no piece '{name}'{did_you_mean(name, names)}")


def _of_player(level: Level, cells: Cells, path: str, rest: str, to: Any, place: str) -> Change:
    if rest not in BODY_PATHS:
        message = f"found {path}, which can't be changed while the level runs{did_you_mean(rest, BODY_PATHS)}"
        raise LevelError(place, message)
    section: Any = type(level.player)
    *groups, key = rest.split(".")
    for group in groups:
        section = section.model_fields[group].annotation
    given = _checked(level, section, key, to, path, place)
    value = math.inf if given is None else float(given)
    if rest == "jump.height":
        if level.world.is_weightless:
            raise LevelError(place, f"found {path} in a world without gravity, expected {PLAYER}.jump.speed")
        value = math.sqrt(2.0 * math.hypot(*level.world.gravity) * level.player.fall.rising_factor * value)
    return Change(None, [(cells.place("body", 0, BODY_PATHS[rest]), value)])


def _checked(level: Level, section: Any, key: str, to: Any, path: str, place: str) -> Any:
    """Return a value as the level file's own section would take it, its unit converted."""
    info = section.model_fields[key] if key in section.model_fields else section.part_of(key)
    kind: Any = Annotated[(info.annotation, *info.metadata)] if info.metadata else info.annotation
    try:
        return TypeAdapter(kind).validate_python(to, context=level.unit_table())
    except ValidationError as error:
        message = str(error.errors(include_url=False)[0]["msg"]).removeprefix("Value error, ")
        raise LevelError(place, f"{path}: {message}") from None
