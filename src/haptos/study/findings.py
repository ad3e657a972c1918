"""What `check` has to say: one finding, one sentence."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any, Literal, NamedTuple

# A piece in the words of messages: its name, that of a copy, and what of it is held by it.
WHERE = re.compile(r"^(?:player\.)?pieces\[\d+\] '([^']*)'(?:, copies\[\d+\] '([^']*)')?((?:/[^,.]*)?)")
# So many pieces of which something is said are named.
MOST_NAMES = 4


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


def joined(findings: Iterable[Finding]) -> list[Finding]:
    """Return one finding for one matter: what is said alike of several pieces is said once, with their names.

    Examples
    --------
    >>> said = [Finding("note", "odd", f"pieces[{index}] '{name}'", f"'{name}' is odd")
    ...         for index, name in enumerate(["loft", "shelf"])]
    >>> joined(said)[0].message
    "'loft' is odd (also 'shelf')"
    """
    matters: dict[tuple[str, str, str], list[Finding]] = {}
    for finding in findings:
        name = piece_named(finding.place)
        message = finding.message.replace(f"'{name}'", "'…'") if name else finding.message
        part = WHERE.sub("", finding.place) if name else finding.place
        matters.setdefault((finding.code, part, message), []).append(finding)
    return [_one(alike) for alike in matters.values()]


def piece_named(place: str) -> str:
    """Return the name of the piece that a place is about, nothing if it is about none.

    Examples
    --------
    >>> piece_named("pieces[3] 'drop', copies[0] 'drop 2', pickup"), piece_named("world.bounds")
    ('drop 2', '')
    """
    found = WHERE.match(place)
    if found is None:
        return ""
    return (found[2] or found[1]) + (found[3] or "")


def _one(alike: list[Finding]) -> Finding:
    first, *others = alike
    names = list(dict.fromkeys(f"'{piece_named(finding.place)}'" for finding in others))
    if not names or not piece_named(first.place):
        return first
    told = ", ".join(names[:MOST_NAMES]) + (f" and {len(names) - MOST_NAMES} more" if len(names) > MOST_NAMES else "")
    return first._replace(message=f"{first.message} (also {told})")
