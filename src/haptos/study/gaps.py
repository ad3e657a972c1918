"""Gaps between neighbouring places to stand: what is cleared by how much, what is missed by how much."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np
import shapely

from haptos.engine.build.compile_level import CompiledLevel, compile_level
from haptos.engine.build.facet_tables import ladder_tops
from haptos.geometry.placement import launch_direction
from haptos.geometry.polygons import shape_polygons
from haptos.level.level import Level
from haptos.level.shapes import half_extents
from haptos.study.ballistics import GAITS, Flight, corner_reach, gait_speed
from haptos.study.obstructions import in_the_way, name_at
from haptos.study.solids import solid_shapes
from haptos.study.surfaces import NEAR, Place, axes, open_surfaces, places_to_stand

if TYPE_CHECKING:
    import pandas as pd

# Places farther apart than this many of the longest jump are no neighbours.
NEIGHBOURS = 2.0
LAUNCHED = "launch"


class Gap(NamedTuple):
    """One way across a gap.

    Attributes
    ----------
    start, goal : names of the pieces at its edges
    gap, rise : how far the goal's edge is away, and how much higher
    gait : walk, sprint or launch
    margin : how much farther the jump reaches than it has to; below zero it misses
    needs : how much higher the jump would have to be, where it is not high enough; zero otherwise
    at, to : the two edges, (x, y)
    ahead, up : the speeds at which the body leaves
    blocked_by : what stays in the way of a jump that would clear it; nothing if nothing does
    """

    start: str
    goal: str
    gap: float
    rise: float
    gait: str
    margin: float
    needs: float
    at: tuple[float, float]
    to: tuple[float, float]
    ahead: float
    up: float
    blocked_by: str


class Leap(NamedTuple):
    """How the body leaves: its speed ahead, its speed up, and what the gait is called."""

    gait: str
    ahead: float
    up: float


def gaps(level: Level) -> pd.DataFrame:
    """Return the gaps between neighbouring places to stand, with the margin of every gait.

    The body jumps off the very edge at full speed and holds jump; a launcher at the edge throws it. What stays, and is
    solid from all sides, is looked for along its way.

    Parameters
    ----------
    level : Level

    Returns
    -------
    DataFrame
        A row a gap, direction and gait: start, goal, gap, rise, gait, margin, needs, at, to, ahead, up, blocked_by;
        lengths in the level's unit.

    Raises
    ------
    LevelError
        If a piece can't be resolved.
    TypeError
        If it is no level.

    Examples
    --------
    >>> import haptos
    >>> shelves = [{"name": name, "shape": {"corners": [x, -8, x + 100, 0]}} for name, x in (("one", 0), ("two", 150))]
    >>> table = haptos.gaps(haptos.Level(player={"at": [50, 14]}, pieces=shelves))
    >>> table.query("start == 'one' and gait == 'walk'").gap.item()
    50.0
    """
    import pandas as pd

    return pd.DataFrame(find_gaps(compile_level(level)), columns=list(Gap._fields))


def find_gaps(compiled: CompiledLevel) -> list[Gap]:
    """Return the gaps of a level, as plain rows."""
    level = compiled.level
    if level.world.view == "top":
        return []
    flight = Flight(level)
    if not math.isfinite(flight.air_time):
        return []
    places = places_to_stand(compiled, open_surfaces(compiled, ladder_tops(compiled.resolved, compiled.placement)))
    longest = NEIGHBOURS * flight.air_time * gait_speed(level, "sprint")
    solid = shapely.union_all(shape_polygons(solid_shapes(compiled)))
    rows = []
    for start in places:
        for way in (1.0, -1.0):
            goal = _neighbour(start, places, way, longest, flight.apex_height + longest)
            if goal is not None and not _is_filled(compiled, solid, _edge(start, way), _edge(goal, -way)):
                rows += _cross(compiled, flight, start, goal, way)
    return rows


def _is_filled(compiled: CompiledLevel, solid: Any, start: tuple[float, float], goal: tuple[float, float]) -> bool:
    """Whether all between two edges is solid: something stands there, and it is no gap."""
    below = NEAR * compiled.level.player.shape.size[1]
    line = shapely.LineString([(start[0], start[1] - below), (goal[0], goal[1] - below)])
    line = shapely.transform(line, lambda points: points @ axes(compiled))
    return bool(line.difference(solid).length <= NEAR * line.length)


def _edge(place: Place, way: float) -> tuple[float, float]:
    return place.right if way > 0 else place.left


def _neighbour(start: Place, places: list[Place], way: float, far: float, high: float) -> Place | None:
    """Return the nearest place whose near edge lies beyond an edge of another one."""
    x, y = _edge(start, way)

    def distance(place: Place) -> float:
        near = _edge(place, -way)
        ahead, rise = (near[0] - x) * way, near[1] - y
        if place is start or ahead <= 0 or ahead > far or abs(rise) > high:
            return math.inf
        return math.hypot(ahead, rise)

    best = min(places, key=distance, default=None)
    return best if best is not None and math.isfinite(distance(best)) else None


def _cross(compiled: CompiledLevel, flight: Flight, start: Place, goal: Place, way: float) -> list[Gap]:
    level = compiled.level
    leaves, lands = _edge(start, way), _edge(goal, -way)
    gap, rise = (lands[0] - leaves[0]) * way, lands[1] - leaves[1]
    size = level.player.shape.size[1]
    if gap <= NEAR * size:
        return []
    frame = axes(compiled)
    ends = ((start, leaves, -1 if way > 0 else 0, -way), (goal, lands, 0 if way > 0 else -1, way))
    names = [
        name_at(compiled, place.surfaces[number].piece, frame.T @ np.array(edge), inward)
        for place, edge, number, inward in ends
    ]
    rows = []
    for leap in _leaps(compiled, start, way):
        margin, needs = _margin(level, flight, leap, gap, rise)
        at, to = frame.T @ np.array(leaves), frame.T @ np.array(lands)
        rows.append(
            Gap(
                names[0], names[1], gap, rise, leap.gait, margin, needs, (float(at[0]), float(at[1])),
                (float(to[0]), float(to[1])), leap.ahead, leap.up,
                in_the_way(compiled, flight, leap, (leaves, way), gap, rise) if margin >= 0 and needs == 0 else "",
            )
        )  # fmt: skip
    return rows


def _leaps(compiled: CompiledLevel, start: Place, way: float) -> list[Leap]:
    """Return the ways to leave a place: a jump in each gait, and its launcher, if its last piece is one."""
    level = compiled.level
    flight = Flight(level)
    leaps = [Leap(gait, gait_speed(level, gait), flight.jump_speed) for gait in GAITS]
    piece = compiled.resolved.pieces[start.surfaces[-1 if way > 0 else 0].piece]
    launch = piece.facet("launch")
    if launch is None:
        return leaps
    frame = axes(compiled)
    across, up = frame @ launch_direction(piece)
    speed = launch.speed or (launch.impulse or 0.0) / level.player.mass
    kept = launch.keep * gait_speed(level, "sprint")
    # What is kept lies across the direction.
    kept_x, kept_y = kept * way * (1 - across * across), -kept * way * across * up
    if launch.height is not None:
        speed = (math.sqrt(2 * flight.rising * launch.height) - kept_y) / up
    return [*leaps, Leap(LAUNCHED, (kept_x + speed * across) * way, kept_y + speed * up)]


def _margin(level: Level, flight: Flight, leap: Leap, gap: float, rise: float) -> tuple[float, float]:
    """Return by how much a leap clears a gap; for one that is too high, by how much it falls short of the height."""
    out, down = corner_reach(level)
    apex = leap.up**2 / (2 * flight.rising) if flight.rising > 0 else math.inf
    drop = apex - rise + down
    if drop < 0:
        return math.nan, -drop
    time = leap.up / flight.rising + flight.fall_time(drop)
    reach = leap.ahead * time + out + 2 * half_extents(level.player.shape)[0]
    return reach - gap, 0.0
