"""From the rules' zones to a table: which pieces are noticed in which of them."""

from __future__ import annotations

import numpy as np

from haptos.engine.build.mover_plans import Motions
from haptos.engine.records import Records
from haptos.engine.records.motion_records import WATCH, Movers


def compile_watches(motions: Motions, movers: Movers) -> Records:
    """Return what is noticed, (n,) WATCH."""
    rows = []
    for who, zone in motions.resolved.noticed:
        (first, last, pace), (zone_first, zone_last, zone_pace) = _own(movers, who), _own(movers, zone)
        numbers = int(motions.numbers[who]), int(motions.numbers[zone])
        rows.append((who, zone, *numbers, first, last, zone_first, zone_last, pace + zone_pace))
    return np.array(rows, dtype=WATCH)


def _own(movers: Movers, piece: int) -> tuple[int, int, float]:
    """Return which of the shapes are a piece's, one after another, and a speed that they don't exceed."""
    rows = np.flatnonzero(movers.shapes["piece"] == piece)
    return int(rows[0]), int(rows[-1]) + 1, float(movers.shapes["pace"][rows].max())
