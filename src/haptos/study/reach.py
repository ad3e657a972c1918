"""Which places the body can get to: what it walks to, jumps to, climbs to and is carried to, by closed forms alone.

Nothing between two places is looked at: a place that is called out of reach is, one that is called in reach may not be.
"""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.build.facet_tables import ladder_tops
from haptos.geometry.placement import Placement
from haptos.geometry.polygons import shape_polygons
from haptos.study.ballistics import GAITS, Flight, corner_reach, gait_speed
from haptos.study.sampling import moments_of, moving_solids, shapes_at
from haptos.study.solids import solid_shapes
from haptos.study.surfaces import axes, open_surfaces


class Stand(NamedTuple):
    """Where one can stand or hold on: from left to right, from low to high, along right and up; piece is an index."""

    piece: int
    left: float
    right: float
    low: float
    high: float
    leap: float
    at_start: bool


class Reach:
    """The stands of a level, and which of them the body can get to.

    Parameters
    ----------
    compiled : CompiledLevel
    """

    def __init__(self, compiled: CompiledLevel) -> None:
        self.compiled = compiled
        level = compiled.level
        self.flight = Flight(level)
        self.speed = max(gait_speed(level, gait) for gait in GAITS)
        self.stands = [*self._still(), *self._giving_way(), *self._moving(), *self._ladders()]
        self.edge = 2.0 * corner_reach(level)[0] + 2.0 * max(level.player.shape.size) * 0.02
        self.height = self.flight.apex_height * (1 + level.player.jump.extra_jumps) + level.player.step_height

    def pieces(self, without: frozenset[int] = frozenset()) -> set[int]:
        """Return the pieces that the body can stand on or hold, if some are not there."""
        stands = [stand for stand in self.stands if stand.piece not in without]
        found: set[int] = set()
        edge = [stand for stand in stands if stand.at_start and self._is_under_start(stand)]
        while edge:
            here = edge.pop()
            if here.piece in found:
                continue
            found.add(here.piece)
            # What moves can be left wherever it goes.
            froms = [stand for stand in stands if stand.piece == here.piece]
            for to in stands:
                if to.piece not in found and self._can_board(to) and any(self._is_in_reach(one, to) for one in froms):
                    edge.append(to)
        return found

    def meets(self, reached: set[int], shapes: list[Any], place: Any, around: float) -> bool:
        """Whether a body that stands on one of some pieces may come to touch shapes, or come near to a place.

        Parameters
        ----------
        reached : set of int
        shapes : list of polygons
        place : (2,)
        around : float
            How near to the place is near enough.
        """
        frame, (width, height) = axes(self.compiled), self.compiled.level.player.shape.size
        points = [np.asarray(shape.exterior.coords) for shape in shapes] + [np.asarray([place])]
        corners = np.vstack(points) @ frame.T
        (left, low), (right, high) = corners.min(axis=0) - around, corners.max(axis=0) + around
        # The head is by its height over what is stood on, and each side by half its width beside the middle.
        prize = Stand(-1, left - width / 2, right + width / 2, low - height, high, 0.0, True)
        stands = [stand for stand in self.stands if stand.piece in reached]
        return any(self._is_in_reach(stand, prize) for stand in stands) or self._is_under_start(prize)

    def _can_board(self, stand: Stand) -> bool:
        """Whether something is there to be boarded: what waits for its rider is only where it starts."""
        resolved = self.compiled.resolved
        routes = (resolved.pieces[one].facet("route") for one in (stand.piece, *resolved.carriers(stand.piece)))
        return stand.at_start or not any(route is not None and route.waits_for is not None for route in routes)

    def _is_in_reach(self, here: Stand, to: Stand) -> bool:
        gap = max(0.0, to.left - here.right, here.left - to.right) - self.edge
        rise = to.low - here.high
        height = max(self.height, here.leap)
        if rise > height:
            return False
        up = math.sqrt(2.0 * self.flight.rising * height) / self.flight.rising if self.flight.rising > 0 else math.inf
        return gap <= self.speed * (up + self.flight.fall_time(height - rise))

    def _is_under_start(self, stand: Stand) -> bool:
        """Whether a body that falls from the start may come to stand there."""
        x, y = axes(self.compiled) @ np.array(self.compiled.level.player.at)
        half = max(self.compiled.level.player.shape.size) / 2
        return stand.left - half <= x <= stand.right + half and stand.low <= y

    def _still(self) -> list[Stand]:
        return [
            Stand(
                surface.piece, surface.left[0], surface.right[0], min(surface.left[1], surface.right[1]),
                max(surface.left[1], surface.right[1]), self._leap(surface.piece), True,
            )
            for surface in open_surfaces(self.compiled, ladder_tops(self.compiled.resolved, self.compiled.placement))
        ]  # fmt: skip

    def _giving_way(self) -> list[Stand]:
        """Return the tops of what stays until it is touched."""
        resolved = self.compiled.resolved
        moving = {*moving_solids(self.compiled)}
        stands = []
        frame = axes(self.compiled)
        shapes = solid_shapes(self.compiled)
        for index, polygon in zip(shapes.piece, shape_polygons(shapes), strict=True):
            if int(index) in resolved.moving and int(index) not in moving:
                corners = np.asarray(polygon.exterior.coords) @ frame.T
                (left, _), (right, high) = corners.min(axis=0), corners.max(axis=0)
                stands.append(Stand(int(index), left, right, high, high, self._leap(int(index)), True))
        return stands

    def _moving(self) -> list[Stand]:
        stands = []
        frame = axes(self.compiled)
        for index in moving_solids(self.compiled):
            for number, polygons in enumerate(shapes_at(self.compiled, index, moments_of(self.compiled, index))):
                for polygon in polygons:
                    corners = np.asarray(polygon.exterior.coords) @ frame.T
                    (left, _), (right, high) = corners.min(axis=0), corners.max(axis=0)
                    stands.append(Stand(index, left, right, high, high, self._leap(index), number == 0))
        return stands

    def _ladders(self) -> list[Stand]:
        stands = []
        frame = axes(self.compiled)
        resolved, placement = self.compiled.resolved, self.compiled.placement
        for index, piece in enumerate(resolved.pieces):
            if piece.facet("ladder") is None:
                continue
            own: Placement = placement.only(placement.piece == index)
            for polygon in shape_polygons(own):
                corners = np.asarray(polygon.exterior.coords) @ frame.T
                (left, low), (right, high) = corners.min(axis=0), corners.max(axis=0)
                stands.append(Stand(index, left, right, low, high, 0.0, True))
        return stands

    def _leap(self, index: int) -> float:
        """Return how high a launcher throws."""
        launch = self.compiled.resolved.pieces[index].facet("launch")
        if launch is None:
            return 0.0
        if launch.height is not None:
            return float(launch.height)
        speed = launch.speed or (launch.impulse or 0.0) / self.compiled.level.player.mass
        return speed**2 / (2.0 * self.flight.rising) if self.flight.rising > 0 else math.inf
