"""What rules and cues compare: a number or a word of the player, of a piece or of a counter, with a value."""

from __future__ import annotations

import re
from collections.abc import Collection
from typing import NamedTuple

from haptos.level.names import did_you_mean
from haptos.level.quantity import Units

PLAYER = "player"
# What can be asked of the player, as in its track, and of a piece; and what each is measured in, or which words it is.
PLAYER_MEASURES = {
    "x": "length", "y": "length", "vx": "speed", "vy": "speed", "speed": "speed", "up_x": "number", "up_y": "number",
    "health": "number", "lives": "number", "speed_factor": "number",
}  # fmt: skip
PLAYER_WORDS = {"stance": ("ground", "air", "ladder", "gone"), "facing": ("right", "left"), "support": ()}
PIECE_MEASURES = {"x": "length", "y": "length", "angle": "angle", "load": "force"}
COMPARED = re.compile(r"^([^<>=!]+?)\s*(==|!=|<=|>=|<|>)\s*([^<>=!]+)$")
ACTIVE = re.compile(r"^(.+)\.active$")
QUOTES = "\"'"
EXAMPLES = "'oil >= 10', 'oil.left == 0', 'x > 236', 'stance == air', 'lift.y < 40' or 'not gate.active'"


class Comparison(NamedTuple):
    """A number or a word of the player, of a piece or of a counter, compared with a value.

    Attributes
    ----------
    subject : the counter, the piece, or ``player``; a plain word may be either, see `meant`
    measure : ``value`` or ``left`` of a counter, ``active`` of a piece, or a measure of the player or a piece
    comparison : ``==``, ``!=``, ``<=``, ``>=``, ``<`` or ``>``
    value : what it is compared with: a number in the level's own units, or a word
    """

    subject: str
    measure: str
    comparison: str
    value: float | str

    @property
    def is_number(self) -> bool:
        """Whether it is a number that can be near the one asked for."""
        return not isinstance(self.value, str) and self.measure != "active"

    @property
    def words(self) -> str:
        """What it asks, as it is written in a file.

        Examples
        --------
        >>> comparison_of("'brass ball'.x>3").words
        "'brass ball'.x > 3"
        """
        if self.measure == "active":
            return f"{_quoted(self.subject)}.active"
        value = _quoted(self.value) if isinstance(self.value, str) else f"{self.value:.17g}"
        return f"{self.subject_words} {self.comparison} {value}"

    @property
    def subject_words(self) -> str:
        """What it asks about: ``oil``, ``player.x``, ``lift.y``."""
        if self.measure == "value":
            return self.subject
        return f"{_quoted(self.subject)}.{self.measure}"

    def holds(self, value: float | str) -> bool:
        """Whether it is so of a value.

        Examples
        --------
        >>> comparison_of("x > 236").holds(240.0)
        True
        """
        if isinstance(value, str) or isinstance(self.value, str):
            return (value == self.value) == (self.comparison == "==")
        than = self.value
        return {
            "==": value == than, "!=": value != than, "<=": value <= than, ">=": value >= than,
            "<": value < than, ">": value > than,
        }[self.comparison]  # fmt: skip


def comparison_of(text: str, units: Units | None = None) -> Comparison:
    """Return what a text asks that compares one thing.

    Raises
    ------
    ValueError
        If it asks nothing that can be answered.

    Examples
    --------
    >>> comparison_of("oil >= 10")
    Comparison(subject='oil', measure='value', comparison='>=', value=10.0)
    >>> comparison_of("stance == air").value
    'air'
    """
    active = ACTIVE.match(text.strip())
    if active is not None:
        return Comparison(active[1].strip().strip(QUOTES), "active", "==", 1.0)
    compared = COMPARED.match(text.strip())
    if compared is None:
        raise ValueError(f"found '{text}', expected such as {EXAMPLES}")
    subject, measure = subject_of(compared[1].strip())
    word = compared[3].strip()
    of = subject if measure == "value" else measure
    if measure == "value" or subject == PLAYER:
        if of in PLAYER_WORDS and not (of == "facing" and _is_number(word)):
            return _comparison_of_word(subject, measure, compared[2], word.strip(QUOTES), of)
    dimension = "angle" if of == "facing" else {**PIECE_MEASURES, **PLAYER_MEASURES}.get(of, "number")
    return Comparison(subject, measure, compared[2], _number_of(word, dimension, text, units))


def _comparison_of_word(subject: str, measure: str, comparison: str, word: str, of: str) -> Comparison:
    words = PLAYER_WORDS[of]
    if comparison not in ("==", "!="):
        raise ValueError(f"found '{of} {comparison} {word}', expected == or != with a word")
    if words and word not in words:
        hint = did_you_mean(word, words, lists=False)
        raise ValueError(f"found '{of} {comparison} {word}', expected one of {', '.join(words)}{hint}")
    return Comparison(subject, measure, comparison, word)


def subject_of(words: str) -> tuple[str, str]:
    """Return whom a text is about, and what of it.

    Raises
    ------
    ValueError
        If there is no such measure.

    Examples
    --------
    >>> subject_of("lift.y"), subject_of("oil")
    (('lift', 'y'), ('oil', 'value'))
    """
    subject, dot, measure = words.rpartition(".")
    if not dot:
        return words, "value"
    subject, measure = subject.strip().strip(QUOTES), measure.strip()
    if measure == "left":
        return subject, "left"
    measures = (*PLAYER_MEASURES, *PLAYER_WORDS) if subject == PLAYER else (*PIECE_MEASURES, "active")
    if measure not in measures:
        hint = did_you_mean(measure, measures, lists=False)
        raise ValueError(f"found '{words}', expected {subject} and one of {', '.join(measures)}{hint}")
    return subject, measure


def meant(comparison: Comparison, counters: Collection[str], view: str = "side") -> Comparison:
    """Return a comparison with a plain word as what it means: a counter, or else a measure of the player.

    Raises
    ------
    ValueError
        If it is neither.

    Examples
    --------
    >>> meant(comparison_of("x > 236"), ["oil"])
    Comparison(subject='player', measure='x', comparison='>', value=236.0)
    """
    word, asked = comparison.subject, comparison.words
    measures = (*PLAYER_MEASURES, *PLAYER_WORDS)
    if comparison.measure == "value" and word not in counters and word in measures:
        comparison = comparison._replace(subject=PLAYER, measure=word)
    elif comparison.measure in ("value", "left") and word not in counters:
        raise ValueError(f"no counter '{word}'{did_you_mean(word, [*counters, *measures])}")
    if comparison.measure == "facing" and isinstance(comparison.value, str) == (view == "top"):
        expected = "degrees in the top view" if view == "top" else "left or right"
        raise ValueError(f"found '{asked}', expected {expected}")
    return comparison


def _quoted(name: str) -> str:
    """Return a name as it can be written in a condition."""
    if re.fullmatch(r"[^\s()<>=!'\"]+", name):
        return name
    return f'"{name}"' if "'" in name else f"'{name}'"


def _is_number(word: str) -> bool:
    return word[:1] in "+-.0123456789"


def _number_of(word: str, dimension: str, text: str, units: Units | None) -> float:
    try:
        return float(word)
    except ValueError:
        pass
    if units is None or not _is_number(word):
        raise ValueError(f"found '{text}', expected a number to compare with, such as {EXAMPLES}") from None
    return units.convert(word, dimension)
