"""Many cue sheets verified, on all cores."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator, Sequence
from functools import lru_cache, partial
from pathlib import Path
from typing import Any, NamedTuple

from haptos.engine.build.whole_level import Level
from haptos.errors import CueError, HaptosError
from haptos.files.reading import load
from haptos.files.sheet_heads import find_sheets, read_head
from haptos.study.outcomes import Outcome
from haptos.study.verify import verify
from haptos.study.worker_processes import as_done

# To begin another process takes about as long as that many sheets of ten seconds.
WORTH_A_PROCESS = 8


class Verified(NamedTuple):
    """What became of one cue sheet.

    Attributes
    ----------
    sheet : its file
    level : the level that it names, None if it names none
    outcomes : of each expectation
    error : why it can't be used; nothing if it can
    seconds : how long it took
    """

    sheet: Path
    level: Path | None
    outcomes: list[Outcome]
    error: str
    seconds: float

    @property
    def held(self) -> bool:
        """Whether all that it expects held."""
        return not self.error and all(outcome.held for outcome in self.outcomes)

    def to_json(self) -> dict[str, Any]:
        """Return it as plain values."""
        return {
            "sheet": str(self.sheet),
            "level": None if self.level is None else str(self.level),
            "held": self.held,
            "error": self.error or None,
            "outcomes": [outcome.to_json() for outcome in self.outcomes],
        }


def sheets_under(paths: Sequence[Path]) -> list[Path]:
    """Return the cue sheets that files and folders are, or hold.

    Of a folder, those that name a level and expect something, or can't be read; a file stands for itself.

    Parameters
    ----------
    paths : sequence of Path

    Returns
    -------
    list of Path
        Each once.

    Raises
    ------
    HaptosError
        If a path is not there.
    """
    found: dict[Path, Path] = {}
    for path in paths:
        if not path.exists():
            raise HaptosError(f"{path}: no such file or folder")
        if path.is_file():
            found.setdefault(path.resolve(), path)
            continue
        for file in find_sheets(path):
            head = read_head(file)
            if head is None or (head.level is not None and head.expects):
                found.setdefault(file.resolve(), file)
    return list(found.values())


def verify_sheets(
    sheets: Sequence[Path], changes: dict[str, Any] | None = None, processes: int | None = None
) -> Iterator[Verified]:
    """Verify cue sheets in the levels that they name, as they get done.

    Parameters
    ----------
    sheets : sequence of Path
    changes : dict, optional
        Other values for their levels, by path.
    processes : int, optional
        On so many at once: on all cores, unless they are few.

    Yields
    ------
    Verified
    """
    many = min(processes or os.cpu_count() or 1, max(len(sheets) // WORTH_A_PROCESS, 1))
    yield from as_done(partial(verify_file, changes=changes), sheets, many)


def verify_file(sheet: Path, changes: dict[str, Any] | None = None) -> Verified:
    """Verify one cue sheet in the level that it names; what is wrong with it is told, not raised."""
    begin = time.perf_counter()
    head = read_head(sheet)
    level = None if head is None else head.level
    try:
        if head is not None and level is None:
            raise CueError(f"{sheet}: level: found none, expected the level that it is for")
        outcomes, error = verify(_changed(level, changes) if level is not None else Level(), sheet), ""
    except HaptosError as problem:
        outcomes, error = [], str(problem)
    return Verified(sheet, level, outcomes, error, time.perf_counter() - begin)


def _changed(file: Path, changes: dict[str, Any] | None) -> Level:
    level = _level(file.resolve(), file)
    return level.changed(changes) if changes else level


@lru_cache(maxsize=8)
def _level(file: Path, called: Path) -> Level:
    """Read a level, once for all sheets of it."""
    return load(called)
