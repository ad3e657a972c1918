"""The plan of one segment: what carries the body, what it slides along, and its acceleration.

Every plan writes the acceleration and the latest end of the segment. All that is touched is asked at once; what stops,
carries or guides the body is held, what it leaves is let go.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import LEVEL, SEAM, SLIDING
from haptos.engine.collision.roots import falls_at, falls_within
from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.player.admissible import admit_acceleration, admit_velocity, approach_speed, falls_away
from haptos.engine.player.along import LEVEL_WAY, speeds_along
from haptos.engine.player.arcs import CHORD
from haptos.engine.player.controls import (
    AT_THE_END,
    END_OF_TICK,
    FACE_END,
    SPEED_REACHED,
    limit_air,
    plan_air,
    plan_ground,
)
from haptos.engine.player.frames import name_floor
from haptos.engine.player.ground import ground_goes_on, load_on, pull_of, snap_down, step_up
from haptos.engine.player.kept_contacts import hold, is_ground, note_ground, place_of
from haptos.engine.player.regions import update_factors
from haptos.engine.player.top_view import plan_floor
from haptos.engine.records.codes import AIR, GROUND, IN_AIR, NO_SUPPORT

# The ground of a wall of the bounds: no piece, so no surface.
NO_PIECE_GROUND = constant(-2)


@leaf
def plan_top(core: Any, felt: Any, now: float) -> None:
    """Plan in the plane: toward what is wanted, as far as what is touched allows it."""
    body, player, contacts, segment = core.body, core.player, core.contacts, core.segment
    if player.tuned != NO_PIECE_GROUND:
        name_floor(felt.effects, felt.surfaces, felt.within, player)
    update_factors(felt.effects, felt.fields, None, felt.surfaces, player, felt.within, felt.occupied, NO_PIECE_GROUND)
    remaining = segment.limit
    segment.ground = -1
    admit_velocity(player, contacts, segment.tiny_speed)
    one, other = plan_floor(body, player, contacts, segment, core.world.weight, core.world.dt)
    for index in range(player.contacts):
        contact = contacts[index]
        decides = index in (one, other)
        apart = -approach_speed(player, contact) > segment.tiny_speed
        goes = segment.ax * contact.nx + segment.ay * contact.ny > SLIDING * body.ground_accel
        if apart or goes or (contact.radius > 0.0 and not decides):
            contact.held = 0
        elif decides:
            hold(core, index, now)
    if one >= 0 and other < 0:
        if contacts[one].radius > 0.0 and contacts[one].held:
            segment.arc = one
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
    ground = find_ground(core)
    if ground < 0 and player.stance == GROUND and player.ground != NO_SUPPORT and not segment.aloft:
        if snap_down(core, now):
            ground = place_of(player, contacts, player.ground)
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
    _plan_in_air(core, now)


@leaf
def find_ground(core: Any) -> int:
    """Return the contact that carries the body, -1 for none: the present ground, else the first that can."""
    world, player, contacts, segment = core.world, core.player, core.contacts, core.segment
    best = -1
    if segment.aloft:
        return best
    for index in range(player.contacts):
        contact = contacts[index]
        if approach_speed(player, contact) < -segment.tiny_speed:
            continue
        if not is_ground(world, player, contact.nx, contact.ny):
            continue
        if contact.radius > 0.0 and load_on(core.body, player, contact) < -segment.tiny_accel:
            # It would fly on over the corner; whether it wants to go on along that does not matter.
            if not ground_goes_on(core, index):
                continue
        elif player.stance != GROUND and not contact.held:
            continue
        if best < 0 or _carries_rather(core, contact, contacts[best]):
            best = index
    return best


@leaf
def _carries_rather(core: Any, contact: Any, other: Any) -> bool:
    """Whether one ground carries the body rather than another: a face that goes on than a corner level with it.

    If there is nothing in it, it is the one that the body is on.
    """
    player = core.player
    if contact.nx * other.nx + contact.ny * other.ny > LEVEL and (contact.radius > 0.0) != (other.radius > 0.0):
        if not _ends_ahead(core, contact if contact.radius <= 0.0 else other):
            return contact.radius <= 0.0
    return player.stance == GROUND and contact.outline == player.ground


@leaf
def _ends_ahead(core: Any, contact: Any) -> bool:
    """Whether the face that is touched ends where the body is, on the way that it goes."""
    if contact.outline < 0:
        return False
    player, face, tiny = core.player, core.solids.faces[contact.feature], core.segment.tiny_speed
    seam = SEAM * core.body.height
    along = (player.x - face.x) * face.tx + (player.y - face.y) * face.ty
    speed = (player.vx - contact.ux) * face.tx + (player.vy - contact.uy) * face.ty
    return (speed > tiny and along >= face.length - seam) or (speed < -tiny and along <= seam)


@leaf
def _plan_on_ground(core: Any, ground: int, now: float) -> int:
    """Plan along the ground; where other ground rises ahead, go on along that; what is in the way stops, or pushes."""
    world, player, contacts, segment = core.world, core.player, core.contacts, core.segment
    remaining = segment.limit
    segment.free_ax, segment.free_ay = pull_of(core.body, player)
    for attempt in range(player.contacts + 1):
        below = contacts[ground]
        tx, ty = below.ny * player.handed, -below.nx * player.handed
        low, high, lowest, highest = speeds_along(player, contacts, ground, tx, ty)
        speed = (player.vx - below.ux) * tx + (player.vy - below.uy) * ty
        if abs(speed) <= segment.tiny_speed:
            speed = 0.0
        speed = min(max(speed, low), high)
        player.vx, player.vy = below.ux + speed * tx, below.uy + speed * ty
        segment.limit, segment.reason = remaining, END_OF_TICK
        plan_ground(core.body, player, segment, tx, ty)
        rate = segment.ax * tx + segment.ay * ty
        blocking = -1
        if rate > 0.0 and speed >= high - segment.tiny_speed:
            blocking = highest
        elif rate < 0.0 and speed <= low + segment.tiny_speed:
            blocking = lowest
        if blocking < 0:
            return _hold_ground(core, ground, now)
        wall = contacts[blocking]
        if attempt < player.contacts and wall.ux == below.ux and wall.uy == below.uy:
            if is_ground(world, player, wall.nx, wall.ny):
                # Ground that rises ahead turns the velocity, and keeps the speed.
                player.vx = wall.ux + speed * wall.ny * player.handed
                player.vy = wall.uy - speed * wall.nx * player.handed
                ground = blocking
                continue
        if step_up(core, wall.outline, wall.nx, wall.ny, now):
            ground = player.contacts - 1
            continue
        allowed = falls_away(player, wall) / (tx * wall.nx + ty * wall.ny)
        if abs(rate) <= abs(allowed):
            return _hold_ground(core, ground, now)
        hold(core, blocking, now)
        segment.ax, segment.ay = -allowed * tx, -allowed * ty
        segment.slip = 0.0
        segment.limit, segment.reason = remaining, END_OF_TICK
        return _hold_ground(core, ground, now)
    return ground


@leaf
def _hold_ground(core: Any, ground: int, now: float) -> int:
    """Hold on to the ground, and let go what the motion along it leaves; return the ground."""
    player, contacts, segment = core.player, core.contacts, core.segment
    below = contacts[ground]
    hold(core, ground, now)
    for index in range(player.contacts):
        contact = contacts[index]
        if index == ground or not contact.held:
            continue
        apart = -approach_speed(player, contact)
        pull = segment.ax * contact.nx + segment.ay * contact.ny
        is_way = abs(below.nx * contact.ny - below.ny * contact.nx) > LEVEL_WAY
        if is_way and (apart > segment.tiny_speed or (apart >= -segment.tiny_speed and pull > segment.tiny_accel)):
            contact.held = 0
    return ground


@leaf
def _plan_in_air(core: Any, now: float) -> None:
    """Plan a flight; what is in the way and not left is slid along."""
    body, player, contacts, segment = core.body, core.player, core.contacts, core.segment
    segment.ground = -1
    segment.flies = 1
    admit_velocity(player, contacts, segment.tiny_speed)
    plan_air(body, player, segment)
    ax, ay, one, other = admit_acceleration(
        player, contacts, segment.ax, segment.ay, segment.tiny_speed, segment.tiny_accel
    )
    segment.ax, segment.ay = ax, ay
    segment.lone = 1 if other < 0 else 0
    if one >= 0:
        hold(core, one, now)
    if other >= 0:
        hold(core, other, now)
        if _is_wedged(core, one, other):
            # Wedged between two steep faces: they carry the body, so that it can jump out.
            segment.ax, segment.ay = 0.0, 0.0
            player.stance = GROUND
            player.jumps_left = body.extra_jumps
            return
    elif one >= 0:
        if contacts[one].radius > 0.0:
            segment.arc = one
    limit_air(body, player, segment, one < 0)


@leaf
def _is_wedged(core: Any, one: int, other: int) -> bool:
    """Whether two contacts hold the body at rest against its weight."""
    player, here, there = core.player, core.contacts[one], core.contacts[other]
    if here.ux != there.ux or here.uy != there.uy:
        return False
    vx, vy = player.vx - here.ux, player.vy - here.uy
    if vx * vx + vy * vy > square(core.segment.tiny_speed):
        return False
    return (here.nx + there.nx) * player.up_x + (here.ny + there.ny) * player.up_y > 0.0


@leaf
def limit_at_face_ends(solids: Any, player: Any, contacts: Any, segment: Any) -> None:
    """End the segment where a kept face ends."""
    for index in range(player.contacts):
        contact = contacts[index]
        if contact.outline < 0 or contact.feature < 0 or not contact.held:
            continue
        face = solids.faces[contact.feature]
        along = (player.x - face.x) * face.tx + (player.y - face.y) * face.ty
        speed = (player.vx - contact.ux) * face.tx + (player.vy - contact.uy) * face.ty
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
