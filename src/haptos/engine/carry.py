"""Movers in a tick: the body that one carries, and the one that is in their way.

At the start of a tick every mover goes to its pose at the tick's end. The one that the body stands on carries it; each
other one is swept against the body at rest and pushes it along the normal of what it meets.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiled import leaf
from haptos.engine.contacts import drop, is_ground, keep, settle, touch
from haptos.engine.edges import begin_again
from haptos.engine.impact import TOUCHING, is_one_way, meet_outlines, set_path
from haptos.engine.journal import CRUSH, LAND, write
from haptos.engine.poses import bring, pose_at
from haptos.engine.shoves import overlap, press_aside, shove, way_out
from haptos.engine.state import AIR, CLIMBING, GROUND
from haptos.engine.zones import DEPTH, depth_in, say_pass, set_inside

# Overlaps that one mover can push a body out of, at most.
MOST_PUSHES = 4
NOT_CRUSHED = -1.0
# What is farther than this from what it touched, as a share of the body's height, has parted from it.
PARTED = 10.0 * TOUCHING


@leaf
def advance_movers(
    movers: Any, body: Any, floor: Any, rest: Any, solids: Any, rest_zones: Any, zones: Any, walls: Any, passing: Any,
    world: Any, player: Any, contacts: Any, touched: Any, moving: Any, inside: Any, visits: Any, probe: Any, path: Any,
    hit: Any, journal: Any, begin: float, end: float,
) -> None:  # fmt: skip
    """Bring every mover to its pose at the end of the tick, and the body along or out of the way."""
    if movers is None:
        return
    crushed_at = NOT_CRUSHED
    ridden = player.frame
    x, y = player.x, player.y
    dt = end - begin
    speed = math.sqrt(player.vx * player.vx + player.vy * player.vy) + movers.fastest
    speed += math.sqrt(player.frame_vx * player.frame_vx + player.frame_vy * player.frame_vy)
    reach = body.height + (speed + world.weight * dt) * dt
    if ridden >= 0:
        if _ride(movers, body, rest, solids, walls, passing, player, moving, probe, path, hit, ridden, end):
            crushed_at = begin
            write(journal, player, CRUSH, begin, movers.movers[ridden].piece, math.nan, 0.0)
    for number in range(movers.movers.shape[0]):
        mover = movers.movers[number]
        pose = moving[number]
        if number != ridden:
            if _is_far(mover, body, player, reach):
                continue
            if pose.t != begin:
                # It was far away until now.
                pose_at(mover, movers.legs, begin, pose)
                bring(solids, rest, movers.solid_start, movers.solid_items, number, pose.x, pose.y)
            old_x, old_y = pose.x, pose.y
            pose_at(mover, movers.legs, end, pose)
            dx, dy = pose.x - old_x, pose.y - old_y
            if (dx != 0.0 or dy != 0.0) and crushed_at < 0.0:
                crushed_at = _push(
                    movers, world, body, floor, rest, solids, walls, passing, player, contacts, touched, pose, probe,
                    path, hit, journal, number, dx, dy, begin, end,
                )  # fmt: skip
            bring(solids, rest, movers.solid_start, movers.solid_items, number, pose.x, pose.y)
        bring(zones, rest_zones, movers.zone_start, movers.zone_items, number, pose.x, pose.y)
    _check_contacts(solids, walls, body, player, contacts)
    if crushed_at >= 0.0:
        begin_again(body, zones, floor, player, contacts, touched, inside, visits, passing, journal, crushed_at)
    elif zones is not None:
        has_moved = player.x != x or player.y != y
        _feel_zones(zones, inside, visits, passing, moving, player, journal, body.height, begin, has_moved)


@leaf
def _is_far(mover: Any, body: Any, player: Any, reach: float) -> bool:
    """Whether the body can't meet a mover in this tick, where it is or where it would start again."""
    if player.x + reach >= mover.x0 and player.x - reach <= mover.x1:
        if player.y + reach >= mover.y0 and player.y - reach <= mover.y1:
            return False
    if body.start_x + reach >= mover.x0 and body.start_x - reach <= mover.x1:
        return body.start_y + reach < mover.y0 or body.start_y - reach > mover.y1
    return True


@leaf
def _ride(
    movers: Any, body: Any, rest: Any, solids: Any, walls: Any, passing: Any, player: Any, moving: Any, probe: Any,
    path: Any, hit: Any, number: int, end: float,
) -> bool:  # fmt: skip
    """Carry the body along with what it stands on; return whether that is squeezed against it.

    The body's place on the mover is worked out anew only after it has moved by itself, so that nothing accumulates.
    """
    pose = moving[number]
    if player.x != player.carried_x or player.y != player.carried_y:
        player.local_x, player.local_y = player.x - pose.x, player.y - pose.y
    pose_at(movers.movers[number], movers.legs, end, pose)
    bring(solids, rest, movers.solid_start, movers.solid_items, number, pose.x, pose.y)
    player.frame_vx, player.frame_vy = pose.vx, pose.vy
    x, y = player.local_x + pose.x, player.local_y + pose.y
    if x == player.x and y == player.y:
        return False
    if shove(solids, walls, passing, body, player, probe, path, hit, number, x - player.x, y - player.y):
        player.x, player.y = x, y
        player.carried_x, player.carried_y = x, y
        return False
    return overlap(movers, solids, passing, body, player, number) >= 0


@leaf
def _push(
    movers: Any, world: Any, body: Any, floor: Any, rest: Any, solids: Any, walls: Any, passing: Any, player: Any,
    contacts: Any, touched: Any, pose: Any, probe: Any, path: Any, hit: Any, journal: Any, number: int,
    dx: float, dy: float, begin: float, end: float,
) -> float:  # fmt: skip
    """Sweep one mover by (dx, dy) against the body at rest and push it; return when it is crushed, if it is."""
    set_path(path, player.x, player.y, -dx, -dy, 0.0, 0.0, 1.0)
    first, last = movers.solid_start[number], movers.solid_start[number + 1]
    meet_outlines(solids, passing, movers.solid_items, first, last, contacts, body.height, path, hit)
    vx, vy = player.vx + player.frame_vx, player.vy + player.frame_vy
    if hit.t <= 1.0 and (vx - pose.vx) * hit.nx + (vy - pose.vy) * hit.ny > 0.0:
        # The body outruns it, as after a jump off it: only what catches up with its motion is in the way.
        dt = end - begin
        set_path(
            path, player.x, player.y, vx * dt - dx, vy * dt - dy, player.gravity_x * dt * dt,
            player.gravity_y * dt * dt, 1.0,
        )  # fmt: skip
        meet_outlines(solids, passing, movers.solid_items, first, last, contacts, body.height, path, hit)
    bring(solids, rest, movers.solid_start, movers.solid_items, number, pose.x, pose.y)
    if not hit.t <= 1.0:
        return NOT_CRUSHED
    outline, feature, nx, ny, radius = hit.outline, hit.feature, hit.nx, hit.ny, hit.radius
    piece = movers.movers[number].piece
    now = begin + hit.t * (end - begin)
    depth = (1.0 - hit.t) * (dx * nx + dy * ny)
    if depth <= 0.0:
        return NOT_CRUSHED
    yields = press_aside(solids, walls, passing, body, player, probe, path, hit, number, nx, ny, depth)
    for _ in range(MOST_PUSHES):
        over = overlap(movers, solids, passing, body, player, number)
        if over < 0 or not yields:
            break
        # Another part of it, or a corner that turned on the way, is left by the nearest side.
        depth, feature, nx, ny = way_out(solids.outlines[over], solids.faces, player)
        outline, radius = over, 0.0
        yields = press_aside(solids, walls, passing, body, player, probe, path, hit, number, nx, ny, depth)
    if not yields or overlap(movers, solids, passing, body, player, number) >= 0:
        if is_one_way(solids.outlines[outline]):
            # There is no room over it: it is passed through.
            return NOT_CRUSHED
        write(journal, player, CRUSH, now, piece, math.nan, 0.0)
        return now
    hit.outline, hit.feature, hit.nx, hit.ny, hit.radius = outline, feature, nx, ny, radius
    settle(solids, walls, player, hit)
    keep(contacts, player, hit, piece)
    speed = pose.vx * nx + pose.vy * ny
    into = (player.vx + player.frame_vx) * nx + (player.vy + player.frame_vy) * ny
    touch(touched, player, journal, piece, now, max(speed - into, 0.0))
    if floor is None and player.stance != CLIMBING and is_ground(world, player, nx, ny):
        _stand(player, journal, piece, outline, now, speed - into)
        if speed > into:
            player.vx += (speed - into) * nx
            player.vy += (speed - into) * ny
    else:
        # It is pushed, not thrown: it stays at rest, but where it is.
        into = player.vx * nx + player.vy * ny
        if into < 0.0:
            player.vx -= into * nx
            player.vy -= into * ny
    return NOT_CRUSHED


@leaf
def _stand(player: Any, journal: Any, piece: int, outline: int, now: float, speed: float) -> None:
    """Stand on what came up from below."""
    height = player.x * player.up_x + player.y * player.up_y
    if player.stance == AIR:
        write(journal, player, LAND, now, piece, max(player.peak - height, 0.0), max(speed, 0.0))
    player.stance = GROUND
    player.ground = outline
    player.base = height
    player.peak = height


@leaf
def _check_contacts(solids: Any, walls: Any, body: Any, player: Any, contacts: Any) -> None:
    """Drop the contacts that the body, or what it touched, has been moved away from."""
    index = 0
    while index < player.contacts:
        contact = contacts[index]
        if contact.outline < 0:
            wall = walls[-1 - contact.outline]
            gap = wall.nx * player.x + wall.ny * player.y - wall.offset
        elif contact.feature >= 0:
            face = solids.faces[contact.feature]
            radius = solids.outlines[contact.outline].radius
            gap = face.nx * (player.x - face.x) + face.ny * (player.y - face.y) - radius
        else:
            corner = solids.faces[-1 - contact.feature]
            dx, dy = player.x - corner.x, player.y - corner.y
            distance = math.sqrt(dx * dx + dy * dy)
            gap = distance - solids.outlines[contact.outline].radius
            contact.nx, contact.ny = dx / distance, dy / distance
        if abs(gap) > PARTED * body.height:
            drop(contacts, player, index)
        else:
            index += 1


@leaf
def _feel_zones(
    zones: Any, inside: Any, visits: Any, passing: Any, moving: Any, player: Any, journal: Any, height: float,
    now: float, has_moved: bool,
) -> None:  # fmt: skip
    """Enter and leave the zones that have moved; all of them where the body was moved."""
    for index in range(zones.outlines.shape[0]):
        outline = zones.outlines[index]
        if outline.mover < 0 and not has_moved:
            continue
        if inside[index] == 0 and (
            player.x < outline.x0 or player.x > outline.x1 or player.y < outline.y0 or player.y > outline.y1
        ):
            continue
        is_in = depth_in(outline, zones.faces, player.x, player.y) > DEPTH * height
        if is_in != (inside[index] != 0):
            set_inside(zones, index, is_in, inside, visits, player, journal, now, player.x, player.y)
            if outline.twin >= 0:
                # A one-way mover is passed at the velocity relative to it.
                vx, vy = player.vx + player.frame_vx, player.vy + player.frame_vy
                if outline.mover >= 0:
                    vx, vy = vx - moving[outline.mover].vx, vy - moving[outline.mover].vy
                say_pass(outline, is_in, passing, player, journal, now, player.x, player.y, vx, vy)
