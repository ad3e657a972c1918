"""Movers: their poses in closed form, the body that they carry, and the one that is in their way.

At the start of a tick every mover goes to its pose at the tick's end. The one that the body stands on carries it; each
other one is swept against the body at rest and pushes it along the normal of what it meets. While it stands on a mover,
the body's velocity is the one relative to that mover.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiled import constant, leaf
from haptos.engine.contacts import drop, is_ground, keep, settle, touch
from haptos.engine.edges import begin_again
from haptos.engine.impact import SHALLOW, TOUCHING, first_impact, is_one_way, meet_outlines, set_path
from haptos.engine.journal import ALIGHT, BOARD, CRUSH, LAND, write
from haptos.engine.state import AIR, CLIMBING, GROUND, NO_MOVER, SKIPS_NOTHING
from haptos.engine.zones import DEPTH, depth_in, set_inside

# Walls that a shoved body slides along, at most; and overlaps that one mover can push it out of.
MOST_SLIDES = 4
MOST_PUSHES = 4
# Along a surface that gives way less than this share, as a wall, nobody is pushed aside.
LEAST_YIELD = 0.1
NOT_CRUSHED = -1.0
# What is farther than this from what it touched, as a share of the body's height, has parted from it.
PARTED = 10.0 * TOUCHING
NOBODY = constant(NO_MOVER)


@leaf
def pose_at(mover: Any, legs: Any, t: float, pose: Any) -> None:
    """Write where a mover is at a time, relative to where it is placed, and its velocity."""
    clock = t + mover.start
    if mover.period < math.inf:
        clock %= mover.period
    last = mover.first_leg + mover.legs - 1
    index = mover.first_leg
    while index < last and legs[index + 1].begin <= clock:
        index += 1
    leg = legs[index]
    going = clock - leg.begin - leg.pause
    share, rate = 0.0, 0.0
    if going >= leg.duration:
        share = 1.0
    elif going >= 0.0:
        share, rate = going / leg.duration, 1.0 / leg.duration
        if mover.ease:
            rate *= 6.0 * share * (1.0 - share)
            share *= share * (3.0 - 2.0 * share)
    pose.x, pose.y = leg.x + share * leg.dx, leg.y + share * leg.dy
    pose.vx, pose.vy = rate * leg.dx, rate * leg.dy
    pose.t = t


@leaf
def bring(obstacles: Any, rest: Any, start: Any, items: Any, number: int, x: float, y: float) -> None:
    """Put the outlines of one mover where they are at an offset from rest."""
    for item in range(start[number], start[number + 1]):
        outline = obstacles.outlines[items[item]]
        placed = rest.outlines[items[item]]
        outline.x0, outline.x1 = placed.x0 + x, placed.x1 + x
        outline.y0, outline.y1 = placed.y0 + y, placed.y1 + y
        for f in range(outline.first, outline.first + outline.count):
            obstacles.faces[f].x = rest.faces[f].x + x
            obstacles.faces[f].y = rest.faces[f].y + y


@leaf
def begin_movers(movers: Any, rest: Any, solids: Any, rest_zones: Any, zones: Any, moving: Any, now: float) -> None:
    """Put every mover where it is at a time, as when the run begins or the body is put somewhere."""
    if movers is None:
        return
    for number in range(movers.movers.shape[0]):
        pose = moving[number]
        pose_at(movers.movers[number], movers.legs, now, pose)
        bring(solids, rest, movers.solid_start, movers.solid_items, number, pose.x, pose.y)
        bring(zones, rest_zones, movers.zone_start, movers.zone_items, number, pose.x, pose.y)


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
        _feel_zones(movers, zones, inside, visits, player, journal, body.height, begin, player.x != x or player.y != y)


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
    if _shove(solids, walls, passing, body, player, probe, path, hit, number, x - player.x, y - player.y):
        player.x, player.y = x, y
        player.carried_x, player.carried_y = x, y
        return False
    return _overlap(movers, solids, passing, body, player, number) >= 0


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
    yields = _yield(solids, walls, passing, body, player, probe, path, hit, number, nx, ny, depth)
    for _ in range(MOST_PUSHES):
        over = _overlap(movers, solids, passing, body, player, number)
        if over < 0 or not yields:
            break
        # Another part of it, or a corner that turned on the way, is left by the nearest side.
        depth, feature, nx, ny = _way_out(solids.outlines[over], solids.faces, player)
        outline, radius = over, 0.0
        yields = _yield(solids, walls, passing, body, player, probe, path, hit, number, nx, ny, depth)
    if not yields or _overlap(movers, solids, passing, body, player, number) >= 0:
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
def _shove(
    solids: Any, walls: Any, passing: Any, body: Any, player: Any, probe: Any, path: Any, hit: Any, skipped: int,
    dx: float, dy: float,
) -> bool:  # fmt: skip
    """Move the body, sliding along what is in the way; return whether nothing was. The mover that shoves is skipped."""
    path.skip = skipped
    is_free = True
    kept = 0
    for _ in range(MOST_SLIDES):
        set_path(path, player.x, player.y, dx, dy, 0.0, 0.0, 1.0)
        first_impact(solids, passing, walls, probe, kept, body.height, path, hit)
        if not hit.t <= 1.0:
            player.x += dx
            player.y += dy
            break
        is_free = False
        kept = _slide_on(probe, hit)
        player.x += hit.t * dx
        player.y += hit.t * dy
        into = dx * hit.nx + dy * hit.ny
        dx, dy = (1.0 - hit.t) * (dx - into * hit.nx), (1.0 - hit.t) * (dy - into * hit.ny)
    path.skip = SKIPS_NOTHING
    return is_free


@leaf
def _slide_on(probe: Any, hit: Any) -> int:
    """Take what was hit for touched, as the motion goes on along it; return how many that makes."""
    probe[0].outline, probe[0].nx, probe[0].ny = hit.outline, hit.nx, hit.ny
    return 1


@leaf
def _yield(
    solids: Any, walls: Any, passing: Any, body: Any, player: Any, probe: Any, path: Any, hit: Any, skipped: int,
    nx: float, ny: float, depth: float,
) -> bool:  # fmt: skip
    """Move the body by a depth along a normal, along slopes that are in the way; return whether it could."""
    path.skip = skipped
    dx, dy = depth * nx, depth * ny
    could = False
    kept = 0
    for _ in range(MOST_SLIDES):
        set_path(path, player.x, player.y, dx, dy, 0.0, 0.0, 1.0)
        first_impact(solids, passing, walls, probe, kept, body.height, path, hit)
        if not hit.t <= 1.0:
            player.x += dx
            player.y += dy
            could = True
            break
        player.x += hit.t * dx
        player.y += hit.t * dy
        depth -= hit.t * (dx * nx + dy * ny)
        if depth <= SHALLOW * body.height:
            could = True
            break
        kept = _slide_on(probe, hit)
        # Along what is in the way, as far as it takes to make up the depth.
        tx, ty = -hit.ny, hit.nx
        ahead = tx * nx + ty * ny
        if abs(ahead) < LEAST_YIELD:
            break
        dx, dy = depth / ahead * tx, depth / ahead * ty
    path.skip = SKIPS_NOTHING
    return could


@leaf
def _overlap(movers: Any, solids: Any, passing: Any, body: Any, player: Any, number: int) -> int:
    """Return an outline of a mover that the body is in, -1 for none; one-way ones are passed through instead."""
    for item in range(movers.solid_start[number], movers.solid_start[number + 1]):
        index = movers.solid_items[item]
        outline = solids.outlines[index]
        if not is_one_way(outline):
            if depth_in(outline, solids.faces, player.x, player.y) > SHALLOW * body.height:
                return index
    return -1


@leaf
def _way_out(outline: Any, faces: Any, player: Any) -> tuple[float, int, float, float]:
    """Return the shortest way out of an outline through one of its faces: how far, which, and the normal."""
    best = -math.inf
    which = outline.first
    for f in range(outline.first, outline.first + outline.count):
        face = faces[f]
        gap = face.nx * (player.x - face.x) + face.ny * (player.y - face.y) - outline.radius
        if gap > best:
            best, which = gap, f
    return max(-best, 0.0), which, faces[which].nx, faces[which].ny


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
    movers: Any, zones: Any, inside: Any, visits: Any, player: Any, journal: Any, height: float, now: float,
    has_moved: bool,
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
