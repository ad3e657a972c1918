"""What follows from a tick: what was taken, what hurt, what saved, and whether the level is over."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import leaf
from haptos.engine.game.damage import apply_harm, die, drop_points, hurt, throw
from haptos.engine.game.pickups import take
from haptos.engine.player.world_edges import come_back
from haptos.engine.records.codes import FINISHED, NO_PIECE, NO_WISH, RESTARTING, THE_PLAYER, TO_FINISH, TO_RESTART
from haptos.engine.records.events import CRUSH, ENTER, FINISHES, LAND, SAVES, TOUCHES
from haptos.engine.records.journal import sort_since, was_put, write


@leaf
def resolve_objectives(
    core: Any,
    felt: Any,
    played: Any,
    stakes: Any,
    movers: Any,
    floor: Any,
    moving: Any,
    first: int,
    from_x: float,
    from_y: float,
    begin: float,
    end: float,
) -> None:
    """Answer the events since `first`, and what the body is in contact with; it came from a place in this tick."""
    # More than ten arguments: a way through the tick is four of them.
    hurting = played.hurting
    visits = felt.visits
    body, player, journal = core.body, core.player, core.journal
    if stakes is None:
        return
    if player.over:
        return
    if was_put(journal, first):
        # On such a way it meets nothing.
        from_x, from_y = player.x, player.y
    take(core, played, stakes, movers, moving, from_x, from_y, begin, end)
    sort_since(journal, first)
    last = min(journal.written[0], journal.rows.shape[0])
    vitals = stakes.vitals[0]
    for index in range(first, last):
        event = journal.rows[index]
        if event.who != THE_PLAYER or event.piece < 0:
            continue
        row = stakes.pieces[event.piece]
        if event.kind == LAND and not row.cushions:
            points = drop_points(vitals, event.amount)
            hurt(vitals, player, journal, event.piece, points, event.t, event.x, event.y)
        elif event.kind == CRUSH and body.survives:
            hurt(vitals, player, journal, event.piece, vitals.crush_points, event.t, event.x, event.y)
        elif event.kind == ENTER or event.kind == TOUCHES:
            if row.harm >= 0:
                apply_harm(core, stakes, visits, hurting, row.harm, event.t, event.x, event.y, end)
            if row.checkpoint >= 0:
                _save(stakes.checkpoints[row.checkpoint], row.checkpoint, player, played.saved, journal, event.t)
    for harm in range(stakes.harms.shape[0]):
        apply_harm(core, stakes, visits, hurting, harm, math.inf, player.x, player.y, end)
    if player.health <= 0.0 and not player.over:
        die(core, felt, floor, end)
    _finish(stakes, player, core.touched, visits, played.counts, journal, end)
    sort_since(journal, first)


@leaf
def _save(row: Any, number: int, player: Any, saved: Any, journal: Any, t: float) -> None:
    """Note where the body comes back from now on."""
    if player.saved_at == number or (row.once and saved[number]):
        return
    saved[number] = 1
    player.saved_at = number
    player.home_x, player.home_y, player.home_facing = row.x, row.y, row.facing
    player.home_gravity = player.base_gravity
    write(journal, player, SAVES, t, row.piece, math.nan, 0.0)


@leaf
def _finish(stakes: Any, player: Any, touched: Any, visits: Any, counts: Any, journal: Any, end: float) -> None:
    """End the level where the body is at a finish that needs nothing more."""
    if player.over:
        return
    for index in range(stakes.finishes.shape[0]):
        row = stakes.finishes[index]
        there = visits[row.piece] > 0
        for place in range(player.touched):
            if touched[place].piece == row.piece:
                there = True
        if there and (row.needs < 0 or counts[row.needs].left <= 0.0):
            player.over = FINISHED
            player.vx, player.vy = 0.0, 0.0
            write(journal, player, FINISHES, end, row.piece, math.nan, 0.0)
            return


@leaf
def apply_requests(core: Any, felt: Any, stakes: Any, floor: Any, now: float) -> None:
    """Do what rules wish for the player or the level."""
    player = core.player
    if stakes is None:
        return
    if player.kick_x != 0.0 or player.kick_y != 0.0:
        throw(player, core.contacts, player.vx + player.kick_x, player.vy + player.kick_y)
        player.kick_x, player.kick_y = 0.0, 0.0
    wish = player.wish
    player.wish = NO_WISH
    if wish == NO_WISH or player.over:
        return
    if wish == TO_FINISH:
        player.over = FINISHED
        player.vx, player.vy = 0.0, 0.0
        write(core.journal, player, FINISHES, now, NO_PIECE, math.nan, 0.0)
    elif wish == TO_RESTART:
        player.over = RESTARTING
    else:
        come_back(core, felt, floor, now)
