"""Sleepers that are struck: they go on at once, in the midst of a step, not when the next tick begins."""

from __future__ import annotations

from typing import Any

from haptos.engine.bodies.contact_rows import forget_impulses, place_rows
from haptos.engine.bodies.hinge_rows import hold_again
from haptos.engine.bodies.pair_store import first_pair
from haptos.engine.bodies.resting import wake
from haptos.engine.bodies.strike_impulses import set_mid_velocity
from haptos.engine.compiling.contract import leaf


@leaf
def rouse(stirred: Any, row: int, left: float) -> None:
    """Wake a body, and all that is pinned to it, in a step of which so much is left."""
    count = stirred.loose.bodies.shape[0]
    if row >= count or stirred.partakers[row].awake:
        return
    _rouse(stirred, row, left)
    more = True
    while more:
        more = False
        for number in range(stirred.hinges.shape[0]):
            hinge = stirred.loose.hinges[number]
            if hinge.first >= count or not stirred.hinges[number].there:
                continue
            if stirred.partakers[hinge.first].awake != stirred.partakers[hinge.second].awake:
                _rouse(stirred, hinge.second if stirred.partakers[hinge.first].awake else hinge.first, left)
                more = True


@leaf
def _rouse(stirred: Any, row: int, left: float) -> None:
    """Wake one body: what it touches is solved from now on, as if nothing had been given there in this step."""
    body, tally = stirred.partakers[row], stirred.tally[0]
    wake(stirred, row)
    body.pressed, body.swept = 1 if body.jointed else 0, 0
    # What gravity gives for the rest of the step, as to everybody.
    body.vx += left * body.ax
    body.vy += left * body.ay
    set_mid_velocity(body, left)
    hold_again(stirred, row)
    first = first_pair(stirred, tally.turn)
    for number in range(first, first + tally.pairs):
        pair = stirred.pairs[number]
        if (pair.first != row and pair.second != row) or pair.active:
            continue
        pair.active = 1
        forget_impulses(stirred, number)
        if pair.points > 0:
            place_rows(stirred, number)


@leaf
def wake_moved(stirred: Any) -> None:
    """Wake those that were asleep and have been given a velocity in a tick, however softly."""
    for row in range(stirred.loose.bodies.shape[0]):
        body = stirred.partakers[row]
        if body.there and not body.awake and (body.vx != 0.0 or body.vy != 0.0 or body.spin != 0.0):
            wake(stirred, row)
