"""Hinges: the pin holds before and after a step, and motor, limits and hold turn what it lets turn.

Where the pin would be after the step is drawn together in a first pass, what would draw it apart afterwards is taken
out in a second one [1]_ [2]_: a pendulum keeps its energy. Where it is far apart, as in a squeeze that can't be met,
and in chains, it gives way softly.

References
----------
.. [1] J.-P. Ryckaert, G. Ciccotti, H. Berendsen, "Numerical integration of the cartesian equations of motion of a
   system with constraints", J. Comput. Phys. 23 (1977).
.. [2] H. Andersen, "RATTLE: a velocity version of the SHAKE algorithm", J. Comput. Phys. 52 (1983).
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import constant, leaf

# A pin that is farther apart than this share of a size, or whose body turns faster in a step (radians), is soft.
APART = 0.005
FASTEST_TURN = 0.5
# What is past a limit is turned back no faster than this (radians a second), and a pin is drawn together by no more
# than so many sizes a second: faster, it would strike what keeps it there.
FASTEST_BACK = 10.0
# A lone pin is drawn together in so many steps of Newton's method.
NEWTON_STEPS = 3
# Pins of chains are solved in turn so often.
CHAIN_ROUNDS = 8
# A hold that would change the spin by more than this in a step is stepped implicitly.
STIFF, THICK = 0.25, 0.5
# Whether the impulses of a pin are those to begin the next step with: those of impacts are not.
OF_IMPACT, KEPT = constant(0), constant(1)


@leaf
def place_hinge(stirred: Any, number: int) -> None:
    """Write the arms of a hinge, and what an impulse or a torque does to it."""
    hinge, pin = stirred.loose.hinges[number], stirred.hinges[number]
    a, b = stirred.partakers[hinge.first], stirred.partakers[hinge.second]
    pin.first_x = a.cosine * pin.anchor_x - a.sine * pin.anchor_y
    pin.first_y = a.sine * pin.anchor_x + a.cosine * pin.anchor_y
    pin.second_x = b.scale * (b.cosine * hinge.second_x - b.sine * hinge.second_y)
    pin.second_y = b.scale * (b.sine * hinge.second_x + b.cosine * hinge.second_y)
    light = a.light + b.light
    pin.k11 = light + a.nimble * square(pin.first_y) + b.nimble * square(pin.second_y)
    pin.k22 = light + a.nimble * square(pin.first_x) + b.nimble * square(pin.second_x)
    pin.k12 = -a.nimble * pin.first_x * pin.first_y - b.nimble * pin.second_x * pin.second_y
    # The pin's velocity for a unit of torque, and the impulse that answers it.
    kx = -b.nimble * pin.second_y - a.nimble * pin.first_y
    ky = b.nimble * pin.second_x + a.nimble * pin.first_x
    pin.lever, pin.lean = answer(pin, kx, ky)
    turns = a.nimble + b.nimble - (kx * pin.lever + ky * pin.lean)
    pin.axial = 1.0 / turns if turns > 1e-12 * (a.nimble + b.nimble) else 0.0


@leaf
def answer(pin: Any, x: float, y: float) -> tuple[float, float]:
    """Return the impulse whose change of the pin's velocity is (x, y)."""
    determinant = pin.k11 * pin.k22 - pin.k12 * pin.k12
    if determinant == 0.0:
        return 0.0, 0.0
    return (pin.k22 * x - pin.k12 * y) / determinant, (pin.k11 * y - pin.k12 * x) / determinant


@leaf
def _push(a: Any, b: Any, pin: Any, x: float, y: float) -> None:
    """Give an impulse at the pin to the second of two, and its opposite to the first."""
    a.vx -= a.light * x
    a.vy -= a.light * y
    a.spin -= a.nimble * (pin.first_x * y - pin.first_y * x)
    b.vx += b.light * x
    b.vy += b.light * y
    b.spin += b.nimble * (pin.second_x * y - pin.second_y * x)


@leaf
def _twist(a: Any, b: Any, pin: Any, impulse: float) -> None:
    """Give an impulse of torque, and what the pin answers to it."""
    a.spin -= a.nimble * impulse
    b.spin += b.nimble * impulse
    _push(a, b, pin, -impulse * pin.lever, -impulse * pin.lean)


@leaf
def begin_hinges(stirred: Any, step: float) -> None:
    """Begin a step: what the hold asks for, and the impulses of the step before."""
    for number in range(stirred.hinges.shape[0]):
        pin, hinge = stirred.hinges[number], stirred.loose.hinges[number]
        a, b = stirred.partakers[hinge.first], stirred.partakers[hinge.second]
        bodies = stirred.loose.bodies.shape[0]
        pin.active = 1 if pin.there and (b.awake or (hinge.first < bodies and a.awake)) else 0
        if not pin.active:
            continue
        place_hinge(stirred, number)
        turned = b.angle - a.angle - pin.reference
        spin = b.spin - a.spin
        pin.motor, pin.limit = 0.0, 0.0
        if hinge.stiffness > 0.0 or hinge.damping > 0.0:
            off, mass = turned - hinge.angle, pin.axial
            if mass > 0.0:
                k, c = hinge.stiffness, hinge.damping
                if step * step * k > STIFF * mass or step * c > THICK * mass:
                    impulse = -step * (k * off + (c + step * k) * spin) / (1.0 + step * (c + step * k) / mass)
                else:
                    impulse = -step * (k * off + c * spin) / (1.0 + 0.5 * step * c / mass)
                _twist(a, b, pin, impulse)
                pin.held += impulse
        pin.soft = 0
        gap_x, gap_y = apart(a, b, pin)
        size = min(a.size, b.size)
        if math.sqrt(gap_x * gap_x + gap_y * gap_y) > APART * size:
            pin.soft = 1
        if max(abs(a.spin), abs(b.spin)) * step > FASTEST_TURN or a.jointed > 1 or b.jointed > 1:
            pin.soft = 1
        _push(a, b, pin, pin.x, pin.y)


@leaf
def hold_again(stirred: Any, row: int) -> None:
    """Let the hinges of a body that was asleep hold from now on, though they have given nothing yet."""
    for number in range(stirred.hinges.shape[0]):
        pin, hinge = stirred.hinges[number], stirred.loose.hinges[number]
        if pin.there and not pin.active and (hinge.first == row or hinge.second == row):
            pin.active, pin.soft = 1, 0
            pin.x, pin.y, pin.motor, pin.limit = 0.0, 0.0, 0.0, 0.0
            place_hinge(stirred, number)


@leaf
def apart(a: Any, b: Any, pin: Any) -> tuple[float, float]:
    """Return how far the two ends of a pin are apart."""
    return b.x + pin.second_x - a.x - pin.first_x, b.y + pin.second_y - a.y - pin.first_y


@leaf
def _velocity(a: Any, b: Any, pin: Any) -> tuple[float, float]:
    """Return how fast the two ends of a pin part."""
    vx = b.vx - b.spin * pin.second_y - a.vx + a.spin * pin.first_y
    vy = b.vy + b.spin * pin.second_x - a.vy - a.spin * pin.first_x
    return vx, vy


@leaf
def draw_hinges(stirred: Any, laws: Any, step: float) -> None:
    """The first pass: motor, limits, and the pin as it will be after the step."""
    for number in range(stirred.hinges.shape[0]):
        pin, hinge = stirred.hinges[number], stirred.loose.hinges[number]
        if not pin.active:
            continue
        a, b = stirred.partakers[hinge.first], stirred.partakers[hinge.second]
        _turn_to_speed(a, b, pin, hinge, step)
        _keep_within(a, b, pin, hinge, step, True)
        if pin.soft:
            continue
        for _ in range(NEWTON_STEPS):
            gap_x, gap_y = _after(a, b, pin, step)
            x, y = answer(pin, gap_x, gap_y)
            pin.x, pin.y = pin.x - x / step, pin.y - y / step
            _push(a, b, pin, -x / step, -y / step)
    _draw_softly(stirred, laws)


@leaf
def _draw_softly(stirred: Any, laws: Any) -> None:
    """Draw the soft pins together, in turn, so that what happens at one end of a chain is felt at the other."""
    share = 1.0 / (1.0 + laws.give)
    for _ in range(CHAIN_ROUNDS):
        found = False
        for number in range(stirred.hinges.shape[0]):
            pin, hinge = stirred.hinges[number], stirred.loose.hinges[number]
            if not pin.active or not pin.soft:
                continue
            found = True
            a, b = stirred.partakers[hinge.first], stirred.partakers[hinge.second]
            vx, vy = _velocity(a, b, pin)
            gap_x, gap_y = apart(a, b, pin)
            far, fastest = math.sqrt(gap_x * gap_x + gap_y * gap_y), FASTEST_BACK * min(a.size, b.size)
            back = min(laws.soft, fastest / far) if far > 0.0 else 0.0
            x, y = answer(pin, vx + back * gap_x, vy + back * gap_y)
            x, y = -share * x - (1.0 - share) * pin.x, -share * y - (1.0 - share) * pin.y
            pin.x, pin.y = pin.x + x, pin.y + y
            _push(a, b, pin, x, y)
        if not found:
            return


@leaf
def _after(a: Any, b: Any, pin: Any, step: float) -> tuple[float, float]:
    """Return how far the two ends of a pin will be apart after a step."""
    turn, its = a.spin * step, b.spin * step
    cosine, sine, its_cosine, its_sine = math.cos(turn), math.sin(turn), math.cos(its), math.sin(its)
    ax = a.x + step * a.vx + cosine * pin.first_x - sine * pin.first_y
    ay = a.y + step * a.vy + sine * pin.first_x + cosine * pin.first_y
    bx = b.x + step * b.vx + its_cosine * pin.second_x - its_sine * pin.second_y
    by = b.y + step * b.vy + its_sine * pin.second_x + its_cosine * pin.second_y
    return bx - ax, by - ay


@leaf
def relax_hinges(stirred: Any, keeps: int) -> None:
    """Let the two ends of no pin part; what that takes may be kept, to begin the next step with."""
    for number in range(stirred.hinges.shape[0]):
        pin, hinge = stirred.hinges[number], stirred.loose.hinges[number]
        if not pin.active:
            continue
        a, b = stirred.partakers[hinge.first], stirred.partakers[hinge.second]
        vx, vy = _velocity(a, b, pin)
        x, y = answer(pin, vx, vy)
        if keeps:
            pin.x, pin.y = pin.x - x, pin.y - y
        _push(a, b, pin, -x, -y)


@leaf
def settle_hinges(stirred: Any, laws: Any, step: float) -> None:
    """The second pass: motor and limits, and the pin, at the pose after the step."""
    for number in range(stirred.hinges.shape[0]):
        pin, hinge = stirred.hinges[number], stirred.loose.hinges[number]
        if not pin.active:
            continue
        place_hinge(stirred, number)
        a, b = stirred.partakers[hinge.first], stirred.partakers[hinge.second]
        _turn_to_speed(a, b, pin, hinge, step)
        _keep_within(a, b, pin, hinge, step, False)
    for _ in range(CHAIN_ROUNDS if _any_soft(stirred) else 1):
        relax_hinges(stirred, KEPT)


@leaf
def _any_soft(stirred: Any) -> bool:
    """Whether any pin is soft, as those of chains are."""
    for number in range(stirred.hinges.shape[0]):
        if stirred.hinges[number].active and stirred.hinges[number].soft:
            return True
    return False


@leaf
def note_torques(stirred: Any, time: float) -> None:
    """Write the torque that each motor has given in a tick, on the average."""
    for number in range(stirred.hinges.shape[0]):
        pin = stirred.hinges[number]
        # Who sleeps is held as before.
        if pin.active:
            pin.torque, pin.told = pin.told / time, 0.0


@leaf
def _turn_to_speed(a: Any, b: Any, pin: Any, hinge: Any, step: float) -> None:
    """Let the motor turn the hinge toward its speed, by its greatest torque at most."""
    if hinge.torque <= 0.0 or pin.axial <= 0.0:
        return
    most = hinge.torque * step
    before = pin.motor
    pin.motor = min(max(before - pin.axial * (b.spin - a.spin - hinge.speed), -most), most)
    _twist(a, b, pin, pin.motor - before)
    pin.told += pin.motor - before


@leaf
def _keep_within(a: Any, b: Any, pin: Any, hinge: Any, step: float, draws: bool) -> None:
    """Keep the hinge within its limits."""
    if pin.axial <= 0.0 or (hinge.low == -math.inf and hinge.high == math.inf):
        return
    turned, spin = b.angle - a.angle - pin.reference, b.spin - a.spin
    low, high = turned - hinge.low, hinge.high - turned
    before = pin.limit
    wanted = before
    if low <= high:
        goal = max(low / step, -FASTEST_BACK) if low > 0.0 or draws else 0.0
        wanted = max(before - pin.axial * (spin + goal), 0.0)
    else:
        goal = max(high / step, -FASTEST_BACK) if high > 0.0 or draws else 0.0
        wanted = min(before - pin.axial * (spin - goal), 0.0)
    pin.limit = wanted
    _twist(a, b, pin, wanted - before)
