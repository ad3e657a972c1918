"""Cues: which controls are held for how long.

One cue a line, or separated by a comma and white space: ``right 1.2 s, right+jump 0.2 s, wait 1 s``. ``place 320,180``
takes no time; it puts the player there at rest. Cues joined by ``&`` begin together, and the next one follows the
longest.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.errors import CueError
from haptos.level.control_bits import CONTROLS
from haptos.level.names import did_you_mean
from haptos.level.quantity import Units, shared_units

MOST_TICKS = 50_000_000  # three gigabytes of track
BETWEEN_CUES = re.compile(r",\s+|,$")
CONTROLS_AND_MORE = re.compile(r"^([a-z_]+(?:\s*\+\s*[a-z_]+)*)\s*(.*)$", re.IGNORECASE)
LONGEST = 86_400.0  # a day of play: a longer cue is a slip of the pen


class Hold(NamedTuple):
    """Controls held from one time to another, seconds."""

    start: float
    stop: float
    held: int


class Place(NamedTuple):
    """The player put somewhere at a time."""

    t: float
    x: float
    y: float


class Said(NamedTuple):
    """What a part of a cue says: controls and for how long, or where the player is put."""

    held: int
    duration: float
    at: tuple[float, float] | None


@dataclass(frozen=True)
class Schedule:
    """Cues on the ticks of a level.

    Attributes
    ----------
    held : (ticks,) bit set of the controls held during each tick
    place_tick : (k,) tick at whose start the player is put somewhere
    place_at : (k, 2) where
    """

    held: NDArray[np.uint8]
    place_tick: NDArray[np.int64]
    place_at: NDArray[np.float64]


@dataclass(frozen=True)
class Cues:
    """The input of a run.

    Attributes
    ----------
    holds, places : what is held and where the player is put
    duration : seconds from the first cue to the end of the last
    text : the cues as they were written, if they were
    """

    holds: tuple[Hold, ...]
    places: tuple[Place, ...]
    duration: float
    text: str = ""

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
        ticks = nearest_tick(self.duration, tick_rate)
        if ticks > MOST_TICKS:
            raise CueError(f"found cues of {ticks} ticks at {tick_rate:g} a second, expected at most {MOST_TICKS}")
        held = np.zeros(ticks, dtype=np.uint8)
        for start, stop, bits in self.holds:
            held[nearest_tick(start, tick_rate) : nearest_tick(stop, tick_rate)] |= bits
        put = np.array([nearest_tick(place.t, tick_rate) for place in self.places], dtype=np.int64)
        at = np.array([(place.x, place.y) for place in self.places], dtype=np.float64).reshape(-1, 2)
        return Schedule(held, put, at)


def nearest_tick(t: float, tick_rate: float) -> int:
    """Return the tick nearest to a time; halves go up."""
    return math.floor(t * tick_rate + 0.5)


def parse_cues(text: str, units: Units | None = None) -> Cues:
    """Read cues.

    Parameters
    ----------
    text : str
    units : Units, optional
        The level's, for lengths and for ``frame``.

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
    holds: list[Hold] = []
    places: list[Place] = []
    # A cue that is there many times is read once.
    known: dict[str, tuple[Said, ...]] = {}
    now = 0.0
    number = 0
    for line in text.splitlines():
        if line.strip().startswith("#"):
            continue
        for words in BETWEEN_CUES.split(line):
            if not words.strip():
                continue
            number += 1
            parts = known.get(words)
            if parts is None:
                where = f"cue {number}"
                parts = known[words] = tuple(_read_part(part.strip(), where, units) for part in words.split("&"))
            stop = now
            for held, duration, at in parts:
                if at is not None:
                    places.append(Place(now, *at))
                    continue
                holds.append(Hold(now, now + duration, held))
                stop = max(stop, now + duration)
            now = stop
            if now > LONGEST:
                raise CueError(f"cue {number}: found {now:g} s of cues by then, expected at most {LONGEST:g} s")
    return Cues(tuple(holds), tuple(places), now, text.strip())


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
            known = [*CONTROLS, "wait", "place"]
            raise CueError(f"{where}: '{name}' is not a control{did_you_mean(name, known)}")
        bits |= CONTROLS[name]
    return bits


def _read_part(part: str, where: str, units: Units) -> Said:
    match = CONTROLS_AND_MORE.match(part)
    if match is None:
        raise CueError(f"{where}: found '{part}', expected controls and a time such as 'right+jump 0.2 s'")
    controls, rest = match.group(1).lower(), match.group(2).strip()
    if controls == "place":
        return Said(0, 0.0, _read_place(rest, where, units))
    held = 0 if controls == "wait" else held_bits(controls, where)
    return Said(held, _read_time(rest, part, where, units), None)


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


def _read_place(rest: str, where: str, units: Units) -> tuple[float, float]:
    parts = rest.split(",")
    if len(parts) != 2:
        raise CueError(f"{where}: found 'place {rest}', expected 'place x,y' such as 'place 320,180'")
    numbers = []
    for text in parts:
        number = _plain_number(text.strip())
        if number is None:
            try:
                number = units.convert(text.strip(), "length")
            except ValueError as error:
                raise CueError(f"{where}: {error}") from None
        if not np.isfinite(number):
            raise CueError(f"{where}: found 'place {rest}', expected finite numbers")
        numbers.append(number)
    return numbers[0], numbers[1]


def _plain_number(text: str) -> float | None:
    try:
        return float(text)
    except ValueError:
        return None
