"""What every mover was at during a run, told from the events, from the body's track, and from where what flew was."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.records import Records
from haptos.engine.records.codes import FALLS, GONE, RUNS, SHAKES, WHOLE
from haptos.engine.records.events import BOARD, CRUMBLES, DROPS, GOES, LOST, RESTARTS, RETURNS, SAY, SETS, VANISHES
from haptos.engine.records.motion_records import CHANGE
from haptos.engine.report.piece_poses import PoseTables
from haptos.engine.report.run_records import Recorded
from haptos.level.routes import RIDDEN

Floats = NDArray[np.float64]
PHASES = {CRUMBLES: SHAKES, DROPS: FALLS, GOES: GONE, RETURNS: WHOLE, VANISHES: GONE, LOST: GONE}
# The fields of a change that are those of a pose.
FIELDS = tuple(name for name in CHANGE.names or () if name not in ("moment", "mover"))


class Era(NamedTuple):
    """The time from one beginning of the level to the next: its first tick, and its events, with times since then."""

    first: int
    events: Records


def eras_of(run: Recorded) -> list[Era]:
    """Return the eras of a run; there is but one unless the level began again."""
    events = run.event_records
    firsts = [0, *(int(row["tick"]) for row in events[events["kind"] == RESTARTS])]
    number = np.cumsum(events["kind"] == RESTARTS)
    found = []
    for index, first in enumerate(firsts):
        own = events[number == index].copy()
        own["t"] -= first / run.level.world.tick_rate
        found.append(Era(first, own))
    return found


def phase_events(era: Era, index: int) -> Records:
    """Return the events of an era by which a piece gave way, broke, or was there again."""
    events = era.events
    own = events[((events["piece"] == index) & (events["kind"] == CRUMBLES)) | (events["who"] == index)]
    return own[np.isin(own["kind"], tuple(PHASES))]


def changes_in(run: Recorded, era: Era, ticks: NDArray[np.int64], times: Floats, tables: PoseTables) -> Records:
    """Return what movers are at from which of some times on.

    Parameters
    ----------
    run : Recorded
    era : Era
    ticks, times : (n,)
        Of this era; the times since it began.
    tables : PoseTables
    """
    parts = [np.zeros(0, dtype=CHANGE)]
    pieces = run.compiled.resolved.pieces
    for number, piece in enumerate(tables.movers.movers["piece"].tolist()):
        if piece < 0:
            parts.append(_with_player(run, number, ticks, times, tables))
        elif piece < len(pieces):
            if pieces[piece].flies:
                rows = rows_of(run, piece)
                found = np.searchsorted(rows["tick"], ticks, side="right") - 1
                begun = np.flatnonzero(found >= 0)
                parts.append(flown(tables, number, rows[found[begun]], begun, times[begun]))
            else:
                parts.append(_by_events(run, era, number, times, tables))
    return np.concatenate(parts)


def flies_alone(tables: PoseTables, pieces: list[int]) -> Records:
    """Return the movers as if nothing but its flight moved what flies: it was recorded where it was in the world."""
    movers = tables.movers.movers.copy()
    own = np.isin(movers["piece"], pieces)
    movers["parent"][own], movers["crumble"][own], movers["legs"][own], movers["spin"][own] = -1, -1, 0, 0.0
    return movers


def rows_of(run: Recorded, piece: int) -> Records:
    """Return where a piece that flies was recorded to be."""
    movers = run.compiled.tables.movers
    assert movers is not None
    number = int(np.flatnonzero(movers.movers["piece"] == piece)[0])
    return run.flight_records[run.flight_records["mover"] == number]


def flown(tables: PoseTables, number: int, rows: Records, moments: NDArray[np.int64], times: Floats) -> Records:
    """Return a mover as it was recorded: one row for each of some moments, at these times."""
    changes = _as_at_rest(tables, number, len(rows))
    mover = tables.movers.movers[number]
    changes["moment"], changes["from_t"], changes["scale"] = moments, times, rows["scale"]
    changes["from_x"], changes["from_y"] = rows["x"] - mover["x"], rows["y"] - mover["y"]
    changes["from_angle"], changes["fly_spin"] = rows["angle"], rows["spin"]
    changes["fly_vx"], changes["fly_vy"] = rows["vx"], rows["vy"]
    return changes


def _as_at_rest(tables: PoseTables, number: int, count: int) -> Records:
    """Return changes that change nothing yet."""
    changes = np.zeros(count, dtype=CHANGE)
    changes["mover"] = number
    for name in FIELDS:
        changes[name] = tables.resting[name][number]
    return changes


def _with_player(
    run: Recorded, number: int, ticks: NDArray[np.int64], times: Floats, tables: PoseTables
) -> Records:  # fmt: skip
    """Return the player at every one of some ticks, for what hangs on it."""
    rows, changes = run.track_records[ticks], _as_at_rest(tables, number, len(ticks))
    x, y = run.level.player.at
    changes["moment"], changes["from_t"] = np.arange(len(ticks)), times
    changes["from_x"], changes["from_y"] = rows["x"] - x, rows["y"] - y
    changes["fly_vx"], changes["fly_vy"] = rows["vx"], rows["vy"]
    return changes


def _by_events(run: Recorded, era: Era, number: int, times: Floats, tables: PoseTables) -> Records:
    """Return what a mover was at: how far the clock of its route had run, and whether it was giving way."""
    piece = int(tables.movers.movers["piece"][number])
    happened: list[tuple[float, int, bool]] = [(since, -1, is_on) for since, is_on in _switches(run, piece, era)]
    happened += [(float(row["t"]), PHASES[int(row["kind"])], False) for row in phase_events(era, piece)]
    changes = _as_at_rest(tables, number, len(happened))
    row = _as_at_rest(tables, number, 1)[0]
    for place, (since, phase, is_on) in enumerate(sorted(happened, key=lambda one: one[0])):
        if phase >= 0:
            row["phase"], row["since"] = phase, since
        elif is_on and row["clock"] == math.inf:
            row["clock"] = since
        elif not is_on and row["clock"] < math.inf:
            row["ran"] += since - row["clock"]
            row["clock"] = math.inf
        row["moment"] = np.searchsorted(times, since, side="left")
        changes[place] = row
    return changes


def _switches(run: Recorded, index: int, era: Era) -> list[tuple[float, bool]]:
    """Return when a route began that waits, when rules stopped it and let it go on, in time since an era began."""
    route = run.compiled.resolved.pieces[index].facet("route")
    if route is None:
        return []
    found: list[tuple[float, bool]] = []
    if route.waits_for is not None:
        begun = _begun(run, index, route.waits_for, era)
        found += [(begun, True)] if begun < math.inf else []
    tables = run.compiled.tables
    if tables.rules is None or tables.movers is None:
        return found
    mover = np.flatnonzero(tables.movers.movers["piece"] == index)
    for row in era.events[era.events["kind"] == SETS]:
        action = tables.rules.actions[int(row["more"])]
        if action["verb"] == RUNS:
            changes = tables.rules.changes[action["first_target"] : action["first_target"] + action["targets"]]
            found += [(float(row["t"]), bool(one["value"])) for one in changes if one["place"] in mover]
    return found


def _begun(run: Recorded, index: int, waits_for: str, era: Era) -> float:
    """Return when a route that waited began, in time since an era began; infinite if it did not."""
    resolved, events = run.compiled.resolved, era.events
    if waits_for == RIDDEN:
        led = [index, *resolved.descendants(index)]
        times = events["t"][(events["kind"] == BOARD) & np.isin(events["piece"], led)]
        return float(times.min()) if len(times) else math.inf
    first = 0
    for _, rule in resolved.rules:
        if run.compiled.cast.resolved.heeds(rule):
            last = first + len(rule.do)
            said = np.isin(events["kind"], (SAY, SETS)) & (events["more"] >= first) & (events["more"] < last)
            if rule.is_called(waits_for):
                return float(events["t"][said].min()) if said.any() else math.inf
            first = last
    return math.inf
