"""From the routes, spins and crumbling of pieces to tables: what moves as one, how far it reaches, how fast it is."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.flight_tables import Flying, compile_flying, free_to_fly
from haptos.engine.build.mover_plans import STAYS, STILL, Motions, radius_of
from haptos.engine.records import Records
from haptos.engine.records.codes import FLOOR_ROLE, MEETS_PLAYER, WAITS_FOR_A_RULE, WAITS_TO_BE_RIDDEN
from haptos.engine.records.motion_records import (
    CORNER,
    CRUMBLE,
    FLIGHT,
    ITEM,
    KNOT,
    LEG,
    MOVER,
    SHAPE,
    SPAWNER,
    Movers,
)
from haptos.engine.records.tables import FACE, Obstacles
from haptos.geometry.outlines import Body
from haptos.geometry.placement import Placement, spin_pivot
from haptos.level.facets import SIDE_ANGLES, Crumble
from haptos.level.resolve import ResolvedLevel
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.routes import RIDDEN

Floats = NDArray[np.float64]
Integers = NDArray[np.int64]
NOWHERE = (math.inf, math.inf, -math.inf, -math.inf)
FURTHEST = (np.minimum, np.minimum, np.maximum, np.maximum)
# Heights of the body in a cell of what flies, at least.
CELL = 8.0
# The slowest rise of a launch to a height, as a share of its speed, is taken to be a tenth.
SLANTED = 10.0


class Grown(NamedTuple):
    """Obstacles at rest, the shapes that they were grown from, and which of these is behind each outline."""

    obstacles: Obstacles
    shapes: Placement
    source: Integers


def compile_movers(
    motions: Motions,
    body: Body,
    shapes: Placement,
    solids: Grown,
    zones: Grown | None,
    effects: Grown | None,
    is_wanted: bool,
) -> tuple[Movers | None, Obstacles, Obstacles | None, Obstacles | None]:
    """Return the tables of what moves, None where nothing does, and the obstacles with its outlines marked.

    Parameters
    ----------
    motions : Motions
    body : Body
        The player's.
    shapes : Placement
        Of every piece.
    solids, zones, effects : Grown
    is_wanted : bool
        Whether the tables are made though nothing moves.
    """
    given = [solids, zones, effects]
    if not motions.leaders and not motions.still and not is_wanted:
        unmarked: list[Any] = [None if one is None else one.obstacles for one in given]
        return None, unmarked[0], unmarked[1], unmarked[2]
    table, legs, knots, crumbles = _tables(motions)
    table = np.concatenate((table, _still(motions), _player(motions)))
    corners = body.corners
    low = np.lexsort((corners[:, 0], np.round(corners[:, 1], 9)))[0]
    points: list[Floats] = [np.roll(corners, -int(low), axis=0), np.zeros((1, 2))]
    table["body_corners"], table["body_radius"] = len(corners), body.radius
    items: list[list[tuple[float, ...]]] = [[] for _ in range(3 * len(table))]
    marked: list[Any] = [
        one if one is None else _mark(motions, one, body, table, items[sort::3], points)
        for sort, one in enumerate(given)
    ]
    ends = np.cumsum([0, *map(len, items)])
    for column, name in enumerate(("solid", "zone", "effect")):
        table[name] = ends[column:-1:3]
    table["end"] = ends[3::3]
    flying = compile_flying(motions, shapes, table, sum(map(len, points)))
    points.append(flying.corners)
    rows = np.array([row for run in items for row in run], dtype=ITEM)
    corner_rows = np.array([tuple(point) for point in np.concatenate(points)], dtype=CORNER)
    fastest = _fastest(motions.resolved) + float(table["fastest"].max(initial=0.0))
    carrying = _carrying(motions, marked[1])
    timed = np.flatnonzero((table["crumble"] >= 0) | (table["rule"] >= 0)).astype(np.int64)
    cell = CELL * max(motions.resolved.level.player.shape.size)
    movers = Movers(
        table, legs, knots, crumbles, rows, corner_rows, flying.flights, flying.shapes, flying.spawners, flying.slots,
        *free_to_fly(flying, table, cell), timed, carrying, motions.player, len(corners), fastest,
        float(motions.resolved.level.world.tick_rate),
    )  # fmt: skip
    return movers, marked[0], marked[1], marked[2]


def pose_tables(motions: Motions) -> Movers:
    """Return the tables of what moves, with what its poses depend on and nothing else."""
    table, legs, knots, crumbles = _tables(motions)
    table = np.concatenate((table, _player(motions)))
    for index, number in enumerate(table["piece"]):
        drifts = number >= 0 and number in motions.flies
        table["flight"][index] = 0 if drifts or number == MEETS_PLAYER else STAYS
    none, layouts = np.zeros(0, dtype=np.int64), (ITEM, CORNER, FLIGHT, SHAPE, SPAWNER)
    items, corners, flights, shapes, spawners = (np.zeros(0, dtype=layout) for layout in layouts)
    flying = Flying(flights, shapes, spawners, none, np.zeros((0, 2)))
    return Movers(
        table, legs, knots, crumbles, items, corners, flights, shapes, spawners, none,
        *free_to_fly(flying, table, 1.0), none, none, motions.player, 0, 0.0, 0.0,
    )  # fmt: skip


def _tables(motions: Motions) -> tuple[Records, Records, Records, Records]:
    resolved = motions.resolved
    table = np.zeros(len(motions.plans), dtype=MOVER)
    legs: list[tuple[float, ...]] = []
    knots: list[Floats] = [np.zeros((0, 4))]
    crumbles: list[tuple[float, ...]] = []
    rules = [rule for _, rule in resolved.rules if resolved.heeds(rule)]
    for row, plan in zip(table, motions.plans, strict=True):
        piece = resolved.pieces[plan.index]
        route, spin, crumble = piece.facet("route"), piece.facet("spin"), piece.facet("crumble")
        row["piece"], row["parent"], row["assembly"] = plan.index, plan.parent, plan.assembly
        row["x"], row["y"] = motions.origins[plan.index]
        row["turning"], row["fastest"] = plan.turning > 0.0, plan.speed
        row["revolves"], row["accel"] = plan.turning > 2.0 * STILL, plan.accel
        row["x0"], row["y0"], row["x1"], row["y1"] = NOWHERE
        row["crumble"], row["rule"], row["flight"] = -1, -1, -1
        row["off"] = not piece.active
        if route is not None and plan.way is not None:
            way = plan.way
            row["first_leg"], row["legs"] = len(legs), len(way.legs)
            row["period"] = math.inf if route.mode == "once" or way.period <= 0.0 else way.period
            row["start"], row["ease"], row["turns"] = route.start, route.ease, route.turns
            row["curved"], row["heading"] = route.curve == "smooth", way.legs[0].heading
            before = sum(len(rows) for rows in knots)
            legs += [leg._replace(first_knot=leg.first_knot + before) for leg in way.legs]
            knots.append(way.knots)
            if route.waits_for == RIDDEN:
                row["waits"] = WAITS_TO_BE_RIDDEN
            elif route.waits_for is not None:
                row["waits"] = WAITS_FOR_A_RULE
                row["rule"] = next(number for number, rule in enumerate(rules) if rule.is_called(route.waits_for))
        if spin is not None:
            row["spin"] = math.radians(spin.speed)
            row["pivot_x"], row["pivot_y"] = spin_pivot(piece)
        if crumble is not None:
            row["crumble"] = len(crumbles)
            crumbles.append(_crumble(motions, piece, crumble))
    points = np.concatenate(knots)
    rows = np.array([tuple(point) for point in points], dtype=KNOT)
    return table, np.array(legs, dtype=LEG), rows, np.array(crumbles, dtype=CRUMBLE)


def _still(motions: Motions) -> Records:
    """Return the rows of what stays and is grown anew by a body that turns."""
    rows = np.zeros(len(motions.still), dtype=MOVER)
    rows["piece"], rows["still"], rows["turning"] = motions.still, 1, 1
    rows["x"], rows["y"] = motions.origins[motions.still].T if len(motions.still) else ([], [])
    rows["x0"], rows["y0"], rows["x1"], rows["y1"] = NOWHERE
    for name in ("parent", "crumble", "rule", "flight"):
        rows[name] = -1
    rows["assembly"], rows["period"] = STAYS, math.inf
    return rows


def _player(motions: Motions) -> Records:
    """Return the row that stands for the player, if anything has to hang on it."""
    if motions.player == STAYS:
        return np.zeros(0, dtype=MOVER)
    row = np.zeros(1, dtype=MOVER)
    row["piece"], row["still"] = MEETS_PLAYER, 1
    row["x"], row["y"] = motions.resolved.level.player.at
    row["x0"], row["y0"], row["x1"], row["y1"] = NOWHERE
    for name in ("parent", "crumble", "rule", "flight"):
        row[name] = -1
    row["assembly"], row["period"] = STAYS, math.inf
    return row


def _crumble(motions: Motions, piece: ResolvedPiece, crumble: Crumble) -> tuple[float, ...]:
    side = np.zeros(2)
    if crumble.from_ != "any":
        angle = math.radians(SIDE_ANGLES[crumble.from_] + piece.turn)
        side = np.array([math.cos(angle), math.sin(angle)])
    lost_below = motions.resolved.level.world.lost_below
    returns = math.inf if crumble.returns_after is None else crumble.returns_after
    return (
        crumble.delay, *side, motions.fall_accel(crumble), crumble.fall_speed or math.inf, crumble.gone_after, returns,
        -math.inf if lost_below is None else lost_below, int(crumble.latched),
    )  # fmt: skip


def _mark(
    motions: Motions, grown: Grown, body: Body, table: Records, items: list[list[Any]], points: list[Floats]
) -> Obstacles:
    """Mark the outlines of movers and widen the movers' boxes; give turning ones room for all faces they can have.

    The items of each mover are added to its list, and their corners to the points.
    """
    obstacles, shapes, source = grown
    outlines = obstacles.outlines
    mover = motions.numbers[outlines["piece"]]
    outlines["mover"] = mover
    outlines["assembly"] = np.append(table["assembly"], STAYS)[mover]
    # What stays belongs to none, but has its items too where the body turns.
    place = np.full(len(motions.resolved.pieces), STAYS, dtype=np.int64)
    place[motions.still] = len(motions.plans) + np.arange(len(motions.still))
    mover = np.where(mover >= 0, mover, place[outlines["piece"]])
    # Reaches of ladders have no shape behind them, and stay as they are.
    moving = np.flatnonzero((mover >= 0) & (source[: len(mover)] >= 0))
    boxes = np.column_stack([outlines[side] for side in ("x0", "y0", "x1", "y1")])
    reach = motions.reach(outlines["piece"], boxes, body)
    for column, (side, furthest) in enumerate(zip(("x0", "y0", "x1", "y1"), FURTHEST, strict=True)):
        furthest.at(table[side], mover[moving], (boxes + reach)[moving, column])
    count = sum(map(len, points))
    faces = [obstacles.faces]
    room = len(obstacles.faces)
    for index in moving:
        row, outline = table[mover[index]], outlines[index]
        plan = None if row["still"] else motions.plans[mover[index]]
        own = obstacles.faces[outline["first"] : outline["first"] + outline["count"]]
        is_sharp = outline["role"] == FLOOR_ROLE
        origin = motions.origins[int(row["piece"])]
        radius = radius_of(own, float(outline["radius"]), origin, body)
        row["radius"] = max(row["radius"], radius)
        if plan is not None:
            # Who is near is told by distances, which are the same in a level that is turned; the box holds all of them.
            row["x0"], row["y0"] = np.minimum((row["x0"], row["y0"]), plan.low - radius)
            row["x1"], row["y1"] = np.maximum((row["x1"], row["y1"]), plan.high + radius)
        if plan is None or plan.turning > 0.0:
            if plan is not None:
                row["fastest"] = max(row["fastest"], plan.speed + plan.turning * radius)
                row["accel"] = max(row["accel"], plan.accel + 2.0 * plan.turning**2 * radius)
            corners = shapes.corners(int(source[index])) - origin
            spare = np.zeros(max(len(corners) + len(body.corners), len(own)), dtype=FACE)
            spare[: len(own)] = own
            outline["first"] = room
            faces.append(spare)
            room += len(spare)
        else:
            corners = np.column_stack((own["x"], own["y"]))
        direction = (outline["side_x"], outline["side_y"])
        own_radius = outline["radius"] - (0.0 if is_sharp else body.radius)
        items[mover[index]].append((index, count, len(corners), is_sharp, *boxes[index], *direction, own_radius))
        points.append(corners)
        count += len(corners)
    return obstacles._replace(faces=np.concatenate(faces))


def _carrying(motions: Motions, zones: Obstacles | None) -> Integers:
    """Return the zone outlines that take along what is inside."""
    if zones is None:
        return np.zeros(0, dtype=np.int64)
    fields = [piece.facet("field") for piece in motions.resolved.pieces]
    carries = np.array([field is not None and field.carries for field in fields], dtype=bool)
    outlines = zones.outlines
    chosen = carries[outlines["piece"]] & (outlines["mover"] >= 0) & (outlines["twin"] < 0)
    return np.flatnonzero(chosen).astype(np.int64)


def _fastest(resolved: ResolvedLevel) -> float:
    """Return a speed that nothing that stays adds more than to the body's own; infinite where it is put elsewhere."""
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
        drift = piece.facet("drift")
        if drift is not None:
            speeds.append(math.hypot(*drift.velocity))
    return float(sum(speeds))
