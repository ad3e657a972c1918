"""Pieces that are made while the level runs: at their times, in their places, and shots at a press of `act`."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.poses import flown_to, is_carried_by, pose_at
from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.pieces.crumbling import is_due
from haptos.engine.pieces.outlook import stir
from haptos.engine.pieces.rng import chance
from haptos.engine.records.codes import (
    AROUND,
    AT_BOX,
    GONE,
    INSIDE_BOUNDS,
    NO_PIECE,
    ON_CARRIER,
    OUTSIDE_BOUNDS,
    THE_PLAYER,
    UNAIMED,
    WHERE_FIRED,
    WHOLE,
    WITH_PLAYER,
)
from haptos.engine.records.events import COOLING, FIRES, REFUSED, SPAWNS, TOO_MANY, VANISHES
from haptos.engine.records.journal import write_of

# Draws for one piece: each its own stream of random numbers.
TIME, PLACE_X, PLACE_Y, SIDE, AIM_X, AIM_Y, SPEED, SCALE, TURN = (constant(draw) for draw in range(9))
DRAWS = 16
# Made outside the bounds, a piece is so much farther out than it reaches, as a share of that.
CLEARANCE = 1e-6


@leaf
def make_pieces(
    core: Any, movers: Any, moving: Any, spawning: Any, acts: bool, floor: Any, begin: float, end: float
) -> None:
    """Make what is due until the end of a tick, and fire what `act` fires."""
    world, player = core.world, core.player
    if movers is None:
        return
    for index in range(movers.spawners.shape[0]):
        spawner, state = movers.spawners[index], spawning[index]
        if spawner.is_shot:
            if acts:
                _fire(core, movers, moving, spawning, index, floor, begin)
            continue
        while is_due(state.due, end, world.dt):
            now = state.due
            make(core, movers, world, core.edges, moving, spawning, index, now, player.x, player.y)
            stream = index * DRAWS + TIME
            state.due += chance(world.seed, stream, state.tries, spawner.every_low, spawner.every_high)


@leaf
def make(
    core: Any,
    movers: Any,
    world: Any,
    edges: Any,
    moving: Any,
    spawning: Any,
    index: int,
    now: float,
    fired_x: float,
    fired_y: float,
) -> bool:
    """Make one piece at a time; return whether what it is made at is there at all."""
    player = core.player
    spawner = movers.spawners[index]
    count, seed, stream = spawning[index].tries, world.seed, index * DRAWS
    spawning[index].tries += 1
    x, y, is_there = _where(movers, world, player, moving, spawner, now, fired_x, fired_y)
    if not is_there:
        return False
    scale = chance(seed, stream + SCALE, count, spawner.scale_low, spawner.scale_high)
    turn = chance(seed, stream + TURN, count, spawner.turn_low, spawner.turn_high)
    row = movers.slots[spawner.first_slot]
    reach = scale * movers.flights[row].radius * (1.0 + CLEARANCE)
    edge = edges[0]
    if spawner.area == AROUND:
        x += chance(seed, stream + PLACE_X, count, -0.5 * spawner.width, 0.5 * spawner.width)
        y += chance(seed, stream + PLACE_Y, count, -0.5 * spawner.height, 0.5 * spawner.height)
    elif spawner.area == INSIDE_BOUNDS:
        x = chance(seed, stream + PLACE_X, count, edge.x0 + reach, edge.x1 - reach)
        y = chance(seed, stream + PLACE_Y, count, edge.y0 + reach, edge.y1 - reach)
    elif spawner.area == OUTSIDE_BOUNDS:
        x, y = _outside(edge, reach, chance(seed, stream + SIDE, count, 0.0, 1.0))
    vx, vy = spawner.vx, spawner.vy
    if spawner.aim != UNAIMED:
        to_x, to_y = player.x, player.y
        if spawner.aim == AT_BOX:
            to_x = 0.5 * (edge.x0 + edge.x1) + chance(seed, stream + AIM_X, count, -spawner.aim_x, spawner.aim_x)
            to_y = 0.5 * (edge.y0 + edge.y1) + chance(seed, stream + AIM_Y, count, -spawner.aim_y, spawner.aim_y)
        away = math.sqrt(square(to_x - x) + square(to_y - y))
        speed = chance(seed, stream + SPEED, count, spawner.speed_low, spawner.speed_high)
        vx, vy = (speed * (to_x - x) / away, speed * (to_y - y) / away) if away > 0.0 else (speed, 0.0)
    if not send_off(core, movers, moving, spawning, index, now, x, y, vx, vy, turn, scale):
        write_of(core.journal, player, REFUSED, now, spawner.piece, NO_PIECE, x, y, math.nan, TOO_MANY)
    return True


@leaf
def _where(
    movers: Any, world: Any, player: Any, moving: Any, spawner: Any, now: float, fired_x: float, fired_y: float
) -> tuple[float, float, bool]:
    """Return where something makes pieces (on a carrier: where that is at rest), and whether that is there at all."""
    if spawner.stands == WITH_PLAYER:
        return spawner.x + player.x, spawner.y + player.y, True
    if spawner.stands == WHERE_FIRED:
        return spawner.x + fired_x, spawner.y + fired_y, True
    if spawner.mover < 0:
        return spawner.x, spawner.y, True
    mover, pose = movers.movers[spawner.mover], moving[spawner.mover]
    pose_at(movers, world, moving, spawner.mover, now)
    # Brought anew before the body can meet it.
    pose.t = math.nan
    if spawner.stands == ON_CARRIER:
        return spawner.x, spawner.y, pose.here != 0
    dx, dy = spawner.x - mover.x, spawner.y - mover.y
    x = mover.x + pose.x + dx * pose.cosine - dy * pose.sine
    y = mover.y + pose.y + dx * pose.sine + dy * pose.cosine
    return x, y, pose.here != 0


@leaf
def _outside(edge: Any, reach: float, share: float) -> tuple[float, float]:
    """Return a place just outside the bounds, a share of the way around them from the lower left corner."""
    width, height = edge.x1 - edge.x0, edge.y1 - edge.y0
    way = share * 2.0 * (width + height)
    if way < width:
        return edge.x0 + way, edge.y0 - reach
    if way < width + height:
        return edge.x1 + reach, edge.y0 + way - width
    if way < 2.0 * width + height:
        return edge.x1 - (way - width - height), edge.y1 + reach
    return edge.x0 - reach, edge.y1 - (way - 2.0 * width - height)


@leaf
def _fire(core: Any, movers: Any, moving: Any, spawning: Any, index: int, floor: Any, now: float) -> None:
    """Fire a shot from the body's front, the way that it faces."""
    body, player, journal = core.body, core.player, core.journal
    spawner, state = movers.spawners[index], spawning[index]
    if now < state.due:
        write_of(journal, player, REFUSED, now, THE_PLAYER, NO_PIECE, player.x, player.y, math.nan, COOLING)
        return
    if floor is not None:
        angle = math.radians(player.facing)
        fx, fy = math.cos(angle), math.sin(angle)
    else:
        # Right is up, turned by a right angle.
        side = player.facing * player.handed
        fx, fy = side * player.up_y, -side * player.up_x
    reach = movers.flights[movers.slots[spawner.first_slot]].radius
    rise, across = fx * player.up_x + fy * player.up_y, fx * player.up_y - fy * player.up_x
    front = body.half_width * abs(across) + body.half_height * abs(rise) + body.radius + reach + spawner.x
    x = player.x + front * fx + spawner.y * player.up_x
    y = player.y + front * fy + spawner.y * player.up_y
    vx, vy = spawner.speed_low * fx, spawner.speed_low * fy
    angle = math.atan2(fy, fx)
    if send_off(core, movers, moving, spawning, index, now, x, y, vx, vy, angle, 1.0):
        state.due = now + spawner.cooldown
        piece = _made_last(movers, index, spawning)
        write_of(journal, player, FIRES, now, THE_PLAYER, piece, x, y, spawner.speed_low, 0.0)
    else:
        write_of(journal, player, REFUSED, now, THE_PLAYER, NO_PIECE, x, y, math.nan, TOO_MANY)


@leaf
def _made_last(movers: Any, index: int, spawning: Any) -> int:
    """Return the piece that was made last."""
    row = movers.slots[movers.spawners[index].first_slot + spawning[index].last]
    return movers.movers[movers.flights[row].mover].piece


@leaf
def send_off(
    core: Any,
    movers: Any,
    moving: Any,
    spawning: Any,
    index: int,
    now: float,
    x: float,
    y: float,
    vx: float,
    vy: float,
    turn: float,
    scale: float,
) -> bool:
    """Put a piece that is not there yet in its place, on its carrier at rest if it has one; whether there was one."""
    # More than ten arguments: where a piece is made, how it is turned and how fast it is are seven of them.
    spawner, player = movers.spawners[index], core.player
    for number in range(spawner.slots):
        # The one after that which was filled last is free, most of the time.
        place = (spawning[index].last + 1 + number) % spawner.slots
        flight = movers.flights[movers.slots[spawner.first_slot + place]]
        mover, pose = movers.movers[flight.mover], moving[flight.mover]
        if pose.phase != GONE:
            continue
        player.stirs += 1
        pose.phase, pose.since, pose.due = WHOLE, now, math.inf
        pose.from_x, pose.from_y, pose.from_angle, pose.from_t = x - mover.x, y - mover.y, turn, now
        if math.isnan(vx):
            vx, vy = flight.vx, flight.vy
        pose.fly_vx, pose.fly_vy, pose.fly_spin = vx, vy, flight.spin
        pose.scale = scale
        pose.dies = now + spawner.lasts
        pose.hits, pose.touches, pose.exits = 0, NO_PIECE, 0
        pose.off = mover.off
        if flight.carries:
            _switch_on(movers, moving, flight.mover)
        if not mover.waits:
            pose.clock = now
        pose.t = math.nan
        spawning[index].last = place
        spawning[spawner.kind].serial += 1
        pose.serial = spawning[spawner.kind].serial
        # It is turned as it flies.
        pose_at(movers, core.world, moving, flight.mover, now)
        pose.t = math.nan
        x, y = mover.x + pose.x, mover.y + pose.y
        stir(movers, moving, flight.mover)
        write_of(core.journal, player, SPAWNS, now, spawner.piece, mover.piece, x, y, float(pose.serial), 0.0)
        return True
    return False


@leaf
def _switch_on(movers: Any, moving: Any, number: int) -> None:
    """Let what it holds be there with what is made, whatever rules have done to the one before."""
    for other in range(movers.movers.shape[0]):
        if is_carried_by(movers, other, number):
            moving[other].off = movers.movers[other].off
            moving[other].t = math.nan


@leaf
def vanish(
    movers: Any, world: Any, moving: Any, journal: Any, player: Any, number: int, what: int, reason: float, now: float
) -> None:
    """Let a piece be gone."""
    mover, pose = movers.movers[number], moving[number]
    x, y = mover.x + pose.x, mover.y + pose.y
    if mover.flight >= 0:
        x, y = flown_to(movers, world, moving, number, now)
    player.stirs += 1
    write_of(journal, player, VANISHES, now, mover.piece, what, x, y, math.nan, reason)
    pose.phase, pose.since, pose.due = GONE, now, math.inf
    pose.t = math.nan
    stir(movers, moving, number)
