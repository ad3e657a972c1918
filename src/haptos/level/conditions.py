"""What rules and cues ask, in one language: comparisons, joined by `and`, `or` and `not`."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Annotated, Any, NamedTuple

from pydantic import BeforeValidator, PlainSerializer, ValidationInfo, WithJsonSchema

from haptos.level.comparisons import ACTIVE, COMPARED, EXAMPLES, Comparison, comparison_of
from haptos.level.names import short
from haptos.level.quantity import Units

# A condition of more comparisons is one that nobody reads any longer.
MOST_COMPARISONS = 60
# What joins comparisons, unless it stands in quotes.
PUNCTUATION = re.compile(r""""[^"]*"|'[^']*'|([()]|(?<![^\s()])(?:and|or|not)(?=[\s(]|$))""")


class Condition(NamedTuple):
    """Comparisons joined by words.

    Attributes
    ----------
    words : as it was written
    steps : the comparisons, each before the word that joins it: ``a or not b`` is a, b, not, or
    """

    words: str
    steps: tuple[Comparison | str, ...]

    def __str__(self) -> str:
        return self.words

    @property
    def comparisons(self) -> tuple[Comparison, ...]:
        """What is compared, in the order in which it is written."""
        return tuple(step for step in self.steps if isinstance(step, Comparison))

    def holds(self, value_of: Callable[[Comparison], float | str]) -> bool:
        """Whether it is so, by the value that each comparison asks about.

        Examples
        --------
        >>> values = {"x": 240.0, "stance": "ground"}
        >>> condition_of("x > 236 and not stance == air").holds(lambda one: values[one.subject])
        True
        """
        stack: list[bool] = []
        for step in self.steps:
            if isinstance(step, Comparison):
                stack.append(step.holds(value_of(step)))
            elif step == "not":
                stack.append(not stack.pop())
            else:
                last, first = stack.pop(), stack.pop()
                stack.append(first and last if step == "and" else first or last)
        return stack[-1]

    def changed(self, change: Callable[[Comparison], Comparison]) -> Condition:
        """Return the same with other comparisons.

        Examples
        --------
        >>> condition_of("not (self.active or oil > 3)").changed(lambda one: one._replace(subject="door")).words
        'not (door.active or door > 3)'
        """
        steps = tuple(change(step) if isinstance(step, Comparison) else step for step in self.steps)
        return Condition(_written(steps), steps)


def is_condition(text: str) -> bool:
    """Whether a text compares something, or asks whether a piece is active."""
    parts = _parts(text)
    return len(parts) > 1 or COMPARED.match(text.strip()) is not None or ACTIVE.match(text.strip()) is not None


def condition_of(text: str, units: Units | None = None) -> Condition:
    """Return what a text asks: `not` binds closest, then `and`, then `or`; parentheses group.

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
    >>> condition_of("lift.y < 40").comparisons
    (Comparison(subject='lift', measure='y', comparison='<', value=40.0),)
    """
    reader = _Reader(text, _parts(text), units)
    steps = tuple(reader.alternatives())
    if reader.rest:
        raise ValueError(f"found '{text}', expected and, or, or the end before '{reader.rest[0]}'")
    condition = Condition(text, steps)
    if len(condition.comparisons) > MOST_COMPARISONS:
        raise ValueError(f"found {len(condition.comparisons)} comparisons, expected {MOST_COMPARISONS} at most")
    return condition


class _Reader:
    """Reads the parts of a condition from the left."""

    def __init__(self, text: str, rest: list[str], units: Units | None) -> None:
        self.text, self.rest, self.units = text, rest, units

    def alternatives(self) -> list[Comparison | str]:
        return self._joined("or", lambda: self._joined("and", self._denied))

    def _joined(self, word: str, read: Callable[[], list[Comparison | str]]) -> list[Comparison | str]:
        steps = read()
        while self.rest[:1] == [word]:
            self.rest.pop(0)
            steps += [*read(), word]
        return steps

    def _denied(self) -> list[Comparison | str]:
        times = 0
        while self.rest[:1] == ["not"]:
            self.rest.pop(0)
            times += 1
        return self._compared() + ["not"] * (times % 2)

    def _compared(self) -> list[Comparison | str]:
        part = self.rest.pop(0) if self.rest else ""
        if part == "(":
            steps = self.alternatives()
            if self.rest[:1] != [")"]:
                raise ValueError(f"found '{self.text}', expected a ')' for each '('")
            self.rest.pop(0)
            return steps
        if part in ("", ")", "and", "or"):
            raise ValueError(f"found '{self.text}', expected a comparison on both sides of and and or, as {EXAMPLES}")
        return [comparison_of(part, self.units)]


def _parts(text: str) -> list[str]:
    """Return a text cut at what joins its comparisons.

    Examples
    --------
    >>> _parts("not (x > 3 or 'salt and oil'.active)")
    ['not', '(', 'x > 3', 'or', "'salt and oil'.active", ')']
    """
    parts, begin = [], 0
    for found in PUNCTUATION.finditer(text):
        if found[1] is not None:
            parts += [text[begin : found.start()].strip(), found[1]]
            begin = found.end()
    return [part for part in (*parts, text[begin:].strip()) if part]


def _written(steps: tuple[Comparison | str, ...]) -> str:
    """Return a condition as it is written in a file."""
    stack: list[tuple[str, bool]] = []
    for step in steps:
        if isinstance(step, Comparison):
            stack.append((step.words, False))
        elif step == "not":
            words, is_joined = stack.pop()
            stack.append((f"not ({words})" if is_joined else f"not {words}", False))
        else:
            sides = [f"({words})" if is_joined else words for words, is_joined in stack[-2:]]
            stack[-2:] = [(f"{sides[0]} {step} {sides[1]}", True)]
    return stack[-1][0]


def _read(value: Any, info: ValidationInfo) -> Condition:
    if isinstance(value, Condition):
        return value
    if not isinstance(value, str):
        raise ValueError(f"found {short(value)}, expected a condition such as {EXAMPLES}")
    return condition_of(value, info.context if isinstance(info.context, Units) else None)


Asked = Annotated[Condition, BeforeValidator(_read), PlainSerializer(str), WithJsonSchema({"type": "string"})]
