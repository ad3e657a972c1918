"""What a cue sheet expects of its run: events, places, conditions and times."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import Field, TypeAdapter, ValidationError, model_validator

from haptos.level.conditions import Asked
from haptos.level.names import did_you_mean
from haptos.level.quantity import Duration, Length, Period, Size, Units
from haptos.level.reports import level_error
from haptos.level.section import Section, Truth
from haptos.level.waiting import AWAITED

END = "end"
Times = Annotated[int, Field(ge=0, strict=True)]
# What an expectation is about, and what may stand beside it.
SORTS = {
    "event": ("piece", "who", "after", "before", "count", "at_least", "at_most", "never"),
    "near": ("within", "at"),
    "that": ("at", "always"),
    "under": ("event", "piece", "who"),
}
NUMBERS = ("count", "at_least", "at_most")


class Expectation(Section):
    """One thing that must hold of a run: an event, a place, a condition, or how long it takes.

    Attributes
    ----------
    name : what it is called in messages
    event, piece, who : an event, of which piece, of whom: names, kinds, ``#marks`` or layers
    after, before : when it has to come (s)
    count, at_least, at_most, never : how often; at least once if nothing is said
    near, within : a place, and how near the middle of the body has to come to it (length)
    that : a condition
    at : when that has to be so: a time (s) or ``end``; at any time if nothing is said
    always : whether the condition has to hold all the time
    under : the run, or the event, takes less (s)

    Examples
    --------
    >>> Expectation(event="land", piece="loft", before=2.5).words
    'land on loft before 2.5 s'
    """

    name: str = ""
    event: str | None = None
    piece: str | None = None
    who: str | None = None
    after: Duration | None = None
    before: Duration | None = None
    count: Times | None = None
    at_least: Times | None = None
    at_most: Times | None = None
    never: Truth = False
    near: tuple[Length, Length] | None = None
    within: Size | None = None
    that: Asked | None = None
    at: Literal["end"] | Duration | None = None
    always: Truth = False
    under: Period | None = None

    @property
    def sort(self) -> str:
        """What it is about: under, event, near or that."""
        return next(sort for sort in ("under", "event", "near", "that") if getattr(self, sort) is not None)

    @property
    def event_words(self) -> str:
        """The event that it asks for, in words."""
        words = str(self.event)
        if self.who is not None:
            words = f"{self.who}: {words}"
        if self.piece is not None:
            words += f" on {self.piece}" if self.event == "land" else f" {self.piece}"
        return words

    @property
    def words(self) -> str:
        """What it expects, in words."""
        at = "" if self.at is None else " at the end" if self.at == END else f" at {self.at:g} s"
        if self.sort == "near":
            assert self.near is not None
            return f"near ({self.near[0]:g}, {self.near[1]:g}){at}"
        if self.sort == "that":
            return f"{self.that}{' always' if self.always else at}"
        if self.sort == "under":
            return f"{self.event_words if self.event else 'the run'} under {self.under:g} s"
        return self.event_words + self.window_words + self._often

    @property
    def window_words(self) -> str:
        """When the event has to come, in words."""
        said = [(word, getattr(self, word)) for word in ("after", "before")]
        words = [f"{word} {t:g} s" for word, t in said if t is not None]
        return f" {' and '.join(words)}" if words else ""

    @property
    def _often(self) -> str:
        if self.never:
            return " never"
        return "".join(
            f" {key.replace('_', ' ')} {getattr(self, key)}" for key in NUMBERS if getattr(self, key) is not None
        )

    @model_validator(mode="after")
    def _is_sound(self) -> Self:
        said = {name for name in SORTS if getattr(self, name) is not None}
        sorts = said - {"event"} if "under" in said else said
        if len(sorts) != 1:
            found = "none" if not sorts else " and ".join(sort for sort in SORTS if sort in sorts)
            raise ValueError(f"found {found} of event, near, that and under, expected one")
        sort = sorts.pop()
        for key in type(self).model_fields:
            if key in self.model_fields_set and key not in (sort, "name", *SORTS[sort]):
                belongs = next(one for one, keys in SORTS.items() if key in keys)
                raise ValueError(f"found {key} beside {sort}, expected it beside {belongs} alone")
        _require_event(self)
        _require_window(self)
        _require_numbers(self)
        if self.near is not None and self.within is None:
            raise ValueError("found near without within, expected how near, such as within = 5")
        if self.always and self.at is not None:
            raise ValueError("found at and always, expected one of them")
        return self


def _require_event(one: Expectation) -> None:
    if one.event is None:
        for key in ("piece", "who"):
            if getattr(one, key) is not None:
                raise ValueError(f"found {key} without event, expected the event that it is about")
    elif one.event not in AWAITED:
        raise ValueError(f"'{one.event}' is not an event{did_you_mean(one.event, AWAITED)}")


def _require_window(one: Expectation) -> None:
    if one.after is not None and one.before is not None and one.after >= one.before:
        raise ValueError(f"found after = {one.after:g} and before = {one.before:g}, expected after to be the earlier")


def _require_numbers(one: Expectation) -> None:
    said = [key for key in NUMBERS if getattr(one, key) is not None]
    if one.never and said:
        raise ValueError(f"found never and {said[0]}, expected one of them")
    if "count" in said and len(said) > 1:
        raise ValueError(f"found count and {said[1]}, expected one of them")
    if one.at_least is not None and one.at_most is not None and one.at_least > one.at_most:
        raise ValueError(
            f"found at_least = {one.at_least} and at_most = {one.at_most}, expected at_least to be the smaller"
        )


def read_expectations(raw: Any, units: Units | None = None) -> tuple[Expectation, ...]:
    """Return expectations as they are written in a cue sheet.

    Parameters
    ----------
    raw : list of dict
    units : Units, optional
        The level's, for numbers with a unit.

    Raises
    ------
    LevelError
        A sentence for each that can't be used.

    Examples
    --------
    >>> [one.words for one in read_expectations([{"event": "hurt", "never": True}, {"under": 6}])]
    ['hurt never', 'the run under 6 s']
    """
    sheet = {"expect": raw}
    try:
        return _READER.validate_python(sheet, context=units).expect
    except ValidationError as error:
        raise level_error(error, _Sheet, sheet) from None


class _Sheet(Section):
    expect: tuple[Expectation, ...] = ()


_READER = TypeAdapter(_Sheet)
