"""From the facets of pieces to tables: surfaces, fields, ladders and launchers, and where each of them acts."""

from __future__ import annotations

import math
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
    piece_box,
    piece_places,
    starts,
)
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
    meetings = [resolved.meeting(piece) for piece in resolved.pieces]
    rows: dict[str, list[Row]] = {"surface": [], "field": [], "ladder": [], "launch": []}
    pieces = np.full(len(resolved.pieces), -1, dtype=[(name, "i8") for name in PIECE.names or ()])
    acting: list[Acting] = []
    owners: dict[str, list[int]] = {name: [] for name in rows}
    top_view = resolved.level.world.view == "top"
    for index, (piece, meeting) in enumerate(zip(resolved.pieces, meetings, strict=True)):
        shapes = placement.only(placement.piece == index) if piece.facets else None
        if shapes is None or meeting == "nothing":
            continue
        _require_movable(motions, piece, index, meeting, top_view)
        before = {name: len(found) for name, found in rows.items()}
        if piece.facet("surface") is not None:
            pieces["surface"][index] = len(rows["surface"])
            if meeting == "overlap" and top_view:
                acting.append(Acting(grow_outlines(shapes, Body()), FLOOR_ROLE, len(rows["surface"]), shapes))
            rows["surface"].append(_surface(piece))
        if piece.facet("launch") is not None and not top_view:
            if meeting == "solid":
                pieces["launch"][index] = len(rows["launch"])
            else:
                acting.append(Acting(grow_outlines(shapes, body), LAUNCH_ROLE, len(rows["launch"]), shapes))
            rows["launch"].append(_launch(resolved, piece, index))
        if meeting == "overlap" and piece.facet("field") is not None:
            acting.append(Acting(grow_outlines(shapes, body), FIELD_ROLE, len(rows["field"]), shapes))
            rows["field"].append(_field(motions, piece, index))
        if meeting == "overlap" and piece.facet("ladder") is not None and not top_view:
            for at in piece_places(piece, shapes):
                reach = _reach(resolved, piece, at, index)
                acting.append(Acting(reach, LADDER_ROLE, len(rows["ladder"]), joined([])))
                rows["ladder"].append(_ladder(piece, at, index))
        for name, found in rows.items():
            owners[name] += [index] * (len(found) - before[name])
    if not any(rows.values()) and not is_wanted:
        tables = dict.fromkeys(("effects", "pieces", "surfaces", "fields", "ladders", "launches"))
        return Powers(tables, joined([]), np.zeros(0, dtype=np.int64), {})
    effects, source = _effects(motions, acting, body)
    tables = {
        "effects": effects,
        "pieces": pieces.astype(PIECE),
        "surfaces": filled(SURFACE, rows["surface"]),
        "fields": filled(FIELD, rows["field"]),
        "ladders": None if top_view else filled(LADDER, rows["ladder"]),
        "launches": None if top_view else filled(LAUNCH, rows["launch"]),
    }
    names = {"surface": "surfaces", "field": "fields", "launch": "launches"}
    behind = {table: np.array(owners[name], dtype=np.int64) for name, table in names.items()}
    return Powers(tables, joined([one.shapes for one in acting]), source, behind)


def ladder_tops(resolved: ResolvedLevel, placement: Placement) -> Placement:
    """Return the tops of ladders that can be stood on: lines that are solid from above alone."""
    blocks = []
    for index, piece in enumerate(resolved.pieces):
        ladder = piece.facet("ladder")
        if ladder is None or not ladder.top or resolved.meeting(piece) != "overlap":
            continue
        low, high = piece_box(piece)
        angle = np.deg2rad(piece.turn)
        line = turned(np.array([[low[0], high[1]], [high[0], high[1]]]), angle)
        side = turned(np.array([[0.0, 1.0]]), angle)
        for at in piece_places(piece, placement.only(placement.piece == index)):
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
    reach = motions.reach(whole.piece, whole.box, body)
    obstacles = as_obstacles(whole, max(level.player.shape.size), reach)
    obstacles.outlines["role"], obstacles.outlines["row"] = roles, rows
    return obstacles, np.array(source, dtype=np.int64)


def _require_movable(motions: Motions, piece: ResolvedPiece, index: int, meeting: str, top_view: bool) -> None:
    """Raise where something moves, or turns, that has to stay as it is."""
    if motions.numbers[index] < 0:
        return
    if piece.facet("ladder") is not None and meeting == "overlap" and not top_view:
        raise LevelError(f"{piece.place}, ladder", "found a ladder on what moves, wanted it on what stays in its place")
    if piece.facet("launch") is not None and not top_view and (motions.turns[index] or meeting == "overlap"):
        what = "what turns" if meeting == "solid" else "what moves and is only overlapped"
        message = f"found a launch on {what}, wanted it on a solid piece that keeps its direction"
        raise LevelError(f"{piece.place}, launch", message)


def _surface(piece: ResolvedPiece) -> Row:
    surface = piece.facet("surface")
    belt = turned(np.array([surface.conveyor, 0.0]), np.deg2rad(piece.turn))
    return facet_row(surface, SURFACE, belt_x=belt[0], belt_y=belt[1])


def _field(motions: Motions, piece: ResolvedPiece, index: int) -> Row:
    field = piece.facet("field")
    x, y = motions.origins[index]
    return facet_row(
        field, FIELD, **_gravity(motions, field), piece=index, mover=motions.numbers[index], x=x, y=y,
        push_x=field.push[0], push_y=field.push[1], entered=0.0,
    )  # fmt: skip


def _gravity(motions: Motions, field: FieldEffect) -> Row:
    """Return what a field makes of gravity, as it stands in the table."""
    own = field.gravity
    if own is None:
        return {
            "gravity": int(NO_GRAVITY), "lasts": 0, "falloff": 0, "gravity_x": 0.0, "gravity_y": 0.0, "strength": 0.0,
            "reference": 1.0, "core": 0.0,
        }  # fmt: skip
    kind = TURNS_OVER if own.flip else POINTS if own.vector is not None else ATTRACTS_TO
    strength = math.hypot(*motions.resolved.level.world.gravity) if own.strength is None else own.strength
    x, y = own.vector or (0.0, 0.0)
    return {
        "gravity": int(kind), "lasts": LASTS.index(own.lasts), "falloff": FALLOFFS.index(own.falloff), "gravity_x": x,
        "gravity_y": y, "strength": strength, "reference": own.reference or 1.0, "core": own.core,
    }  # fmt: skip


def _ladder(piece: ResolvedPiece, at: Floats, index: int) -> Row:
    ladder = piece.facet("ladder")
    low, high = piece_box(piece)
    angle = np.deg2rad(piece.turn)
    middle = turned((low + high) / 2, angle) + at
    up = turned(np.array([0.0, 1.0]), angle)
    return facet_row(
        ladder, LADDER, piece=index, x=middle[0], y=middle[1], up_x=up[0], up_y=up[1],
        half_height=(high[1] - low[1]) / 2,
    )  # fmt: skip


def _reach(resolved: ResolvedLevel, piece: ResolvedPiece, at: Floats, index: int) -> Outlines:
    """Return where the centre of a body is that can take hold: between the rails, its foot or head on the ladder."""
    low, high = piece_box(piece)
    height = resolved.level.player.shape.size[1]
    low = low - np.array([0.0, height / 2])
    high = high + np.array([0.0, height / 2 + ABOVE_TOP * height])
    box = np.array([low, [high[0], low[1]], high, [low[0], high[1]]])
    one = np.ones(1, dtype=np.int64)
    corners = turned(box, np.deg2rad(piece.turn)) + at
    return grow_outlines(Placement(index * one, 0 * one, 4 * one, np.zeros(1), np.zeros((1, 2)), corners), Body())


def _launch(resolved: ResolvedLevel, piece: ResolvedPiece, index: int) -> Row:
    launch = piece.facet("launch")
    own_side = np.zeros(2) if launch.from_ == "any" else np.array(SIDE_DIRECTIONS[launch.from_])
    side = turned(own_side, np.deg2rad(piece.turn))
    way = launch_direction(piece)
    speed = launch.speed or 0.0
    if launch.impulse is not None:
        speed = launch.impulse / resolved.level.player.mass
    return facet_row(launch, LAUNCH, piece=index, side_x=side[0], side_y=side[1], x=way[0], y=way[1], speed=speed)
