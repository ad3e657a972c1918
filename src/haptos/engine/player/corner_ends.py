"""The ends of a rounded corner: where the arc has led the body, and what begins there."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.grid import cells_of
from haptos.engine.collision.impact import SEAM, is_in_sector, is_on_side, is_one_way
from haptos.engine.collision.roots import falls_at
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.controls import NEARING
from haptos.engine.player.settling import FOLLOWED


@leaf
def end_on_corner(core: Any, is_hit: bool) -> None:
    """Put the body where the arc has led it, on the corner where that is now; on what it hit it lies already."""
    solids, player, segment = core.solids, core.player, core.segment
    contact = core.contacts[segment.arc]
    outline = solids.outlines[contact.outline]
    radius = outline.radius
    is_there = True
    if outline.mover >= 0:
        # What turns is grown anew, and its corners are counted from another one; a corner where it lies flush is gone.
        x, y = player.x - radius * segment.end_nx, player.y - radius * segment.end_ny
        index, away = _corner_near(outline, solids.faces, x, y)
        is_there = away <= FOLLOWED * core.body.height
        if is_there:
            contact.feature = -1 - index
    if is_there:
        corner = solids.faces[-1 - contact.feature]
        if is_hit:
            # On the chord, not on the arc: the corner's normal is the one of that place.
            dx, dy = player.x - corner.x, player.y - corner.y
            distance = math.sqrt(dx * dx + dy * dy)
            segment.end_nx, segment.end_ny = dx / distance, dy / distance
        else:
            player.x, player.y = corner.x + radius * segment.end_nx, corner.y + radius * segment.end_ny
    player.vx = contact.ux + segment.end_speed * segment.end_ny
    player.vy = contact.uy - segment.end_speed * segment.end_nx
    contact.nx, contact.ny = segment.end_nx, segment.end_ny


@leaf
def _corner_near(outline: Any, faces: Any, x: float, y: float) -> tuple[int, float]:
    """Return the corner of an outline that is nearest to a place, and how far away it is."""
    which, least = outline.first, math.inf
    for index in range(outline.first, outline.first + outline.count):
        dx, dy = x - faces[index].x, y - faces[index].y
        away = math.sqrt(dx * dx + dy * dy)
        if away < least:
            which, least = index, away
    return which, least


@leaf
def leave_corner(solids: Any, player: Any, contacts: Any, segment: Any) -> None:
    """Let the face beyond a rounded corner take over, exactly."""
    contact = contacts[segment.arc]
    outline = solids.outlines[segment.onto]
    feature = segment.which
    if outline.mover >= 0:
        feature = _face_toward(outline, solids.faces, contact.nx, contact.ny)
    face = solids.faces[feature]
    contact.outline = segment.onto
    contact.piece = outline.piece
    contact.feature = feature
    contact.radius = 0.0
    contact.nx, contact.ny = face.nx, face.ny
    gap = face.nx * (player.x - face.x) + face.ny * (player.y - face.y) - outline.radius
    player.x -= gap * face.nx
    player.y -= gap * face.ny
    into = (player.vx - contact.ux) * face.nx + (player.vy - contact.uy) * face.ny
    player.vx -= into * face.nx
    player.vy -= into * face.ny


@leaf
def _face_toward(outline: Any, faces: Any, nx: float, ny: float) -> int:
    """Return the face of an outline whose normal is nearest to a given one."""
    which, most = outline.first, -math.inf
    for index in range(outline.first, outline.first + outline.count):
        alike = nx * faces[index].nx + ny * faces[index].ny
        if alike > most:
            which, most = index, alike
    return which


@leaf
def corner_end(solids: Any, passing: Any, contact: Any, way: float, height: float) -> tuple[float, int, int]:
    """Return the angle to the end of the corner in a direction, and the outline and face that begin there.

    Where several outlines share the corner, as at the joint of a ramp and a floor, the first of their faces ends it.
    """
    outline = solids.outlines[contact.outline]
    f = -1 - contact.feature
    corner = solids.faces[f]
    angle, face = _sector_end(outline, solids.faces, f, contact.nx, contact.ny, way)
    owner = contact.outline
    grid = solids.grid[0]
    x, y = corner.x + outline.radius * contact.nx, corner.y + outline.radius * contact.ny
    column, _, row, _ = cells_of(grid, x, x, y, y)
    if column < grid.columns and row < grid.rows:
        cell = row * grid.columns + column
        for item in range(solids.start[cell], solids.start[cell + 1]):
            turn, following = _shared_end(solids, passing, contact, solids.items[item], way, height)
            if turn < angle:
                angle, owner, face = turn, solids.items[item], following
    for place in range(solids.near[0]):
        turn, following = _shared_end(solids, passing, contact, solids.near[1 + place], way, height)
        if turn < angle:
            angle, owner, face = turn, solids.near[1 + place], following
    return angle, owner, face


@leaf
def limit_at_corner_ends(solids: Any, player: Any, contacts: Any, segment: Any, shortest: float) -> None:
    """End the segment where what passes, and is not looked for since it is touched, has turned a corner to the body.

    Beyond it a face may be in the way that the corner was not. And a corner that is left only because it falls away by
    v²/R, as the body slows down, may be come back to: the gap s t²/2 shrinks again by no more than 3 v a / R t³/6.
    """
    for index in range(player.contacts):
        contact = contacts[index]
        if not contact.skipped or contact.outline < 0 or contact.feature >= 0 or index == segment.arc:
            continue
        outline = solids.outlines[contact.outline]
        if outline.count == 1:
            continue
        speed = (player.vx - contact.ux) * contact.ny - (player.vy - contact.uy) * contact.nx
        pull = segment.ax * contact.ny - segment.ay * contact.nx
        for way in (1.0, -1.0):
            angle, _ = _sector_end(outline, solids.faces, -1 - contact.feature, contact.nx, contact.ny, way)
            end = max(falls_at(angle * outline.radius, -way * speed, -way * pull), shortest)
            if end < segment.limit:
                segment.limit, segment.reason = end, NEARING
        rate = math.sqrt(segment.ax * segment.ax + segment.ay * segment.ay)
        if not contact.held and rate > 0.0 and speed != 0.0:
            leaves = segment.ax * contact.nx + segment.ay * contact.ny + speed * speed / outline.radius
            end = max(leaves * outline.radius / (3.0 * abs(speed) * rate), shortest)
            if end < segment.limit:
                segment.limit, segment.reason = end, NEARING


@leaf
def _shared_end(solids: Any, passing: Any, contact: Any, index: int, way: float, height: float) -> tuple[float, int]:
    """Return the angle to where a face of another outline, which shares the corner, begins, and the face."""
    outline, other = solids.outlines[contact.outline], solids.outlines[index]
    corner = solids.faces[-1 - contact.feature]
    near = SEAM * height
    angle, face = math.inf, -1
    if index == contact.outline or abs(other.radius - outline.radius) > near or other.x0 > other.x1:
        return angle, face
    if is_one_way(other) and (passing[index] or passing[passing.shape[0] - 1]):
        return angle, face
    for place in range(other.first, other.first + other.count):
        start = solids.faces[place]
        if abs(start.x - corner.x) > near or abs(start.y - corner.y) > near or other.count == 1:
            continue
        if not is_in_sector(other, solids.faces, place, contact.nx, contact.ny):
            continue
        turn, following = _sector_end(other, solids.faces, place, contact.nx, contact.ny, way)
        if turn < angle and is_on_side(
            solids.faces[following].nx, solids.faces[following].ny, other.side_x, other.side_y
        ):
            angle, face = turn, following
    return angle, face


@leaf
def _sector_end(outline: Any, faces: Any, f: int, nx: float, ny: float, way: float) -> tuple[float, int]:
    """Return the angle from a normal to the end of the corner at a face's start, and the face that begins there."""
    if outline.count == 1:
        return math.inf, -1
    following = f
    if way > 0.0:
        following = outline.first + (f - outline.first - 1 + outline.count) % outline.count
    face = faces[following]
    cosine = nx * face.nx + ny * face.ny
    sine = nx * face.ny - ny * face.nx
    angle = math.atan2(-way * sine, cosine)
    if angle < -1.0:
        # Half a turn, as at the end of a capsule, comes out with either sign.
        angle += 2.0 * math.pi
    return max(angle, 0.0), following
