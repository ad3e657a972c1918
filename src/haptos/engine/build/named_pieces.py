"""The pieces and the sides of the bounds that a name means."""

from __future__ import annotations

from haptos.engine.records.codes import FIRST_WALL
from haptos.level.names import did_you_mean
from haptos.level.roster import Roster
from haptos.level.world import BOUNDS


def numbers_meant(roster: Roster, name: str) -> list[int]:
    """Return the numbers that events have for what a name means: pieces, and sides of the bounds; none for no one."""
    found = list(roster.answering(name))
    return [*found, FIRST_WALL - BOUNDS.index(name)] if name in BOUNDS else found


def numbers_named(roster: Roster, name: str) -> list[int]:
    """Return the numbers that events have for what a name means, see `numbers_meant`.

    Raises
    ------
    ValueError
        If nothing is called that.
    """
    found = numbers_meant(roster, name)
    if not found:
        known = [*(piece.name for piece in roster.pieces), *roster.level.kinds, *BOUNDS]
        raise ValueError(f"no piece, kind, mark or layer is called '{name}'{did_you_mean(name, known)}")
    return found
