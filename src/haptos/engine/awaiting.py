"""What cues wait for, asked of a world that runs."""

from __future__ import annotations

import math

from haptos.engine.asking import Asking, named
from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.records import Records
from haptos.engine.records.codes import THE_PLAYER
from haptos.engine.records.events import EVENT_NAMES
from haptos.engine.stepping import Runner
from haptos.errors import CueError
from haptos.level.rules import OWN_MOMENTS
from haptos.level.waiting import LEDGE, Until


class Awaited:
    """What one part of a cue waits for, in one level.

    Parameters
    ----------
    compiled : CompiledLevel
    until : Until
    where : str
        The cue, for messages.

    Raises
    ------
    CueError
        If it names something that the level does not have.
    """

    def __init__(self, compiled: CompiledLevel, until: Until, where: str) -> None:
        self.until = until
        self.pieces: frozenset[int] = frozenset()
        self.asking = None if until.condition is None else Asking(compiled, until.condition, where)
        if self.asking is not None:
            return
        if until.event == LEDGE:
            if compiled.level.world.view == "top":
                raise CueError(f"{where}: found 'until ledge' in the top view, where no ground ends")
            return
        self.kind = EVENT_NAMES.index(until.event)
        if until.piece:
            self.pieces = named(compiled, until.piece, where)

    @property
    def nearest(self) -> float:
        """How near the only number came that was waited for; not a number if there is none, or are several."""
        found = list({} if self.asking is None else self.asking.nearest.values())
        return found[0] if len(found) == 1 else math.nan

    @property
    def came_to(self) -> str:
        """How near what was waited for came, in words; nothing if no number was."""
        if self.asking is None:
            return ""
        found = {one: value for one, value in self.asking.nearest.items() if not one.holds(value)}
        if len(self.asking.condition.comparisons) == 1:
            return "".join(f"it came to {value:.6g}" for value in found.values())
        return ", ".join(f"{one.subject_words} came to {value:.6g}" for one, value in found.items())

    def has_happened(self, events: Records) -> bool:
        """Whether one of these events is the one."""
        if self.asking is not None or self.until.event == LEDGE:
            return False
        rows = events[events["kind"] == self.kind]
        if self.until.piece:
            return any(int(row["piece"]) in self.pieces or int(row["who"]) in self.pieces for row in rows)
        is_own = self.until.event in OWN_MOMENTS and self.until.event != "touch"
        return bool(len(rows)) and (is_own or bool((rows["who"] == THE_PLAYER).any()))

    def holds(self, runner: Runner) -> bool:
        """Whether the condition holds now; how near it came is noted."""
        return self.asking is not None and self.asking.holds(runner)
