"""When what flies can next meet something: it is looked out for once, and again only when that time has come."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import TOUCHING
from haptos.engine.collision.poses import flown_to, is_carried_by, is_there, stand_of
from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import leaf
from haptos.engine.pieces.approaches import approach, approach_of, flying_speed, pass_by
from haptos.engine.pieces.first_touch import flies_straight, meets_at, meets_straight
from haptos.engine.pieces.neighbours import MOST_CELLS, NONE, enter_cells, leave_cells
from haptos.engine.records.codes import CHANGES, EVERY_TICK, UNTOLD


@leaf
def look_out(
    core: Any, movers: Any, moving: Any, due: Any, row: int, t: float, limit: float, end: float
) -> tuple[float, int, float, float, float]:
    """Return when a piece first touches a shape by a time, which, and the normal there; and when to look out again.

    Others that may meet it are to look out for that, too.
    """
    flight = movers.flights[row]
    pose = moving[flight.mover]
    meets = flight.breaks_on | flight.bounces_off
    met, which, met_nx, met_ny, again = math.inf, -1, 0.0, 0.0, math.inf
    if flight.hangs:
        again = end
    if flight.free:
        again = enter_cells(movers, row, t)
        for place in range(MOST_CELLS * row, MOST_CELLS * (row + 1)):
            if movers.links[place].list == NONE:
                break
            node = movers.heads[movers.links[place].list]
            while node != NONE:
                other = node // MOST_CELLS
                node = movers.links[node].after
                now, index, nx, ny, later = _meets(
                    core, movers, moving, due, row, other, t, limit, end, min(again, met)
                )
                again = min(again, later)
                if now < met:
                    met, which, met_nx, met_ny = now, index, nx, ny
    else:
        for other in range(movers.flying.shape[0]):
            now, index, nx, ny, later = _meets(core, movers, moving, due, row, other, t, limit, end, min(again, met))
            again = min(again, later)
            if now < met:
                met, which, met_nx, met_ny = now, index, nx, ny
    for place in range(movers.others.shape[0]):
        index = movers.others[place]
        shape = movers.shapes[index]
        if not _can_meet(flight, shape) or shape.mover == flight.mover:
            continue
        breaks = ((shape.breaks_on >> flight.layer) | (meets >> shape.layer)) & 1
        other = movers.movers[shape.mover].flight if shape.mover >= 0 else -1
        if shape.mover >= 0:
            if (other >= 0 and not is_there(moving[shape.mover])) or _rests_on(movers, pose, flight.mover, shape.mover):
                continue
        begins, ends, speed = approach(core, movers, moving, row, shape, t)
        if other >= 0:
            bring_forward(movers, moving, due, other, begins, end)
        if begins >= min(again, met) or not breaks:
            continue
        now, nx, ny, later = _touches(
            core, movers, moving, row, index, begins, ends, speed, t, limit, end, min(again, met)
        )
        again = min(again, later)
        if now < met:
            met, which, met_nx, met_ny = now, index, nx, ny
    return met, which, met_nx, met_ny, again


@leaf
def _meets(
    core: Any, movers: Any, moving: Any, due: Any, row: int, other: int, t: float, limit: float, end: float,
    horizon: float,
) -> tuple[float, int, float, float, float]:  # fmt: skip
    """Return when a piece touches one that is free to fly, its shape, the normal; and when to look out for it again."""
    # More than ten arguments: one pair, and four times between which it matters.
    flight, its = movers.flights[row], movers.flying[other]
    met, which, met_nx, met_ny, again = math.inf, -1, 0.0, 0.0, math.inf
    own, meets = 1 << flight.layer, flight.breaks_on | flight.bounces_off
    if ((its.layer & meets) | (its.meets & own)) == 0 or other == row:
        return met, which, met_nx, met_ny, again
    if flight.free and pass_by(movers.flying[row], its, t, TOUCHING * core.body.height):
        return met, which, met_nx, met_ny, again
    begins, ends, speed = approach_of(core, movers, moving, row, other, t)
    bring_forward(movers, moving, due, other, begins, end)
    if begins >= horizon or (its.layer & meets) | (movers.flights[other].breaks_on & own) == 0:
        return met, which, met_nx, met_ny, again
    for index in range(movers.flights[other].first, movers.flights[other].last):
        now, nx, ny, later = _touches(
            core, movers, moving, row, index, begins, ends, speed, t, limit, end, min(horizon, min(again, met))
        )
        again = min(again, later)
        if now < met:
            met, which, met_nx, met_ny = now, index, nx, ny
    return met, which, met_nx, met_ny, again


@leaf
def _touches(
    core: Any, movers: Any, moving: Any, row: int, index: int, begins: float, ends: float, speed: float, t: float,
    limit: float, end: float, horizon: float,
) -> tuple[float, float, float, float]:  # fmt: skip
    """Return when a piece touches a shape by a time limit, and the normal there; and when to look out for it again."""
    # More than ten arguments: one pair, and four times between which it matters.
    flight, shape = movers.flights[row], movers.shapes[index]
    pose = moving[flight.mover]
    if shape.piece == pose.touches and not (flight.bounces_off >> shape.layer) & 1:
        return math.inf, 0.0, 0.0, math.inf
    is_straight = flies_straight(movers, moving, flight.mover) and (
        shape.mover < 0 or flies_straight(movers, moving, shape.mover)
    )
    if not is_straight and begins > limit:
        return math.inf, 0.0, 0.0, begins
    if shape.mover >= 0:
        if not is_there(moving[shape.mover]):
            return math.inf, 0.0, 0.0, max(begins, end)
    breaks = ((shape.breaks_on >> flight.layer) | (flight.breaks_on >> shape.layer)) & 1 != 0
    first, first_nx, first_ny = math.inf, 0.0, 0.0
    for own in range(flight.first, flight.last):
        until = min(horizon, first)
        if is_straight:
            now, nx, ny = meets_straight(
                core, movers, moving, flight.mover, own, shape, max(t, begins), min(ends, until), breaks
            )
        else:
            now, nx, ny = meets_at(core, movers, moving, row, own, shape, speed, t, min(limit, until), breaks)
        if now < first:
            first, first_nx, first_ny = now, nx, ny
    if first <= limit:
        return first, first_nx, first_ny, math.inf
    return math.inf, 0.0, 0.0, first if is_straight else end


@leaf
def _can_meet(flight: Any, shape: Any) -> bool:
    """Whether a piece breaks on a shape or bounces off it, or the other way round; else neither looks out for it."""
    its = (shape.breaks_on | shape.bounces_off) >> flight.layer
    return (its | ((flight.breaks_on | flight.bounces_off) >> shape.layer)) & 1 != 0


@leaf
def bring_forward(movers: Any, moving: Any, due: Any, row: int, when: float, end: float) -> None:
    """Let a piece that is there look out by a time; if that is in this tick, it is among those that do."""
    flying = movers.flying[row]
    pose = moving[flying.mover]
    if not is_there(pose):
        return
    flying.next = min(flying.next, when)
    if flying.next <= end:
        if not pose.listed:
            pose.listed = 1
            due[0] += 1
            due[due[0]] = row


@leaf
def stir(movers: Any, moving: Any, number: int) -> None:
    """Let what flies another way from now on look out anew, and all that may meet what it carries."""
    row = movers.movers[number].flight
    if row < 0:
        return
    note_flight(movers, moving, row)
    if movers.flights[row].carries:
        for other in range(movers.flights.shape[0]):
            if movers.flying[other].next < math.inf:
                movers.flying[other].next = -math.inf


@leaf
def note_flight(movers: Any, moving: Any, row: int) -> None:
    """Write as what a piece flies, for the others, and let it look out; what is not there needs not."""
    flight, flying = movers.flights[row], movers.flying[row]
    mover, pose = movers.movers[flight.mover], moving[flight.mover]
    there = is_there(pose) and not mover.still
    was_there = flying.layer != 0
    flying.next = -math.inf if there else math.inf
    flying.layer, flying.meets, flying.room = 0, 0, -math.inf
    flying.tell = UNTOLD
    if was_there and not there:
        leave_cells(movers, row)
    if not flight.free:
        if flight.flies and there:
            flying.tell = EVERY_TICK
        return
    if flight.flies and (there or was_there):
        flying.tell = CHANGES
    if not there:
        return
    flying.x = mover.x + pose.from_x - pose.from_t * pose.fly_vx
    flying.y = mover.y + pose.from_y - pose.from_t * pose.fly_vy
    flying.vx, flying.vy = pose.fly_vx, pose.fly_vy
    flying.reach, flying.room = flight.radius * pose.scale, mover.radius * max(pose.scale, 1.0)
    flying.layer, flying.meets = 1 << flight.layer, flight.breaks_on | flight.bounces_off


@leaf
def heed_player(core: Any, movers: Any, moving: Any, due: Any, begin: float, end: float) -> None:
    """Let pieces look out for what hangs on the player, whose way is not known for longer than a tick."""
    for index in range(movers.shapes.shape[0]):
        shape = movers.shapes[index]
        if not shape.hangs:
            continue
        stand, x, y = stand_of(movers, core.world, moving, shape.mover, begin)
        speed = shape.pace + flying_speed(movers, moving, shape.mover)
        for row in range(movers.flights.shape[0]):
            flight = movers.flights[row]
            pose = moving[flight.mover]
            if flight.mover == shape.mover or not is_there(pose) or not _can_meet(flight, shape):
                continue
            near = flight.radius * pose.scale + shape.reach * moving[stand].scale + core.body.height * TOUCHING
            near += (end - begin) * (speed + flight.pace + flying_speed(movers, moving, flight.mover))
            own_x, own_y = flown_to(movers, core.world, moving, flight.mover, begin)
            if square(own_x - x) + square(own_y - y) <= near * near:
                bring_forward(movers, moving, due, row, begin, end)


@leaf
def _rests_on(movers: Any, pose: Any, number: int, other: int) -> bool:
    """Whether a piece that does not fly is carried by another one, and so never comes to touch it."""
    flies = pose.fly_vx != 0.0 or pose.fly_vy != 0.0 or pose.fly_spin != 0.0
    return not flies and is_carried_by(movers, number, other)
