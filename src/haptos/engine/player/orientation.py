"""The body's up, which turns after gravity: about its foot on the ground, about its middle in the air.

A body that is not round is another one for everything around it once it has turned: what is near is grown by it anew.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.features import foot_at, nearest_feature
from haptos.engine.collision.grid import look_anew, visit_outlines
from haptos.engine.collision.impact import SHALLOW, TOUCHING, is_one_way, is_passed
from haptos.engine.collision.moving_outlines import bring_felt, bring_solids
from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.kept_contacts import take_off
from haptos.engine.records.codes import AFAR, ATTRACTS_TO, GROUND, NO_PIECE, STALE
from haptos.engine.records.events import BLOCKED
from haptos.engine.records.journal import write

# Ups that are nearer than this (radians) are one.
SAME_UP = 1e-12
# What is farther than this from the body after it turned, as a share of its height, is no longer touched.
PARTED = 1e-3
# Where a body turns into something, it is moved out of that by no more than this share of its height for a radian.
MOST_ROOM = 0.6
# It turns by no more than this (radians) at once; in each step it moves by less than a share of its height.
MOST_TURN = 0.05
# What is left of a turn that is blocked is known to this angle.
LEAST_TURN = 1e-3
MOST_TRIES = 4


@leaf
def turn_upright(
    core: Any, is_played: Any, movers: Any, fields: Any, zones: Any, effects: Any, moving: Any, now: float
) -> None:
    """Turn the body's up toward the one that gravity wants, as fast as it may and as far as there is room.

    It turns about its foot where it stands; where it walks on a round world, about its middle, which goes at its speed.
    """
    world, body, solids, player = core.world, core.body, core.solids, core.player
    if is_played is None or movers is None:
        return
    if not world.turns:
        return
    ux, uy = player.up_x, player.up_y
    angle = math.atan2(ux * player.wanted_y - uy * player.wanted_x, ux * player.wanted_x + uy * player.wanted_y)
    most = body.turn_rate * world.dt
    angle = max(min(angle, most), -most)
    if abs(angle) > SAME_UP:
        x, y = player.x, player.y
        height = x * ux + y * uy
        peak, base = player.peak - height, player.base - height
        about_foot = player.stance == GROUND
        if player.gravity_source >= 0 and (player.vx != 0.0 or player.vy != 0.0):
            if fields[player.gravity_source].gravity == ATTRACTS_TO:
                about_foot = False
        left = _sweep(core, movers, zones, effects, moving, angle, about_foot)
        if left == 0.0:
            player.is_blocked = 0
        else:
            if player.is_blocked == 0:
                write(core.journal, player, BLOCKED, now, NO_PIECE, math.degrees(left), 0.0)
            player.is_blocked = 1
        height = player.x * player.up_x + player.y * player.up_y
        # The measure of a fall goes on.
        player.peak, player.base = height + peak, height + base
        player.tuned = STALE
    regrow(movers, body, solids, zones, effects, player, moving)
    _follow_contacts(core)


@leaf
def _sweep(core: Any, movers: Any, zones: Any, effects: Any, moving: Any, angle: float, about_foot: bool) -> float:
    """Turn the body as far as there is room, in steps so small that nothing is turned through; return what is left."""
    body, solids, walls, player, contacts = core.body, core.solids, core.walls, core.player, core.contacts
    left, step = angle, angle / (int(abs(angle) / MOST_TURN) + 1)
    while abs(left) > SAME_UP:
        x, y, ux, uy, vx, vy = player.x, player.y, player.up_x, player.up_y, player.vx, player.vy
        _turn_by(movers, body, walls, player, contacts, solids, step, about_foot)
        regrow(movers, body, solids, zones, effects, player, moving)
        if _find_room(core, MOST_ROOM * abs(step)):
            left -= step
            continue
        player.x, player.y, player.up_x, player.up_y, player.vx, player.vy = x, y, ux, uy, vx, vy
        reshape(movers, body, walls, player)
        regrow(movers, body, solids, zones, effects, player, moving)
        # It comes as near to what is in the way as it can.
        step *= 0.5
        if abs(step) < LEAST_TURN:
            return left
    return 0.0


@leaf
def _turn_by(
    movers: Any, body: Any, walls: Any, player: Any, contacts: Any, solids: Any, angle: float, about_foot: bool
) -> None:
    """Turn the up, and the middle about the foot if that is asked for."""
    cosine, sine = math.cos(angle), math.sin(angle)
    foot_x, foot_y = 0.0, 0.0
    if about_foot:
        for index in range(player.contacts):
            contact = contacts[index]
            if contact.outline == player.ground and contact.outline >= 0:
                foot_x, foot_y, _ = foot_at(
                    body,
                    player,
                    solids.outlines[contact.outline],
                    solids.faces,
                    contact.feature,
                    contact.nx,
                    contact.ny,
                )
                # A round foot rolls: it turns about its own middle.
                foot_x, foot_y = foot_x - body.radius * contact.nx, foot_y - body.radius * contact.ny
    player.x += foot_x * cosine - foot_y * sine - foot_x
    player.y += foot_x * sine + foot_y * cosine - foot_y
    ux, uy = player.up_x * cosine - player.up_y * sine, player.up_x * sine + player.up_y * cosine
    size = math.sqrt(ux * ux + uy * uy)
    player.up_x, player.up_y = ux / size, uy / size
    if player.stance == GROUND:
        # What it does on the ground turns along with it.
        vx, vy = player.vx, player.vy
        player.vx, player.vy = vx * cosine - vy * sine, vx * sine + vy * cosine
    reshape(movers, body, walls, player)


@leaf
def reshape(movers: Any, body: Any, walls: Any, player: Any) -> None:
    """Turn the core that everything is grown by, from its lowest corner on, and the reach to the walls."""
    if body.half_width == 0.0 and body.half_height == 0.0:
        return
    player.shape += 1
    sides = movers.sides
    rx, ry = player.up_y, -player.up_x
    lowest = 0
    low_x, low_y = math.inf, math.inf
    for index in range(sides):
        x, y = _corner(body, sides, index, rx, ry, player.up_x, player.up_y)
        if y < low_y - SHALLOW * body.height or (y < low_y + SHALLOW * body.height and x < low_x):
            lowest, low_x, low_y = index, x, y
    for index in range(sides):
        x, y = _corner(body, sides, (lowest + index) % sides, rx, ry, player.up_x, player.up_y)
        movers.corners[index].x, movers.corners[index].y = x, y
    for number in range(walls.shape[0]):
        wall = walls[number]
        across = abs(wall.nx * rx + wall.ny * ry) * body.half_width
        along = abs(wall.nx * player.up_x + wall.ny * player.up_y) * body.half_height
        wall.offset = wall.edge + across + along + body.radius


@leaf
def _corner(body: Any, sides: int, index: int, rx: float, ry: float, ux: float, uy: float) -> tuple[float, float]:
    """Return a corner of the core, counter-clockwise: of a box four, of a capsule its two ends."""
    across, along = body.half_width, body.half_height
    if sides == 2:
        sign = -1.0 if index == 0 else 1.0
        return sign * (across * rx + along * ux), sign * (across * ry + along * uy)
    if index == 0 or index == 3:
        across = -across
    if index == 0 or index == 1:
        along = -along
    return across * rx + along * ux, across * ry + along * uy


@leaf
def regrow(movers: Any, body: Any, solids: Any, zones: Any, effects: Any, player: Any, moving: Any) -> None:
    """Grow what is near by the body as it stands now."""
    reach = 2.0 * body.height + math.sqrt(player.vx * player.vx + player.vy * player.vy) / movers.ticks
    is_anew = False
    for number in range(movers.movers.shape[0]):
        mover, pose = movers.movers[number], moving[number]
        if pose.shape == player.shape or not mover.turning or (pose.placed == AFAR and not mover.still):
            continue
        if player.x + reach < mover.x0 or player.x - reach > mover.x1:
            continue
        if player.y + reach < mover.y0 or player.y - reach > mover.y1:
            continue
        bring_solids(movers, moving, number, solids)
        bring_felt(movers, moving, number, zones, effects)
        pose.shape = player.shape
        is_anew = True
    if is_anew:
        look_anew(solids)
        if zones is not None:
            look_anew(zones)
        if effects is not None:
            look_anew(effects)


@leaf
def _find_room(core: Any, most: float) -> bool:
    """Move a body that has turned out of what it has turned into, so far at most, in heights; return whether it is out.

    A floor that it only comes nearer to is left by no more than it turns.
    """
    body, player = core.body, core.player
    x, y = player.x, player.y
    for _ in range(MOST_TRIES):
        depth, nx, ny = _deepest(core)
        if depth <= SHALLOW * body.height:
            dx, dy = player.x - x, player.y - y
            return dx * dx + dy * dy <= square(most * body.height)
        player.x += depth * nx
        player.y += depth * ny
    return False


@leaf
def _deepest(core: Any) -> tuple[float, float, float]:
    """Return how deep the body is in anything solid, at the most, and which way out of it."""
    walls, player, hit = core.walls, core.player, core.hit
    hit.t, hit.nx, hit.ny = 0.0, 0.0, 0.0
    for number in range(walls.shape[0]):
        wall = walls[number]
        depth = wall.offset - (wall.nx * player.x + wall.ny * player.y)
        if depth > hit.t:
            hit.t, hit.nx, hit.ny = depth, wall.nx, wall.ny
    x, y = player.x, player.y
    visit_outlines(core.solids, x, x, y, y, _dig, (core.solids, core.passing, player, hit))
    return hit.t, hit.nx, hit.ny


@leaf
def _dig(scene: Any, index: int) -> None:
    """Note how deep the body is in an outline, if that is deeper."""
    solids, passing, player, hit = scene
    outline = solids.outlines[index]
    if is_one_way(outline) or is_passed(passing, outline, index):
        return
    gap, _, nx, ny = nearest_feature(outline, solids.faces, player.x, player.y)
    if -gap > hit.t:
        hit.t, hit.nx, hit.ny = -gap, nx, ny


@leaf
def _follow_contacts(core: Any) -> None:
    """Find anew what of each outline is touched; lie on the ground exactly; let go what is no longer there."""
    solids, walls, body, player, contacts = core.solids, core.walls, core.body, core.player, core.contacts
    index = 0
    while index < player.contacts:
        contact = contacts[index]
        if contact.outline < 0:
            wall = walls[-1 - contact.outline]
            gap, nx, ny = wall.nx * player.x + wall.ny * player.y - wall.offset, wall.nx, wall.ny
        else:
            outline = solids.outlines[contact.outline]
            gap, feature, nx, ny = nearest_feature(outline, solids.faces, player.x, player.y)
            contact.feature, contact.nx, contact.ny = feature, nx, ny
            contact.radius = outline.radius if feature < 0 else 0.0
        is_ground = contact.outline == player.ground and player.stance == GROUND
        # As on a dip in the ground, it is put down on what it stands on.
        if abs(gap) > (max(body.snap, PARTED * body.height) if is_ground else PARTED * body.height):
            take_off(contacts, player, index)
            continue
        if abs(gap) > TOUCHING * body.height and is_ground:
            x, y = player.x, player.y
            player.x, player.y = x - gap * nx, y - gap * ny
            depth, _, _ = _deepest(core)
            if depth > SHALLOW * body.height and gap > 0.0:
                # There is something else in the way.
                player.x, player.y = x, y
                if gap > PARTED * body.height:
                    take_off(contacts, player, index)
                    continue
        index += 1
