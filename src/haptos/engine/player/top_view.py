"""What the player wants in the top view: velocities in the plane."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.admissible import admit_way
from haptos.engine.player.controls import BRAKED, HEAD_ON, SAME_SPEED, SPEED_REACHED, gait, wish
from haptos.engine.player.nearing import SHORTEST
from haptos.engine.records.codes import ACTING, NO_PIECE
from haptos.engine.records.events import ACT
from haptos.engine.records.journal import write

# So many of the shortest steps before a goal that moves with what is touched, that is reached.
GOES_ALONG = 2.0


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
def plan_floor(body: Any, player: Any, contacts: Any, segment: Any, weight: float, dt: float) -> tuple[int, int]:
    """Write the acceleration in the plane of the top view: straight toward the wanted velocity that contacts allow.

    Return which contacts turn the wish.
    """
    wish_x, wish_y = wish(player.held)
    size = math.sqrt(wish_x * wish_x + wish_y * wish_y)
    speed = gait(body, player) / size if size > 0.0 else 0.0
    tiny = SAME_SPEED * body.sprint
    # A belt carries along what stands on it; what is wanted is wanted relative to it.
    belt_x, belt_y, pushes, _ = admit_way(player, contacts, player.belt_x, player.belt_y, tiny)
    goal_x, goal_y, one, other = admit_way(player, contacts, wish_x * speed + belt_x, wish_y * speed + belt_y, tiny)
    if one < 0:
        # What pushes who wants to stay.
        one = pushes
    if one >= 0:
        left_x, left_y = goal_x - belt_x, goal_y - belt_y
        if left_x * left_x + left_y * left_y < square(HEAD_ON * body.sprint):
            goal_x, goal_y = belt_x, belt_y
    if other >= 0:
        # In a pocket between two walls it comes to rest, rather than swing between them.
        player.vx, player.vy = goal_x, goal_y
    dx, dy = goal_x - player.vx, goal_y - player.vy
    change = math.sqrt(dx * dx + dy * dy)
    if one >= 0:
        if contacts[one].ux != 0.0 or contacts[one].uy != 0.0:
            # What turns takes the goal along: as near to it as this, the body goes with it.
            tiny = max(tiny, GOES_ALONG * SHORTEST * dt * body.ground_brake * player.accel_factor)
    if change <= tiny:
        player.vx, player.vy = goal_x, goal_y
        segment.ax, segment.ay = 0.0, 0.0
        return one, other
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
        return one, other
    if end / rate < segment.limit:
        segment.limit, segment.reason = end / rate, reason
        segment.axis_x, segment.axis_y = goal_x, goal_y
    segment.ax, segment.ay = rate * dx, rate * dy
    return one, other
