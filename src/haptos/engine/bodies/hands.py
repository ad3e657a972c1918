"""The hand of a cue: it draws a body along a way, as a spring of limited strength does, and shoves one.

It never draws through what is solid: the body does not follow then, and is dropped once it is out of reach.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.partaking import adopt_bodies
from haptos.engine.bodies.resting import wake
from haptos.engine.bodies.story import say_of
from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import leaf
from haptos.engine.records.codes import NO_PIECE, TAKES_BODY
from haptos.engine.records.events import HANDS, LET_GO, LOSES, SHOVES, TAKES

# It draws with so many times the body's weight at most, or as in so many sizes a second and a second, whichever is
# more; the spring swings so many times a second, nearly without overshoot; out of reach is so many sizes away.
STRENGTH, STRENGTH_AFLOAT = 10.0, 1000.0
FREQUENCY, DAMPING = 8.0, 0.9
OUT_OF_REACH = 3.0


@leaf
def handle(stirred: Any, core: Any, moving: Any, deed: Any) -> None:
    """Do what a cue does with a body."""
    if stirred is None:
        return
    now = core.player.tick * core.world.dt
    adopt_bodies(stirred, moving, now)
    if deed.what == TAKES_BODY:
        take_in_hand(stirred, core.journal, core.player, deed.row, deed.x, deed.y, now, deed.time)
        stirred.hand[0].onward = deed.onward
    else:
        shove(stirred, core.journal, core.player, deed.row, deed.x, deed.y, now)


@leaf
def take_in_hand(
    stirred: Any, journal: Any, player: Any, row: int, to_x: float, to_y: float, begin: float, time: float
) -> None:
    """Take hold of a body, to bring it to a place within a time; who holds it already goes on with it."""
    hand, body = stirred.hand[0], stirred.partakers[row]
    if not body.there:
        say_of(stirred, journal, player, HANDS, begin, row, NO_PIECE, math.nan, LOSES)
        return
    from_x, from_y = body.x, body.y
    if hand.acts and hand.body == row:
        from_x, from_y = _place_of(hand, begin)
    else:
        if hand.acts:
            say_of(stirred, journal, player, HANDS, begin, hand.body, NO_PIECE, math.nan, LET_GO)
        say_of(stirred, journal, player, HANDS, begin, row, NO_PIECE, math.nan, TAKES)
    hand.acts, hand.body = 1, row
    hand.from_x, hand.from_y, hand.to_x, hand.to_y = from_x, from_y, to_x, to_y
    hand.begin, hand.end = begin, begin + time
    wake(stirred, row)


@leaf
def _place_of(hand: Any, t: float) -> tuple[float, float]:
    """Return where on its way the hand is at a time."""
    share = 1.0
    if hand.end > hand.begin:
        share = min(max((t - hand.begin) / (hand.end - hand.begin), 0.0), 1.0)
    return hand.from_x + share * (hand.to_x - hand.from_x), hand.from_y + share * (hand.to_y - hand.from_y)


@leaf
def draw_in_hand(stirred: Any, laws: Any, step: float, now: float) -> None:
    """Draw the body in hand toward where it should be, through a step."""
    hand = stirred.hand[0]
    if not hand.acts:
        return
    body = stirred.partakers[hand.body]
    x, y = _place_of(hand, now)
    going = 1.0 / (hand.end - hand.begin) if hand.begin < hand.end and now < hand.end else 0.0
    vx, vy = going * (hand.to_x - hand.from_x), going * (hand.to_y - hand.from_y)
    # A spring that is stepped implicitly; what pulls the body down is held, too.
    omega = 2.0 * math.pi * FREQUENCY
    k, c = omega * omega, 2.0 * DAMPING * omega
    soft = 1.0 + step * (c + step * k)
    dx, dy = body.x - x, body.y - y
    ux = -step * (k * (dx + step * (body.vx - vx)) + c * (body.vx - vx)) / soft - step * body.ax
    uy = -step * (k * (dy + step * (body.vy - vy)) + c * (body.vy - vy)) / soft - step * body.ay
    most = step * max(STRENGTH * math.sqrt(square(body.ax) + square(body.ay)), STRENGTH_AFLOAT * body.size)
    size = math.sqrt(ux * ux + uy * uy)
    if size > most:
        ux, uy = ux * most / size, uy * most / size
    body.vx += ux
    body.vy += uy


@leaf
def end_hand(stirred: Any, journal: Any, player: Any, end: float) -> None:
    """Let go at the end of the way, or where the body is out of reach."""
    hand = stirred.hand[0]
    if not hand.acts:
        return
    body = stirred.partakers[hand.body]
    x, y = _place_of(hand, end)
    away = math.sqrt(square(body.x - x) + square(body.y - y))
    if not body.there or away > OUT_OF_REACH * body.size:
        hand.acts = 0
        say_of(stirred, journal, player, HANDS, end, hand.body, NO_PIECE, away, LOSES)
    elif end >= hand.end - 1e-9 and not hand.onward:
        hand.acts = 0
        say_of(stirred, journal, player, HANDS, end, hand.body, NO_PIECE, away, LET_GO)


@leaf
def shove(stirred: Any, journal: Any, player: Any, row: int, x: float, y: float, now: float) -> None:
    """Give a body an impulse at the centre of its mass."""
    body = stirred.partakers[row]
    if body.there:
        body.vx += body.light * x
        body.vy += body.light * y
        wake(stirred, row)
        say_of(stirred, journal, player, SHOVES, now, row, NO_PIECE, math.sqrt(x * x + y * y), 0.0)
