"""What carries the body takes it along, and what it is held to is followed, to the end of each segment."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.features import FIXED, ROLLS, feature_touched, foot_on_face
from haptos.engine.collision.impact import LEVEL
from haptos.engine.collision.poses import point_velocity
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.admissible import approach_speed
from haptos.engine.player.frames import frame_of, measure_contact, take_place
from haptos.engine.player.ground import load_on
from haptos.engine.player.kept_contacts import place_of
from haptos.engine.player.nearing import SHORTEST
from haptos.engine.player.settling import FOLLOWED, settle, way_to
from haptos.engine.records.codes import GROUND

# What gives way is followed up to so many times what the body and it gain in speed in that segment.
SLACK = 4.0


@leaf
def note_place(movers: Any, moving: Any, player: Any) -> None:
    """Note where the body is on what carries it, if it has moved by itself since: so nothing accumulates."""
    if movers is None:
        return
    if player.frame >= 0:
        if player.x != player.carried_x or player.y != player.carried_y:
            take_place(movers, moving, player)


@leaf
def carried_to(core: Any, movers: Any, moving: Any, dx: float, dy: float) -> tuple[float, float]:
    """Return where the body is once its mover has been brought to a later time, having gone a way of its own on it."""
    body, player = core.body, core.player
    if movers is None:
        return player.x + dx, player.y + dy
    if player.frame < 0:
        return player.x + dx, player.y + dy
    mover, pose = movers.movers[player.frame], moving[player.frame]
    if not mover.turning:
        x, y = player.local_x + pose.x, player.local_y + pose.y
        player.frame_vx, player.frame_vy = pose.vx, pose.vy
    else:
        x = mover.x + pose.x + player.local_x * pose.cosine - player.local_y * pose.sine
        y = mover.y + pose.y + player.local_x * pose.sine + player.local_y * pose.cosine
        player.frame_vx, player.frame_vy = point_velocity(mover, pose, x, y)
        if player.foot_turns != FIXED:
            nx = player.local_nx * pose.cosine - player.local_ny * pose.sine
            ny = player.local_nx * pose.sine + player.local_ny * pose.cosine
            if player.foot_turns == ROLLS:
                player.foot_x += body.radius * (nx - player.foot_nx)
                player.foot_y += body.radius * (ny - player.foot_ny)
            else:
                player.foot_x, player.foot_y = foot_on_face(body, player, nx, ny)
            player.foot_nx, player.foot_ny = nx, ny
            # What it does on the mover turns along.
            turn_x = pose.cosine * pose.old_cosine + pose.sine * pose.old_sine
            turn_y = pose.sine * pose.old_cosine - pose.cosine * pose.old_sine
            vx, vy = player.vx, player.vy
            player.vx, player.vy = vx * turn_x - vy * turn_y, vx * turn_y + vy * turn_x
            dx, dy = dx * turn_x - dy * turn_y, dx * turn_y + dy * turn_x
        x, y = x + player.foot_x, y + player.foot_y
    if dx == 0.0 and dy == 0.0:
        player.carried_x, player.carried_y = x, y
        return x, y
    player.carried_x, player.carried_y = math.nan, math.nan
    return x + dx, y + dy


@leaf
def turn_with(movers: Any, moving: Any, player: Any, segment: Any) -> None:
    """Turn where the arc round a corner has led along with the round piece that the body rides on."""
    if movers is None:
        return
    if player.frame >= 0 and player.foot_turns != FIXED:
        pose = moving[player.frame]
        turn_x = pose.cosine * pose.old_cosine + pose.sine * pose.old_sine
        turn_y = pose.sine * pose.old_cosine - pose.cosine * pose.old_sine
        nx, ny = segment.end_nx, segment.end_ny
        segment.end_nx, segment.end_ny = nx * turn_x - ny * turn_y, nx * turn_y + ny * turn_x


@leaf
def follow_held(core: Any, movers: Any, moving: Any, duration: float) -> None:
    """Lie exactly on what is held and does not go straight on, after a segment on which it turned or sped up.

    What the body presses on gives way no faster than that follows.
    """
    solids, player, contacts = core.solids, core.player, core.contacts
    if movers is None:
        return
    # Round a corner, what else is held is not slid along straight.
    frame_steady = core.segment.arc < 0
    if player.frame >= 0 and frame_steady:
        frame_steady = moving[player.frame].steady != 0
    followed, pressed = 0, -1
    for index in range(player.contacts):
        contact = contacts[index]
        number = frame_of(solids, contact.outline)
        if not contact.held or contact.outline < 0:
            continue
        outline = solids.outlines[contact.outline]
        if number >= 0 and number == player.frame and not movers.movers[number].revolves:
            continue
        # What is round and passes presses with another side.
        steady = frame_steady and (contact.radius <= 0.0 or (number >= 0 and number == player.frame))
        if number >= 0:
            steady = steady and moving[number].steady
        if steady or outline.x0 > outline.x1:
            continue
        gap, feature, nx, ny = feature_touched(outline, solids.faces, player.x, player.y)
        if abs(gap) <= FOLLOWED * core.body.height:
            # Of what stays, the corner at the very end of a face stays the one that is touched.
            if number >= 0 or nx * contact.nx + ny * contact.ny <= LEVEL:
                contact.feature, contact.nx, contact.ny = feature, nx, ny
                contact.radius = outline.radius if feature < 0 else 0.0
            followed += 1
            old_ux, old_uy = contact.ux, contact.uy
            measure_contact(core, movers, moving, index)
            apart = (player.vx - contact.ux) * nx + (player.vy - contact.uy) * ny
            gains = core.world.weight + core.body.ground_accel + core.body.air_accel
            gains += movers.movers[number].accel if number >= 0 else 0.0
            if contact.pressed and apart <= SLACK * gains * duration:
                if not _turned_back(core, movers, number, contact.ux - old_ux, contact.uy - old_uy, duration):
                    pressed = index
    if followed > 0:
        settle(core, pressed)
    if pressed >= 0:
        _go_along(core, movers, moving, pressed)


@leaf
def _turned_back(core: Any, movers: Any, number: int, change_x: float, change_y: float, duration: float) -> bool:
    """Whether what is pressed on has begun another leg of its route: that takes nobody along who was pushed before."""
    if number < 0:
        return False
    mover = movers.movers[number]
    if mover.legs == 0 or mover.revolves:
        return False
    accel = mover.accel
    if core.player.frame >= 0:
        accel += movers.movers[core.player.frame].accel
    change = math.sqrt(change_x * change_x + change_y * change_y)
    return change > SLACK * accel * duration + core.segment.tiny_speed


@leaf
def stay_on_ride(core: Any, movers: Any) -> None:
    """Do not let the body leave a mover that it stands on for what its weight takes back within the shortest step.

    On what turns, the frame in which its own velocity is kept turns along a little less, or more, than its ground.
    """
    player = core.player
    if movers is None:
        return
    if player.stance != GROUND or player.frame < 0:
        return
    which = place_of(player, core.contacts, player.ground)
    if which < 0:
        return
    contact = core.contacts[which]
    apart = -approach_speed(player, contact)
    if contact.held and 0.0 < apart <= SHORTEST * core.world.dt * load_on(core.body, player, contact):
        player.vx, player.vy = player.vx - apart * contact.nx, player.vy - apart * contact.ny


@leaf
def _go_along(core: Any, movers: Any, moving: Any, which: int) -> None:
    """Leave what is pressed on no faster than that gives way, as it is touched now."""
    player, contact = core.player, core.contacts[which]
    if contact.feature < 0:
        # Lying on a round corner now, it touches that a little farther round.
        _, _, nx, ny = feature_touched(core.solids.outlines[contact.outline], core.solids.faces, player.x, player.y)
        contact.nx, contact.ny = nx, ny
    nx, ny = contact.nx, contact.ny
    measure_contact(core, movers, moving, which)
    apart = (player.vx - contact.ux) * nx + (player.vy - contact.uy) * ny
    if apart > 0.0:
        way_x, way_y = way_to(player, core.contacts, which)
        player.vx, player.vy = player.vx - apart * way_x, player.vy - apart * way_y
