"""What a cue waits for: an event, a comparison, or the end of the ground ahead."""

from __future__ import annotations

from typing import NamedTuple, get_args

from haptos.level.conditions import Condition, condition_of, is_condition
from haptos.level.names import did_you_mean
from haptos.level.quantity import Units
from haptos.level.rules import When

# The ground ends ahead: a tick more, and the body would walk off it.
LEDGE = "ledge"
# Moments of rules that are states or come by themselves are no events of a run.
AWAITED = tuple(
    sorted({*get_args(When), "stall", "too_late"} - {"start", "inside", "occupied", "empty", "timer", "counter"})
)


class Until(NamedTuple):
    """What ends a cue.

    Attributes
    ----------
    words : as it was written
    event : the event, ``ledge``, or nothing
    piece : of which piece, kind, ``#mark`` or layer; nothing for any
    condition : what has to hold, or None
    """

    words: str
    event: str
    piece: str
    condition: Condition | None


def read_until(words: str, units: Units | None = None) -> Until:
    """Return what a text says to wait for.

    Raises
    ------
    ValueError
        If it is no event and no comparison.

    Examples
    --------
    >>> read_until("land loft").piece
    'loft'
    >>> str(read_until("lift.y < 40").condition)
    'lift.y < 40'
    """
    if is_condition(words):
        return Until(words, "", "", condition_of(words, units))
    event, _, piece = words.partition(" ")
    known = (*AWAITED, LEDGE)
    if event not in known:
        hint = did_you_mean(event, known, lists=False)
        raise ValueError(
            f"found 'until {words}', expected an event such as 'land', 'ledge', or a comparison such as 'x > 236'{hint}"
        )
    piece = piece.strip().strip("\"'")
    if event == LEDGE and piece:
        raise ValueError(f"found 'until {words}', expected 'until ledge' alone: it is the end of whatever is stood on")
    return Until(words, event, piece, None)
