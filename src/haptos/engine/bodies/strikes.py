"""Impacts: what closes faster than it may is stopped, or comes back, at the time within a step at which it touches.

Up to there the bodies move on; what gravity has given too much is taken off, the impulse that Newton's law of
restitution asks for is given [1]_, and the rest of the step follows.

References
----------
.. [1] E. Guendelman, R. Bridson, R. Fedkiw, "Nonconvex rigid bodies with stacking", SIGGRAPH (2003); B. Mirtich,
   "Impulse-based dynamic simulation of rigid body systems", PhD thesis, Berkeley (1996).
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.contact_rows import closing_at, place_rows, push_at, rub, two_at_once
from haptos.engine.bodies.hinge_rows import OF_IMPACT, relax_hinges
from haptos.engine.bodies.pair_store import first_pair
from haptos.engine.bodies.pairing import look_anew
from haptos.engine.bodies.pinned import hold_pinned
from haptos.engine.bodies.sweeping import turn
from haptos.engine.compiling.contract import leaf

# So many impacts can be in one step; what closes then is stopped.
MOST_STRIKES = 256
# Gaps that are smaller than this share of a size have closed.
CLOSED = 1e-6
# Where hinges hold on to what is struck, both are solved in turn so often.
ROUNDS = 12
# Who goes this share of its size in a step is looked at anew.
GOES_FAR = 0.25


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
def set_mid_velocity(row: Any, left: float) -> None:
    """Write the velocity that a body goes on with for the rest of a step: of free flight, the mean one."""
    row.mid_vx, row.mid_vy = row.vx, row.vy
    if not row.pressed:
        row.mid_vx -= 0.5 * left * row.ax
        row.mid_vy -= 0.5 * left * row.ay


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
        if pair.gap > _closed(stirred, pair):
            # What turns comes to it in steps, as those of Newton's method.
            _foresee(stirred, laws, which)
            continue
        _strike(stirred, laws, which, left)
        for row in (pair.first, pair.second):
            if row < bodies and goes_far(stirred.partakers[row], left + rest):
                look_anew(stirred, felt, row, left + rest)
        # What they touch may be met at once.
        _look_again(stirred, laws, begin, pair.first if pair.first < bodies else pair.second)
        _look_again(stirred, laws, begin, pair.second)
    move_all(stirred, left)
    stirred.tally[0].time += left


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


@leaf
def _give_back(row: Any, left: float, sense: float) -> None:
    """Take off what gravity has given for the rest of a step, or give it again."""
    if not row.pressed and (row.light > 0.0 or row.nimble > 0.0):
        row.vx += sense * left * row.ax
        row.vy += sense * left * row.ay


@leaf
def _closed(stirred: Any, pair: Any) -> float:
    """Return the gap at which two touch."""
    return 10.0 * CLOSED * min(stirred.partakers[pair.first].size, stirred.partakers[pair.second].size)


@leaf
def _strike(stirred: Any, laws: Any, number: int, left: float) -> None:
    """Give a pair the impulses of its impact."""
    pair = stirred.pairs[number]
    a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
    nx, ny = pair.nx, pair.ny
    _give_back(a, left, -1.0)
    _give_back(b, left, -1.0)
    before, pinned = pair.impulse, a.jointed != 0 or b.jointed != 0
    if pinned:
        # What the pins still lack is no part of the impact.
        for _ in range(ROUNDS):
            relax_hinges(stirred, OF_IMPACT)
    close = _closed(stirred, pair)
    one = stirred.points[2 * number]
    one.closing = closing_at(a, b, one, nx, ny)
    other_closing, both = 0.0, False
    if pair.points == 2:
        other = stirred.points[2 * number + 1]
        other_closing = closing_at(a, b, other, nx, ny)
        other.closing = other_closing
        both = one.gap <= close and other.gap <= close
    pair.approach = max(pair.approach, -min(one.closing, other_closing))
    if pinned:
        _strike_pinned(stirred, number, both, close)
    else:
        given = _press_apart(stirred, number, both, close, pair.restitution)
        if pair.friction > 0.0 and given > 0.0:
            rub(pair, a, b, pair.friction * given, 0.0)
    _give_back(a, left, 1.0)
    _give_back(b, left, 1.0)
    set_mid_velocity(a, left)
    set_mid_velocity(b, left)
    if pinned:
        for index in range(stirred.hinges.shape[0]):
            if stirred.hinges[index].there:
                set_mid_velocity(stirred.partakers[stirred.loose.hinges[index].second], left)
                if stirred.loose.hinges[index].first < stirred.loose.bodies.shape[0]:
                    set_mid_velocity(stirred.partakers[stirred.loose.hinges[index].first], left)
    if not pair.touches:
        pair.since = stirred.tally[0].begin + stirred.tally[0].time
        pair.met_x, pair.met_y, pair.its_x, pair.its_y = b.x, b.y, a.x, a.y
    pair.eager, pair.touches = 0, 1
    pair.stuck = 1 if pair.impulse == before else 0


@leaf
def _strike_pinned(stirred: Any, number: int, both: bool, close: float) -> None:
    """Give a pair the impulses of its impact where pins hold on to it: none of the steps adds to the energy.

    What friction does about a pin may drive the two together again; they are stopped then, and do not bounce.
    """
    pair = stirred.pairs[number]
    a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
    hold_pinned(stirred, number)
    given = _press_pinned(stirred, number, both, close, pair.restitution)
    if pair.friction > 0.0 and given > 0.0 and pair.along > 0.0:
        rub(pair, a, b, pair.friction * given, 0.0)
        relax_hinges(stirred, OF_IMPACT)
        for place in range(pair.points):
            stirred.points[2 * number + place].closing = 0.0
        _press_pinned(stirred, number, both, close, 0.0)


@leaf
def _press_pinned(stirred: Any, number: int, both: bool, close: float, bounces: float) -> float:
    """Press two apart, and let the pins answer, in turn; return the impulse."""
    given = 0.0
    for _ in range(ROUNDS):
        more = _press_apart(stirred, number, both, close, bounces)
        given += more
        relax_hinges(stirred, OF_IMPACT)
        if more == 0.0:
            break
    return given


@leaf
def _press_apart(stirred: Any, number: int, both: bool, close: float, bounces: float) -> float:
    """Give the impulses along the normal that Newton's law of restitution asks for; return their sum."""
    pair = stirred.pairs[number]
    a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
    nx, ny, given = pair.nx, pair.ny, 0.0
    one = stirred.points[2 * number]
    if both:
        other = stirred.points[2 * number + 1]
        q1 = closing_at(a, b, one, nx, ny) + bounces * min(one.closing, 0.0)
        q2 = closing_at(a, b, other, nx, ny) + bounces * min(other.closing, 0.0)
        x1, x2, found = two_at_once(one.across, other.across, pair.mutual, q1, q2)
        if found:
            given += _hit(pair, a, b, one, x1)
            given += _hit(pair, a, b, other, x2)
        else:
            given += _hit(pair, a, b, one, _for_speed(one, -q1))
            q2 = closing_at(a, b, other, nx, ny) + bounces * min(other.closing, 0.0)
            given += _hit(pair, a, b, other, _for_speed(other, -q2))
        return given
    for place in range(pair.points):
        point = stirred.points[2 * number + place]
        if point.gap <= close:
            wanted = closing_at(a, b, point, nx, ny) + bounces * min(point.closing, 0.0)
            given += _hit(pair, a, b, point, _for_speed(point, -wanted))
    return given


@leaf
def _for_speed(point: Any, speed: float) -> float:
    """Return the impulse for a change of speed along the normal; none, where nothing gives way."""
    impulse: float = speed / point.across if point.across > 0.0 else 0.0
    return impulse


@leaf
def _hit(pair: Any, a: Any, b: Any, point: Any, impulse: float) -> float:
    """Give an impulse along the normal, if it presses both apart; return it."""
    if impulse <= 0.0:
        return 0.0
    push_at(a, b, point, impulse * pair.nx, impulse * pair.ny)
    pair.impulse += impulse
    return impulse
