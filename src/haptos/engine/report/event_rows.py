"""Events as rows with names and words."""

from __future__ import annotations

from typing import Any, NamedTuple

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.records.events import END, EVENT_NAMES, LAND, SAY, SETS, TOO_LATE
from haptos.engine.report.event_text import CUSHIONED, detail_of


class Event(NamedTuple):
    """One thing that happened; `amount` is its main number, `detail` the rest in words, `cue` the number of the cue."""

    tick: int
    t: float
    event: str
    who: str
    piece: str
    x: float
    y: float
    amount: float
    detail: str
    cue: int


def event_row(
    compiled: CompiledLevel, row: Any, names: tuple[str, str], cue: int = 0, remarks: tuple[str, ...] = ()
) -> Event:
    """Return an event as a row.

    Parameters
    ----------
    compiled : CompiledLevel
    row : EVENT record
    names : (who, piece)
    cue : int
        The number of the cue in which it fell, from 1; 0 for none.
    remarks : tuple of str
        What events say that are no kernel's.
    """
    return Event(
        int(row["tick"]), float(row["t"]), EVENT_NAMES[int(row["kind"])], *names, float(row["x"]), float(row["y"]),
        float(row["amount"]), _detail(compiled, row, names, remarks), cue,
    )  # fmt: skip


def _detail(compiled: CompiledLevel, row: Any, names: tuple[str, str], remarks: tuple[str, ...]) -> str:
    kind, more, world = int(row["kind"]), float(row["more"]), compiled.level.world
    if kind in (TOO_LATE, END):
        return remarks[int(more)]
    if kind in (SAY, SETS):
        return compiled.sayings[int(more)]
    detail = detail_of(kind, *names, float(row["amount"]), more, world.length_unit, world.lost_below)
    if kind == LAND and compiled.is_cushioned(int(row["piece"])):
        detail += CUSHIONED
    return detail
