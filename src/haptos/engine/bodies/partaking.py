"""Who takes part in a tick: bodies as others have left them, what moves by plan, what stays; and what becomes of them.

To the rest of the level a body is a mover that flies straight on, and turns evenly, from where it is at the begin of a
tick to where it is at the end. Whoever has changed how it flies since, as a kick or a spawner, has changed the body.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.patches import place_spots
from haptos.engine.bodies.resting import wake
from haptos.engine.bodies.sweeping import turn
from haptos.engine.collision.poses import flown_to, is_there, pose_at
from haptos.engine.compiling.arithmetic import fourth_power
from haptos.engine.compiling.contract import leaf
from haptos.engine.pieces.neighbours import enter_cells
from haptos.engine.pieces.outlook import note_flight
from haptos.engine.records.codes import GOES_ON, OF_WORLD, UNTOLD
from haptos.engine.records.loose_records import OTHER_ROWS, PLAYER_ROW, STAYS_ROW

# A body that is no farther than this share of its size from where it was told to stand, stands there.
STANDS = 1e-4


@leaf
def adopt_bodies(stirred: Any, moving: Any, begin: float) -> None:
    """Take over what has become of the bodies since the last tick: made, gone, kicked, put elsewhere."""
    loose, movers = stirred.loose, stirred.movers
    for row in range(loose.bodies.shape[0]):
        constant_of, body = loose.bodies[row], stirred.partakers[row]
        pose = moving[constant_of.mover]
        there = is_there(pose)
        if not there:
            if body.there:
                body.there, body.awake = 0, 0
                body.vx, body.vy, body.spin = 0.0, 0.0, 0.0
                _wake_around(stirred, row)
            continue
        if not body.there:
            _come(stirred, movers, row, pose, begin)
            continue
        same = pose.from_t == body.told_t and pose.fly_spin == body.told_spin
        if same and pose.fly_vx == body.told_vx and pose.fly_vy == body.told_vy:
            continue
        # Somebody has changed how it flies.
        body.vx += pose.fly_vx - body.told_vx
        body.vy += pose.fly_vy - body.told_vy
        body.spin += pose.fly_spin - body.told_spin
        _take_place(movers, row, constant_of, body, pose, begin)
        wake(stirred, row)


@leaf
def _take_place(movers: Any, row: int, constant_of: Any, body: Any, pose: Any, begin: float) -> None:
    """Let a body be where its flight has brought it."""
    mover = movers.movers[constant_of.mover]
    time = max(begin - pose.from_t, 0.0)
    body.angle = pose.from_angle + pose.fly_spin * time
    body.cosine, body.sine = math.cos(body.angle), math.sin(body.angle)
    body.x = mover.x + pose.from_x + pose.fly_vx * time
    body.y = mover.y + pose.from_y + pose.fly_vy * time
    body.x += body.scale * (constant_of.centre_x * body.cosine - constant_of.centre_y * body.sine)
    body.y += body.scale * (constant_of.centre_x * body.sine + constant_of.centre_y * body.cosine)
    turn(body)


@leaf
def _come(stirred: Any, movers: Any, row: int, pose: Any, begin: float) -> None:
    """Let a body be there from now on, as it was made."""
    constant_of, body = stirred.loose.bodies[row], stirred.partakers[row]
    laws = stirred.loose.laws[0]
    scale = pose.scale
    body.there, body.awake, body.stirred, body.placed, body.scale = 1, 1, 0, 1, scale
    body.centre_x, body.centre_y = constant_of.centre_x, constant_of.centre_y
    body.size, body.reach = constant_of.size * scale, constant_of.reach * scale
    body.light = 1.0 / (constant_of.mass * scale * scale)
    body.nimble = 1.0 / (constant_of.inertia * fourth_power(scale)) if constant_of.turns else 0.0
    body.vx, body.vy, body.spin = pose.fly_vx, pose.fly_vy, pose.fly_spin if constant_of.turns else 0.0
    body.mover, body.layer, body.jointed = constant_of.mover, constant_of.layer, constant_of.pinned
    body.base_gravity, body.rides, body.grounded = OF_WORLD, 0, 0
    zones = stirred.loose.zones.shape[0]
    for place in range(row * zones, (row + 1) * zones):
        stirred.immersed[place] = 0
    body.told_vx, body.told_vy, body.told_spin, body.told_t = pose.fly_vx, pose.fly_vy, pose.fly_spin, pose.from_t
    _take_place(movers, row, constant_of, body, pose, begin)
    body.peak, body.fell, body.still = body.x * laws.up_x + body.y * laws.up_y, 0.0, 0.0
    body.mark_x, body.mark_y, body.mark_angle = body.x, body.y, body.angle
    for number in range(stirred.hinges.shape[0]):
        hinge, pin = stirred.loose.hinges[number], stirred.hinges[number]
        if hinge.second != row:
            continue
        pin.x, pin.y, pin.there, pin.torque = 0.0, 0.0, 1, 0.0
        other = stirred.partakers[hinge.first]
        pin.reference = body.angle - other.angle
        # Where its own end of the pin is, as the other one sees it.
        dx = body.x + scale * (body.cosine * hinge.second_x - body.sine * hinge.second_y) - other.x
        dy = body.y + scale * (body.sine * hinge.second_x + body.cosine * hinge.second_y) - other.y
        pin.anchor_x, pin.anchor_y = dx * other.cosine + dy * other.sine, dy * other.cosine - dx * other.sine


@leaf
def _wake_around(stirred: Any, row: int) -> None:
    """Wake whoever touched a body that is gone."""
    tally = stirred.tally[0]
    count = stirred.loose.bodies.shape[0]
    for index in range(stirred.pairs.shape[0]):
        pair = stirred.pairs[index]
        half = stirred.pairs.shape[0] // 2
        if index >= tally.turn * half + tally.pairs or index < tally.turn * half:
            continue
        if (pair.first == row or pair.second == row) and pair.told:
            if pair.first < count:
                if stirred.partakers[pair.first].there:
                    wake(stirred, pair.first)
            if stirred.partakers[pair.second].there:
                wake(stirred, pair.second)
    for number in range(stirred.hinges.shape[0]):
        hinge = stirred.loose.hinges[number]
        if hinge.first == row or hinge.second == row:
            stirred.hinges[number].there = 0
            if hinge.second != row:
                wake(stirred, hinge.second)


@leaf
def place_others(stirred: Any, world: Any, moving: Any, begin: float, end: float) -> None:
    """Write where what moves by plan is at the begin of a tick, and how it goes on to its end."""
    loose, movers = stirred.loose, stirred.movers
    count = loose.bodies.shape[0]
    stays = stirred.partakers[count + STAYS_ROW]
    stays.there, stays.cosine, stays.scale, stays.size = 1, 1.0, 1.0, math.inf
    time = end - begin
    for place in range(loose.others.shape[0]):
        number = loose.others[place]
        mover, pose = movers.movers[number], moving[number]
        row = stirred.partakers[count + OTHER_ROWS + place]
        was_there, held_t = row.there, pose.t
        pose_at(movers, world, moving, number, end)
        x, y, cosine, sine, here = pose.x, pose.y, pose.cosine, pose.sine, pose.here
        pose_at(movers, world, moving, number, begin)
        pose.t = math.nan if held_t != begin else begin
        row.there = 1 if pose.here and here else 0
        row.scale, row.size, row.reach = pose.scale, math.inf, mover.radius
        row.x, row.y, row.cosine, row.sine = mover.x + pose.x, mover.y + pose.y, pose.cosine, pose.sine
        row.place_x, row.place_y, row.angle = row.x, row.y, math.atan2(pose.sine, pose.cosine)
        row.vx, row.vy = (x - pose.x) / time, (y - pose.y) / time
        row.spin = math.atan2(sine * pose.cosine - cosine * pose.sine, cosine * pose.cosine + sine * pose.sine) / time
        row.awake = 1 if row.vx != 0.0 or row.vy != 0.0 or row.spin != 0.0 else 0
        row.pressed, row.mover = 1, number
        _write_box(row, mover.radius, time)
        if was_there != row.there:
            # What was held by it, or is in its way, is stirred.
            _wake_on(stirred, count + OTHER_ROWS + place)
        if (row.awake or was_there != row.there) and row.there:
            for body_row in range(count):
                body = stirred.partakers[body_row]
                if body.there and not body.awake and _boxes_meet(row, body):
                    wake(stirred, body_row)


@leaf
def _boxes_meet(row: Any, body: Any) -> bool:
    """Whether the box of one that moves reaches a body that sleeps."""
    far = body.reach * 1.1
    return row.x0 <= body.x + far and row.x1 >= body.x - far and row.y0 <= body.y + far and row.y1 >= body.y - far


@leaf
def _wake_on(stirred: Any, other: int) -> None:
    """Wake the bodies that touch one that has come, or gone."""
    tally = stirred.tally[0]
    half = stirred.pairs.shape[0] // 2
    for index in range(tally.turn * half, tally.turn * half + tally.pairs):
        pair = stirred.pairs[index]
        if pair.first == other and pair.told:
            wake(stirred, pair.second)


@leaf
def _write_box(row: Any, reach: float, time: float) -> None:
    """Write the box of where one comes to be in a time, going straight on."""
    reach *= max(row.scale, 1.0)
    far_x, far_y = row.x + time * row.vx, row.y + time * row.vy
    row.x0, row.x1 = min(row.x, far_x) - reach, max(row.x, far_x) + reach
    row.y0, row.y1 = min(row.y, far_y) - reach, max(row.y, far_y) + reach


@leaf
def write_boxes(stirred: Any, time: float, margin: float) -> None:
    """Write where the corners of the shapes are, and the box of where each body comes to be in a tick."""
    loose, spots = stirred.loose, stirred.spots
    count = loose.bodies.shape[0]
    for row in range(count):
        body = stirred.partakers[row]
        if body.there and (body.awake or body.placed != 0):
            body.placed = body.awake
            _write_box_of(stirred, loose, spots, row, margin)
            if body.awake:
                _widen(body, time)
    for place in range(loose.other_shapes.shape[0]):
        row = count + OTHER_ROWS + loose.other_of[place]
        if stirred.partakers[row].there:
            place_spots(stirred, loose.other_shapes[place], row)
    place_spots(stirred, loose.shapes.shape[0] - 1, count + PLAYER_ROW)


@leaf
def _write_box_of(stirred: Any, loose: Any, spots: Any, row: int, margin: float) -> None:
    """Write the box of a body where it is, and a margin around it."""
    body, constant_of = stirred.partakers[row], loose.bodies[row]
    body.x0, body.y0, body.x1, body.y1 = math.inf, math.inf, -math.inf, -math.inf
    for part in range(constant_of.first_part, constant_of.first_part + constant_of.parts):
        index = loose.parts[part]
        place_spots(stirred, index, row)
        shape = loose.shapes[index]
        wide = shape.radius * body.scale + margin * body.size
        for place in range(shape.first, shape.first + shape.count):
            x, y = spots[place].x, spots[place].y
            body.x0, body.x1 = min(body.x0, x - wide), max(body.x1, x + wide)
            body.y0, body.y1 = min(body.y0, y - wide), max(body.y1, y + wide)


@leaf
def _widen(body: Any, time: float) -> None:
    """Widen the box of a body by how far it goes and turns in a time."""
    turned = min(abs(body.spin) * time, 2.0) * body.reach
    far_x, far_y = time * body.vx, time * body.vy
    fall_x, fall_y = 0.5 * time * time * abs(body.ax) + turned, 0.5 * time * time * abs(body.ay) + turned
    body.x0, body.x1 = body.x0 + min(far_x, 0.0) - fall_x, body.x1 + max(far_x, 0.0) + fall_x
    body.y0, body.y1 = body.y0 + min(far_y, 0.0) - fall_y, body.y1 + max(far_y, 0.0) + fall_y


@leaf
def tell_flights(stirred: Any, moving: Any, begin: float, end: float) -> None:
    """Let the movers of the bodies fly from where those were at the begin of the tick to where they are."""
    loose, movers = stirred.loose, stirred.movers
    time = end - begin
    for row in range(loose.bodies.shape[0]):
        constant_of, body = loose.bodies[row], stirred.partakers[row]
        if not body.there:
            continue
        mover, pose = movers.movers[constant_of.mover], moving[constant_of.mover]
        is_still = pose.fly_vx == 0.0 and pose.fly_vy == 0.0 and pose.fly_spin == 0.0
        # It goes on from where it was told to be, unless it was put elsewhere.
        gone = max(begin - pose.from_t, 0.0)
        px, py = mover.x + pose.from_x + pose.fly_vx * gone, mover.y + pose.from_y + pose.fly_vy * gone
        from_angle = pose.from_angle + pose.fly_spin * gone
        off = abs(body.place_x - px) + abs(body.place_y - py) + abs(body.angle - from_angle) * body.reach
        if body.wrapped:
            body.wrapped = 0
            px, py, from_angle = body.place_x, body.place_y, body.angle
        to_x, to_y, to_angle = body.place_x, body.place_y, body.angle
        if off <= STANDS * body.size:
            # What hardly stirs stands, for everybody else.
            if is_still:
                continue
            to_x, to_y, to_angle = px, py, from_angle
        pose.from_x, pose.from_y, pose.from_angle, pose.from_t = px - mover.x, py - mover.y, from_angle, begin
        pose.fly_vx, pose.fly_vy, pose.fly_spin = (to_x - px) / time, (to_y - py) / time, (to_angle - from_angle) / time
        pose.t = math.nan
        body.told_vx, body.told_vy, body.told_spin, body.told_t = pose.fly_vx, pose.fly_vy, pose.fly_spin, begin
        mover.revolves = 1 if pose.fly_spin != 0.0 else 0
        mover.accel = 2.0 * pose.fly_spin * pose.fly_spin * mover.radius
        mover.fastest = abs(pose.fly_spin) * mover.radius
        note_flight(movers, moving, constant_of.flight)
        if not constant_of.heeds:
            # Nobody has to look out for it, but for the player.
            enter_cells(movers, constant_of.flight, begin)
            movers.flying[constant_of.flight].next = math.inf


@leaf
def record_bodies(stirred: Any, world: Any, moving: Any, player: Any, rows: Any, written: Any) -> None:
    """Write where every body is at the end of a tick that moves, or has moved; what does not fit is counted."""
    if stirred is None:
        return
    movers, loose = stirred.movers, stirred.loose
    if player.tick != stirred.tally[0].told:
        # All sleep.
        return
    end = player.tick * world.dt
    for index in range(loose.bodies.shape[0]):
        constant_of, body = loose.bodies[index], stirred.partakers[index]
        flying = movers.flying[constant_of.flight]
        if flying.tell == UNTOLD or flying.layer == 0:
            continue
        flying.tell = UNTOLD
        place = written[0]
        written[0] = place + 1
        if place >= rows.shape[0]:
            continue
        row, pose = rows[place], moving[constant_of.mover]
        row.tick, row.mover, row.t, row.scale, row.lasts, row.torque = (
            player.tick,
            constant_of.mover,
            end,
            1.0,
            GOES_ON,
            0.0,
        )
        row.scale = pose.scale
        stands = pose.fly_vx == 0.0 and pose.fly_vy == 0.0 and pose.fly_spin == 0.0
        if not body.there or stands:
            # It has been made in this tick, or stands, for everybody else.
            row.x, row.y = flown_to(movers, world, moving, constant_of.mover, end)
            row.angle, row.vx, row.vy, row.spin = pose.from_angle, pose.fly_vx, pose.fly_vy, pose.fly_spin
            continue
        row.x, row.y, row.angle, row.spin = body.place_x, body.place_y, body.angle, body.spin
        # The velocity of its place, about which it turns as about any other point.
        row.vx = body.vx + body.spin * (body.y - body.place_y)
        row.vy = body.vy - body.spin * (body.x - body.place_x)
        if body.jointed:
            for number in range(stirred.hinges.shape[0]):
                if loose.hinges[number].second == index:
                    row.torque = stirred.hinges[number].torque
