"""Does what worked yesterday still work: a cue sheet is run in its level, and what it expects is looked at."""

from __future__ import annotations

from pathlib import Path

from haptos.engine.simulation import simulate
from haptos.errors import CueError
from haptos.files.reading import CueSheet, read_cue_sheet
from haptos.level.cues import Cues
from haptos.level.level import Level
from haptos.study.outcomes import Outcome, outcomes_of


def verify(level: Level, sheet: str | Path | CueSheet | Cues) -> list[Outcome]:
    """Run a cue sheet in a level, and say of each thing that it expects whether it held.

    Parameters
    ----------
    level : Level
    sheet : path, CueSheet or Cues
        A cue sheet file, or what was read from one.

    Returns
    -------
    list of Outcome
        In the order of the sheet: name, held, message.

    Raises
    ------
    CueError
        If the sheet can't be read, expects nothing, or names something that the level does not have.
    LevelError
        If the level can't be used.

    Examples
    --------
    >>> import haptos
    >>> from haptos.demo import demo_file
    >>> level = haptos.load(demo_file("first-room.toml"))
    >>> all(outcome.held for outcome in haptos.verify(level, demo_file("gets-through.toml")))
    True
    """
    file = sheet if isinstance(sheet, str | Path) else None
    cues = read_cue_sheet(file, level.unit_table()).cues if file is not None else sheet
    if isinstance(cues, CueSheet):
        cues = cues.cues
    if not isinstance(cues, Cues):
        raise TypeError(f"found {cues!r:.60}, expected a cue sheet, or the path of one")
    try:
        if not cues.expect:
            raise CueError("found nothing that it expects, expected [[expect]] tables")
        return outcomes_of(simulate(level, cues))
    except CueError as error:
        raise CueError(f"{file}: {error}" if file is not None else str(error)) from None
