"""The answer to a why: a word, a sentence, and the reasons."""

from __future__ import annotations

from typing import Any, NamedTuple


class Answer(NamedTuple):
    """Why something is as it is.

    Attributes
    ----------
    meeting : in a word: solid, overlap or nothing of a pair; fired or not of a rule; the stance of a moment
    sentence : what that means
    reasons : one after another, what decides, with lines of the file
    """

    meeting: str
    sentence: str
    reasons: list[str]

    def to_json(self) -> dict[str, Any]:
        """Return the answer as plain values."""
        return self._asdict()
