"""What a run leaves behind: arrays that grow, and what many runs have in common with one another."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.records import Records
from haptos.engine.records.journal import EVENT, FLOWN, TRACK
from haptos.errors import HaptosError

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


Row = tuple[Records, NDArray[np.float64]]


class Past:
    """What was recorded up to a moment; any number of recordings go on from it, and nobody changes it.

    Parameters
    ----------
    before : Past, optional
        What led to it.
    own : Ticks
        What was recorded since; row 0 of the track is there only where nothing was before.
    end : (1,) TRACK, (1, counters) ndarray
        The last row of the track and of the scores.
    is_cut : bool
        Whether what led to it was not kept.
    """

    __slots__ = ("before", "end", "is_cut", "own")

    def __init__(self, before: Past | None, own: Ticks, end: Row, is_cut: bool = False) -> None:
        self.before, self.own, self.end, self.is_cut = before, own, end, is_cut


class Recording:
    """Ticks in arrays with room for more of them.

    Parameters
    ----------
    counters : int
        How many are counted.

    Attributes
    ----------
    track, scores, events, flights : ndarray
        As in `Ticks`, with room behind what is counted. Row 0 of the first two is the last of the past, if any.
    ticks, event_count, flight_count : int
        Since the past.
    """

    def __init__(self, counters: int) -> None:
        self._counters = counters
        self._past: Past | None = None
        # How many rows of the track, events and flights are part of the past already.
        self._kept = (0, 0, 0)
        self._take_new_arrays()

    def _take_new_arrays(self) -> None:
        """Begin with arrays of its own, none of which anybody else reads."""
        self.track, self.scores = np.zeros(0, dtype=TRACK), np.zeros((0, self._counters))
        self.events, self.flights = np.zeros(0, dtype=EVENT), np.zeros(0, dtype=FLOWN)
        self.ticks = self.event_count = self.flight_count = 0
        self._is_lent = False

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

    def past(self) -> Past | None:
        """Return all that was recorded so far, to go on from; None where the level has not begun."""
        rows = self.ticks + 1 if self._past is not None or self.event_count else 0
        counts = rows, self.event_count, self.flight_count
        if counts != self._kept:
            # An event tells that the level has begun, and every tick has a row.
            track, scores, events, flights = self._since(self._kept)
            own = Ticks(track.copy(), scores.copy(), events.copy(), flights.copy())
            end = self.track[rows - 1 : rows].copy(), self.scores[rows - 1 : rows].copy()
            self._past, self._kept = Past(self._past, own, end), counts
        return self._past

    def go_back(self, past: Past | None) -> None:
        """Go on from what was recorded up to a moment; what came after it stays with those who hold it."""
        if self._is_lent:
            self._take_new_arrays()
        self.ticks = self.event_count = self.flight_count = 0
        self._past, self._kept = past, (0, 0, 0)
        if past is not None:
            self.reserve(0, 0, 0)
            self.track[:1], self.scores[:1] = past.end
            self._kept = (1, 0, 0)

    @property
    def is_cut(self) -> bool:
        """Whether it goes on from a snapshot without what led to that."""
        past = self._past
        while past is not None and past.before is not None:
            past = past.before
        return past is not None and past.is_cut

    def whole(self) -> Ticks:
        """Return all that was recorded, from the very first.

        Raises
        ------
        HaptosError
            If what led to a snapshot was not kept with it.
        """
        if self.is_cut:
            raise HaptosError(
                "a snapshot that was read from bytes is without what led to it, so that there is no run from the "
                "start; a Simulation that is pickled keeps it"
            )
        parts: list[Ticks] = [self._since(self._kept)]
        past = self._past
        while past is not None:
            parts.append(past.own)
            past = past.before
        if len(parts) == 1:
            # Rows that are counted are never written again, so that the long ones need no copy.
            self._is_lent = True
            alone = parts[0]
            return alone._replace(events=alone.events.copy(), flights=alone.flights.copy())
        columns: Any = zip(*reversed(parts), strict=True)
        return Ticks(*(np.concatenate(column) for column in columns))

    def _since(self, counts: tuple[int, int, int]) -> Ticks:
        """Return what was recorded since there was so much of it."""
        rows, events, flights = counts
        return Ticks(
            self.track[rows : self.ticks + 1], self.scores[rows : self.ticks + 1],
            self.events[events : self.event_count], self.flights[flights : self.flight_count],
        )  # fmt: skip


def past_of(ticks: Ticks) -> Past | None:
    """Return what was recorded as the past of a recording; None if that is nothing."""
    if not len(ticks.events):
        return None
    return Past(None, ticks, (ticks.track[-1:], ticks.scores[-1:]))


def cut_past(track: Records, scores: NDArray[np.float64]) -> Past:
    """Return a past of which no more is known than its end."""
    nothing = Ticks(track[:0], scores[:0], np.zeros(0, dtype=EVENT), np.zeros(0, dtype=FLOWN))
    return Past(None, nothing, (track, scores), is_cut=True)


def _grown(array: Any, used: int, rows: int) -> Any:
    """Return an array with room for so many rows, at least twice as many as it had; only those in use are copied."""
    room = np.zeros((max(rows, 2 * len(array), FIRST_ROOM), *array.shape[1:]), dtype=array.dtype)
    room[: min(used, len(array))] = array[:used]
    return room
