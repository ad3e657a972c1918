"""Where movers are, in closed form: by their routes and spins, by how they fall, and by what carries them."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import leaf
from haptos.engine.records.codes import FALLS, GONE

# Sines and cosines this small are those of right angles: what has turned by one stands exactly upright.
RIGHT_ANGLE = 1e-12
# What begins in less than that (seconds) has begun: where a segment ends at the end of a leg, the next one holds.
SAME_MOMENT = 1e-12
# At half of an eased way the speed is 1.5 times the mean.
EASED = 1.5


@leaf
def pose_at(movers: Any, world: Any, moving: Any, number: int, t: float) -> None:
    """Write where a mover is at a time, relative to where it is placed, how it is turned, and how fast."""
    mover = movers.movers[number]
    pose = moving[number]
    x, y, angle, vx, vy, spin = _own(mover, movers.legs, movers.knots, pose, t)
    x, y = x + mover.x, y + mover.y
    here = is_there(pose)
    fall, fall_speed = _fallen(movers.crumbles, mover.crumble, pose, t)
    carrier = mover.parent
    while carrier >= 0:
        other = movers.movers[carrier]
        ox, oy, turn, ovx, ovy, other_spin = _own(other, movers.legs, movers.knots, moving[carrier], t)
        here = here and is_there(moving[carrier])
        deeper, faster = _fallen(movers.crumbles, other.crumble, moving[carrier], t)
        fall, fall_speed = fall + deeper, fall_speed + faster
        # What is carried goes round the carrier's place.
        cosine, sine = math.cos(turn), math.sin(turn)
        x, y = x - other.x, y - other.y
        x, y = x * cosine - y * sine, x * sine + y * cosine
        vx, vy = vx * cosine - vy * sine + ovx - other_spin * y, vx * sine + vy * cosine + ovy + other_spin * x
        x, y = x + other.x + ox, y + other.y + oy
        angle += turn
        spin += other_spin
        carrier = other.parent
    pose.x, pose.y = x - mover.x - fall * world.up_x, y - mover.y - fall * world.up_y
    pose.vx, pose.vy = vx - fall_speed * world.up_x, vy - fall_speed * world.up_y
    cosine, sine = math.cos(angle), math.sin(angle)
    if abs(sine) < RIGHT_ANGLE:
        cosine, sine = math.copysign(1.0, cosine), 0.0
    elif abs(cosine) < RIGHT_ANGLE:
        cosine, sine = 0.0, math.copysign(1.0, sine)
    pose.cosine, pose.sine, pose.spin = cosine, sine, spin
    pose.here = 1 if here else 0
    pose.t = t


@leaf
def look_ahead(movers: Any, moving: Any, number: int, t: float, least: float) -> None:
    """Write whether a mover goes straight on from a time, and until when it does whatever it does, `least` ahead."""
    pose = moving[number]
    pose.steady = 0 if movers.movers[number].revolves else 1
    pose.until = math.inf
    carrier = number
    while carrier >= 0:
        mover, other = movers.movers[carrier], moving[carrier]
        if mover.legs > 0:
            ends, goes_straight = _leg_ends(mover, movers.legs, other.clock, other.ran, t, least)
            pose.until = min(pose.until, ends)
            if not goes_straight:
                pose.steady = 0
        if mover.flight >= 0 and other.from_t > t + least:
            pose.until = min(pose.until, other.from_t)
        if mover.crumble >= 0 and other.phase == FALLS:
            crumble = movers.crumbles[mover.crumble]
            fastest = other.since + crumble.top_speed / crumble.accel if crumble.accel > 0.0 else -math.inf
            if other.since > t + least:
                pose.until = min(pose.until, other.since)
            elif fastest > t + least:
                pose.steady = 0
                pose.until = min(pose.until, fastest)
        carrier = mover.parent


@leaf
def _leg_ends(mover: Any, legs: Any, begun: float, ran: float, t: float, least: float) -> tuple[float, bool]:
    """Return when the pause or the way of a route ends that it is on, and whether it stands or goes straight on."""
    if not begun <= t:
        return begun if begun > t + least else math.inf, True
    index, clock = _leg_at(mover, legs, begun, ran, t)
    leg = legs[index]
    begins, ends = leg.begin + leg.pause - clock, leg.begin + leg.pause + leg.duration - clock
    if begins > least:
        return t + begins, not (mover.turns and leg.turn != 0.0)
    if ends > least:
        return t + ends, not (mover.ease or mover.curved)
    if mover.period == math.inf and index == mover.first_leg + mover.legs - 1:
        return math.inf, True
    # The next leg is about to begin; what it does is seen then.
    return t + 2.0 * least, False


@leaf
def is_there(pose: Any) -> bool:
    """Whether a mover is there by itself: neither gone nor switched off; `pose.here` asks what carries it too."""
    return pose.phase != GONE and not pose.off


@leaf
def poses_at(movers: Any, world: Any, moving: Any, t: float) -> None:
    """Write where every mover is at a time; a kernel of its own, for those who ask between ticks."""
    for number in range(movers.movers.shape[0]):
        pose_at(movers, world[0], moving, number, t)


@leaf
def _own(mover: Any, legs: Any, knots: Any, pose: Any, t: float) -> tuple[float, float, float, float, float, float]:
    """Return offset, angle, velocity and spin of a mover by its own route, flight and spin."""
    x, y, angle, vx, vy, spin = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    if mover.legs > 0:
        x, y, angle, vx, vy, spin = _on_route(mover, legs, knots, pose.clock, pose.ran, t)
    if mover.flight >= 0:
        time = max(t - pose.from_t, 0.0)
        x, y = x + pose.from_x + pose.fly_vx * time, y + pose.from_y + pose.fly_vy * time
        vx, vy = vx + pose.fly_vx, vy + pose.fly_vy
        angle += pose.from_angle + pose.fly_spin * time
        spin += pose.fly_spin
    if mover.spin == 0.0:
        return x, y, angle, vx, vy, spin
    # About its own place it turns by the route; about the pivot, which goes with that, by the spin.
    cosine, sine = math.cos(angle), math.sin(angle)
    arm_x = mover.pivot_x * cosine - mover.pivot_y * sine
    arm_y = mover.pivot_x * sine + mover.pivot_y * cosine
    swing = (mover.spin * t) % (2.0 * math.pi)
    cosine, sine = math.cos(swing), math.sin(swing)
    swung_x, swung_y = arm_x * cosine - arm_y * sine, arm_x * sine + arm_y * cosine
    both = spin + mover.spin
    vx, vy = vx - spin * arm_y + both * swung_y, vy + spin * arm_x - both * swung_x
    return x + arm_x - swung_x, y + arm_y - swung_y, angle + swing, vx, vy, both


@leaf
def _on_route(
    mover: Any, legs: Any, knots: Any, begun: float, ran: float, t: float
) -> tuple[float, float, float, float, float, float]:
    """Return offset, angle, velocity and spin by a route whose clock began at a time, having run before for another.

    The time is infinite while the clock stands still.
    """
    runs = begun <= t
    index, clock = _leg_at(mover, legs, begun, ran, t)
    leg = legs[index]
    going = clock - leg.begin - leg.pause
    share, rate = 0.0, 0.0
    if going >= leg.duration - SAME_MOMENT:
        share = 1.0
    elif going >= -SAME_MOMENT:
        share, rate = _eased(mover.ease, max(going, 0.0), leg.duration)
    x, y = leg.x + share * leg.dx, leg.y + share * leg.dy
    vx, vy = rate * leg.dx, rate * leg.dy
    heading, spin = leg.heading, 0.0
    if mover.curved:
        x, y, vx, vy, heading, spin = _on_curve(leg, knots, share, rate)
    if not mover.turns:
        heading, spin = mover.heading, 0.0
    elif leg.turn != 0.0 and going < 0.0:
        part, pace = _eased(mover.ease, clock - leg.begin, leg.pause)
        heading -= leg.turn * (1.0 - part)
        spin = leg.turn * pace
    if not runs:
        vx, vy, spin = 0.0, 0.0, 0.0
    return x, y, heading - mover.heading, vx, vy, spin


@leaf
def _leg_at(mover: Any, legs: Any, begun: float, ran: float, t: float) -> tuple[int, float]:
    """Return the leg that a route is on, and the time of its clock within the cycle."""
    clock = mover.start + ran
    if begun <= t:
        clock += t - begun
    if mover.period < math.inf:
        clock %= mover.period
    last = mover.first_leg + mover.legs - 1
    index = mover.first_leg
    while index < last and legs[index + 1].begin <= clock + SAME_MOMENT:
        index += 1
    return index, clock


@leaf
def _eased(ease: int, going: float, duration: float) -> tuple[float, float]:
    """Return the share of a way after a time, and how fast it grows."""
    share, rate = going / duration, 1.0 / duration
    if ease:
        rate *= 6.0 * share * (1.0 - share)
        share *= share * (3.0 - 2.0 * share)
    return share, rate


@leaf
def _on_curve(leg: Any, knots: Any, share: float, rate: float) -> tuple[float, float, float, float, float, float]:
    """Return place, velocity, heading and how fast that turns, on the Hermite cubics of a leg."""
    pieces = leg.knots - 1
    piece = min(int(share * pieces), pieces - 1)
    w = share * pieces - piece
    p, q = knots[leg.first_knot + piece], knots[leg.first_knot + piece + 1]
    # The four cubics of Hermite, their first and their second derivatives.
    h0, h1, h2, h3 = square(1 - w) * (1 + 2 * w), square(1 - w) * w, w * w * (3 - 2 * w), w * w * (w - 1)
    d0, d1, d3 = 6 * w * (w - 1), (1 - w) * (1 - 3 * w), w * (3 * w - 2)
    e0, e1, e3 = 12 * w - 6, 6 * w - 4, 6 * w - 2
    x, y = h0 * p.x + h1 * p.dx + h2 * q.x + h3 * q.dx, h0 * p.y + h1 * p.dy + h2 * q.y + h3 * q.dy
    dx, dy = d0 * (p.x - q.x) + d1 * p.dx + d3 * q.dx, d0 * (p.y - q.y) + d1 * p.dy + d3 * q.dy
    bend_x, bend_y = e0 * (p.x - q.x) + e1 * p.dx + e3 * q.dx, e0 * (p.y - q.y) + e1 * p.dy + e3 * q.dy
    pace = rate * pieces
    turning = pace * (dx * bend_y - dy * bend_x) / (dx * dx + dy * dy)
    return x, y, pace * dx, pace * dy, math.atan2(leg.sense * dy, leg.sense * dx), turning


@leaf
def _fallen(crumbles: Any, row: int, pose: Any, t: float) -> tuple[float, float]:
    """Return how far a mover that has given way has fallen at a time, and how fast it falls."""
    if row < 0 or pose.phase != FALLS:
        return 0.0, 0.0
    crumble = crumbles[row]
    return fall_after(crumble.accel, crumble.top_speed, max(t - pose.since, 0.0))


@leaf
def fall_after(accel: float, top_speed: float, time: float) -> tuple[float, float]:
    """Return how far something falls from rest in a time, and how fast it is then."""
    if accel * time <= top_speed:
        return 0.5 * accel * time * time, accel * time
    rise = top_speed / accel
    return top_speed * (time - 0.5 * rise), top_speed


@leaf
def remember_pose(pose: Any) -> None:
    """Note the pose that holds where a segment begins."""
    pose.old_x, pose.old_y, pose.old_cosine, pose.old_sine = pose.x, pose.y, pose.cosine, pose.sine


@leaf
def moved_since(mover: Any, pose: Any, x: float, y: float) -> tuple[float, float]:
    """Return by how much the point of a mover that is at a place now has moved since the pose that was noted."""
    if not mover.turning:
        return pose.x - pose.old_x, pose.y - pose.old_y
    dx, dy = x - mover.x - pose.x, y - mover.y - pose.y
    local_x, local_y = dx * pose.cosine + dy * pose.sine, dy * pose.cosine - dx * pose.sine
    before_x = mover.x + pose.old_x + local_x * pose.old_cosine - local_y * pose.old_sine
    before_y = mover.y + pose.old_y + local_x * pose.old_sine + local_y * pose.old_cosine
    return x - before_x, y - before_y


@leaf
def point_velocity(mover: Any, pose: Any, x: float, y: float) -> tuple[float, float]:
    """Return the velocity of a mover at a point of the world."""
    if not mover.turning:
        return pose.vx, pose.vy
    return pose.vx - pose.spin * (y - mover.y - pose.y), pose.vy + pose.spin * (x - mover.x - pose.x)


@leaf
def stand_of(movers: Any, world: Any, moving: Any, number: int, t: float) -> tuple[int, float, float]:
    """Return which pose something has, brought to a time, and its place; the last pose is that of what stays."""
    if number < 0:
        return movers.movers.shape[0], 0.0, 0.0
    other, pose = movers.movers[number], moving[number]
    if pose.t != t:
        pose_at(movers, world, moving, number, t)
        # Its outlines are brought there before the body can meet them.
        pose.t = math.nan
    return number, other.x + pose.x, other.y + pose.y


@leaf
def flown_to(movers: Any, world: Any, moving: Any, number: int, t: float) -> tuple[float, float]:
    """Return where something that flies is at a time."""
    mover, pose = movers.movers[number], moving[number]
    if mover.parent >= 0:
        _, x, y = stand_of(movers, world, moving, number, t)
        return x, y
    time = max(t - pose.from_t, 0.0)
    return mover.x + pose.from_x + pose.fly_vx * time, mover.y + pose.from_y + pose.fly_vy * time


@leaf
def is_carried_by(movers: Any, number: int, carrier: int) -> bool:
    """Whether a mover is carried by another one, directly or not."""
    number = movers.movers[number].parent
    while number >= 0:
        if number == carrier:
            return True
        number = movers.movers[number].parent
    return False
