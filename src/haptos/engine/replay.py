"""Where every piece that moves was during a run: by arithmetic, and by the events that say when it began what."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.journal import BOARD, CRUMBLES, DROPS, GOES, RETURNS, SAY
from haptos.engine.movers import Motions
from haptos.geometry.poses import Motion, motions
from haptos.level.resolve import ResolvedPiece
from haptos.level.routes import RIDDEN

if TYPE_CHECKING:
    from haptos.engine.run import Run

Floats = NDArray[np.float64]
# Shakes to and fro in a second, for the eye.
SHAKES_PER_SECOND = 12.0
STATES = {CRUMBLES: "shakes", DROPS: "falls", GOES: "gone", RETURNS: ""}


def piece_motions(run: Run) -> dict[str, list[Any] | Floats]:
    """Return the columns of `Run.pieces`: a row a tick and piece that moves, in the order of the ticks."""
    compiled, rows = run.compiled, run.track_records
    resolved, origins = compiled.resolved, compiled.origins
    tick = np.arange(len(rows))
    t = tick / run.level.world.tick_rate
    player = np.column_stack((rows["x"], rows["y"])) - np.array(run.level.player.at)
    still = np.zeros(len(rows))
    hung_on = Motion(player, np.column_stack((rows["vx"], rows["vy"])), still, still)
    clocks = {index: _begun(run, index) for index in range(len(resolved.pieces))}
    falls = {index: _fall(run, index, t) for index, piece in enumerate(resolved.pieces) if "crumble" in piece.facets}
    found = motions(resolved, origins, t, clocks, {index: fall[:2] for index, fall in falls.items()}, hung_on)
    indices = list(found)
    states = np.array([_states(found[index], falls, [index, *resolved.carriers(index)]) for index in indices])
    place = np.array([origins[index] + found[index].offset for index in indices]).reshape(len(indices), -1, 2)
    for number, index in enumerate(indices):
        for carrier in (index, *resolved.carriers(index)):
            if carrier in falls:
                place[number] += falls[carrier][3]
    velocity = np.array([found[index].velocity for index in indices]).reshape(len(indices), -1, 2)
    angle = np.degrees(np.unwrap(np.array([found[index].angle for index in indices]).reshape(len(indices), -1)))
    spin = np.degrees(np.array([found[index].spin for index in indices]).reshape(len(indices), -1))
    names = np.array([resolved.pieces[index].name for index in indices], dtype=object)
    return {
        "tick": np.repeat(tick, len(indices)),
        "t": np.repeat(t, len(indices)),
        "piece": np.tile(names, len(rows)),
        "x": place[..., 0].T.ravel(),
        "y": place[..., 1].T.ravel(),
        "angle": angle.T.ravel(),
        "vx": velocity[..., 0].T.ravel() + 0.0,
        "vy": velocity[..., 1].T.ravel() + 0.0,
        "spin": spin.T.ravel() + 0.0,
        "state": states.T.ravel(),
    }


def _begun(run: Run, index: int) -> float:
    """Return when the clock of a piece's route began; infinite if it has not."""
    resolved = run.compiled.resolved
    route = resolved.pieces[index].facet("route")
    if route is None or route.waits_for is None:
        return 0.0
    events = run.event_records
    if route.waits_for == RIDDEN:
        led = [index, *resolved.descendants(index)]
        times = events["t"][(events["kind"] == BOARD) & np.isin(events["piece"], led)]
    else:
        first = 0
        times = np.zeros(0)
        for _, rule in resolved.rules:
            if not resolved.means_player(rule.who):
                continue
            said = (events["kind"] == SAY) & (events["more"] >= first) & (events["more"] < first + len(rule.do))
            if rule.name == route.waits_for:
                times = events["t"][said]
                break
            first += len(rule.do)
    return float(times.min()) if len(times) else math.inf


def _fall(run: Run, index: int, t: Floats) -> tuple[Floats, Floats, NDArray[Any], Floats]:
    """Return how far a piece that gives way has fallen, how fast it falls, its state, and how it shakes."""
    world = run.level.world
    piece: ResolvedPiece = run.compiled.resolved.pieces[index]
    crumble = piece.facet("crumble")
    accel = Motions(run.compiled.resolved, run.compiled.origins).fall_accel(crumble)
    top_speed = crumble.fall_speed or math.inf
    down = -np.array(world.up)
    depth, speed, shake = np.zeros(len(t)), np.zeros(len(t)), np.zeros(len(t))
    state = np.full(len(t), "", dtype=object)
    for row in run.event_records[run.event_records["piece"] == index]:
        kind = int(row["kind"])
        if kind not in STATES:
            continue
        after = t >= row["t"]
        state[after] = STATES[kind]
        time = np.where(after, t - row["t"], 0.0)
        if kind == CRUMBLES:
            shake = np.where(after, crumble.shake * np.sin(2.0 * math.pi * SHAKES_PER_SECOND * time), shake)
        elif kind == DROPS:
            shake = np.where(after, 0.0, shake)
            rise = top_speed / accel if accel > 0.0 else 0.0
            quick = np.minimum(time, rise)
            fallen = 0.5 * accel * quick**2 + np.where(time > rise, top_speed * (time - rise), 0.0)
            depth, speed = np.where(after, fallen, depth), np.where(after, accel * quick, speed)
        else:
            depth, speed = np.where(after, 0.0, depth), np.where(after, 0.0, speed)
    # A piece that recovers says nothing: it no longer shakes once the player has left it.
    along = np.array([world.up[1], -world.up[0]])
    return depth[:, None] * down, speed[:, None] * down, state, shake[:, None] * along


def _states(motion: Motion, falls: dict[int, Any], chain: list[int]) -> NDArray[Any]:
    moves = (motion.velocity != 0.0).any(axis=1) | (motion.spin != 0.0)
    states = np.where(moves, "moves", "rests").astype(object)
    for index in reversed(chain):
        if index in falls:
            own = falls[index][2]
            states = np.where((own == "gone") | ((own != "") & (index == chain[0])), own, states)
    return states
