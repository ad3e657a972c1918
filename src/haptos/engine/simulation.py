"""The public face of the engine: a level in, runs out; in one call, in a batch, or step by step."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.compile_level import compile_level
from haptos.engine.build.initial_state import new_state
from haptos.engine.compiling.contract import is_ready, mark_ready
from haptos.engine.ray import Hit, RayCaster
from haptos.engine.records.state import State
from haptos.engine.report.replay import placement_at
from haptos.engine.run import Run
from haptos.engine.runner import NO_CONTROLS, NO_PLACES, NO_TICKS, Ticks, run_ticks
from haptos.level.cues import Cues, held_bits, parse_cues
from haptos.level.level import Level


def simulate(level: Level, cues: str | Cues = "wait 1 s") -> Run:
    """Run a level with cues.

    Parameters
    ----------
    level : Level
    cues : str or Cues
        ``"right 1.2 s, right+jump 0.2 s, wait 1 s"``

    Returns
    -------
    Run

    Raises
    ------
    CueError, LevelError
        If the cues or the level can't be used.

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -22]}])
    >>> run = haptos.simulate(level, "right 0.5 s, right+jump 0.1 s, wait 1 s")
    >>> run.events.query("event == 'jump'").t.tolist()
    [0.5]
    """
    return simulate_many(level, [cues])[0]


def simulate_many(level: Level, cue_sheets: Iterable[str | Cues], threads: int = 1) -> list[Run]:
    """Run one level with many cue sheets.

    Parameters
    ----------
    level : Level
    cue_sheets : iterable of str or Cues
    threads : int
        Worlds are run on this many threads. The result does not depend on it.

    Returns
    -------
    list of Run
        In the order of the cue sheets, each the same to the last bit as if it had been simulated alone.
    """
    compiled = compile_level(level)
    units = level.unit_table()
    given = list(cue_sheets)
    # Sheets that are there many times are read once.
    read = {sheet: parse_cues(sheet, units) if isinstance(sheet, str) else sheet for sheet in dict.fromkeys(given)}
    schedules = {sheet: cues.schedule(level.world.tick_rate) for sheet, cues in read.items()}
    sheets = [read[sheet] for sheet in given]
    state = new_state(compiled, len(sheets))

    def run_one(index: int) -> Run:
        schedule = schedules[given[index]]
        ticks = run_ticks(compiled, state, index, schedule.held, schedule.place_tick, schedule.place_at)
        return Run(compiled, sheets[index], ticks)

    if not sheets:
        return []
    # Where kernels have to be compiled, that is done once, before the threads begin.
    run_ticks(compiled, new_state(compiled, 1), 0, NO_CONTROLS)
    mark_ready(compiled.tables.capabilities)
    if threads <= 1:
        return [run_one(index) for index in range(len(sheets))]
    with ThreadPoolExecutor(threads) as pool:
        return list(pool.map(run_one, range(len(sheets))))


def needs_compiling(level: Level, plain: bool = False) -> bool:
    """Whether running this level, or a plain one of its view, will first compile kernels, which takes some seconds."""
    if plain:
        level = Level(world={"view": level.world.view})
    return not is_ready(compile_level(level).tables.capabilities)


class Simulation:
    """A level that is stepped by hand.

    Parameters
    ----------
    level : Level

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -22]}])
    >>> simulation = haptos.Simulation(level)
    >>> before = simulation.snapshot()
    >>> for _ in range(30):
    ...     simulation.step("right")
    >>> round(simulation.x, 1)
    68.8
    >>> simulation.restore(before)
    >>> simulation.x
    0.0
    """

    def __init__(self, level: Level) -> None:
        self.level = level
        self.compiled = compile_level(level)
        self.state = new_state(self.compiled, 1)
        self._ticks: list[Ticks] = []
        self._rays: RayCaster | None = None

    def step(self, held: str | Iterable[str] = (), ticks: int = 1) -> None:
        """Go on by some ticks with controls held: ``"right+jump"`` or ``["right", "jump"]``."""
        words = held if isinstance(held, str) else "+".join(held)
        bits = held_bits(words, "step") if words.strip() else 0
        self._advance(np.full(ticks, bits, dtype=np.uint8), NO_TICKS, NO_PLACES)

    def place(self, x: float, y: float, vx: float = 0.0, vy: float = 0.0) -> None:
        """Put the player somewhere, at rest or with a velocity."""
        self._advance(NO_CONTROLS, np.zeros(1, dtype=np.int64), np.array([[x, y]], dtype=np.float64))
        self.state.player["vx"], self.state.player["vy"] = vx, vy

    def snapshot(self) -> tuple[State, int]:
        """Return all there is to know of this moment."""
        return self.state.copy(), len(self._ticks)

    def restore(self, snapshot: tuple[State, int]) -> None:
        """Go back to a moment, its record included."""
        saved, length = snapshot
        self.state.restore(saved)
        del self._ticks[length:]

    @property
    def run(self) -> Run:
        """What happened so far, as a run."""
        if not self._ticks:
            self._advance(NO_CONTROLS, NO_TICKS, NO_PLACES)
        first, *others = self._ticks
        track = np.concatenate([first.track, *(ticks.track[1:] for ticks in others)])
        scores = np.concatenate([first.scores, *(ticks.scores[1:] for ticks in others)])
        events = np.concatenate([ticks.events for ticks in self._ticks])
        flights = np.concatenate([ticks.flights for ticks in self._ticks])
        duration = (len(track) - 1) / self.level.world.tick_rate
        return Run(self.compiled, Cues((), (), duration), Ticks(track, scores, events, flights))

    def first_hit(
        self, origin: Sequence[float], direction: Sequence[float], layers: Sequence[str] | None = None
    ) -> Hit | None:
        """Return the nearest shape on a ray, with what moves where it is now; see `haptos.first_hit`."""
        placement = self.compiled.placement
        if self.compiled.resolved.moving:
            placement, _ = placement_at(self.run, self.t)
            self._rays = None
        if self._rays is None:
            self._rays = RayCaster(self.compiled.resolved, placement)
        return self._rays.first_hit(origin, direction, layers)

    def _advance(self, held: NDArray[np.uint8], ticks: NDArray[np.int64], at: NDArray[np.float64]) -> None:
        done = run_ticks(self.compiled, self.state, 0, held, ticks, at)
        mark_ready(self.compiled.tables.capabilities)
        self._ticks.append(done)

    def _value(self, name: str) -> Any:
        return self.state.player[name][0]

    @property
    def t(self) -> float:
        """Seconds since the start."""
        return float(self._value("era") + self._value("tick")) / self.level.world.tick_rate

    @property
    def x(self) -> float:
        """The centre of the body, from the left."""
        return float(self._value("x"))

    @property
    def y(self) -> float:
        """The centre of the body, upward."""
        return float(self._value("y"))

    @property
    def vx(self) -> float:
        """Velocity to the right."""
        return float(self._value("vx"))

    @property
    def vy(self) -> float:
        """Velocity upward."""
        return float(self._value("vy"))
