"""Coming to rest, and being stirred: bodies that lie on one another do both together.

What touches is one island. It sleeps when none of it has moved for a while and some of it touches what can't move;
free islands never do, since momentum would be lost. Whatever happens to one of it wakes it.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.pair_store import first_pair
from haptos.engine.bodies.story import say_of
from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.records.codes import NO_PIECE
from haptos.engine.records.events import SLEEPS, WAKES
from haptos.engine.records.loose_records import PLAYER_ROW

# An island sleeps after so many seconds in which no body has gone farther than this share of its size, or so far for
# each unit of gravity, nor was faster than so many sizes a second.
PATIENCE = 0.5
STAYED, STAYED_BY_WEIGHT, SLOW = 0.02, 3.3e-4, 0.2
# Of a body that was woken: that is to be told; or only if it moves.
UNTOLD_YET = constant(2)


@leaf
def wake(stirred: Any, row: int) -> None:
    """Let a body be awake from now on."""
    body = stirred.partakers[row]
    stirred.tally[0].woken = 1
    if not body.awake:
        body.awake = 1
        body.stirred = 1
        body.woke = stirred.tally[0].begin + stirred.tally[0].time
    body.still = 0.0
    body.mark_x, body.mark_y, body.mark_angle = body.x, body.y, body.angle


@leaf
def wake_touching(stirred: Any) -> None:
    """Wake who touches somebody that is awake, and who those touch, and so on."""
    count = stirred.loose.bodies.shape[0]
    begin = first_pair(stirred, stirred.tally[0].turn)
    while True:
        more = False
        for number in range(begin, begin + stirred.tally[0].pairs):
            pair = stirred.pairs[number]
            if not pair.told or pair.first >= count:
                continue
            a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
            if a.awake != b.awake:
                wake(stirred, pair.first)
                wake(stirred, pair.second)
                more = True
        for number in range(stirred.loose.hinges.shape[0]):
            hinge = stirred.loose.hinges[number]
            if hinge.first >= count or not stirred.hinges[number].there:
                continue
            if stirred.partakers[hinge.first].awake != stirred.partakers[hinge.second].awake:
                wake(stirred, hinge.first)
                wake(stirred, hinge.second)
                more = True
        if not more:
            return


@leaf
def _root(stirred: Any, row: int) -> int:
    """Return the body that stands for the island of one."""
    while stirred.partakers[row].island != row:
        stirred.partakers[row].island = stirred.partakers[stirred.partakers[row].island].island
        row = stirred.partakers[row].island
    return row


@leaf
def _join(stirred: Any, one: int, other: int) -> None:
    first, second = _root(stirred, one), _root(stirred, other)
    if first != second:
        stirred.partakers[max(first, second)].island = min(first, second)


@leaf
def fall_asleep(stirred: Any, journal: Any, player: Any, dt: float, end: float) -> None:
    """Let islands sleep that have come to rest."""
    loose = stirred.loose
    count = loose.bodies.shape[0]
    ready = False
    for row in range(count):
        body = stirred.partakers[row]
        body.island, body.pressed = row, 0
        if not body.there or not body.awake:
            continue
        weight = math.sqrt(body.ax * body.ax + body.ay * body.ay)
        far = min(STAYED * body.size, STAYED_BY_WEIGHT * weight) if weight > 0.0 else STAYED * body.size
        gone = math.sqrt(square(body.x - body.mark_x) + square(body.y - body.mark_y))
        gone += abs(body.angle - body.mark_angle) * body.reach
        speed = math.sqrt(body.vx * body.vx + body.vy * body.vy) + abs(body.spin) * body.reach
        if gone > far or speed > SLOW * body.size or not loose.bodies[row].sleeps:
            body.still = 0.0
            body.mark_x, body.mark_y, body.mark_angle = body.x, body.y, body.angle
        else:
            body.still += dt
            ready = ready or body.still >= PATIENCE
    if not ready:
        return
    begin = first_pair(stirred, stirred.tally[0].turn)
    for number in range(begin, begin + stirred.tally[0].pairs):
        pair = stirred.pairs[number]
        if pair.told and pair.first < count:
            _join(stirred, pair.first, pair.second)
    for number in range(loose.hinges.shape[0]):
        hinge = loose.hinges[number]
        if stirred.hinges[number].there and hinge.first < count:
            _join(stirred, hinge.first, hinge.second)
    # Of an island, `pressed` of the one that stands for it counts: 1 touches what can't move, 2 can't sleep.
    for number in range(begin, begin + stirred.tally[0].pairs):
        pair = stirred.pairs[number]
        if pair.told and pair.points > 0 and pair.first >= count:
            root = stirred.partakers[_root(stirred, pair.second)]
            other = stirred.partakers[pair.first]
            # Who stands about, or is moved along by the pile, is no reason to stay awake; who pushes is.
            slow = SLOW * stirred.partakers[pair.second].size if pair.first == count + PLAYER_ROW else 0.0
            moves = abs(other.vx) > slow or abs(other.vy) > slow or other.spin != 0.0
            root.pressed |= 2 if moves else 1
    for number in range(loose.hinges.shape[0]):
        hinge = loose.hinges[number]
        if not stirred.hinges[number].there:
            continue
        root = stirred.partakers[_root(stirred, hinge.second)]
        if hinge.first >= count:
            other = stirred.partakers[hinge.first]
            moves = other.vx != 0.0 or other.vy != 0.0 or other.spin != 0.0
            root.pressed |= 2 if moves else 1
        if hinge.torque > 0.0 and hinge.speed != 0.0 and not _is_stalled(stirred, number):
            root.pressed |= 2
    for row in range(count):
        body = stirred.partakers[row]
        if body.there and body.awake and body.still < PATIENCE:
            stirred.partakers[_root(stirred, row)].pressed |= 2
    hand = stirred.hand[0]
    if hand.acts:
        stirred.partakers[_root(stirred, hand.body)].pressed |= 2
    for row in range(count):
        body = stirred.partakers[row]
        if body.there and body.awake and stirred.partakers[_root(stirred, row)].pressed == 1:
            body.awake = 0
            body.vx, body.vy, body.spin = 0.0, 0.0, 0.0
            if body.stirred == UNTOLD_YET:
                # It has slept on, as far as anybody knows.
                body.stirred = 0
            else:
                say_of(stirred, journal, player, SLEEPS, end, row, NO_PIECE, math.nan, 0.0)


@leaf
def _is_stalled(stirred: Any, number: int) -> bool:
    """Whether a motor stands at a limit that it turns against."""
    hinge = stirred.loose.hinges[number]
    a, b = stirred.partakers[hinge.first], stirred.partakers[hinge.second]
    turned = b.angle - a.angle - stirred.hinges[number].reference
    return (hinge.speed > 0.0 and turned >= hinge.high - 1e-3) or (hinge.speed < 0.0 and turned <= hinge.low + 1e-3)


@leaf
def say_woken(stirred: Any, journal: Any, player: Any) -> None:
    """Say who was woken in this tick."""
    for row in range(stirred.loose.bodies.shape[0]):
        body = stirred.partakers[row]
        moves = abs(body.vx) + abs(body.vy) + abs(body.spin) * body.reach > SLOW * body.size
        if body.stirred == 1 or (body.stirred == UNTOLD_YET and moves):
            body.stirred = 0
            # What the player did at the end of a tick is told in the next one.
            t = max(body.woke, stirred.tally[0].begin)
            say_of(stirred, journal, player, WAKES, t, row, NO_PIECE, math.nan, 0.0)
