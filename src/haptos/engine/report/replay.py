"""Where every piece that moves was during a run: by arithmetic, by the events that say when it began what, and, of what
flies, as it was recorded."""

from __future__ import annotations

import copy
import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.mover_plans import Motions
from haptos.engine.records import Records
from haptos.engine.records.codes import RUNS
from haptos.engine.records.events import BOARD, CRUMBLES, DROPS, GOES, RESTARTS, RETURNS, SAY, SETS, VANISHES
from haptos.engine.report.pickup_replay import add_pickups
from haptos.engine.report.run_records import Recorded
from haptos.geometry.closed_poses import Clock, Motion, carried, motions, moved_by, own_motion
from haptos.geometry.placement import Placement
from haptos.level.assemblies import NO_PARENT
from haptos.level.routes import RIDDEN

Floats = NDArray[np.float64]
# Shakes to and fro in a second, for the eye.
SHAKES_PER_SECOND = 12.0
STATES = {CRUMBLES: "shakes", DROPS: "falls", GOES: "gone", RETURNS: "", VANISHES: "gone"}
GONE, FLIES = "gone", "flies"
COLUMNS = ("tick", "piece", "x", "y", "angle", "vx", "vy", "spin", "state")


class Fall:
    """What became of one piece that gives way, or breaks: how far it has fallen, how fast, its state, how it shakes."""

    def __init__(self, run: Recorded, era: Era, index: int, t: Floats) -> None:
        world = run.level.world
        events = era.events
        piece = run.compiled.resolved.pieces[index]
        crumble = piece.facet("crumble")
        self.state = np.full(len(t), "" if piece.active else GONE, dtype=object)
        depth, speed, shake = np.zeros(len(t)), np.zeros(len(t)), np.zeros(len(t))
        for row in events[((events["piece"] == index) & (events["kind"] == CRUMBLES)) | (events["who"] == index)]:
            kind = int(row["kind"])
            if kind not in STATES:
                continue
            after = t >= row["t"]
            time = np.where(after, t - row["t"], 0.0)
            self.state[after] = STATES[kind]
            # What happened before counts no longer.
            depth[after] = speed[after] = shake[after] = 0.0
            if kind == CRUMBLES:
                shake[after] = crumble.shake * np.sin(2.0 * math.pi * SHAKES_PER_SECOND * time[after])
            elif kind == DROPS:
                accel = Motions(run.compiled.cast, run.compiled.places).fall_accel(crumble)
                rise = (crumble.fall_speed or math.inf) / accel if accel > 0.0 else 0.0
                quick = np.minimum(time, rise)
                fallen = 0.5 * accel * quick**2
                fallen[time > rise] += accel * rise * (time - rise)[time > rise]
                depth[after], speed[after] = fallen[after], accel * quick[after]
        # A piece that recovers says nothing: it no longer shakes once the player has left it.
        down, along = -np.array(world.up), np.array([world.up[1], -world.up[0]])
        self.offset, self.velocity = depth[:, None] * down, speed[:, None] * down
        self.shake = shake[:, None] * along

    def joined(self, parts: list[Fall]) -> Fall:
        """Return what became of a piece in one era after another, of which this is the first."""
        whole = copy.copy(self)
        for name in ("state", "offset", "velocity", "shake"):
            setattr(whole, name, np.concatenate([getattr(part, name) for part in parts]))
        return whole


def piece_motions(run: Recorded, first: int = 0, last: int | None = None) -> dict[str, Any]:
    """Return the columns of `Run.pieces` from one tick to before another, in the order of the ticks."""
    compiled = run.compiled
    resolved, origins = compiled.resolved, compiled.origins
    ticks = np.arange(len(run.track_records))[first:last]
    t = ticks / run.level.world.tick_rate
    poses, falls = _poses(run, ticks, t)
    indices = list(poses)
    columns: dict[str, list[Any]] = {name: [] for name in COLUMNS}
    for index in indices:
        motion = poses[index]
        place = origins[index] + motion.offset
        chain = [index, *resolved.carriers(index)]
        for carrier in chain:
            if carrier in falls:
                place = place + falls[carrier].shake
        columns["tick"].append(ticks)
        columns["piece"].append(np.full(len(ticks), resolved.pieces[index].name, dtype=object))
        columns["x"].append(place[:, 0])
        columns["y"].append(place[:, 1])
        columns["angle"].append(np.degrees(np.unwrap(motion.angle)))
        columns["vx"].append(motion.velocity[:, 0] + 0.0)
        columns["vy"].append(motion.velocity[:, 1] + 0.0)
        columns["spin"].append(np.degrees(motion.spin) + 0.0)
        columns["state"].append(_states(motion, falls, chain))
    _add_made(run, ticks, columns)
    add_pickups(run, ticks, columns)
    joined = {name: np.concatenate(parts) if parts else np.zeros(0) for name, parts in columns.items()}
    order = np.argsort(joined["tick"], kind="stable")
    joined = {name: column[order] for name, column in joined.items()}
    tick = joined.pop("tick").astype(np.int64)
    return {"tick": tick, "t": tick / run.level.world.tick_rate, **joined}


def placement_at(run: Recorded, t: float) -> tuple[Placement, dict[int, float]]:
    """Return the shapes of all pieces that are there at a moment of a run, and by how much each has turned, radians."""
    compiled = run.compiled
    tick = min(round(t * run.level.world.tick_rate), len(run.track_records) - 1)
    ticks = np.array([tick])
    poses, falls = _poses(run, ticks, ticks / run.level.world.tick_rate)
    placement, angles = compiled.placement, {}
    for index, motion in poses.items():
        chain = [index, *compiled.resolved.carriers(index)]
        offset = motion.offset[0] + sum((falls[one].shake[0] for one in chain if one in falls), np.zeros(2))
        angles[index] = float(motion.angle[0])
        placement = moved_by(placement, index, compiled.origins[index], offset, angles[index])
        if any(one in falls and falls[one].state[0] == GONE for one in chain):
            placement = placement.only(placement.piece != index)
    return placement, angles


class Era(NamedTuple):
    """The time from one beginning of the level to the next: its first tick, and its events, with times since then."""

    first: int
    events: Records


def _eras(run: Recorded) -> list[Era]:
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


def _poses(run: Recorded, ticks: NDArray[np.int64], t: Floats) -> tuple[dict[int, Motion], dict[int, Fall]]:
    """Return the motion of every piece of the level that moves, and what became of those that give way or break."""
    eras = _eras(run)
    if len(eras) == 1:
        return _poses_in(run, eras[0], ticks, t)
    which = np.searchsorted([era.first for era in eras[1:]], ticks, side="left")
    parts = [
        _poses_in(run, era, ticks[which == number], t[which == number] - era.first / run.level.world.tick_rate)
        for number, era in enumerate(eras)
    ]
    moved = {
        index: Motion(*(np.concatenate(column) for column in zip(*(part[0][index] for part in parts), strict=True)))
        for index in parts[0][0]
    }
    return moved, {index: fall.joined([part[1][index] for part in parts]) for index, fall in parts[0][1].items()}


def _poses_in(
    run: Recorded, era: Era, ticks: NDArray[np.int64], t: Floats
) -> tuple[dict[int, Motion], dict[int, Fall]]:
    """Return the same for ticks of one era, at times since it began."""
    compiled, rows = run.compiled, run.track_records[ticks]
    resolved = compiled.resolved
    still = np.zeros(len(t))
    player = np.column_stack((rows["x"], rows["y"])) - np.array(run.level.player.at)
    hung_on = Motion(player, np.column_stack((rows["vx"], rows["vy"])), still, still)
    clocks = {index: _clock(run, index, t, era) for index in range(len(resolved.pieces))}
    known = {index: clock for index, clock in clocks.items() if clock is not None}
    falls = {
        index: Fall(run, era, index, t)
        for index, piece in enumerate(resolved.pieces)
        if index in resolved.switched or any(name in piece.facets for name in ("crumble", "drift", "fragile"))
    }
    fallen = {index: (fall.offset, fall.velocity) for index, fall in falls.items()}
    flights = {index: _flight(run, index, ticks) for index in falls if "drift" in resolved.pieces[index].facets}
    return motions(resolved, compiled.origins, t, known, fallen, hung_on, flights), falls


def _flight(run: Recorded, index: int, ticks: NDArray[np.int64]) -> Motion:
    """Return the motion of a piece that drifts, as it was recorded; once it is gone, the last that it was."""
    compiled = run.compiled
    movers = compiled.tables.movers
    assert movers is not None
    number = int(np.flatnonzero(movers.movers["piece"] == index)[0])
    rows = run.flight_records[run.flight_records["mover"] == number]
    drift = compiled.resolved.pieces[index].facet("drift")
    found = np.searchsorted(rows["tick"], ticks, side="right") - 1
    begun = found >= 0
    chosen = rows[np.maximum(found, 0)] if len(rows) else np.zeros(len(ticks), dtype=rows.dtype)
    x0, y0 = compiled.origins[index]
    offset = np.column_stack((chosen["x"] - x0, chosen["y"] - y0)) * begun[:, None]
    velocity = np.where(begun[:, None], np.column_stack((chosen["vx"], chosen["vy"])), np.array(drift.velocity))
    return Motion(offset, velocity, chosen["angle"] * begun, np.where(begun, chosen["spin"], np.radians(drift.spin)))


def _add_made(run: Recorded, ticks: NDArray[np.int64], columns: dict[str, list[Any]]) -> None:
    """Add the rows of what was made while the run went on, with what that holds."""
    movers = run.compiled.tables.movers
    if movers is None or not len(run.flight_records) or not len(ticks):
        return
    rows = run.flight_records
    pieces = movers.movers["piece"][rows["mover"]]
    wanted = (rows["tick"] >= ticks[0]) & (rows["tick"] <= ticks[-1]) & (pieces >= len(run.compiled.resolved.pieces))
    rows, pieces = rows[wanted], pieces[wanted]
    for slot in np.unique(pieces):
        _add_slot(run, int(slot), rows[pieces == slot], columns)


def _add_slot(run: Recorded, slot: int, rows: Records, columns: dict[str, list[Any]]) -> None:
    """Add the rows of one piece that was made, and of its children, which go with it and grow with its scale."""
    resolved, places = run.compiled.cast.resolved, run.compiled.places
    flight = Motion(
        np.column_stack((rows["x"], rows["y"])) - places[slot], np.column_stack((rows["vx"], rows["vy"])),
        rows["angle"], rows["spin"],
    )  # fmt: skip
    if resolved.parents[slot] != NO_PARENT:
        # By how much its carrier has turned is known up to whole turns.
        flight = flight._replace(angle=np.unwrap(flight.angle))
    found = {slot: flight}
    for child in resolved.descendants(slot):
        parent = resolved.parents[child]
        rest = places[child] - places[parent]
        arm = rows["scale"][:, None] * rest
        own = own_motion(resolved.pieces[child], rows["tick"] / run.level.world.tick_rate)
        moved = carried(found[parent], own, arm)
        found[child] = moved._replace(offset=moved.offset + arm - rest)
    for index, motion in found.items():
        names = [run.names.at_tick(index, int(tick)) for tick in rows["tick"]]
        columns["tick"].append(rows["tick"])
        columns["piece"].append(np.array(names, dtype=object))
        columns["x"].append(places[index][0] + motion.offset[:, 0])
        columns["y"].append(places[index][1] + motion.offset[:, 1])
        columns["angle"].append(np.degrees(motion.angle))
        columns["vx"].append(motion.velocity[:, 0])
        columns["vy"].append(motion.velocity[:, 1])
        columns["spin"].append(np.degrees(motion.spin))
        columns["state"].append(np.full(len(rows), FLIES, dtype=object))


def _clock(run: Recorded, index: int, t: Floats, era: Era) -> Clock | None:
    """Return the clock of a piece's route at times since an era began; None if it has just gone on since then."""
    resolved = run.compiled.resolved
    route = resolved.pieces[index].facet("route")
    if route is None:
        return None
    turns = _switches(run, index, era)
    if route.waits_for is None and not turns:
        return None
    if route.waits_for is not None:
        turns = sorted([*turns, (_begun(run, index, route.waits_for, era), True)])
    was_on = route.waits_for is None
    runs = np.full(len(t), was_on)
    time = np.where(runs, t, 0.0)
    for since, is_on in turns:
        if is_on == was_on or since == math.inf:
            continue
        was_on = is_on
        after = t >= since
        runs[after] = is_on
        time[after] += (t[after] - since) if is_on else (since - t[after])
    return Clock(time, runs)


def _switches(run: Recorded, index: int, era: Era) -> list[tuple[float, bool]]:
    """Return when rules stopped a route and let it go on, in time since an era began."""
    tables = run.compiled.tables
    if tables.rules is None or tables.movers is None:
        return []
    mover = np.flatnonzero(tables.movers.movers["piece"] == index)
    found: list[tuple[float, bool]] = []
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
            if rule.name == waits_for:
                return float(events["t"][said].min()) if said.any() else math.inf
            first = last
    return math.inf


def _states(motion: Motion, falls: dict[int, Fall], chain: list[int]) -> NDArray[Any]:
    moves = (motion.velocity != 0.0).any(axis=1) | (motion.spin != 0.0)
    states = np.where(moves, "moves", "rests").astype(object)
    for index in reversed(chain):
        if index in falls:
            own = falls[index].state
            states = np.where((own == GONE) | ((own != "") & (index == chain[0])), own, states)
    return states
