"""The way of a route: legs between its stops, each a pause and a line or a smooth curve that is gone along.

A smooth curve is a cubic spline through the stops [1]_. Each leg of it is cut into pieces of equal length, and between
those it is a Hermite cubic whose tangents have that length: it is gone along at an even speed.

References
----------
.. [1] C. de Boor, "A Practical Guide to Splines", Springer (1978).
"""

from __future__ import annotations

import math
from functools import lru_cache
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.geometry.splines import Spline
from haptos.level.routes import Route

Floats = NDArray[np.float64]

# Pieces of equal length that a leg of a smooth curve is cut into, and points at which its length is measured.
PIECES = 256
MEASURES = 64
# A corner of less than this (radians) needs no turning.
STRAIGHT = 1e-9
# A spline slower than this share of its greatest speed stands.
STANDS = 1e-9
# What turns along a curve turns by a right angle at most on one of its pieces: more can't be told from going back.
SHARPEST = math.pi / 2.0


class Leg(NamedTuple):
    """A pause at a stop and the way to the next one; times are of the route's clock, angles radians.

    Attributes
    ----------
    x, y, dx, dy : where it begins, and the straight way from there
    begin, pause, duration : when, how long it waits first, and how long it goes
    length : of the way
    heading : the direction of a straight way, or of a curve's begin; on a shuttle's way back that of the way there
    turn : by how much a piece that turns along turns in the pause
    sense : -1 on a shuttle's way back, else 1
    first_knot, knots : a curve's knots; none of a straight way
    """

    x: float
    y: float
    dx: float
    dy: float
    begin: float
    pause: float
    duration: float
    length: float
    heading: float
    turn: float
    sense: float
    first_knot: int
    knots: int


class Way(NamedTuple):
    """The legs of one cycle, its time, and the knots of all curves: x, y and the tangent over a piece of the leg."""

    legs: tuple[Leg, ...]
    knots: Floats
    period: float


@lru_cache(maxsize=4096)
def way_of(route: Route) -> Way:
    """Return the way of a route, worked out once; a shuttle's cycle is there and back.

    Parameters
    ----------
    route : Route
        Without fault, and not shared.

    Examples
    --------
    >>> there, back = way_of(Route(stops=[[0, 0], [0, 200]], speed=80, pause=0.5)).legs
    >>> there.duration, back.begin
    (2.5, 3.0)
    """
    stops = list(route.stops)
    order = list(range(len(stops) - 1))
    if route.mode == "loop":
        order.append(len(stops) - 1)
    curves = _curves(route)
    ways = [(index, (index + 1) % len(stops), index, 1.0) for index in order]
    if route.mode == "shuttle":
        ways += [(there, here, index, -1.0) for here, there, index, _ in reversed(ways)]
    legs: list[Leg] = []
    knots: list[Floats] = []
    clock, count = 0.0, 0
    for here, there, index, sense in ways:
        (x, y), (to_x, to_y) = stops[here], stops[there]
        dx, dy = to_x - x, to_y - y
        length = math.hypot(dx, dy)
        heading = math.atan2(sense * dy, sense * dx) if length > 0.0 else legs[-1].heading if legs else 0.0
        own = np.zeros((0, 4))
        if curves:
            own, length = curves[index]
            own = own if sense > 0 else own[::-1] * np.array([1.0, 1.0, -1.0, -1.0])
            heading = math.atan2(sense * own[0, 3], sense * own[0, 2])
        if route.leg_times is not None:
            duration = route.leg_times[index]
        else:
            # At no speed, the first leg that goes anywhere never ends.
            duration = length / route.speed if route.speed else (math.inf if length > 0.0 else 0.0)
        legs.append(
            Leg(x, y, dx, dy, clock, route.pause, duration, length, heading, 0.0, sense, count, len(own))
        )  # fmt: skip
        knots.append(own)
        count += len(own)
        clock += route.pause + duration
    if route.turns:
        legs = _turned(legs, route.mode == "loop", bool(curves))
    whole = np.concatenate(knots)
    whole.flags.writeable = False
    return Way(tuple(legs), whole, clock)


def sharp_corner(way: Way) -> int | None:
    """Return the number of the first leg at whose begin a piece that turns along would have to turn in no time."""
    return next((index for index, leg in enumerate(way.legs) if leg.turn != 0.0 and leg.pause == 0.0), None)


def sharp_bend(way: Way) -> tuple[float, float] | None:
    """Return where a curve bends so sharply that what turns along would have to turn in no time."""
    for leg in way.legs:
        knots = way.knots[leg.first_knot : leg.first_knot + leg.knots]
        ahead = (knots[1:, 2:] * knots[:-1, 2:]).sum(axis=1)
        size = np.hypot(knots[1:, 2], knots[1:, 3]) * np.hypot(knots[:-1, 2], knots[:-1, 3])
        sharp = np.flatnonzero(ahead <= size * math.cos(SHARPEST))
        if len(sharp):
            return float(knots[sharp[0], 0]), float(knots[sharp[0], 1])
    return None


def _turned(legs: list[Leg], is_loop: bool, is_smooth: bool) -> list[Leg]:
    """Return the legs with the turns in their pauses; a cycle that is there and back has none at its ends."""
    turned = []
    for index, leg in enumerate(legs):
        before = legs[index - 1]
        turn = 0.0 if is_smooth or (index == 0 and not is_loop) else leg.heading - before.heading
        turned.append(leg._replace(turn=(turn + math.pi) % (2.0 * math.pi) - math.pi if abs(turn) > STRAIGHT else 0.0))
    return turned


def _curves(route: Route) -> list[tuple[Floats, float]]:
    """Return the knots and the length of each leg of a smooth route; nothing for a straight one."""
    if route.curve == "straight":
        return []
    points = np.array(route.stops if route.mode != "loop" else (*route.stops, route.stops[0]))
    steps = np.hypot(*np.diff(points, axis=0).T)
    # The root of the distance as parameter keeps the curve from swinging out where stops are close together.
    spline = Spline(np.concatenate(([0.0], np.cumsum(np.sqrt(steps)))), points, closed=route.mode == "loop")
    return [_evenly(spline, begin, end) for begin, end in pairwise(spline.at.tolist())]


def _evenly(spline: Spline, begin: float, end: float) -> tuple[Floats, float]:
    """Return knots at equal distances along one leg of a spline, and its length."""
    nodes, weights = np.polynomial.legendre.leggauss(8)
    edges = np.linspace(begin, end, MEASURES + 1)
    half = (edges[1] - edges[0]) / 2
    middles = (edges[1:] + edges[:-1]) / 2
    speed = np.hypot(*spline.slope(middles[:, None] + half * nodes).T).T
    lengths = np.concatenate(([0.0], np.cumsum((speed * weights).sum(axis=1) * half)))
    wanted = np.linspace(0.0, lengths[-1], PIECES + 1)
    u = np.interp(wanted, lengths, edges)
    for _ in range(4):
        # Newton's method on the length from the measure before.
        cell = np.clip(np.searchsorted(edges, u, side="right") - 1, 0, MEASURES - 1)
        span = (u - edges[cell]) / 2
        inner = edges[cell][:, None] + span[:, None] * (1.0 + nodes)
        reached = lengths[cell] + (np.hypot(*spline.slope(inner).T).T * weights).sum(axis=1) * span
        u = np.clip(u - (reached - wanted) / np.maximum(np.hypot(*spline.slope(u).T), 1e-300), begin, end)
    tangent = spline.slope(u)
    size = np.hypot(*tangent.T)
    # Where a curve goes straight back it has no direction, and stands.
    tangent *= np.where(size > STANDS * size.max(), lengths[-1] / PIECES / np.maximum(size, 1e-300), 0.0)[:, None]
    return np.column_stack((spline(u), tangent)), float(lengths[-1])
