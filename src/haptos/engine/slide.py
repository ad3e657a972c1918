"""One body's motion during one tick: a chain of segments of constant acceleration.

A segment ends at a contact, a lost support, a speed reached, an apex, an edge of the world or the end of the tick. What
is hit takes away the velocity into it, and the rest of the tick goes on along it.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.arcs import leave_corner, round_corner, step_corner
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
    open_way,
)
from haptos.engine.journal import APEX, LAND, NO_PIECE, STALL, write
from haptos.engine.plans import heed, limit_at_face_ends, plan_side, plan_top
from haptos.engine.state import GROUND
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
    player: Any, contacts: Any, touched: Any, inside: Any, seen: Any, visits: Any, segment: Any, hit: Any, journal: Any,
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
            plan_top(body, player, contacts, segment)
        else:
            plan_side(world, body, solids, player, contacts, segment, now)
        mark_parted(contacts, touched, player, now)
        limit_at_edges(edges, player, segment)
        if player.contacts > 0:
            limit_at_face_ends(solids, player, contacts, segment)
        segment.path_vx, segment.path_vy = player.vx, player.vy
        segment.path_ax, segment.path_ay = segment.ax, segment.ay
        if segment.arc >= 0:
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
                zones, inside, seen, visits, player, journal, body.height,
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
            if segment.reason == ARC_STEP and segment.which >= 0:
                leave_corner(solids, player, contacts, segment)
            if segment.reason == EDGE:
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
    mark_parted(contacts, touched, player, begin + world.dt)
    if floor is None:
        find_support(world, body, solids, contacts, player)


@leaf
def _advance(solids: Any, player: Any, contacts: Any, segment: Any, hit: Any, duration: float) -> None:
    if segment.arc >= 0:
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
    piece = piece_of(solids, walls, hit.outline)
    keep(contacts, player, hit, piece)
    if into < 0.0:
        speed = math.sqrt(player.vx * player.vx + player.vy * player.vy)
        if was_on_ground and is_floor:
            along = player.vx * ny - player.vy * nx
            speed = speed if along > 0.0 else -speed
            player.vx, player.vy = speed * ny, -speed * nx
        elif was_on_ground:
            player.vx, player.vy = 0.0, 0.0
        else:
            heed(player, contacts)
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
    touch(touched, player, journal, piece, now, approach_speed)
    height = player.x * player.up_x + player.y * player.up_y
    if not is_floor:
        player.peak = max(player.peak, height)
    elif not was_on_ground:
        if now - player.air_since > AT_ONCE * world.dt:
            write(journal, player, LAND, now, piece, max(player.peak - height, 0.0), fall_speed)
        player.stance = GROUND
        player.base = height
        player.peak = height
        player.jumps_left = body.extra_jumps
        if jump_is_buffered(body, player, now):
            jump(body, player, journal, player.held, now)
