"""The track and the events, as kernels write them."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.compiling.contract import leaf
from haptos.engine.records import Records
from haptos.engine.records.codes import AIR, CLIMBING, CLIMBS, FALL, IDLE, RISE, SPRINTS, THE_PLAYER, WALK
from haptos.engine.records.events import PLACED, RESPAWN, WRAP

TRACK = np.dtype(
    [
        ("x", "f8"),
        ("y", "f8"),
        ("vx", "f8"),
        ("vy", "f8"),
        ("up_x", "f8"),
        ("up_y", "f8"),
        ("facing", "f8"),
        ("support", "i8"),
        ("speed_factor", "f8"),
        ("health", "f8"),
        ("lives", "f8"),
        ("stance", "i2"),
        ("pose", "i2"),
        ("flipped", "i4"),
    ]
)

EVENT = np.dtype(
    [
        ("tick", "i8"),
        ("t", "f8"),
        ("kind", "i8"),
        ("who", "i8"),  # below zero: the player
        ("piece", "i8"),
        ("x", "f8"),
        ("y", "f8"),
        ("amount", "f8"),
        ("more", "f8"),
    ]
)

# How something flies from the end of a tick on, told by where it is at a time; and where it is at the end of one.
FLOWN = np.dtype(
    [
        ("tick", "i8"),
        ("mover", "i8"),
        *((name, "f8") for name in ("t", "x", "y", "angle", "vx", "vy", "spin", "scale", "torque")),
        ("lasts", "i8"),  # see `IS_GONE` and those after it
    ]
)
PIECE_TRACK = np.dtype(
    [
        ("tick", "i8"),
        ("mover", "i8"),
        *((name, "f8") for name in ("x", "y", "angle", "vx", "vy", "spin", "scale", "torque")),
    ]
)


class Journal(NamedTuple):
    """Where one world writes its events: rows, and how many there were (more than the rows hold, maybe)."""

    rows: Records
    written: NDArray[np.int64]


@leaf
def write(journal: Any, player: Any, kind: int, t: float, piece: int, amount: float, more: float) -> None:
    """Add an event at the player's place; what does not fit is counted, and the tick is run again by the caller."""
    write_at(journal, player, kind, t, piece, player.x, player.y, amount, more)


@leaf
def write_at(
    journal: Any, player: Any, kind: int, t: float, piece: int, x: float, y: float, amount: float, more: float
) -> None:
    """Add an event of the player's at a place."""
    write_of(journal, player, kind, t, THE_PLAYER, piece, x, y, amount, more)


@leaf
def write_of(
    journal: Any, player: Any, kind: int, t: float, who: int, piece: int, x: float, y: float, amount: float, more: float
) -> None:
    """Add an event of somebody's at a place."""
    index = journal.written[0]
    journal.written[0] = index + 1
    if index >= journal.rows.shape[0]:
        return
    row = journal.rows[index]
    row.tick = player.tick
    row.t = t
    row.kind = kind
    row.who = who
    row.piece = piece
    row.x = x
    row.y = y
    row.amount = amount
    row.more = more


@leaf
def was_put(journal: Any, first: int) -> bool:
    """Whether the body was put somewhere since an event."""
    for index in range(first, min(journal.written[0], journal.rows.shape[0])):
        kind = journal.rows[index].kind
        if kind in (RESPAWN, WRAP, PLACED):
            return True
    return False


@leaf
def sort_since(journal: Any, first: int) -> None:
    """Put the events from `first` on into the order of their times; equal ones keep their order."""
    last = min(journal.written[0], journal.rows.shape[0])
    for index in range(first + 1, last):
        place = index
        while place > first and journal.rows[place - 1].t > journal.rows[place].t:
            _swap(journal.rows[place - 1], journal.rows[place])
            place -= 1


@leaf
def _swap(one: Any, other: Any) -> None:
    one.tick, other.tick = other.tick, one.tick
    one.t, other.t = other.t, one.t
    one.kind, other.kind = other.kind, one.kind
    one.who, other.who = other.who, one.who
    one.piece, other.piece = other.piece, one.piece
    one.x, other.x = other.x, one.x
    one.y, other.y = other.y, one.y
    one.amount, other.amount = other.amount, one.amount
    one.more, other.more = other.more, one.more


@leaf
def record(body: Any, player: Any, row: Any) -> None:
    """Write one row of the track."""
    row.x = player.x
    row.y = player.y
    row.vx = player.vx + player.frame_vx
    row.vy = player.vy + player.frame_vy
    row.up_x = player.up_x
    row.up_y = player.up_y
    row.facing = player.facing
    row.support = player.support
    row.speed_factor = player.speed_factor
    row.health, row.lives = player.health, player.lives
    row.stance = player.stance
    row.flipped = 1 if player.handed < 0.0 else 0
    rising = player.vx * player.up_x + player.vy * player.up_y
    if player.stance == AIR:
        row.pose = RISE if rising > 0.0 else FALL
    elif player.stance == CLIMBING:
        row.pose = CLIMBS
    else:
        speed_squared = player.vx * player.vx + player.vy * player.vy
        # A thousandth over the walk is still a walk: rounding must not make it a sprint.
        brisk = body.walk * 1.001
        if speed_squared <= 1e-12 * body.walk * body.walk:
            row.pose = IDLE
        elif speed_squared <= brisk * brisk:
            row.pose = WALK
        else:
            row.pose = SPRINTS
