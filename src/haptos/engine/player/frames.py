"""Frames: on a mover, or in a zone that carries, the body's velocity is the one relative to it."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.features import FIXED, TURNS, foot_at, touched_point
from haptos.engine.collision.poses import point_velocity
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.records.codes import (
    AIR,
    FIRST_FLOOR,
    FLOOR_ROLE,
    GROUND,
    NO_MOVER,
    NO_SUPPORT,
    WAITS_TO_BE_RIDDEN,
)
from haptos.engine.records.events import ALIGHT, BOARD
from haptos.engine.records.journal import write

NOBODY = constant(NO_MOVER)


@leaf
def frame_of(solids: Any, outline: int) -> int:
    """Return the mover that an outline belongs to, or that there is none."""
    if outline < 0:
        return NOBODY
    return solids.outlines[outline].mover


@leaf
def measure_contacts(core: Any, movers: Any, moving: Any) -> None:
    """Write the velocity of everything that is touched, as seen from the body's frame."""
    if movers is None:
        return
    for index in range(core.player.contacts):
        measure_contact(core, movers, moving, index)


@leaf
def carried_velocity(body: Any, player: Any, moving: Any) -> tuple[float, float]:
    """Return how fast the body's middle is carried: where the normal turns, it goes round what is under it.

    The body itself does not turn: on a face, its middle goes round by its reach to the sides, on a corner by its
    radius.
    """
    vx, vy = player.frame_vx, player.frame_vy
    if player.frame >= 0 and player.foot_turns != FIXED:
        nx, ny = player.foot_nx, player.foot_ny
        reach = body.radius
        if player.foot_turns == TURNS:
            reach += body.half_width * abs(nx * player.up_y - ny * player.up_x)
        spin = moving[player.frame].spin
        vx, vy = vx - spin * reach * ny, vy + spin * reach * nx
    return vx, vy


@leaf
def measure_contact(core: Any, movers: Any, moving: Any, index: int) -> None:
    """Write the velocity of one contact."""
    player, contact = core.player, core.contacts[index]
    carried_vx, carried_vy = carried_velocity(core.body, player, moving)
    contact.ux, contact.uy = -carried_vx, -carried_vy
    number = frame_of(core.solids, contact.outline)
    if number < 0:
        return
    if number == player.frame and contact.outline == player.ground:
        # The frame is measured there.
        contact.ux, contact.uy = 0.0, 0.0
        return
    mover, pose = movers.movers[number], moving[number]
    x, y = player.x, player.y
    if mover.revolves:
        x, y = touched_point(movers, core.body, player, number, contact.outline, contact.nx, contact.ny, pose)
    vx, vy = point_velocity(mover, pose, x, y)
    contact.ux, contact.uy = contact.ux + vx, contact.uy + vy


@leaf
def update_frame(core: Any, felt: Any, movers: Any, moving: Any, now: float) -> bool:
    """Measure the velocity relative to what the body stands on, or is carried in, now; return whether that has changed.

    Who leaves a mover takes its velocity there along, if the player's `keep_momentum` says so.
    """
    body, solids, player, contacts = core.body, core.solids, core.player, core.contacts
    if movers is None:
        return False
    wanted, piece = _carrier(movers, solids, felt.zones, felt.inside, felt.effects, felt.surfaces, felt.within, player)
    if player.boards != wanted:
        player.boards, player.boards_piece, player.boards_since = wanted, piece, now
    if player.frame == wanted:
        # Elsewhere on it, it goes at another speed.
        vx, vy = carried_velocity(body, player, moving)
        follow_frame(core, movers, moving)
        now_vx, now_vy = carried_velocity(body, player, moving)
        return abs(now_vx - vx) + abs(now_vy - vy) > core.segment.tiny_speed
    if player.frame >= 0:
        if movers.movers[player.frame].turning:
            measure_frame(core, movers, moving)
    if wanted >= 0 or (player.stance == GROUND) or (player.stance == AIR and body.keep_momentum):
        player.vx += player.frame_vx
        player.vy += player.frame_vy
    player.frame = wanted
    player.frame_vx, player.frame_vy = 0.0, 0.0
    player.carried_x, player.carried_y = math.nan, math.nan
    player.foot_x, player.foot_y, player.foot_turns = 0.0, 0.0, FIXED
    if wanted >= 0:
        if movers.movers[wanted].turning:
            _plant(solids, body, player, contacts)
        measure_frame(core, movers, moving)
        player.vx -= player.frame_vx
        player.vy -= player.frame_vy
        _rest_on(player, contacts)
    return True


@leaf
def _rest_on(player: Any, contacts: Any) -> None:
    """Lose what of the velocity is across the ground: its foot goes with that, wherever on it the body is touched."""
    if player.stance != GROUND:
        return
    for index in range(player.contacts):
        contact = contacts[index]
        if contact.outline == player.ground:
            across = player.vx * contact.nx + player.vy * contact.ny
            player.vx, player.vy = player.vx - across * contact.nx, player.vy - across * contact.ny


@leaf
def take_place(movers: Any, moving: Any, player: Any) -> None:
    """Note where the body is on the mover that carries it, in that one's own coordinates."""
    mover, pose = movers.movers[player.frame], moving[player.frame]
    if not mover.turning:
        player.local_x, player.local_y = player.x - pose.x, player.y - pose.y
        return
    dx, dy = player.x - player.foot_x - mover.x - pose.x, player.y - player.foot_y - mover.y - pose.y
    player.local_x, player.local_y = dx * pose.cosine + dy * pose.sine, dy * pose.cosine - dx * pose.sine
    nx, ny = player.foot_nx, player.foot_ny
    player.local_nx, player.local_ny = nx * pose.cosine + ny * pose.sine, ny * pose.cosine - nx * pose.sine


@leaf
def measure_frame(core: Any, movers: Any, moving: Any) -> None:
    """Write the velocity of the frame where the body touches it, or is; across the ground, the true one.

    Under the flat side of a body, the ground that turns is touched elsewhere than below its middle.
    """
    player, number = core.player, core.player.frame
    mover, pose = movers.movers[number], moving[number]
    vx, vy = point_velocity(mover, pose, player.x - player.foot_x, player.y - player.foot_y)
    if mover.revolves and player.stance == GROUND:
        for index in range(player.contacts):
            contact = core.contacts[index]
            if contact.outline == player.ground:
                nx, ny = contact.nx, contact.ny
                x, y = touched_point(movers, core.body, player, number, contact.outline, nx, ny, pose)
                ux, uy = point_velocity(mover, pose, x, y)
                short = (ux - vx) * nx + (uy - vy) * ny
                vx, vy = vx + short * nx, vy + short * ny
    player.frame_vx, player.frame_vy = vx, vy


@leaf
def follow_frame(core: Any, movers: Any, moving: Any) -> None:
    """Measure a frame that turns anew, after the body has gone on with it."""
    if movers is None:
        return
    if core.player.frame >= 0:
        if movers.movers[core.player.frame].turning:
            _plant(core.solids, core.body, core.player, core.contacts)
            measure_frame(core, movers, moving)


@leaf
def _plant(solids: Any, body: Any, player: Any, contacts: Any) -> None:
    """Find the point of its ground that the body touches; in the air it is carried by its centre."""
    if player.stance != GROUND or player.ground < 0:
        return
    for index in range(player.contacts):
        contact = contacts[index]
        if contact.outline == player.ground:
            player.foot_x, player.foot_y, player.foot_turns = foot_at(
                body, player, solids.outlines[contact.outline], solids.faces, contact.feature, contact.nx, contact.ny
            )
            player.foot_nx, player.foot_ny = contact.nx, contact.ny


@leaf
def _carrier(
    movers: Any, solids: Any, zones: Any, inside: Any, effects: Any, surfaces: Any, within: Any, player: Any
) -> tuple[int, int]:
    """Return the mover that carries the body and the piece of it: its ground, else what it is in; or that none does."""
    if player.stance == GROUND:
        number = frame_of(solids, player.ground)
        if number >= 0:
            return number, solids.outlines[player.ground].piece
    for place in range(movers.carrying.shape[0]):
        index = movers.carrying[place]
        if inside[index]:
            return zones.outlines[index].mover, zones.outlines[index].piece
    if effects is not None and surfaces is not None:
        # In the top view, the floor under the centre.
        index = floor_under(effects, surfaces, within)
        if index >= 0:
            return effects.outlines[index].mover, effects.outlines[index].piece
    return NOBODY, NOBODY


@leaf
def say_boarded(movers: Any, moving: Any, player: Any, journal: Any) -> None:
    """Say what the body has boarded or no longer rides, if it has come to that; routes that wait for that begin."""
    if movers is None:
        return
    if player.rides == player.boards:
        return
    now = player.boards_since
    if player.rides >= 0:
        write(journal, player, ALIGHT, now, player.rides_piece, math.nan, 0.0)
    player.rides, player.rides_piece = player.boards, player.boards_piece
    if player.boards < 0:
        return
    write(journal, player, BOARD, now, player.boards_piece, math.nan, 0.0)
    carrier = player.boards
    while carrier >= 0:
        if movers.movers[carrier].waits == WAITS_TO_BE_RIDDEN and moving[carrier].clock == math.inf:
            moving[carrier].clock = now
        carrier = movers.movers[carrier].parent


@leaf
def floor_under(effects: Any, surfaces: Any, within: Any) -> int:
    """Return the outline of the highest-ranking floor under the centre in the top view, -1 for none."""
    best = -1
    for index in range(effects.outlines.shape[0]):
        outline = effects.outlines[index]
        if within[index] and outline.role == FLOOR_ROLE:
            if best < 0 or surfaces[outline.row].rank > surfaces[effects.outlines[best].row].rank:
                best = index
    return best


@leaf
def name_floor(effects: Any, surfaces: Any, within: Any, player: Any) -> None:
    """Name the support of the top view: the floor under the centre."""
    player.support = NO_SUPPORT
    if effects is not None and surfaces is not None:
        index = floor_under(effects, surfaces, within)
        if index >= 0:
            player.support = FIRST_FLOOR - effects.outlines[index].piece
