"""The velocity nearest to a wanted one that goes into nothing that is touched, and the same of accelerations.

Each contact allows a half of the plane: n·v ≥ b. The nearest point that all of them allow is the wanted one, the foot
of the perpendicular on one border, or where two borders cross [1]_. It does not depend on the order of the contacts.

References
----------
.. [1] M. de Berg et al., "Computational Geometry: Algorithms and Applications", 3rd ed., section 4.3 (2008): in the
   plane, two constraints at most decide.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import LEAST_YIELD, SLIDING
from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import leaf

# Borders that are nearer to parallel than this do not cross.
PARALLEL = 1e-7
# Of two places as near as that, as a share, the first contacts in the list decide.
SAME = 1e-12


@leaf
def nearest(contacts: Any, count: int, x: float, y: float, tiny: float) -> tuple[float, float, int, int]:
    """Return the place nearest to another one that all active contacts allow, and which one or two of them decide.

    The border of each is `contacts[i].bound`. Where nothing is allowed, the place is NaN.
    """
    best_x, best_y, one, other = math.nan, math.nan, -1, -1
    if _is_allowed(contacts, count, x, y, tiny):
        return x, y, one, other
    best = math.inf
    for index in range(count):
        here = contacts[index]
        if not here.active:
            continue
        short = here.bound - (here.nx * x + here.ny * y)
        if short > 0.0 and short < best * (1.0 - SAME):
            foot_x, foot_y = x + short * here.nx, y + short * here.ny
            if _is_allowed(contacts, count, foot_x, foot_y, tiny):
                best, best_x, best_y, one = short, foot_x, foot_y, index
    for index in range(count):
        here = contacts[index]
        if not here.active:
            continue
        for following in range(index + 1, count):
            there = contacts[following]
            across = here.nx * there.ny - here.ny * there.nx
            if not there.active or abs(across) <= PARALLEL:
                continue
            at_x = (here.bound * there.ny - there.bound * here.ny) / across
            at_y = (there.bound * here.nx - here.bound * there.nx) / across
            away = math.sqrt(square(at_x - x) + square(at_y - y))
            if away < best * (1.0 - SAME) and _is_allowed(contacts, count, at_x, at_y, tiny):
                best, best_x, best_y, one, other = away, at_x, at_y, index, following
    return best_x, best_y, one, other


@leaf
def _is_allowed(contacts: Any, count: int, x: float, y: float, tiny: float) -> bool:
    for index in range(count):
        contact = contacts[index]
        if contact.active and contact.nx * x + contact.ny * y < contact.bound - tiny:
            return False
    return True


@leaf
def approach_speed(player: Any, contact: Any) -> float:
    """Return how fast the body comes at what it touches, below zero if it leaves."""
    return (contact.ux - player.vx) * contact.nx + (contact.uy - player.vy) * contact.ny


@leaf
def admit_velocity(player: Any, contacts: Any, tiny: float) -> bool:
    """Take away what of the velocity goes into anything that is touched; return whether there is a way at all."""
    for index in range(player.contacts):
        contact = contacts[index]
        contact.active = 1
        contact.bound = contact.ux * contact.nx + contact.uy * contact.ny
    vx, vy, one, other = nearest(contacts, player.contacts, player.vx, player.vy, tiny)
    if vx != vx or (other >= 0 and _squeezes(contacts[one], contacts[other], tiny)):
        return False
    player.vx, player.vy = vx, vy
    return True


@leaf
def _squeezes(one: Any, other: Any, tiny: float) -> bool:
    """Whether two contacts that close on each other are too near to parallel to push the body out between them."""
    across = one.nx * other.ny - one.ny * other.nx
    opposed = one.nx * other.nx + one.ny * other.ny < 0.0
    return opposed and abs(across) < LEAST_YIELD and one.bound + other.bound > tiny


@leaf
def admit_acceleration(
    player: Any, contacts: Any, ax: float, ay: float, tiny_speed: float, tiny: float
) -> tuple[float, float, int, int]:
    """Return the acceleration nearest to a free one that goes into nothing that is touched, and which contacts decide.

    What the body leaves is let go. Where no acceleration is allowed, it is none.
    """
    for index in range(player.contacts):
        contact = contacts[index]
        apart = approach_speed(player, contact)
        contact.active = 1 if abs(apart) <= tiny_speed else 0
        contact.bound = -falls_away(player, contact)
        if apart < -tiny_speed:
            contact.held = 0
    to_x, to_y, one, other = nearest(contacts, player.contacts, ax, ay, tiny)
    if to_x != to_x:
        return 0.0, 0.0, -1, -1
    for index in range(player.contacts):
        contact = contacts[index]
        if contact.active and contact.nx * to_x + contact.ny * to_y - contact.bound > tiny:
            contact.held = 0
    return to_x, to_y, one, other


@leaf
def falls_away(player: Any, contact: Any) -> float:
    """Return the acceleration with which a round surface falls away under what slides along it: v²/R."""
    if contact.radius <= 0.0:
        return 0.0
    along = (player.vx - contact.ux) * contact.ny - (player.vy - contact.uy) * contact.nx
    return along * along / contact.radius


@leaf
def admit_way(player: Any, contacts: Any, x: float, y: float, tiny: float) -> tuple[float, float, int, int]:
    """Return the velocity nearest to a wanted one that goes into nothing, and which contacts decide."""
    for index in range(player.contacts):
        contact = contacts[index]
        contact.active = 1
        contact.bound = contact.ux * contact.nx + contact.uy * contact.ny
    return nearest(contacts, player.contacts, x, y, tiny)


@leaf
def most_head_on(player: Any, contacts: Any, tiny: float) -> int:
    """Return the contact that the body comes at the fastest, -1 if at none."""
    best, which = tiny, -1
    for index in range(player.contacts):
        approach = approach_speed(player, contacts[index])
        if approach > best * (1.0 + SLIDING):
            best, which = approach, index
    return which
