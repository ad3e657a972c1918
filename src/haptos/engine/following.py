"""Cues that wait for something are followed tick by tick; what was held is kept, to be replayed without them."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.awaiting import Awaited
from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.doing import deed_rows
from haptos.engine.records import Records
from haptos.engine.records.codes import AIR, GROUND, THE_PLAYER
from haptos.engine.records.events import END, EVENT_NAMES, JUMPS, LAUNCHED, LOST, PLACED, RESPAWN, TOO_LATE
from haptos.engine.stepping import NO_CONTROLS, ONE_TICK, Runner
from haptos.level.cues import Cues, Part, Step, nearest_tick
from haptos.level.deeds import Deed
from haptos.level.waiting import LEDGE

# Who leaves the ground by one of these has not walked off it.
OTHER_WAYS_OFF = (JUMPS, LAUNCHED, LOST, RESPAWN, PLACED)


class Remark(NamedTuple):
    """What an event says that is no kernel's, and between which ticks the body did not come to which pieces."""

    words: str
    pieces: tuple[int, ...] = ()
    first: int = 0
    last: int = 0


class Followed(NamedTuple):
    """What cues came to.

    Attributes
    ----------
    plain : the same with the times that they came to
    begins : (n,) the tick at which each cue began, fewer than cues if the run ended before
    stopped : the event that ended the run, nothing if none did
    remarks : what waited in vain, and why the run ended, by the number that the event has
    """

    plain: Cues
    begins: NDArray[np.int64]
    stopped: str = ""
    remarks: tuple[Remark, ...] = ()


def follow(compiled: CompiledLevel, runner: Runner, cues: Cues) -> Followed:
    """Run cues in a world that is at its start, and say what they came to.

    Raises
    ------
    CueError
        If a cue waits for something that the level does not have.
    """
    rate = compiled.level.world.tick_rate
    if cues.waits or cues.stop:
        cues.require_bounded(rate)
        followed = Follower(compiled, runner, cues).follow()
    else:
        schedule = cues.schedule(rate)
        runner.run(schedule.held, deed_rows(compiled, schedule.deeds))
        begins = np.array([nearest_tick(begin, rate) for begin in cues.begins[:-1]], dtype=np.int64)
        followed = Followed(cues, begins)
    reason = (
        f"{followed.stopped}, at which the cues stop" if followed.stopped else runner.why_over() or "the cues are over"
    )
    runner.add_event(END, math.nan, float(len(followed.remarks)))
    return followed._replace(remarks=(*followed.remarks, Remark(reason)))


class Follower:
    """One world that is led through cues.

    Parameters
    ----------
    compiled : CompiledLevel
    runner : Runner
        At the start.
    cues : Cues

    Raises
    ------
    CueError
        If a cue waits for something that the level does not have.
    """

    def __init__(self, compiled: CompiledLevel, runner: Runner, cues: Cues) -> None:
        self.compiled, self.runner, self.cues = compiled, runner, cues
        self.rate = compiled.level.world.tick_rate
        self.tick = 0
        self.stopped = ""
        self.remarks: list[Remark] = []
        # What was held in each tick, and what was done.
        self._held: list[int] = []
        self._deeds: list[tuple[int, Deed]] = []
        # The events of the last tick.
        self._latest: Records = runner.recording.events[:0]
        self._stops = {EVENT_NAMES.index(name): name for name in cues.stop}

    def follow(self) -> Followed:
        """Run the cues to their end, to the end of the level, or to an event that stops the run."""
        begins: list[int] = []
        # Edges are counted from where the last cue that waited has ended, and rounded once.
        now, since = 0.0, 0
        for number, step in enumerate(self.cues.steps, 1):
            if self._is_over():
                break
            begins.append(self.tick)
            waits = {
                index: Awaited(self.compiled, part.until, f"cue {number}")
                for index, part in enumerate(step.parts)
                if part.until is not None
            }
            for part in step.parts:
                if part.deed is not None:
                    self.runner.run(NO_CONTROLS, deed_rows(self.compiled, [(0, part.deed)]))
                    self._deeds.append((self.tick, part.deed))
                    self._note()
            edges = [since + nearest_tick(now + part.duration, self.rate) for part in step.parts]
            self._follow_step(step, edges, waits)
            now += max((part.duration for part in step.parts), default=0.0)
            if waits:
                now, since = 0.0, self.tick
        plain = Cues.from_held(self._held, self.rate, self._deeds)
        return Followed(plain, np.array(begins, dtype=np.int64), self.stopped, tuple(self.remarks))

    def _follow_step(self, step: Step, edges: list[int], waits: dict[int, Awaited]) -> None:
        """Hold what a cue says until each of its parts has ended: at its edge, or when what it waits for has come."""
        open_waits, begin = dict(waits), self.tick
        self._latest = self._latest[:0]
        while not self._is_over():
            for index, wait in list(open_waits.items()):
                if wait.has_happened(self._latest) or wait.holds(self.runner):
                    del open_waits[index]
                elif self.tick >= edges[index]:
                    del open_waits[index]
                    self._say_late(step.parts[index], wait, begin)
            if self._is_over():
                return
            held, lasts = 0, False
            for index, part in enumerate(step.parts):
                if index in open_waits or (index not in waits and self.tick < edges[index]):
                    held, lasts = held | part.held, True
            if not lasts:
                return
            ledges = [index for index, wait in open_waits.items() if wait.until.event == LEDGE]
            if not ledges:
                self._go(held)
                continue
            before, stood = self.runner.snapshot(), int(self.runner.player["stance"][0]) == GROUND
            self._go(held)
            if stood and self._has_walked_off():
                self.runner.restore(before)
                self.tick, self.stopped, self._latest = self.tick - 1, "", self._latest[:0]
                self._held.pop()
                for index in ledges:
                    del open_waits[index]

    def _go(self, held: int) -> None:
        """Go on by a tick."""
        self.runner.run(ONE_TICK[held])
        self.tick += 1
        self._held.append(held)
        self._note()

    def _note(self) -> None:
        """Note what has just happened, and whether it stops the run."""
        recording = self.runner.recording
        events = recording.events[: recording.event_count]
        # Events are in the order of their ticks.
        self._latest = events[np.searchsorted(events["tick"], self.tick) :]
        for row in self._latest:
            if int(row["kind"]) in self._stops and row["who"] == THE_PLAYER:
                self.stopped = self._stops[int(row["kind"])]

    def _has_walked_off(self) -> bool:
        """Whether the body has just left the ground, by its own feet."""
        if int(self.runner.player["stance"][0]) != AIR:
            return False
        own = self._latest[self._latest["who"] == THE_PLAYER]
        return not np.isin(own["kind"], OTHER_WAYS_OFF).any()

    def _is_over(self) -> bool:
        return bool(self.stopped) or self.runner.is_over()

    def _say_late(self, part: Part, wait: Awaited, begin: int) -> None:
        """Say what a cue has waited for in vain, and how near it came."""
        words = f"waited {part.duration:g} s for {wait.until.words}"
        if wait.came_to:
            words += f"; {wait.came_to}"
        self.runner.add_event(TOO_LATE, wait.nearest, float(len(self.remarks)))
        known = () if math.isfinite(wait.nearest) else tuple(sorted(index for index in wait.pieces if index >= 0))
        self.remarks.append(Remark(words, known, begin, self.tick))
        if "too_late" in self.cues.stop:
            self.stopped = "too_late"
