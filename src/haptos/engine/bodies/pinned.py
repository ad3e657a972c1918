"""What a pin takes from an impulse: who is held at a pin gives way less than who is free.

An impulse at a contact moves the pin, the pin answers with the impulse that undoes this, and that comes back to the
contact. With k the pin's velocity for a unit at the contact and K what an impulse does at the pin, a contact that is
free by w is left with w - kᵀ K⁻¹ k [1]_: exactly, for a lone pin.

References
----------
.. [1] D. Baraff, "Linear-time dynamics using Lagrange multipliers", SIGGRAPH (1996): one constraint eliminated.
"""

from __future__ import annotations

from typing import Any

from haptos.engine.bodies.hinge_rows import answer
from haptos.engine.compiling.contract import leaf

# What is left of less than this share is too near to the line through the pin: no impact is to spin it out of there.
HELD_FAST = 0.05


@leaf
def hold_pinned(stirred: Any, number: int) -> None:
    """Take off from the rows of a pair, as they lie now, what the pins of the two hold."""
    pair = stirred.pairs[number]
    a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
    one, other = stirred.points[2 * number], stirred.points[2 * number + 1]
    first, second, mutual, along = 0.0, 0.0, 0.0, 0.0
    for index in range(stirred.hinges.shape[0]):
        pin, hinge = stirred.hinges[index], stirred.loose.hinges[index]
        if not pin.active:
            continue
        x, y = _pin_velocity(stirred, pin, hinge, pair, one, pair.nx, pair.ny)
        ax, ay = answer(pin, x, y)
        first += ax * x + ay * y
        if pair.points == 2:
            its_x, its_y = _pin_velocity(stirred, pin, hinge, pair, other, pair.nx, pair.ny)
            mutual += ax * its_x + ay * its_y
            ax, ay = answer(pin, its_x, its_y)
            second += ax * its_x + ay * its_y
        x, y = _pin_velocity(stirred, pin, hinge, pair, pair, -pair.ny, pair.nx)
        ax, ay = answer(pin, x, y)
        along += ax * x + ay * y
    one.across = _left(a, b, one, pair.nx, pair.ny, first)
    pair.along = _left(a, b, pair, -pair.ny, pair.nx, along)
    if pair.points == 2:
        other.across = _left(a, b, other, pair.nx, pair.ny, second)
        pair.mutual -= mutual


@leaf
def _left(a: Any, b: Any, arms: Any, x: float, y: float, held: float) -> float:
    """Return how far two give way along a direction where pins hold on to them; who is held fast does not at all."""
    own, its = arms.first_x * y - arms.first_y * x, arms.second_x * y - arms.second_y * x
    pinned, free = 0.0, 0.0
    gives = a.light + a.nimble * own * own
    if a.jointed:
        pinned += gives
    else:
        free += gives
    gives = b.light + b.nimble * its * its
    if b.jointed:
        pinned += gives
    else:
        free += gives
    left = max(pinned - held, 0.0)
    if free == 0.0 and left <= HELD_FAST * pinned:
        return 0.0
    return free + left


@leaf
def _pin_velocity(stirred: Any, pin: Any, hinge: Any, pair: Any, arms: Any, x: float, y: float) -> tuple[float, float]:
    """Return how fast a pin parts for an impulse (x, y) on the second of a pair, and its opposite on the first."""
    vx, vy = 0.0, 0.0
    for row, sense, arm_x, arm_y in (
        (pair.first, -1.0, arms.first_x, arms.first_y),
        (pair.second, 1.0, arms.second_x, arms.second_y),
    ):
        if row != hinge.first and row != hinge.second:
            continue
        body = stirred.partakers[row]
        spin = sense * body.nimble * (arm_x * y - arm_y * x)
        if row == hinge.second:
            vx += sense * body.light * x - spin * pin.second_y
            vy += sense * body.light * y + spin * pin.second_x
        else:
            vx -= sense * body.light * x - spin * pin.first_y
            vy -= sense * body.light * y + spin * pin.first_x
    return vx, vy
