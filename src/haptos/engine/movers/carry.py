"""Movers in a tick: the body that one carries, and the one that is in their way.

At the start of a tick every mover goes to its pose at the tick's end. The one that the body stands on, or is carried
in, takes it along; each other one is swept against the body at rest and pushes it along the normal of what it meets.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.features import TURNS, foot_on_face, nearest_feature
from haptos.engine.collision.moving_outlines import bring_felt, bring_solids
from haptos.engine.collision.poses import is_there, point_velocity, pose_at, remember_pose
from haptos.engine.collision.zones import DEPTH, depth_in, say_pass, set_inside
from haptos.engine.compiling.contract import leaf
from haptos.engine.movers.displacement import overlap, shove
from haptos.engine.movers.pushes import NOT_CRUSHED, PARTED, crush, make_room, push
from haptos.engine.pieces.crumbling import is_due, pass_time
from haptos.engine.player.frames import take_place
from haptos.engine.player.kept_contacts import drop
from haptos.engine.player.regions import survey_effect, survey_effects
from haptos.engine.player.world_edges import begin_again


@leaf
def advance_movers(
    core: Any,
    felt: Any,
    movers: Any,
    floor: Any,
    effects: Any,
    moving: Any,
    near: Any,
    rule_states: Any,
    begin: float,
    end: float,
) -> None:
    """Bring every mover to its pose at the end of the tick, and the body along or out of the way."""
    zones, fields, within, occupied = felt.zones, felt.fields, felt.within, felt.occupied
    world, body, solids, player, journal = core.world, core.body, core.solids, core.player, core.journal
    if movers is None:
        return
    for place in range(movers.timed.shape[0]):
        number = movers.timed[place]
        _keep_time(movers, world, solids, body, player, moving, rule_states, journal, number, end)
    player.near = 0
    crushed_at = NOT_CRUSHED
    ridden = player.frame
    x, y = player.x, player.y
    reach = _reach(movers, body, world, player, end - begin)
    if ridden >= 0:
        remember_pose(moving[ridden])
        near[player.near] = ridden
        player.near += 1
        if _ride(core, movers, moving, ridden, end):
            crushed_at = crush(body, player, moving, journal, player.rides_piece, ridden, begin)
    for number in range(movers.movers.shape[0]):
        mover, pose = movers.movers[number], moving[number]
        if mover.still:
            # It is grown anew where the body turns, and does nothing else.
            continue
        if number != ridden:
            if not is_there(pose) and not pose.here and pose.t >= 0.0:
                # It was brought out of the world before, and stays there.
                continue
            if _is_far(mover, player, reach):
                continue
            near[player.near] = number
            player.near += 1
            if pose.t != begin:
                # It was far away until now.
                pose_at(movers, world, moving, number, begin)
                bring_solids(movers, moving, number, solids)
            remember_pose(pose)
            if crushed_at < 0.0 and pose.here and not pose.passed:
                crushed_at = push(core, movers, floor, moving, number, begin, end)
            else:
                pose_at(movers, world, moving, number, end)
                bring_solids(movers, moving, number, solids)
            if pose.passed:
                _clear(movers, solids, body, player, moving, number)
        bring_felt(movers, moving, number, zones, effects)
    _check_contacts(movers, solids, core.walls, body, player, core.contacts)
    if crushed_at >= 0.0:
        begin_again(core, felt, floor, crushed_at)
    else:
        player.shift_vx, player.shift_vy = (player.x - x) / (end - begin), (player.y - y) / (end - begin)
        has_moved = player.x != x or player.y != y
        _update_zones(core, felt, movers, zones, moving, body.height, begin, has_moved)
    if effects is not None:
        if player.x != x or player.y != y:
            survey_effects(effects, fields, player, within, occupied, body.height)
        else:
            for place in range(player.near):
                number = near[place]
                for item in range(movers.movers[number].effect, movers.movers[number].end):
                    index = movers.items[item].outline
                    survey_effect(effects, fields, player, within, occupied, body.height, index)


@leaf
def leave_movers(core: Any, movers: Any, moving: Any, near: Any, end: float) -> None:
    """Press the body, after its own motion, out of what it did not get away from as fast as it set out to."""
    player = core.player
    if movers is None:
        return
    for place in range(player.near):
        number = near[place]
        pose = moving[number]
        if pose.t == end and pose.here and not pose.passed:
            make_room(core, movers, moving, number)


@leaf
def _keep_time(
    movers: Any,
    world: Any,
    solids: Any,
    body: Any,
    player: Any,
    moving: Any,
    rule_states: Any,
    journal: Any,
    number: int,
    end: float,
) -> None:
    """Do what is due for a mover in this tick; let a route begin whose rule has fired."""
    pose = moving[number]
    if is_due(pose.due, end, world.dt):
        pass_time(movers, world, solids, body, player, moving, journal, number, end)
    if pose.clock == math.inf:
        rule = movers.movers[number].rule
        if rule >= 0:
            # A rule that has switched it off and on itself is not waited for again.
            if rule_states[rule].acted and pose.ran == 0.0:
                pose.clock = rule_states[rule].first


@leaf
def _reach(movers: Any, body: Any, world: Any, player: Any, dt: float) -> float:
    """Return how far the body can be from a mover that it meets in this tick."""
    speed = math.sqrt(player.vx * player.vx + player.vy * player.vy) + movers.fastest
    speed += math.sqrt(player.frame_vx * player.frame_vx + player.frame_vy * player.frame_vy)
    return body.height + (speed + world.weight * dt) * dt


@leaf
def _is_far(mover: Any, player: Any, reach: float) -> bool:
    """Whether the body can't meet a mover in this tick, where it is or where it would start again."""
    if player.x + reach >= mover.x0 and player.x - reach <= mover.x1:
        if player.y + reach >= mover.y0 and player.y - reach <= mover.y1:
            return False
    if player.home_x + reach >= mover.x0 and player.home_x - reach <= mover.x1:
        return player.home_y + reach < mover.y0 or player.home_y - reach > mover.y1
    return True


@leaf
def _ride(core: Any, movers: Any, moving: Any, number: int, end: float) -> bool:
    """Carry the body along with what it stands on or is in; return whether it is squeezed by it.

    The body's place on the mover is worked out anew only after it has moved by itself, so that nothing accumulates.
    """
    player = core.player
    mover, pose = movers.movers[number], moving[number]
    if not pose.here:
        return False
    if player.x != player.carried_x or player.y != player.carried_y:
        take_place(movers, moving, player)
    cosine, sine = pose.cosine, pose.sine
    pose_at(movers, core.world, moving, number, end)
    bring_solids(movers, moving, number, core.solids)
    if mover.turning:
        x = mover.x + pose.x + player.local_x * pose.cosine - player.local_y * pose.sine
        y = mover.y + pose.y + player.local_x * pose.sine + player.local_y * pose.cosine
        player.frame_vx, player.frame_vy = point_velocity(mover, pose, x, y)
        if player.foot_turns == TURNS:
            nx = player.local_nx * pose.cosine - player.local_ny * pose.sine
            ny = player.local_nx * pose.sine + player.local_ny * pose.cosine
            player.foot_x, player.foot_y = foot_on_face(core.body, player, nx, ny)
            player.foot_nx, player.foot_ny = nx, ny
            # What it does on the mover turns along.
            turn_x, turn_y = pose.cosine * cosine + pose.sine * sine, pose.sine * cosine - pose.cosine * sine
            vx, vy = player.vx, player.vy
            player.vx, player.vy = vx * turn_x - vy * turn_y, vx * turn_y + vy * turn_x
        x, y = x + player.foot_x, y + player.foot_y
    else:
        x, y = player.local_x + pose.x, player.local_y + pose.y
        player.frame_vx, player.frame_vy = pose.vx, pose.vy
    if x == player.x and y == player.y:
        return False
    if shove(core, mover.assembly, x - player.x, y - player.y):
        player.x, player.y = x, y
        player.carried_x, player.carried_y = x, y
        if not mover.turning:
            return False
    return not make_room(core, movers, moving, number)


@leaf
def _clear(movers: Any, solids: Any, body: Any, player: Any, moving: Any, number: int) -> None:
    """Let a mover that was passed through after a crush be solid again once the body is clear of it."""
    if overlap(movers, solids, body, player, number) < 0:
        moving[number].passed = 0


@leaf
def _check_contacts(movers: Any, solids: Any, walls: Any, body: Any, player: Any, contacts: Any) -> None:
    """Drop the contacts that the body, or what it touched, has been moved away from; follow what has turned."""
    index = 0
    while index < player.contacts:
        contact = contacts[index]
        if contact.outline < 0:
            wall = walls[-1 - contact.outline]
            gap = wall.nx * player.x + wall.ny * player.y - wall.offset
        else:
            outline = solids.outlines[contact.outline]
            if outline.x0 > outline.x1:
                gap = math.inf
            elif outline.mover >= 0 and movers.movers[outline.mover].turning:
                gap, feature, nx, ny = nearest_feature(outline, solids.faces, player.x, player.y)
                contact.feature, contact.nx, contact.ny = feature, nx, ny
                contact.radius = outline.radius if feature < 0 else 0.0
            elif contact.feature >= 0:
                face = solids.faces[contact.feature]
                gap = face.nx * (player.x - face.x) + face.ny * (player.y - face.y) - outline.radius
            else:
                corner = solids.faces[-1 - contact.feature]
                dx, dy = player.x - corner.x, player.y - corner.y
                distance = math.sqrt(dx * dx + dy * dy)
                gap = distance - outline.radius
                contact.nx, contact.ny = dx / distance, dy / distance
        room = PARTED * body.height
        if player.shape > 0 and contact.outline == player.ground:
            # A body that turns is put down on its ground once it has turned.
            room = max(room, body.snap)
        if abs(gap) > room:
            drop(contacts, player, index)
        else:
            index += 1


@leaf
def _update_zones(
    core: Any, felt: Any, movers: Any, zones: Any, moving: Any, height: float, now: float, has_moved: bool
) -> None:
    """Leave the zones that are gone; enter and leave one-way pieces that have moved, all where the body was moved.

    Other zones are crossed on the way through the tick; see `sweep_zones`.
    """
    inside = felt.inside
    player, journal = core.player, core.journal
    if zones is None:
        return
    for index in range(zones.outlines.shape[0]):
        outline = zones.outlines[index]
        is_gone = outline.x0 > outline.x1
        if (outline.twin < 0 and not is_gone) or (outline.mover < 0 and not has_moved):
            continue
        if inside[index] == 0 and (
            player.x < outline.x0 or player.x > outline.x1 or player.y < outline.y0 or player.y > outline.y1
        ):
            continue
        is_in = not is_gone and depth_in(outline, zones.faces, player.x, player.y) > DEPTH * height
        if is_in != (inside[index] != 0):
            set_inside(felt, index, is_in, player, journal, now, player.x, player.y)
            if outline.twin >= 0:
                # A one-way mover is passed at the velocity relative to it.
                vx, vy = player.vx + player.frame_vx, player.vy + player.frame_vy
                if outline.mover >= 0:
                    mover = movers.movers[outline.mover]
                    ux, uy = point_velocity(mover, moving[outline.mover], player.x, player.y)
                    vx, vy = vx - ux, vy - uy
                say_pass(outline, is_in, core.passing, player, journal, now, player.x, player.y, vx, vy)
