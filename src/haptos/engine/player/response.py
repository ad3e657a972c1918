"""What an impact does: the velocity into what is hit is lost, turned along the ground, thrown back or set anew."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import SLIDING
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.controls import jump, jump_is_buffered, leave_support
from haptos.engine.player.ground import step_up, turn_along
from haptos.engine.player.kept_contacts import (
    clip_velocity,
    is_ground,
    keep,
    note_ground,
    piece_of,
    project_to_contact,
    touch,
)
from haptos.engine.player.ladders import let_go_of_ladder
from haptos.engine.player.launches import launch
from haptos.engine.player.top_view import open_way
from haptos.engine.records.codes import CLIMBING, GROUND
from haptos.engine.records.events import AT_BOTTOM, CLIMB, LAND
from haptos.engine.records.journal import write

# Two impacts within this share of a tick are one.
AT_ONCE = 1e-9
# More impacts than this in one tick are a body rattling in a wedge; it comes to rest there.
MOST_STRIKES = 8
# A body that would bounce less high than this share of its height comes to rest.
LEAST_BOUNCE = 1e-3


@leaf
def strike(core: Any, felt: Any, floor: Any, ladders: Any, launches: Any, was_on_ground: bool, now: float) -> None:
    """Meet what was hit, and keep it as a contact unless the body is thrown off it."""
    pieces = felt.pieces
    world, body, solids, walls, player = core.world, core.body, core.solids, core.walls, core.player
    contacts, hit, journal = core.contacts, core.hit, core.journal
    project_to_contact(solids, walls, player, hit)
    outline, nx, ny = hit.outline, hit.nx, hit.ny
    incoming_vx, incoming_vy = player.vx, player.vy
    into = player.vx * nx + player.vy * ny
    approach_speed = -into if into < 0.0 else 0.0
    fall_speed = -(player.vx * player.up_x + player.vy * player.up_y)
    is_floor = floor is None and is_ground(world, player, nx, ny)
    piece = piece_of(solids, walls, outline)
    climbs = player.stance == CLIMBING
    rebound = _rebound(world, body, pieces, felt.surfaces, piece, approach_speed)
    if rebound > 0.0 and (is_floor or floor is not None or not was_on_ground):
        player.vx += (rebound + approach_speed) * nx
        player.vy += (rebound + approach_speed) * ny
    else:
        rebound = 0.0
        keep(contacts, player, hit, piece)
        if into < 0.0:
            if was_on_ground and is_floor:
                turn_along(player, nx, ny)
            elif was_on_ground:
                if step_up(core, outline, nx, ny, now):
                    return
                player.vx, player.vy = 0.0, 0.0
            elif not climbs:
                _stop(world, floor, player, contacts, nx, ny, now)
            else:
                clip_velocity(player, contacts)
    touch(core.touched, player, journal, piece, now, approach_speed)
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
                # What is kept is kept of the velocity that came in.
                stopped_vx, stopped_vy = player.vx, player.vy
                player.vx, player.vy = incoming_vx, incoming_vy
                if launch(core, launches, row, felt.ready, nx, ny, now):
                    return
                player.vx, player.vy = stopped_vx, stopped_vy
    if is_floor and not was_on_ground:
        if jump_is_buffered(body, player, now):
            jump(body, player, journal, player.held, now)
        elif rebound > 0.0:
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


@leaf
def _stop(world: Any, floor: Any, player: Any, contacts: Any, nx: float, ny: float, now: float) -> None:
    """Lose the velocity into everything in contact; come to rest in a wedge."""
    speed = math.sqrt(player.vx * player.vx + player.vy * player.vy)
    clip_velocity(player, contacts)
    if floor is not None and player.contacts > 1:
        way_x, way_y = open_way(player, contacts)
        if way_x == 0.0 and way_y == 0.0:
            player.vx, player.vy = 0.0, 0.0
    # Thrown to and fro between two surfaces at one instant: the body is in the wedge between them.
    again = now - player.struck_at <= AT_ONCE * world.dt
    player.strikes += 1
    if player.strikes > MOST_STRIKES:
        player.vx, player.vy = 0.0, 0.0
    if again and player.vx * player.struck_nx + player.vy * player.struck_ny < -SLIDING * speed:
        player.vx, player.vy = 0.0, 0.0
    player.struck_at = now
    player.struck_nx, player.struck_ny = nx, ny
