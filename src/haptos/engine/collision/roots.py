"""When a polynomial in time falls through zero."""

from __future__ import annotations

import math

from haptos.engine.compiling.arithmetic import cube, fourth_power, square
from haptos.engine.compiling.contract import leaf

NEVER = math.inf
# Interval halvings after which a grazing root is called a miss: 2^-50 of the horizon is below rounding.
FINEST = 1e-15
MOST_STEPS = 240


@leaf
def falls_at(gap: float, speed: float, acceleration: float) -> float:
    """Return when gap + speed t + acceleration t²/2 falls through zero.

    The form without cancellation is used on either branch; a time before zero means that it has fallen already.
    """
    if acceleration < 0.0:
        square = speed * speed - 2.0 * acceleration * gap
        if square < 0.0:
            return NEVER
        root = math.sqrt(square)
        if speed > 0.0:
            return -(speed + root) / acceleration
        if root - speed == 0.0:
            return 0.0
        return 2.0 * gap / (root - speed)
    if speed >= 0.0:
        return NEVER
    square = speed * speed - 2.0 * acceleration * gap
    if square < 0.0:
        return NEVER
    return 2.0 * gap / (math.sqrt(square) - speed)


@leaf
def falls_within(gap: float, speed: float, acceleration: float, horizon: float) -> float:
    """Return `falls_at` of a gap above zero; infinite at once if it can't close before the horizon."""
    if gap > horizon * (abs(speed) + 0.5 * abs(acceleration) * horizon):
        return NEVER
    return falls_at(gap, speed, acceleration)


@leaf
def quartic_falls_at(c0: float, c1: float, c2: float, c3: float, c4: float, horizon: float) -> float:
    """Return the first time in (0, horizon] at which a quartic that starts above zero reaches it.

    Intervals on which all Bernstein coefficients are positive hold no root; the others are halved until the
    coefficients change sign once, which encloses exactly one root for Newton's method to find.
    """
    low, width = 0.0, horizon
    for _ in range(MOST_STEPS):
        d0 = c0 + low * (c1 + low * (c2 + low * (c3 + low * c4)))
        d1 = c1 + low * (2.0 * c2 + low * (3.0 * c3 + low * 4.0 * c4))
        d2 = c2 + low * (3.0 * c3 + low * 6.0 * c4)
        d3 = c3 + low * 4.0 * c4
        e1, e2, e3, e4 = d1 * width, d2 * square(width), d3 * cube(width), c4 * fourth_power(width)
        b1 = d0 + e1 / 4.0
        b2 = d0 + e1 / 2.0 + e2 / 6.0
        b3 = d0 + 0.75 * e1 + e2 / 2.0 + e3 / 4.0
        b4 = d0 + e1 + e2 + e3 + e4
        if b1 > 0.0 and b2 > 0.0 and b3 > 0.0 and b4 > 0.0:
            low += width
            if low >= horizon * (1.0 - FINEST):
                return NEVER
            width = min(2.0 * width, horizon - low)
            continue
        changes = int(b1 <= 0.0) + int((b1 <= 0.0) != (b2 <= 0.0)) + int((b2 <= 0.0) != (b3 <= 0.0))
        changes += int((b3 <= 0.0) != (b4 <= 0.0))
        if changes == 1 and d0 > 0.0:
            return low + _newton(d0, d1, d2, d3, c4, width)
        if width <= FINEST * horizon:
            return low
        width *= 0.5
    return NEVER


@leaf
def _newton(d0: float, d1: float, d2: float, d3: float, d4: float, width: float) -> float:
    low, high = 0.0, width
    t = 0.5 * width
    for _ in range(80):
        value = d0 + t * (d1 + t * (d2 + t * (d3 + t * d4)))
        if value > 0.0:
            low = t
        else:
            high = t
        slope = d1 + t * (2.0 * d2 + t * (3.0 * d3 + t * 4.0 * d4))
        following = t - value / slope if slope != 0.0 else low
        if not low < following < high:
            following = 0.5 * (low + high)
        if abs(following - t) <= 1e-16 * width or following == t:
            return following
        t = following
    return t
