"""What cues do, as kernels read it: to the player, or to loose bodies by their rows."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.records import Records
from haptos.engine.records.codes import DEEDS, TAKES_BODY
from haptos.engine.records.state_records import DEED
from haptos.errors import CueError
from haptos.level.deeds import Deed
from haptos.level.names import did_you_mean

# A way that ends this little after a tick ends in it, in ticks.
ROUNDING = 1e-6
NO_DEEDS: Records = np.zeros(0, dtype=DEED)


def deed_rows(compiled: CompiledLevel, deeds: Iterable[tuple[int, Deed]]) -> Records:
    """Return what is done before which ticks.

    Parameters
    ----------
    compiled : CompiledLevel
    deeds : iterable of (tick, Deed)

    Raises
    ------
    CueError
        If a hand or a shove names something that is no loose body.
    """
    made = [
        (tick, int(DEEDS[deed.what]), _row_of(compiled, deed), 0, deed.x, deed.y, deed.time or 0.0)
        for tick, deed in deeds
    ]
    if not made:
        return NO_DEEDS
    rows: Records = np.array(sorted(made, key=lambda row: row[0]), dtype=DEED)
    hands = rows[rows["what"] == TAKES_BODY]
    ends = hands["tick"] + np.ceil(hands["time"] * compiled.level.world.tick_rate - ROUNDING).astype(np.int64)
    hands["onward"][:-1] = (ends[:-1] == hands["tick"][1:]) & (hands["row"][:-1] == hands["row"][1:])
    rows["onward"][rows["what"] == TAKES_BODY] = hands["onward"]
    return rows


def _row_of(compiled: CompiledLevel, deed: Deed) -> int:
    """Return the row of the body that a deed is about."""
    if deed.what == "place":
        return 0
    pieces, loose = compiled.resolved.pieces, compiled.tables.loose
    bodies = [] if loose is None else loose.bodies["piece"].tolist()
    named = {piece.name: index for index, piece in enumerate(pieces)}
    if deed.name not in named:
        hint = did_you_mean(deed.name, [pieces[index].name for index in bodies if index < len(pieces)])
        raise CueError(f"{deed.words}: no piece is called '{deed.name}'{hint}")
    if named[deed.name] not in bodies:
        raise CueError(f"{deed.words}: found '{deed.name}', which is no loose body, expected a piece with body")
    return bodies.index(named[deed.name])
