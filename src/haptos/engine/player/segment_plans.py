"""The plan of one segment: what carries the body, what it slides along, and its acceleration.

Every plan writes the acceleration and the latest end of the segment; contacts that the motion leaves are dropped.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import LEVEL, SLIDING, is_on_side
from haptos.engine.collision.roots import falls_at, falls_within
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.player.arcs import CHORD, is_flung_off
from haptos.engine.player.controls import (
    AT_THE_END,
    END_OF_TICK,
    FACE_END,
    SPEED_REACHED,
    limit_air,
    plan_air,
    plan_ground,
)
from haptos.engine.player.ground import ground_goes_on, snap_down, step_up
from haptos.engine.player.kept_contacts import clip_velocity, drop, is_ground, note_ground
from haptos.engine.player.regions import update_factors
from haptos.engine.player.top_view import plan_floor, presses
from haptos.engine.records.codes import AIR, GROUND, IN_AIR, NO_SUPPORT

# The ground of a wall of the bounds: no piece, so no surface.
NO_PIECE_GROUND = constant(-2)


@leaf
def plan_top(felt: Any, world: Any, body: Any, player: Any, contacts: Any, segment: Any) -> None:
    """Plan in the plane; walls that it leaves are let go, corners that it is pressed against are kept."""
    update_factors(felt.effects, felt.fields, None, felt.surfaces, player, felt.within, felt.occupied, NO_PIECE_GROUND)
    remaining = segment.limit
    tiny = SLIDING * body.sprint
    index = 0
    while index < player.contacts:
        contact = contacts[index]
        leaving = player.vx * contact.nx + player.vy * contact.ny > tiny
        if leaving or (contact.radius > 0.0 and not presses(player, contacts, index)):
            drop(contacts, player, index)
        else:
            index += 1
    plan_floor(body, player, contacts, segment, world.weight)
    segment.ground = -1
    index = 0
    while index < player.contacts:
        contact = contacts[index]
        if segment.ax * contact.nx + segment.ay * contact.ny > SLIDING * body.ground_accel:
            drop(contacts, player, index)
        else:
            if contact.radius > 0.0:
                segment.arc = index
            index += 1
    if segment.arc >= 0 and segment.reason == SPEED_REACHED:
        # Round a corner the wanted velocity turns all the time; what is reached within a chord is reached now.
        goal = math.sqrt(segment.axis_x * segment.axis_x + segment.axis_y * segment.axis_y)
        speed = math.sqrt(player.vx * player.vx + player.vy * player.vy)
        if 0.5 * (goal + speed) * segment.limit < CHORD * contacts[segment.arc].radius:
            player.vx, player.vy = segment.axis_x, segment.axis_y
            segment.ax, segment.ay = 0.0, 0.0
            segment.limit, segment.reason = remaining, END_OF_TICK


@leaf
def plan_side(
    core: Any, pieces: Any, surfaces: Any, fields: Any, effects: Any, within: Any, occupied: Any, now: float
) -> None:
    """Decide whether the body is on the ground, and plan the segment's acceleration."""
    body, player, contacts, segment = core.body, core.player, core.contacts, core.segment
    ground = _find_ground(core)
    if ground < 0 and player.stance == GROUND and player.ground != NO_SUPPORT:
        if snap_down(core, now):
            ground = player.contacts - 1
    if ground >= 0:
        update_factors(
            effects, fields, pieces, surfaces, player, within, occupied, max(contacts[ground].piece, NO_PIECE_GROUND)
        )
        ground = _plan_on_ground(core, ground, now)
        if contacts[ground].radius > 0.0:
            segment.arc = ground
        player.stance = GROUND
        player.coyote = 1
        player.cut_armed = 0
        player.jumps_left = body.extra_jumps
        player.base = player.x * player.up_x + player.y * player.up_y
        player.peak = player.base
        player.air_since = now
        note_ground(core.solids, player, contacts[ground].outline)
        segment.ground = ground
        return
    if player.stance == GROUND:
        player.stance = AIR
        player.air_since = now
        player.base = player.x * player.up_x + player.y * player.up_y
        player.peak = player.base
    player.ground = NO_SUPPORT
    update_factors(effects, fields, pieces, surfaces, player, within, occupied, IN_AIR)
    _plan_in_air(body, player, contacts, segment)


@leaf
def _find_ground(core: Any) -> int:
    """Return the contact that carries the body, -1 for none; drop the contacts that the motion leaves."""
    world, player, contacts, segment = core.world, core.player, core.contacts, core.segment
    speed = math.sqrt(player.vx * player.vx + player.vy * player.vy)
    gravity = math.sqrt(player.gravity_x * player.gravity_x + player.gravity_y * player.gravity_y)
    tiny = SLIDING * (speed + gravity * world.dt)
    ground = -1
    index = 0
    while index < player.contacts:
        contact = contacts[index]
        if player.vx * contact.nx + player.vy * contact.ny > tiny or _is_idle_corner(
            core.solids, player, contacts, index
        ):
            drop(contacts, player, index)
            continue
        if ground < 0 and is_ground(world, player, contact.nx, contact.ny):
            if contact.radius > 0.0:
                # Whether it would fly on over the corner is a question about flight.
                plan_air(core.body, player, segment)
                strength = SLIDING * (abs(segment.ax) + abs(segment.ay))
                if is_flung_off(player, contact, segment, strength) and not ground_goes_on(core, contact):
                    drop(contacts, player, index)
                    continue
            ground = index
        index += 1
    return ground


@leaf
def _is_idle_corner(solids: Any, player: Any, contacts: Any, which: int) -> bool:
    """Whether a corner carries nothing: it is level with a face in contact, or not on the side of its one-way piece."""
    contact = contacts[which]
    if contact.radius <= 0.0 or contact.outline < 0:
        return False
    for index in range(player.contacts):
        other = contacts[index]
        if other.radius <= 0.0 and other.nx * contact.nx + other.ny * contact.ny > LEVEL:
            return True
    outline = solids.outlines[contact.outline]
    return not is_on_side(contact.nx, contact.ny, outline.side_x, outline.side_y)


@leaf
def _plan_on_ground(core: Any, ground: int, now: float) -> int:
    """Plan along the ground; where another ground rises ahead, go on along that, and stop where a wall does."""
    world, player, contacts, segment = core.world, core.player, core.contacts, core.segment
    speed = math.sqrt(player.vx * player.vx + player.vy * player.vy)
    gravity = math.sqrt(player.gravity_x * player.gravity_x + player.gravity_y * player.gravity_y)
    tiny = SLIDING * (speed + gravity * world.dt)
    remaining = segment.limit
    for attempt in range(player.contacts + 1):
        contact = contacts[ground]
        tx, ty = contact.ny * player.handed, -contact.nx * player.handed
        speed = player.vx * tx + player.vy * ty
        if abs(speed) <= tiny:
            speed = 0.0
        player.vx, player.vy = speed * tx, speed * ty
        segment.limit, segment.reason = remaining, END_OF_TICK
        wish = plan_ground(core.body, player, segment, tx, ty)
        way = 1.0 if wish > 0.0 else (-1.0 if wish < 0.0 else 0.0)
        rising = -1
        blocking = -1
        for index in range(player.contacts):
            ahead = way * (tx * contacts[index].nx + ty * contacts[index].ny)
            if index != ground and ahead < -SLIDING:
                if is_ground(world, player, contacts[index].nx, contacts[index].ny):
                    rising = index
                else:
                    blocking = index
        if blocking >= 0:
            wall = contacts[blocking]
            if step_up(core, wall.outline, wall.nx, wall.ny, now):
                ground = player.contacts - 1
                continue
        if blocking >= 0 or (rising >= 0 and attempt == player.contacts):
            player.vx, player.vy = 0.0, 0.0
            segment.ax, segment.ay = 0.0, 0.0
            segment.slip = 0.0
            segment.limit, segment.reason = remaining, END_OF_TICK
            return ground
        if rising < 0:
            return _leave_behind(player, contacts, ground, way * tx, way * ty)
        turned = contacts[rising]
        player.vx, player.vy = speed * turned.ny * player.handed, -speed * turned.nx * player.handed
        ground = rising
    return ground


@leaf
def _leave_behind(player: Any, contacts: Any, ground: int, wx: float, wy: float) -> int:
    """Drop the contacts that a motion along (wx, wy) leaves; return where the ground stands in the list then."""
    index = 0
    while index < player.contacts:
        if index != ground and wx * contacts[index].nx + wy * contacts[index].ny > SLIDING:
            drop(contacts, player, index)
            if index < ground:
                ground -= 1
        else:
            index += 1
    return ground


@leaf
def _plan_in_air(body: Any, player: Any, contacts: Any, segment: Any) -> None:
    """Plan a flight; what is in the way and not left is slid along."""
    segment.ground = -1
    segment.flies = 1
    clip_velocity(player, contacts)
    plan_air(body, player, segment)
    strength = SLIDING * (abs(segment.ax) + abs(segment.ay))
    free = strength >= 0.0
    for _ in range(2):
        index = 0
        while index < player.contacts:
            contact = contacts[index]
            pull = segment.ax * contact.nx + segment.ay * contact.ny
            if (pull > strength and free) or is_flung_off(player, contact, segment, strength):
                drop(contacts, player, index)
                continue
            if pull < 0.0:
                segment.ax -= pull * contact.nx
                segment.ay -= pull * contact.ny
                free = free and pull >= -strength
            index += 1
    for index in range(player.contacts):
        contact = contacts[index]
        if segment.ax * contact.nx + segment.ay * contact.ny < -strength:
            # Wedged between two steep faces: they carry the body, so that it can jump out.
            segment.ax, segment.ay = 0.0, 0.0
            player.vx, player.vy = 0.0, 0.0
            player.stance = GROUND
            player.jumps_left = body.extra_jumps
            segment.arc = -1
            return
        if contact.radius > 0.0:
            segment.arc = index
    limit_air(body, player, segment, free)


@leaf
def limit_at_face_ends(solids: Any, player: Any, contacts: Any, segment: Any) -> None:
    """End the segment where a kept face ends."""
    for index in range(player.contacts):
        contact = contacts[index]
        if contact.outline < 0:
            continue
        if contact.feature < 0:
            continue
        face = solids.faces[contact.feature]
        along = (player.x - face.x) * face.tx + (player.y - face.y) * face.ty
        speed = player.vx * face.tx + player.vy * face.ty
        pull = segment.ax * face.tx + segment.ay * face.ty
        before = _passes_at(along, speed, pull, segment.limit)
        beyond = _passes_at(face.length - along, -speed, -pull, segment.limit)
        end = min(before, beyond)
        # A face that ends with the tick is left in the next one, where there is time to find what follows it.
        if end * AT_THE_END < segment.limit:
            segment.limit = end
            segment.reason = FACE_END
            segment.which = index


@leaf
def _passes_at(room: float, speed: float, pull: float, horizon: float) -> float:
    """Return when the room toward a face's end is used up; at once if it is and the motion goes on."""
    if room <= 0.0:
        return 0.0 if speed < 0.0 or (speed == 0.0 and pull < 0.0) else falls_at(0.0, speed, pull)
    return falls_within(room, speed, pull, horizon)
