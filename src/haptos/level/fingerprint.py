"""What a level says, as a few short digests that are the same in every process."""

from __future__ import annotations

import hashlib
import json

from haptos.level.changes import as_written
from haptos.level.level import Level

# Bytes of a digest: enough that two sections are not taken for each other by chance.
SIZE = 12


def fingerprint_of(level: Level) -> dict[str, str]:
    """Return a digest of every section that a level gives.

    Examples
    --------
    >>> one, other = Level(title="attic"), Level(title="attic", player={"at": [0, 8]})
    >>> differing(fingerprint_of(one), fingerprint_of(other))
    ['player']
    """
    return level.once(_fingerprint)


def _fingerprint(level: Level) -> dict[str, str]:
    return {
        section: hashlib.blake2b(json.dumps(said, sort_keys=True, default=repr).encode(), digest_size=SIZE).hexdigest()
        for section, said in as_written(level).items()
    }


def differing(one: dict[str, str], other: dict[str, str]) -> list[str]:
    """Return the sections in which two levels differ, in the order of their names."""
    return sorted(section for section in {*one, *other} if one.get(section) != other.get(section))
