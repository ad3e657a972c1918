"""What the player wants in the top view: velocities in the plane."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import leaf
from haptos.engine.player.controls import BRAKED, HEAD_ON, SAME_SPEED, SPEED_REACHED, gait, wish
from haptos.engine.records.codes import ACTING, NO_PIECE
from haptos.engine.records.events import ACT
from haptos.engine.records.journal import write


@leaf
def turn(player: Any, journal: Any, held: int, t: float) -> None:
    """Take the controls of the top view; the facing, degrees, turns to the way that is wanted."""
    if held & ~player.held & ACTING:
        write(journal, player, ACT, t, NO_PIECE, math.nan, 0.0)
    player.held = held
    wish_x, wish_y = wish(held)
    if wish_x != 0.0 or wish_y != 0.0:
        player.facing = math.degrees(math.atan2(wish_y, wish_x))


@leaf
def presses(player: Any, contacts: Any, which: int) -> bool:
    """Whether the wish of the top view points into a contact, by itself or where another contact turns it."""
    wish_x, wish_y = wish(player.held)
    nx, ny = contacts[which].nx, contacts[which].ny
    if wish_x * nx + wish_y * ny < 0.0:
        return True
    for index in range(player.contacts):
        other = contacts[index]
        into = wish_x * other.nx + wish_y * other.ny
        if into < 0.0 and (wish_x - into * other.nx) * nx + (wish_y - into * other.ny) * ny < 0.0:
            return True
    return False


@leaf
def open_way(player: Any, contacts: Any) -> tuple[float, float]:
    """Return the wish of the top view, a direction, freed of what the walls in contact stop; zero in a wedge."""
    wish_x, wish_y = wish(player.held)
    size = math.sqrt(wish_x * wish_x + wish_y * wish_y)
    if size > 0.0:
        wish_x, wish_y = wish_x / size, wish_y / size
    wish_x, wish_y = freed(wish_x, wish_y, contacts, player.contacts, 1e-9)
    if player.contacts > 0 and wish_x * wish_x + wish_y * wish_y < HEAD_ON * HEAD_ON:
        return 0.0, 0.0
    return wish_x, wish_y


@leaf
def freed(x: float, y: float, contacts: Any, count: int, tiny: float) -> tuple[float, float]:
    """Return a vector freed of what the walls in contact stop; zero in a wedge."""
    for _ in range(2):
        for index in range(count):
            into = x * contacts[index].nx + y * contacts[index].ny
            if into < 0.0:
                x -= into * contacts[index].nx
                y -= into * contacts[index].ny
    for index in range(count):
        if x * contacts[index].nx + y * contacts[index].ny < -tiny:
            return 0.0, 0.0
    return x, y


@leaf
def plan_floor(body: Any, player: Any, contacts: Any, segment: Any, weight: float) -> None:
    """Write the acceleration in the plane of the top view: straight toward the wanted velocity."""
    way_x, way_y = open_way(player, contacts)
    speed = gait(body, player)
    tiny = SAME_SPEED * body.sprint
    # A belt carries along what stands on it; what is wanted is wanted relative to it.
    belt_x, belt_y = freed(player.belt_x, player.belt_y, contacts, player.contacts, tiny)
    goal_x, goal_y = way_x * speed + belt_x, way_y * speed + belt_y
    dx, dy = goal_x - player.vx, goal_y - player.vy
    change = math.sqrt(dx * dx + dy * dy)
    if change <= tiny:
        player.vx, player.vy = goal_x, goal_y
        segment.ax, segment.ay = 0.0, 0.0
        return
    dx, dy = dx / change, dy / change
    own_x, own_y = player.vx - belt_x, player.vy - belt_y
    own_goal_x, own_goal_y = goal_x - belt_x, goal_y - belt_y
    aligned = own_goal_x * own_x + own_goal_y * own_y
    if aligned > -tiny * body.sprint:
        aligned = max(aligned, 0.0)
    slower = own_goal_x * own_goal_x + own_goal_y * own_goal_y < own_x * own_x + own_y * own_y
    end, reason = change, SPEED_REACHED
    rate = body.ground_accel * player.accel_factor
    if slower or aligned < 0.0:
        rate = body.ground_brake * player.accel_factor
        if aligned < 0.0:
            # Braking lasts until the body no longer moves against the wish.
            along = -aligned / (own_goal_x * dx + own_goal_y * dy)
            if along < change:
                end, reason = along, BRAKED
    if player.friction >= 0.0:
        rate = min(rate, player.friction * weight)
    if rate == 0.0:
        segment.ax, segment.ay = 0.0, 0.0
        return
    if end / rate < segment.limit:
        segment.limit, segment.reason = end / rate, reason
        segment.axis_x, segment.axis_y = goal_x, goal_y
    segment.ax, segment.ay = rate * dx, rate * dy
