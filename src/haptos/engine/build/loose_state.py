"""The state of loose bodies at the start of a run: nobody is there yet; they come as their movers stand."""

from __future__ import annotations

from typing import Any

import numpy as np

from haptos.engine.records.loose_records import (
    HAND,
    OTHER_ROWS,
    PAIR,
    PARTAKER,
    PATCH,
    PINNED,
    POINT,
    TALLY,
    lists_of_pairs,
)
from haptos.engine.records.motion_records import CORNER, MOVER
from haptos.engine.records.tables import Tables

# Pairs of shapes that there is room for at first: so many for each shape of a body, and some more. Where a tick has
# more, the world is given twice the room, and the tick is run again.
PAIRS_PER_SHAPE, LEAST_PAIRS = 8, 64


def loose_state(tables: Tables, pieces: int) -> dict[str, Any]:
    """Return the arrays of loose bodies.

    Parameters
    ----------
    tables : Tables
    pieces : int
        How many there are.
    """
    loose = tables.loose
    if loose is None or tables.movers is None:
        layouts = {
            "partakers": PARTAKER, "pairs": PAIR, "points": POINT, "heads_of_pairs": np.int64, "pinned": PINNED,
            "order": np.int64, "loads": np.float64, "immersed": np.uint8, "hand": HAND, "tally": TALLY, "patch": PATCH,
            "spots": CORNER, "led": MOVER,
        }  # fmt: skip
        return {name: np.zeros(0, dtype=layout) for name, layout in layouts.items()}
    bodies = len(loose.bodies)
    room = LEAST_PAIRS + PAIRS_PER_SHAPE * len(loose.parts)
    partakers = np.zeros(bodies + int(OTHER_ROWS) + len(loose.others) + 2, dtype=PARTAKER)
    partakers["scale"], partakers["cosine"] = 1.0, 1.0
    tally = np.zeros(1, dtype=TALLY)
    tally["stood"] = -1
    return {
        "partakers": partakers,
        "pairs": np.zeros(2 * room, dtype=PAIR),
        "points": np.zeros(4 * room, dtype=POINT),
        "heads_of_pairs": np.full(lists_of_pairs(room), -1, dtype=np.int64),
        "pinned": np.zeros(len(loose.hinges), dtype=PINNED),
        "order": np.arange(bodies, dtype=np.int64),
        "loads": np.zeros(pieces),
        "immersed": np.zeros(bodies * len(loose.zones), dtype=np.uint8),
        "hand": np.zeros(1, dtype=HAND),
        "tally": tally,
        "patch": np.zeros(1, dtype=PATCH),
        "spots": tables.movers.corners,
        "led": tables.movers.movers,
    }
