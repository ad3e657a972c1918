"""From the routes of pieces to tables: which outlines move, and how far they reach."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from haptos.engine.tables import LEG, MOVER, Movers, Obstacles, Records
from haptos.geometry.placement import starts
from haptos.level.resolve import ResolvedLevel
from haptos.level.routes import legs_of, period_of

Floats = NDArray[np.float64]
STAYS = -1
NOWHERE = (math.inf, math.inf, -math.inf, -math.inf)
FURTHEST = (np.minimum, np.minimum, np.maximum, np.maximum)
# The slowest rise of a launch to a height, as a share of its speed, is taken to be a tenth.
SLANTED = 10.0


def movers_of(resolved: ResolvedLevel) -> NDArray[np.int64]:
    """Return for each piece which mover it is, -1 for those that stay."""
    moves = np.array([is_mover(resolved, index) for index in range(len(resolved.pieces))], dtype=bool)
    return np.where(moves, np.cumsum(moves) - 1, STAYS)


def is_mover(resolved: ResolvedLevel, index: int) -> bool:
    """Whether a piece moves and the player can meet it."""
    piece = resolved.pieces[index]
    return piece.facet("route") is not None and resolved.meeting(piece) != "nothing"


def reach_of(resolved: ResolvedLevel, pieces: NDArray[np.int64]) -> Floats:
    """Return how far outlines of these pieces move from where they are placed: left, down, right, up."""
    reach = np.zeros((len(resolved.pieces), 4))
    for index, piece in enumerate(resolved.pieces):
        if is_mover(resolved, index):
            stops = np.array(piece.facet("route").stops)
            reach[index] = *stops.min(axis=0), *stops.max(axis=0)
    return reach[pieces]


def compile_movers(resolved: ResolvedLevel, solids: Obstacles, zones: Obstacles | None) -> Movers | None:
    """Return the tables of what moves, None where nothing does; mark its outlines.

    Parameters
    ----------
    resolved : ResolvedLevel
    solids, zones : Obstacles
        At rest; `mover` of their outlines is written.
    """
    numbers = movers_of(resolved)
    if not np.any(numbers >= 0):
        return None
    rows: list[tuple[float, ...]] = []
    legs: list[tuple[float, ...]] = []
    for index in np.flatnonzero(numbers >= 0):
        route = resolved.pieces[index].facet("route")
        own = legs_of(route)
        period = math.inf if route.mode == "once" or period_of(own) <= 0.0 else period_of(own)
        rows.append((int(index), len(legs), len(own), period, route.start, int(route.ease), *NOWHERE))
        legs += own
    table = np.array(rows, dtype=MOVER)
    items = []
    for obstacles in (solids, zones):
        if obstacles is None:
            items += [np.zeros(len(rows) + 1, dtype=np.int64), np.zeros(0, dtype=np.int64)]
            continue
        mover = numbers[obstacles.outlines["piece"]]
        obstacles.outlines["mover"] = mover
        reach = reach_of(resolved, obstacles.outlines["piece"])
        for column, (side, furthest) in enumerate(zip(("x0", "y0", "x1", "y1"), FURTHEST, strict=True)):
            furthest.at(table[side], mover[mover >= 0], (obstacles.outlines[side] + reach[:, column])[mover >= 0])
        order = np.argsort(mover, kind="stable")
        order = order[mover[order] >= 0]
        counts = np.bincount(mover[order], minlength=len(rows)).astype(np.int64)
        items += [np.append(starts(counts), counts.sum()), order]
    ways = np.array(legs, dtype=LEG)
    solid_start, solid_items, zone_start, zone_items = items
    return Movers(table, ways, solid_start, solid_items, zone_start, zone_items, _fastest(resolved, ways))


def _fastest(resolved: ResolvedLevel, ways: Records) -> float:
    """Return a speed that nothing in the level adds more than to the body's own; infinite where it is put elsewhere."""
    level = resolved.level
    bounds = level.world.bounds
    if bounds is not None and "wrap" in (bounds.left, bounds.bottom):
        return math.inf
    gravity = math.hypot(*level.world.gravity)
    speeds = [level.player.gaits.walk, level.player.gaits.sprint, level.player.climb.speed]
    if level.world.view == "side":
        speeds.append(level.player.jump_speed(gravity))
    for piece in resolved.pieces:
        launch, surface = piece.facet("launch"), piece.facet("surface")
        if surface is not None:
            speeds.append(abs(surface.conveyor))
        if launch is not None:
            thrown = launch.speed or (launch.impulse or 0.0) / level.player.mass
            # A slanted launch to a height is faster than a straight one; see `launch`.
            slant = SLANTED * math.sqrt(2.0 * gravity * launch.height) if launch.height else 0.0
            speeds.append(max(thrown, slant) * max(launch.jump_factor, 1.0))
    with np.errstate(divide="ignore", invalid="ignore"):
        moves = np.hypot(ways["dx"], ways["dy"]) / ways["duration"]
    # At half of an eased way the speed is 1.5 times the mean.
    return float(sum(speeds) + 1.5 * np.nan_to_num(moves, posinf=0.0).max(initial=0.0))
