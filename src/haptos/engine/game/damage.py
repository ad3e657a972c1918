"""Harm: what hurts while it is touched or overlapped, deep drops, and how the body dies."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import leaf
from haptos.engine.player.kept_contacts import let_go
from haptos.engine.player.world_edges import begin_again
from haptos.engine.records.codes import AIR, NEAREST, NO_PIECE, NO_SUPPORT, ROUND_DOWN, ROUND_UP
from haptos.engine.records.events import BY_HARM, HURTS, LOST, MERCY
from haptos.engine.records.journal import write, write_at

# Points that fall short of a whole number by less than this are that number.
POINT_ROUNDING = 1e-9
# What no mercy holds off.
LETHAL = math.inf
# Times that one thing can hurt in one tick.
MOST_HURTS = 1000


@leaf
def drop_points(vitals: Any, drop: float) -> float:
    """Return how many points of health a drop costs."""
    points = vitals.harm_per_unit * max(drop - vitals.safe_drop, 0.0)
    if vitals.rounding == ROUND_DOWN:
        return math.floor(points + POINT_ROUNDING)
    if vitals.rounding == ROUND_UP:
        return math.ceil(points - POINT_ROUNDING)
    if vitals.rounding == NEAREST:
        return math.floor(points + 0.5 + POINT_ROUNDING)
    return points


@leaf
def hurt(vitals: Any, player: Any, journal: Any, piece: int, points: float, t: float, x: float, y: float) -> bool:
    """Take points of health at a time and place, unless in the mercy time; return whether any were taken."""
    if points <= 0.0 or player.over:
        return False
    if points < LETHAL and t < player.mercy_until:
        return False
    lost = min(points, player.health)
    player.health -= lost
    player.mercy_until = t + vitals.mercy_time
    write_at(journal, player, HURTS, t, piece, x, y, lost, points)
    return True


@leaf
def apply_harm(
    core: Any, stakes: Any, visits: Any, hurting: Any, harm: int, touched_at: float, x: float, y: float, end: float
) -> None:
    """Let one thing hurt that the body has touched in this tick, or is in contact with.

    `touched_at` is when it was touched or entered in this tick, at a place; infinite if it was not.
    """
    player, touched, journal = core.player, core.touched, core.journal
    row, state, vitals = stakes.harms[harm], hurting[harm], stakes.vitals[0]
    contact = visits[row.piece] > 0
    for index in range(player.touched):
        if touched[index].piece == row.piece:
            contact = True
    if not contact and touched_at > end:
        state.touching = 0
        return
    if state.touching == 0 or touched_at <= end:
        if state.touching == 0:
            state.next = min(touched_at, end)
        if state.next < player.mercy_until and not row.lethal and touched_at <= end:
            write_at(journal, player, HURTS, max(state.next, touched_at), row.piece, x, y, 0.0, MERCY)
    state.touching = 1 if contact else 0
    points = LETHAL if row.lethal else row.points
    for _ in range(MOST_HURTS):
        if state.next > end or player.health <= 0.0:
            return
        now = state.next
        if hurt(vitals, player, journal, row.piece, points, now, x, y):
            _knock(row, player, core.contacts)
        elif now < player.mercy_until and row.every == math.inf:
            state.next = player.mercy_until
            continue
        if row.every < math.inf:
            state.next = now + row.every
        else:
            state.next = player.mercy_until if player.mercy_until > now else math.inf
        if not contact:
            return


@leaf
def _knock(row: Any, player: Any, contacts: Any) -> None:
    """Throw the body away from the middle of what hurt it."""
    if row.knock <= 0.0:
        return
    dx, dy = player.x - row.x, player.y - row.y
    way = math.sqrt(dx * dx + dy * dy)
    if way == 0.0:
        dx, dy, way = player.up_x, player.up_y, 1.0
    throw(player, contacts, row.knock * dx / way, row.knock * dy / way)


@leaf
def throw(player: Any, contacts: Any, vx: float, vy: float) -> None:
    """Give the body a velocity; if that goes up, it leaves what it stands on."""
    player.vx, player.vy = vx, vy
    if player.stance != AIR and vx * player.up_x + vy * player.up_y > 0.0:
        let_go(player)
        player.stance = AIR
        player.support = NO_SUPPORT
        height = player.x * player.up_x + player.y * player.up_y
        player.base = height
        player.peak = height


@leaf
def die(core: Any, felt: Any, floor: Any, now: float) -> None:
    """Be lost because no health is left."""
    write(core.journal, core.player, LOST, now, NO_PIECE, math.nan, BY_HARM)
    begin_again(core, felt, floor, now)
