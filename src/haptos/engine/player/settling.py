"""Lying exactly on what is touched: the least way out of everything at once, so that nothing is pushed into another."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import HAIR
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.admissible import nearest
from haptos.engine.records.codes import GROUND

# What is mended in one go, as a share of the body's height.
FOLLOWED = 0.01
# What is hardly in the way along the ground is not left along it.
LEAST_AHEAD = 0.01


@leaf
def gap_to(solids: Any, walls: Any, player: Any, contact: Any) -> float:
    """Return how far the body is from the face or corner that it touches."""
    if contact.outline < 0:
        wall = walls[-1 - contact.outline]
        gap: float = wall.nx * player.x + wall.ny * player.y - wall.offset
        return gap
    radius = solids.outlines[contact.outline].radius
    face = solids.faces[contact.feature if contact.feature >= 0 else -1 - contact.feature]
    dx, dy = player.x - face.x, player.y - face.y
    if contact.feature >= 0:
        along: float = face.nx * dx + face.ny * dy - radius
        return along
    away: float = math.sqrt(dx * dx + dy * dy) - radius
    return away


@leaf
def way_to(player: Any, contacts: Any, which: int) -> tuple[float, float]:
    """Return the way on which the body leaves a contact by a unit: along its ground, if it has any, else straight."""
    contact = contacts[which]
    if player.stance == GROUND:
        for index in range(player.contacts):
            below = contacts[index]
            ahead = below.ny * contact.nx - below.nx * contact.ny
            if below.outline == player.ground and index != which and abs(ahead) > LEAST_AHEAD:
                return below.ny / ahead, -below.nx / ahead
    return contact.nx, contact.ny


@leaf
def settle(core: Any, which: int) -> None:
    """Move the body by the last rounding so that it lies exactly on one contact, if there is one, and in none."""
    body, player, contacts = core.body, core.player, core.contacts
    most = FOLLOWED * body.height
    to_x, to_y = 0.0, 0.0
    for index in range(player.contacts):
        contact = contacts[index]
        gap = gap_to(core.solids, core.walls, player, contact)
        contact.active = 1 if abs(gap) <= most else 0
        contact.bound = -gap
        if index == which and contact.active:
            way_x, way_y = way_to(player, contacts, index)
            to_x, to_y = -gap * way_x, -gap * way_y
    dx, dy, _, _ = nearest(contacts, player.contacts, to_x, to_y, HAIR * body.height)
    if dx * dx + dy * dy <= most * most:
        player.x += dx
        player.y += dy
