"""How fast what follows a route goes and turns at most, and which routes can't be turned along."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from haptos.engine.collision.poses import EASED
from haptos.errors import LevelError
from haptos.geometry.ways import Way, sharp_bend, sharp_corner, way_of
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.routes import Route

Floats = NDArray[np.float64]
# The sharpest bend of a curve is taken to be so much sharper than between two of its knots.
# The greatest acceleration of an eased way of length 1 in a time of 1, at its ends.
EASES = 6.0
SHARPER = 1.5


def turnable_way(piece: ResolvedPiece, route: Route) -> Way:
    """Return the way of a route; what turns along it must not have to turn in no time."""
    way = way_of(route)
    corner = sharp_corner(way)
    if corner is not None:
        leg = way.legs[corner]
        message = (
            f"found turns with a corner at the stop ({leg.x:g}, {leg.y:g}) and no pause to turn in, expected a pause "
            "or curve = 'smooth'"
        )
        raise LevelError(f"{piece.place}, route", message)
    back = sharp_bend(way) if route.turns else None
    if back is not None:
        message = (
            f"found turns with a curve that goes sharply back near ({back[0]:.4g}, {back[1]:.4g}), expected stops that "
            "lead round a bend, or no turns"
        )
        raise LevelError(f"{piece.place}, route", message)
    return way


def fastest_on(way: Way, ease: bool, turns: bool) -> tuple[float, float]:
    """Return the greatest speed on a way, and the fastest turn of what turns along."""
    factor = EASED if ease else 1.0
    speed, turning = 0.0, 0.0
    for leg in way.legs:
        goes = leg.duration > 0.0 and math.isfinite(leg.duration)
        pace = factor * leg.length / leg.duration if goes else 0.0
        speed = max(speed, pace)
        if turns and leg.pause > 0.0:
            turning = max(turning, factor * abs(leg.turn) / leg.pause)
        if turns and leg.knots:
            sharpest = bends(way)[leg.first_knot : leg.first_knot + leg.knots].max()
            turning = max(turning, float(sharpest) * (leg.knots - 1) / leg.length * pace)
    return speed, turning


def hardest_on(way: Way, ease: bool) -> float:
    """Return the greatest acceleration on a way: where it eases in and out, and where it bends."""
    factor = EASED if ease else 1.0
    hardest = 0.0
    for leg in way.legs:
        if not (leg.duration > 0.0 and math.isfinite(leg.duration)):
            continue
        pace = factor * leg.length / leg.duration
        along = EASES * leg.length / leg.duration**2 if ease else 0.0
        across = 0.0
        if leg.knots:
            sharpest = float(bends(way)[leg.first_knot : leg.first_knot + leg.knots].max())
            across = sharpest * (leg.knots - 1) / leg.length * pace**2
        hardest = max(hardest, math.hypot(along, across))
    return hardest


def bends(way: Way) -> Floats:
    """Return by how much the piece of a curve that begins at each knot bends at most (radians); none at a leg's end."""
    found = np.zeros(len(way.knots))
    for leg in way.legs:
        tangent = way.knots[leg.first_knot : leg.first_knot + leg.knots, 2:]
        heading = np.unwrap(np.arctan2(tangent[:, 1], tangent[:, 0]))
        found[leg.first_knot : leg.first_knot + max(leg.knots - 1, 0)] = SHARPER * np.abs(np.diff(heading))
    return found
