"""Where pickups were that came and were taken in a run: worked out anew from the events and the body's track."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.records.events import ATTRACTS, COLLECTS, RELEASES, RESTARTS
from haptos.engine.report.run_records import Recorded

Floats = NDArray[np.float64]
RESTS, MOVES, COMES, GONE = "rests", "moves", "comes", "gone"


def pickups_met(run: Recorded) -> list[int]:
    """Return the numbers of the pickups of the level that came or were taken in a run."""
    if run.compiled.tables.stakes is None:
        return []
    events = run.event_records
    met = np.unique(events["piece"][np.isin(events["kind"], (ATTRACTS, COLLECTS))]).tolist()
    return [piece for piece in met if piece < len(run.compiled.resolved.pieces)]


def add_pickups(
    run: Recorded, ticks: NDArray[np.int64], columns: dict[str, list[Any]], rest_of: Callable[[int], Floats]
) -> None:
    """Add the rows of every pickup that came or was taken to the columns of `Run.pieces`, for some ticks.

    Parameters
    ----------
    run : Recorded
    ticks : (n,)
    columns : dict
    rest_of : callable
        Where a pickup is in every tick of the run as long as nobody meets it.
    """
    pieces = run.compiled.resolved.pieces
    for piece in pickups_met(run) if len(ticks) else []:
        place, state = _way(run, piece, rest_of(piece))
        velocity = np.gradient(place, axis=0) * run.level.world.tick_rate if len(place) > 1 else 0.0 * place
        velocity[state == GONE] = 0.0
        columns["tick"].append(ticks)
        columns["piece"].append(np.full(len(ticks), pieces[piece].name, dtype=object))
        for name, values in (("x", place[:, 0]), ("y", place[:, 1]), ("vx", velocity[:, 0]), ("vy", velocity[:, 1])):
            columns[name].append(values[ticks])
        for name in ("angle", "spin"):
            columns[name].append(np.zeros(len(ticks)))
        columns["state"].append(state[ticks])


def _way(run: Recorded, piece: int, rest: Floats) -> tuple[Floats, NDArray[Any]]:
    """Return where a pickup was at the end of each tick, and what it was at."""
    rows, events, dt = run.track_records, run.event_records, 1.0 / run.level.world.tick_rate
    body = np.column_stack((rows["x"], rows["y"]))
    place, state = rest.copy(), np.full(len(rows), RESTS, dtype=object)
    state[np.any(rest[1:] != rest[:-1], axis=1).nonzero()[0] + 1] = MOVES
    wanted = ((events["piece"] == piece) & np.isin(events["kind"], (ATTRACTS, COLLECTS, RELEASES))) | (
        events["kind"] == RESTARTS
    )
    for event in events[wanted]:
        # Rows from the end of the event's tick on.
        first = min(int(event["tick"]), len(rows) - 1)
        if event["kind"] == RESTARTS:
            place[first:], state[first:] = rest[first:], RESTS
        elif event["kind"] == ATTRACTS:
            state[first:] = COMES
            place[first:] = _come(run, piece, body, first, float(event["t"]), dt, np.array([event["x"], event["y"]]))
        else:
            place[first:] = event["x"], event["y"]
            state[first:] = GONE if event["kind"] == COLLECTS else RESTS
    return place, state


def _come(run: Recorded, piece: int, body: Floats, first: int, t: float, dt: float, here: Floats) -> Floats:
    """Return the places of a pickup that comes from a time on, which is in the tick that ends with a row."""
    pickup = run.compiled.resolved.pieces[piece].facet("pickup")
    before = max(first - 1, 0)
    share = min(max((t - before * dt) / dt, 0.0), 1.0) if first > 0 else 1.0
    start, left = body[before] + share * (body[first] - body[before]), (1.0 - share) * dt
    places = np.zeros((len(body) - first, 2))
    for number in range(first, len(body)):
        target = body[number]
        if left > 0.0 and pickup.motion == "ease":
            lag = (target - start) / (left * pickup.rate)
            here = target - lag + (here - start + lag) * math.exp(-pickup.rate * left)
        elif left > 0.0:
            way = float(np.hypot(*(target - here)))
            here = here + min(pickup.speed * left / way, 1.0) * (target - here) if way > 0.0 else here
        places[number - first] = here
        start, left = target, dt
    return places
