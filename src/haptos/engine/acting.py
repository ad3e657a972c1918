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
SAYS, SETS_CELL, ADDS, SWITCHES, RUNS, REMOVES, WISHES, MAKES, KICKS = (constant(verb) for verb in range(9))
NO_WISH, TO_RESPAWN, TO_RESTART, TO_FINISH = (constant(wish) for wish in range(4))


@leaf
def act(
    scene: Any, stakes: Any, movers: Any, player: Any, journal: Any, number: int, piece: int, t: float, x: float,
    y: float,
) -> None:  # fmt: skip
    """Do one of the actions of a rule that fires at a time and place."""
    action = scene.rules.actions[number]
    if action.verb == SAYS:
        write_at(journal, player, SAY, t, piece, x, y, math.nan, float(number))
        return
    if stakes is None:
        return
    write_at(journal, player, SETS, t, piece, x, y, math.nan, float(number))
    if action.verb == ADDS:
        count(stakes, player, scene.counts, scene.given, journal, action.counter, action.amount, t)
    elif action.verb == WISHES:
        player.wish = max(player.wish, action.counter)
    elif action.verb == KICKS:
        _kick(action, movers, scene.moving, player)
    for index in range(action.first_target, action.first_target + action.targets):
        change = scene.rules.changes[index]
        if action.verb == SETS_CELL:
            scene.cells[change.place] = change.value
            # Factors that hold now are worked out again.
            player.tuned = STALE
        elif action.verb == MAKES:
            # It is made at the begin of the next tick, as of this time.
            scene.spawning[change.place].due = t
        elif action.verb == RUNS:
            _run(scene.moving[change.place], change.value != 0.0, t)
        else:
            _switch(movers, scene.moving, change.place, player, journal, action.verb, change.value != 0.0, t)


@leaf
def _kick(action: Any, movers: Any, moving: Any, player: Any) -> None:
    """Note that the body is thrown away from a place, the less the farther it is."""
    x, y = action.x, action.y
    if movers is not None:
        if action.mover >= 0:
            mover, pose = movers.movers[action.mover], moving[action.mover]
            dx, dy = x - mover.x, y - mover.y
            x = mover.x + pose.x + dx * pose.cosine - dy * pose.sine
            y = mover.y + pose.y + dx * pose.sine + dy * pose.cosine
    dx, dy = player.x - x, player.y - y
    away = math.sqrt(dx * dx + dy * dy)
    if away >= action.radius:
        return
    if away == 0.0:
        dx, dy, away = player.up_x, player.up_y, 1.0
        share = 1.0
    else:
        share = 1.0 - away / action.radius
    player.kick_x += action.amount * share * dx / away
    player.kick_y += action.amount * share * dy / away


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
