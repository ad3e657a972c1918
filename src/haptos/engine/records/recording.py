"""What a run leaves behind, in arrays that grow."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.records import Records
from haptos.engine.records.journal import EVENT, FLOWN, TRACK

FIRST_ROOM = 64


class Ticks(NamedTuple):
    """What some ticks gave.

    Attributes
    ----------
    track : (n + 1,) TRACK
        Row 0 is the state before the first.
    scores : (n + 1, counters) ndarray
    events : (m,) EVENT
    flights : (k,) FLOWN
    """

    track: Records
    scores: NDArray[np.float64]
    events: Records
    flights: Records


class Recording:
    """Ticks in arrays with room for more of them.

    Parameters
    ----------
    counters : int
        How many are counted.
    before : Recording, optional
        What this one goes on from, up to the counts that `branch` was given.

    Attributes
    ----------
    track, scores, events, flights : ndarray
        As in `Ticks`, with room behind what is counted. Row 0 of the first two is the last of those before.
    ticks, event_count, flight_count : int
    """

    def __init__(self, counters: int, before: tuple[Recording, int, int, int] | None = None) -> None:
        self.track, self.scores = np.zeros(0, dtype=TRACK), np.zeros((0, counters))
        self.events, self.flights = np.zeros(0, dtype=EVENT), np.zeros(0, dtype=FLOWN)
        self.ticks = self.event_count = self.flight_count = 0
        self._before = before

    def reserve(self, ticks: int, events: int, flights: int) -> None:
        """See to it that there is room for so many more of each."""
        rows = self.ticks + 1 + ticks
        if rows > len(self.track):
            used = self.ticks + 1
            self.track, self.scores = _grown(self.track, used, rows), _grown(self.scores, used, rows)
        if self.event_count + events > len(self.events):
            self.events = _grown(self.events, self.event_count, self.event_count + events)
        if self.flight_count + flights > len(self.flights):
            self.flights = _grown(self.flights, self.flight_count, self.flight_count + flights)

    def has_room(self, events: int, flights: int) -> bool:
        """Whether there is room for so many more of each."""
        return self.event_count + events <= len(self.events) and self.flight_count + flights <= len(self.flights)

    def note(self, ticks: int, events: int, flights: int) -> None:
        """Count what was written."""
        self.ticks += ticks
        self.event_count += events
        self.flight_count += flights

    def add_event(self, event: Records) -> None:
        """Add one event."""
        self.reserve(0, 1, 0)
        self.events[self.event_count] = event[0]
        self.event_count += 1

    def branch(self, ticks: int, events: int, flights: int) -> Recording:
        """Return a recording that goes on after so many of each; whoever goes on with this one is not disturbed."""
        if not len(self.track):
            return Recording(self.scores.shape[1])
        branch = Recording(self.scores.shape[1], (self, ticks, events, flights))
        branch.reserve(0, 0, 0)
        branch.track[0], branch.scores[0] = self.track[ticks], self.scores[ticks]
        return branch

    def whole(self) -> Ticks:
        """Return all that was recorded, from the very first."""
        parts: list[Ticks] = []
        recording: Recording | None = self
        ends = self.ticks, self.event_count, self.flight_count
        while recording is not None:
            ticks, events, flights = ends
            # The first row of one that goes on is the last of the one before.
            first = 0 if recording._before is None else 1
            rows = slice(first, ticks + 1)
            parts.append(
                Ticks(recording.track[rows], recording.scores[rows], recording.events[:events],
                      recording.flights[:flights])
            )  # fmt: skip
            recording, *rest = recording._before or (None,)
            ends = tuple(rest)  # type: ignore[assignment]
        if len(parts) == 1:
            # Rows that are counted are never written again, so that the long ones need no copy.
            alone = parts[0]
            return alone._replace(events=alone.events.copy(), flights=alone.flights.copy())
        columns: Any = zip(*reversed(parts), strict=True)
        return Ticks(*(np.concatenate(column) for column in columns))


def _grown(array: Any, used: int, rows: int) -> Any:
    """Return an array with room for so many rows, at least twice as many as it had; only those in use are copied."""
    room = np.zeros((max(rows, 2 * len(array), FIRST_ROOM), *array.shape[1:]), dtype=array.dtype)
    room[: min(used, len(array))] = array[:used]
    return room
