"""The contacts that a body keeps, and the pieces that it touches."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import SLIDING, is_one_way
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.records.codes import FIRST_WALL, GROUND, NO_SUPPORT
from haptos.engine.records.events import PARTS, TOUCHES
from haptos.engine.records.journal import write
from haptos.engine.records.state import CONTACTS, TOUCHED

# A slope this little steeper than the limit still counts: a cosine from degrees is not exact.
SLOPE_ROUNDING = 1e-9
FIRST = constant(0)


@leaf
def piece_of(solids: Any, walls: Any, outline: int) -> int:
    """Return the piece of an outline, or the code of a side of the bounds."""
    if outline < 0:
        return FIRST_WALL - walls[-1 - outline].side
    return solids.outlines[outline].piece


@leaf
def is_ground(world: Any, player: Any, nx: float, ny: float) -> bool:
    """Whether a surface with this normal carries the body."""
    return nx * player.up_x + ny * player.up_y >= world.steepest - SLOPE_ROUNDING


@leaf
def drop(contacts: Any, player: Any, index: int) -> None:
    """Take a contact off the list; the others keep their order."""
    for place in range(index, player.contacts - 1):
        following = contacts[place + 1]
        contact = contacts[place]
        contact.outline = following.outline
        contact.feature = following.feature
        contact.nx = following.nx
        contact.ny = following.ny
        contact.radius = following.radius
        contact.piece = following.piece
        contact.sticks = following.sticks
    player.contacts -= 1


@leaf
def keep(contacts: Any, player: Any, hit: Any, piece: int) -> None:
    """Put what was hit on the list of contacts, once."""
    for index in range(player.contacts):
        contact = contacts[index]
        if contact.outline == hit.outline and contact.feature == hit.feature:
            contact.nx = hit.nx
            contact.ny = hit.ny
            return
    if player.contacts == CONTACTS:
        drop(contacts, player, FIRST)
    contact = contacts[player.contacts]
    contact.outline = hit.outline
    contact.feature = hit.feature
    contact.nx = hit.nx
    contact.ny = hit.ny
    contact.radius = hit.radius
    contact.piece = piece
    contact.sticks = 0
    player.contacts += 1


@leaf
def project_to_contact(solids: Any, walls: Any, player: Any, hit: Any) -> None:
    """Move the body by the last rounding so that it lies exactly on what it hit."""
    if hit.outline < 0:
        wall = walls[-1 - hit.outline]
        gap = wall.nx * player.x + wall.ny * player.y - wall.offset
        player.x -= gap * wall.nx
        player.y -= gap * wall.ny
    else:
        radius = solids.outlines[hit.outline].radius
        if hit.feature >= 0:
            face = solids.faces[hit.feature]
            gap = face.nx * (player.x - face.x) + face.ny * (player.y - face.y) - radius
            player.x -= gap * face.nx
            player.y -= gap * face.ny
        else:
            face = solids.faces[-1 - hit.feature]
            dx, dy = player.x - face.x, player.y - face.y
            distance = math.sqrt(dx * dx + dy * dy)
            player.x = face.x + dx * radius / distance
            player.y = face.y + dy * radius / distance


@leaf
def touch(touched: Any, player: Any, journal: Any, piece: int, t: float, approach: float) -> None:
    """Say that a piece is touched, unless it was already."""
    for index in range(player.touched):
        if touched[index].piece == piece:
            touched[index].parted = 0
            return
    write(journal, player, TOUCHES, t, piece, approach, 0.0)
    if player.touched == TOUCHED:
        _forget(touched, player, FIRST)
    touched[player.touched].piece = piece
    touched[player.touched].parted = 0
    touched[player.touched].t = t
    player.touched += 1


@leaf
def mark_parted(contacts: Any, touched: Any, player: Any, t: float) -> None:
    """Note which touched pieces have no contact left; whether they have parted shows once time goes on."""
    for index in range(player.touched):
        held = False
        for place in range(player.contacts):
            if contacts[place].piece == touched[index].piece:
                held = True
        if held:
            touched[index].parted = 0
        elif touched[index].parted == 0:
            touched[index].parted = 1
            # What is pushed within a tick is met after the tick's begin, and parts from that no sooner.
            touched[index].t = max(touched[index].t, t)


@leaf
def say_parted(touched: Any, player: Any, journal: Any) -> None:
    """Write the events of the pieces that have parted, and forget them."""
    index = 0
    while index < player.touched:
        if touched[index].parted == 1:
            write(journal, player, PARTS, touched[index].t, touched[index].piece, math.nan, 0.0)
            _forget(touched, player, index)
        else:
            index += 1


@leaf
def _forget(touched: Any, player: Any, index: int) -> None:
    for place in range(index, player.touched - 1):
        touched[place].piece = touched[place + 1].piece
        touched[place].parted = touched[place + 1].parted
        touched[place].t = touched[place + 1].t
    player.touched -= 1


@leaf
def note_ground(solids: Any, player: Any, outline: int) -> None:
    """Remember which outline carries the body, and whether one can drop through it."""
    player.ground = outline
    player.on_ledge = 0
    if outline >= 0:
        if is_one_way(solids.outlines[outline]):
            player.on_ledge = 1


@leaf
def let_go(player: Any) -> None:
    """Forget every contact, as when the body is put somewhere else."""
    player.contacts = 0


@leaf
def clip_velocity(player: Any, contacts: Any) -> None:
    """Take away the velocity into what is touched already, as after a jump under an overhang."""
    speed = math.sqrt(player.vx * player.vx + player.vy * player.vy)
    for _ in range(2):
        for index in range(player.contacts):
            into = player.vx * contacts[index].nx + player.vy * contacts[index].ny
            if into < 0.0:
                player.vx -= into * contacts[index].nx
                player.vy -= into * contacts[index].ny
    for index in range(player.contacts):
        if player.vx * contacts[index].nx + player.vy * contacts[index].ny < -SLIDING * speed:
            player.vx, player.vy = 0.0, 0.0


@leaf
def find_support(world: Any, body: Any, solids: Any, contacts: Any, player: Any) -> None:
    """Name the support: of the surfaces underfoot the one with the larger footprint, then the first in the file."""
    player.support = NO_SUPPORT
    grounds = 0
    if player.stance == GROUND:
        for index in range(player.contacts):
            if is_ground(world, player, contacts[index].nx, contacts[index].ny):
                grounds += 1
                player.support = contacts[index].outline
    if grounds > 1:
        _choose_support(world, body, solids, contacts, player)


@leaf
def _choose_support(world: Any, body: Any, solids: Any, contacts: Any, player: Any) -> None:
    best_print = -1.0
    for index in range(player.contacts):
        contact = contacts[index]
        if not is_ground(world, player, contact.nx, contact.ny):
            continue
        foot = _footprint(body, solids, contact, player)
        larger = foot > best_print * (1.0 + 1e-9)
        if larger or (foot >= best_print * (1.0 - 1e-9) and contact.outline < player.support):
            player.support, best_print = contact.outline, foot


@leaf
def _footprint(body: Any, solids: Any, contact: Any, player: Any) -> float:
    """Return how much of the foot rests on a contact's face."""
    if contact.outline < 0:
        return 2.0 * body.half_foot
    if contact.feature < 0:
        return 0.0
    face = solids.faces[contact.feature]
    along = (player.x - face.x) * face.tx + (player.y - face.y) * face.ty
    # The grown face is the piece's own one, longer by half a foot at either end.
    left = max(along - body.half_foot, body.half_foot)
    right = min(along + body.half_foot, face.length - body.half_foot)
    return max(right - left, 0.0)
