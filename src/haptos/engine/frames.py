"""Frames: on a mover, the body's velocity is the one relative to it."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiled import constant, leaf
from haptos.engine.journal import ALIGHT, BOARD, write
from haptos.engine.state import AIR, GROUND, NO_MOVER

NOBODY = constant(NO_MOVER)


@leaf
def frame_of(solids: Any, outline: int) -> int:
    """Return the mover that an outline belongs to, or that there is none."""
    if outline < 0:
        return NOBODY
    return solids.outlines[outline].mover


@leaf
def enter_frame(solids: Any, moving: Any, player: Any, outline: int) -> tuple[float, float]:
    """Make the body's velocity the one relative to what it meets; return what was taken off."""
    number = frame_of(solids, outline)
    dx, dy = -player.frame_vx, -player.frame_vy
    if number >= 0:
        dx += moving[number].vx
        dy += moving[number].vy
    player.vx -= dx
    player.vy -= dy
    return dx, dy


@leaf
def leave_frame(player: Any, dx: float, dy: float) -> None:
    """Undo `enter_frame`."""
    player.vx += dx
    player.vy += dy


@leaf
def settle_frame(movers: Any, solids: Any, moving: Any, body: Any, player: Any, journal: Any, now: float) -> bool:
    """Measure the velocity relative to what the body stands on now; return whether that has changed.

    Who leaves a mover takes its velocity along, if the player's `keep_momentum` says so.
    """
    if movers is None:
        return False
    wanted = NOBODY
    if player.stance == GROUND:
        wanted = frame_of(solids, player.ground)
    if player.rides != wanted:
        if player.rides >= 0:
            write(journal, player, ALIGHT, now, movers.movers[player.rides].piece, math.nan, 0.0)
        if wanted >= 0:
            write(journal, player, BOARD, now, movers.movers[wanted].piece, math.nan, 0.0)
        player.rides = wanted
    if player.frame == wanted:
        return False
    if wanted >= 0 or (player.stance == GROUND) or (player.stance == AIR and body.keep_momentum):
        player.vx += player.frame_vx
        player.vy += player.frame_vy
    player.frame = wanted
    player.frame_vx, player.frame_vy = 0.0, 0.0
    player.carried_x, player.carried_y = math.nan, math.nan
    if wanted >= 0:
        player.frame_vx, player.frame_vy = moving[wanted].vx, moving[wanted].vy
        player.vx -= player.frame_vx
        player.vy -= player.frame_vy
    return True
