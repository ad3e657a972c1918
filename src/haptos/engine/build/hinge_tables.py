"""From hinges to tables: what is pinned to what, and where."""

from __future__ import annotations

import math

import numpy as np

from haptos.engine.build.filling import Row, filled
from haptos.engine.build.mover_plans import Motions
from haptos.engine.records import Records
from haptos.engine.records.loose_records import HINGE, OTHER_ROWS, STAYS_ROW
from haptos.errors import LevelError
from haptos.geometry.convex import turned


def compile_hinges(motions: Motions, bodies: Records, row_of: dict[int, int], other_of: dict[int, int]) -> Records:
    """Return the hinges, (h,) HINGE.

    Parameters
    ----------
    motions : Motions
    bodies : (b,) LOOSE
    row_of : dict
        The row of a body by its mover.
    other_of : dict
        The place of another mover among those that bodies can meet.
    """
    resolved = motions.resolved
    rows: list[Row] = []
    for second, body in enumerate(bodies):
        index = int(body["piece"])
        piece = resolved.pieces[index]
        hinge = piece.facet("hinge")
        if hinge is None:
            continue
        origin = motions.origins[index]
        pin = origin + turned(piece.scale * np.array(hinge.at), np.deg2rad(piece.turn))
        first, centre = len(bodies) + int(STAYS_ROW), np.zeros(2)
        if hinge.to is not None:
            other = _pinned_to(motions, index, hinge.to)
            mover = int(motions.numbers[other])
            if mover in row_of:
                first = row_of[mover]
                centre = motions.origins[motions.leaders[mover]] + np.array(
                    [bodies["centre_x"][first], bodies["centre_y"][first]]
                )
            elif mover in other_of:
                first = len(bodies) + int(OTHER_ROWS) + other_of[mover]
                centre = motions.origins[motions.leaders[mover]]
        own = pin - origin - np.array([body["centre_x"], body["centre_y"]])
        motor, hold = hinge.motor, hinge.hold
        low, high = (-math.inf, math.inf) if hinge.limits is None else np.radians(hinge.limits)
        rows.append(
            {
                "piece": index, "first": first, "second": second, "first_mover": -1,
                "first_x": pin[0] - centre[0], "first_y": pin[1] - centre[1], "second_x": own[0], "second_y": own[1],
                "speed": 0.0 if motor is None else math.radians(motor.speed),
                "torque": 0.0 if motor is None else motor.max_torque, "low": low, "high": high,
                "angle": 0.0 if hold is None else math.radians(hold.angle),
                "stiffness": 0.0 if hold is None else hold.stiffness, "damping": 0.0 if hold is None else hold.damping,
            }
        )  # fmt: skip
    return filled(HINGE, rows)


def _pinned_to(motions: Motions, index: int, name: str) -> int:
    """Return the piece that a hinge pins to."""
    resolved = motions.resolved
    found = [other for other in resolved.answering(name) if other != index]
    if len(found) != 1:
        what = "no piece" if not found else f"{len(found)} pieces"
        raise LevelError(
            f"{resolved.pieces[index].place}, hinge.to", f"found {what} called '{name}', expected one other piece"
        )
    return found[0]
