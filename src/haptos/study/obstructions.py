"""What lies in the way of a jump across a gap, and what its ends are called."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

import numpy as np
import shapely

from haptos.engine.build.compile_level import CompiledLevel, body_of
from haptos.geometry.convex import turned
from haptos.geometry.polygons import body_polygon, shape_polygons
from haptos.level.roster import MAP_PREFIX
from haptos.level.shapes import half_extents
from haptos.study.ballistics import Flight
from haptos.study.solids import solid_shapes
from haptos.study.surfaces import axes

# A jump is looked at at so many moments; what it overlaps by less than this share of the body's height it touches.
MOMENTS = 24
TOUCH = 0.05


def in_the_way(
    compiled: CompiledLevel, flight: Flight, leap: Any, edge: tuple[tuple[float, float], float], gap: float, rise: float
) -> str:
    """Return the name of what stays in the way of a jump from an edge, before it is across; nothing if nothing is.

    Parameters
    ----------
    compiled : CompiledLevel
    flight : Flight
    leap : Leap
        Its gait, and its speeds ahead and up.
    edge : ((x, y), way)
        Where it begins, along right and up, and to which side it goes.
    gap, rise : float
    """
    (x, y), way = edge
    frame, size = axes(compiled), compiled.level.player.shape.size[1]
    rising = leap.up / flight.rising
    apex = leap.up * leap.up / (2.0 * flight.rising)
    across = gap / leap.ahead if leap.ahead > 0.0 else math.inf
    last = min(across, rising + flight.fall_time(max(apex - rise, 0.0)))
    times = np.linspace(0.0, last, MOMENTS)
    drops = [apex - _fallen(flight, time - rising) for time in times]
    heights = np.where(times <= rising, leap.up * times - 0.5 * flight.rising * times**2, drops)
    foot = half_extents(compiled.level.player.shape)[0]
    middles = np.column_stack((x + way * (foot + leap.ahead * times), y + size / 2 + heights)) @ frame
    tilt = math.atan2(frame[1][0] * -1.0, frame[1][1])
    body = body_of(compiled.level)._replace(angle=tilt)
    shapes = [body_polygon(body, *middle).buffer(-TOUCH * size) for middle in middles]
    way_of_body = shapely.union_all([shapely.union_all(pair).convex_hull for pair in pairwise(shapes)])
    solids = solid_shapes(compiled, one_way=False)
    stays = solids.only(~np.isin(solids.piece, list(compiled.resolved.moving)))
    polygons = shape_polygons(stays)
    for number in shapely.STRtree(polygons).query(way_of_body, predicate="intersects") if polygons else ():
        return compiled.resolved.pieces[int(stays.piece[number])].name
    return ""


def name_at(compiled: CompiledLevel, piece: int, point: Any, inward: float) -> str:
    """Return the name of a piece; of tiles, with the column and row of the one at a point: ``stone at 12,3``."""
    name = compiled.resolved.pieces[piece].name
    tiles = compiled.level.tiles
    if tiles is None or not name.startswith(MAP_PREFIX):
        return name
    right, up = axes(compiled)
    inside = np.asarray(point) + 0.5 * tiles.tile * (inward * right - up)
    column, row = np.floor(turned(inside - np.array(tiles.at), -np.deg2rad(tiles.turn)) / tiles.tile).astype(int)
    return f"{name.removeprefix(MAP_PREFIX)} at {column},{row}"


def _fallen(flight: Flight, time: float) -> float:
    """Return how far a body has fallen from the apex after a time."""
    if time <= 0.0:
        return 0.0
    until = flight.terminal / flight.falling if flight.falling > 0.0 else math.inf
    if time <= until:
        return 0.5 * flight.falling * time * time
    return flight.terminal * (time - until / 2.0)
