"""Cues: which controls are held for how long, or until what.

One cue a line, or separated by a comma and white space: ``right 1.2 s, right+jump 0.2 s, wait 1 s``. ``place 320,180``
takes no time; it puts the player there at rest. Cues joined by ``&`` begin together, and the next one follows the
longest. Instead of a time, a cue may say until when: ``right until x > 236``, ``wait until land within 5 s``.
``shove "brass ball" by 400,0`` gives a loose body an impulse; ``hand trunk to 320,180 in 1.5 s`` carries one along.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from haptos.errors import CueError
from haptos.level.control_bits import CONTROLS
from haptos.level.deeds import EXAMPLES, USUAL_TIME, Deed, read_deed
from haptos.level.expectations import Expectation
from haptos.level.names import did_you_mean
from haptos.level.quantity import Units, shared_units
from haptos.level.waiting import AWAITED, Until, read_until

MOST_TICKS = 50_000_000  # three gigabytes of track
BETWEEN_CUES = re.compile(r",\s+|,$")
CONTROLS_AND_MORE = re.compile(r"^([a-z_]+(?:\s*\+\s*[a-z_]+)*)\s*(.*)$", re.IGNORECASE)
UNTIL = re.compile(r"^until\s+(?P<what>.+?)(?:\s+within\s+(?P<within>.+))?$", re.IGNORECASE)
PATIENCE = 10.0  # a cue waits for so many seconds unless it says otherwise
LONGEST = 86_400.0  # a day of play: a longer cue is a slip of the pen


class Hold(NamedTuple):
    """Controls held from one time to another, seconds."""

    start: float
    stop: float
    held: int


class Part(NamedTuple):
    """What a part of a cue says: controls and for how long, or until when, or what is done.

    Attributes
    ----------
    held : bit set of controls
    duration : seconds; of what waits, after how many it is too late
    deed : what is done at its begin
    until : what it waits for
    """

    held: int
    duration: float
    deed: Deed | None = None
    until: Until | None = None


class Step(NamedTuple):
    """One cue: its parts, which begin together, and its words."""

    parts: tuple[Part, ...]
    words: str

    @property
    def waits(self) -> bool:
        """Whether it lasts until something happens."""
        return any(part.until is not None for part in self.parts)


@dataclass(frozen=True)
class Schedule:
    """Cues on the ticks of a level.

    Attributes
    ----------
    held : (ticks,) bit set of the controls held during each tick
    deeds : what is done at the start of which tick
    """

    held: NDArray[np.uint8]
    deeds: tuple[tuple[int, Deed], ...] = ()


@dataclass(frozen=True)
class Cues:
    """The input of a run.

    Attributes
    ----------
    steps : the cues, one after the other
    text : the cues as they were written, if they were
    stop : events that end the run: ``("lost", "hurt")``
    expect : what must hold of the run, see `haptos.verify`
    """

    steps: tuple[Step, ...]
    text: str = ""
    stop: tuple[str, ...] = ()
    expect: tuple[Expectation, ...] = ()

    @classmethod
    def from_held(cls, held: ArrayLike, tick_rate: float, deeds: Iterable[tuple[int, Deed]] = ()) -> Cues:
        """Return the cues that hold given controls, tick by tick.

        Parameters
        ----------
        held : (n,) array_like of int
            The bit set of the controls of each tick.
        tick_rate : float
            Ticks a second.
        deeds : iterable of (tick, Deed), optional
            Before which tick what is done.

        Examples
        --------
        >>> Cues.from_held([2, 2, 2, 0], 4).text
        'right 0.75 s, wait 0.25 s'
        """
        bits = np.asarray(held, dtype=np.int64)
        done = sorted(deeds, key=lambda one: one[0])
        cuts = {0, len(bits), *(np.flatnonzero(np.diff(bits)) + 1).tolist(), *(tick for tick, _ in done)}
        edges = sorted(cuts)
        steps: list[Step] = []
        for begin, end in zip(edges, [*edges[1:], len(bits)], strict=True):
            for tick, deed in done:
                if tick == begin:
                    # A hand goes on while what follows is held.
                    steps.append(Step((Part(0, 0.0, deed),), deed.words))
            if end > begin:
                # From edge to edge, so that nothing accumulates: each time is a difference of rounded ones.
                duration = (end - begin) / tick_rate
                steps.append(
                    Step((Part(int(bits[begin]), duration),), f"{controls_of(int(bits[begin]))} {duration:.9g} s")
                )
        return cls(tuple(steps), ", ".join(step.words for step in steps))

    @property
    def waits(self) -> bool:
        """Whether how long it lasts shows only once it is run."""
        return any(step.waits for step in self.steps)

    @cached_property
    def begins(self) -> tuple[float, ...]:
        """When each cue begins, and when the last one ends, seconds; for cues that wait, if they are all too late."""
        times = [0.0]
        for step in self.steps:
            times.append(times[-1] + max((part.duration for part in step.parts), default=0.0))
        return tuple(times)

    @property
    def duration(self) -> float:
        """Seconds from the first cue to the end of the last."""
        return self.begins[-1]

    @property
    def holds(self) -> Iterator[Hold]:
        """What is held from when to when."""
        for step, begin in zip(self.steps, self.begins, strict=False):
            for part in step.parts:
                if part.deed is None:
                    yield Hold(begin, begin + part.duration, part.held)

    @property
    def deeds(self) -> Iterator[tuple[float, Deed]]:
        """What is done when, seconds."""
        for step, begin in zip(self.steps, self.begins, strict=False):
            for part in step.parts:
                if part.deed is not None:
                    yield begin, part.deed

    def require_bounded(self, tick_rate: float) -> None:
        """Raise where the cues last longer than a run can be.

        Raises
        ------
        CueError
            If they have more ticks than fit into memory.
        """
        ticks = self.duration * tick_rate
        if ticks > MOST_TICKS:
            raise CueError(f"found cues of {ticks:.6g} ticks at {tick_rate:g} a second, expected {MOST_TICKS} at most")

    def schedule(self, tick_rate: float) -> Schedule:
        """Round every edge once, from its cumulative time, to the nearest tick.

        Parameters
        ----------
        tick_rate : float
            Ticks a second.

        Examples
        --------
        >>> parse_cues("right 0.5 s, wait 0.5 s").schedule(4).held.tolist()
        [2, 2, 0, 0]
        """
        self.require_bounded(tick_rate)
        ticks = nearest_tick(self.duration, tick_rate)
        held = np.zeros(ticks, dtype=np.uint8)
        for start, stop, bits in self.holds:
            held[nearest_tick(start, tick_rate) : nearest_tick(stop, tick_rate)] |= bits
        return Schedule(held, tuple((nearest_tick(t, tick_rate), deed) for t, deed in self.deeds))


def nearest_tick(t: float, tick_rate: float) -> int:
    """Return the tick nearest to a time; halves go up."""
    return math.floor(t * tick_rate + 0.5)


def parse_cues(
    text: str, units: Units | None = None, stop: Iterable[str] = (), expect: tuple[Expectation, ...] = ()
) -> Cues:
    """Read cues.

    Parameters
    ----------
    text : str
    units : Units, optional
        The level's, for lengths and for ``frame``.
    stop : iterable of str
        Events that end the run.
    expect : tuple of Expectation
        What must hold of the run.

    Raises
    ------
    CueError
        Naming the cue that can't be read.

    Examples
    --------
    >>> parse_cues("right 1.2 s, right+jump 12 frames, place 320,180").duration
    1.4
    """
    units = units or shared_units()
    steps: list[Step] = []
    # A cue that is there many times is read once.
    known: dict[str, Step] = {}
    now = 0.0
    for line in text.splitlines():
        if line.strip().startswith("#"):
            continue
        for words in BETWEEN_CUES.split(line):
            if not words.strip():
                continue
            where = f"cue {len(steps) + 1}"
            step = known.get(words)
            if step is None:
                parts = _timed(tuple(_read_part(part.strip(), where, units) for part in words.split("&")))
                step = known[words] = Step(parts, " ".join(words.split()))
            steps.append(step)
            now += max((part.duration for part in step.parts if part.until is None), default=0.0)
            if now > LONGEST:
                raise CueError(f"{where}: found {now:g} s of cues by then, expected at most {LONGEST:g} s")
    return Cues(tuple(steps), text.strip(), known_events(stop, "stop"), expect)


def known_events(names: Iterable[str], where: str) -> tuple[str, ...]:
    """Return names of events that can end a cue, or a run.

    Raises
    ------
    CueError
        If one is not the name of an event.
    """
    found = tuple(names)
    for name in found:
        if name not in AWAITED:
            raise CueError(f"{where}: '{name}' is not an event{did_you_mean(name, AWAITED)}")
    return found


def controls_of(bits: int) -> str:
    """Return the words of a bit set of controls.

    Examples
    --------
    >>> controls_of(held_bits("right+jump", ""))
    'right+jump'
    """
    return "+".join(name for name, bit in CONTROLS.items() if bits & bit) or "wait"


def held_bits(words: str, where: str) -> int:
    """Return the bit set of controls written like ``right+jump``.

    Raises
    ------
    CueError
        If a control is not known.
    """
    bits = 0
    for word in words.split("+"):
        name = word.strip()
        if name not in CONTROLS:
            known = [*CONTROLS, "wait", *EXAMPLES]
            raise CueError(f"{where}: '{name}' is not a control{did_you_mean(name, known)}")
        bits |= CONTROLS[name]
    return bits


def _timed(parts: tuple[Part, ...]) -> tuple[Part, ...]:
    """Return the parts of a cue, in which a hand that does not say how long takes as long as what is beside it."""
    longest = max((part.duration for part in parts if part.deed is None), default=USUAL_TIME)
    return tuple(
        part._replace(duration=longest, deed=part.deed._replace(time=longest))
        if part.deed is not None and part.deed.what == "hand" and part.deed.time is None
        else part
        for part in parts
    )


def _read_part(part: str, where: str, units: Units) -> Part:
    deed = read_deed(part, where, units)
    if deed is not None:
        return Part(0, deed.time or 0.0, deed)
    match = CONTROLS_AND_MORE.match(part)
    if match is None:
        raise CueError(f"{where}: found '{part}', expected controls and a time such as 'right+jump 0.2 s'")
    controls, rest = match.group(1).lower(), match.group(2).strip()
    held = 0 if controls == "wait" else held_bits(controls, where)
    waits = UNTIL.match(rest)
    if waits is None and rest.lower() == "until":
        raise CueError(f"{where}: found '{part}', expected what it waits for, such as '{part} land'")
    if waits is None:
        return Part(held, _read_time(rest, part, where, units))
    patience = waits["within"]
    duration = PATIENCE if patience is None else _read_time(patience.strip(), part, where, units)
    try:
        return Part(held, duration, None, read_until(waits["what"].strip(), units))
    except ValueError as error:
        raise CueError(f"{where}: {error}") from None


def _read_time(rest: str, part: str, where: str, units: Units) -> float:
    if not rest:
        raise CueError(f"{where}: found '{part}' without a time, expected one such as '{part} 0.5 s'")
    duration = _plain_number(rest)
    if duration is None:
        try:
            duration = units.convert(rest, "time")
        except ValueError as error:
            raise CueError(f"{where}: {error}") from None
    if not np.isfinite(duration) or duration < 0:
        raise CueError(f"{where}: found the time '{rest}', expected a finite one of zero or more")
    return duration


def _plain_number(text: str) -> float | None:
    try:
        return float(text)
    except ValueError:
        return None
