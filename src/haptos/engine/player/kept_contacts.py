"""The contacts that a body keeps, and the pieces that it touches."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import is_one_way
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.records.codes import FIRST_WALL, GROUND, IN_AIR, NO_SUPPORT, SHORT_OF_CONTACTS, SHORT_OF_TOUCHES
from haptos.engine.records.events import PARTS, TOUCHES
from haptos.engine.records.journal import write

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
def take_off(contacts: Any, player: Any, index: int) -> None:
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
        contact.held = following.held
        contact.pressed = following.pressed
        contact.ux = following.ux
        contact.uy = following.uy
    player.contacts -= 1


@leaf
def is_listed(contacts: Any, player: Any, outline: int) -> bool:
    """Whether an outline is among what is touched."""
    for index in range(player.contacts):
        if contacts[index].outline == outline:
            return True
    return False


@leaf
def add_contact(core: Any, outline: int, feature: int, nx: float, ny: float, radius: float) -> int:
    """Put what is touched on the list, once for each outline; return its place there."""
    player, contacts = core.player, core.contacts
    index = 0
    while index < player.contacts and contacts[index].outline != outline:
        index += 1
    if index == player.contacts:
        if index == contacts.shape[0]:
            # The caller makes more room, and lets this tick run again.
            player.halted = SHORT_OF_CONTACTS
            take_off(contacts, player, FIRST)
            index -= 1
        player.contacts += 1
        contact = contacts[index]
        contact.held = 0
        contact.pressed = 0
        contact.ux, contact.uy = 0.0, 0.0
    contact = contacts[index]
    contact.outline = outline
    contact.feature = feature
    contact.nx = nx
    contact.ny = ny
    contact.radius = radius
    contact.piece = piece_of(core.solids, core.walls, outline)
    contact.sticks = 0
    return index


@leaf
def touch(touched: Any, player: Any, journal: Any, piece: int, t: float, approach: float) -> None:
    """Say that a piece is touched, unless it was already."""
    for index in range(player.touched):
        if touched[index].piece == piece:
            touched[index].parted = 0
            return
    write(journal, player, TOUCHES, t, piece, approach, 0.0)
    if player.touched == touched.shape[0]:
        player.halted = SHORT_OF_TOUCHES
        forget_touch(touched, player, FIRST)
    touched[player.touched].piece = piece
    touched[player.touched].parted = 0
    touched[player.touched].t = t
    touched[player.touched].loose = player.among
    player.touched += 1


@leaf
def hold(core: Any, index: int, now: float) -> None:
    """Hold a contact that carries, stops or guides the body; a piece that was not touched before is touched now."""
    contact = core.contacts[index]
    contact.pressed = 1
    if not contact.held:
        contact.held = 1
        touch(core.touched, core.player, core.journal, contact.piece, now, 0.0)


@leaf
def place_of(player: Any, contacts: Any, outline: int) -> int:
    """Return where an outline is on the list of contacts, -1 if it is not."""
    for index in range(player.contacts):
        if contacts[index].outline == outline:
            return index
    return -1


@leaf
def piece_underfoot(core: Any) -> int:
    """Return the piece that the body stands on, as `update_factors` takes it; in the air, none."""
    player = core.player
    if player.stance != GROUND or player.ground == NO_SUPPORT:
        return IN_AIR
    return max(piece_of(core.solids, core.walls, player.ground), FIRST_WALL)


@leaf
def mark_parted(contacts: Any, touched: Any, player: Any, t: float) -> None:
    """Note which touched pieces have no contact left; whether they have parted shows once time goes on."""
    for index in range(player.touched):
        held = False
        for place in range(player.contacts):
            if contacts[place].held and contacts[place].piece == touched[index].piece:
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
        if touched[index].parted == 1 and not touched[index].loose:
            write(journal, player, PARTS, touched[index].t, touched[index].piece, math.nan, 0.0)
            forget_touch(touched, player, index)
        else:
            index += 1


@leaf
def forget_touch(touched: Any, player: Any, index: int) -> None:
    """Forget a piece that was touched."""
    for place in range(index, player.touched - 1):
        touched[place].piece = touched[place + 1].piece
        touched[place].parted = touched[place + 1].parted
        touched[place].t = touched[place + 1].t
        touched[place].loose = touched[place + 1].loose
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
def find_support(world: Any, body: Any, solids: Any, contacts: Any, player: Any) -> None:
    """Name the support: of the surfaces underfoot the one with the larger footprint, then the first in the file."""
    player.support = NO_SUPPORT
    grounds = 0
    if player.stance == GROUND:
        for index in range(player.contacts):
            if contacts[index].held and is_ground(world, player, contacts[index].nx, contacts[index].ny):
                grounds += 1
                player.support = contacts[index].outline
    if grounds > 1:
        _choose_support(world, body, solids, contacts, player)


@leaf
def _choose_support(world: Any, body: Any, solids: Any, contacts: Any, player: Any) -> None:
    best_print = -1.0
    for index in range(player.contacts):
        contact = contacts[index]
        if not contact.held or not is_ground(world, player, contact.nx, contact.ny):
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
