"""What the body touches at an instant: one feature of each outline, found where a segment begins.

Whether something is touched does not depend on how the body moves, nor on the order of the file. A contact that is
*held* has been struck, or carries or stops the body; the others merely touch, and matter once they are pressed on.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.features import nearest_feature
from haptos.engine.collision.grid import visit_outlines
from haptos.engine.collision.impact import (
    DEEP,
    SEAM,
    SHALLOW,
    TOUCHING,
    is_in_sector,
    is_on_side,
    is_one_way,
    is_passed,
)
from haptos.engine.collision.poses import point_velocity
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.controls import wish
from haptos.engine.player.kept_contacts import add_contact, is_listed, take_off

# What has been touched is touched until it is this much farther away: more than the rounding of one segment.
PARTED = 8.0
# A wall of the bounds holds who has come to be so deep behind it, as where a body turns; as a share of its height.
BEHIND = 0.25
# No feature of an outline: it is not touched.
NONE = -1000000


@leaf
def find_contacts(core: Any, movers: Any, moving: Any) -> None:
    """Follow what was touched to where it is touched now, and find what else is."""
    body, solids, walls, player, contacts = core.body, core.solids, core.walls, core.player, core.contacts
    index = 0
    while index < player.contacts:
        if _follow(solids, walls, core.passing, body.height, player, contacts[index]) or _turn_to(
            core, movers, moving, contacts[index]
        ):
            index += 1
        else:
            take_off(contacts, player, index)
    x, y = player.x, player.y
    near = TOUCHING * body.height
    for number in range(walls.shape[0]):
        wall = walls[number]
        gap = wall.nx * x + wall.ny * y - wall.offset
        if -BEHIND * body.height <= gap <= near and not is_listed(contacts, player, -1 - number):
            add_contact(core, -1 - number, 0, wall.nx, wall.ny, 0.0)
    visit_outlines(solids, x - near, x + near, y - near, y + near, _touch, (core, movers, moving, near))


@leaf
def note_found(player: Any) -> None:
    """Note for what the contacts have been found, where nothing moves that could be touched."""
    player.found_x, player.found_y, player.found_vx, player.found_vy = player.x, player.y, player.vx, player.vy
    player.found_gx, player.found_gy = player.gravity_x, player.gravity_y
    player.found_held, player.found_stance = player.held, player.stance
    player.found_dropping, player.found_shape = player.dropping, player.shape


@leaf
def is_found(player: Any) -> bool:
    """Whether the contacts have been found for just this."""
    if player.x != player.found_x or player.y != player.found_y or player.held != player.found_held:
        return False
    if player.vx != player.found_vx or player.vy != player.found_vy or player.stance != player.found_stance:
        return False
    if player.dropping != player.found_dropping or player.shape != player.found_shape or player.near > 0:
        return False
    return player.gravity_x == player.found_gx and player.gravity_y == player.found_gy


@leaf
def _touch(scene: Any, index: int) -> None:
    """Note that an outline is touched, if it is and was not yet."""
    core, movers, moving, near = scene
    outline = core.solids.outlines[index]
    if is_listed(core.contacts, core.player, index):
        return
    feature, nx, ny = touched_feature(core, movers, moving, outline, index, near)
    if feature != NONE:
        add_contact(core, index, feature, nx, ny, outline.radius if feature < 0 else 0.0)


@leaf
def _turn_to(core: Any, movers: Any, moving: Any, contact: Any) -> bool:
    """Let another feature of the same outline be touched, as where a mover turns; return whether one is."""
    if contact.outline < 0:
        return False
    outline = core.solids.outlines[contact.outline]
    if outline.x0 > outline.x1:
        return False
    feature, nx, ny = touched_feature(
        core, movers, moving, outline, contact.outline, PARTED * TOUCHING * core.body.height
    )
    if feature == NONE:
        return False
    contact.feature, contact.nx, contact.ny = feature, nx, ny
    contact.radius = outline.radius if feature < 0 else 0.0
    return True


@leaf
def touched_feature(
    core: Any, movers: Any, moving: Any, outline: Any, index: int, near: float
) -> tuple[int, float, float]:
    """Return which face or corner of an outline the body touches, and the normal there; NONE for none."""
    player, passing, faces = core.player, core.passing, core.solids.faces
    x, y = player.x, player.y
    one_way = is_one_way(outline)
    deep = (SHALLOW if one_way else DEEP) * core.body.height
    if is_passed(passing, outline, index):
        return NONE, 0.0, 0.0
    deepest = -math.inf
    for f in range(outline.first, outline.first + outline.count):
        face = faces[f]
        if face.length > 0.0:
            gap = face.nx * (x - face.x) + face.ny * (y - face.y) - outline.radius
            if gap > near:
                return NONE, 0.0, 0.0
            deepest = max(deepest, gap)
    if outline.radius > 0.0:
        gap, feature, nx, ny = nearest_feature(outline, faces, x, y)
        if -deep <= gap <= near and is_on_side(nx, ny, outline.side_x, outline.side_y):
            return feature, nx, ny
        return NONE, 0.0, 0.0
    if deepest < -deep:
        return NONE, 0.0, 0.0
    feature = _freest_face(core, movers, moving, outline, deepest - near)
    if feature == NONE or not is_on_side(faces[feature].nx, faces[feature].ny, outline.side_x, outline.side_y):
        return NONE, 0.0, 0.0
    return feature, faces[feature].nx, faces[feature].ny


@leaf
def _freest_face(core: Any, movers: Any, moving: Any, outline: Any, lowest: float) -> int:
    """Return the face of a sharp outline that is touched: of two that meet there, the one that is less in the way.

    That is in the way of the motion, or, at rest, of the wish to move; together they block nothing.
    """
    player, faces = core.player, core.solids.faces
    seam, tiny = SEAM * core.body.height, core.segment.tiny_speed
    way_x, way_y = player.vx, player.vy
    if movers is not None:
        way_x, way_y = way_x + player.frame_vx, way_y + player.frame_vy
        if outline.mover >= 0:
            ux, uy = point_velocity(movers.movers[outline.mover], moving[outline.mover], player.x, player.y)
            way_x, way_y = way_x - ux, way_y - uy
    if way_x * way_x + way_y * way_y <= tiny * tiny:
        wish_x, wish_y = wish(player.held)
        upward = wish_y if player.gravity_x == 0.0 and player.gravity_y == 0.0 else 0.0
        way_x = wish_x * player.handed * player.up_y + upward * player.up_x
        way_y = upward * player.up_y - wish_x * player.handed * player.up_x
    feature, freest, least = NONE, -math.inf, math.inf
    for f in range(outline.first, outline.first + outline.count):
        face = faces[f]
        dx, dy = player.x - face.x, player.y - face.y
        along = dx * face.tx + dy * face.ty
        if f == core.segment.ended:
            # The body goes on beyond it.
            continue
        if face.nx * dx + face.ny * dy - outline.radius < lowest or not -seam <= along <= face.length + seam:
            continue
        way = face.nx * way_x + face.ny * way_y
        pull = face.nx * player.gravity_x + face.ny * player.gravity_y
        level = abs(way - freest) <= tiny
        if (way > freest and not level) or (level and pull < least):
            feature, freest, least = f, way, pull
    return feature


@leaf
def _follow(solids: Any, walls: Any, passing: Any, height: float, player: Any, contact: Any) -> bool:
    """Bring a contact up to date where the same face or corner is still touched; return whether it is."""
    near, deep, seam = PARTED * TOUCHING * height, DEEP * height, SEAM * height
    if contact.outline < 0:
        wall = walls[-1 - contact.outline]
        return -BEHIND * height <= wall.nx * player.x + wall.ny * player.y - wall.offset <= near
    outline = solids.outlines[contact.outline]
    if outline.x0 > outline.x1:
        return False
    if is_passed(passing, outline, contact.outline):
        return False
    face = solids.faces[contact.feature if contact.feature >= 0 else -1 - contact.feature]
    dx, dy = player.x - face.x, player.y - face.y
    if contact.feature >= 0:
        gap = face.nx * dx + face.ny * dy - outline.radius
        along = dx * face.tx + dy * face.ty
        contact.nx, contact.ny = face.nx, face.ny
        # Near the end of a sharp face, the next one may be what stands in the way.
        past = seam if outline.radius > 0.0 else -seam
        return -deep <= gap <= near and -past <= along <= face.length + past
    if outline.radius <= 0.0:
        # A sharp corner is touched by one of its faces.
        return False
    distance = math.sqrt(dx * dx + dy * dy)
    if not -deep <= distance - outline.radius <= near:
        return False
    contact.nx, contact.ny = dx / distance, dy / distance
    if not is_on_side(contact.nx, contact.ny, outline.side_x, outline.side_y):
        return False
    return outline.count == 1 or is_in_sector(outline, solids.faces, -1 - contact.feature, contact.nx, contact.ny)
