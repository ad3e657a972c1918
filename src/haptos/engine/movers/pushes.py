"""The body in the way of a mover: pushed aside, picked up, or squeezed."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.features import foot_at, nearest_feature
from haptos.engine.collision.impact import (
    SHALLOW,
    TOUCHING,
    first_impact,
    is_on_side,
    is_one_way,
    meet_outlines,
    set_path,
)
from haptos.engine.collision.moving_outlines import bring_solids
from haptos.engine.collision.poses import fastest_from, point_velocity, pose_at
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.movers.displacement import overlap, press_aside
from haptos.engine.pieces.crumbling import begin_crumbling
from haptos.engine.player.kept_contacts import is_ground, keep, project_to_contact, touch
from haptos.engine.records.codes import AIR, CLIMBING, GROUND, SKIPS_NOTHING
from haptos.engine.records.events import CRUSH, LAND
from haptos.engine.records.journal import write

# Overlaps that one mover can push a body out of, at most.
MOST_PUSHES = 4
NOT_CRUSHED = -1.0
NO_CONTACTS = constant(0)
# What is farther than this from what it touched, as a share of the body's height, has parted from it.
PARTED = 10.0 * TOUCHING
# A turning mover is stepped until it is this near, as a share of the body's height, then by so much at a time.
NEAR = 1e-6
STEP = 0.01
# Steps that bring a turning mover near, and steps of one in all.
MOST_APPROACHES = 64
MOST_STEPS = 100_000


@leaf
def push(core: Any, movers: Any, floor: Any, moving: Any, number: int, begin: float, end: float) -> float:
    """Bring one mover to its next pose and push the body out of its way; return when it is crushed, if it is."""
    body, solids, player, hit, journal = core.body, core.solids, core.player, core.hit, core.journal
    mover, pose = movers.movers[number], moving[number]
    if mover.turning:
        met = _turn_against(core, movers, moving, number, begin, end)
        yields = met >= 0.0 or met == math.inf
        met = abs(met)
    else:
        met, yields = _sweep_against(core, movers, moving, number, begin, end)
    if met == math.inf:
        return NOT_CRUSHED
    outline = solids.outlines[hit.outline]
    if not yields:
        if is_one_way(outline):
            # There is no room over it: it is passed through.
            return NOT_CRUSHED
        return crush(body, player, moving, journal, outline.piece, number, met)
    nx, ny = hit.nx, hit.ny
    gap, feature, mx, my = nearest_feature(outline, solids.faces, player.x, player.y)
    holds = abs(gap) <= SHALLOW * body.height
    if holds:
        # What turned may have parted from the body again; else this is the side that it lies on now.
        nx, ny = mx, my
        hit.feature, hit.nx, hit.ny = feature, mx, my
        hit.radius = outline.radius if feature < 0 else 0.0
        project_to_contact(solids, core.walls, player, hit)
        keep(core.contacts, player, hit, outline.piece)
    # Its velocity there is the one of the point that the body will stand on: see `enter_frame`.
    foot_x, foot_y, _ = foot_at(body, player, outline, solids.faces, feature, nx, ny)
    vx, vy = point_velocity(mover, pose, player.x - foot_x, player.y - foot_y)
    speed = vx * nx + vy * ny
    into = (player.vx + player.frame_vx) * nx + (player.vy + player.frame_vy) * ny
    touch(core.touched, player, journal, outline.piece, met, max(speed - into, 0.0))
    begin_crumbling(movers, moving, journal, player, number, nx, ny, outline.piece, met)
    if holds and floor is None and player.stance != CLIMBING and is_ground(core.world, player, nx, ny):
        _stand(player, journal, outline.piece, hit.outline, met, speed - into)
        if speed > into:
            player.vx += (speed - into) * nx
            player.vy += (speed - into) * ny
    else:
        # It is pushed, not thrown: it stays at but where it is.
        into = player.vx * nx + player.vy * ny
        if into < 0.0:
            player.vx -= into * nx
            player.vy -= into * ny
    return NOT_CRUSHED


@leaf
def _sweep_against(core: Any, movers: Any, moving: Any, number: int, begin: float, end: float) -> tuple[float, bool]:
    """Sweep a mover that does not turn against the body; return when it meets it, and whether that gets out of the way.

    What is met last, and how, is in `hit`.
    """
    body, solids, player, contacts, passing = core.body, core.solids, core.player, core.contacts, core.passing
    path, hit = core.path, core.hit
    mover, pose = movers.movers[number], moving[number]
    old_x, old_y = pose.x, pose.y
    pose_at(movers, core.world, moving, number, end)
    dx, dy = pose.x - old_x, pose.y - old_y
    if dx == 0.0 and dy == 0.0:
        return math.inf, True
    set_path(path, player.x, player.y, -dx, -dy, 0.0, 0.0, 1.0)
    meet_outlines(solids, passing, movers.items, mover.solid, mover.zone, contacts, body.height, path, hit)
    vx, vy = player.vx + player.frame_vx, player.vy + player.frame_vy
    if hit.t <= 1.0 and (vx - pose.vx) * hit.nx + (vy - pose.vy) * hit.ny > 0.0:
        # The body outruns it, as after a jump off it: only what catches up with its motion is in the way.
        dt = end - begin
        set_path(
            path,
            player.x,
            player.y,
            vx * dt - dx,
            vy * dt - dy,
            player.gravity_x * dt * dt,
            player.gravity_y * dt * dt,
            1.0,
        )
        meet_outlines(solids, passing, movers.items, mover.solid, mover.zone, contacts, body.height, path, hit)
    bring_solids(movers, moving, number, solids)
    if not hit.t <= 1.0:
        return math.inf, True
    outline, feature, nx, ny, radius = hit.outline, hit.feature, hit.nx, hit.ny, hit.radius
    met = begin + hit.t * (end - begin)
    depth = (1.0 - hit.t) * (dx * nx + dy * ny)
    if depth <= 0.0:
        return math.inf, True
    yields = press_aside(core, mover.assembly, nx, ny, depth)
    yields = yields and make_room(core, movers, moving, number)
    hit.outline, hit.feature, hit.nx, hit.ny, hit.radius = outline, feature, nx, ny, radius
    return met, yields


@leaf
def _turn_against(core: Any, movers: Any, moving: Any, number: int, begin: float, end: float) -> float:
    """Step a mover that turns, no farther than it is away, and press the body aside; return when it is met.

    That is below zero where the body can't get out of the way, and infinite where it is not met [1]_. What is met last,
    and how, is in `hit`.

    References
    ----------
    .. [1] B. Mirtich, "Impulse-based dynamic simulation of rigid body systems", PhD thesis, Berkeley (1996): steps of
       conservative advancement.
    """
    world, body, solids, player, hit = core.world, core.body, core.solids, core.player, core.hit
    mover, pose, flies = movers.movers[number], moving[number], moving[movers.movers[number].assembly]
    met = math.inf
    t = begin
    flies_at = math.sqrt(flies.fly_vx * flies.fly_vx + flies.fly_vy * flies.fly_vy)
    # Once the body is seen to fly away from the mover, its own way through the tick counts.
    flies_off = 0.0
    vx, vy = player.vx + player.frame_vx, player.vy + player.frame_vy
    for step in range(MOST_STEPS):
        if t >= end:
            break
        time = flies_off * (t - begin)
        x = player.x + time * (vx + 0.5 * player.gravity_x * time)
        y = player.y + time * (vy + 0.5 * player.gravity_y * time)
        room = _room(movers, solids, number, x, y)
        if room <= NEAR * body.height or step >= MOST_APPROACHES:
            room = max(room, STEP * body.height)
        fastest, lasts = fastest_from(movers, number, pose, t)
        speed = fastest + flies_at
        t = min(end, t + min(room / speed, lasts)) if speed > 0.0 else min(end, t + lasts)
        pose_at(movers, world, moving, number, t)
        bring_solids(movers, moving, number, solids)
        for _ in range(MOST_PUSHES):
            time = flies_off * (t - begin)
            x = player.x + time * (vx + 0.5 * player.gravity_x * time)
            y = player.y + time * (vy + 0.5 * player.gravity_y * time)
            over = _newly_in(movers, solids, core.passing, body, number, x, y)
            if over < 0:
                break
            outline = solids.outlines[over]
            gap, feature, nx, ny = nearest_feature(outline, solids.faces, x, y)
            if flies_off == 0.0 and met == math.inf and _outruns(core, movers, pose, number, nx, ny, end - begin):
                flies_off = 1.0
                flies_at += math.sqrt(vx * vx + vy * vy) + world.weight * (end - begin)
                continue
            met = min(met, t)
            yields = press_aside(core, mover.assembly, nx, ny, -gap)
            hit.outline, hit.feature, hit.nx, hit.ny = over, feature, nx, ny
            hit.radius = outline.radius if feature < 0 else 0.0
            if not yields:
                pose_at(movers, world, moving, number, end)
                bring_solids(movers, moving, number, solids)
                return -met
    if t < end:
        pose_at(movers, world, moving, number, end)
        bring_solids(movers, moving, number, solids)
    return met


@leaf
def _outruns(core: Any, movers: Any, pose: Any, number: int, nx: float, ny: float, dt: float) -> bool:
    """Whether a body in the air goes away from a mover faster than that comes, as after a jump off it, and freely."""
    body, player, path, hit = core.body, core.player, core.path, core.hit
    if player.stance != AIR:
        return False
    mover = movers.movers[number]
    ux, uy = point_velocity(mover, pose, player.x, player.y)
    vx, vy = player.vx + player.frame_vx, player.vy + player.frame_vy
    if (vx - ux) * nx + (vy - uy) * ny <= 0.0:
        return False
    path.skip = mover.assembly
    set_path(path, player.x, player.y, vx, vy, player.gravity_x, player.gravity_y, dt)
    first_impact(core.solids, core.passing, core.walls, core.probe, NO_CONTACTS, body.height, path, hit)
    path.skip = SKIPS_NOTHING
    return hit.t > dt


@leaf
def _room(movers: Any, solids: Any, number: int, x: float, y: float) -> float:
    """Return how far a point is from the outlines of a mover; zero in one."""
    room = math.inf
    mover = movers.movers[number]
    for item in range(mover.solid, mover.zone):
        gap, _, _, _ = nearest_feature(solids.outlines[movers.items[item].outline], solids.faces, x, y)
        room = min(room, gap)
    return max(room, 0.0)


@leaf
def _newly_in(movers: Any, solids: Any, passing: Any, body: Any, number: int, x: float, y: float) -> int:
    """Return an outline of a mover that a place is in, -1 for none; of one-way ones only where it has just come in."""
    mover = movers.movers[number]
    for item in range(mover.solid, mover.zone):
        index = movers.items[item].outline
        outline = solids.outlines[index]
        gap, _, nx, ny = nearest_feature(outline, solids.faces, x, y)
        if gap < -SHALLOW * body.height:
            if not is_one_way(outline):
                return index
            passes = passing[index] or passing[passing.shape[0] - 1]
            is_near = gap > -2.0 * STEP * body.height
            if not passes and is_near and is_on_side(nx, ny, outline.side_x, outline.side_y):
                return index
    return -1


@leaf
def _stand(player: Any, journal: Any, piece: int, outline: int, now: float, speed: float) -> None:
    """Stand on what came up from below."""
    height = player.x * player.up_x + player.y * player.up_y
    if player.stance == AIR:
        write(journal, player, LAND, now, piece, max(player.peak - height, 0.0), max(speed, 0.0))
    player.stance = GROUND
    player.ground = outline
    player.met_at = now
    player.base = height
    player.peak = height


@leaf
def crush(body: Any, player: Any, moving: Any, journal: Any, piece: int, number: int, now: float) -> float:
    """Say that the body is squeezed; it starts again, or passes through the mover, as the level says."""
    write(journal, player, CRUSH, now, piece, math.nan, 0.0)
    if not body.survives:
        return now
    moving[number].passed = 1
    return NOT_CRUSHED


@leaf
def make_room(core: Any, movers: Any, moving: Any, number: int) -> bool:
    """Press the body out of every part of a mover that it is in, by the nearest way; return whether it is out."""
    body, solids, player = core.body, core.solids, core.player
    if moving[number].passed or not moving[number].here:
        return True
    for _ in range(MOST_PUSHES):
        over = overlap(movers, solids, body, player, number)
        if over < 0:
            return True
        gap, _, nx, ny = nearest_feature(solids.outlines[over], solids.faces, player.x, player.y)
        if not press_aside(core, movers.movers[number].assembly, nx, ny, -gap):
            return False
    return overlap(movers, solids, body, player, number) < 0
