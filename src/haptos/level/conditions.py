"""What rules and cues ask, in one language: the `if` of a rule, and what a cue waits for with `until`."""

from __future__ import annotations

import re
from collections.abc import Collection
from typing import NamedTuple

from haptos.level.names import did_you_mean
from haptos.level.quantity import Units

PLAYER = "player"
# What can be asked of the player, as in its track, and of a piece; and what each is measured in.
PLAYER_MEASURES = {
    "x": "length", "y": "length", "vx": "speed", "vy": "speed", "health": "number", "lives": "number",
    "speed_factor": "number",
}  # fmt: skip
PIECE_MEASURES = {"x": "length", "y": "length"}
COMPARED = re.compile(r"^([^<>=!]+?)\s*(==|!=|<=|>=|<|>)\s*([^<>=!]+)$")
ACTIVE = re.compile(r"^(not\s+)?(.+)\.active$")
EXAMPLES = "'oil >= 10', 'oil.left == 0', 'x > 236', 'lift.y < 40' or 'not gate.active'"


class Condition(NamedTuple):
    """A number of the player, of a piece or of a counter, compared with another one.

    Attributes
    ----------
    subject : the counter, the piece, or ``player``; a plain word may be either, see `meant`
    measure : ``value`` or ``left`` of a counter, ``active`` of a piece, or a measure of the player or a piece
    comparison : ``==``, ``!=``, ``<=``, ``>=``, ``<`` or ``>``
    number : what it is compared with, in the level's own units
    """

    subject: str
    measure: str
    comparison: str
    number: float

    def holds(self, value: float) -> bool:
        """Whether it is so of a value.

        Examples
        --------
        >>> condition_of("x > 236").holds(240.0)
        True
        """
        number = self.number
        return {
            "==": value == number, "!=": value != number, "<=": value <= number, ">=": value >= number,
            "<": value < number, ">": value > number,
        }[self.comparison]  # fmt: skip


def is_comparison(text: str) -> bool:
    """Whether a text compares something, or asks whether a piece is active."""
    return COMPARED.match(text.strip()) is not None or ACTIVE.match(text.strip()) is not None


def condition_of(text: str, units: Units | None = None) -> Condition:
    """Return what a text asks.

    Parameters
    ----------
    text : str
    units : Units, optional
        The level's, for numbers with a unit.

    Raises
    ------
    ValueError
        If it asks nothing that can be answered.

    Examples
    --------
    >>> condition_of("oil >= 10")
    Condition(subject='oil', measure='value', comparison='>=', number=10.0)
    >>> condition_of("not gate.active")
    Condition(subject='gate', measure='active', comparison='==', number=0.0)
    >>> condition_of("lift.y < 40")
    Condition(subject='lift', measure='y', comparison='<', number=40.0)
    """
    active = ACTIVE.match(text.strip())
    if active is not None:
        return Condition(active[2].strip(), "active", "==", 0.0 if active[1] else 1.0)
    compared = COMPARED.match(text.strip())
    if compared is None:
        raise ValueError(f"found '{text}', expected such as {EXAMPLES}")
    subject, measure, dimension = _subject_of(compared[1].strip())
    return Condition(subject, measure, compared[2], _number_of(compared[3].strip(), dimension, text, units))


def _subject_of(words: str) -> tuple[str, str, str]:
    """Return whom a text is about, what of it, and the dimension of that."""
    subject, dot, measure = words.rpartition(".")
    if not dot:
        return words, "value", PLAYER_MEASURES.get(words, "number")
    subject = subject.strip().strip("\"'")
    if measure == "left":
        return subject, "left", "number"
    measures = PLAYER_MEASURES if subject == PLAYER else PIECE_MEASURES
    if measure not in measures:
        raise ValueError(f"found '{words}', expected {subject} and one of {', '.join(measures)}"
                         f"{_hint(measure, measures)}")  # fmt: skip
    return subject, measure, measures[measure]


def meant(condition: Condition, counters: Collection[str]) -> Condition:
    """Return a condition with a plain word as what it means: a counter, or else a measure of the player.

    Raises
    ------
    ValueError
        If it is neither.

    Examples
    --------
    >>> meant(condition_of("x > 236"), ["oil"])
    Condition(subject='player', measure='x', comparison='>', number=236.0)
    """
    word = condition.subject
    if condition.measure not in ("value", "left") or word in counters:
        return condition
    if condition.measure == "value" and word in PLAYER_MEASURES:
        return condition._replace(subject=PLAYER, measure=word)
    raise ValueError(f"no counter '{word}'{did_you_mean(word, [*counters, *PLAYER_MEASURES])}")


def _hint(measure: str, measures: dict[str, str]) -> str:
    hint = did_you_mean(measure, measures)
    return hint if "mean" in hint else ""


def _number_of(words: str, dimension: str, text: str, units: Units | None) -> float:
    try:
        return float(words)
    except ValueError:
        pass
    if units is None:
        raise ValueError(f"found '{text}', expected a plain number to compare with, such as {EXAMPLES}") from None
    return units.convert(words, dimension)
