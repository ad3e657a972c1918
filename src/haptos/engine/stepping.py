"""One world that runs: its kernel, what it leaves behind, and how the level begins again."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.build.initial_state import start_of
from haptos.engine.bundling import Bundles, bundles_of, tables_of
from haptos.engine.compiling.interpreting import readable
from haptos.engine.compiling.kernels import Form, KernelCall
from haptos.engine.compiling.packing import Record
from haptos.engine.doing import NO_DEEDS
from haptos.engine.game.counters import MOST_REWARDS, record_counts
from haptos.engine.records import Records
from haptos.engine.records.bundles import Core
from haptos.engine.records.codes import (
    CROWDED,
    ENDED,
    FINISHED,
    NO_PIECE,
    RESTARTING,
    SHORT_OF_CONTACTS,
    SHORT_OF_PAIRS,
    SHORT_OF_TOUCHES,
    THE_PLAYER,
    TOO_MANY_REWARDS,
)
from haptos.engine.records.journal import EVENT, TRACK, Journal, record
from haptos.engine.records.recording import Past, Recording, cut_past
from haptos.engine.records.state import MOST_WAITING, State, World
from haptos.engine.snapshot import Snapshot
from haptos.errors import LevelError
from haptos.level.control_bits import CONTROLS
from haptos.level.level import Level

# A kernel is called for so many ticks at most: if their events need more room than there is, all of them run again.
STRETCH = 32768
# Room that is there for events at least when ticks begin, and more for every few of them.
FREE_ROOM = 256
TICKS_PER_EVENT = 8
# Where much is recorded in every tick, there is room for all of it, and a kernel is called for fewer ticks.
FLIGHT_ROOM = 1 << 20
NO_CONTROLS: NDArray[np.uint8] = np.zeros(0, dtype=np.uint8)
# The controls of one tick, for every set of them.
ONE_TICK: tuple[NDArray[np.uint8], ...] = tuple(np.arange(2 ** len(CONTROLS), dtype=np.uint8).reshape(-1, 1))
# Where the kernel is, which ships compiled: its source, and all that it calls, is hardly ever imported.
KERNEL = "haptos.engine.tick.advance:advance"
# Which argument of the kernel is which, behind the bundles; and, in one of those, where events are written.
# What there is to be more room for, by what the kernel says.
ROOMS = {SHORT_OF_PAIRS: "pairs", SHORT_OF_CONTACTS: "contacts", SHORT_OF_TOUCHES: "touches"}
HELD, DEEDS, TRACK_ROWS, SCORES, FLIGHTS = ((len(Bundles._fields) + number,) for number in range(5))
EVENTS = (Bundles._fields.index("core"), Core._fields.index("journal"), Journal._fields.index("rows"))


class Runner:
    """One world of a level, from its start.

    Parameters
    ----------
    compiled : CompiledLevel
    """

    def __init__(self, compiled: CompiledLevel) -> None:
        self.compiled = compiled
        self.recording = Recording(len(compiled.level.counters))
        movers = compiled.tables.movers
        self._tied = 0 if movers is None else int((movers.flights["flies"] & ~movers.flights["free"]).sum())
        self._longest = min(STRETCH, max(FLIGHT_ROOM // max(self._tied, 1), 1))
        self._written, self._flown = np.zeros(1, dtype=np.int64), np.zeros(1, dtype=np.int64)
        # Which of the pieces that are made each slot was at the begin of the recording, for their names.
        self.serials: NDArray[np.int64] | None = None
        self._run_in(start_of(compiled.level).copy())

    def _run_in(self, world: World) -> None:
        """Run in a world from now on."""
        self.world, self.player, self.room = world, world.state.player, world.room
        # The fields that are looked at after every stretch; a field of a record is found anew each time.
        self._tick, self._over, self._halted, self._era = (
            self.player[name] for name in ("tick", "over", "halted", "era")
        )
        self._before = world.memory.copy()
        self.kernel_call = call_of(self.compiled, world.state, self._written, self._flown)

    def needs_compiling(self) -> bool:
        """Whether the first tick will compile the kernel."""
        return self.kernel_call.needs_compiling()

    def run(self, held: NDArray[np.uint8], deeds: Records = NO_DEEDS) -> None:
        """Go on by some ticks.

        Parameters
        ----------
        held : (n,) ndarray
            The controls of each tick.
        deeds : (k,) DEED
            What is done before which of these ticks; n for after the last.

        Raises
        ------
        LevelError
            If rules fire each other without end.
        """
        if self.is_over():
            return
        if len(held) > self._longest:
            # At once, not stretch by stretch: memory that is new to the process costs as much as many ticks.
            self.recording.reserve(len(held), 0, 0)
        begin = 0
        while True:
            end = min(begin + self._longest, len(held))
            if not len(deeds):
                begin += self._stretch(held if end - begin == len(held) else held[begin:end], NO_DEEDS)
            else:
                # What is done after the last tick has a stretch of its own, so that it is done once.
                is_last = begin == len(held)
                here = deeds[(deeds["tick"] < end) | is_last].copy()
                here["tick"] -= begin
                begin += self._stretch(held[begin:end], here)
                deeds = NO_DEEDS if is_last else deeds[deeds["tick"] >= begin]
            goes_on = begin < len(held) or len(deeds) > 0
            if self._over[0] == RESTARTING:
                self._begin_again()
                if not goes_on:
                    # It begins at once, not with the next tick, so that it does so once however the run is led.
                    self._stretch(NO_CONTROLS, NO_DEEDS)
                    return
            elif not goes_on or self.is_over():
                return

    def _stretch(self, held: NDArray[np.uint8], deeds: Records) -> int:
        """Run some ticks, or as many as there are before the level begins again; return how many."""
        recording = self.recording
        self._before[:] = self.world.memory
        first = int(self._tick[0])
        some = FREE_ROOM + len(held) // TICKS_PER_EVENT
        recording.reserve(len(held), some, some + self._tied * len(held))
        while True:
            self._written[0] = self._flown[0] = 0
            call = self.kernel_call
            call.point(HELD, held, 0)
            call.point(DEEDS, deeds, 0)
            call.point(TRACK_ROWS, recording.track, recording.ticks)
            call.point(SCORES, recording.scores, recording.ticks)
            call.point(EVENTS, recording.events, recording.event_count)
            call.point(FLIGHTS, recording.flights, recording.flight_count)
            call()
            if self._halted[0]:
                if not self._is_short():
                    raise _stopped(self.compiled, self.world.state)
                continue
            written, flown = int(self._written[0]), int(self._flown[0])
            if recording.has_room(written, flown):
                break
            recording.reserve(len(held), written, flown)
            self.world.memory[:] = self._before
        era = int(self._era[0])
        if era:
            events = recording.events[recording.event_count :][:written]
            events["tick"] += era
            events["t"] += era / self.compiled.level.world.tick_rate
            recording.flights["tick"][recording.flight_count :][:flown] += era
        done = int(self._tick[0]) - first
        recording.note(done, written, flown)
        return done

    def _is_short(self) -> bool:
        """Whether a tick had more of something than there was room for; if so, double that and go back to before."""
        short = ROOMS.get(int(self._halted[0]))
        if short is None:
            return False
        self.world.memory[:] = self._before
        self._run_in(self.world.with_room(self.room._replace(**{short: 2 * getattr(self.room, short)})))
        return True

    def _begin_again(self) -> None:
        """Bring everything back to the start, but for the lives and the controls that are held."""
        player = self.player
        era = int(player["era"][0] + player["tick"][0])
        lives, held = player["lives"][0], player["held"][0]
        start = start_of(self.compiled.level)
        if self.room != start.room:
            start = start.with_room(self.room)
        self.world.memory[:] = start.memory
        player["lives"], player["held"], player["era"] = lives, held, era

    def is_over(self) -> bool:
        """Whether the level was finished, or the body is gone for good: nothing goes on."""
        return self._over[0] in (FINISHED, ENDED)

    def why_over(self) -> str:
        """Return why nothing goes on, or nothing."""
        return {FINISHED: "the level is finished", ENDED: "no life is left"}.get(int(self._over[0]), "")

    def add_event(self, kind: int, amount: float = math.nan, more: float = 0.0, piece: int = NO_PIECE) -> None:
        """Note an event of the player's that is no kernel's, now."""
        player = self.player
        tick = int(player["era"][0] + player["tick"][0])
        event = np.zeros(1, dtype=EVENT)
        event["tick"], event["t"], event["kind"] = tick, tick / self.compiled.level.world.tick_rate, kind
        event["who"], event["piece"], event["amount"], event["more"] = THE_PLAYER, piece, amount, more
        event["x"], event["y"] = player["x"], player["y"]
        self.recording.add_event(event)

    def snapshot(self) -> Snapshot:
        """Return this moment, to come back to."""
        t = float(self._era[0] + self._tick[0]) / self.compiled.level.world.tick_rate
        return Snapshot(self.compiled.level, t, self.room, self.world.memory.copy(), self.recording.past())

    def restore(self, snapshot: Snapshot) -> None:
        """Come back to a moment of an equal level; what was recorded after it is let go, but by those who hold it."""
        if snapshot.room != self.room:
            self._run_in(start_of(self.compiled.level).with_room(snapshot.room))
        self.world.memory[:] = snapshot.memory
        past = snapshot.past
        if past is None and self.player["started"][0]:
            past = self._present()
        self.recording.go_back(past)
        if self.compiled.cast.made:
            self.serials = self.world.state.moving["serial"].copy()

    def _present(self) -> Past:
        """Return a past that ends with the present and knows nothing of what was before."""
        tables, state = self.compiled.tables, self.world.state
        track, scores = np.zeros(1, dtype=TRACK), np.zeros((1, len(self.compiled.level.counters)))
        body = tables_of(self.compiled, state).body
        record(readable(Record(body)), readable(Record(state.player)), readable(track)[0])
        record_counts(readable(tables.stakes), readable(state.counts), readable(scores)[0])
        return cut_past(track, scores)


def call_of(compiled: CompiledLevel, state: State, written: NDArray[np.int64], flown: NDArray[np.int64]) -> KernelCall:
    """Return the kernel of a level with one world's state; what it runs and writes is to be replaced."""
    tables, recording = tables_of(compiled, state), Recording(len(compiled.level.counters))
    bundles = bundles_of(tables, state, Journal(recording.events, written))
    arguments = (
        *bundles, np.zeros(0, dtype=np.uint8), NO_DEEDS, recording.track, recording.scores, recording.flights, flown,
    )  # fmt: skip
    name = f"advance-{tables.capabilities}"
    forms = compiled.level.once(_forms)
    if name not in forms:
        forms[name] = Form(name, arguments)
    return KernelCall(KERNEL, name, arguments, form=forms[name])


def _forms(_level: Level) -> dict[str, Form]:
    """Return what the calls of a level's kernel have in common, by its name: none so far."""
    return {}


def _stopped(compiled: CompiledLevel, state: State) -> LevelError:
    """Return the error of rules that fire each other without end, or of one with too many firings that wait."""
    t = (state.player["era"][0] + state.player["tick"][0]) / compiled.level.world.tick_rate
    if state.player["halted"][0] == TOO_MANY_REWARDS:
        message = f"found more than {MOST_REWARDS} rewards of one counter at once at {t:.4g} s, expected a larger every"
        return LevelError("counters", message)
    burst = state.rules["burst"][: len(compiled.ruled.titles)]
    # All that go on and on have fired about as often.
    names = [title for title, times in zip(compiled.ruled.titles, burst, strict=True) if times > burst.max() // 10]
    what = " and ".join(names)
    if state.player["halted"][0] == CROWDED:
        message = (
            f"found more than {MOST_WAITING} firings that wait for its after at {t:.4g} s, expected a shorter delay"
        )
        return LevelError(what, message)
    return LevelError(what, f"found rules that fire each other without end at {t:.4g} s, expected once, or a delay")
