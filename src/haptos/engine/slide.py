"""One body's motion during one tick: a chain of segments of constant acceleration.

A segment ends at a contact, a lost support, a speed reached, an apex, an edge of the world or the end of the tick. What is
hit takes away the velocity into it, and the rest of the tick goes on along it.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.arcs import CHORD, is_flung_off, leave_corner, round_corner, step_corner
from haptos.engine.compiled import leaf
from haptos.engine.contacts import (
    drop,
    find_support,
    is_ground,
    keep,
    mark_parted,
    piece_of,
    say_parted,
    settle,
    side_of,
    touch,
)
from haptos.engine.edges import cross_edge, limit_at_edges
from haptos.engine.impact import SLIDING, first_impact
from haptos.engine.intent import (
    ARC_STEP,
    AT_APEX,
    EDGE,
    END_OF_TICK,
    FACE_END,
    SPEED_REACHED,
    TERMINAL,
    jump,
    jump_is_buffered,
    limit_air,
    open_way,
    plan_air,
    plan_floor,
    plan_ground,
    presses,
)
from haptos.engine.journal import APEX, LAND, NO_PIECE, STALL, write
from haptos.engine.roots import falls_at
from haptos.engine.state import AIR, GROUND
from haptos.engine.zones import sweep_zones

# What is left of a tick after this many segments is dropped, with an event.
MOST_SEGMENTS = 32
# Two impacts within this share of a tick are one.
AT_ONCE = 1e-9
# More impacts than this in one tick are a body rattling in a wedge; it comes to rest there.
MOST_STRIKES = 8


@leaf
def move(
    world: Any, body: Any, solids: Any, walls: Any, zones: Any, edges: Any, floor: Any,
    player: Any, contacts: Any, touched: Any, inside: Any, visits: Any, segment: Any, hit: Any, journal: Any,
    begin: float,
) -> None:  # fmt: skip
    """Move the body through one tick that begins at the time `begin`."""
    remaining = world.dt
    player.strikes = 0
    for _ in range(MOST_SEGMENTS):
        now = begin + (world.dt - remaining)
        segment.limit = remaining
        segment.reason = END_OF_TICK
        segment.arc = -1
        if floor is not None:
            _plan_top(body, player, contacts, segment)
        else:
            _plan_side(world, body, solids, player, contacts, segment, now)
        mark_parted(solids, walls, contacts, touched, player, now)
        limit_at_edges(edges, player, segment)
        if solids is not None:
            _limit_at_face_ends(solids, player, contacts, segment)
        segment.path_vx, segment.path_vy = player.vx, player.vy
        segment.path_ax, segment.path_ay = segment.ax, segment.ay
        if solids is not None and segment.arc >= 0:
            step_corner(world, solids, walls, player, contacts, segment, hit, body.height)
        else:
            first_impact(
                solids, walls, contacts, player.contacts, body.height, player.x, player.y,
                segment.path_vx, segment.path_vy, segment.path_ax, segment.path_ay, segment.limit, hit,
            )  # fmt: skip
        duration = min(segment.limit, hit.t)
        if duration > 0.0:
            say_parted(touched, player, journal)
            sweep_zones(
                zones, inside, visits, player, journal, body.height,
                segment.path_vx, segment.path_vy, segment.path_ax, segment.path_ay, duration, now,
            )  # fmt: skip
            _advance(solids, player, contacts, segment, hit, duration)
        remaining -= duration
        now = begin + (world.dt - remaining)
        if hit.t <= segment.limit:
            strike(
                world,
                body,
                solids,
                walls,
                floor,
                player,
                contacts,
                touched,
                hit,
                journal,
                segment.ground >= 0,
                now,
            )
        else:
            if segment.reason == END_OF_TICK:
                break
            _finish(floor, player, contacts, segment, journal, now)
            if solids is not None and segment.reason == ARC_STEP and segment.which >= 0:
                leave_corner(solids, player, contacts, segment)
            if segment.reason == EDGE and edges is not None:
                cross_edge(
                    edges,
                    body,
                    zones,
                    floor,
                    player,
                    contacts,
                    touched,
                    inside,
                    visits,
                    segment,
                    journal,
                    now,
                )
        if remaining <= 0.0 or (floor is not None and player.strikes > MOST_STRIKES):
            break
    else:
        write(journal, player, STALL, begin + (world.dt - remaining), NO_PIECE, remaining, 0.0)
    mark_parted(solids, walls, contacts, touched, player, begin + world.dt)
    if floor is None:
        find_support(world, body, solids, contacts, player)


@leaf
def _plan_top(body: Any, player: Any, contacts: Any, segment: Any) -> None:
    """Plan in the plane; walls that the body moves away from are let go, corners that it is pressed against are kept."""
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
    plan_floor(body, player, contacts, segment)
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
def _plan_side(
    world: Any, body: Any, solids: Any, player: Any, contacts: Any, segment: Any, now: float
) -> None:
    """Decide whether the body is on the ground, and plan the segment's acceleration."""
    speed = math.sqrt(player.vx * player.vx + player.vy * player.vy)
    gravity = math.sqrt(player.gravity_x * player.gravity_x + player.gravity_y * player.gravity_y)
    tiny = SLIDING * (speed + gravity * world.dt)
    ground = -1
    index = 0
    while index < player.contacts:
        contact = contacts[index]
        if player.vx * contact.nx + player.vy * contact.ny > tiny:
            drop(contacts, player, index)
            continue
        if ground < 0 and is_ground(world, player, contact.nx, contact.ny):
            if contact.radius > 0.0:
                # Whether it would fly on over the corner is a question about flight.
                plan_air(body, player, segment)
                if is_flung_off(player, contact, segment, SLIDING * (abs(segment.ax) + abs(segment.ay))):
                    drop(contacts, player, index)
                    continue
            ground = index
        index += 1
    if ground >= 0:
        ground = _plan_on_ground(world, body, player, contacts, segment, ground, tiny)
        if contacts[ground].radius > 0.0:
            segment.arc = ground
        player.stance = GROUND
        player.coyote = 1
        player.cut_armed = 0
        player.jumps_left = body.extra_jumps
        player.base = player.x * player.up_x + player.y * player.up_y
        player.peak = player.base
        player.air_since = now
        segment.ground = ground
        return
    if player.stance == GROUND:
        player.stance = AIR
        player.air_since = now
        player.base = player.x * player.up_x + player.y * player.up_y
        player.peak = player.base
    _plan_in_air(body, player, contacts, segment)


@leaf
def _plan_on_ground(
    world: Any, body: Any, player: Any, contacts: Any, segment: Any, ground: int, tiny: float
) -> int:
    """Plan along the ground; where another ground rises ahead, go on along that, and stop where a wall does."""
    remaining = segment.limit
    for attempt in range(player.contacts + 1):
        contact = contacts[ground]
        tx, ty = contact.ny * player.handed, -contact.nx * player.handed
        speed = player.vx * tx + player.vy * ty
        if abs(speed) <= tiny:
            speed = 0.0
        player.vx, player.vy = speed * tx, speed * ty
        segment.limit, segment.reason = remaining, END_OF_TICK
        wish = plan_ground(body, player, segment, tx, ty)
        way = 1.0 if wish > 0.0 else (-1.0 if wish < 0.0 else 0.0)
        rising = -1
        blocked = False
        for index in range(player.contacts):
            ahead = way * (tx * contacts[index].nx + ty * contacts[index].ny)
            if index != ground and ahead < -SLIDING:
                if is_ground(world, player, contacts[index].nx, contacts[index].ny):
                    rising = index
                else:
                    blocked = True
        if blocked or (rising >= 0 and attempt == player.contacts):
            player.vx, player.vy = 0.0, 0.0
            segment.ax, segment.ay = 0.0, 0.0
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
    _heed(player, contacts)
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
def _heed(player: Any, contacts: Any) -> None:
    """Take away the velocity into what is touched already, as after a jump under an overhang."""
    speed = math.sqrt(player.vx * player.vx + player.vy * player.vy)
    for _ in range(2):
        for index in range(player.contacts):
            into = player.vx * contacts[index].nx + player.vy * contacts[index].ny
            if into < 0.0:
                player.vx -= into * contacts[index].nx
                player.vy -= into * contacts[index].ny
    for index in range(player.contacts):
        if player.vx * contacts[index].nx + player.vy * contacts[index].ny < -SLIDING * speed:
            player.vx, player.vy = 0.0, 0.0


@leaf
def _limit_at_face_ends(solids: Any, player: Any, contacts: Any, segment: Any) -> None:
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
        before = _passes_at(along, speed, pull)
        beyond = _passes_at(face.length - along, -speed, -pull)
        end = min(before, beyond)
        if end < segment.limit:
            segment.limit = end
            segment.reason = FACE_END
            segment.which = index


@leaf
def _passes_at(room: float, speed: float, pull: float) -> float:
    """Return when the room toward a face's end is used up; at once if it is and the motion goes on."""
    if room <= 0.0:
        return 0.0 if speed < 0.0 or (speed == 0.0 and pull < 0.0) else falls_at(0.0, speed, pull)
    return falls_at(room, speed, pull)


@leaf
def _advance(solids: Any, player: Any, contacts: Any, segment: Any, hit: Any, duration: float) -> None:
    if solids is not None and segment.arc >= 0:
        round_corner(solids, player, contacts, segment, duration, hit.t <= segment.limit)
        return
    player.x += duration * (player.vx + 0.5 * segment.ax * duration)
    player.y += duration * (player.vy + 0.5 * segment.ay * duration)
    player.vx += segment.ax * duration
    player.vy += segment.ay * duration


@leaf
def _finish(floor: Any, player: Any, contacts: Any, segment: Any, journal: Any, now: float) -> None:
    """Do what the end of a segment is about."""
    reason = segment.reason
    if reason == FACE_END:
        drop(contacts, player, segment.which)
    elif reason == SPEED_REACHED and floor is not None:
        if segment.arc < 0:
            player.vx, player.vy = segment.axis_x, segment.axis_y
    elif reason in (SPEED_REACHED, TERMINAL, AT_APEX):
        if segment.arc < 0:
            short = segment.value - (player.vx * segment.axis_x + player.vy * segment.axis_y)
            player.vx += short * segment.axis_x
            player.vy += short * segment.axis_y
        elif segment.ground >= 0:
            # The way has turned with the corner.
            contact = contacts[segment.arc]
            player.vx = segment.value * player.handed * contact.ny
            player.vy = -segment.value * player.handed * contact.nx
        if reason == AT_APEX:
            height = player.x * player.up_x + player.y * player.up_y
            player.peak = max(player.peak, height)
            player.cut_armed = 0
            write(journal, player, APEX, now, NO_PIECE, height - player.base, 0.0)


@leaf
def strike(
    world: Any, body: Any, solids: Any, walls: Any, floor: Any,
    player: Any, contacts: Any, touched: Any, hit: Any, journal: Any, was_on_ground: bool, now: float,
) -> None:  # fmt: skip
    """Take away the velocity into what was hit, and keep it as a contact."""
    settle(solids, walls, player, hit)
    nx, ny = hit.nx, hit.ny
    into = player.vx * nx + player.vy * ny
    approach_speed = -into if into < 0.0 else 0.0
    fall_speed = -(player.vx * player.up_x + player.vy * player.up_y)
    is_floor = floor is None and is_ground(world, player, nx, ny)
    keep(contacts, player, hit)
    if into < 0.0:
        speed = math.sqrt(player.vx * player.vx + player.vy * player.vy)
        if was_on_ground and is_floor:
            along = player.vx * ny - player.vy * nx
            speed = speed if along > 0.0 else -speed
            player.vx, player.vy = speed * ny, -speed * nx
        elif was_on_ground:
            player.vx, player.vy = 0.0, 0.0
        else:
            _heed(player, contacts)
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
    piece = piece_of(solids, hit.outline, side_of(walls, hit.outline))
    touch(touched, player, journal, piece, now, approach_speed)
    height = player.x * player.up_x + player.y * player.up_y
    if not is_floor:
        player.peak = max(player.peak, height)
    elif not was_on_ground:
        if now > player.air_since:
            write(journal, player, LAND, now, piece, max(player.peak - height, 0.0), fall_speed)
        player.stance = GROUND
        player.base = height
        player.peak = height
        player.jumps_left = body.extra_jumps
        if jump_is_buffered(body, player, now):
            jump(body, player, journal, player.held, now)
