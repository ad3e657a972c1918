"""Rounded corners: a body that stays on one moves along an arc, in chords.

Along a corner the arc length obeys the same constant acceleration as along a face, so the ends of every chord lie
exactly on the arc; only what happens on the way, contacts and zones, sees the chord.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import SIDE_CONE, SLIDING, is_one_way
from haptos.engine.collision.roots import falls_at
from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.player.controls import ARC_STEP, AT_APEX, BRAKED, END_OF_TICK, SPEED_REACHED, TERMINAL
from haptos.engine.player.corner_ends import corner_end
from haptos.engine.player.impacts import find_impact
from haptos.engine.player.regions import NEAR_END, limit_at_effects

# Radians of a corner in one chord: its sag, R (1 - cos 1.5°), is 3e-4 R.
CHORD = math.radians(3.0)
# Reasons that are handed over are values: Numba compiles a function again for every plain integer.
REACHED, TURNS_BACK, IS_BRAKED = constant(SPEED_REACHED), constant(AT_APEX), constant(BRAKED)
# The angle at which a body is flung off is found by so many halvings, and passed by so much (radians).
HALVINGS = 48
# Newton's steps to the time of an angle: the first guess is good to some thousandths.
SWING_STEPS = 4
BEYOND_FLIGHT = 1e-8
# A chord is cut this often at most: half of that for the edge of an effect, the rest for what is hit.
MOST_CUTS = 16
HALF_OF_THEM = MOST_CUTS // 2
# A chord on which something is hit is shortened to this before the hit counts.
SHORT_CHORD = math.radians(0.05)


@leaf
def step_corner(core: Any, felt: Any, effects: Any, movers: Any, moving: Any, near: Any, height: float) -> None:
    """Plan the next chord along the corner in `segment.arc`, and look for what is hit on it."""
    solids, player, contacts, passing = core.solids, core.player, core.contacts, core.passing
    segment, hit = core.segment, core.hit
    contact = contacts[segment.arc]
    outline = solids.outlines[contact.outline]
    tx, ty = contact.ny, -contact.nx
    speed = (player.vx - contact.ux) * tx + (player.vy - contact.uy) * ty
    rate = segment.ax * tx + segment.ay * ty
    way = 1.0 if speed > 0.0 else -1.0
    if abs(speed) <= SLIDING * abs(rate) * segment.limit:
        way = 1.0 if rate > 0.0 else -1.0
    angle, owner, following = corner_end(solids, passing, contact, way, height)
    angle_limit = min(angle, CHORD)
    if segment.ground >= 0:
        angle_limit = min(angle_limit, _to_steepest(core.world, player, contact, tx * way, ty * way))
    if is_one_way(outline):
        angle_limit = min(angle_limit, _to_side_end(outline, contact, way))
    _note_pull(core.body, player, segment, contact)
    if segment.swings and segment.reason in (SPEED_REACHED, TERMINAL, AT_APEX, BRAKED):
        # These were found for a straight way; on the arc they are found below.
        segment.limit, segment.reason = segment.rest, END_OF_TICK
    angle_limit = min(angle_limit, _to_flight(outline, contact, segment, speed, rate * way, way, angle_limit))
    t = _covers_at(outline.radius * angle_limit, speed * way, rate * way)
    if segment.swings:
        t = _swings_to(outline, contact, segment, speed, way, angle_limit, t)
    if t < segment.limit:
        segment.limit = t
        segment.reason = ARC_STEP
        segment.which = following if angle_limit == angle else -1
        segment.onto = owner
    if segment.swings:
        _limit_swing(outline, contact, player, segment, speed)
    latest, reason, which = segment.limit, segment.reason, segment.which
    for attempt in range(MOST_CUTS):
        turned = _place_on_arc(outline, solids.faces, contact, segment, speed, rate, segment.limit)
        if segment.limit > 0.0:
            segment.path_vx = (segment.end_x - player.x) / segment.limit + contact.ux
            segment.path_vy = (segment.end_y - player.y) / segment.limit + contact.uy
        segment.path_ax, segment.path_ay = 0.0, 0.0
        before = segment.limit
        segment.limit, segment.reason, segment.which = min(latest, 2.0 * before), reason, which
        limit_at_effects(effects, felt.within, movers, moving, player, segment, height)
        if segment.limit > 0.0 and abs(segment.limit - before) > NEAR_END * before and attempt < HALF_OF_THEM:
            # The chord to there is another one, nearer to the arc, and crosses the edge sooner or later than this one.
            continue
        find_impact(core, movers, moving, near)
        if hit.t >= segment.limit or turned <= SHORT_CHORD:
            return
        latest = max(hit.t, 0.5 * SHORT_CHORD / turned * segment.limit)
        reason, which = ARC_STEP, -1
        segment.limit, segment.reason, segment.which = latest, reason, which


@leaf
def _note_pull(body: Any, player: Any, segment: Any, contact: Any) -> None:
    """Note what a corner is rounded under: alone on it in the air, free flight's acceleration; slipping over it on the
    ground, gravity and friction. Otherwise the body keeps to the acceleration that it wants.
    """
    segment.swings = 0
    if segment.ground < 0:
        segment.slip = 0.0
        segment.pull_x, segment.pull_y = segment.free_ax, segment.free_ay
        segment.swings = 1 if segment.flies and segment.lone else 0
        rx, ry = player.up_y * player.handed, -player.up_x * player.handed
        across = player.vx * rx + player.vy * ry
        if across == 0.0 and segment.goal != 0.0:
            # From rest it may be drawn back against its wish; then it is braking, not speeding up, that it does.
            along = segment.pull_x * contact.ny - segment.pull_y * contact.nx
            if along * (contact.ny * rx - contact.nx * ry) * segment.goal < 0.0:
                less = (body.air_brake - body.air_accel) * player.accel_factor
                less = less if segment.goal > 0.0 else -less
                segment.pull_x += less * rx
                segment.pull_y += less * ry
    elif player.friction >= 0.0 and segment.slip != 0.0:
        segment.slip *= player.handed
        segment.pull_x, segment.pull_y = player.gravity_x, player.gravity_y
        segment.swings = 1


@leaf
def _place_on_arc(outline: Any, faces: Any, contact: Any, segment: Any, speed: float, rate: float, t: float) -> float:
    """Write where on the arc the body is after a time; return the angle it turned by."""
    corner = faces[-1 - contact.feature]
    moved, end_speed = t * (speed + 0.5 * rate * t), speed + rate * t
    if segment.swings:
        moved, end_speed = _swing(outline, contact, segment, speed, t)
    # Along +t the normal turns clockwise.
    angle = -moved / outline.radius
    cosine, sine = math.cos(angle), math.sin(angle)
    segment.end_nx = contact.nx * cosine - contact.ny * sine
    segment.end_ny = contact.nx * sine + contact.ny * cosine
    segment.end_x = corner.x + outline.radius * segment.end_nx
    segment.end_y = corner.y + outline.radius * segment.end_ny
    segment.end_speed = end_speed
    return abs(angle)


@leaf
def _swing(outline: Any, contact: Any, segment: Any, speed: float, t: float) -> tuple[float, float]:
    """Return the way along the arc and the speed after a time under the noted pull, by one Runge-Kutta step."""
    radius = outline.radius
    half = 0.5 * t
    a1 = _pull_along(contact, segment, 0.0)
    v2 = speed + half * a1
    a2 = _pull_along(contact, segment, half * speed / radius)
    v3 = speed + half * a2
    a3 = _pull_along(contact, segment, half * v2 / radius)
    v4 = speed + t * a3
    a4 = _pull_along(contact, segment, t * v3 / radius)
    return t * (speed + 2.0 * v2 + 2.0 * v3 + v4) / 6.0, speed + t * (a1 + 2.0 * a2 + 2.0 * a3 + a4) / 6.0


@leaf
def _pull_along(contact: Any, segment: Any, angle: float) -> float:
    """Return the acceleration along the arc, clockwise, after a clockwise angle."""
    cosine, sine = math.cos(angle), -math.sin(angle)
    nx, ny = contact.nx * cosine - contact.ny * sine, contact.nx * sine + contact.ny * cosine
    along, into = segment.pull_x * ny - segment.pull_y * nx, segment.pull_x * nx + segment.pull_y * ny
    return along + segment.slip * abs(into)


@leaf
def _swings_to(outline: Any, contact: Any, segment: Any, speed: float, way: float, angle: float, t: float) -> float:
    """Return when a swing reaches an angle, from a first guess at it, by Newton's method."""
    if not t < segment.limit:
        return t
    for _ in range(SWING_STEPS):
        moved, end_speed = _swing(outline, contact, segment, speed, t)
        if end_speed * way <= 0.0:
            return t
        t -= (moved * way - angle * outline.radius) / (end_speed * way)
    return max(t, 0.0)


@leaf
def _limit_swing(outline: Any, contact: Any, player: Any, segment: Any, speed: float) -> None:
    """End the segment where a swing turns back, or where the wanted speed is reached."""
    tiny = SLIDING * (abs(speed) + math.sqrt(square(segment.pull_x) + square(segment.pull_y)) * segment.rest)
    if segment.ground >= 0:
        _limit_at_root(outline, contact, player, segment, speed, 0.0, segment.goal * player.handed, tiny, REACHED)
        return
    _limit_at_root(outline, contact, player, segment, speed, 0.0, 0.0, tiny, TURNS_BACK)
    _limit_at_root(outline, contact, player, segment, speed, player.handed, segment.goal, tiny, IS_BRAKED)


@leaf
def _limit_at_root(
    outline: Any,
    contact: Any,
    player: Any,
    segment: Any,
    speed: float,
    right: float,
    goal: float,
    tiny: float,
    reason: int,
) -> None:
    """End the segment where the speed along the arc, or, for `right` not zero, to the right, is the goal."""
    begin = _speed_on_swing(outline, contact, player, segment, speed, right, 0.0) - goal
    end = _speed_on_swing(outline, contact, player, segment, speed, right, segment.limit) - goal
    if abs(begin) <= tiny or begin * end >= 0.0:
        return
    low, high = 0.0, segment.limit
    for _ in range(HALVINGS):
        middle = 0.5 * (low + high)
        if (_speed_on_swing(outline, contact, player, segment, speed, right, middle) - goal) * begin > 0.0:
            low = middle
        else:
            high = middle
    segment.limit, segment.reason = high, reason
    segment.value = segment.goal


@leaf
def _speed_on_swing(
    outline: Any, contact: Any, player: Any, segment: Any, speed: float, right: float, t: float
) -> float:
    moved, there = _swing(outline, contact, segment, speed, t)
    if right == 0.0:
        return there
    angle = moved / outline.radius
    cosine, sine = math.cos(angle), -math.sin(angle)
    nx, ny = contact.nx * cosine - contact.ny * sine, contact.nx * sine + contact.ny * cosine
    return right * there * (ny * player.up_y + nx * player.up_x)


@leaf
def plan_round_corner(solids: Any, player: Any, contacts: Any, segment: Any, duration: float) -> None:
    """Write where on the arc, and how fast, the body is after a time."""
    contact = contacts[segment.arc]
    outline = solids.outlines[contact.outline]
    tx, ty = contact.ny, -contact.nx
    speed = (player.vx - contact.ux) * tx + (player.vy - contact.uy) * ty
    rate = segment.ax * tx + segment.ay * ty
    _place_on_arc(outline, solids.faces, contact, segment, speed, rate, duration)


@leaf
def _to_flight(outline: Any, contact: Any, segment: Any, speed: float, rate: float, way: float, most: float) -> float:
    """Return the angle within `most` to where the body is flung off: where v²/R + a·n becomes positive."""
    if _flings(outline, contact, segment, speed, rate, way, 0.0) > 0.0:
        return math.inf
    if _flings(outline, contact, segment, speed, rate, way, most) <= 0.0:
        return math.inf
    low, high = 0.0, most
    for _ in range(HALVINGS):
        middle = 0.5 * (low + high)
        if _flings(outline, contact, segment, speed, rate, way, middle) > 0.0:
            high = middle
        else:
            low = middle
    return high + BEYOND_FLIGHT


@leaf
def _flings(outline: Any, contact: Any, segment: Any, speed: float, rate: float, way: float, angle: float) -> float:
    """Return v²/R + a·n after an angle, a being the acceleration of free flight."""
    cosine, sine = math.cos(angle), -way * math.sin(angle)
    nx, ny = contact.nx * cosine - contact.ny * sine, contact.nx * sine + contact.ny * cosine
    gained = 2.0 * rate * outline.radius * angle
    if segment.swings and segment.ground < 0:
        # The work of a constant force.
        gained = 2.0 * outline.radius * (segment.free_ax * (nx - contact.nx) + segment.free_ay * (ny - contact.ny))
    square = max(speed * speed + gained, 0.0)
    return square / outline.radius + segment.free_ax * nx + segment.free_ay * ny


@leaf
def _to_side_end(outline: Any, contact: Any, way: float) -> float:
    """Return the angle to where a one-way corner is no longer on its side."""
    sx, sy = outline.side_x, outline.side_y
    # How far the normal has turned past the side's direction, the way it turns.
    turned = way * math.atan2(sx * -contact.ny + sy * contact.nx, sx * contact.nx + sy * contact.ny)
    return max(math.acos(SIDE_CONE) - turned, 0.0) + 1e-6


@leaf
def _to_steepest(world: Any, player: Any, contact: Any, wx: float, wy: float) -> float:
    """Return the angle to where the corner becomes too steep to stand on, if the motion goes downhill."""
    uphill = contact.nx * player.up_x + contact.ny * player.up_y
    if wx * player.up_x + wy * player.up_y >= 0.0:
        return math.inf
    # A little beyond, so that the next segment sees it as too steep.
    return max(math.acos(world.steepest) - math.acos(min(uphill, 1.0)), 0.0) + 1e-6


@leaf
def _covers_at(distance: float, speed: float, rate: float) -> float:
    """Return when a distance is covered; infinite if the motion stops before."""
    return falls_at(distance, -speed, -rate)
