"""From bodies and hinges to tables: their masses, whom they can meet, and what holds for all of them."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.facet_tables import Powers
from haptos.engine.build.filling import Row, filled
from haptos.engine.build.hinge_tables import compile_hinges
from haptos.engine.build.mover_plans import STAYS, Motions
from haptos.engine.build.obstacles import grid_of
from haptos.engine.records import Records
from haptos.engine.records.codes import FIRST_WALL
from haptos.engine.records.loose_records import ACTS_ON, LAWS, LOOSE, Loose
from haptos.engine.records.motion_records import CORNER, SHAPE, Movers
from haptos.errors import LevelError
from haptos.geometry.cells import sort_boxes
from haptos.geometry.joints import covered_sides
from haptos.geometry.masses import matter_of_shapes
from haptos.geometry.outlines import Body
from haptos.geometry.placement import Placement
from haptos.level.level import Level
from haptos.level.loose import LIGHTER
from haptos.level.noticing import never_meet
from haptos.level.world import SIDES

Integers = NDArray[np.int64]
# A tick is gone through in so many steps, and in more where ticks are longer than usual.
SUBSTEPS, USUAL_RATE = 4, 60.0
# A touch gives way as a spring that swings so often a second would, with so many times the damping that stops it.
FREQUENCY, DAMPING = 60.0, 2.0
# What closes more slowly than two ticks of gravity, or than this share of a body's height a second, comes to rest.
TICKS_OF_FALL, SLOWEST_BOUNCE = 2.0, 0.02
# Bounds are walls so thick, as a share of the world.
THICKNESS = 0.25
# Bodies are sorted by heights in steps of so much of the smallest one's size.
STAIR = 0.25


def compile_loose(
    motions: Motions, shapes: Placement, movers: Movers, powers: Powers, body: Body
) -> tuple[Loose, Movers]:
    """Return the tables of loose bodies, and the movers with the corners that those need.

    Parameters
    ----------
    motions : Motions
    shapes : Placement
        Of every piece.
    movers : Movers
    powers : Powers
    body : Body
        The player's.
    """
    resolved = motions.resolved
    level = resolved.level
    layers = resolved.contacts.layers
    solid_to = _solid_to(resolved)
    walls, corners = _walls(level, movers, len(layers))
    movers = movers._replace(corners=np.concatenate((movers.corners, corners)))
    own = _player_shape(movers, level, body)
    table = np.concatenate((movers.shapes, walls, own))
    leaders = [index for index in motions.leaders if resolved.pieces[index].facet("body") is not None]
    loose_movers = {int(motions.numbers[index]) for index in leaders}
    bodies, parts, aparts = _bodies(motions, shapes, movers, leaders, solid_to)
    stays = np.flatnonzero((table["mover"][:-1] < 0) & (solid_to[table["layer"][:-1]] != 0))
    boxes = np.column_stack([table[side][stays] for side in ("x0", "y0", "x1", "y1")]).reshape(-1, 4)
    cells = sort_boxes(boxes, 2.0 * max(level.player.shape.size))
    others = _others(motions, table, loose_movers, solid_to, leaders)
    row_of = {int(motions.numbers[index]): row for row, index in enumerate(leaders)}
    other_of = {mover: place for place, mover in enumerate(others.tolist())}
    shown = np.flatnonzero(np.isin(table["mover"][:-1], others) & (solid_to[table["layer"][:-1]] != 0))
    hinges = compile_hinges(motions, bodies, row_of, other_of)
    row_of_piece = np.full(len(resolved.pieces), STAYS, dtype=np.int64)
    row_of_piece[bodies["piece"]] = np.arange(len(bodies))
    # What bodies weigh is told to what kicks, and which movers they are to everybody.
    movers.movers["loose"][bodies["mover"]] = 1 + np.arange(len(bodies))
    movers.flights["mass"][bodies["flight"]] = bodies["mass"] / level.player.mass
    bodies["pinned"] = [int(np.sum((hinges["second"] == row) | (hinges["first"] == row))) for row in range(len(bodies))]
    loose = Loose(
        bodies=bodies,
        laws=_laws(level, body, layers, bodies["size"]),
        shapes=table,
        parts=parts,
        solid_to=solid_to,
        covered=_covered(motions, shapes, movers, table, solid_to),
        grid=grid_of(cells),
        start=cells.start,
        items=stays[cells.items].astype(np.int64),
        others=others,
        other_shapes=shown.astype(np.int64),
        other_of=np.array([other_of[int(mover)] for mover in table["mover"][shown]], dtype=np.int64),
        aparts=aparts,
        row_of=row_of_piece,
        zones=_zones(motions, movers, powers, layers),
        hinges=hinges,
    )
    return loose, movers


def _solid_to(resolved: Any) -> Integers:
    """Return for each layer those that are solid to it, as bits; the last is that of the walls of the world."""
    layers = resolved.contacts.layers
    rows = [
        sum(1 << other for other, its in enumerate(layers) if resolved.contacts.between(layer, its).meeting == "solid")
        for layer in layers
    ]
    wall = 1 << len(layers)
    return np.array([row | wall for row in rows] + [wall - 1], dtype=np.int64)


def _laws(level: Level, body: Body, layers: tuple[str, ...], sizes: NDArray[np.float64]) -> Records:
    """Return what holds for all bodies."""
    world, player = level.world, level.player
    dt = 1.0 / world.tick_rate
    substeps = max(SUBSTEPS, math.ceil(SUBSTEPS * USUAL_RATE / world.tick_rate - 1e-9))
    step = dt / substeps
    omega = 2.0 * math.pi * FREQUENCY
    damped = 2.0 * DAMPING + step * omega
    gravity = math.hypot(*world.gravity)
    bounds = world.bounds
    wraps_x = bounds.corners[2] - bounds.corners[0] if bounds is not None and bounds.left == "wrap" else 0.0
    wraps_y = bounds.corners[3] - bounds.corners[1] if bounds is not None and bounds.bottom == "wrap" else 0.0
    gx, gy = world.gravity if world.view == "side" else (0.0, 0.0)
    return filled(
        LAWS,
        [
            {
                "substeps": substeps, "step": step, "soft": omega / damped, "give": 1.0 / (step * omega * damped),
                "bounce": TICKS_OF_FALL * math.hypot(gx, gy) * dt + SLOWEST_BOUNCE * player.shape.size[1],
                "gravity_x": gx, "gravity_y": gy, "up_x": world.up[0], "up_y": world.up[1],
                "force": player.push_force(gravity), "mass": player.mass, "weight": player.mass * math.hypot(gx, gy),
                "layer": layers.index(player.layer or "body"),
                "steepest": math.cos(math.radians(player.ground.max_slope)), "top": world.view == "top",
                "wraps_x": wraps_x, "wraps_y": wraps_y,
                "stair": STAIR * float(sizes.min()),
                "reach": math.hypot(body.half_width, body.half_height) + body.radius,
            }
        ],
    )  # fmt: skip


def _bodies(
    motions: Motions, shapes: Placement, movers: Movers, leaders: list[int], solid_to: Integers
) -> tuple[Records, Integers, Integers]:
    """Return the bodies, the shapes that are theirs, and the pieces that they never meet."""
    resolved = motions.resolved
    level = resolved.level
    width, height = level.player.shape.size
    usual = LIGHTER * level.player.mass / (width * height)
    rows: list[Row] = []
    parts: list[int] = []
    aparts: list[int] = []
    named = [index for index, piece in enumerate(resolved.pieces) if piece.never_meets]
    for index in leaders:
        piece = resolved.pieces[index]
        facet = piece.facet("body")
        mover = int(motions.numbers[index])
        own = np.flatnonzero(shapes.piece == index)
        if not len(own) or not piece.can_be_met:
            raise LevelError(f"{piece.place}, body", "found a body without a shape, expected one")
        matter = matter_of_shapes(shapes, own)
        if not matter.area > 0.0:
            raise LevelError(f"{piece.place}, body", "found a shape without area, expected one such as a box")
        density = facet.mass / matter.area if facet.mass is not None else (facet.density or usual)
        origin = motions.origins[index]
        centre = np.array([matter.x, matter.y]) - origin
        solid = np.flatnonzero((movers.shapes["mover"] == mover) & (solid_to[movers.shapes["layer"]] != 0))
        reach = max(
            (_reach(movers, row, centre) for row in solid.tolist()),
            default=float(np.hypot(*centre)) + math.sqrt(matter.area),
        )
        apart = [
            other
            for other, one in enumerate(resolved.pieces)
            if other != index and (piece.never_meets or other in named) and never_meet(resolved, piece, one)
        ]
        rows.append(
            {
                "mover": mover, "flight": int(movers.movers["flight"][mover]), "piece": index,
                "layer": resolved.contacts.layers.index(piece.layer), "first_part": len(parts), "parts": len(solid),
                "first_apart": len(aparts), "aparts": len(apart), "mass": density * matter.area,
                "inertia": density * matter.moment, "friction": facet.friction, "restitution": facet.restitution,
                "gravity_factor": facet.gravity_factor, "drag": facet.drag, "spin_drag": facet.spin_drag,
                "vx": facet.velocity[0], "vy": facet.velocity[1], "spin": math.radians(facet.spin),
                "turns": facet.turns, "sleeps": facet.sleeps, "pinned": 0, "heeds": _heeds(movers, mover),
                "centre_x": centre[0],
                "centre_y": centre[1], "reach": reach, "size": math.sqrt(matter.area), "ground": 0.0,
            }
        )  # fmt: skip
        parts += solid.tolist()
        aparts += apart
    return filled(LOOSE, rows), np.array(parts, dtype=np.int64), np.array(aparts, dtype=np.int64)


def _heeds(movers: Movers, mover: int) -> bool:
    """Whether a body, or anything that it can meet, breaks or bounces off."""
    own = movers.flights[movers.movers["flight"][mover]]
    if own["breaks_on"] | own["bounces_off"]:
        return True
    meets = np.bitwise_or.reduce(movers.shapes["breaks_on"] | movers.shapes["bounces_off"], initial=0)
    flies = np.bitwise_or.reduce(movers.flights["breaks_on"] | movers.flights["bounces_off"], initial=0)
    return bool(((int(meets) | int(flies)) >> int(own["layer"])) & 1)


def _reach(movers: Movers, row: int, centre: NDArray[np.float64]) -> float:
    shape = movers.shapes[row]
    corners = movers.corners[shape["first"] : shape["first"] + shape["count"]]
    return float(np.hypot(corners["x"] - centre[0], corners["y"] - centre[1]).max() + shape["radius"])


def _others(
    motions: Motions, table: Records, loose_movers: set[int], solid_to: Integers, leaders: list[int]
) -> Integers:
    """Return the movers that bodies can meet, or are pinned to."""
    resolved = motions.resolved
    solid = set(table["mover"][solid_to[table["layer"]] != 0].tolist())
    pinned = {
        int(motions.numbers[other])
        for index in leaders
        if (hinge := resolved.pieces[index].facet("hinge")) is not None and hinge.to is not None
        for other in resolved.answering(hinge.to)
    }
    found = []
    for number, plan in enumerate(motions.plans):
        carriers = set()
        parent = plan.parent
        while parent >= 0 and parent < len(motions.plans):
            carriers.add(parent)
            parent = motions.plans[parent].parent
        # What goes with a body, or hangs on the player, is not met by bodies.
        hangs = plan.parent == motions.player != STAYS
        if number in (solid | pinned) and number not in loose_movers and not carriers & loose_movers and not hangs:
            found.append(number)
    return np.array(found, dtype=np.int64)


def _walls(level: Level, movers: Movers, layer: int) -> tuple[Records, Records]:
    """Return the walls of the world as thick boxes, and their corners."""
    bounds = level.world.bounds
    rows: list[Records] = []
    corners: list[tuple[float, float]] = []
    if bounds is not None:
        x0, y0, x1, y1 = bounds.corners
        thick = THICKNESS * max(x1 - x0, y1 - y0)
        boxes = {
            "left": (x0 - thick, y0 - thick, x0, y1 + thick),
            "right": (x1, y0 - thick, x1 + thick, y1 + thick),
            "bottom": (x0 - thick, y0 - thick, x1 + thick, y0),
            "top": (x0 - thick, y1, x1 + thick, y1 + thick),
        }
        for number, side in enumerate(SIDES):
            if getattr(bounds, side) != "wall":
                continue
            left, low, right, high = boxes[side]
            row = np.zeros(1, dtype=SHAPE)
            row["piece"], row["mover"], row["layer"] = FIRST_WALL - number, STAYS, layer
            row["first"], row["count"] = len(movers.corners) + len(corners), 4
            row["x"], row["y"] = (left + right) / 2, (low + high) / 2
            row["reach"] = math.hypot(right - left, high - low) / 2
            row["x0"], row["y0"], row["x1"], row["y1"] = left, low, right, high
            rows.append(row)
            corners += [(left, low), (right, low), (right, high), (left, high)]
    table = np.concatenate(rows) if rows else np.zeros(0, dtype=SHAPE)
    return table, np.array(corners, dtype=CORNER)


def _player_shape(movers: Movers, level: Level, body: Body) -> Records:
    """Return the player's shape, whose corners come first."""
    row = np.zeros(1, dtype=SHAPE)
    row["piece"], row["mover"], row["first"], row["count"] = STAYS, STAYS, 0, movers.sides
    row["layer"] = level.contact_table().layers.index(level.player.layer or "body")
    row["radius"] = body.radius
    return row


def _covered(motions: Motions, shapes: Placement, movers: Movers, table: Records, solid_to: Integers) -> Integers:
    """Return for each corner of the movers whether its side lies all along another solid that stays."""
    covered = np.zeros(len(movers.corners), dtype=np.int64)
    resolved = motions.resolved
    order = motions.shape_rows(shapes)
    layer = np.array([resolved.contacts.layers.index(piece.layer) for piece in resolved.pieces])
    rows = np.flatnonzero(
        (movers.shapes["mover"] < 0)
        & (solid_to[movers.shapes["layer"]] != 0)
        & (movers.shapes["radius"] == 0.0)
        & (movers.shapes["count"] > 2)
        & (movers.shapes["side_x"] == 0.0)
        & (movers.shapes["side_y"] == 0.0)
    )
    if len(rows) == 0:
        return covered
    which = order[rows]
    meets = solid_to[layer[shapes.piece[which]]]
    # Whatever meets the one has to meet the other, too.
    hides = (meets[:, None] & ~meets[None, :]) == 0
    found = covered_sides(shapes, which, hides)
    for row, index in zip(rows, which, strict=True):
        first, own = int(shapes.first[index]), int(table["first"][row])
        count = int(table["count"][row])
        covered[own : own + count] = found[first : first + count]
    return covered


def _zones(motions: Motions, movers: Movers, powers: Powers, layers: tuple[str, ...]) -> Records:
    """Return the zones whose fields act on bodies, by their shapes."""
    resolved = motions.resolved
    rows = []
    for field, owner in enumerate(powers.owners.get("fields", np.zeros(0, dtype=np.int64)).tolist()):
        its = resolved.pieces[owner].layer
        bits = sum(
            1 << number
            for number, layer in enumerate(layers)
            if resolved.contacts.between(layer, its).meeting == "overlap"
        )
        rows += [
            {"shape": int(shape), "field": field, "layers": bits}
            for shape in np.flatnonzero(movers.shapes["piece"] == owner)
        ]
    return filled(ACTS_ON, rows)
