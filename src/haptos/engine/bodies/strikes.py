"""Impacts: what closes faster than it may is stopped, or comes back, at the time within a step at which it touches.

Up to there the bodies move on, and the rest of the step follows the impact [1]_.

References
----------
.. [1] B. Mirtich, "Impulse-based dynamic simulation of rigid body systems", PhD thesis, Berkeley (1996).
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.contact_rows import closing_at, place_rows
from haptos.engine.bodies.pair_store import first_pair
from haptos.engine.bodies.pairing import look_anew
from haptos.engine.bodies.patches import GOES_FAR
from haptos.engine.bodies.rousing import rouse
from haptos.engine.bodies.strike_impulses import CLOSED, closed, set_mid_velocity, strike
from haptos.engine.bodies.sweeping import turn
from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import leaf

# So many impacts can be in one step; what closes then is stopped.
MOST_STRIKES = 256
# Who comes into another one by less than this share of its size is pressed out again.
DEEP = 0.25


@leaf
def find_eager(stirred: Any, laws: Any) -> int:
    """Mark the pairs that close faster than what comes to rest does; return how many there are."""
    found = 0
    begin = first_pair(stirred, stirred.tally[0].turn)
    for number in range(begin, begin + stirred.tally[0].pairs):
        pair = stirred.pairs[number]
        pair.eager, pair.stuck = 0, 0
        if pair.points == 0 or not pair.active or pair.cap >= 0.0:
            continue
        a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
        for place in range(pair.points):
            point = stirred.points[2 * number + place]
            if closing_at(a, b, point, pair.nx, pair.ny) < -laws.bounce:
                pair.eager = 1
        found += pair.eager
    return found


@leaf
def goes_far(row: Any, time: float) -> bool:
    """Whether a body goes, or turns, so far in a time that it is looked anew whom it meets."""
    speed = math.sqrt(row.vx * row.vx + row.vy * row.vy) + abs(row.spin) * row.reach
    return time * speed > GOES_FAR * row.size


@leaf
def _next_look(stirred: Any, left: float) -> float:
    """Return for how long those that go fast close to others may go on before they are looked at anew."""
    soon = math.inf
    for row in range(stirred.loose.bodies.shape[0]):
        body = stirred.partakers[row]
        if body.swept and body.awake and goes_far(body, left):
            speed = math.sqrt(body.vx * body.vx + body.vy * body.vy) + abs(body.spin) * body.reach
            soon = min(soon, GOES_FAR * body.size / speed)
    return soon


@leaf
def _look_at_near(stirred: Any, felt: Any, laws: Any, begin: int, left: float, rest: float) -> None:
    """Look anew at those that go fast close to others."""
    for row in range(stirred.loose.bodies.shape[0]):
        body = stirred.partakers[row]
        if body.swept and body.awake and goes_far(body, left):
            look_anew(stirred, felt, row, left + rest)
            _look_again(stirred, laws, begin, row)


@leaf
def look_at_fast(stirred: Any, felt: Any, step: float, rest: float) -> None:
    """Look anew at the bodies that go far in a step."""
    for row in range(stirred.loose.bodies.shape[0]):
        body = stirred.partakers[row]
        if body.there and body.awake and goes_far(body, step):
            look_anew(stirred, felt, row, rest)


@leaf
def move_all(stirred: Any, time: float) -> None:
    """Let all that takes part go on for a time."""
    for number in range(stirred.partakers.shape[0] - 2):
        row = stirred.partakers[number]
        if row.awake:
            row.x += time * row.mid_vx
            row.y += time * row.mid_vy
            if row.spin != 0.0:
                row.angle += time * row.spin
                turn(row)
            else:
                row.place_x += time * row.mid_vx
                row.place_y += time * row.mid_vy


@leaf
def go_through_step(stirred: Any, felt: Any, laws: Any, step: float, rest: float) -> None:
    """Let all move through a step, impact by impact; so much of the tick is left after it."""
    left = step
    bodies = stirred.loose.bodies.shape[0]
    for number in range(stirred.partakers.shape[0] - 2):
        if stirred.partakers[number].awake:
            set_mid_velocity(stirred.partakers[number], left)
    begin = first_pair(stirred, stirred.tally[0].turn)
    for number in range(begin, begin + stirred.tally[0].pairs):
        if stirred.pairs[number].eager:
            _foresee(stirred, laws, number)
    for _ in range(MOST_STRIKES):
        soon = _next_look(stirred, left)
        which = _first_strike(stirred, begin, stirred.tally[0].time + min(left, soon))
        if which < 0 and soon >= left:
            break
        when = soon
        if which >= 0:
            when = max(stirred.pairs[which].when - stirred.tally[0].time, 0.0)
        move_all(stirred, when)
        left -= when
        stirred.tally[0].time += when
        if which < 0:
            _look_at_near(stirred, felt, laws, begin, left, rest)
            continue
        pair = stirred.pairs[which]
        place_rows(stirred, which)
        if not _has_closed(stirred, which):
            # What turns comes to it in steps, as those of Newton's method.
            _foresee(stirred, laws, which)
            continue
        rouse(stirred, pair.first, left)
        rouse(stirred, pair.second, left)
        strike(stirred, which, left)
        for row in (pair.first, pair.second):
            if row < bodies and goes_far(stirred.partakers[row], left + rest):
                look_anew(stirred, felt, row, left + rest)
        # What they touch may be met at once.
        _look_again(stirred, laws, begin, pair.first if pair.first < bodies else pair.second)
        _look_again(stirred, laws, begin, pair.second)
    else:
        _hold_fast(stirred, begin, left)
    move_all(stirred, left)
    stirred.tally[0].time += left


@leaf
def _hold_fast(stirred: Any, begin: int, left: float) -> None:
    """Where a step held more impacts than it can, let those stand still for its rest who would come through each other.

    What is squeezed closes so slowly by then that the contacts, which press it apart, do the rest.
    """
    tally, bodies = stirred.tally[0], stirred.loose.bodies.shape[0]
    for number in range(begin, begin + tally.pairs):
        pair = stirred.pairs[number]
        if not pair.eager or pair.when >= tally.time + left:
            continue
        a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
        way = left * math.sqrt(square(b.mid_vx - a.mid_vx) + square(b.mid_vy - a.mid_vy))
        if way <= DEEP * min(a.size, b.size):
            continue
        tally.stalled = max(tally.stalled, left)
        if pair.first < bodies:
            a.mid_vx, a.mid_vy = 0.0, 0.0
        b.mid_vx, b.mid_vy = 0.0, 0.0


@leaf
def _has_closed(stirred: Any, number: int) -> bool:
    """Whether a point of a pair that closes has come to touch: one that only lies there is not struck."""
    pair = stirred.pairs[number]
    a, b, close = stirred.partakers[pair.first], stirred.partakers[pair.second], closed(stirred, pair)
    for place in range(pair.points):
        point = stirred.points[2 * number + place]
        if point.gap <= close and closing_at(a, b, point, pair.nx, pair.ny) < 0.0:
            return True
    return False


@leaf
def _look_again(stirred: Any, laws: Any, begin: int, row: int) -> None:
    """Mark the pairs of a body that close faster than what comes to rest does, now that it was struck or has turned."""
    for number in range(begin, begin + stirred.tally[0].pairs):
        pair = stirred.pairs[number]
        if pair.points == 0 or not pair.active or pair.cap >= 0.0 or pair.stuck:
            continue
        if pair.first != row and pair.second != row:
            continue
        pair.eager = 1
        _foresee(stirred, laws, number)


@leaf
def _foresee(stirred: Any, laws: Any, number: int) -> None:
    """Write when an eager pair closes, in the time of the tick; never, if it does not close fast any more."""
    pair, now = stirred.pairs[number], stirred.tally[0].time
    place_rows(stirred, number)
    a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
    pair.when, eager = math.inf, 0
    more_x, more_y = b.mid_vx - b.vx - a.mid_vx + a.vx, b.mid_vy - b.vy - a.mid_vy + a.vy
    for place in range(pair.points):
        point = stirred.points[2 * number + place]
        closing = closing_at(a, b, point, pair.nx, pair.ny)
        if closing >= -laws.bounce:
            continue
        eager = 1
        mean = closing + more_x * pair.nx + more_y * pair.ny
        if point.gap <= CLOSED * min(a.size, b.size):
            pair.when = now
        elif mean < 0.0:
            pair.when = min(pair.when, now + point.gap / -mean)
    pair.eager = eager


@leaf
def _first_strike(stirred: Any, begin: int, limit: float) -> int:
    """Return the pair that closes first before a time of the tick; below zero if none does."""
    which, first = -1, limit
    for number in range(begin, begin + stirred.tally[0].pairs):
        pair = stirred.pairs[number]
        if pair.eager and pair.when < first:
            which, first = number, pair.when
    return which
