"""What rules do: say something, set a value, count, switch pieces, and what becomes of the player and the level."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiled import constant, leaf
from haptos.engine.counting import count
from haptos.engine.journal import GOES, NO_PIECE, RETURNS, SAY, SETS, VANISHES, write_at, write_of
from haptos.engine.spawning import REMOVED
from haptos.engine.state import STALE

# Switched off, a piece may come back; taken away it does not.
SWITCHED_OFF, TAKEN_AWAY = constant(1), constant(2)
# What an action does; the wishes are granted at the end of the tick.
SAYS, SETS_CELL, ADDS, SWITCHES, RUNS, REMOVES, WISHES = (constant(verb) for verb in range(7))
NO_WISH, TO_RESPAWN, TO_RESTART, TO_FINISH = (constant(wish) for wish in range(4))


@leaf
def act(
    rules: Any, stakes: Any, movers: Any, moving: Any, counts: Any, given: Any, cells: Any, player: Any, journal: Any,
    number: int, piece: int, t: float, x: float, y: float,
) -> None:  # fmt: skip
    """Do one of the actions of a rule that fires at a time and place."""
    action = rules.actions[number]
    if action.verb == SAYS:
        write_at(journal, player, SAY, t, piece, x, y, math.nan, float(number))
        return
    if stakes is None:
        return
    write_at(journal, player, SETS, t, piece, x, y, math.nan, float(number))
    if action.verb == ADDS:
        count(stakes, player, counts, given, journal, action.counter, action.amount, t)
    elif action.verb == WISHES:
        player.wish = max(player.wish, action.counter)
    for index in range(action.first_target, action.first_target + action.targets):
        change = rules.changes[index]
        if action.verb == SETS_CELL:
            cells[change.place] = change.value
            # Factors that hold now are worked out again.
            player.tuned = STALE
        elif action.verb == RUNS:
            _run(moving[change.place], change.value != 0.0, t)
        else:
            _switch(movers, moving, change.place, player, journal, action.verb, change.value != 0.0, t)


@leaf
def _run(pose: Any, runs: bool, t: float) -> None:
    """Let a route's clock go on, or stand still."""
    if runs and pose.clock == math.inf:
        pose.clock = t
    elif not runs and pose.clock < math.inf:
        pose.ran += max(t - pose.clock, 0.0)
        pose.clock = math.inf


@leaf
def _switch(
    movers: Any, moving: Any, number: int, player: Any, journal: Any, verb: int, is_active: bool, t: float
) -> None:  # fmt: skip
    """Switch a piece on or off, or take it away for good."""
    pose = moving[number]
    if movers is None or pose.off == TAKEN_AWAY or (pose.off == 0 and is_active):
        return
    if pose.off and not is_active and verb != REMOVES:
        return
    mover = movers.movers[number]
    pose.off = TAKEN_AWAY if verb == REMOVES else 0 if is_active else SWITCHED_OFF
    # Wherever it was brought, it has to be brought anew.
    pose.t = math.nan
    place_x, place_y = mover.x + pose.x, mover.y + pose.y
    carrier = mover.parent
    while carrier >= 0:
        if moving[carrier].off:
            # What carries it is not there, and so it is not either way.
            return
        carrier = movers.movers[carrier].parent
    if verb == REMOVES:
        write_of(journal, player, VANISHES, t, mover.piece, NO_PIECE, place_x, place_y, math.nan, REMOVED)
    else:
        kind = RETURNS if is_active else GOES
        write_of(journal, player, kind, t, mover.piece, NO_PIECE, place_x, place_y, math.nan, 0.0)
