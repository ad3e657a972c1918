"""Where pieces are at given times: what they are at is told, the rest are the leaves of the run itself."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from haptos.engine.build.compile_level import compile_level
from haptos.engine.build.initial_state import resting_poses
from haptos.engine.build.mover_plans import STAYS, EveryMotion
from haptos.engine.build.mover_tables import pose_tables
from haptos.engine.collision.traces import trace
from haptos.engine.compiling.kernels import KernelCall
from haptos.engine.records import Records
from haptos.engine.records.motion_records import CHANGE, PLACE, RIDER, Movers
from haptos.level.level import Level

Floats = NDArray[np.float64]
# Which argument of the kernel the places are.
PLACES = 6
NO_CHANGES = np.zeros(0, dtype=CHANGE)


class Motion(NamedTuple):
    """How a piece has moved from where it is placed, at n times.

    Attributes
    ----------
    offset, velocity : (n, 2) of its place
    angle, spin : (n,) radians up to whole turns, and radians a second, counter-clockwise
    """

    offset: Floats
    velocity: Floats
    angle: Floats
    spin: Floats


class PoseTables:
    """All that moves in a level, with what its poses depend on.

    Parameters
    ----------
    level : Level

    Attributes
    ----------
    movers : Movers
    resting : (m,) POSE
        What each mover is at when the level begins.
    numbers : (p,) which mover each piece belongs to, below zero for what stays
    """

    def __init__(self, level: Level) -> None:
        compiled = compile_level(level)
        motions = EveryMotion(compiled.cast, compiled.places)
        self.places, self.world = compiled.places, compiled.tables.world
        self.movers: Movers = pose_tables(motions)
        self.numbers = motions.numbers
        self.resting = resting_poses(self.movers)
        for row, piece in zip(self.resting, self.movers.movers["piece"], strict=False):
            drift = compiled.cast.resolved.pieces[piece].facet("drift") if piece >= 0 else None
            if drift is not None:
                row["fly_vx"], row["fly_vy"] = drift.velocity
                row["fly_spin"] = math.radians(drift.spin)
            loose = compiled.cast.resolved.pieces[piece].facet("body") if piece >= 0 else None
            if loose is not None and drift is None:
                row["fly_vx"], row["fly_vy"] = loose.velocity
                row["fly_spin"] = math.radians(loose.spin)

    def motions(
        self, pieces: Iterable[int], times: ArrayLike, changes: Records = NO_CHANGES, movers: Movers | None = None,
        resting: Records | None = None,
    ) -> dict[int, Motion]:  # fmt: skip
        """Return the motion of pieces, by number, of those among them that move.

        Parameters
        ----------
        pieces : iterable of int
        times : (n,) array_like
            Since the level began, seconds.
        changes : (c,) CHANGE, optional
            What movers are at from which of the times on.
        movers, resting : optional
            What to use in the place of the level's own.
        """
        chosen = [index for index in pieces if self.numbers[index] >= 0]
        if not chosen:
            return {}
        call = self.call_of(chosen, times, changes, movers, resting)
        call()
        table = call.arguments[PLACES].reshape(-1, len(chosen))
        return {
            index: Motion(
                np.column_stack((column["x"], column["y"])) - self.places[index],
                np.column_stack((column["vx"], column["vy"])) + 0.0, column["angle"].copy(), column["spin"] + 0.0,
            )
            for index, column in zip(chosen, table.T, strict=True)
        }  # fmt: skip

    def call_of(
        self, pieces: list[int], times: ArrayLike, changes: Records = NO_CHANGES, movers: Movers | None = None,
        resting: Records | None = None,
    ) -> KernelCall:  # fmt: skip
        """Return the kernel that works out where these pieces are, all of which move."""
        t = np.ascontiguousarray(times, dtype=np.float64)
        riders = np.zeros(len(pieces), dtype=RIDER)
        riders["mover"], (riders["x"], riders["y"]) = self.numbers[pieces], self.places[pieces].T
        moving = (self.resting if resting is None else resting).copy()
        order = np.argsort(changes["moment"], kind="stable")
        arguments = (
            self.movers if movers is None else movers, self.world, moving, changes[order], riders, t,
            np.zeros(len(t) * len(pieces), dtype=PLACE),
        )  # fmt: skip
        return KernelCall(trace, "trace", arguments)

    def running(self) -> Records:
        """Return what movers are at once every route has begun."""
        rows = self.resting.copy()
        rows["clock"] = 0.0
        return rows

    def own_motion(self, index: int, times: ArrayLike) -> Motion:
        """Return how a piece moves by its own route, or by its spin if it has none, as if nothing carried it.

        Parameters
        ----------
        index : int
            Of a piece that has a route or a spin.
        times : (n,) array_like
            Seconds of its clock, `start` not counted.

        Examples
        --------
        >>> route = {"stops": [[0, 0], [0, 200]], "speed": 80, "pause": 0.5}
        >>> lift = {"name": "lift", "at": [90, 30], "shape": {"box": [40, 8]}, "route": route}
        >>> motion = pose_tables_of(Level(pieces=[lift])).own_motion(0, [0.25, 1.5, 3.25, 4.5])
        >>> motion.offset.tolist()
        [[0.0, 0.0], [0.0, 80.0], [0.0, 200.0], [0.0, 120.0]]
        >>> motion.velocity[:, 1].tolist()
        [0.0, 80.0, 0.0, -80.0]
        """
        alone = self.movers.movers.copy()
        row = alone[self.numbers[index] : self.numbers[index] + 1]
        for name in ("parent", "crumble", "flight"):
            row[name] = STAYS
        if row["legs"][0] > 0:
            row["spin"] = 0.0
        return self.motions([index], times, movers=self.movers._replace(movers=alone), resting=self.running())[index]


def pose_tables_of(level: Level) -> PoseTables:
    """Return what moves in a level; it is worked out once."""
    return compile_level(level).level.once(PoseTables)
