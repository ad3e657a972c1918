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
from haptos.engine.player.arcs import corner_end
from haptos.engine.player.kept_contacts import is_ground, keep, note_ground, piece_of, project_to_contact, touch
from haptos.engine.records.codes import GROUND
from haptos.engine.records.events import STEPPED
from haptos.engine.records.journal import write

ONE = constant(1)
NOTHING = constant(-1000000)
# A step is entered by so much more than its corner needs, as a share of the body's height.
BEYOND = 1e-6


@leaf
def cast(
    core: Any, height: float, x: float, y: float, way_x: float, way_y: float, distance: float, left_out: int
) -> bool:
    """Look along a straight line for the first thing that is met, leaving out one outline."""
    path, probe, hit = core.path, core.probe, core.hit
    probe[0].outline = left_out
    probe[0].nx = 0.0
    probe[0].ny = 0.0
    set_path(path, x, y, way_x, way_y, 0.0, 0.0, distance)
    first_impact(core.solids, core.passing, core.walls, probe, ONE, height, path, hit)
    return hit.t <= distance


@leaf
def ground_goes_on(core: Any, contact: Any) -> bool:
    """Whether a corner that the body would fly off leads to more ground, of its own outline or within `snap` below."""
    world, body, solids, player, hit = core.world, core.body, core.solids, core.player, core.hit
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
    found = cast(core, body.height, player.x, player.y, -player.up_x, -player.up_y, body.snap, contact.outline)
    if found and is_ground(world, player, hit.nx, hit.ny):
        contact.sticks = 1
        return True
    return False


@leaf
def snap_down(core: Any, now: float) -> bool:
    """Put a body whose ground has ended onto the ground within `snap` below it."""
    body, solids, player, hit = core.body, core.solids, core.player, core.hit
    if body.snap <= 0.0:
        return False
    found = cast(core, body.height, player.x, player.y, -player.up_x, -player.up_y, body.snap, player.ground)
    if not found or not is_ground(core.world, player, hit.nx, hit.ny):
        return False
    x, y = player.x - hit.t * player.up_x, player.y - hit.t * player.up_y
    if player.ground >= 0:
        ended = solids.outlines[player.ground]
        if not is_one_way(ended) and depth_in(ended, solids.faces, x, y) > SHALLOW * body.height:
            # What lies below is in the way itself, as a mover that has come through the floor.
            return False
    player.x, player.y = x, y
    _stand_on(solids, core.walls, player, core.contacts, core.touched, hit, core.journal, now)
    return True


@leaf
def _stand_on(
    solids: Any, walls: Any, player: Any, contacts: Any, touched: Any, hit: Any, journal: Any, now: float
) -> None:
    """Stand on what was hit, and go on along it with the same speed."""
    project_to_contact(solids, walls, player, hit)
    piece = piece_of(solids, walls, hit.outline)
    keep(contacts, player, hit, piece)
    turn_along(player, hit.nx, hit.ny)
    note_ground(solids, player, hit.outline)
    touch(touched, player, journal, piece, now, 0.0)


@leaf
def turn_along(player: Any, nx: float, ny: float) -> None:
    """Turn the velocity along a surface, the speed kept."""
    speed = math.sqrt(player.vx * player.vx + player.vy * player.vy)
    if player.vx * ny - player.vy * nx < 0.0:
        speed = -speed
    player.vx, player.vy = speed * ny, -speed * nx


@leaf
def follow_face(world: Any, solids: Any, player: Any, contacts: Any, which: int) -> bool:
    """At the end of the face that is stood on, go on along the same outline: its corner, or its next face if ground."""
    contact = contacts[which]
    outline = solids.outlines[contact.outline]
    f = contact.feature
    face = solids.faces[f]
    is_end = (player.x - face.x) * face.tx + (player.y - face.y) * face.ty > 0.5 * face.length
    following = outline.first + (f - outline.first + 1) % outline.count
    if outline.radius > 0.0:
        contact.feature = -1 - following if is_end else -1 - f
        contact.radius = outline.radius
        contact.sticks = 0
        return True
    if not is_end:
        following = outline.first + (f - outline.first - 1 + outline.count) % outline.count
    beyond = solids.faces[following]
    if not is_ground(world, player, beyond.nx, beyond.ny):
        return False
    contact.feature = following
    contact.nx, contact.ny = beyond.nx, beyond.ny
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
    if cast(core, height, player.x, player.y, ux, uy, rise, NOTHING):
        rise = hit.t
    x, y = player.x + rise * ux, player.y + rise * uy
    across = nx * uy - ny * ux
    way_x, way_y = (uy, -ux) if across < 0.0 else (-uy, ux)
    # A round foot stands on a corner once that lies no farther ahead than the steepest slope touches it.
    steepest = math.sqrt(max(1.0 - world.steepest * world.steepest, 0.0))
    ahead = solids.outlines[outline].radius * max(abs(across) - steepest, 0.0) + BEYOND * height
    if cast(core, height, x, y, way_x, way_y, ahead, NOTHING):
        return False
    x, y = x + ahead * way_x, y + ahead * way_y
    if not cast(core, height, x, y, -ux, -uy, rise, NOTHING):
        return False
    if not is_ground(world, player, hit.nx, hit.ny) or rise - hit.t <= BEYOND * height:
        return False
    gained = rise - hit.t
    player.x, player.y = x - hit.t * ux, y - hit.t * uy
    player.contacts = 0
    _stand_on(solids, walls, player, core.contacts, core.touched, hit, journal, now)
    write(journal, player, STEPPED, now, piece_of(solids, walls, hit.outline), gained, 0.0)
    return True
