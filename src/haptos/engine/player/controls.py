"""What the player wants: gaits, braking, jumps. All of it along the body's own up and right."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import leaf
from haptos.engine.records.codes import ACTING, AIR, DOWN, GROUND, JUMP, LEFT, NO_PIECE, RIGHT, SPRINT, UP
from haptos.engine.records.events import ACT, JUMPS
from haptos.engine.records.journal import write

# Times are compared with this much to spare, so that a limit of whole ticks holds at every tick rate.
TIME_ROUNDING = 1e-9
# Speeds this near to each other, as a share of the sprint, are the same.
SAME_SPEED = 1e-12
# A wish of which a wall leaves less than this share runs straight into it.
HEAD_ON = 1e-3
# What ends with the tick, but for rounding, ends in it.
AT_THE_END = 1.0 + 1e-12
# Reasons why a segment ends. Below APEX: the velocity along `axis` is set to `value`.
END_OF_TICK, SPEED_REACHED, TERMINAL, AT_APEX, FACE_END, EDGE, ARC_STEP, BRAKED = range(8)
EFFECT_EDGE, LADDER_END, TIMER, KNOT, NEARING = range(8, 13)


@leaf
def direction(held: int) -> float:
    """Return +1 for right, -1 for left, 0 for neither or both."""
    return float((held & RIGHT) // RIGHT) - float((held & LEFT) // LEFT)


@leaf
def wish(held: int) -> tuple[float, float]:
    """Return the way that is wanted in the plane: -1, 0 or 1 to the right and up."""
    return direction(held), float((held & UP) // UP) - float((held & DOWN) // DOWN)


@leaf
def gait(body: Any, player: Any) -> float:
    """Return the speed that is wanted, by what the ground and the fields make of it."""
    speed = body.sprint if player.held & SPRINT else body.walk
    return min(speed * player.speed_factor, player.speed_limit)


@leaf
def approach(speed: float, target: float, accelerate: float, brake: float, scale: float) -> tuple[float, float, float]:
    """Return the acceleration from a signed speed toward another one, where it ends, and when.

    Faster in the wanted direction is `accelerate`; anything slower, or the other way, is `brake` down to the target,
    or to rest where the direction turns.
    """
    if abs(speed) <= SAME_SPEED * scale:
        speed = 0.0
    if abs(speed - target) <= SAME_SPEED * scale:
        return 0.0, target, math.inf
    if target * speed < 0.0 or abs(speed) > abs(target):
        goal = 0.0 if target * speed <= 0.0 else target
        rate = -brake if speed > 0.0 else brake
    else:
        goal = target
        rate = accelerate if target > 0.0 else -accelerate
    if rate == 0.0:
        return 0.0, goal, math.inf
    return rate, goal, (goal - speed) / rate


@leaf
def leave_support(player: Any, t: float) -> None:
    """Be in the air from now on, without a jump; the measure of a fall starts here."""
    height = player.x * player.up_x + player.y * player.up_y
    player.stance = AIR
    player.air_since = t
    player.coyote = 0
    player.cut_armed = 0
    player.base = height
    player.peak = height


@leaf
def press(body: Any, player: Any, journal: Any, held: int, t: float, is_taken: bool) -> None:
    """Act on the controls that changed at the start of a tick: jumps begin and are cut short here.

    A press of jump that is taken already, as for a drop through a floor, makes no jump.
    """
    pressed = held & ~player.held
    released = player.held & ~held
    if pressed & ACTING:
        write(journal, player, ACT, t, NO_PIECE, math.nan, 0.0)
    if pressed & (UP | DOWN):
        player.grip = 1
    if is_taken:
        pressed &= ~JUMP
    if pressed & JUMP:
        player.press_at = t
        player.press_armed = 1
    if player.press_armed and not jump_is_buffered(body, player, t):
        player.press_armed = 0
    if player.press_armed:
        coyote = player.coyote and t - player.air_since <= body.coyote_time + TIME_ROUNDING
        if player.stance == GROUND or (coyote and pressed & JUMP):
            jump(body, player, journal, held, t)
        elif pressed & JUMP and player.jumps_left > 0:
            player.jumps_left -= 1
            jump(body, player, journal, held, t)
    if released & JUMP and player.cut_armed:
        _cut(body, player)
    player.held = held
    way = direction(held)
    if way != 0.0:
        player.facing = way


@leaf
def jump(body: Any, player: Any, journal: Any, held: int, t: float) -> None:
    """Leave with the jump's speed along up; what is let go already is cut at once."""
    ux, uy = player.up_x, player.up_y
    speed = body.jump_speed * player.jump_factor
    gain = speed - (player.vx * ux + player.vy * uy)
    player.vx += gain * ux
    player.vy += gain * uy
    height = player.x * ux + player.y * uy
    if player.stance == GROUND:
        player.base = height
        player.peak = height
        player.jumps_left = body.extra_jumps
    player.stance = AIR
    player.air_since = t
    player.coyote = 0
    player.press_armed = 0
    player.cut_armed = 1
    # Ladders in reach are jumped past: up or down has to be pressed anew, or another ladder reached.
    player.grip = 0
    write(journal, player, JUMPS, t, NO_PIECE, speed, 0.0)
    if not held & JUMP:
        _cut(body, player)


@leaf
def _cut(body: Any, player: Any) -> None:
    rising = player.vx * player.up_x + player.vy * player.up_y
    player.cut_armed = 0
    if rising > 0.0:
        loss = rising * (1.0 - body.release_cut)
        player.vx -= loss * player.up_x
        player.vy -= loss * player.up_y


@leaf
def jump_is_buffered(body: Any, player: Any, t: float) -> bool:
    """Whether jump was pressed shortly before a landing at `t`."""
    return player.press_armed == 1 and t - player.press_at <= body.buffer_time + TIME_ROUNDING


@leaf
def plan_air(body: Any, player: Any, segment: Any) -> None:
    """Write the acceleration of free flight: gravity, what fields add, and the wish to the side.

    At a speed that is wanted, or the fastest of a fall, the wish or the air takes up what pushes away from it, as far
    as it can: there, the acceleration is a set of values, of which the one holds that changes nothing [1]_.

    References
    ----------
    .. [1] A. F. Filippov, "Differential Equations with Discontinuous Righthand Sides" (1988).
    """
    ux, uy = player.up_x, player.up_y
    rx, ry = uy * player.handed, -ux * player.handed
    target = direction(player.held) * gait(body, player)
    accelerate, brake = body.air_accel * player.accel_factor, body.air_brake * player.accel_factor
    if not body.steers_afloat and player.gravity_x == 0.0 and player.gravity_y == 0.0:
        accelerate, brake = 0.0, 0.0
    rate, segment.goal, _ = approach(player.vx * rx + player.vy * ry, target, accelerate, brake, body.sprint)
    aside = player.push_x * rx + player.push_y * ry
    if rate == 0.0:
        forward = accelerate if target > 0.0 else brake
        backward = accelerate if target < 0.0 else brake
        rate = max(min(-aside, forward), -backward)
    across = rate + aside
    upward = _upward(body, player, player.vx * ux + player.vy * uy, player.push_x * ux + player.push_y * uy)
    segment.ax = across * rx + upward * ux
    segment.ay = across * ry + upward * uy
    segment.free_ax, segment.free_ay = segment.ax, segment.ay


@leaf
def _upward(body: Any, player: Any, rising: float, push: float) -> float:
    """Return the acceleration along up: the pull of gravity, but for what the fastest fall takes off it, and a push."""
    gravity = math.sqrt(player.gravity_x * player.gravity_x + player.gravity_y * player.gravity_y)
    if rising > SAME_SPEED * (body.sprint + body.jump_speed):
        return push - gravity * body.rising_factor
    upward = push - gravity * body.falling_factor
    fastest = body.terminal_speed * player.terminal_factor
    if -rising * AT_THE_END < fastest:
        return upward
    return max(upward if -rising <= fastest * AT_THE_END else push, 0.0)


@leaf
def limit_air(body: Any, player: Any, segment: Any, is_free: bool) -> None:
    """Write what ends a flight: a speed reached, an apex, the fastest fall.

    A flight that is not free slides along something, and its acceleration has been projected onto that.
    """
    ux, uy = player.up_x, player.up_y
    rx, ry = uy * player.handed, -ux * player.handed
    across = player.vx * rx + player.vy * ry
    rising = player.vx * ux + player.vy * uy
    rate, short = segment.ax * rx + segment.ay * ry, segment.goal - across
    end = math.inf
    if short * rate > 0.0 and abs(short) > SAME_SPEED * body.sprint:
        end = short / rate
    if end <= segment.limit * AT_THE_END:
        segment.limit, segment.value = min(end, segment.limit), segment.goal
        segment.reason = SPEED_REACHED if is_free else BRAKED
        segment.axis_x, segment.axis_y = rx, ry
    climb = segment.ax * ux + segment.ay * uy
    fastest = body.terminal_speed * player.terminal_factor
    end, reason, value = math.inf, TERMINAL, -fastest
    if climb < 0.0:
        if rising > SAME_SPEED * (body.sprint + body.jump_speed):
            end, reason, value = rising / -climb, AT_APEX, 0.0
        elif -rising * AT_THE_END < fastest:
            end = (fastest + rising) / -climb
    elif climb > 0.0 and -rising > fastest * AT_THE_END:
        end = (-rising - fastest) / climb
    if end <= segment.limit * AT_THE_END:
        segment.limit, segment.reason, segment.value = min(end, segment.limit), reason, value
        segment.axis_x, segment.axis_y = ux, uy


@leaf
def plan_ground(body: Any, player: Any, segment: Any, tx: float, ty: float) -> None:
    """Write the acceleration along the ground, whose direction to the right is (tx, ty).

    What is wanted is wanted relative to a belt. Where the ground has friction, traction is at most μ g cos θ, and
    gravity along the slope takes what it does not hold.
    """
    # A belt runs round its piece, clockwise: its speed is the same on every face and corner.
    belt = player.conveyor * player.handed
    speed = player.vx * tx + player.vy * ty
    target = direction(player.held) * gait(body, player)
    accelerate, brake = body.ground_accel * player.accel_factor, body.ground_brake * player.accel_factor
    rate, goal, end = approach(speed - belt, target, accelerate, brake, body.sprint)
    goal += belt
    segment.goal = goal
    segment.slip = 0.0
    if player.friction >= 0.0:
        pull = player.gravity_x * tx + player.gravity_y * ty
        grip = player.friction * abs(player.gravity_x * ty - player.gravity_y * tx)
        wanted = rate - pull
        rate = max(min(wanted, grip), -grip) + pull
        if abs(wanted) > grip:
            segment.slip = player.friction if wanted > 0.0 else -player.friction
        if abs(rate) <= SAME_SPEED * (grip + abs(pull)):
            rate = 0.0
        short = goal - speed
        end = short / rate if short * rate > 0.0 and abs(short) > SAME_SPEED * body.sprint else math.inf
    if end <= segment.limit * AT_THE_END:
        segment.limit, segment.reason, segment.value = min(end, segment.limit), SPEED_REACHED, goal
        segment.axis_x, segment.axis_y = tx, ty
    segment.ax = rate * tx
    segment.ay = rate * ty
