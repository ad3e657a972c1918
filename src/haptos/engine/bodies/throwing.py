"""Trampolines throw bodies that press on them, as they throw the player: the velocity along their direction is set."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.pair_store import first_pair
from haptos.engine.bodies.story import say_of
from haptos.engine.compiling.contract import leaf
from haptos.engine.records.events import LAUNCHED

# From this near to its own side (a cosine) a launcher works.
ON_ITS_SIDE = 0.7


@leaf
def throw_bodies(stirred: Any, core: Any, felt: Any, launches: Any, end: float) -> None:
    """Throw the bodies that have pressed on a launcher in this tick."""
    if launches is None:
        return
    tally, loose = stirred.tally[0], stirred.loose
    first, count = first_pair(stirred, tally.turn), loose.bodies.shape[0]
    for number in range(first, first + tally.pairs):
        pair = stirred.pairs[number]
        if pair.first < count or not pair.impulse > 0.0 or pair.passed:
            continue
        piece = loose.shapes[pair.first_shape].piece
        if piece < 0 or pair.first == count + 1:
            continue
        row = felt.pieces[piece].launch
        if row < 0:
            continue
        _throw(stirred, core, launches[row], piece, number, end)


@leaf
def _throw(stirred: Any, core: Any, launch: Any, piece: int, number: int, end: float) -> None:
    """Throw the second of a pair off the first."""
    pair = stirred.pairs[number]
    carrier, body = stirred.partakers[pair.first], stirred.partakers[pair.second]
    cosine, sine = carrier.cosine, carrier.sine
    sx, sy = launch.side_x * cosine - launch.side_y * sine, launch.side_x * sine + launch.side_y * cosine
    if (launch.side_x != 0.0 or launch.side_y != 0.0) and pair.nx * sx + pair.ny * sy < ON_ITS_SIDE:
        return
    dx, dy = launch.x * cosine - launch.y * sine, launch.x * sine + launch.y * cosine
    x, y = body.x - carrier.x, body.y - carrier.y
    ux, uy = carrier.vx - carrier.spin * y, carrier.vy + carrier.spin * x
    vx, vy = body.vx - ux, body.vy - uy
    along = vx * dx + vy * dy
    across_x, across_y = launch.keep * (vx - along * dx), launch.keep * (vy - along * dy)
    speed = launch.speed
    if launch.height > 0.0:
        pull = math.sqrt(body.ax * body.ax + body.ay * body.ay)
        rise = 1.0
        if pull > 0.0:
            rise = -(dx * body.ax + dy * body.ay) / pull
            held = -(across_x * body.ax + across_y * body.ay) / pull
            speed = (math.sqrt(2.0 * pull * launch.height) - held) / rise if rise > 0.0 else 0.0
    if speed <= 0.0:
        return
    body.vx, body.vy = ux + across_x + speed * dx, uy + across_y + speed * dy
    body.still = 0.0
    say_of(stirred, core.journal, core.player, LAUNCHED, end, pair.second, piece, speed, 0.0)
