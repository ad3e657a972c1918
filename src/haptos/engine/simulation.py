"""The public face of the engine: a level in, runs out; in one call, in a batch, or step by step."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from copy import copy
from functools import cache
from typing import Any

import numpy as np

from haptos.engine.build.compile_level import compile_level
from haptos.engine.doing import deed_rows
from haptos.engine.following import follow
from haptos.engine.present import Present
from haptos.engine.ray import Hit, ray_caster
from haptos.engine.records.recording import past_of
from haptos.engine.records.state import State
from haptos.engine.run import Run
from haptos.engine.snapshot import Snapshot
from haptos.engine.stepping import NO_CONTROLS, ONE_TICK, Runner
from haptos.level.cues import MOST_TICKS, Cues, Part, Step, held_bits, parse_cues
from haptos.level.deeds import Deed
from haptos.level.level import Level
from haptos.level.quantity import LARGEST, is_bounded


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
    TypeError
        If the level is no level, as a file's name.

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

    Raises
    ------
    CueError, LevelError
        If some cues or the level can't be used.
    TypeError
        If the level is no level, or the cue sheets are one text.

    Examples
    --------
    >>> import haptos
    >>> runs = haptos.simulate_many(haptos.Level(), ["wait 0.5 s", "wait 1 s"])
    >>> [run.duration for run in runs]
    [0.5, 1.0]
    """
    if isinstance(cue_sheets, str | Cues):
        raise TypeError(f"found {cue_sheets!r:.60}, expected a list of cue sheets; simulate runs one")
    compiled = compile_level(level)
    units = level.unit_table()
    given = list(cue_sheets)
    # Sheets that are there many times are read once.
    read = {sheet: parse_cues(sheet, units) if isinstance(sheet, str) else sheet for sheet in dict.fromkeys(given)}

    def run_one(sheet: str | Cues) -> Run:
        runner = Runner(compiled)
        followed = follow(compiled, runner, read[sheet])
        return Run(compiled, read[sheet], runner.recording.whole(), followed)

    if threads <= 1:
        return [run_one(sheet) for sheet in given]
    with ThreadPoolExecutor(threads) as pool:
        return list(pool.map(run_one, given))


def needs_compiling(level: Level) -> bool:
    """Whether running this level will first compile its kernel, which takes some seconds."""
    return Runner(compile_level(level)).needs_compiling()


@cache
def _held_bits(words: str) -> int:
    return held_bits(words, "step") if words.strip() else 0


class Simulation(Present):
    """A level that is stepped by hand.

    It can be copied and pickled, with all that was recorded; a copy goes its own way.

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
    >>> round(simulation.x, 1), simulation.stance, simulation.support
    (68.8, 'ground', 'floor')
    >>> simulation.restore(before)
    >>> simulation.x
    0.0
    """

    def __init__(self, level: Level) -> None:
        self.level = level
        self.compiled = compile_level(level)
        self._runner = Runner(self.compiled)
        self._rays = ray_caster(level)
        # How many events there were before the last step.
        self._seen = 0

    def step(self, held: str | Iterable[str] = (), ticks: int = 1) -> None:
        """Go on by some ticks.

        Parameters
        ----------
        held : str or iterable of str
            The controls: ``"right+jump"`` or ``["right", "jump"]``; none if not given.
        ticks : int

        Raises
        ------
        CueError
            If a control is not known.
        ValueError
            If the ticks are fewer than none, or more than a run can have.
        LevelError
            If rules fire each other without end.
        """
        if not 0 <= ticks <= MOST_TICKS:
            raise ValueError(f"found {ticks} ticks, expected 0 to {MOST_TICKS}")
        bits = _held_bits(held if isinstance(held, str) else "+".join(held))
        self._seen = self._runner.recording.event_count
        self._runner.run(np.full(ticks, bits, dtype=np.uint8) if ticks != 1 else ONE_TICK[bits])

    def place(self, x: float, y: float, vx: float = 0.0, vy: float = 0.0) -> None:
        """Put the player somewhere, at rest or with a velocity.

        Parameters
        ----------
        x, y : float
            Where the body's centre goes, in the level's length unit.
        vx, vy : float
            Length units a second.

        Raises
        ------
        ValueError
            If a number is not finite, or larger than one of a level may be.
        """
        if not is_bounded(x, y, vx, vy):
            found = f"found the place ({x}, {y}) and the velocity ({vx}, {vy})"
            raise ValueError(f"{found}, expected finite numbers of {LARGEST:g} at most")
        self._runner.run(NO_CONTROLS, deed_rows(self.compiled, [(0, Deed("place", x, y))]))
        self._player["vx"], self._player["vy"] = vx, vy

    def snapshot(self) -> Snapshot:
        """Return all there is to know of this moment.

        Returns
        -------
        Snapshot
            For `restore`, here or in any other simulation of an equal level. It stays good whatever is done afterwards.
        """
        return self._runner.snapshot()

    def restore(self, snapshot: Snapshot) -> None:
        """Go to the moment of a snapshot, its record included where that was made in this process.

        Parameters
        ----------
        snapshot : Snapshot
            Of any simulation of an equal level, in any process.

        Raises
        ------
        ValueError
            If it is of another level; nothing has changed then.
        TypeError
            If it is no snapshot.
        """
        if not isinstance(snapshot, Snapshot):
            raise TypeError(f"found {snapshot!r:.60}, expected a Snapshot, as snapshot gives")
        snapshot.require_level(self.level)
        self._runner.restore(snapshot)
        self._seen = 0

    def __copy__(self) -> Simulation:
        twin = Simulation(self.level)
        twin.restore(self.snapshot())
        return twin

    def __deepcopy__(self, memo: dict[int, Any]) -> Simulation:
        return copy(self)

    def __getstate__(self) -> dict[str, Any]:
        # What was recorded goes along, if it is known; a world that has not begun has nothing, not even a first row.
        recording = self._runner.recording
        ticks = recording.whole() if self._player["started"][0] and not recording.is_cut else None
        return {"level": self.level, "snapshot": self.snapshot(), "ticks": ticks}

    def __setstate__(self, state: dict[str, Any]) -> None:
        self.__init__(state["level"])  # type: ignore[misc]
        snapshot: Snapshot = state["snapshot"]
        if state["ticks"] is not None:
            snapshot.past = past_of(state["ticks"])
        self.restore(snapshot)

    @property
    def run(self) -> Run:
        """What happened so far, as a run."""
        if not self._player["started"][0]:
            self._runner.run(NO_CONTROLS)
        ticks = self._runner.recording.whole()
        duration = (len(ticks.track) - 1) / self.level.world.tick_rate
        wait = Step((Part(0, duration),), f"wait {duration:.9g} s")
        return Run(self.compiled, Cues((wait,)), ticks)

    def first_hit(
        self, origin: Sequence[float], direction: Sequence[float], layers: Sequence[str] | None = None
    ) -> Hit | None:
        """Return the nearest shape on a ray, with what moves where it is now.

        Parameters
        ----------
        origin, direction : (x, y)
            The direction's length does not matter.
        layers : sequence of str, optional
            Only pieces on these layers; all of them if not given, zones too.

        Returns
        -------
        Hit or None

        Raises
        ------
        ValueError
            If the direction has no length, or a layer does not exist.
        """
        since = float(self._value("tick")) / self.level.world.tick_rate
        return self._rays.first_hit(origin, direction, layers, self.state, since)

    @property
    def state(self) -> State:
        """Everything that changes while the level runs, as arrays of records; see `docs/architecture.md`."""
        return self._runner.world.state
