"""What the body touches at an instant: one feature of each outline, found where a segment begins.

Whether something is touched does not depend on how the body moves, nor on the order of the file. A contact that is
*held* has been struck, or carries or stops the body; the others merely touch, and matter once they are pressed on.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.features import nearest_feature
from haptos.engine.collision.grid import cells_of
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
    grid = solids.grid[0]
    first_column, last_column, first_row, last_row = cells_of(grid, x - near, x + near, y - near, y + near)
    for row in range(first_row, last_row + 1):
        for column in range(first_column, last_column + 1):
            cell = row * grid.columns + column
            for item in range(solids.start[cell], solids.start[cell + 1]):
                index = solids.items[item]
                outline = solids.outlines[index]
                if x < outline.x0 - near or x > outline.x1 + near or y < outline.y0 - near or y > outline.y1 + near:
                    continue
                if is_listed(contacts, player, index):
                    continue
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
    distance = math.sqrt(dx * dx + dy * dy)
    if not -deep <= distance - outline.radius <= near:
        return False
    contact.nx, contact.ny = dx / distance, dy / distance
    if not is_on_side(contact.nx, contact.ny, outline.side_x, outline.side_y):
        return False
    return outline.count == 1 or is_in_sector(outline, solids.faces, -1 - contact.feature, contact.nx, contact.ny)
