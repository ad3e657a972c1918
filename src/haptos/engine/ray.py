"""What a ray meets first.

Pieces that move together are looked at as they were placed: the ray is brought to where they are, and what it meets
back again, so that a moment costs no more than the poses of that moment.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.compile_level import CompiledLevel, compile_level
from haptos.engine.build.initial_state import start_of
from haptos.engine.build.mover_plans import STAYS, Motions
from haptos.engine.build.obstacles import as_obstacles
from haptos.engine.collision.impact import first_impact
from haptos.engine.collision.poses import poses_at
from haptos.engine.compiling.interpreting import readable
from haptos.engine.compiling.kernels import KernelCall
from haptos.engine.compiling.packing import Record
from haptos.engine.records.state import State
from haptos.engine.records.state_records import CONTACT, HIT, PATH
from haptos.engine.records.tables import WALL
from haptos.geometry.outlines import Body, grow_outlines
from haptos.geometry.placement import Placement
from haptos.level.level import Level
from haptos.level.names import did_you_mean
from haptos.level.quantity import is_bounded

Layers = tuple[str, ...] | None
# In place of a mover's number: what hangs on the player, and meets nothing that would make a mover of it.
HANGS = -2
MOVING, TIME = 2, 3
# What a ray sets of a path: the first fields of its record.
RAY = ("x", "y", "vx", "vy", "ax", "ay", "horizon")
assert (PATH.names or ())[: len(RAY)] == RAY


class Hit(NamedTuple):
    """What a ray met.

    Attributes
    ----------
    piece : the piece's name
    distance : from the ray's origin, in the level's length unit
    point : (x, y) of the surface there
    normal : the surface's outward normal, of length 1
    """

    piece: str
    distance: float
    point: tuple[float, float]
    normal: tuple[float, float]


class Prepared(NamedTuple):
    """A kernel that looks along a path, with what a ray needs of it."""

    call: KernelCall
    path: NDArray[np.float64]
    hit: Any
    corner_x: float
    corner_y: float
    diagonal: float
    names: list[str]


class Group:
    """Shapes that do not move as seen from each other, for rays.

    Parameters
    ----------
    compiled : CompiledLevel
    placement : Placement
        Of the shapes, as they are placed.
    x, y : float
        What they turn about.
    """

    def __init__(self, compiled: CompiledLevel, placement: Placement, x: float, y: float) -> None:
        self.resolved, self.placement, self.x, self.y = compiled.resolved, placement, x, y
        reach = np.repeat(placement.radius, placement.sides)
        gaps = np.hypot(placement.points[:, 0] - x, placement.points[:, 1] - y) + reach
        self.radius = float(gaps.max()) if len(gaps) else 0.0
        self._prepared: dict[Layers, Prepared] = {}

    def cast(self, x: float, y: float, dx: float, dy: float, layers: Layers) -> tuple[float, str, float, float] | None:
        """Return how far away the nearest shape on a ray is, its piece, and the normal there; None if there is none."""
        if layers not in self._prepared:
            self._prepared[layers] = self._prepare(layers)
        call, path, hit, corner_x, corner_y, diagonal, names = self._prepared[layers]
        path[: len(RAY)] = x, y, dx, dy, 0.0, 0.0, math.hypot(corner_x - x, corner_y - y) + diagonal
        call()
        if hit.t == math.inf:
            return None
        return hit.t, names[hit.outline], hit.nx, hit.ny

    def call_of(self, layers: Layers) -> KernelCall:
        """Return the kernel that looks along a path among the shapes on some layers."""
        chosen = [index for index, piece in enumerate(self.resolved.pieces) if layers is None or piece.layer in layers]
        outlines = grow_outlines(self.placement.only(np.isin(self.placement.piece, chosen)), Body())
        size = self.resolved.level.player.shape.size
        arguments = (
            as_obstacles(outlines, max(size)), None, np.zeros(0, dtype=WALL), np.zeros(1, dtype=CONTACT), 0,
            float(size[1]), Record(np.zeros(1, dtype=PATH)), Record(np.zeros(1, dtype=HIT)),
        )  # fmt: skip
        return KernelCall(first_impact, "ray", arguments)

    def _prepare(self, layers: Layers) -> Prepared:
        call = self.call_of(layers)
        obstacles, path, hit = call.arguments[0], call.arguments[6], call.arguments[7]
        names = [self.resolved.pieces[piece].name for piece in obstacles.outlines["piece"].tolist()]
        grid = obstacles.grid[0]
        diagonal = math.hypot(grid["columns"] * grid["size"], grid["rows"] * grid["size"])
        return Prepared(
            call, path.rows.view(np.float64), readable(hit), float(grid["x"]), float(grid["y"]), diagonal, names
        )


class RayCaster:
    """The shapes of a level, for rays, at rest or at a moment of a run.

    Parameters
    ----------
    compiled : CompiledLevel
    """

    def __init__(self, compiled: CompiledLevel) -> None:
        self.compiled = compiled
        placement, count = compiled.placement, len(compiled.resolved.pieces)
        numbers = Motions(compiled.cast, compiled.places).numbers[:count].copy()
        hung = compiled.resolved.hung_on_player
        for index, piece in enumerate(compiled.resolved.pieces):
            if numbers[index] == STAYS and piece.name in hung:
                numbers[index] = HANGS
        own = numbers[placement.piece]
        self.still = Group(compiled, placement.only(own == STAYS), 0.0, 0.0)
        self.hanging = Group(compiled, placement.only(own == HANGS), 0.0, 0.0)
        movers = compiled.tables.movers
        self.moving = {
            int(number): Group(compiled, placement.only(own == number), *self._place(int(number)))
            for number in np.unique(own[own >= 0])
        }
        self._order = np.array(list(self.moving), dtype=np.int64)
        self._centres = np.array([(group.x, group.y) for group in self.moving.values()]).reshape(-1, 2).T.copy()
        self._radii = np.array([group.radius for group in self.moving.values()])
        self.poses: KernelCall | None = None
        if movers is not None:
            rows = start_of(compiled.level).state.moving.copy()
            self.poses = KernelCall(poses_at, "poses", (movers, compiled.tables.world, rows, 0.0))

    def _place(self, number: int) -> tuple[float, float]:
        movers = self.compiled.tables.movers
        assert movers is not None
        return float(movers.movers["x"][number]), float(movers.movers["y"][number])

    def first_hit(
        self, origin: Sequence[float], direction: Sequence[float], layers: Sequence[str] | None = None,
        state: State | None = None, t: float = 0.0,
    ) -> Hit | None:  # fmt: skip
        """Return the nearest hit at a time since the level began, or None; at rest where no state is given."""
        length = math.hypot(*direction)
        if not (is_bounded(*origin, *direction) and length > 0):
            raise ValueError(
                f"found the ray {tuple(origin)} along {tuple(direction)}, expected finite numbers and a direction"
            )
        chosen = self._known(layers)
        x, y = float(origin[0]), float(origin[1])
        dx, dy = float(direction[0]) / length, float(direction[1]) / length
        found = self.still.cast(x, y, dx, dy, chosen)
        if len(self.hanging.placement.piece):
            at_x, at_y = self.compiled.level.player.at
            away_x = float(state.player["x"][0]) - at_x if state is not None else 0.0
            away_y = float(state.player["y"][0]) - at_y if state is not None else 0.0
            found = _nearer(found, self.hanging.cast(x - away_x, y - away_y, dx, dy, chosen))
        if self.moving:
            found = self._nearest_moving(found, x, y, dx, dy, chosen, state, t)
        if found is None:
            return None
        distance, piece, nx, ny = found
        return Hit(piece, distance, (x + dx * distance, y + dy * distance), (nx + 0.0, ny + 0.0))

    def _nearest_moving(
        self, found: tuple[float, str, float, float] | None, x: float, y: float, dx: float, dy: float, layers: Layers,
        state: State | None, t: float,
    ) -> tuple[float, str, float, float] | None:  # fmt: skip
        """Return the nearest of what was found and of what moves."""
        call = self.poses
        assert call is not None
        poses = call.arguments[MOVING]
        poses[:] = start_of(self.compiled.level).state.moving if state is None else state.moving
        call.replace(TIME, float(t))
        call()
        # Only what the ray comes near enough to is looked at.
        to_x = self._centres[0] + poses["x"][self._order] - x
        to_y = self._centres[1] + poses["y"][self._order] - y
        near = (np.abs(to_y * dx - to_x * dy) <= self._radii) & (to_x * dx + to_y * dy >= -self._radii)
        for row in np.flatnonzero(near).tolist():
            number = int(self._order[row])
            group, pose = self.moving[number], poses[number]
            if not pose["here"]:
                continue
            cosine, sine = float(pose["cosine"]), float(pose["sine"])
            from_x, from_y = -float(to_x[row]), -float(to_y[row])
            there = group.cast(
                group.x + from_x * cosine + from_y * sine, group.y + from_y * cosine - from_x * sine,
                dx * cosine + dy * sine, dy * cosine - dx * sine, layers,
            )  # fmt: skip
            if there is not None:
                distance, piece, nx, ny = there
                there = distance, piece, nx * cosine - ny * sine, nx * sine + ny * cosine
            found = _nearer(found, there)
        return found

    def _known(self, layers: Sequence[str] | None) -> Layers:
        if layers is None:
            return None
        known = self.compiled.resolved.contacts.layers
        for layer in layers:
            if layer not in known:
                raise ValueError(f"no layer '{layer}'{did_you_mean(layer, known)}")
        return tuple(layers)


def _nearer(
    one: tuple[float, str, float, float] | None, other: tuple[float, str, float, float] | None
) -> tuple[float, str, float, float] | None:
    """Return the nearer of two hits, the first of equal ones."""
    if one is None or (other is not None and other[0] < one[0]):
        return other
    return one


def _caster_of(level: Level) -> RayCaster:
    return RayCaster(compile_level(level))


def ray_caster(level: Level) -> RayCaster:
    """Return the shapes of a level for rays; they are made once."""
    return compile_level(level).level.once(_caster_of)


def first_hit(
    level: Level, origin: Sequence[float], direction: Sequence[float], layers: Sequence[str] | None = None
) -> Hit | None:
    """Return the nearest shape that a ray meets from outside, with all pieces where they are at the start.

    Parameters
    ----------
    level : Level
    origin : (x, y)
    direction : (x, y)
        Its length does not matter.
    layers : sequence of str, optional
        Only pieces on these layers; all of them if not given, zones too.

    Returns
    -------
    Hit or None

    Raises
    ------
    ValueError
        If the direction has no length, or a layer does not exist.
    TypeError
        If the level is no level.

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "trunk", "shape": {"box": [20, 20]}, "at": [100, 0]}])
    >>> haptos.first_hit(level, (0, 0), (1, 0))
    Hit(piece='trunk', distance=90.0, point=(90.0, 0.0), normal=(-1.0, 0.0))
    """
    return ray_caster(level).first_hit(origin, direction, layers)
