"""What `check` has to say: one finding, one sentence."""

from __future__ import annotations

from typing import Any, Literal, NamedTuple


class Finding(NamedTuple):
    """One thing that is likely wrong in a level.

    Attributes
    ----------
    severity : ``error`` (it can't work), ``warning`` (it is likely not meant), ``note`` (worth knowing)
    code : what kind of thing, a short name that stays the same
    place : where, in the words of the file
    message : one sentence: what is wrong, and what would mend it
    at : (x, y) in the level, where there is such a place
    line : of the level's file, where it was read from one
    """

    severity: Literal["error", "warning", "note"]
    code: str
    place: str
    message: str
    at: tuple[float, float] | None = None
    line: int | None = None

    def to_json(self) -> dict[str, Any]:
        """Return the finding as plain values."""
        return self._asdict()
