"""What an impact does: the velocity into what is hit is lost, turned along the ground, thrown back or set anew."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import leaf
from haptos.engine.pieces.crumbling import begin_crumbling
from haptos.engine.player.admissible import admit_velocity, approach_speed, most_head_on
from haptos.engine.player.along import stop_along
from haptos.engine.player.controls import jump, jump_is_buffered, leave_support
from haptos.engine.player.ground import load_on, step_up, turn_along
from haptos.engine.player.kept_contacts import is_ground, note_ground, place_of, touch
from haptos.engine.player.ladders import let_go_of_ladder
from haptos.engine.player.launches import launch
from haptos.engine.player.settling import settle
from haptos.engine.records.codes import AIR, CLIMBING, GROUND, NO_SUPPORT
from haptos.engine.records.events import AT_BOTTOM, CLIMB, LAND
from haptos.engine.records.journal import write

# Two impacts within this share of a tick are one.
AT_ONCE = 1e-9
# Impacts at one instant; after so many a body that rattles to and fro comes to rest.
MOST_STRIKES = 8
# A body that would bounce less high than this share of its height comes to rest.
LEAST_BOUNCE = 1e-3


@leaf
def answer_contacts(
    core: Any, felt: Any, floor: Any, ladders: Any, launches: Any, movers: Any, moving: Any, now: float
) -> bool:
    """Meet all that the body comes at, the most head-on first; stand on what it has come to lie on.

    Return whether there is no way out: the body is squeezed.
    """
    player, contacts, segment = core.player, core.contacts, core.segment
    for _ in range(MOST_STRIKES):
        which = most_head_on(player, contacts, segment.tiny_speed)
        if which < 0 and floor is None and player.stance == AIR:
            which = _to_stand_on(core)
        if which < 0:
            return False
        contact = contacts[which]
        outline, nx, ny, piece = contact.outline, contact.nx, contact.ny, contact.piece
        strike(core, felt, floor, ladders, launches, which, now)
        if movers is not None:
            if outline >= 0 and core.solids.outlines[outline].mover >= 0:
                number = core.solids.outlines[outline].mover
                begin_crumbling(movers, moving, core.journal, player, number, nx, ny, piece, now)
    # It rattles to and fro.
    return not admit_velocity(player, contacts, segment.tiny_speed)


@leaf
def _to_stand_on(core: Any) -> int:
    """Return ground that the body in the air touches and presses on without having struck it, -1 for none."""
    player, segment = core.player, core.segment
    if segment.aloft:
        return -1
    for index in range(player.contacts):
        contact = core.contacts[index]
        if contact.held or not is_ground(core.world, player, contact.nx, contact.ny):
            continue
        if approach_speed(player, contact) >= -segment.tiny_speed:
            if load_on(core.body, player, contact) > segment.tiny_accel:
                return index
    return -1


@leaf
def strike(core: Any, felt: Any, floor: Any, ladders: Any, launches: Any, which: int, now: float) -> None:
    """Meet a contact, and hold it unless the body is thrown off it."""
    pieces = felt.pieces
    world, body, solids, player, contacts = core.world, core.body, core.solids, core.player, core.contacts
    journal, contact = core.journal, contacts[which]
    settle(core, which)
    outline, nx, ny, piece = contact.outline, contact.nx, contact.ny, contact.piece
    ux, uy = contact.ux, contact.uy
    # All as seen from what is hit.
    player.vx, player.vy = player.vx - ux, player.vy - uy
    incoming_vx, incoming_vy = player.vx, player.vy
    into = player.vx * nx + player.vy * ny
    approach = -into if into < 0.0 else 0.0
    fall_speed = -(player.vx * player.up_x + player.vy * player.up_y)
    is_floor = floor is None and is_ground(world, player, nx, ny)
    climbs = player.stance == CLIMBING
    was_on_ground = player.stance == GROUND and player.ground != NO_SUPPORT
    rebound = _rebound(world, body, pieces, felt.surfaces, piece, approach)
    if rebound > 0.0 and (is_floor or floor is not None or not was_on_ground):
        player.vx += (rebound + approach) * nx + ux
        player.vy += (rebound + approach) * ny + uy
    else:
        rebound = 0.0
        contact.held = 1
        if was_on_ground and is_floor and ux == 0.0 and uy == 0.0:
            turn_along(player, nx, ny)
        player.vx, player.vy = player.vx + ux, player.vy + uy
        if was_on_ground and not is_floor:
            if step_up(core, outline, nx, ny, now):
                return
            ground = place_of(player, contacts, player.ground)
            if ground < 0 or not stop_along(player, contacts, ground, core.segment.tiny_speed):
                admit_velocity(player, contacts, core.segment.tiny_speed)
        else:
            admit_velocity(player, contacts, core.segment.tiny_speed)
    touch(core.touched, player, journal, piece, now, approach)
    height = player.x * player.up_x + player.y * player.up_y
    if not is_floor:
        player.peak = max(player.peak, height)
    elif not was_on_ground:
        if climbs:
            if ladders is not None:
                ladder = ladders[player.ladder].piece
                let_go_of_ladder(player, core.passing, now)
                write(journal, player, CLIMB, now, ladder, math.nan, AT_BOTTOM)
        elif now - player.air_since > AT_ONCE * world.dt:
            write(journal, player, LAND, now, piece, max(player.peak - height, 0.0), max(fall_speed, 0.0))
        player.stance = GROUND
        note_ground(solids, player, outline)
        player.base = height
        player.peak = height
        player.jumps_left = body.extra_jumps
    if launches is not None:
        if piece >= 0:
            row = pieces[piece].launch
            if row >= 0:
                # What is kept is kept of the velocity that came in, as seen from the launcher.
                stopped_vx, stopped_vy = player.vx, player.vy
                player.vx, player.vy = incoming_vx, incoming_vy
                if launch(core, launches, row, felt.ready, nx, ny, now):
                    player.vx, player.vy = player.vx + ux, player.vy + uy
                    return
                player.vx, player.vy = stopped_vx, stopped_vy
    if is_floor and not was_on_ground:
        if jump_is_buffered(body, player, now):
            jump(body, player, journal, player.held, now)
        elif rebound > 0.0:
            leave_support(player, now)
    elif is_floor and rebound > 0.0 and (ux != 0.0 or uy != 0.0):
        # It stood, and is thrown off by what came at it.
        leave_support(player, now)


@leaf
def _rebound(world: Any, body: Any, pieces: Any, surfaces: Any, piece: int, approach_speed: float) -> float:
    """Return the speed at which a body comes back from a piece."""
    if surfaces is None or pieces is None:
        return 0.0
    if piece < 0:
        return 0.0
    row = pieces[piece].surface
    if row < 0:
        return 0.0
    speed = surfaces[row].restitution * approach_speed
    return speed if speed * speed > 2.0 * LEAST_BOUNCE * body.height * world.weight else 0.0
