"""What flies and meets something: it breaks, or bounces off, at the time at which it first touches it."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.poses import pose_at, stand_of
from haptos.engine.compiling.contract import leaf
from haptos.engine.pieces.first_touch import velocity_of
from haptos.engine.pieces.outlook import stir
from haptos.engine.pieces.spawning import vanish
from haptos.engine.records.codes import GONE, MEETS_PLAYER, THE_PLAYER
from haptos.engine.records.events import BROKE, ENTER, TOUCHES
from haptos.engine.records.journal import write_of


@leaf
def touch(
    movers: Any,
    world: Any,
    moving: Any,
    journal: Any,
    player: Any,
    row: int,
    shape_index: int,
    nx: float,
    ny: float,
    now: float,
) -> None:
    """Break on what is touched, break it, or bounce off it."""
    flight, shape = movers.flights[row], movers.shapes[shape_index]
    mover, pose = movers.movers[flight.mover], moving[flight.mover]
    is_new = shape.piece != pose.touches
    pose.touches = shape.piece
    if shape.mover >= 0:
        other = movers.movers[shape.mover].flight
        if other >= 0 and is_new:
            if (movers.flights[other].breaks_on >> flight.layer) & 1:
                hit(movers, world, moving, journal, player, other, mover.piece, now)
    if is_new and ((flight.breaks_on >> shape.layer) & 1):
        hit(movers, world, moving, journal, player, row, shape.piece, now)
    if pose.phase != GONE and ((flight.bounces_off >> shape.layer) & 1):
        _, x, y = stand_of(movers, world, moving, flight.mover, now)
        reach = flight.radius * pose.scale
        ovx, ovy = velocity_of(movers, moving, shape.mover, x - reach * nx, y - reach * ny)
        into = (pose.vx - ovx) * nx + (pose.vy - ovy) * ny
        if into < 0.0:
            change = (1.0 + flight.restitution) * into
            kick_flight(movers, world, moving, flight.mover, -change * nx, -change * ny, now)
            write_of(journal, player, TOUCHES, now, mover.piece, shape.piece, x, y, -into, 0.0)


@leaf
def rebase(pose: Any, t: float) -> None:
    """Let a flight be counted from a time; what then flies another way is to be stirred."""
    time = max(t - pose.from_t, 0.0)
    pose.from_angle += pose.fly_spin * time
    pose.from_x += pose.fly_vx * time
    pose.from_y += pose.fly_vy * time
    pose.from_t = t
    # How fast it is may change now, so that its pose does not hold any more.
    pose.t = math.nan


@leaf
def kick_flight(movers: Any, world: Any, moving: Any, number: int, dvx: float, dvy: float, now: float) -> None:
    """Change the velocity of what flies, from a time on; what is carried flies as seen from its carrier."""
    carrier, pose = movers.movers[number].parent, moving[number]
    rebase(pose, now)
    if carrier >= 0:
        stand = moving[carrier]
        pose_at(movers, world, moving, carrier, now)
        # Its outlines are brought there before the body can meet them.
        stand.t = math.nan
        dvx, dvy = dvx * stand.cosine + dvy * stand.sine, dvy * stand.cosine - dvx * stand.sine
    pose.fly_vx += dvx
    pose.fly_vy += dvy
    stir(movers, moving, number)


@leaf
def hit(movers: Any, world: Any, moving: Any, journal: Any, player: Any, row: int, what: int, now: float) -> None:
    """Count a hit of what breaks; after enough of them it is gone."""
    flight = movers.flights[row]
    pose = moving[flight.mover]
    pose.hits += 1
    if pose.hits >= flight.hits:
        vanish(movers, world, moving, journal, player, flight.mover, what, BROKE, now)


@leaf
def break_on_player(movers: Any, world: Any, moving: Any, player: Any, journal: Any, first: int) -> None:
    """Let what breaks on the player's layer be hit by each of its touches since an event."""
    if movers is None:
        return
    if movers.flights.shape[0] == 0:
        return
    last = min(journal.written[0], journal.rows.shape[0])
    for index in range(first, last):
        event = journal.rows[index]
        if event.who != THE_PLAYER or not (event.kind == TOUCHES or event.kind == ENTER):
            continue
        for row in range(movers.flights.shape[0]):
            flight = movers.flights[row]
            if movers.movers[flight.mover].piece == event.piece and (flight.breaks_on >> world.layer) & 1:
                if moving[flight.mover].phase != GONE:
                    hit(movers, world, moving, journal, player, row, MEETS_PLAYER, event.t)
