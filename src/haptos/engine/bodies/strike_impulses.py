"""What an impact gives: the impulse that Newton's law of restitution asks for, and friction [1]_; none adds energy.

What gravity has given too much for the rest of the step is taken off before, and given again after it.

References
----------
.. [1] E. Guendelman, R. Bridson, R. Fedkiw, "Nonconvex rigid bodies with stacking", SIGGRAPH (2003).
"""

from __future__ import annotations

from typing import Any

from haptos.engine.bodies.at_stops import stop_at_limit
from haptos.engine.bodies.contact_rows import ROUNDING, closing_at, place_rows, push_at, rub, two_at_once
from haptos.engine.bodies.hinge_rows import OF_IMPACT, relax_hinges
from haptos.engine.bodies.pinned import hold_pinned
from haptos.engine.compiling.contract import leaf

# Gaps that are smaller than this share of a size have closed.
CLOSED = 1e-6
# Who strikes the same one so often within a tick is squeezed by it, and does not come back any more.
MOST_BOUNCES = 16
# Where hinges hold on to what is struck, both are solved in turn so often.
ROUNDS = 12


@leaf
def set_mid_velocity(row: Any, left: float) -> None:
    """Write the velocity that a body goes on with for the rest of a step: of free flight, the mean one."""
    row.mid_vx, row.mid_vy = row.vx, row.vy
    if not row.pressed:
        row.mid_vx -= 0.5 * left * row.ax
        row.mid_vy -= 0.5 * left * row.ay


@leaf
def _give_back(row: Any, left: float, sense: float) -> None:
    """Take off what gravity has given for the rest of a step, or give it again."""
    if not row.pressed and (row.light > 0.0 or row.nimble > 0.0):
        row.vx += sense * left * row.ax
        row.vy += sense * left * row.ay


@leaf
def closed(stirred: Any, pair: Any) -> float:
    """Return the gap at which two touch."""
    return 10.0 * CLOSED * min(stirred.partakers[pair.first].size, stirred.partakers[pair.second].size)


@leaf
def strike(stirred: Any, number: int, left: float) -> None:
    """Give a pair the impulses of its impact."""
    pair = stirred.pairs[number]
    a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
    nx, ny = pair.nx, pair.ny
    _give_back(a, left, -1.0)
    _give_back(b, left, -1.0)
    before, pinned, close = pair.impulse, a.jointed != 0 or b.jointed != 0, closed(stirred, pair)
    light, nimble, its_light, its_nimble = a.light, a.nimble, b.light, b.nimble
    if pinned:
        # What the pins still lack is no part of the impact.
        for _ in range(ROUNDS):
            relax_hinges(stirred, OF_IMPACT)
        if stop_at_limit(stirred, number, pair.first, -1.0, close):
            a.light, a.nimble = 0.0, 0.0
        if stop_at_limit(stirred, number, pair.second, 1.0, close):
            b.light, b.nimble = 0.0, 0.0
        place_rows(stirred, number)
    one = stirred.points[2 * number]
    one.closing = closing_at(a, b, one, nx, ny)
    other_closing, both = 0.0, False
    if pair.points == 2:
        other = stirred.points[2 * number + 1]
        other_closing = closing_at(a, b, other, nx, ny)
        other.closing = other_closing
        both = one.gap <= close and other.gap <= close
    pair.approach = max(pair.approach, -min(one.closing, other_closing))
    bounces = pair.restitution if pair.struck < MOST_BOUNCES else 0.0
    pair.struck += 1
    if pinned:
        _strike_pinned(stirred, number, both, close, bounces)
    else:
        given = _press_apart(stirred, number, both, close, bounces)
        if pair.friction > 0.0 and given > 0.0:
            rub(pair, a, b, pair.friction * given, 0.0)
    if pinned:
        a.light, a.nimble, b.light, b.nimble = light, nimble, its_light, its_nimble
        place_rows(stirred, number)
    _give_back(a, left, 1.0)
    _give_back(b, left, 1.0)
    set_mid_velocity(a, left)
    set_mid_velocity(b, left)
    if pinned:
        for index in range(stirred.hinges.shape[0]):
            if stirred.hinges[index].active:
                set_mid_velocity(stirred.partakers[stirred.loose.hinges[index].second], left)
                if stirred.loose.hinges[index].first < stirred.loose.bodies.shape[0]:
                    set_mid_velocity(stirred.partakers[stirred.loose.hinges[index].first], left)
    if not pair.touches:
        pair.since = stirred.tally[0].begin + stirred.tally[0].time
        pair.met_x, pair.met_y, pair.its_x, pair.its_y = b.x, b.y, a.x, a.y
    pair.eager, pair.touches = 0, 1
    pair.stuck = 1 if pair.impulse == before else 0


@leaf
def _strike_pinned(stirred: Any, number: int, both: bool, close: float, bounces: float) -> None:
    """Give a pair the impulses of its impact where pins hold on to it: none of the steps adds to the energy.

    What friction does about a pin may drive the two together again; they are stopped then, and do not bounce.
    """
    pair = stirred.pairs[number]
    a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
    hold_pinned(stirred, number)
    given = _press_pinned(stirred, number, both, close, bounces)
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
    one, other = stirred.points[2 * number], stirred.points[2 * number + 1]
    if both:
        return _press_both(pair, a, b, one, other, bounces)
    for place in range(pair.points):
        point = stirred.points[2 * number + place]
        if point.gap <= close:
            wanted = closing_at(a, b, point, nx, ny) + bounces * min(point.closing, 0.0)
            given += _hit(pair, a, b, point, _for_speed(point, -wanted))
    return given


@leaf
def _press_both(pair: Any, a: Any, b: Any, one: Any, other: Any, bounces: float) -> float:
    """Give the impulses of two points that touch at once; none of them adds to the energy.

    If one closes and the other opens, the one bounces alone as long as that leaves the other open. Else both stop:
    by Newton's law for each the two together would gain.
    """
    q1, q2 = closing_at(a, b, one, pair.nx, pair.ny), closing_at(a, b, other, pair.nx, pair.ny)
    its = q2 + bounces * min(other.closing, 0.0)
    own = q1 + bounces * min(one.closing, 0.0)
    if bounces == 0.0 or (one.closing < 0.0) == (other.closing < 0.0):
        q1, q2 = own, its
    elif one.closing < 0.0 and q2 + pair.mutual * _for_speed(one, -own) >= 0.0:
        return _hit(pair, a, b, one, _for_speed(one, -own))
    elif other.closing < 0.0 and q1 + pair.mutual * _for_speed(other, -its) >= 0.0:
        return _hit(pair, a, b, other, _for_speed(other, -its))
    x1, x2, found = two_at_once(one.across, other.across, pair.mutual, q1, q2)
    if not found:
        x1, x2 = _one_or_the_other(pair, one, other, q1, q2)
    return _hit(pair, a, b, one, x1) + _hit(pair, a, b, other, x2)


@leaf
def _one_or_the_other(pair: Any, one: Any, other: Any, q1: float, q2: float) -> tuple[float, float]:
    """Return the impulse of the one of two points that leaves the other open, too.

    A pin leaves the two one way to go. What opens one may close the other: then what is between both is held.
    """
    x1, x2 = max(_for_speed(one, -q1), 0.0), max(_for_speed(other, -q2), 0.0)
    if q2 + pair.mutual * x1 >= -ROUNDING * abs(q2):
        return x1, 0.0
    if q1 + pair.mutual * x2 >= -ROUNDING * abs(q1):
        return 0.0, x2
    return 0.0, 0.0


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
