"""What rules do: say something, set a value, count, switch pieces, and what becomes of the player and the level."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.poses import flown_to
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.game.counters import count
from haptos.engine.pieces.flight_contacts import kick_flight
from haptos.engine.pieces.outlook import stir
from haptos.engine.pieces.spawning import make, vanish
from haptos.engine.records.codes import (
    ADDS,
    ASKS,
    GONE,
    KICKS,
    MAKES,
    NO_MOVER,
    NO_PIECE,
    REMOVES,
    RUNS,
    SAYS,
    SETS_CELL,
    STALE,
    WHOEVER,
)
from haptos.engine.records.events import GOES, NOT_THERE, REFUSED, REMOVED, RETURNS, SAY, SETS, VANISHES
from haptos.engine.records.journal import write_at, write_of

# Switched off, a piece may come back; taken away it does not.
SWITCHED_OFF, TAKEN_AWAY = constant(1), constant(2)


@leaf
def act(
    core: Any, scene: Any, stakes: Any, movers: Any, number: int, piece: int, who: int, t: float, x: float, y: float
) -> None:
    """Do one of the actions of a rule that somebody fires at a time and place."""
    player, journal = core.player, core.journal
    action = scene.rules.actions[number]
    if action.verb == SAYS:
        write_at(journal, player, SAY, t, piece, x, y, math.nan, float(number))
        return
    if stakes is None:
        return
    write_at(journal, player, SETS, t, piece, x, y, math.nan, float(number))
    player.stirs += 1
    if action.verb == ADDS:
        count(stakes, player, scene.counts, scene.given, journal, action.counter, action.amount, t)
    elif action.verb == ASKS:
        player.wish = max(player.wish, action.counter)
    elif action.verb == KICKS:
        _kick(action, scene, movers, player)
    for index in range(action.first_target, action.first_target + action.targets):
        change = scene.rules.changes[index]
        if action.verb == SETS_CELL:
            scene.cells[change.place] = change.value
            # Factors that hold now are worked out again.
            player.tuned = STALE
        elif action.verb == MAKES:
            _make(core, scene, movers, change.place, t, x, y)
        elif action.verb == RUNS:
            _run(scene.moving[change.place], change.value != 0.0, t)
        else:
            mover = change.place if change.place != WHOEVER else _mover_of(movers, who)
            if mover != NO_MOVER:
                _switch(scene, movers, mover, player, journal, action.verb, change.value != 0.0, t)


@leaf
def _make(core: Any, scene: Any, movers: Any, number: int, t: float, x: float, y: float) -> None:
    """Let something make one piece now, or say why it makes none."""
    if movers is None:
        return
    if not make(core, movers, scene.world, scene.edges, scene.moving, scene.spawning, number, t, x, y):
        piece = movers.spawners[number].piece
        write_of(core.journal, core.player, REFUSED, t, piece, NO_PIECE, x, y, math.nan, NOT_THERE)


@leaf
def _mover_of(movers: Any, piece: int) -> int:
    """Return the mover that a piece leads, NO_MOVER if there is none, as of the player."""
    if movers is not None:
        for number in range(movers.movers.shape[0]):
            if movers.movers[number].piece == piece:
                return number
    return NO_MOVER


@leaf
def _kick(action: Any, scene: Any, movers: Any, player: Any) -> None:
    """Note that the body is thrown away from a place, and throw what drifts: the less the farther it is."""
    x, y = action.x, action.y
    if movers is not None:
        if action.mover >= 0:
            mover, pose = movers.movers[action.mover], scene.moving[action.mover]
            dx, dy = x - mover.x, y - mover.y
            x = mover.x + pose.x + dx * pose.cosine - dy * pose.sine
            y = mover.y + pose.y + dx * pose.sine + dy * pose.cosine
    kick_x, kick_y = _thrown(action, player, player.x - x, player.y - y)
    player.kick_x += kick_x
    player.kick_y += kick_y
    if movers is None:
        return
    now = player.tick * scene.world.dt
    for row in range(movers.flights.shape[0]):
        flight = movers.flights[row]
        pose = scene.moving[flight.mover]
        if flight.mass < math.inf and pose.here and pose.phase != GONE:
            its_x, its_y = flown_to(movers, scene.world, scene.moving, flight.mover, now)
            kick_x, kick_y = _thrown(action, player, its_x - x, its_y - y)
            kick_flight(
                movers, scene.world, scene.moving, flight.mover, kick_x / flight.mass, kick_y / flight.mass, now
            )


@leaf
def _thrown(action: Any, player: Any, dx: float, dy: float) -> tuple[float, float]:
    """Return the velocity that a kick gives a body like the player's that is (dx, dy) away from where it comes from."""
    away = math.sqrt(dx * dx + dy * dy)
    if away >= action.radius:
        return 0.0, 0.0
    if away == 0.0:
        return action.amount * player.up_x, action.amount * player.up_y
    speed = action.amount * (1.0 - away / action.radius)
    return speed * dx / away, speed * dy / away


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
    scene: Any, movers: Any, number: int, player: Any, journal: Any, verb: int, is_active: bool, t: float
) -> None:
    """Switch a piece on or off, or take it away for good."""
    moving = scene.moving
    pose = moving[number]
    if movers is None or pose.off == TAKEN_AWAY or (pose.off == 0 and is_active):
        return
    if pose.off and not is_active and verb != REMOVES:
        return
    mover = movers.movers[number]
    if mover.flight >= 0 and movers.flights[mover.flight].made:
        if pose.phase == GONE:
            return
        if verb == REMOVES:
            # Another may be made in its stead.
            vanish(movers, scene.world, moving, journal, player, number, NO_PIECE, REMOVED, t)
            return
    pose.off = TAKEN_AWAY if verb == REMOVES else 0 if is_active else SWITCHED_OFF
    # Wherever it was brought, it has to be brought anew.
    pose.t = math.nan
    stir(movers, moving, number)
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
