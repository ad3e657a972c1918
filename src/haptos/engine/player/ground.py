"""Keeping to the ground: over crests, down dips, up steps.

A body on the ground stays on it where the ground goes on within `snap` below, and is put onto what blocks it if that is
no higher than `step_height`. Both keep its speed along the ground.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import SHALLOW, first_impact, is_one_way, set_path
from haptos.engine.collision.zones import depth_in
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.player.corner_ends import corner_end
from haptos.engine.player.kept_contacts import add_contact, hold, is_ground, note_ground, piece_of
from haptos.engine.player.settling import settle
from haptos.engine.records.codes import GROUND
from haptos.engine.records.events import STEPPED
from haptos.engine.records.journal import write

# How many of the contacts a look leaves out, if none of them.
NO_CONTACTS = constant(0)
# A step is entered by so much more than its corner needs, as a share of the body's height.
BEYOND = 1e-6
# A second step within a tick has to gain more than this share of it.
HARDLY = 1e-3


@leaf
def cast(
    core: Any, height: float, x: float, y: float, way_x: float, way_y: float, distance: float, left_out: int
) -> bool:
    """Look along a straight line for the first thing that is met, leaving out so many of the contacts."""
    path, hit = core.path, core.hit
    for index in range(left_out):
        core.contacts[index].skipped = 1
    set_path(path, x, y, way_x, way_y, 0.0, 0.0, distance)
    first_impact(core.solids, core.passing, core.walls, core.contacts, left_out, height, path, hit)
    return hit.t <= distance


@leaf
def pull_of(body: Any, player: Any) -> tuple[float, float]:
    """Return the acceleration of a body that falls freely, whatever it wants."""
    gravity = body.falling_factor
    return gravity * player.gravity_x + player.push_x, gravity * player.gravity_y + player.push_y


@leaf
def load_on(body: Any, player: Any, contact: Any) -> float:
    """Return how hard the body presses on a contact by its weight and its speed alone; below zero, it would fly off."""
    pull_x, pull_y = pull_of(body, player)
    load = -(pull_x * contact.nx + pull_y * contact.ny)
    if contact.radius > 0.0:
        along = (player.vx - contact.ux) * contact.ny - (player.vy - contact.uy) * contact.nx
        load -= along * along / contact.radius
    return load


@leaf
def ground_goes_on(core: Any, which: int) -> bool:
    """Whether a corner that the body would fly off leads to more ground, of its own outline or within `snap` below."""
    world, body, solids, player, hit = core.world, core.body, core.solids, core.player, core.hit
    contact = core.contacts[which]
    if body.snap <= 0.0 or player.stance != GROUND:
        return False
    if contact.sticks:
        return True
    if contact.outline >= 0:
        way = 1.0 if player.vx * contact.ny - player.vy * contact.nx > 0.0 else -1.0
        _, _, following = corner_end(solids, core.passing, contact, way, body.height)
        # A circle goes on as itself.
        if following < 0 or is_ground(world, player, solids.faces[following].nx, solids.faces[following].ny):
            contact.sticks = 1
            return True
    found = cast(core, body.height, player.x, player.y, -player.up_x, -player.up_y, body.snap, player.contacts)
    if found and is_ground(world, player, hit.nx, hit.ny):
        contact.sticks = 1
        return True
    return False


@leaf
def snap_down(core: Any, now: float) -> bool:
    """Put a body whose ground has ended onto the ground that begins there, or within `snap` below it.

    Who has just been carried or pushed up a step is not put down again at its edge.
    """
    body, solids, player, hit = core.body, core.solids, core.player, core.hit
    if body.snap <= 0.0:
        return False
    following = _ground_beyond(core)
    if following >= 0:
        contact = core.contacts[following]
        turn_along(player, contact.nx, contact.ny)
        note_ground(solids, player, contact.outline)
        hold(core, following, now)
        return True
    if player.stepped == player.tick:
        return False
    found = cast(core, body.height, player.x, player.y, -player.up_x, -player.up_y, body.snap, player.contacts)
    if not found or not is_ground(core.world, player, hit.nx, hit.ny):
        return False
    x, y = player.x - hit.t * player.up_x, player.y - hit.t * player.up_y
    if player.ground >= 0:
        ended = solids.outlines[player.ground]
        if not is_one_way(ended) and depth_in(ended, solids.faces, x, y) > SHALLOW * body.height:
            # What lies below is in the way itself, as a mover that has come through the floor.
            return False
    player.x, player.y = x, y
    _stand_on(core, now)
    return True


@leaf
def _ground_beyond(core: Any) -> int:
    """Return the contact that the ground goes on with over a crest, the least steep way down; -1 for none."""
    player = core.player
    best, which = math.inf, -1
    for index in range(player.contacts):
        contact = core.contacts[index]
        if contact.outline == player.ground or not is_ground(core.world, player, contact.nx, contact.ny):
            continue
        apart = (player.vx - contact.ux) * contact.nx + (player.vy - contact.uy) * contact.ny
        if apart < best and (contact.radius <= 0.0 or load_on(core.body, player, contact) > 0.0):
            best, which = apart, index
    return which


@leaf
def _stand_on(core: Any, now: float) -> None:
    """Stand on what was hit, and go on along it with the same speed."""
    player, hit = core.player, core.hit
    which = add_contact(core, hit.outline, hit.feature, hit.nx, hit.ny, hit.radius)
    settle(core, which)
    turn_along(player, hit.nx, hit.ny)
    note_ground(core.solids, player, hit.outline)
    hold(core, which, now)


@leaf
def turn_along(player: Any, nx: float, ny: float) -> None:
    """Turn the velocity along a surface, the speed kept."""
    speed = math.sqrt(player.vx * player.vx + player.vy * player.vy)
    if player.vx * ny - player.vy * nx < 0.0:
        speed = -speed
    player.vx, player.vy = speed * ny, -speed * nx


@leaf
def follow_face(world: Any, solids: Any, player: Any, contacts: Any, which: int, is_followed: bool) -> bool:
    """At the end of a face, go on to the corner of the same outline, or, where ground is followed, to its next face."""
    contact = contacts[which]
    outline = solids.outlines[contact.outline]
    f = contact.feature
    if f < 0:
        # What turns has brought the corner under it already.
        return True
    face = solids.faces[f]
    is_end = (player.x - face.x) * face.tx + (player.y - face.y) * face.ty > 0.5 * face.length
    following = outline.first + (f - outline.first + 1) % outline.count
    if outline.radius > 0.0:
        contact.feature = -1 - following if is_end else -1 - f
        contact.radius = outline.radius
        contact.sticks = 0
        return True
    if not is_followed:
        return False
    if not is_end:
        following = outline.first + (f - outline.first - 1 + outline.count) % outline.count
    beyond = solids.faces[following]
    if not is_ground(world, player, beyond.nx, beyond.ny):
        return False
    contact.feature = following
    contact.nx, contact.ny = beyond.nx, beyond.ny
    # Beyond the corner by a rounding it would lie over the next face, and on neither.
    gap = beyond.nx * (player.x - beyond.x) + beyond.ny * (player.y - beyond.y)
    player.x, player.y = player.x - gap * beyond.nx, player.y - gap * beyond.ny
    turn_along(player, beyond.nx, beyond.ny)
    return True


@leaf
def _rises_above(solids: Any, which: int, player: Any, height: float) -> bool:
    """Whether an outline reaches higher over the body than that, so that there is no stepping onto it."""
    outline = solids.outlines[which]
    for f in range(outline.first, outline.first + outline.count):
        face = solids.faces[f]
        over = (face.x - player.x) * player.up_x + (face.y - player.y) * player.up_y + outline.radius
        if over > height * (1.0 + BEYOND):
            return True
    return False


@leaf
def step_up(core: Any, outline: int, nx: float, ny: float, now: float) -> bool:
    """Put the body onto what blocks it, an outline met with this normal, if that is no higher than `step_height`."""
    world, body, solids, walls, player = core.world, core.body, core.solids, core.walls, core.player
    hit, journal = core.hit, core.journal
    if body.step_height <= 0.0 or outline < 0:
        return False
    if _rises_above(solids, outline, player, body.step_height):
        return False
    ux, uy = player.up_x, player.up_y
    height = body.height
    rise = body.step_height
    if cast(core, height, player.x, player.y, ux, uy, rise, NO_CONTACTS):
        rise = hit.t
    x, y = player.x + rise * ux, player.y + rise * uy
    across = nx * uy - ny * ux
    way_x, way_y = (uy, -ux) if across < 0.0 else (-uy, ux)
    # A round foot stands on a corner once that lies no farther ahead than the steepest slope touches it.
    steepest = math.sqrt(max(1.0 - world.steepest * world.steepest, 0.0))
    ahead = solids.outlines[outline].radius * max(abs(across) - steepest, 0.0) + BEYOND * height
    if cast(core, height, x, y, way_x, way_y, ahead, NO_CONTACTS):
        return False
    x, y = x + ahead * way_x, y + ahead * way_y
    if not cast(core, height, x, y, -ux, -uy, rise, NO_CONTACTS):
        return False
    if not is_ground(world, player, hit.nx, hit.ny) or rise - hit.t <= BEYOND * height:
        return False
    gained = rise - hit.t
    if player.stepped == player.tick and gained <= HARDLY * height:
        # What turns under it puts it down again at once: that is a wall, else there would be no end of such steps.
        return False
    player.x, player.y = x - hit.t * ux, y - hit.t * uy
    player.contacts = 0
    player.stepped = player.tick
    _stand_on(core, now)
    write(journal, player, STEPPED, now, piece_of(solids, walls, hit.outline), gained, 0.0)
    return True
