"""Where every piece that moves was during a run, and what it was at."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.records import Records
from haptos.engine.records.events import CRUMBLES, DROPS, GOES, LOST, RETURNS, VANISHES
from haptos.engine.report.pickup_replay import add_pickups, pickups_met
from haptos.engine.report.piece_changes import (
    Era,
    changes_in,
    eras_of,
    flies_alone,
    flown,
    phase_events,
    rows_of,
)
from haptos.engine.report.piece_poses import Motion, pose_tables_of
from haptos.engine.report.run_records import Recorded
from haptos.geometry.placement import Placement

Floats = NDArray[np.float64]
# Shakes to and fro in a second, for the eye.
SHAKES_PER_SECOND = 12.0
STATES = {CRUMBLES: "shakes", DROPS: "falls", GOES: "gone", RETURNS: "", VANISHES: "gone", LOST: "gone"}
GONE, FLIES = "gone", "flies"
COLUMNS = ("tick", "piece", "x", "y", "angle", "vx", "vy", "spin", "state")


class Fate(NamedTuple):
    """What became of a piece that gives way, or breaks, at n times: its state, and by how much it shakes for the eye.

    Attributes
    ----------
    state : (n,) of str
    shake : (n, 2)
    """

    state: NDArray[Any]
    shake: Floats


def piece_motions(run: Recorded, first: int = 0, last: int | None = None) -> dict[str, Any]:
    """Return the columns of `Run.pieces` from one tick to before another, in the order of the ticks."""
    compiled = run.compiled
    resolved, origins = compiled.resolved, compiled.origins
    ticks = np.arange(len(run.track_records))[first:last]
    motions, fates = _motions(run, ticks)
    columns: dict[str, list[Any]] = {name: [] for name in COLUMNS}
    met = pickups_met(run)
    for index, motion in motions.items():
        if index in met:
            continue
        place = origins[index] + motion.offset
        chain = [index, *resolved.carriers(index)]
        for carrier in chain:
            if carrier in fates:
                place = place + fates[carrier].shake
        _add(columns, ticks, np.full(len(ticks), resolved.pieces[index].name, dtype=object), place, motion)
        columns["state"].append(_states(motion, fates, chain))
    _add_made(run, ticks, columns)
    add_pickups(run, ticks, columns, lambda index: place_unmet(run, index))
    joined = {name: np.concatenate(parts) if parts else np.zeros(0) for name, parts in columns.items()}
    _add_torques(run, joined)
    order = np.argsort(joined["tick"], kind="stable")
    joined = {name: column[order] for name, column in joined.items()}
    tick = joined.pop("tick").astype(np.int64)
    return {"tick": tick, "t": tick / run.level.world.tick_rate, **joined}


def _add_torques(run: Recorded, columns: dict[str, Any]) -> None:
    """Add the torque that the motor of a hinge gives, where a level has any hinges."""
    loose = run.compiled.tables.loose
    if loose is None or not len(loose.hinges):
        return
    torque = np.zeros(len(columns["tick"]))
    for index in loose.hinges["piece"].tolist():
        if index >= len(run.compiled.resolved.pieces):
            continue
        rows = rows_of(run, index)
        own = np.flatnonzero(columns["piece"] == run.compiled.resolved.pieces[index].name)
        found = np.searchsorted(rows["tick"], columns["tick"][own].astype(np.int64), side="right") - 1
        known = found >= 0
        torque[own[known]] = rows["torque"][found[known]]
    columns["torque"] = torque


def place_unmet(run: Recorded, index: int) -> Floats:
    """Return where a piece is after every tick of a run, as long as nobody takes it.

    Parameters
    ----------
    run : Run
    index : int
        The number of the piece, one of the level's own.

    Returns
    -------
    (ticks + 1, 2) ndarray
    """
    ticks = np.arange(len(run.track_records))
    rest = np.tile(run.compiled.origins[index], (len(ticks), 1))
    if index in run.compiled.resolved.moving:
        rest = rest + _motions(run, ticks)[0][index].offset
    return rest


def placement_at(run: Recorded, t: float) -> tuple[Placement, dict[int, float]]:
    """Return the shapes of all pieces that are there at a moment of a run, and by how much each has turned, radians."""
    compiled = run.compiled
    tick = min(round(t * run.level.world.tick_rate), len(run.track_records) - 1)
    motions, fates = _motions(run, np.array([tick]))
    placement, angles = compiled.placement, {}
    for index, motion in motions.items():
        chain = [index, *compiled.resolved.carriers(index)]
        offset = motion.offset[0] + sum((fates[one].shake[0] for one in chain if one in fates), np.zeros(2))
        angles[index] = float(motion.angle[0])
        placement = placement.carried(index, compiled.origins[index], offset, angles[index])
        if any(one in fates and fates[one].state[0] == GONE for one in chain):
            placement = placement.only(placement.piece != index)
    return placement, angles


def _motions(run: Recorded, ticks: NDArray[np.int64]) -> tuple[dict[int, Motion], dict[int, Fate]]:
    """Return the motion of every piece of the level that moves, and what became of those that give way or break."""
    eras = eras_of(run)
    which = np.searchsorted([era.first for era in eras[1:]], ticks, side="left")
    parts = [_motions_in(run, era, ticks[which == number]) for number, era in enumerate(eras)]
    if len(parts) == 1:
        return parts[0]
    motions = {
        index: Motion(*(np.concatenate(column) for column in zip(*(part[0][index] for part in parts), strict=True)))
        for index in parts[0][0]
    }
    fates = {
        index: Fate(*(np.concatenate(column) for column in zip(*(part[1][index] for part in parts), strict=True)))
        for index in parts[0][1]
    }
    return motions, fates


def _motions_in(run: Recorded, era: Era, ticks: NDArray[np.int64]) -> tuple[dict[int, Motion], dict[int, Fate]]:
    """Return the same for ticks of one era."""
    resolved, tables = run.compiled.resolved, pose_tables_of(run.level)
    times = (ticks - era.first) / run.level.world.tick_rate
    drifting = [index for index, piece in enumerate(resolved.pieces) if piece.flies]
    movers = tables.movers._replace(movers=flies_alone(tables, drifting))
    changes = changes_in(run, era, ticks, times, tables)
    motions = tables.motions(range(len(resolved.pieces)), times, changes, movers)
    fates = {
        index: _fate(run, era, index, times)
        for index, piece in enumerate(resolved.pieces)
        if index in resolved.switched or any(name in piece.facets for name in ("crumble", "drift", "body", "fragile"))
    }
    return motions, fates


def _fate(run: Recorded, era: Era, index: int, times: Floats) -> Fate:
    """Return what became of a piece in an era; what recovers says nothing, and shakes no longer once it is left."""
    piece, world = run.compiled.resolved.pieces[index], run.level.world
    state = np.full(len(times), "" if piece.active else GONE, dtype=object)
    shake = np.zeros(len(times))
    for row in phase_events(era, index):
        after = times >= row["t"]
        state[after], shake[after] = STATES[int(row["kind"])], 0.0
        if row["kind"] == CRUMBLES:
            turns = SHAKES_PER_SECOND * (times[after] - row["t"])
            shake[after] = piece.facet("crumble").shake * np.sin(2.0 * math.pi * turns)
    return Fate(state, shake[:, None] * np.array([world.up[1], -world.up[0]]))


def _add(columns: dict[str, list[Any]], ticks: Any, names: NDArray[Any], place: Floats, motion: Motion) -> None:
    """Add the rows of one piece to columns, but for its states."""
    columns["tick"].append(ticks)
    columns["piece"].append(names)
    columns["x"].append(place[:, 0])
    columns["y"].append(place[:, 1])
    columns["angle"].append(np.degrees(np.unwrap(motion.angle)))
    columns["vx"].append(motion.velocity[:, 0])
    columns["vy"].append(motion.velocity[:, 1])
    columns["spin"].append(np.degrees(motion.spin))


def _add_made(run: Recorded, ticks: NDArray[np.int64], columns: dict[str, list[Any]]) -> None:
    """Add the rows of what was made while the run went on, with what that holds."""
    movers = run.compiled.tables.movers
    if movers is None or not len(run.flight_records) or not len(ticks):
        return
    rows = run.flight_records
    pieces = movers.movers["piece"][rows["mover"]]
    wanted = (rows["tick"] >= ticks[0]) & (rows["tick"] <= ticks[-1]) & (pieces >= len(run.compiled.resolved.pieces))
    rows, pieces = rows[wanted], pieces[wanted]
    for slot in np.unique(pieces).tolist():
        _add_slot(run, slot, rows[pieces == slot], columns)


def _add_slot(run: Recorded, slot: int, rows: Records, columns: dict[str, list[Any]]) -> None:
    """Add the rows of one piece that was made, and of its children, which go with it and grow with its scale."""
    resolved, tables = run.compiled.cast.resolved, pose_tables_of(run.level)
    begun = np.array([era.first for era in eras_of(run)])
    times = (rows["tick"] - begun[np.searchsorted(begun, rows["tick"], side="right") - 1]) / run.level.world.tick_rate
    changes = flown(tables, int(tables.numbers[slot]), rows, np.arange(len(rows)), times)
    movers = tables.movers._replace(movers=flies_alone(tables, [slot]))
    for index, motion in tables.motions([slot, *resolved.descendants(slot)], times, changes, movers).items():
        names = [run.names.at_tick(index, int(tick)) for tick in rows["tick"]]
        place = run.compiled.places[index] + motion.offset
        _add(columns, rows["tick"], np.array(names, dtype=object), place, motion)
        columns["state"].append(np.full(len(rows), FLIES, dtype=object))


def _states(motion: Motion, fates: dict[int, Fate], chain: list[int]) -> NDArray[Any]:
    moves = (motion.velocity != 0.0).any(axis=1) | (motion.spin != 0.0)
    states = np.where(moves, "moves", "rests").astype(object)
    for index in reversed(chain):
        if index in fates:
            own = fates[index].state
            states = np.where((own == GONE) | ((own != "") & (index == chain[0])), own, states)
    return states
