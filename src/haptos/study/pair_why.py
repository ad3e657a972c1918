"""What came of two things in a run: when they were the closest, when they met, and what that led to."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from haptos.engine.answer import Answer
from haptos.engine.nearness import body_outlines, outlines_at_ticks
from haptos.engine.records.codes import AWAY
from haptos.engine.report.event_rows import Event
from haptos.engine.run import Run
from haptos.level.assemblies import PLAYER
from haptos.study.why import find_piece, why

# So many meetings are told one by one, and so many events that one led to.
TOLD, MOST_CONSEQUENCES = 4, 6
# What rules and the game do at once when two things meet.
SAID_OF_RULES = ("say", "set", "reward")
SAID_OF_RULES = ("say", "set", "reward")
CONSEQUENCES = (
    *SAID_OF_RULES, "gone", "return", "spawn", "launch", "crumble", "hurt", "lost", "checkpoint", "finish", "flip",
    "collect", "vanish", "crush", "respawn", "restart", "wake",
)  # fmt: skip


def why_pair(run: Run, one: str, other: str) -> Answer:
    """Say when two things were the closest in a run, when they met, and what it led to.

    Parameters
    ----------
    run : Run
    one, other : str
        Pieces, or ``player``; of a kind, mark or layer the piece that came the nearest.

    Returns
    -------
    Answer
        met, near (they could have met) or ignored (they would not meet if they could); a sentence, and the reasons.

    Raises
    ------
    LevelError
        If there is no such piece.

    Examples
    --------
    >>> import haptos
    >>> pieces = [{"name": "floor", "shape": {"box": [900, 16]}, "at": [0, -22]},
    ...           {"name": "lens", "shape": {"box": [20, 90]}, "at": [150, 0]}]
    >>> run = haptos.simulate(haptos.Level(pieces=pieces), "right 2 s")
    >>> why_pair(run, "player", "lens").sentence
    "'player' and 'lens' met first at 0.928333 s"
    """
    names = [_numbers(run, name) for name in (one, other)]
    gaps = {
        (first, second): shapely.distance(_outlines(run, first), _outlines(run, second))
        for first in names[0]
        for second in names[1]
        if first != second
    }
    known = {pair: gap for pair, gap in gaps.items() if np.isfinite(gap).any()}
    if not known:
        return Answer("ignored", f"'{one}' and '{other}' are never there together", [])
    pair = min(known, key=lambda both: float(np.nanmin(known[both])))
    called = tuple(PLAYER if number is None else run.compiled.resolved.pieces[number].name for number in pair)
    tick = int(np.nanargmin(known[pair]))
    gap, t = float(known[pair][tick]), tick / run.level.world.tick_rate
    world = run.level.world
    rows = [row for row in run.event_rows if {row.who, row.piece} == set(called) and row.event not in SAID_OF_RULES]
    if not rows:
        closest = f"were the closest at {t:.6g} s: {gap:.4g} {world.length_unit} apart"
        apart = closest if gap else f"overlapped at {t:.6g} s"
        decided = why(run.level, *called)
        means = f"{decided.sentence.partition(': ')[2]}, if they come to meet"
        return Answer(
            "ignored" if decided.meeting == "nothing" else "near",
            f"'{called[0]}' and '{called[1]}' never met; they {apart}",
            [means, *decided.reasons],
        )
    never = f"at the end of a tick they were never closer than {gap:.4g} {world.length_unit}, at {t:.6g} s"
    reasons = [never] if gap else []
    reasons += [_told(run, row, called) for row in rows[:TOLD]]
    if len(rows) > TOLD:
        reasons.append(f"and {len(rows) - TOLD} more, the last at {rows[-1].t:.6g} s: {rows[-1].detail}")
    return Answer("met", f"'{called[0]}' and '{called[1]}' met first at {rows[0].t:.6g} s", reasons)


def _numbers(run: Run, name: str) -> list[int | None]:
    """Return the numbers of the pieces that a name means, None for the player."""
    resolved = run.compiled.resolved
    if name == PLAYER:
        return [None]
    found = [] if name in resolved.by_name else resolved.selected(name)
    pieces = found or [find_piece(resolved, name)]
    return [resolved.pieces.index(piece) for piece in pieces]


def _outlines(run: Run, number: int | None) -> NDArray[np.object_]:
    """Return the shape of a piece, or of the player, at the start and after each tick."""
    if number is None:
        bodies = body_outlines(run)
        bodies[run.track_records["stance"] == AWAY] = None
        return bodies
    return outlines_at_ticks(run, number)


def _told(run: Run, row: Event, called: tuple[str, ...]) -> str:
    """Return an event of the two, and what it led to in the same tick."""
    later = [
        one for one in run.event_rows
        if one.tick == row.tick and one.t >= row.t and one.event in CONSEQUENCES and (
            one.event in SAID_OF_RULES
            or ((one.who in called or one.piece in called) and {one.who, one.piece} != set(called))
        )
    ]  # fmt: skip
    words = "; ".join(dict.fromkeys(f"“{one.detail}”" if one.event == "say" else one.detail for one in later))
    cut = f"; so {words}" if words and len(later) <= MOST_CONSEQUENCES else f"; so {len(later)} events" if later else ""
    return f"{row.event} at {row.t:.6g} s: {row.detail}{cut}"
