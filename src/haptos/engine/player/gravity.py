"""Which gravity holds, and how strong it is where the body is.

A body has a base gravity: the world's, until a field that lasts replaces it. Fields that hold while the body is inside
override it, by rank, then by which was entered last. What the body feels at a place is written to the player; its up
turns after it (see `haptos.engine.player.orientation`), and at once where it is turned over.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.kept_contacts import let_go
from haptos.engine.records.codes import (
    AFTERWARDS,
    AIR,
    ATTRACTS_TO,
    GROUND,
    INSIDE_ONLY,
    NO_GRAVITY,
    NO_PIECE,
    OF_WORLD,
    POINTS,
    STALE,
    TOGGLES,
    TURNS_OVER,
    WITH_DISTANCE,
    WITH_SQUARE,
)
from haptos.engine.records.events import FLIPS, TILTS
from haptos.engine.records.journal import write

# A gravity weaker than this share of the world's has no direction.
WEIGHTLESS = 1e-9
# Who flies round a middle is at an apex all the time: one counts only after a rise faster than so many ticks of pull.
RISES = 2.0
# Directions whose cosine is below this are opposite to one another.
OPPOSITE = -1.0 + 1e-12


@leaf
def enter_gravity(fields: Any, player: Any, row: int) -> None:
    """Note that a field is entered; one that lasts replaces the base gravity, or takes turns with the world's."""
    field = fields[row]
    if field.gravity == NO_GRAVITY:
        return
    player.entries += 1
    field.entered = player.entries
    if field.lasts == AFTERWARDS:
        player.base_gravity = row
    elif field.lasts == TOGGLES:
        base = player.base_gravity
        turned = base == row
        if base >= 0:
            # Another field that turns over has done the same.
            turned = turned or (field.gravity == TURNS_OVER and fields[base].gravity == TURNS_OVER)
        player.base_gravity = OF_WORLD if turned else row


@leaf
def source_of(fields: Any, player: Any, occupied: Any) -> int:
    """Return the row of the field whose gravity holds, OF_WORLD for the world's own."""
    best = player.base_gravity
    found = False
    for row in range(fields.shape[0]):
        field = fields[row]
        if occupied[row] <= 0 or field.gravity == NO_GRAVITY or field.lasts != INSIDE_ONLY:
            continue
        if found:
            other = fields[best]
            if field.rank < other.rank or (field.rank == other.rank and field.entered < other.entered):
                continue
        best, found = row, True
    return best


@leaf
def pull_at(world: Any, movers: Any, fields: Any, moving: Any, row: int, x: float, y: float) -> tuple[float, float]:
    """Return the acceleration that a source of gravity gives at a place [1]_.

    References
    ----------
    .. [1] Of a field with `strength` s at the distance `reference` d: s, s d / r, or s (d / r)^2 at the distance r,
       which counts as at least `core`.
    """
    if row < 0:
        return world.gravity_x, world.gravity_y
    field = fields[row]
    if field.gravity == TURNS_OVER:
        return -world.gravity_x, -world.gravity_y
    if field.gravity == POINTS:
        return field.gravity_x, field.gravity_y
    centre_x, centre_y = centre_of(movers, moving, field)
    dx, dy = centre_x - x, centre_y - y
    distance = math.sqrt(dx * dx + dy * dy)
    if distance == 0.0:
        return 0.0, 0.0
    away = max(distance, field.core)
    size = field.strength
    if field.falloff == WITH_DISTANCE:
        size *= field.reference / away
    elif field.falloff == WITH_SQUARE:
        size *= square(field.reference / away)
    return size * dx / distance, size * dy / distance


@leaf
def centre_of(movers: Any, moving: Any, field: Any) -> tuple[float, float]:
    """Return where the middle of a field is now."""
    if movers is not None:
        if field.mover >= 0:
            mover, pose = movers.movers[field.mover], moving[field.mover]
            dx, dy = field.x - mover.x, field.y - mover.y
            return (
                mover.x + pose.x + dx * pose.cosine - dy * pose.sine,
                mover.y + pose.y + dx * pose.sine + dy * pose.cosine,
            )
    return field.x, field.y


@leaf
def _add_up(movers: Any, fields: Any, player: Any, moving: Any, occupied: Any) -> float:
    """Write what fields add to gravity in flight; return their factor on it."""
    factor = 1.0
    player.push_x, player.push_y = 0.0, 0.0
    player.drag, player.terminal_factor = 0.0, 1.0
    for index in range(fields.shape[0]):
        if occupied[index] <= 0:
            continue
        field = fields[index]
        factor *= field.gravity_factor
        player.drag += field.drag
        player.terminal_factor *= field.terminal_factor
        player.push_x, player.push_y = player.push_x + field.push_x, player.push_y + field.push_y
        if field.pull != 0.0 or field.whirl != 0.0:
            x, y = centre_of(movers, moving, field)
            dx, dy = x - player.x, y - player.y
            distance = math.sqrt(dx * dx + dy * dy)
            if distance > 0.0:
                player.push_x += (field.pull * dx + field.whirl * dy) / distance
                player.push_y += (field.pull * dy - field.whirl * dx) / distance
    return factor


@leaf
def _toggled_by(fields: Any, occupied: Any) -> int:
    """Return the piece whose field has just given the world its gravity back, NO_PIECE where one was left instead."""
    piece, entered = NO_PIECE, -math.inf
    for row in range(fields.shape[0]):
        field = fields[row]
        if occupied[row] > 0 and field.lasts == TOGGLES and field.entered > entered:
            piece, entered = field.piece, field.entered
    return piece


@leaf
def update_gravity(
    is_played: Any,
    world: Any,
    movers: Any,
    fields: Any,
    player: Any,
    contacts: Any,
    moving: Any,
    occupied: Any,
    journal: Any,
    now: float,
) -> None:
    """Write the gravity that the body feels where it is; turn its up over at once where that is asked for."""
    if is_played is None:
        return
    if not world.turns:
        return
    row = source_of(fields, player, occupied)
    gx, gy = pull_at(world, movers, fields, moving, row, player.x, player.y)
    factor = _add_up(movers, fields, player, moving, occupied)
    player.gravity_x, player.gravity_y = factor * gx, factor * gy
    changed = row != player.gravity_source
    if changed:
        player.gravity_source = row
        piece = fields[row].piece if row >= 0 else _toggled_by(fields, occupied)
    size = math.sqrt(gx * gx + gy * gy)
    if size <= WEIGHTLESS * world.weight:
        return
    player.wanted_x, player.wanted_y = -gx / size, -gy / size
    if player.stance == GROUND and player.push_x * player.up_x + player.push_y * player.up_y > factor * size:
        # A wind that is stronger than its weight lifts it.
        let_go(player)
        player.stance = AIR
        player.air_since = now
        begin_measure(player)
    if changed:
        handed = 1.0
        if row >= 0:
            if fields[row].gravity == TURNS_OVER:
                handed = -1.0
        if player.wanted_x * player.up_x + player.wanted_y * player.up_y <= OPPOSITE and handed != player.handed:
            _turn_over(player, contacts, handed)
            write(journal, player, FLIPS, now, piece, math.nan, 0.0)
        else:
            player.handed = handed
            begin_measure(player)
            write(journal, player, TILTS, now, piece, math.nan, 0.0)
    attracts = False
    if row >= 0:
        attracts = fields[row].gravity == ATTRACTS_TO
    rising = player.vx * player.up_x + player.vy * player.up_y
    if not attracts or rising > RISES * factor * size * world.dt:
        player.hides_apex = 0
    elif changed:
        player.hides_apex = 1


@leaf
def _turn_over(player: Any, contacts: Any, handed: float) -> None:
    """Stand the body on its head: it is as wide and high as before, what it stood on is over it now."""
    player.up_x, player.up_y = player.wanted_x, player.wanted_y
    player.handed = handed
    player.tuned = STALE
    let_go(player)
    # A hand on a ladder holds on.
    if player.stance == GROUND:
        player.stance = AIR
    begin_measure(player)
    player.coyote = 0
    player.cut_armed = 0


@leaf
def begin_measure(player: Any) -> None:
    """Let the drop of a fall count from here."""
    height = player.x * player.up_x + player.y * player.up_y
    player.peak = height
    player.base = height


@leaf
def lose_to_drag(is_played: Any, player: Any, dt: float) -> None:
    """Take what drag takes of a flight's velocity in half a tick, before and after the motion [1]_.

    References
    ----------
    .. [1] v' = -k v has v = v0 exp(-k t). Halved around the motion, the error is of the second order in dt: G. Strang,
       "On the construction and comparison of difference schemes", SIAM J. Numer. Anal. 5 (1968).
    """
    if is_played is None:
        return
    if player.drag > 0.0 and player.stance == AIR:
        left = math.exp(-0.5 * player.drag * dt)
        player.vx, player.vy = left * player.vx, left * player.vy


@leaf
def correct_flight(
    is_played: Any,
    world: Any,
    movers: Any,
    fields: Any,
    player: Any,
    moving: Any,
    from_x: float,
    from_y: float,
    was_in_air: bool,
    dt: float,
) -> None:
    """Give the velocity what gravity has changed by on the way through a tick, by half, as velocity Verlet does."""
    if is_played is None:
        return
    if not world.turns or not was_in_air or player.stance != AIR:
        return
    lose_to_drag(is_played, player, dt)
    row = player.gravity_source
    if row < 0:
        return
    if fields[row].gravity != ATTRACTS_TO:
        return
    old_x, old_y = pull_at(world, movers, fields, moving, row, from_x, from_y)
    new_x, new_y = pull_at(world, movers, fields, moving, row, player.x, player.y)
    player.vx += 0.5 * dt * (new_x - old_x)
    player.vy += 0.5 * dt * (new_y - old_y)
