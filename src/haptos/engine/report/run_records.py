"""What a run left behind, and of which level: all that its tables are worked out from."""

from __future__ import annotations

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.records.events import START
from haptos.engine.records.recording import Ticks
from haptos.engine.report.piece_names import Serials
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
    flight_records : (k,) PIECE_TRACK
    names : Serials
        Which piece is which at every moment.
    """

    def __init__(self, compiled: CompiledLevel, ticks: Ticks) -> None:
        self.compiled = compiled
        self.track_records = ticks.track
        self.scores = ticks.scores
        self.event_records = ticks.events[ticks.events["kind"] != START]
        self.flight_records = ticks.flights
        self.names = Serials(compiled, self.event_records)

    @property
    def level(self) -> Level:
        """The level that was run."""
        return self.compiled.level
