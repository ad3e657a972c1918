"""What cues wait for, asked of a world that runs."""

from __future__ import annotations

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.records import Records
from haptos.engine.records.codes import FIRST_WALL, THE_PLAYER
from haptos.engine.records.events import EVENT_NAMES
from haptos.engine.report.present_places import GONE_NOW, PresentPlaces
from haptos.engine.stepping import Runner
from haptos.errors import CueError
from haptos.level.conditions import PLAYER, Condition, meant
from haptos.level.names import did_you_mean
from haptos.level.rules import OWN_MOMENTS
from haptos.level.waiting import LEDGE, Until
from haptos.level.world import SIDES

BOUNDS = tuple(f"bounds/{side}" for side in SIDES)


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
        self.compiled, self.until, self.where = compiled, until, where
        self.nearest = float("nan")
        self.pieces: frozenset[int] = frozenset()
        self.condition: Condition | None = None
        if until.condition is not None:
            self._ask(until.condition)
            return
        if until.event == LEDGE:
            if compiled.level.world.view == "top":
                raise CueError(f"{where}: found 'until ledge' in the top view, where no ground ends")
            return
        self.kind = EVENT_NAMES.index(until.event)
        if until.piece:
            self.pieces = self._pieces_of(until.piece)

    def has_happened(self, events: Records) -> bool:
        """Whether one of these events is the one."""
        if self.condition is not None or self.until.event == LEDGE:
            return False
        rows = events[events["kind"] == self.kind]
        if self.until.piece:
            return any(int(row["piece"]) in self.pieces or int(row["who"]) in self.pieces for row in rows)
        is_own = self.until.event in OWN_MOMENTS and self.until.event != "touch"
        return bool(len(rows)) and (is_own or bool((rows["who"] == THE_PLAYER).any()))

    def holds(self, runner: Runner) -> bool:
        """Whether the comparison holds now; how near it came is noted."""
        if self.condition is None:
            return False
        value = self._value(runner)
        if not abs(value - self.condition.number) >= abs(self.nearest - self.condition.number):
            self.nearest = value
        return self.condition.holds(value)

    def _ask(self, condition: Condition) -> None:
        level = self.compiled.level
        try:
            self.condition = meant(condition, level.counters)
        except ValueError as error:
            raise CueError(f"{self.where}: {error}") from None
        subject, measure = self.condition.subject, self.condition.measure
        if measure in ("value", "left"):
            self._number = list(level.counters).index(subject)
        elif subject != PLAYER:
            names = {piece.name: index for index, piece in enumerate(self.compiled.cast.resolved.pieces)}
            if subject not in names:
                raise CueError(f"{self.where}: no piece is called '{subject}'{did_you_mean(subject, names)}")
            self._number = names[subject]
            self._places = PresentPlaces(self.compiled)

    def _value(self, runner: Runner) -> float:
        assert self.condition is not None
        subject, measure, *_ = self.condition
        state = runner.world.state
        if measure in ("value", "left"):
            return float(state.counts[measure][self._number])
        if subject == PLAYER:
            if measure in ("vx", "vy"):
                return float(runner.player[measure][0] + runner.player[f"frame_{measure}"][0])
            return float(runner.player[measure][0])
        t = float(runner.player["tick"][0]) / self.compiled.level.world.tick_rate
        piece = self._places.now(self._number, state, t)
        if measure == "active":
            return float(piece.state != GONE_NOW)
        return piece.x if measure == "x" else piece.y

    def _pieces_of(self, name: str) -> frozenset[int]:
        """Return the numbers of the pieces that a name means."""
        resolved = self.compiled.cast.resolved
        found = set(resolved.answering(name))
        if name in BOUNDS:
            found.add(FIRST_WALL - BOUNDS.index(name))
        if not found:
            names = [*(piece.name for piece in resolved.pieces), *self.compiled.level.kinds, *BOUNDS]
            raise CueError(f"{self.where}: no piece, kind, mark or layer is called '{name}'{did_you_mean(name, names)}")
        return frozenset(found)
