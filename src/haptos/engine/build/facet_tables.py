"""From the facets of pieces to tables: surfaces, fields, ladders and launchers, and where each of them acts."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.filling import Row, facet_row, filled
from haptos.engine.build.mover_plans import STAYS, Motions
from haptos.engine.build.obstacles import as_obstacles, repeated
from haptos.engine.records.codes import (
    ATTRACTS_TO,
    FALLOFFS,
    FIELD_ROLE,
    FLOOR_ROLE,
    LADDER_ROLE,
    LASTS,
    LAUNCH_ROLE,
    NO_GRAVITY,
    POINTS,
    TURNS_OVER,
)
from haptos.engine.records.tables import FIELD, LADDER, LAUNCH, PIECE, SURFACE, Obstacles
from haptos.errors import LevelError
from haptos.geometry.convex import turned
from haptos.geometry.outlines import Body, Outlines, grow_outlines, joined_outlines
from haptos.geometry.placement import (
    SIDE_DIRECTIONS,
    Placement,
    joined,
    launch_direction,
    starts,
)
from haptos.geometry.rails import Rails, rails_of
from haptos.level.facets import FieldEffect
from haptos.level.resolve import ResolvedLevel
from haptos.level.resolved_piece import ResolvedPiece

Floats = NDArray[np.float64]

# A ladder is in reach of a body that stands on its top, by this share of the body's height.
ABOVE_TOP = 1e-3


class Acting(NamedTuple):
    """Outlines that act on what is inside: their role, the row that says how, and the shapes they were grown from."""

    outlines: Outlines
    role: int
    row: int
    shapes: Placement


class Reach(NamedTuple):
    """Outlines in which a facet acts, and the shapes that they were grown from."""

    outlines: Outlines
    shapes: Placement


class Place(NamedTuple):
    """A piece with a facet: its number, its shapes, whom it meets, and how."""

    motions: Motions
    piece: ResolvedPiece
    number: int
    shapes: Placement
    body: Body
    meeting: str


Made = Iterator[tuple[Row, Reach | None]]


class Powers(NamedTuple):
    """The tables of facets, and the shapes behind the effects' outlines: which one is behind each, STAYS if none.

    `owners` are the pieces behind the rows of each table.
    """

    tables: dict[str, Any]
    shapes: Placement
    source: NDArray[np.int64]
    owners: dict[str, NDArray[np.int64]]


def compile_powers(motions: Motions, placement: Placement, body: Body, is_wanted: bool) -> Powers:
    """Return the tables of facets: effects, pieces, surfaces, fields, ladders, launches.

    They come together, some of them empty, or are None together: so few sorts of kernels have to be compiled.

    Parameters
    ----------
    motions : Motions
    placement : Placement
        Of every shape of the level.
    body : Body
        The player's.
    is_wanted : bool
        Whether the tables are made though all of them are empty.
    """
    resolved = motions.resolved
    pieces = np.full(len(resolved.pieces), -1, dtype=[(name, "i8") for name in PIECE.names or ()])
    rows: dict[str, list[Row]] = {power.table: [] for power in POWERS}
    owners: dict[str, list[int]] = {power.table: [] for power in POWERS}
    acting: list[Acting] = []
    top_view = resolved.level.world.view == "top"
    for index, piece in enumerate(resolved.pieces):
        meeting = resolved.meeting(piece)
        shapes = placement.only(placement.piece == index) if piece.facets else None
        if shapes is None or meeting == "nothing":
            continue
        _require_movable(motions, piece, index, meeting, top_view)
        for power in POWERS:
            if piece.facet(power.facet) is None or meeting not in power.meetings or (top_view and power.is_upright):
                continue
            place = Place(motions, piece, index, shapes, body, meeting)
            for row, grown in power.made(place):
                number = len(rows[power.table])
                if power.facet in (PIECE.names or ()) and (meeting == "solid" or power.facet == "surface"):
                    pieces[power.facet][index] = number
                if grown is not None:
                    acting.append(Acting(grown.outlines, power.role, number, grown.shapes))
                rows[power.table].append(row)
                owners[power.table].append(index)
    if not any(rows.values()) and not is_wanted:
        tables: dict[str, Any] = dict.fromkeys(("effects", "pieces", *rows))
        return Powers(tables, joined([]), np.zeros(0, dtype=np.int64), {})
    effects, source = _effects(motions, acting, body)
    tables = {"effects": effects, "pieces": pieces.astype(PIECE)}
    for power in POWERS:
        tables[power.table] = None if top_view and power.is_upright else filled(power.layout, rows[power.table])
    behind = {table: np.array(found, dtype=np.int64) for table, found in owners.items()}
    return Powers(tables, joined([one.shapes for one in acting]), source, behind)


def ladder_tops(resolved: ResolvedLevel, placement: Placement) -> Placement:
    """Return the tops of ladders that can be stood on: lines that are solid from above alone."""
    blocks = []
    for index, piece in enumerate(resolved.pieces):
        ladder = piece.facet("ladder")
        if ladder is None or not ladder.top or resolved.meeting(piece) != "overlap":
            continue
        angle = np.deg2rad(piece.turn)
        side = turned(np.array([[0.0, 1.0]]), angle)
        for low, high, at in rails_of(resolved, piece, placement.only(placement.piece == index)):
            line = turned(np.array([[low[0], high[1]], [high[0], high[1]]]), angle)
            one = np.ones(1, dtype=np.int64)
            blocks.append(Placement(index * one, starts(2 * one), 2 * one, np.zeros(1), side, line + at))
    return joined(blocks)


def _effects(motions: Motions, acting: list[Acting], body: Body) -> tuple[Obstacles, NDArray[np.int64]]:
    level = motions.resolved.level
    whole = grow_outlines(joined([]), Body())
    roles: list[int] = []
    rows: list[int] = []
    source: list[int] = []
    shapes = 0
    for one in acting:
        outlines = repeated(level, one.outlines, motions.turns)
        whole = joined_outlines(whole, outlines)
        roles += [one.role] * len(outlines.piece)
        rows += [one.row] * len(outlines.piece)
        own = len(one.shapes.piece)
        source += [*range(shapes, shapes + own), *[STAYS] * (len(outlines.piece) - own)]
        shapes += own
    moves = motions.numbers[whole.piece] >= 0
    obstacles = as_obstacles(whole, max(level.player.shape.size), moves, motions.room(body))
    obstacles.outlines["role"], obstacles.outlines["row"] = roles, rows
    return obstacles, np.array(source, dtype=np.int64)


def _require_movable(motions: Motions, piece: ResolvedPiece, index: int, meeting: str, top_view: bool) -> None:
    """Raise where something moves, or turns, that has to stay as it is."""
    if motions.numbers[index] < 0:
        return
    if piece.facet("ladder") is not None and meeting == "overlap" and not top_view:
        raise LevelError(
            f"{piece.place}, ladder", "found a ladder on what moves, expected it on what stays in its place"
        )
    if piece.facet("launch") is not None and not top_view and (motions.turns[index] or meeting == "overlap"):
        what = "what turns" if meeting == "solid" else "what moves and is only overlapped"
        message = f"found a launch on {what}, expected it on a solid piece that keeps its direction"
        raise LevelError(f"{piece.place}, launch", message)


def _surface(place: Place) -> Made:
    surface = place.piece.facet("surface")
    belt = turned(np.array([surface.conveyor, 0.0]), np.deg2rad(place.piece.turn))
    # What is overlapped is a floor of the top view.
    is_floor = place.meeting == "overlap" and place.motions.resolved.level.world.view == "top"
    grown = Reach(grow_outlines(place.shapes, Body()), place.shapes) if is_floor else None
    yield facet_row(surface, SURFACE, belt_x=belt[0], belt_y=belt[1]), grown


def _field(place: Place) -> Made:
    field = place.piece.facet("field")
    x, y = place.motions.origins[place.number]
    row = facet_row(
        field, FIELD, **_gravity(place, field), piece=place.number, mover=place.motions.numbers[place.number],
        x=x, y=y, push_x=field.push[0], push_y=field.push[1], entered=0.0,
    )  # fmt: skip
    yield row, Reach(grow_outlines(place.shapes, place.body), place.shapes)


def _gravity(place: Place, field: FieldEffect) -> Row:
    """Return what a field makes of gravity, as it stands in the table."""
    own, world = field.gravity, place.motions.resolved.level.world
    if own is not None and world.is_weightless:
        where = f"{place.piece.place}, field.gravity"
        if own.flip:
            raise LevelError(f"{where}.flip", "found it in a world without gravity, expected vector, or toward")
        if own.toward and own.strength is None:
            raise LevelError(f"{where}.strength", "found none, expected one in a world without gravity")
    if own is None:
        return {
            "gravity": int(NO_GRAVITY), "lasts": 0, "falloff": 0, "gravity_x": 0.0, "gravity_y": 0.0, "strength": 0.0,
            "reference": 1.0, "core": 0.0,
        }  # fmt: skip
    kind = TURNS_OVER if own.flip else POINTS if own.vector is not None else ATTRACTS_TO
    strength = math.hypot(*world.gravity) if own.strength is None else own.strength
    x, y = own.vector or (0.0, 0.0)
    return {
        "gravity": int(kind), "lasts": LASTS.index(own.lasts), "falloff": FALLOFFS.index(own.falloff), "gravity_x": x,
        "gravity_y": y, "strength": strength, "reference": own.reference or 1.0, "core": own.core,
    }  # fmt: skip


def _ladder(place: Place) -> Made:
    """Make a row for each ladder of a piece, of which tiles have many."""
    piece, ladder = place.piece, place.piece.facet("ladder")
    angle = np.deg2rad(piece.turn)
    up = turned(np.array([0.0, 1.0]), angle)
    for rails in rails_of(place.motions.resolved, piece, place.shapes):
        low, high, at = rails
        middle = turned((low + high) / 2, angle) + at
        row = facet_row(
            ladder, LADDER, piece=place.number, x=middle[0], y=middle[1], up_x=up[0], up_y=up[1],
            half_height=(high[1] - low[1]) / 2,
        )  # fmt: skip
        yield row, Reach(_reach(place.motions.resolved, piece, rails, place.number), joined([]))


def _reach(resolved: ResolvedLevel, piece: ResolvedPiece, rails: Rails, index: int) -> Outlines:
    """Return where the centre of a body is that can take hold: between the rails, its foot or head on the ladder."""
    low, high, at = rails
    height = resolved.level.player.shape.size[1]
    low = low - np.array([0.0, height / 2])
    high = high + np.array([0.0, height / 2 + ABOVE_TOP * height])
    box = np.array([low, [high[0], low[1]], high, [low[0], high[1]]])
    one = np.ones(1, dtype=np.int64)
    corners = turned(box, np.deg2rad(piece.turn)) + at
    return grow_outlines(Placement(index * one, 0 * one, 4 * one, np.zeros(1), np.zeros((1, 2)), corners), Body())


def _launch(place: Place) -> Made:
    launch = place.piece.facet("launch")
    own_side = np.zeros(2) if launch.from_ == "any" else np.array(SIDE_DIRECTIONS[launch.from_])
    side = turned(own_side, np.deg2rad(place.piece.turn))
    way = launch_direction(place.piece)
    speed = launch.speed or 0.0
    if launch.impulse is not None:
        speed = launch.impulse / place.motions.resolved.level.player.mass
    row = facet_row(launch, LAUNCH, piece=place.number, side_x=side[0], side_y=side[1], x=way[0], y=way[1], speed=speed)
    is_felt = place.meeting == "overlap"
    yield row, Reach(grow_outlines(place.shapes, place.body), place.shapes) if is_felt else None


class Power(NamedTuple):
    """What makes a table of one facet.

    Attributes
    ----------
    facet, table : its key in the level file, the name of its table
    layout : of the table's rows
    role : what its outlines do among the effects
    meetings : how its piece has to meet the player for the facet to act
    is_upright : whether it is of no use in the top view
    made : makes the rows, each with the outlines in which it acts, None if it acts on what touches the piece
    """

    facet: str
    table: str
    layout: np.dtype[np.void]
    role: int
    meetings: tuple[str, ...]
    is_upright: bool
    made: Callable[[Place], Made]


# In the order in which what they do is worked out.
POWERS = (
    Power("surface", "surfaces", SURFACE, FLOOR_ROLE, ("solid", "overlap"), False, _surface),
    Power("launch", "launches", LAUNCH, LAUNCH_ROLE, ("solid", "overlap"), True, _launch),
    Power("field", "fields", FIELD, FIELD_ROLE, ("overlap",), False, _field),
    Power("ladder", "ladders", LADDER, LADDER_ROLE, ("overlap",), True, _ladder),
)
