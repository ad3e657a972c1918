"""Record layouts of what is at stake: pickups, harm, checkpoints, finishes, counters; constants and state."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.records import Records

PICKUP = np.dtype(
    [
        ("piece", "i8"),
        ("mover", "i8"),  # the one that it goes with until it comes, or -1
        ("x", "f8"),  # its place at rest
        ("y", "f8"),
        ("collect", "f8"),
        ("attract", "f8"),
        ("eases", "i8"),
        ("speed", "f8"),
        ("rate", "f8"),
        ("latched", "i8"),
        ("worth", "f8"),
        ("counter", "i8"),  # or -1
        ("blocked_by", "i8"),  # a bit for each layer
        ("by_player", "i8"),
        ("first_taker", "i8"),
        ("takers", "i8"),  # shapes of what else takes it
        ("slot", "i8"),  # the mover of what is made that it belongs to, or -1
    ]
)
# A side of something that stays, or a point, that keeps a pickup from seeing the player.
SIGHT = np.dtype(
    [("x0", "f8"), ("y0", "f8"), ("x1", "f8"), ("y1", "f8"), ("radius", "f8"), ("layer", "i8"), ("piece", "i8")]
)
HARM = np.dtype(
    [("piece", "i8"), ("x", "f8"), ("y", "f8"), ("points", "f8"), ("every", "f8"), ("knock", "f8"), ("lethal", "i8")]
)
CHECKPOINT = np.dtype([("piece", "i8"), ("x", "f8"), ("y", "f8"), ("facing", "f8"), ("once", "i8")])
FINISH = np.dtype([("piece", "i8"), ("needs", "i8")])  # a counter, or -1
COUNTER = np.dtype([("start", "f8"), ("total", "f8")])
REWARD = np.dtype([("counter", "i8"), ("every", "f8"), ("lives", "i8"), ("health", "f8"), ("spend", "i8")])
# For each piece, its rows in the tables of harm, checkpoints and finishes, -1 for none, and whether it cushions a
# landing: what throws does not bear.
PIECE_STAKES = np.dtype([("harm", "i8"), ("checkpoint", "i8"), ("finish", "i8"), ("cushions", "i8")])
# What the body can bear.
VITALS = np.dtype(
    [
        ("health", "f8"),
        ("mercy_time", "f8"),
        ("safe_drop", "f8"),
        ("harm_per_unit", "f8"),
        ("rounding", "i8"),
        ("crush_points", "f8"),
    ]
)

# What a pickup is at, and where.
TAKEN = np.dtype([("status", "i8"), ("x", "f8"), ("y", "f8")])
# Whether the body was in contact with what hurts, and when that hurts next.
HURTING = np.dtype([("touching", "i8"), ("next", "f8")])
COUNT = np.dtype([("value", "f8"), ("left", "f8")])


class Stakes(NamedTuple):
    """What is at stake in a level.

    Attributes
    ----------
    pickups : (n,) PICKUP
    grid, start, items : (1,) GRID; which pickups that stay can be met from which cell
    mobile : the pickups that go with a mover
    shared, takers : the pickups that something else takes too, and the shapes of what does
    sights : (k,) SIGHT
    harms, checkpoints, finishes : (n,) HARM, CHECKPOINT, FINISH
    counters, rewards : (n,) COUNTER, REWARD
    pieces : (p,) PIECE_STAKES
    vitals : (1,) VITALS
    """

    pickups: Records
    grid: Records
    start: NDArray[np.int64]
    items: NDArray[np.int64]
    mobile: NDArray[np.int64]
    shared: NDArray[np.int64]
    takers: NDArray[np.int64]
    sights: Records
    harms: Records
    checkpoints: Records
    finishes: Records
    counters: Records
    rewards: Records
    pieces: Records
    vitals: Records
