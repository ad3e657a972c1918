"""How far a segment may go before the body can meet what does not go straight on: it is stepped to, not solved for.

Seen from a face that moves and turns, the gap d to the body obeys d(t + s) >= d + s d' - s² A / 2, with A no less than
the accelerations of both together: until that is used up, nothing is met [1]_. Near a contact the steps shrink as those
of Newton's method do.

References
----------
.. [1] B. Mirtich, "Impulse-based dynamic simulation of rigid body systems", PhD thesis, Berkeley (1996).
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.features import nearest_feature, touched_point
from haptos.engine.collision.grid import visit_cells
from haptos.engine.collision.impact import DEEP, SHALLOW, TOUCHING, is_kept, is_on_side, is_one_way, is_passed
from haptos.engine.collision.poses import point_velocity
from haptos.engine.collision.roots import falls_at
from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.admissible import falls_away
from haptos.engine.player.controls import BRAKED, NEARING
from haptos.engine.player.frames import carried_velocity
from haptos.engine.player.touching import BEHIND

# The shortest step, as a share of a tick, so that there is room for all of them, and twice; in it the body goes no
# deeper into anything than a share of what is mended.
SHORTEST = 1.0 / 128.0
SHALLOW_STEP = 0.25
# What is held on to is followed in steps on which it turns or speeds up by no more than a share of what is mended.
HELD_STEP = 0.1


@leaf
def limit_at_nearing(core: Any, movers: Any, moving: Any, near: Any) -> None:
    """End the segment before the body can meet anything that does not go straight on, as seen from its own path."""
    solids, player, segment, contacts = core.solids, core.player, core.segment, core.contacts
    if movers is None:
        return
    core.segment.carried_vx, core.segment.carried_vy = carried_velocity(core.body, player, moving)
    if player.near == 0:
        # Nothing that moves can be touched.
        return
    frame_accel, steady = 0.0, True
    if player.frame >= 0:
        steady = moving[player.frame].steady != 0
        if not steady:
            # What the body does on a frame that turns is turned along.
            frame_accel = movers.movers[player.frame].accel
            frame_accel += 2.0 * abs(moving[player.frame].spin) * math.sqrt(square(player.vx) + square(player.vy))
    pace = math.sqrt(square(player.vx + core.segment.carried_vx) + square(player.vy + core.segment.carried_vy))
    pace += segment.limit * (math.sqrt(square(segment.ax) + square(segment.ay)) + frame_accel)
    for index in range(player.contacts):
        if index != segment.arc:
            _limit_at_held(core, movers, moving, contacts[index], steady, frame_accel)
    least = min(SHORTEST * core.world.dt, segment.rest)
    if segment.reason == BRAKED and segment.limit < least and not _is_steady(core, moving, steady):
        # What it slides along changes its speed in each step by more than is left to brake.
        segment.limit, segment.reason = least, NEARING
    for place in range(player.near):
        number = near[place]
        pose = moving[number]
        if (pose.steady and steady) or not pose.here:
            continue
        if number == player.frame and not movers.movers[number].revolves:
            continue
        mover = movers.movers[number]
        # Nothing is met that is farther away than both can go.
        flies = moving[mover.assembly]
        flying = math.sqrt(square(flies.fly_vx) + square(flies.fly_vy))
        reach = segment.limit * (pace + mover.fastest + flying + segment.limit * mover.accel)
        for item in range(mover.solid, mover.zone):
            index = movers.items[item].outline
            outline = solids.outlines[index]
            if player.x < outline.x0 - reach or player.x > outline.x1 + reach:
                continue
            if player.y < outline.y0 - reach or player.y > outline.y1 + reach:
                continue
            _limit_at(core, movers, moving, index, item, number, frame_accel)
    if steady:
        return
    body = core.body
    reach = body.height + segment.limit * (
        math.sqrt(square(player.vx + core.segment.carried_vx) + square(player.vy + core.segment.carried_vy))
        + segment.limit * frame_accel
    )
    for number in range(core.walls.shape[0]):
        wall = core.walls[number]
        if not is_kept(contacts, player.contacts, -1 - number):
            gap = wall.nx * player.x + wall.ny * player.y - wall.offset
            if gap < -BEHIND * body.height:
                continue
            _limit_by(core, gap, wall.nx, wall.ny, 0.0, 0.0, frame_accel)
    x0, x1, y0, y1 = player.x - reach, player.x + reach, player.y - reach, player.y + reach
    visit_cells(solids, x0, x1, y0, y1, _limit_at_still, (core, movers, moving, frame_accel))


@leaf
def _is_steady(core: Any, moving: Any, steady: bool) -> bool:
    """Whether all that is held on to goes straight on."""
    for index in range(core.player.contacts):
        contact = core.contacts[index]
        if contact.held and contact.outline >= 0:
            number = core.solids.outlines[contact.outline].mover
            if number >= 0:
                steady = steady and moving[number].steady != 0
    return steady


@leaf
def _limit_at_still(scene: Any, index: int) -> None:
    """End the segment before the body, which does not go straight on, can meet an outline that stays."""
    core, movers, moving, frame_accel = scene
    _limit_at(core, movers, moving, index, -1, -1, frame_accel)


@leaf
def _limit_at_held(core: Any, movers: Any, moving: Any, contact: Any, steady: bool, frame_accel: float) -> None:
    """Follow what is held, or left so slowly that it is not looked for, and turns or speeds up, in short steps."""
    if not (contact.held or contact.skipped) or contact.outline < 0 or contact.outline == core.player.ground:
        return
    number = core.solids.outlines[contact.outline].mover
    accel = frame_accel
    if core.segment.arc >= 0:
        # Round its ground the body goes in a bend.
        accel += falls_away(core.player, core.contacts[core.segment.arc])
        steady = False
    if number >= 0 and not moving[number].steady:
        accel += movers.movers[number].accel
    if accel > 0.0 and not (steady and number < 0):
        _end_within(core, math.sqrt(2.0 * HELD_STEP * DEEP * core.body.height / accel))
    if contact.radius > 0.0 and (number < 0 or number != core.player.frame):
        # It presses with another side as it passes: the gap changes by 3 v a / R, a being both that of the body and
        # that with which what is round falls away.
        away, segment = falls_away(core.player, contact), core.segment
        pull = away + math.sqrt(segment.ax * segment.ax + segment.ay * segment.ay)
        change = 3.0 * pull * math.sqrt(away / contact.radius)
        if change > 0.0:
            _end_within(core, (6.0 * HELD_STEP * DEEP * core.body.height / change) ** (1.0 / 3.0))


@leaf
def _end_within(core: Any, step: float) -> None:
    """End the segment after a step, but not after less than the shortest."""
    segment = core.segment
    step = max(step, SHORTEST * core.world.dt)
    if step < segment.limit:
        segment.limit, segment.reason = step, NEARING


@leaf
def _limit_at(core: Any, movers: Any, moving: Any, index: int, item: int, number: int, frame_accel: float) -> None:
    """End the segment before the body can meet an outline."""
    solids, player, contacts, passing = core.solids, core.player, core.contacts, core.passing
    outline = solids.outlines[index]
    if outline.x0 > outline.x1 or is_kept(contacts, player.contacts, index):
        return
    one_way = is_one_way(outline)
    if is_passed(passing, outline, index):
        return
    gap, feature, nx, ny = nearest_feature(outline, solids.faces, player.x, player.y)
    if gap < -DEEP * core.body.height or (one_way and not is_on_side(nx, ny, outline.side_x, outline.side_y)):
        return
    if number < 0:
        _limit_by(core, gap, nx, ny, 0.0, 0.0, frame_accel)
        return
    mover, pose = movers.movers[number], moving[number]
    accel = frame_accel + (0.0 if pose.steady else mover.accel)
    if not mover.revolves:
        _limit_by(core, gap, nx, ny, pose.vx, pose.vy, accel)
        return
    if feature >= 0:
        if solids.faces[feature].turns:
            # The line through its side turns along, and parts both: the body comes to that where it is nearest.
            x, y = touched_point(movers, core.body, player, number, index, nx, ny, pose)
            vx, vy = point_velocity(mover, pose, x, y)
            wx, wy = player.vx + core.segment.carried_vx - vx, player.vy + core.segment.carried_vy - vy
            accel += 2.0 * abs(pose.spin) * math.sqrt(wx * wx + wy * wy)
            _limit_by(core, gap, nx, ny, vx, vy, accel)
            return
    # Each corner of what turns comes at its own speed; along the normal, none is nearer than the gap.
    row = movers.items[item]
    x, y = mover.x + pose.x, mover.y + pose.y
    top = -math.inf
    for place in range(row.first, row.first + row.count):
        corner = movers.corners[place]
        cx = pose.scale * (corner.x * pose.cosine - corner.y * pose.sine)
        cy = pose.scale * (corner.x * pose.sine + corner.y * pose.cosine)
        top = max(top, nx * cx + ny * cy)
    for place in range(row.first, row.first + row.count):
        corner = movers.corners[place]
        cx = pose.scale * (corner.x * pose.cosine - corner.y * pose.sine)
        cy = pose.scale * (corner.x * pose.sine + corner.y * pose.cosine)
        vx, vy = point_velocity(mover, pose, x + cx, y + cy)
        _limit_by(core, gap + top - (nx * cx + ny * cy), nx, ny, vx, vy, accel)


@leaf
def _limit_by(core: Any, gap: float, nx: float, ny: float, ux: float, uy: float, accel: float) -> None:
    """End the segment before a gap along a normal can close, to what has a velocity there."""
    player, segment = core.player, core.segment
    speed = nx * (player.vx + core.segment.carried_vx - ux) + ny * (player.vy + core.segment.carried_vy - uy)
    pull = accel + max(-(segment.ax * nx + segment.ay * ny), 0.0)
    step = falls_at(max(gap - TOUCHING * core.body.height * 0.5, 0.0), speed, -pull)
    least = SHORTEST * core.world.dt
    if speed < 0.0:
        least = min(least, SHALLOW_STEP * SHALLOW * core.body.height / -speed)
    step = max(step, least)
    if step < segment.limit:
        segment.limit, segment.reason = step, NEARING
