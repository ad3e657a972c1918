"""Where pieces are at one moment of a world that runs."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.build.initial_state import start_of
from haptos.engine.build.mover_plans import Motions
from haptos.engine.collision.poses import poses_at
from haptos.engine.compiling.kernels import KernelCall
from haptos.engine.records.codes import COMES, FALLS, GONE, SHAKES, WAITS
from haptos.engine.records.state import State
from haptos.engine.report.piece_poses import pose_tables_of

MOVING, WHEN = 2, 3
RESTS, MOVES, GONE_NOW = "rests", "moves", "gone"
COMES_NOW = "comes"
PHASES = {SHAKES: "shakes", FALLS: "falls", GONE: GONE_NOW}


class PieceNow(NamedTuple):
    """A piece at one moment: its place, by how much it has turned (degrees), its velocity, and what it is at."""

    name: str
    x: float
    y: float
    angle: float
    vx: float
    vy: float
    state: str


class PresentPlaces:
    """The places of the pieces of one level, by what a world's state says.

    Parameters
    ----------
    compiled : CompiledLevel
    """

    def __init__(self, compiled: CompiledLevel) -> None:
        self.compiled = compiled
        self.numbers = Motions(compiled.cast, compiled.places).numbers
        self._hung = compiled.resolved.hung_on_player
        stakes = compiled.tables.stakes
        self._pickups = {} if stakes is None else {int(one): row for row, one in enumerate(stakes.pickups["piece"])}
        self._call: KernelCall | None = None
        movers = compiled.tables.movers
        if movers is not None:
            rows = start_of(compiled.level).state.moving.copy()
            self._call = KernelCall(poses_at, "poses", (movers, compiled.tables.world, rows, 0.0))

    def now(self, piece: int, state: State, t: float) -> PieceNow:
        """Return where a piece, by number, is at a time since the level began, and what it is at.

        Where it is not there, its state is ``gone``, and its place is where it was last, or would be.
        """
        name = self.compiled.cast.resolved.pieces[piece].name
        if piece in self._pickups:
            taken = state.taken[self._pickups[piece]]
            if taken["status"] != WAITS:
                return _pickup_now(name, self.compiled.cast.resolved.pieces[piece].facet("pickup"), taken, state.player)
        x, y = map(float, self.compiled.places[piece])
        number = int(self.numbers[piece])
        movers = self.compiled.tables.movers
        hangs = name in self._hung
        if number < 0 and hangs:
            at_x, at_y = self.compiled.level.player.at
            x, y = x + float(state.player["x"][0]) - at_x, y + float(state.player["y"][0]) - at_y
            vx, vy = (float(state.player[own][0] + state.player[f"frame_{own}"][0]) for own in ("vx", "vy"))
            return PieceNow(name, x, y, 0.0, vx, vy, MOVES if vx or vy else RESTS)
        if number < 0 and piece in self.compiled.cast.resolved.moving:
            # Nobody meets it, so that nothing can change its way.
            motion = pose_tables_of(self.compiled.level).motions([piece], [t])[piece]
            (dx, dy), (vx, vy) = motion.offset[0].tolist(), motion.velocity[0].tolist()
            moves = bool(vx or vy or motion.spin[0])
            return PieceNow(name, x + dx, y + dy, math.degrees(motion.angle[0]), vx, vy, MOVES if moves else RESTS)
        if number < 0 or self._call is None or movers is None:
            return PieceNow(name, x, y, 0.0, 0.0, 0.0, RESTS)
        rows = self._call.arguments[MOVING]
        rows[:] = state.moving
        self._call.replace(WHEN, t)
        self._call()
        mover, pose = movers.movers[number], rows[number]
        cosine, sine, spin = (float(pose[key]) for key in ("cosine", "sine", "spin"))
        dx, dy = x - float(mover["x"]), y - float(mover["y"])
        dx, dy = dx * cosine - dy * sine, dx * sine + dy * cosine
        vx, vy = float(pose["vx"]) - spin * dy, float(pose["vy"]) + spin * dx
        says = (
            GONE_NOW if not pose["here"] else PHASES.get(int(pose["phase"])) or (MOVES if vx or vy or spin else RESTS)
        )
        return PieceNow(
            name, float(mover["x"] + pose["x"]) + dx, float(mover["y"] + pose["y"]) + dy,
            math.degrees(math.atan2(sine, cosine)), vx, vy, says,
        )  # fmt: skip


def _pickup_now(name: str, pickup: Any, taken: Any, player: Any) -> PieceNow:
    """Return a pickup that comes, straight at the player, or has been taken."""
    x, y = float(taken["x"]), float(taken["y"])
    if taken["status"] != COMES:
        return PieceNow(name, x, y, 0.0, 0.0, 0.0, GONE_NOW)
    dx, dy = float(player["x"][0]) - x, float(player["y"][0]) - y
    way = math.hypot(dx, dy)
    pace = pickup.rate if pickup.motion == "ease" else pickup.speed / way if way > 0.0 else 0.0
    return PieceNow(name, x, y, 0.0, pace * dx, pace * dy, COMES_NOW)
