"""What a run left behind, and of which level: all that its tables are worked out from."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.records import Records
from haptos.engine.records.events import RESTARTS, START
from haptos.engine.records.recording import Ticks
from haptos.engine.report.piece_names import Serials
from haptos.engine.report.piece_tracks import every_tick
from haptos.level.level import Level


class Recorded:
    """The ticks of one run of a level.

    Parameters
    ----------
    compiled : CompiledLevel
    ticks : Ticks

    Attributes
    ----------
    track_records : (n + 1,) TRACK
    scores : (n + 1, counters) ndarray
    event_records : (m,) EVENT
    names : Serials
        Which piece is which at every moment.
    """

    def __init__(self, compiled: CompiledLevel, ticks: Ticks) -> None:
        self.compiled = compiled
        self.track_records = ticks.track
        self.scores = ticks.scores
        self.event_records = ticks.events[ticks.events["kind"] != START]
        self._flown = ticks.flights
        self.names = Serials(compiled, self.event_records)

    @cached_property
    def flight_records(self) -> Records:
        """Where everything that flew was, tick by tick."""
        events = self.event_records
        firsts = np.array([0, *events["tick"][events["kind"] == RESTARTS]], dtype=np.int64)
        return every_tick(self._flown, firsts, len(self.track_records) - 1, self.level.world.tick_rate)

    @property
    def level(self) -> Level:
        """The level that was run."""
        return self.compiled.level
