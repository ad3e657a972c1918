"""Where what moves is at enough moments of its way to ask what it comes near to."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.report.piece_poses import Motion, pose_tables_of
from haptos.geometry.placement import Placement
from haptos.geometry.polygons import shape_polygons
from haptos.geometry.ways import way_of

Floats = NDArray[np.float64]

# Moments of a way that bends or turns, and of two ways looked at together.
MOMENTS = 96
TOGETHER = 600
# A way is looked at for so many seconds at most.
LONGEST = 60.0


def moving_solids(compiled: CompiledLevel) -> list[int]:
    """Return the pieces that go a way by arithmetic, or are carried along one, and are solid to the player."""
    resolved = compiled.resolved
    found = []
    for index in sorted(resolved.moving):
        facets = {name for one in (index, *resolved.carriers(index)) for name in resolved.pieces[one].facets}
        if facets & {"route", "spin"} and "drift" not in facets:
            if resolved.meeting(resolved.pieces[index]) == "solid":
                found.append(index)
    return found


def period_of(compiled: CompiledLevel, index: int) -> float:
    """Return how long it takes until a piece, and what carries it, has gone its whole way, seconds."""
    longest = 0.0
    for one in (index, *compiled.resolved.carriers(index)):
        route, spin = compiled.resolved.pieces[one].facet("route"), compiled.resolved.pieces[one].facet("spin")
        if route is not None:
            longest = max(longest, way_of(route).period)
        if spin is not None and spin.speed:
            longest = max(longest, 360.0 / abs(spin.speed))
    return min(longest, LONGEST) if math.isfinite(longest) else LONGEST


def moments_of(compiled: CompiledLevel, index: int) -> Floats:
    """Return times between which a piece goes straight on, or bends and turns but a little."""
    resolved = compiled.resolved
    horizon = period_of(compiled, index)
    times = [0.0, horizon]
    bends = False
    for one in (index, *resolved.carriers(index)):
        piece = resolved.pieces[one]
        route = piece.facet("route")
        bends = bends or "spin" in piece.facets or (route is not None and (route.curve == "smooth" or route.turns))
        if route is not None:
            for leg in way_of(route).legs:
                times += [leg.begin - route.start, leg.begin + leg.pause - route.start]
    bends = bends or sum("route" in resolved.pieces[one].facets for one in (index, *resolved.carriers(index))) > 1
    if bends:
        times += list(np.linspace(0.0, horizon, MOMENTS + 1))
    inside = [time % horizon if horizon > 0.0 else 0.0 for time in times if math.isfinite(time)]
    return np.unique([*inside, 0.0, horizon])


def shapes_at(compiled: CompiledLevel, index: int, times: Floats) -> list[list[Any]]:
    """Return the convex shapes of a piece at each time, as polygons; routes that wait have begun."""
    own = compiled.placement.only(compiled.placement.piece == index)
    motion = _motion(compiled, index, times)
    return [shape_polygons(_at(compiled, own, index, motion, number)) for number in range(len(times))]


def swept(before: list[Any], after: list[Any]) -> list[Any]:
    """Return what convex shapes cover between two moments."""
    return [shapely.union_all(pair).convex_hull for pair in zip(before, after, strict=True)]


def _motion(compiled: CompiledLevel, index: int, times: Floats) -> Motion:
    tables = pose_tables_of(compiled.level)
    return tables.motions([index], times, resting=tables.running())[index]


def _at(compiled: CompiledLevel, own: Placement, index: int, motion: Motion, number: int) -> Placement:
    return own.carried(index, compiled.origins[index], motion.offset[number], float(motion.angle[number]))
