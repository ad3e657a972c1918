"""What a ray meets first."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from haptos.engine.build.compile_level import compile_level
from haptos.engine.build.obstacles import as_obstacles
from haptos.engine.collision.impact import first_impact
from haptos.engine.compiling.kernels import KernelCall
from haptos.engine.compiling.packing import Record
from haptos.engine.records.state_records import CONTACT, HIT, PATH
from haptos.engine.records.tables import WALL
from haptos.geometry.outlines import Body, grow_outlines
from haptos.geometry.placement import Placement
from haptos.level.level import Level
from haptos.level.names import did_you_mean
from haptos.level.resolve import ResolvedLevel


class Hit(NamedTuple):
    """What a ray met: the piece, how far away, where, and the surface's outward normal."""

    piece: str
    distance: float
    point: tuple[float, float]
    normal: tuple[float, float]


class RayCaster:
    """The shapes of a level as they are, for rays.

    Parameters
    ----------
    resolved : ResolvedLevel
    placement : Placement
    """

    def __init__(self, resolved: ResolvedLevel, placement: Placement) -> None:
        self.resolved = resolved
        self.placement = placement
        self._known: dict[tuple[str, ...] | None, KernelCall] = {}

    def first_hit(
        self, origin: Sequence[float], direction: Sequence[float], layers: Sequence[str] | None = None
    ) -> Hit | None:
        """Return the nearest hit, or None; see `first_hit`."""
        length = math.hypot(*direction)
        if not (math.isfinite(length) and length > 0 and all(map(math.isfinite, origin))):
            raise ValueError(
                f"found the ray {tuple(origin)} along {tuple(direction)}, wanted finite numbers and a direction"
            )
        chosen = None if layers is None else tuple(layers)
        call = self.call_of(chosen)
        obstacles, path, hit = call.arguments[0], call.arguments[6].rows, call.arguments[7].rows
        x, y = float(origin[0]), float(origin[1])
        dx, dy = float(direction[0]) / length, float(direction[1]) / length
        grid = obstacles.grid[0]
        width, height = grid["columns"] * grid["size"], grid["rows"] * grid["size"]
        away = math.hypot(grid["x"] + width / 2 - x, grid["y"] + height / 2 - y)
        for name, value in zip(("x", "y", "vx", "vy", "horizon"), (x, y, dx, dy, away + width + height), strict=True):
            path[name] = value
        call()
        distance = float(hit["t"][0])
        if not math.isfinite(distance):
            return None
        piece = self.resolved.pieces[int(obstacles.outlines["piece"][hit["outline"][0]])].name
        normal = (float(hit["nx"][0]) + 0.0, float(hit["ny"][0]) + 0.0)
        return Hit(piece, distance, (x + dx * distance, y + dy * distance), normal)

    def call_of(self, layers: tuple[str, ...] | None) -> KernelCall:
        """Return the kernel that looks along a path among the pieces on some layers."""
        if layers not in self._known:
            if layers is not None:
                known = self.resolved.contacts.layers
                for layer in layers:
                    if layer not in known:
                        raise ValueError(f"no layer '{layer}'{did_you_mean(layer, known)}")
            pieces = [
                index for index, piece in enumerate(self.resolved.pieces) if layers is None or piece.layer in layers
            ]
            outlines = grow_outlines(self.placement.only(np.isin(self.placement.piece, pieces)), Body())
            step = max(self.resolved.level.player.shape.size)
            arguments = (
                as_obstacles(outlines, step), None, np.zeros(0, dtype=WALL), np.zeros(1, dtype=CONTACT), 0,
                float(self.resolved.level.player.shape.size[1]), Record(np.zeros(1, dtype=PATH)),
                Record(np.zeros(1, dtype=HIT)),
            )  # fmt: skip
            self._known[layers] = KernelCall(first_impact, "first-impact", arguments)
        return self._known[layers]


def first_hit(
    level: Level, origin: Sequence[float], direction: Sequence[float], layers: Sequence[str] | None = None
) -> Hit | None:
    """Return the nearest shape that a ray meets from outside.

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

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "trunk", "shape": {"box": [20, 20]}, "at": [100, 0]}])
    >>> haptos.first_hit(level, (0, 0), (1, 0))
    Hit(piece='trunk', distance=90.0, point=(90.0, 0.0), normal=(-1.0, 0.0))
    """
    compiled = compile_level(level)
    return RayCaster(compiled.resolved, compiled.placement).first_hit(origin, direction, layers)
