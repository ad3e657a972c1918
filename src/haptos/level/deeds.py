"""What cues do besides holding controls: put the player somewhere, shove a loose body, carry one along."""

from __future__ import annotations

import re
from typing import NamedTuple

from haptos.errors import CueError
from haptos.level.quantity import LARGEST, Units, is_bounded

# A hand takes so long where nothing says how long.
USUAL_TIME = 1.0
NAME = r"""(?P<name>"[^"]+"|'[^']+'|\S+)"""
SHOVE = re.compile(rf"^shove\s+{NAME}\s+by\s+(?P<at>.+)$", re.IGNORECASE)
HAND = re.compile(rf"^hand\s+{NAME}\s+to\s+(?P<at>.+?)(?:\s+in\s+(?P<time>.+))?$", re.IGNORECASE)
PLACE = re.compile(r"^place\b\s*(?P<at>.*)$", re.IGNORECASE)
EXAMPLES = {
    "place": "'place 320,180'",
    "shove": "'shove \"brass ball\" by 400,0'",
    "hand": "'hand trunk to 320,180 in 1.5 s'",
}


class Deed(NamedTuple):
    """What a cue does at its begin.

    Attributes
    ----------
    what : ``place``, ``shove`` or ``hand``
    x, y : where the player, or the hand, goes; of a shove its impulse
    name : the body that is meant, nothing for the player
    time : how long the hand takes, seconds; None where the cue does not say
    """

    what: str
    x: float
    y: float
    name: str = ""
    time: float | None = None

    @property
    def words(self) -> str:
        """It as a cue."""
        name = f'"{self.name}"' if re.search(r"[\s,&]", self.name) else self.name
        if self.what == "place":
            return f"place {self.x!r},{self.y!r}"
        if self.what == "shove":
            return f"shove {name} by {self.x!r},{self.y!r}"
        return f"hand {name} to {self.x!r},{self.y!r} in {self.time!r} s"


def read_deed(part: str, where: str, units: Units) -> Deed | None:
    """Return what a part of a cue does, None if it holds controls.

    Raises
    ------
    CueError
        If it begins as a deed and can't be read.

    Examples
    --------
    >>> from haptos.level.quantity import shared_units
    >>> read_deed('hand "brass ball" to 320,180 in 1.5 s', "cue 1", shared_units())
    Deed(what='hand', x=320.0, y=180.0, name='brass ball', time=1.5)
    """
    word = part.split(maxsplit=1)[0].lower() if part.split() else ""
    if word not in EXAMPLES:
        return None
    found = {"place": PLACE, "shove": SHOVE, "hand": HAND}[word].match(part)
    if found is None:
        raise CueError(f"{where}: found '{part}', expected {EXAMPLES[word]}")
    dimension = "impulse" if word == "shove" else "length"
    x, y = _read_two(found["at"], part, where, units, (word, dimension))
    if word == "place":
        return Deed(word, x, y)
    name = found["name"]
    if name[0] in "\"'":
        name = name[1:-1]
    time = found["time"] if word == "hand" else None
    if time is None:
        return Deed(word, x, y, name)
    seconds = _read_number(time.strip(), where, units, "time")
    if not is_bounded(seconds) or seconds < 0:
        raise CueError(f"{where}: found the time '{time}', expected one of zero or more, and at most {LARGEST:g} s")
    return Deed(word, x, y, name, seconds)


def _read_two(
    text: str, part: str, where: str, units: Units, kind: tuple[str, str]
) -> tuple[float, float]:  # fmt: skip
    """Return two numbers with a comma between them."""
    word, dimension = kind
    texts = text.split(",")
    if len(texts) != 2:
        form = "'place x,y'" if word == "place" else "two numbers with a comma between them,"
        raise CueError(f"{where}: found '{part}', expected {form} such as {EXAMPLES[word]}")
    numbers = [_read_number(one.strip(), where, units, dimension) for one in texts]
    if not is_bounded(*numbers):
        raise CueError(f"{where}: found '{part}', expected numbers of {LARGEST:g} at most")
    return numbers[0], numbers[1]


def _read_number(text: str, where: str, units: Units, dimension: str) -> float:
    try:
        return float(text)
    except ValueError:
        pass
    try:
        return units.convert(text, dimension)
    except ValueError as error:
        raise CueError(f"{where}: {error}") from None
