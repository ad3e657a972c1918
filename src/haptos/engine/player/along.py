"""How fast the body may go along its ground: what stands in the way, or pushes, leaves an interval of speeds."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import LEAST_YIELD, SLIDING
from haptos.engine.compiling.contract import leaf

# A surface this nearly along the ground neither stops nor pushes what goes along it.
LEVEL_WAY = 1e-7


@leaf
def speeds_along(player: Any, contacts: Any, ground: int, tx: float, ty: float) -> tuple[float, float, int, int]:
    """Return the least and the greatest speed along the ground, seen from it, and the contacts that say so.

    Parameters
    ----------
    ground : int
        The contact that carries the body.
    tx, ty : float
        The way to the right along it.
    """
    low, high = -math.inf, math.inf
    lowest, highest = -1, -1
    below = contacts[ground]
    for index in range(player.contacts):
        contact = contacts[index]
        ahead = tx * contact.nx + ty * contact.ny
        if index == ground or abs(ahead) <= LEVEL_WAY:
            continue
        bound = ((contact.ux - below.ux) * contact.nx + (contact.uy - below.uy) * contact.ny) / ahead
        if ahead > 0.0 and bound > low:
            low, lowest = bound, index
        elif ahead < 0.0 and bound < high:
            high, highest = bound, index
    return low, high, lowest, highest


@leaf
def stop_along(player: Any, contacts: Any, ground: int, tiny: float) -> bool:
    """Keep the velocity along the ground within what the walls allow; return whether they allow any."""
    contact = contacts[ground]
    tx, ty = contact.ny * player.handed, -contact.nx * player.handed
    low, high, lowest, highest = speeds_along(player, contacts, ground, tx, ty)
    speed = (player.vx - contact.ux) * tx + (player.vy - contact.uy) * ty
    if low > high + SLIDING * (abs(low) + abs(high)):
        return False
    decisive = lowest if speed < low else highest if speed > high else -1
    if decisive >= 0:
        pushes = contacts[decisive]
        closing = (pushes.ux - contact.ux) * pushes.nx + (pushes.uy - contact.uy) * pushes.ny
        if abs(tx * pushes.nx + ty * pushes.ny) < LEAST_YIELD and closing > tiny:
            return False
    speed = min(max(speed, low), high)
    player.vx, player.vy = contact.ux + speed * tx, contact.uy + speed * ty
    return True
