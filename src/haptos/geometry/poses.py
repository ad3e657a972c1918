"""Where a piece on a route is at given times, by arithmetic: no step before matters."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from haptos.geometry.placement import Placement
from haptos.level.resolve import ResolvedLevel
from haptos.level.routes import Route, legs_of, period_of

Floats = NDArray[np.float64]


def route_motion(route: Route, times: ArrayLike) -> tuple[Floats, Floats]:
    """Return where a route is, relative to the piece's `at`, and how fast it goes.

    Parameters
    ----------
    route : Route
    times : (n,) array_like
        Seconds since the start of the run.

    Returns
    -------
    offsets, velocities : (n, 2) ndarray

    Examples
    --------
    >>> route = Route(stops=[[0, 0], [0, 200]], speed=80, pause=0.5)
    >>> offsets, velocities = route_motion(route, [0.25, 1.5, 3.25, 4.5])
    >>> offsets.tolist()
    [[0.0, 0.0], [0.0, 80.0], [0.0, 200.0], [0.0, 120.0]]
    >>> velocities[:, 1].tolist()
    [0.0, 80.0, 0.0, -80.0]
    """
    table = np.array(legs_of(route))
    period = period_of(legs_of(route))
    clock = np.asarray(times, dtype=np.float64) + route.start
    if route.mode != "once" and 0.0 < period < np.inf:
        clock = np.fmod(clock, period)
    x, y, dx, dy, begin, pause, duration = table[np.searchsorted(table[:, 4], clock, side="right") - 1].T
    going = clock - begin - pause
    moves = (going >= 0.0) & (going < duration)
    share = np.where(going >= duration, 1.0, 0.0)
    share[moves] = going[moves] / duration[moves]
    rate = np.where(moves, 1.0 / np.where(moves, duration, 1.0), 0.0)
    if route.ease:
        rate *= 6.0 * share * (1.0 - share)
        share = share * share * (3.0 - 2.0 * share)
    return np.column_stack((x + share * dx, y + share * dy)), np.column_stack((rate * dx, rate * dy)) + 0.0


def posed(resolved: ResolvedLevel, placement: Placement, t: float) -> Placement:
    """Return a placement with every piece on a route where it is at a time."""
    for index, piece in enumerate(resolved.pieces):
        route = piece.facet("route")
        if route is not None:
            (offset,), _ = route_motion(route, [t])
            placement = placement.moved(placement.piece == index, float(offset[0]), float(offset[1]))
    return placement
