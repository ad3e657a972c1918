"""What conditions ask about, in a world that runs."""

from __future__ import annotations

import math
from functools import cached_property

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.build.named_pieces import numbers_named
from haptos.engine.records.codes import STANCE_NAMES
from haptos.engine.report.present_places import GONE_NOW, PresentPlaces
from haptos.engine.stepping import Runner
from haptos.errors import CueError
from haptos.level.comparisons import PLAYER, Comparison, meant
from haptos.level.conditions import Condition
from haptos.level.names import did_you_mean


class Asking:
    """A condition, asked of worlds of one level.

    Parameters
    ----------
    compiled : CompiledLevel
    condition : Condition
    where : str
        The cue, or what else asks, for messages.

    Attributes
    ----------
    nearest : dict
        Of each comparison of a number that never held: the value that was nearest to the one asked for.

    Raises
    ------
    CueError
        If it names something that the level does not have.
    """

    def __init__(self, compiled: CompiledLevel, condition: Condition, where: str) -> None:
        self.compiled, self.where = compiled, where
        self.nearest: dict[Comparison, float] = {}
        self._supports: dict[str, frozenset[int]] = {}
        self._numbers = {piece.name: index for index, piece in enumerate(compiled.cast.resolved.pieces)}
        self.condition = condition.changed(self._meant)

    def holds(self, runner: Runner) -> bool:
        """Whether it holds now; how near each number came is noted."""
        for comparison in self.condition.comparisons:
            value = self.value(comparison, runner)
            if comparison.is_number and isinstance(value, float):
                self._note(comparison, value)
        return self.condition.holds(lambda comparison: self.value(comparison, runner))

    @cached_property
    def _places(self) -> PresentPlaces:
        return PresentPlaces(self.compiled)

    def _note(self, comparison: Comparison, value: float) -> None:
        asked = float(comparison.value)
        nearest = self.nearest.get(comparison, math.nan)
        if comparison.holds(value) or not abs(value - asked) >= abs(nearest - asked):
            self.nearest[comparison] = value

    def _meant(self, comparison: Comparison) -> Comparison:
        """Return a comparison as it is meant in this level."""
        level = self.compiled.level
        try:
            comparison = meant(comparison, level.counters, level.world.view)
        except ValueError as error:
            raise CueError(f"{self.where}: {error}") from None
        of_piece = comparison.subject != PLAYER and comparison.measure not in ("value", "left")
        if of_piece and comparison.subject not in self._numbers:
            hint = did_you_mean(comparison.subject, self._numbers)
            raise CueError(f"{self.where}: no piece is called '{comparison.subject}'{hint}")
        if comparison.measure == "support":
            self._supports[str(comparison.value)] = named(self.compiled, str(comparison.value), self.where)
        return comparison

    def value(self, comparison: Comparison, runner: Runner) -> float | str:
        """Return what a comparison asks about, as it is now."""
        subject, measure, _, asked = comparison
        state, player = runner.world.state, runner.player[0]
        if measure in ("value", "left"):
            return float(state.counts[measure][list(self.compiled.level.counters).index(subject)])
        if subject != PLAYER:
            t = float(player["tick"]) / self.compiled.level.world.tick_rate
            piece = self._places.now(self._numbers[subject], state, t)
            if measure == "active":
                return float(piece.state != GONE_NOW)
            if measure == "load":
                return self._load(self._numbers[subject], runner)
            return {"x": piece.x, "y": piece.y, "angle": piece.angle}[measure]
        vx, vy = (float(player[name] + player[f"frame_{name}"]) for name in ("vx", "vy"))
        if measure == "support":
            return self.stands_on(int(player["support"]), str(asked))
        if measure == "stance":
            return STANCE_NAMES[int(player["stance"])]
        if measure == "facing" and isinstance(asked, str):
            return "left" if player["facing"] < 0 else "right"
        moving = {"vx": vx, "vy": vy, "speed": math.hypot(vx, vy)}
        return moving[measure] if measure in moving else float(player[measure])

    def number_of(self, piece: str) -> int:
        """Return the number of a piece that the condition names."""
        return self._numbers[piece]

    def stands_on(self, outline: int, name: str) -> str:
        """Return a name that the condition asks for, if it means the piece of that outline; nothing else."""
        return name if self.compiled.support_piece(outline) in self._supports[name] else ""

    def _load(self, piece: int, runner: Runner) -> float:
        """Return the force that rests on a piece: of loose bodies, and of the player who stands on it."""
        state, player = runner.world.state, runner.player[0]
        load = float(state.loads[piece]) if len(state.loads) else 0.0
        stands = STANCE_NAMES[int(player["stance"])] == "ground"
        if stands and self.compiled.support_piece(int(player["support"])) == piece:
            gravity = math.hypot(float(player["gravity_x"]), float(player["gravity_y"]))
            load += self.compiled.level.player.mass * gravity
        return load


def named(compiled: CompiledLevel, name: str, where: str) -> frozenset[int]:
    """Return the numbers of the pieces and sides that a cue names.

    Raises
    ------
    CueError
        If nothing is called that.
    """
    try:
        return frozenset(numbers_named(compiled.cast.resolved, name))
    except ValueError as error:
        raise CueError(f"{where}: {error}") from None
