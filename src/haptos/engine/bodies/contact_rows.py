"""Contacts as rows of a system for the impulses: the gap along a normal may not close, friction holds along it [1]_.

Where bodies touch, the gap is closed softly in a first pass, as a spring with a strong damper would, and what that gave
the velocities is taken out again in a second one [2]_. Both impulses of a pair act at one point of the world, so that
momentum and its moment stay what they are. The two points of a side are solved together, exactly [3]_.

References
----------
.. [1] E. Catto, "Iterative dynamics with temporal coherence", Game Developers Conference (2005).
.. [2] E. Catto, "Soft constraints", Game Developers Conference (2011); M. Macklin et al., "Small steps in physics
   simulation", SCA (2019).
.. [3] R. Cottle, J.-S. Pang, R. Stone, "The Linear Complementarity Problem", SIAM (2009): the four cases of two.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.records.loose_records import CORNERS, FIRST_SIDE, SECOND_SIDE

# So much of a gap (a share of a body's size) is left below zero, and things that touch are pressed apart by no more
# than so many sizes a second.
SLOP = 0.0005
FASTEST_OUT = 10.0
# Two points whose rows are this near to being one are solved one after the other.
NEARLY_ONE = 1e-6
# A gap is open from this share of a size on: what touches exactly is closed, however it is rounded.
OPEN = 1e-6
ROUNDING = 1e-12
# What is not limited.
NO_CAP = -1.0
# The rest of a gap that is left when it is closed in a step.
HARD, SOFT = constant(0), constant(1)


@leaf
def place_rows(stirred: Any, number: int) -> None:
    """Write the normal, the gaps and the arms of a pair as its shapes lie now."""
    pair = stirred.pairs[number]
    a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
    # The one whose side it is, and the one that comes to it; the normal points away from the side.
    if pair.kind == FIRST_SIDE:
        pair.nx = a.cosine * pair.side_x - a.sine * pair.side_y
        pair.ny = a.sine * pair.side_x + a.cosine * pair.side_y
    elif pair.kind != CORNERS:
        pair.nx = -(b.cosine * pair.side_x - b.sine * pair.side_y)
        pair.ny = -(b.sine * pair.side_x + b.cosine * pair.side_y)
    share = 0.5
    if a.light == 0.0 and a.nimble == 0.0:
        share = 0.0 if pair.kind != SECOND_SIDE else 1.0
    elif b.light == 0.0 and b.nimble == 0.0:
        share = 1.0 if pair.kind != SECOND_SIDE else 0.0
    pair.gap = math.inf
    for place in range(pair.points):
        point = stirred.points[2 * number + place]
        if pair.kind == SECOND_SIDE:
            fx, fy = b.x + b.cosine * point.side_x - b.sine * point.side_y, b.y + b.sine * point.side_x
            fy += b.cosine * point.side_y
            tx = a.x + a.cosine * point.tip_x - a.sine * point.tip_y
            ty = a.y + a.sine * point.tip_x + a.cosine * point.tip_y
        else:
            fx, fy = a.x + a.cosine * point.side_x - a.sine * point.side_y, a.y + a.sine * point.side_x
            fy += a.cosine * point.side_y
            tx = b.x + b.cosine * point.tip_x - b.sine * point.tip_y
            ty = b.y + b.sine * point.tip_x + b.cosine * point.tip_y
        dx, dy = tx - fx, ty - fy
        if pair.kind == CORNERS:
            distance = math.sqrt(dx * dx + dy * dy)
            if distance > 0.0:
                pair.nx, pair.ny = dx / distance, dy / distance
            nx, ny, radius = pair.nx, pair.ny, pair.second_radius
            apart = distance - pair.first_radius - pair.second_radius
        elif pair.kind == FIRST_SIDE:
            nx, ny, radius = pair.nx, pair.ny, pair.second_radius
            apart = dx * nx + dy * ny - pair.first_radius - pair.second_radius
        else:
            nx, ny, radius = -pair.nx, -pair.ny, pair.first_radius
            apart = dx * nx + dy * ny - pair.first_radius - pair.second_radius
        point.gap = apart
        pair.gap = min(pair.gap, apart)
        # Where the impulse acts: on the one that moves if only one does, else halfway between both.
        far = radius + share * apart
        px, py = tx - far * nx, ty - far * ny
        point.first_x, point.first_y = px - a.x, py - a.y
        point.second_x, point.second_y = px - b.x, py - b.y
        nx, ny = pair.nx, pair.ny
        own, its = point.first_x * ny - point.first_y * nx, point.second_x * ny - point.second_y * nx
        point.across = a.light + b.light + a.nimble * own * own + b.nimble * its * its
    one = stirred.points[2 * number]
    pair.first_x, pair.first_y, pair.second_x, pair.second_y = one.first_x, one.first_y, one.second_x, one.second_y
    if pair.points == 2:
        other = stirred.points[2 * number + 1]
        pair.first_x, pair.first_y = 0.5 * (one.first_x + other.first_x), 0.5 * (one.first_y + other.first_y)
        pair.second_x, pair.second_y = 0.5 * (one.second_x + other.second_x), 0.5 * (one.second_y + other.second_y)
        nx, ny = pair.nx, pair.ny
        own = (one.first_x * ny - one.first_y * nx) * (other.first_x * ny - other.first_y * nx)
        its = (one.second_x * ny - one.second_y * nx) * (other.second_x * ny - other.second_y * nx)
        pair.mutual = a.light + b.light + a.nimble * own + b.nimble * its
    own = pair.first_x * pair.nx + pair.first_y * pair.ny
    its = pair.second_x * pair.nx + pair.second_y * pair.ny
    pair.along = a.light + b.light + a.nimble * own * own + b.nimble * its * its


@leaf
def push_at(a: Any, b: Any, point: Any, x: float, y: float) -> None:
    """Give an impulse to the second of two at a point, and its opposite to the first."""
    a.vx -= a.light * x
    a.vy -= a.light * y
    a.spin -= a.nimble * (point.first_x * y - point.first_y * x)
    b.vx += b.light * x
    b.vy += b.light * y
    b.spin += b.nimble * (point.second_x * y - point.second_y * x)


@leaf
def closing_at(a: Any, b: Any, point: Any, nx: float, ny: float) -> float:
    """Return how fast the second of two leaves the first at a point, along a direction."""
    vx = b.vx - b.spin * point.second_y - a.vx + a.spin * point.first_y
    vy = b.vy + b.spin * point.second_x - a.vy - a.spin * point.first_x
    return vx * nx + vy * ny


@leaf
def warm_up(stirred: Any, number: int) -> None:
    """Begin with the impulses of the step before."""
    pair = stirred.pairs[number]
    a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
    for place in range(pair.points):
        point = stirred.points[2 * number + place]
        if point.normal != 0.0:
            push_at(a, b, point, point.normal * pair.nx, point.normal * pair.ny)
    if pair.rubs != 0.0:
        push_between(pair, a, b, -pair.rubs * pair.ny, pair.rubs * pair.nx)


@leaf
def forget_impulses(stirred: Any, number: int) -> None:
    """Begin a step, or what is left of one, without those of the step before."""
    pair = stirred.pairs[number]
    pair.rubs = 0.0
    for place in range(pair.points):
        stirred.points[2 * number + place].normal = 0.0


@leaf
def _goal(laws: Any, point: Any, size: float, soft: int) -> tuple[float, float]:
    """Return the velocity that is asked for along the normal, and the share of the impulse that is given way to."""
    if point.gap > OPEN * size:
        return point.gap / laws.step, 0.0
    if soft == HARD:
        return 0.0, 0.0
    out = max(laws.soft * min(point.gap + SLOP * size, 0.0), -FASTEST_OUT * size)
    return out, laws.give * point.across


@leaf
def press_rows(stirred: Any, laws: Any, number: int, soft: int) -> None:
    """Solve a pair: its normals, and friction after them."""
    pair = stirred.pairs[number]
    a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
    size = min(a.size, b.size)
    one = stirred.points[2 * number]
    nx, ny = pair.nx, pair.ny
    solved = False
    if pair.points == 2:
        other = stirred.points[2 * number + 1]
        solved = _press_two(laws, pair, a, b, one, other, size, soft)
    if not solved:
        for place in range(pair.points):
            point = stirred.points[2 * number + place]
            goal, give = _goal(laws, point, size, soft)
            before = point.normal
            lacking = closing_at(a, b, point, nx, ny) + goal + give * before
            wanted = before - lacking / (point.across + give)
            if pair.cap >= 0.0:
                wanted = min(wanted, before + pair.left)
            point.normal = max(wanted, 0.0)
            change = point.normal - before
            if pair.cap >= 0.0:
                pair.left -= change
            if change != 0.0:
                push_at(a, b, point, change * nx, change * ny)
    if pair.friction > 0.0:
        pressed = 0.0
        for place in range(pair.points):
            pressed += stirred.points[2 * number + place].normal
        if pressed > 0.0 or pair.rubs != 0.0:
            pair.rubs += rub(pair, a, b, pair.friction * pressed, pair.rubs)


@leaf
def rub(pair: Any, a: Any, b: Any, most: float, before: float) -> float:
    """Let friction act between two, by at most so much either way, some of which it has done; return what it adds.

    Points of one side are on a line along it: for friction they are one, halfway between them.
    """
    tx, ty = -pair.ny, pair.nx
    vx = b.vx - b.spin * pair.second_y - a.vx + a.spin * pair.first_y
    vy = b.vy + b.spin * pair.second_x - a.vy - a.spin * pair.first_x
    slide = vx * tx + vy * ty - pair.belt
    change = min(max(before - slide / pair.along, -most), most) - before
    push_between(pair, a, b, change * tx, change * ty)
    return change


@leaf
def push_between(pair: Any, a: Any, b: Any, x: float, y: float) -> None:
    """Give an impulse to the second of two halfway between their points, and its opposite to the first."""
    a.vx -= a.light * x
    a.vy -= a.light * y
    a.spin -= a.nimble * (pair.first_x * y - pair.first_y * x)
    b.vx += b.light * x
    b.vy += b.light * y
    b.spin += b.nimble * (pair.second_x * y - pair.second_y * x)


@leaf
def _press_two(laws: Any, pair: Any, a: Any, b: Any, one: Any, other: Any, size: float, soft: int) -> bool:
    """Solve two points together; whether that could be done."""
    nx, ny, mutual = pair.nx, pair.ny, pair.mutual
    goal, give = _goal(laws, one, size, soft)
    its_goal, its_give = _goal(laws, other, size, soft)
    k11, k22 = one.across + give, other.across + its_give
    p1, p2 = one.normal, other.normal
    q1 = closing_at(a, b, one, nx, ny) + goal - one.across * p1 - mutual * p2
    q2 = closing_at(a, b, other, nx, ny) + its_goal - mutual * p1 - other.across * p2
    if p1 == 0.0 and p2 == 0.0 and q1 >= 0.0 and q2 >= 0.0:
        return True
    x1, x2, found = two_at_once(k11, k22, mutual, q1, q2)
    if not found:
        return False
    more = x1 + x2 - p1 - p2
    if pair.cap >= 0.0:
        if more > pair.left:
            # Both points have their share of what is left.
            share = pair.left / more
            x1, x2 = p1 + share * (x1 - p1), p2 + share * (x2 - p2)
            more = pair.left
        pair.left -= more
    one.normal, other.normal = x1, x2
    push_at(a, b, one, (x1 - p1) * nx, (x1 - p1) * ny)
    push_at(a, b, other, (x2 - p2) * nx, (x2 - p2) * ny)
    return True


@leaf
def two_at_once(k11: float, k22: float, k12: float, q1: float, q2: float) -> tuple[float, float, bool]:
    """Return x >= 0 with K x + q >= 0 and x (K x + q) = 0, and whether it was found.

    Examples
    --------
    >>> two_at_once(2.0, 2.0, 1.0, -3.0, -3.0)
    (1.0, 1.0, True)
    >>> two_at_once(2.0, 2.0, 1.0, -2.0, 5.0)
    (1.0, 0.0, True)
    """
    determinant = k11 * k22 - k12 * k12
    if determinant <= NEARLY_ONE * k11 * k22:
        return 0.0, 0.0, False
    x1, x2 = (k12 * q2 - k22 * q1) / determinant, (k12 * q1 - k11 * q2) / determinant
    # Where two cases meet, rounding may leave a hair between them.
    hair = ROUNDING * (abs(q1) + abs(q2))
    if x1 * k11 >= -hair and x2 * k22 >= -hair:
        return max(x1, 0.0), max(x2, 0.0), True
    x1 = -q1 / k11
    if x1 >= 0.0 and k12 * x1 + q2 >= -hair:
        return x1, 0.0, True
    x2 = -q2 / k22
    if x2 >= 0.0 and k12 * x2 + q1 >= -hair:
        return 0.0, x2, True
    return 0.0, 0.0, q1 >= -hair and q2 >= -hair
