"""From drift, fragile, spawners and shots to tables: what flies and breaks, and what makes it."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.mover_plans import STAYS, Motions
from haptos.engine.pieces.neighbours import MOST_CELLS, NONE
from haptos.engine.records import Records
from haptos.engine.records.codes import (
    AROUND,
    AT_BOX,
    AT_PLAYER,
    EXITS,
    HERE,
    INSIDE_BOUNDS,
    ON_CARRIER,
    ON_PIECE,
    OUTSIDE_BOUNDS,
    UNAIMED,
    WHERE_FIRED,
    WITH_PLAYER,
)
from haptos.engine.records.motion_records import FLIGHT, FLYING, LINK, SHAPE, SPAWNER
from haptos.errors import LevelError
from haptos.geometry.placement import Placement
from haptos.level.assemblies import NO_PARENT, ON_PLAYER, PLAYER
from haptos.level.casting import Maker
from haptos.level.contacts import MOST_LAYERS
from haptos.level.flying import Drift, Shot, Spawner
from haptos.level.resolved_piece import ResolvedPiece

Floats = NDArray[np.float64]


class Flying(NamedTuple):
    """Tables of what flies, and the corners of all shapes that it can meet."""

    flights: Records
    shapes: Records
    spawners: Records
    slots: NDArray[np.int64]
    corners: Floats


class FreeToFly(NamedTuple):
    """What is told of that which is free to fly, and what is not; the fields of `Movers` that have these names."""

    others: NDArray[np.int64]
    flying: Records
    links: Records
    heads: NDArray[np.int64]
    cell: float
    tied: NDArray[np.int64]


def free_to_fly(tables: Flying, table: Records, room: float) -> FreeToFly:
    """Return the tables of what is free to fly, before any of it is there.

    Parameters
    ----------
    tables : Flying
    table : (k,) MOVER
    room : float
        The least width of a cell.
    """
    flights = tables.flights
    # One more stands for all that stays.
    free = np.zeros(len(table) + 1, dtype=bool)
    free[flights["mover"][flights["free"] == 1]] = True
    flying = np.zeros(len(flights), dtype=FLYING)
    flying["mover"] = flights["mover"]
    links = np.full(int(MOST_CELLS) * len(flights), NONE).astype(LINK)
    heads = np.full(1 << len(flights).bit_length(), NONE, dtype=np.int64)
    # A cell is wide enough for the largest, and for some way.
    scale = max(float(tables.spawners["scale_high"].max(initial=1.0)), 1.0)
    largest = float(table["radius"][flights["mover"]].max(initial=0.0)) * scale
    return FreeToFly(
        np.flatnonzero(~free[tables.shapes["mover"]]), flying, links, heads, max(4.0 * largest, room),
        np.flatnonzero((table["still"] == 0) & ~free[:-1]),
    )  # fmt: skip


def compile_flying(motions: Motions, shapes: Placement, table: Records, first_corner: int) -> Flying:
    """Return the tables of what flies; `flight` of the movers' table is written.

    Parameters
    ----------
    motions : Motions
    shapes : Placement
        Of every piece.
    table : (k,) MOVER
    first_corner : int
        How many corners come before the shapes'.
    """
    resolved = motions.resolved
    made = motions.cast.made
    flies = [
        index
        for index in motions.leaders
        if index in made or resolved.pieces[index].flies or "fragile" in resolved.pieces[index].facets
    ]
    others_take = any(set(piece.facet("pickup").by) != {PLAYER} for piece in resolved.pieces if piece.facet("pickup"))
    if not flies and motions.player == STAYS:
        rows, corners = np.zeros(0, dtype=SHAPE), np.zeros((0, 2))
        if others_take or resolved.noticed:
            rows, corners = _shapes(motions, shapes, first_corner)
        return Flying(np.zeros(0, dtype=FLIGHT), rows, np.zeros(0, dtype=SPAWNER), np.zeros(0, dtype=np.int64), corners)
    rows, corners = _shapes(motions, shapes, first_corner)
    flights = np.zeros(len(flies), dtype=FLIGHT)
    for number, index in enumerate(flies):
        mover = int(motions.numbers[index])
        own = np.flatnonzero(rows["mover"] == mover)
        if index in made and any(motions.numbers[one] != mover for one in resolved.descendants(index)):
            _require_plain(motions, index)
        flights[number] = _flight(motions, resolved.pieces[index], mover, index in made, rows[own])
        flights["first"][number], flights["last"][number] = (own[0], own[-1] + 1) if len(own) else (0, 0)
        table["flight"][mover] = number
    for flight in flights:
        for name in ("breaks_on", "bounces_off"):
            rows[name][rows["mover"] == flight["mover"]] = flight[name]
        flight["carries"] = any(plan.parent == flight["mover"] for plan in motions.plans)
        flight["hangs"] = _hangs(motions, int(flight["mover"]))
    rows["hangs"] = [_hangs(motions, mover) for mover in rows["mover"].tolist()]
    if motions.player != STAYS:
        flights = np.append(flights, _player_flight(motions.player))
        table["flight"][motions.player] = len(flies)
    row_of = {index: number for number, index in enumerate(flies)}
    spawners, slots = _spawners(motions, row_of)
    return Flying(flights, rows, spawners, slots, corners)


def _hangs(motions: Motions, mover: int) -> bool:
    """Whether a mover hangs on the player, directly or not."""
    while mover != STAYS and mover != motions.player:
        mover = motions.plans[mover].parent
    return mover == motions.player != STAYS


def _require_plain(motions: Motions, index: int) -> None:
    """Raise where something is made larger whose children move by themselves."""
    for maker in motions.cast.makers:
        if index in maker.slots and maker.spawner.scale != (1.0, 1.0):
            message = "found a scale for a kind whose children move by themselves, expected none"
            raise LevelError(f"{maker.place}.scale", message)


def _shapes(motions: Motions, shapes: Placement, first_corner: int) -> tuple[Records, Floats]:
    """Return every shape as it is, those of one mover one after another, and the corners of their cores."""
    resolved = motions.resolved
    layers = resolved.contacts.layers
    mover = motions.numbers[shapes.piece]
    order = motions.shape_rows(shapes)
    rows = np.zeros(len(order), dtype=SHAPE)
    corners: list[Floats] = [np.zeros((0, 2))]
    count = first_corner
    for row, index in zip(rows, order, strict=True):
        piece = int(shapes.piece[index])
        core, radius = shapes.corners(int(index)), float(shapes.radius[index])
        if mover[index] >= 0:
            core = core - motions.origins[motions.leaders[mover[index]]]
        middle = core.mean(axis=0)
        about = np.zeros(2) if mover[index] >= 0 else middle
        row["piece"], row["mover"], row["layer"] = piece, mover[index], layers.index(resolved.pieces[piece].layer)
        row["first"], row["count"], row["radius"] = count, len(core), radius
        row["x"], row["y"] = middle
        row["reach"] = np.hypot(*(core - about).T).max() + radius
        row["side_x"], row["side_y"] = shapes.side[index]
        row["x0"], row["y0"] = core.min(axis=0) - radius
        row["x1"], row["y1"] = core.max(axis=0) + radius
        row["pace"] = motions.pace(int(mover[index]), float(row["reach"]))
        corners.append(core)
        count += len(core)
    return rows, np.concatenate(corners)


def _flight(motions: Motions, piece: ResolvedPiece, mover: int, is_made: bool, own: Records) -> Any:
    resolved = motions.resolved
    layers = resolved.contacts.layers
    drift, fragile = piece.facet("drift"), piece.facet("fragile")
    row = np.zeros(1, dtype=FLIGHT)[0]
    row["mover"], row["made"] = mover, is_made
    plan = motions.plans[mover]
    row["free"] = plan.parent < 0 and plan.way is None and not {"spin", "crumble"} & piece.facets.keys()
    row["flies"] = is_made or piece.flies
    row["radius"], row["pace"] = own["reach"].max(initial=0.0), own["pace"].max(initial=0.0)
    row["restitution"], row["mass"] = -1.0, math.inf
    row["layer"] = layers.index(piece.layer)
    if isinstance(drift, Drift):
        row["vx"], row["vy"] = drift.velocity
        row["spin"] = math.radians(drift.spin)
        row["mass"] = math.inf if drift.mass is None else drift.mass / resolved.level.player.mass
        row["on_exit"] = EXITS[drift.on_exit]
        row["box_x"], row["box_y"] = (0.0, 0.0) if drift.box is None else (drift.box[0] / 2, drift.box[1] / 2)
        if drift.restitution is not None:
            row["restitution"] = drift.restitution
            row["bounces_off"] = _bits(
                layers, lambda other: resolved.contacts.between(piece.layer, other).meeting == "solid"
            )
    loose = piece.facet("body")
    if loose is not None:
        # Its mass is known only once its shapes are weighed.
        if drift is None:
            row["vx"], row["vy"] = loose.velocity
            row["spin"] = math.radians(loose.spin)
        row["restitution"], row["bounces_off"] = -1.0, 0
    if fragile is not None:
        row["hits"] = fragile.hits
        row["breaks_on"] = _bits(layers, lambda other: other in fragile.on)
    return row


def _player_flight(number: int) -> Records:
    """Return the row by which what hangs on the player goes where it goes; it meets nothing."""
    row = np.zeros(1, dtype=FLIGHT)
    row["mover"], row["free"], row["restitution"], row["mass"] = number, 1, -1.0, math.inf
    row["layer"] = MOST_LAYERS
    return row


def _bits(layers: tuple[str, ...], holds: Any) -> int:
    return sum(1 << index for index, layer in enumerate(layers) if holds(layer))


def _spawners(motions: Motions, row_of: dict[int, int]) -> tuple[Records, NDArray[np.int64]]:
    resolved = motions.resolved
    table = np.zeros(len(motions.cast.makers), dtype=SPAWNER)
    slots: list[int] = []
    kinds: dict[str, int] = {}
    for number, maker in enumerate(motions.cast.makers):
        row = table[number]
        row["first_slot"], row["slots"] = len(slots), len(maker.slots)
        slots += [row_of[index] for index in maker.slots]
        _stand(motions, row, maker)
        _describe(row, maker.spawner)
        if maker.is_shot:
            shot = resolved.level.player.shot
            assert isinstance(shot, Shot)
            row["is_shot"], row["cooldown"], row["speed_low"] = 1, shot.cooldown, shot.speed
            row["first"] = 0.0
        row["kind"] = kinds.setdefault(maker.spawner.kind, number)
    return table, np.array(slots, dtype=np.int64)


def _stand(motions: Motions, row: Any, maker: Maker) -> None:
    """Write where something makes what it makes."""
    row["piece"], row["mover"] = -1, -1
    row["x"], row["y"] = maker.offset
    if maker.parent != NO_PARENT:
        # Its slots are placed on the carrier.
        row["stands"] = ON_CARRIER
        row["piece"], row["mover"] = max(maker.parent, -1), motions.plans[motions.numbers[maker.slots[0]]].parent
        row["x"], row["y"] = motions.origins[maker.slots[0]]
    elif maker.piece >= 0:
        row["stands"] = ON_PIECE
        row["piece"], row["mover"] = maker.piece, motions.numbers[maker.piece]
        row["x"], row["y"] = motions.origins[maker.piece] + np.array(maker.offset)
    else:
        row["stands"] = WITH_PLAYER if maker.piece == ON_PLAYER else WHERE_FIRED


def _describe(row: Any, spawner: Spawner) -> None:
    """Write what a spawner says."""
    never = math.inf if spawner.every is None else 0.0
    row["first"] = never if spawner.first is None else spawner.first
    row["every_low"], row["every_high"] = (math.inf, math.inf) if spawner.every is None else spawner.every
    row["area"] = HERE
    if isinstance(spawner.area, tuple):
        row["area"], (row["width"], row["height"]) = AROUND, spawner.area
    elif spawner.area is not None:
        row["area"] = INSIDE_BOUNDS if spawner.area == "inside" else OUTSIDE_BOUNDS
    # Without a velocity it flies as its kind drifts.
    row["vx"] = row["vy"] = math.nan
    row["aim"] = UNAIMED
    if spawner.velocity is not None:
        row["vx"], row["vy"] = spawner.velocity
    if spawner.aim is not None:
        row["aim"] = AT_PLAYER if spawner.aim.box is None else AT_BOX
        row["speed_low"], row["speed_high"] = spawner.aim.speed
        if spawner.aim.box is not None:
            row["aim_x"], row["aim_y"] = spawner.aim.box[0] / 2, spawner.aim.box[1] / 2
    row["lasts"] = math.inf if spawner.lasts is None else spawner.lasts
    row["scale_low"], row["scale_high"] = spawner.scale
    row["turn_low"], row["turn_high"] = np.radians(spawner.turn)
