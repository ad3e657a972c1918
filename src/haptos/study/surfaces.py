"""Surfaces that face up and are open to the body's foot, and the places to stand that they join to."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from haptos.engine.build.compile_level import CompiledLevel
from haptos.geometry.placement import Placement, joined
from haptos.geometry.polygons import shape_polygons
from haptos.study.solids import solid_shapes

Floats = NDArray[np.float64]

# A surface is open where a point this share of the body's height above it is in nothing solid.
ABOVE = 1e-3
# Surfaces whose ends are this near, as a share of the body's height, join.
NEAR = 0.02
# Steeper than this, degrees, it is a wall.
WALL = 80.0


class Surface(NamedTuple):
    """A straight surface that faces up, in coordinates along right (first) and up (second).

    Attributes
    ----------
    piece : index of the piece
    left, right : its ends
    """

    piece: int
    left: tuple[float, float]
    right: tuple[float, float]

    @property
    def slope(self) -> float:
        """Degrees from level, positive where it rises to the right."""
        return math.degrees(math.atan2(self.right[1] - self.left[1], self.right[0] - self.left[0]))


@dataclass
class Place:
    """A place to stand: surfaces that the body walks along without a jump, from left to right."""

    surfaces: list[Surface] = field(default_factory=list)

    @property
    def left(self) -> tuple[float, float]:
        """Its left end."""
        return self.surfaces[0].left

    @property
    def right(self) -> tuple[float, float]:
        """Its right end."""
        return self.surfaces[-1].right


def axes(compiled: CompiledLevel) -> Floats:
    """Return the matrix whose rows are right and up."""
    ux, uy = compiled.level.world.up
    return np.array([[uy, -ux], [ux, uy]])


def open_surfaces(compiled: CompiledLevel, tops: Placement | None = None) -> list[Surface]:
    """Return the surfaces that face up and are not covered, from left to right.

    Parameters
    ----------
    compiled : CompiledLevel
    tops : Placement, optional
        More to stand on, such as the tops of ladders.
    """
    solids = joined([solid_shapes(compiled), *([] if tops is None else [tops])])
    # What moves is no place in the level; where it goes is for its route to say.
    solids = solids.only(~np.isin(solids.piece, list(compiled.resolved.moving)))
    frame = axes(compiled)
    size = compiled.level.player.shape.size[1]
    polygons = shape_polygons(solids)
    covers = [shapely.transform(polygon, lambda points: points @ frame.T) for polygon in polygons]
    tree = shapely.STRtree(covers)
    found = []
    for index, polygon in enumerate(covers):
        for left, right in _upper_edges(polygon, solids, index, frame):
            lift = np.array([0.0, ABOVE * size])
            line = shapely.LineString([left + lift, right + lift])
            over = [
                covers[other]
                for other in tree.query(line, predicate="intersects")
                if other != index and covers[other].area > 0
            ]
            open_part = line.difference(shapely.union_all(over)) if over else line
            for part in getattr(open_part, "geoms", [open_part]):
                if part.length > NEAR * size:
                    (x0, y0), (x1, y1) = part.coords[0], part.coords[-1]
                    found.append(Surface(int(solids.piece[index]), (x0, y0 - lift[1]), (x1, y1 - lift[1])))
    return sorted(found, key=lambda surface: (surface.left[0], surface.left[1]))


def _upper_edges(polygon: Any, solids: Placement, index: int, frame: Floats) -> list[tuple[Floats, Floats]]:
    """Return the edges that face up and, of one-way pieces, their side, each from left to right."""
    side = frame @ solids.side[index]
    if polygon.area > 0:
        ring = np.asarray(shapely.geometry.polygon.orient(polygon).exterior.coords)
        edges = [(ring[place + 1], ring[place]) for place in range(len(ring) - 1)]
    else:
        points = np.asarray(polygon.coords)
        edges = [(points[0], points[1]), (points[1], points[0])]
    steepest = math.cos(math.radians(WALL))
    kept = []
    for left, right in edges:
        along = right - left
        length = float(np.hypot(*along))
        normal = np.array([-along[1], along[0]]) / length
        if normal[1] >= steepest and (not side.any() or float(normal @ side) > 0):
            kept.append((left, right))
    return kept


def _is_within_another(surface: Surface, surfaces: list[Surface], near: float) -> bool:
    """Whether a longer surface lies at the same height all along it, as a loft's floor at a ladder's top."""
    for other in surfaces:
        if other.right[0] - other.left[0] <= surface.right[0] - surface.left[0]:
            continue
        run = other.right[0] - other.left[0]
        lifts = [
            other.left[1] + (x - other.left[0]) / run * (other.right[1] - other.left[1]) - y
            for x, y in (surface.left, surface.right)
            if other.left[0] - near <= x <= other.right[0] + near
        ]
        if len(lifts) == 2 and max(map(abs, lifts)) <= near:
            return True
    return False


def places_to_stand(compiled: CompiledLevel, surfaces: list[Surface]) -> list[Place]:
    """Join the walkable surfaces whose ends meet within what the body steps up or down."""
    player = compiled.level.player
    size = player.shape.size[1]
    step = max(player.step_height, NEAR * size)
    places: list[Place] = []
    for surface in surfaces:
        if abs(surface.slope) > player.ground.max_slope + 1e-6 or _is_within_another(surface, surfaces, NEAR * size):
            continue
        for place in places:
            gap, rise = surface.left[0] - place.right[0], surface.left[1] - place.right[1]
            if abs(gap) <= NEAR * size and abs(rise) <= step:
                place.surfaces.append(surface)
                break
        else:
            places.append(Place([surface]))
    return places
