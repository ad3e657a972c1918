"""Names of pieces in a run: those that are made while it runs have the kind's name and a serial."""

from __future__ import annotations

from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.records import Records
from haptos.engine.records.codes import THE_PLAYER
from haptos.engine.records.events import FIRES, SPAWNS

PLAYER = "player"
# In place of the number of an event: the time before the first one.
BEFORE_ALL = -1


class Serials:
    """Which piece is which at every moment of a run.

    Parameters
    ----------
    compiled : CompiledLevel
    events : (n,) EVENT
    serials : (movers,) ndarray, optional
        Of what was made before these events, as `POSE` has it; nothing was if not given.
    """

    def __init__(self, compiled: CompiledLevel, events: Records, serials: NDArray[np.int64] | None = None) -> None:
        self.compiled = compiled
        self.events = events
        self._serials = serials
        resolved = compiled.cast.resolved
        # The slot of each piece that is made, and what follows the slot's name in its own.
        self.slots: dict[int, tuple[int, str]] = {}
        for slot in compiled.cast.made:
            for index in (slot, *resolved.descendants(slot)):
                self.slots[index] = (slot, resolved.pieces[index].name[len(resolved.pieces[slot].name) :])

    @cached_property
    def spawned(self) -> dict[int, tuple[NDArray[np.int64], NDArray[np.int64]]]:
        """For each slot, which events filled it, and with which serials."""
        rows = np.flatnonzero(self.events["kind"] == SPAWNS)
        pieces, serials = self.events["piece"][rows], self.events["amount"][rows].astype(np.int64)
        return {int(piece): (rows[pieces == piece], serials[pieces == piece]) for piece in np.unique(pieces)}

    @cached_property
    def of_events(self) -> list[tuple[str, str]]:
        """Who, and which piece, for each event."""
        return [self.pair(index) for index in range(len(self.events))]

    def pair(self, event: int) -> tuple[str, str]:
        """Return who, and which piece, an event is about, given by its number."""
        row = self.events[event]
        who = PLAYER if row["who"] == THE_PLAYER else self.name(int(row["who"]), event)
        return who, self.name(int(row["piece"]), event)

    def name(self, piece: int, event: int) -> str:
        """Return the name of a piece at the time of an event, given by its number."""
        if piece not in self.slots:
            return self.compiled.piece_name(piece)
        slot, suffix = self.slots[piece]
        kind = self.compiled.cast.resolved.pieces[slot].kinds[0]
        rows, serials = self.spawned.get(slot, (np.zeros(0), np.zeros(0)))
        before = int(np.searchsorted(rows, event, side="right"))
        earlier = self._earlier(slot)
        # A shot is fired just before it is said to be made.
        fires = event != BEFORE_ALL and self.events["kind"][event] == FIRES
        is_made = before > 0 or fires or not earlier
        serial = serials[max(before - 1, 0)] if is_made and len(serials) else earlier
        return f"{kind} {int(serial)}{suffix}"

    def _earlier(self, slot: int) -> int:
        """Return the serial of what was in a slot before all of these events, zero if nothing was."""
        movers = self.compiled.tables.movers
        if self._serials is None or movers is None:
            return 0
        row = int(np.flatnonzero(movers.movers["piece"] == slot)[0])
        return int(self._serials[row])

    def at_tick(self, piece: int, tick: int) -> str:
        """Return the name of a piece at the end of a tick."""
        return self.name(piece, int(np.searchsorted(self.events["tick"], tick, side="right")) - 1)

    def of_supports(self, outlines: NDArray[np.int64]) -> NDArray[Any]:
        """Return the names of the pieces that support outlines belong to, one a tick."""
        supports, which = np.unique(outlines, return_inverse=True)
        names = np.array([self.compiled.support_name(int(support)) for support in supports], dtype=object)[which]
        for number, support in enumerate(supports):
            if self.compiled.support_piece(int(support)) in self.slots:
                for tick in np.flatnonzero(which == number):
                    names[tick] = self.at_tick(self.compiled.support_piece(int(support)), int(tick))
        return names
