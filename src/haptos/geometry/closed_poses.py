"""Where pieces that move are at given times, by arithmetic: no step before matters."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from haptos.geometry.convex import turned
from haptos.geometry.placement import Placement
from haptos.geometry.ways import Way, way_of
from haptos.level.assemblies import ON_PLAYER
from haptos.level.resolve import ResolvedLevel
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.routes import Route

Floats = NDArray[np.float64]


class Motion(NamedTuple):
    """How a piece has moved from where it is placed, at n times.

    Attributes
    ----------
    offset, velocity : (n, 2) of its place
    angle, spin : (n,) radians, and radians a second, counter-clockwise
    """

    offset: Floats
    velocity: Floats
    angle: Floats
    spin: Floats


def route_motion(route: Route, times: ArrayLike) -> Motion:
    """Return where a route is, relative to the piece's `at`, and how fast it goes.

    Parameters
    ----------
    route : Route
    times : (n,) array_like
        Seconds of its clock, `start` not counted.

    Examples
    --------
    >>> route = Route(stops=[[0, 0], [0, 200]], speed=80, pause=0.5)
    >>> motion = route_motion(route, [0.25, 1.5, 3.25, 4.5])
    >>> motion.offset.tolist()
    [[0.0, 0.0], [0.0, 80.0], [0.0, 200.0], [0.0, 120.0]]
    >>> motion.velocity[:, 1].tolist()
    [0.0, 80.0, 0.0, -80.0]
    """
    way = way_of(route)
    table = np.array(way.legs)
    clock = np.asarray(times, dtype=np.float64) + route.start
    if route.mode != "once" and 0.0 < way.period < np.inf:
        clock = np.fmod(clock, way.period)
    x, y, dx, dy, begin, pause, duration, _, heading, turn, sense, first, knots = table[
        np.searchsorted(table[:, 4], clock, side="right") - 1
    ].T
    going = clock - begin - pause
    moves = (going >= 0.0) & (going < duration)
    share, rate = _eased(route, np.where(moves, going, np.where(going >= duration, 1.0, 0.0)), moves, duration)
    offset = np.column_stack((x + share * dx, y + share * dy))
    velocity = np.column_stack((rate * dx, rate * dy)) + 0.0
    spin = np.zeros(len(clock))
    if route.curve == "smooth":
        offset, velocity, heading, spin = _on_curve(way, share, rate, first.astype(int), knots.astype(int), sense)
    if not route.turns:
        return Motion(offset, velocity, np.zeros(len(clock)), np.zeros(len(clock)))
    waits = (going < 0.0) & (turn != 0.0)
    part, pace = _eased(route, np.where(waits, clock - begin, 1.0), waits, pause)
    angle = heading - turn * (1.0 - np.where(waits, part, 1.0)) - way.legs[0].heading
    return Motion(offset, velocity, angle, np.where(waits, turn * pace, spin))


def _eased(route: Route, going: Floats, moves: NDArray[np.bool_], duration: Floats) -> tuple[Floats, Floats]:
    """Return the share of a way, and how fast it grows; where nothing moves, `going` is the share."""
    share = going.copy()
    share[moves] = going[moves] / duration[moves]
    rate = np.where(moves, 1.0 / np.where(moves, duration, 1.0), 0.0)
    if route.ease:
        rate *= 6.0 * share * (1.0 - share)
        share = share * share * (3.0 - 2.0 * share)
    return share, rate


def _on_curve(
    way: Way, share: Floats, rate: Floats, first: NDArray[np.int64], knots: NDArray[np.int64], sense: Floats
) -> tuple[Floats, Floats, Floats, Floats]:
    """Return places, velocities, headings and how fast these turn, by the Hermite cubics of the legs."""
    along = share * (knots - 1)
    piece = np.minimum(along.astype(int), knots - 2)
    w = (along - piece)[:, None]
    begin, end = way.knots[first + piece], way.knots[first + piece + 1]
    p, m, q, n = begin[:, :2], begin[:, 2:], end[:, :2], end[:, 2:]
    place = (1 - w) ** 2 * ((1 + 2 * w) * p + w * m) + w * w * ((3 - 2 * w) * q + (w - 1) * n)
    slope = 6 * w * (1 - w) * (q - p) + (1 - w) * (1 - 3 * w) * m + w * (3 * w - 2) * n
    bend = 6 * (1 - 2 * w) * (q - p) + (6 * w - 4) * m + (6 * w - 2) * n
    pace = rate * (knots - 1)
    heading = np.arctan2(sense * slope[:, 1], sense * slope[:, 0])
    turning = (slope[:, 0] * bend[:, 1] - slope[:, 1] * bend[:, 0]) / np.maximum((slope**2).sum(axis=1), 1e-300)
    return place, pace[:, None] * slope, heading, pace * turning


class Clock(NamedTuple):
    """The clock of a route at n times: how long it has run, and whether it runs."""

    time: Floats
    runs: NDArray[np.bool_]


def own_motion(piece: ResolvedPiece, times: ArrayLike, clock: Clock | None = None) -> Motion:
    """Return the motion of a piece by its own route and spin.

    Parameters
    ----------
    piece : ResolvedPiece
    times : (n,) array_like
    clock : Clock, optional
        Of its route; if not given, it began at once, or stands still if the route waits for something.
    """
    t = np.asarray(times, dtype=np.float64)
    still = np.zeros(len(t))
    motion = Motion(np.zeros((len(t), 2)), np.zeros((len(t), 2)), still, still)
    route, spin = piece.facet("route"), piece.facet("spin")
    if route is not None:
        if clock is None:
            goes = route.waits_for is None
            clock = Clock(t * goes, np.full(len(t), goes))
        motion = route_motion(route, clock.time)
        motion = motion._replace(velocity=motion.velocity * clock.runs[:, None], spin=motion.spin * clock.runs)
    drift = piece.facet("drift")
    if drift is not None:
        # While nothing is in its way.
        velocity, turning = np.array(drift.velocity), np.deg2rad(drift.spin)
        offset = motion.offset + t[:, None] * velocity
        motion = Motion(offset, motion.velocity + velocity, motion.angle + turning * t, motion.spin + turning)
    if spin is None:
        return motion
    speed = np.deg2rad(spin.speed)
    pivot = spin_pivot(piece)
    # About its own place it turns by the route; about the pivot, which goes with that, by the spin.
    arm = turned_each(np.tile(pivot, (len(t), 1)), motion.angle)
    swung = turned_each(arm, speed * t)
    offset = motion.offset + arm - swung
    velocity = motion.velocity + motion.spin[:, None] * _across(arm) - (motion.spin + speed)[:, None] * _across(swung)
    return Motion(offset, velocity, motion.angle + speed * t, motion.spin + speed)


def spin_pivot(piece: ResolvedPiece) -> Floats:
    """Return where a spin's pivot is from the piece's place, in the world's directions."""
    return turned(piece.scale * np.array(piece.facet("spin").pivot), np.deg2rad(piece.turn))


def motions(
    resolved: ResolvedLevel,
    origins: Floats,
    times: ArrayLike,
    clocks: Mapping[int, Clock] | None = None,
    falls: Mapping[int, tuple[Floats, Floats]] | None = None,
    player: Motion | None = None,
    flights: Mapping[int, Motion] | None = None,
) -> dict[int, Motion]:
    """Return the motion of every piece that moves, or is carried by one that does, by its number.

    Parameters
    ----------
    resolved : ResolvedLevel
    origins : (p, 2) ndarray
        Where each piece is at rest.
    times : (n,) array_like
    clocks : mapping, optional
        Of the routes, for pieces whose route waits for something, or is stopped.
    falls : mapping, optional
        How far a piece that gives way has fallen at each time, and how fast, (n, 2) both.
    player : Motion, optional
        Of the player from its start, for what hangs on it; without, it has not moved.
    flights : mapping, optional
        The motion of what flew by itself; without, it flies on with nothing in its way.
    """
    t = np.asarray(times, dtype=np.float64)
    found: dict[int, Motion | None] = {}

    def motion_of(index: int) -> Motion | None:
        if index not in found:
            piece, parent = resolved.pieces[index], resolved.parents[index]
            carrier = player if parent == ON_PLAYER else motion_of(parent) if parent >= 0 else None
            own = None
            if carrier is not None or resolved.changes(index):
                own = own_motion(piece, t, None if clocks is None else clocks.get(index))
                if flights is not None and index in flights:
                    own = flights[index]
            # What flew was recorded where it was.
            if carrier is not None and own is not None and (flights is None or index not in flights):
                rest = np.array(resolved.level.player.at) if parent == ON_PLAYER else origins[parent]
                own = carried(carrier, own, origins[index] - rest)
            if own is not None and falls is not None and index in falls:
                offset, velocity = falls[index]
                own = own._replace(offset=own.offset + offset, velocity=own.velocity + velocity)
            found[index] = own
        return found[index]

    every = {index: motion_of(index) for index in range(len(resolved.pieces))}
    return {index: motion for index, motion in every.items() if motion is not None}


def carried(carrier: Motion, own: Motion, arm: Floats) -> Motion:
    """Return the motion of what moves on a carrier, from whose place its own is `arm` away at rest."""
    reach = turned_each(arm + own.offset, carrier.angle)
    velocity = carrier.velocity + carrier.spin[:, None] * _across(reach) + turned_each(own.velocity, carrier.angle)
    return Motion(carrier.offset + reach - arm, velocity, carrier.angle + own.angle, carrier.spin + own.spin)


def posed(resolved: ResolvedLevel, placement: Placement, origins: Floats, t: float) -> Placement:
    """Return a placement with every piece that moves by arithmetic where it is at a time."""
    for index, motion in motions(resolved, origins, [t]).items():
        placement = moved_by(placement, index, origins[index], motion.offset[0], float(motion.angle[0]))
    return placement


def moved_by(placement: Placement, index: int, origin: Floats, offset: Floats, angle: float) -> Placement:
    """Return a placement with one piece turned about its place and moved."""
    which = placement.piece == index
    if angle == 0.0:
        return placement.moved(which, float(offset[0]), float(offset[1]))
    return placement.turned(which, origin, angle).moved(which, float(offset[0]), float(offset[1]))


def turned_each(points: Floats, angle: Floats) -> Floats:
    """Return points, each turned by its own angle about the origin."""
    cosine, sine = np.cos(angle), np.sin(angle)
    x, y = points[..., 0], points[..., 1]
    return np.column_stack((x * cosine - y * sine, x * sine + y * cosine))


def _across(vector: Floats) -> Floats:
    """Return vectors turned by a right angle."""
    return np.column_stack((-vector[:, 1], vector[:, 0]))
