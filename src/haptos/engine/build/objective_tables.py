"""From pickups, harm, checkpoints, finishes and counters to tables."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.filling import Row, facet_row, filled
from haptos.engine.build.mover_plans import Motions
from haptos.engine.build.obstacles import grid_of
from haptos.engine.records import Records
from haptos.engine.records.codes import ROUNDINGS
from haptos.engine.records.objective_records import (
    CHECKPOINT,
    COUNTER,
    FINISH,
    HARM,
    PICKUP,
    PIECE_STAKES,
    REWARD,
    SIGHT,
    VITALS,
    Stakes,
)
from haptos.errors import LevelError
from haptos.geometry.cells import sort_boxes
from haptos.geometry.convex import turned
from haptos.geometry.outlines import Body
from haptos.geometry.placement import Placement
from haptos.level.assemblies import PLAYER
from haptos.level.level import Level
from haptos.level.names import did_you_mean
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.stakes import Checkpoint, Harm, Pickup

Floats = NDArray[np.float64]
FACETS = ("pickup", "harm", "checkpoint", "finish")
FACING_ANGLES = {"right": 0.0, "up": 90.0, "left": 180.0, "down": 270.0}


def facing_code(level: Level, facing: str) -> float:
    """Return the number that stands for a way to face: degrees in the top view, else +1 right and -1 left."""
    if level.world.view == "top":
        return FACING_ANGLES[facing]
    return -1.0 if facing == "left" else 1.0


def has_stakes(motions: Motions) -> bool:
    """Whether anything in a level can be taken, hurts, saves, ends or is counted."""
    level = motions.resolved.level
    player = level.player
    return (
        bool(level.counters)
        or any(name in piece.facets for piece in motions.resolved.pieces for name in FACETS)
        or player.fall.harm_per_unit > 0.0
        or player.health.lives is not None
        or player.on_death != "respawn"
        or (not player.crush.lethal and player.crush.points > 0.0)
    )


def compile_stakes(motions: Motions, shapes: Placement, body: Body) -> Stakes:
    """Return the tables of what is at stake.

    Parameters
    ----------
    motions : Motions
    shapes : Placement
        Of every piece.
    body : Body
        The player's.

    Raises
    ------
    LevelError
        If a piece asks for what the level does not have.
    """
    resolved = motions.resolved
    names = list(resolved.level.counters)
    pieces = np.full(len(resolved.pieces), -1, dtype=[(name, "i8") for name in PIECE_STAKES.names or ()])
    rows: dict[str, list[Row]] = {name: [] for name in FACETS}
    pieces["cushions"] = 0
    for index, piece in enumerate(resolved.pieces):
        surface = piece.facet("surface")
        pieces["cushions"][index] = (surface is not None and surface.cushion) or "launch" in piece.facets
        meeting = resolved.meeting(piece)
        for name in FACETS:
            facet = piece.facet(name)
            if facet is None or meeting == "nothing":
                continue
            if name != "pickup":
                pieces[name][index] = len(rows[name])
            if name == "pickup":
                rows[name].append(_pickup(motions, piece, index, shapes, facet, names))
            elif name == "harm":
                rows[name].append(_harm(motions, index, facet))
            elif name == "checkpoint":
                rows[name].append(_checkpoint(motions, piece, index, facet))
            else:
                needs = -1 if facet.needs is None else names.index(facet.needs)
                rows[name].append({"piece": index, "needs": needs})
    pickups = filled(PICKUP, rows["pickup"])
    takers = _takers(motions, shapes, pickups)
    grid, start, items = _grid(pickups, body)
    return Stakes(
        pickups, grid, start, items, np.flatnonzero(pickups["mover"] >= 0).astype(np.int64),
        np.flatnonzero(pickups["takers"] > 0).astype(np.int64), takers,
        _sights(motions, shapes, pickups), filled(HARM, rows["harm"]),
        filled(CHECKPOINT, rows["checkpoint"]), filled(FINISH, rows["finish"]),
        _counters(motions, pickups), _rewards(motions), pieces.astype(PIECE_STAKES), _vitals(motions),
    )  # fmt: skip


def _pickup(
    motions: Motions, piece: ResolvedPiece, index: int, shapes: Placement, pickup: Pickup, names: list[str]
) -> Row:
    resolved = motions.resolved
    if resolved.meeting(piece) == "solid":
        message = "found a pickup on a layer that is solid to the player, expected one that it overlaps"
        raise LevelError(f"{piece.place}, pickup", message)
    if piece.tiles:
        raise LevelError(f"{piece.place}, pickup", "found a pickup on tiles of the map, expected it on pieces")
    if pickup.collect_within is not None:
        collect = piece.scale * pickup.collect_within
    else:
        own = shapes.only(shapes.piece == index)
        if not len(own.piece):
            message = "found none with a piece that has no shape, expected a distance"
            raise LevelError(f"{piece.place}, pickup.collect_within", message)
        low = np.min([own.corners(one).min(axis=0) - own.radius[one] for one in range(len(own.piece))], axis=0)
        high = np.max([own.corners(one).max(axis=0) + own.radius[one] for one in range(len(own.piece))], axis=0)
        collect = float((high - low).min()) / 2
    layers = resolved.contacts.layers
    x, y = motions.origins[index]
    slot = motions.cast.slot_of(index)
    return facet_row(
        pickup, PICKUP, piece=index, mover=motions.numbers[index], x=x, y=y, collect=collect,
        attract=piece.scale * pickup.attract_within, eases=pickup.motion == "ease",
        counter=-1 if pickup.counter is None else names.index(pickup.counter),
        blocked_by=sum(1 << layers.index(layer) for layer in set(pickup.blocked_by)), by_player=PLAYER in pickup.by,
        first_taker=0, takers=0, slot=-1 if slot is None else motions.numbers[slot],
    )  # fmt: skip


def _takers(motions: Motions, shapes: Placement, pickups: Records) -> NDArray[np.int64]:
    """Return the rows of `Movers.shapes` of what takes pickups besides the player; write which are whose."""
    resolved = motions.resolved
    order = motions.shape_rows(shapes)
    found: list[int] = []
    for row in pickups:
        piece = resolved.pieces[int(row["piece"])]
        others = [name for name in piece.facet("pickup").by if name != PLAYER]
        row["first_taker"] = len(found)
        for name in others:
            chosen = resolved.answering(name)
            if not chosen:
                hint = did_you_mean(name, [PLAYER, *resolved.by_name, *resolved.level.kinds])
                raise LevelError(f"{piece.place}, pickup.by", f"no piece, kind, mark or layer '{name}'{hint}")
            if all(motions.numbers[index] < 0 for index in chosen):
                message = f"found '{name}', which stays where it is, expected what moves"
                raise LevelError(f"{piece.place}, pickup.by", message)
            rows = np.flatnonzero(np.isin(shapes.piece[order], chosen) & (motions.numbers[shapes.piece[order]] >= 0))
            found += [int(one) for one in rows]
        row["takers"] = len(found) - row["first_taker"]
    return np.array(found, dtype=np.int64)


def _harm(motions: Motions, index: int, harm: Harm) -> Row:
    x, y = motions.origins[index]
    return facet_row(harm, HARM, piece=index, x=x, y=y)


def _checkpoint(motions: Motions, piece: ResolvedPiece, index: int, checkpoint: Checkpoint) -> Row:
    level = motions.resolved.level
    place = motions.origins[index]
    if checkpoint.respawn_at is not None:
        place = place + turned(piece.scale * np.array(checkpoint.respawn_at), np.deg2rad(piece.turn))
    code = facing_code(level, checkpoint.facing or level.player.facing)
    bounds = level.world.bounds
    if bounds is not None:
        x0, y0, x1, y1 = bounds.corners
        if not (x0 <= place[0] <= x1 and y0 <= place[1] <= y1):
            found = f"found a respawn place at ({place[0]:g}, {place[1]:g}), out of the bounds, expected one inside"
            raise LevelError(f"{piece.place}, checkpoint.respawn_at", found)
    return facet_row(checkpoint, CHECKPOINT, piece=index, x=place[0], y=place[1], facing=code)


def _grid(pickups: Records, body: Body) -> tuple[Records, NDArray[np.int64], NDArray[np.int64]]:
    """Sort the pickups that stay into a grid: each is where the middle of a body can be that it meets."""
    stays = pickups["mover"] < 0
    reach = np.maximum(pickups["collect"], pickups["attract"]) + math.hypot(body.half_width, body.half_height)
    reach = (reach + body.radius)[:, None]
    place = np.column_stack((pickups["x"], pickups["y"]))
    boxes = np.hstack((place - reach, place + reach))[stays]
    step = 2.0 * (body.half_height + body.radius)
    cells = sort_boxes(boxes, step)
    grid = grid_of(cells)
    return grid, cells.start, np.flatnonzero(stays).astype(np.int64)[cells.items]


def _sights(motions: Motions, shapes: Placement, pickups: Records) -> Records:
    """Return the sides of everything that stays and blocks some pickup."""
    layers = motions.resolved.contacts.layers
    blocking = int(np.bitwise_or.reduce(pickups["blocked_by"])) if len(pickups) else 0
    rows: list[Row] = []
    for number, index in enumerate(shapes.piece):
        layer = layers.index(motions.resolved.pieces[index].layer)
        if motions.numbers[index] >= 0 or not (blocking >> layer) & 1:
            continue
        corners = shapes.corners(number)
        ends = np.roll(corners, -1, axis=0)
        own = {"radius": shapes.radius[number], "layer": layer, "piece": index}
        rows += [
            {"x0": one[0], "y0": one[1], "x1": other[0], "y1": other[1], **own}
            for one, other in zip(corners, ends, strict=True)
        ]
    return filled(SIGHT, rows)


def _counters(motions: Motions, pickups: Records) -> Records:
    counters = motions.resolved.level.counters
    totals = np.zeros(len(counters))
    # What may be made is more than the level has.
    known = (pickups["counter"] >= 0) & (pickups["slot"] < 0)
    np.add.at(totals, pickups["counter"][known], pickups["worth"][known])
    return np.array(list(zip((one.start for one in counters.values()), totals, strict=True)), dtype=COUNTER)


def _rewards(motions: Motions) -> Records:
    return filled(
        REWARD,
        (
            {
                "counter": number, "every": reward.every, "lives": reward.lives, "health": reward.health,
                "spend": reward.spend,
            }
            for number, counter in enumerate(motions.resolved.level.counters.values())
            for reward in counter.rewards
        ),
    )  # fmt: skip


def _vitals(motions: Motions) -> Records:
    player = motions.resolved.level.player
    row = {
        "health": player.health.points, "mercy_time": player.health.mercy_time, "safe_drop": player.fall.safe_drop,
        "harm_per_unit": player.fall.harm_per_unit, "rounding": ROUNDINGS.index(player.fall.rounding),
        "crush_points": player.crush.points,
    }  # fmt: skip
    return filled(VITALS, [row])
