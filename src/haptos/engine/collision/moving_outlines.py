"""Outlines brought to where their mover is; those of one that turns are grown by the body anew.

The sum of two convex polygons has the edges of both, in the order of their directions, from the lowest corner on [1]_.

References
----------
.. [1] M. de Berg et al., "Computational Geometry: Algorithms and Applications", 3rd ed., section 13.3 (2008).
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.poses import pose_at, remember_pose
from haptos.engine.compiling.contract import leaf
from haptos.engine.records.codes import NEARBY

# Edges whose directions differ by less than this (radians) are one; corners this level, as a share of a core, too.
PARALLEL = 1e-9


@leaf
def bring(movers: Any, moving: Any, number: int, outlines: Any, faces: Any, first: int, last: int) -> None:
    """Put some outlines of a mover where it is, the items from `first` to before `last`; if it is gone, nowhere."""
    mover, pose = movers.movers[number], moving[number]
    for place in range(first, last):
        item = movers.items[place]
        outline = outlines[item.outline]
        if not pose.here:
            outline.x0, outline.y0, outline.x1, outline.y1 = math.inf, math.inf, -math.inf, -math.inf
        elif mover.turning:
            outline.side_x = item.side_x * pose.cosine - item.side_y * pose.sine
            outline.side_y = item.side_x * pose.sine + item.side_y * pose.cosine
            grow(outline, faces, movers.corners, item, mover, pose)
        else:
            outline.x0, outline.x1 = item.x0 + pose.x, item.x1 + pose.x
            outline.y0, outline.y1 = item.y0 + pose.y, item.y1 + pose.y
            for index in range(item.count):
                corner = movers.corners[item.first + index]
                face = faces[outline.first + index]
                face.x, face.y = corner.x + pose.x, corner.y + pose.y


@leaf
def put(movers: Any, moving: Any, number: int, solids: Any, zones: Any, effects: Any, shape: int) -> None:
    """Put the outlines of a mover where it is, for the turn of the body, unless they lie so already."""
    pose = moving[number]
    if pose.here and pose.x == pose.put_x and pose.y == pose.put_y and pose.scale == pose.put_scale:
        if pose.cosine == pose.put_cosine and pose.sine == pose.put_sine and pose.put_shape == shape:
            return
    bring_solids(movers, moving, number, solids)
    bring_felt(movers, moving, number, zones, effects)
    if pose.here:
        pose.put_x, pose.put_y, pose.put_scale = pose.x, pose.y, pose.scale
        pose.put_cosine, pose.put_sine, pose.put_shape = pose.cosine, pose.sine, shape


@leaf
def bring_solids(movers: Any, moving: Any, number: int, solids: Any) -> None:
    """Put the solid outlines of a mover where it is."""
    mover = movers.movers[number]
    moving[number].put_cosine, moving[number].put_sine = 0.0, 0.0
    bring(movers, moving, number, solids.outlines, solids.faces, mover.solid, mover.zone)


@leaf
def bring_felt(movers: Any, moving: Any, number: int, zones: Any, effects: Any) -> None:
    """Put the zones and effects of a mover where it is."""
    mover = movers.movers[number]
    if zones is not None:
        bring(movers, moving, number, zones.outlines, zones.faces, mover.zone, mover.effect)
    if effects is not None:
        bring(movers, moving, number, effects.outlines, effects.faces, mover.effect, mover.end)


@leaf
def begin_movers(
    movers: Any, world: Any, solids: Any, zones: Any, effects: Any, moving: Any, near: Any, player: Any, now: float
) -> None:
    """Put every mover where it is at a time, as when the run begins or the body is put somewhere."""
    if movers is None:
        return
    forget_near(solids, zones, effects)
    player.near = 0
    for number in range(movers.movers.shape[0]):
        if movers.movers[number].still:
            continue
        pose_at(movers, world, moving, number, now)
        remember_pose(moving[number])
        moving[number].placed = NEARBY
        near[player.near] = number
        player.near += 1
        bring_solids(movers, moving, number, solids)
        bring_felt(movers, moving, number, zones, effects)
        note_near(movers, number, solids, zones, effects)


@leaf
def forget_near(solids: Any, zones: Any, effects: Any) -> None:
    """Let nothing that moves be near."""
    solids.near[0] = 0
    if zones is not None:
        zones.near[0] = 0
    if effects is not None:
        effects.near[0] = 0


@leaf
def note_near(movers: Any, number: int, solids: Any, zones: Any, effects: Any) -> None:
    """Let the outlines of a mover be among those that are near."""
    mover = movers.movers[number]
    _list(movers.items, mover.solid, mover.zone, solids.near)
    if zones is not None:
        _list(movers.items, mover.zone, mover.effect, zones.near)
    if effects is not None:
        _list(movers.items, mover.effect, mover.end, effects.near)


@leaf
def _list(items: Any, first: int, last: int, near: Any) -> None:
    for place in range(first, last):
        near[0] += 1
        near[near[0]] = items[place].outline


@leaf
def put_away(movers: Any, moving: Any, number: int, solids: Any, zones: Any, effects: Any) -> None:
    """Take the outlines of a mover that is far away out of the world."""
    mover = movers.movers[number]
    moving[number].put_cosine, moving[number].put_sine = 0.0, 0.0
    _take_out(movers.items, mover.solid, mover.zone, solids.outlines)
    if zones is not None:
        _take_out(movers.items, mover.zone, mover.effect, zones.outlines)
    if effects is not None:
        _take_out(movers.items, mover.effect, mover.end, effects.outlines)


@leaf
def _take_out(items: Any, first: int, last: int, outlines: Any) -> None:
    for place in range(first, last):
        outline = outlines[items[place].outline]
        outline.x0, outline.y0, outline.x1, outline.y1 = math.inf, math.inf, -math.inf, -math.inf


@leaf
def grow(outline: Any, faces: Any, corners: Any, item: Any, mover: Any, pose: Any) -> None:
    """Write the faces and the box of an outline: its core, turned and put where the mover is, grown by the body."""
    first, count = item.first, item.count
    # The body's core, or the point after it.
    own, sides = 0, mover.body_corners
    outline.radius = pose.scale * item.radius
    if item.sharp:
        own, sides = mover.body_corners, 1
    else:
        outline.radius += mover.body_radius
    low = first
    size = 0.0
    for index in range(first, first + count):
        size = max(size, pose.scale * (abs(corners[index].x) + abs(corners[index].y)))
    for index in range(first + 1, first + count):
        # Of corners that are level, the left one is the lowest, so that edges of both that lie flat begin together.
        here_x, here_y = _turned(corners, index, pose)
        low_x, low_y = _turned(corners, low, pose)
        if here_y < low_y - PARALLEL * size or (here_y < low_y + PARALLEL * size and here_x < low_x):
            low = index
    px, py = _turned(corners, low, pose)
    px, py = px + mover.x + pose.x + corners[own].x, py + mover.y + pose.y + corners[own].y
    outline.x0, outline.y0, outline.x1, outline.y1 = px, py, px, py
    edges = count if count > 1 else 0
    body_edges = sides if sides > 1 else 0
    face = outline.first
    done, body_done = 0, 0
    while done < edges or body_done < body_edges:
        dx, dy, turns = 0.0, 0.0, 0
        ax, ay, bx, by = 0.0, 0.0, 0.0, 0.0
        if done < edges:
            here_x, here_y = _turned(corners, first + (low - first + done) % count, pose)
            next_x, next_y = _turned(corners, first + (low - first + done + 1) % count, pose)
            ax, ay = next_x - here_x, next_y - here_y
        if body_done < body_edges:
            here, following = corners[own + body_done], corners[own + (body_done + 1) % sides]
            bx, by = following.x - here.x, following.y - here.y
        across, along = ax * by - ay * bx, ax * bx + ay * by
        both = along > 0.0 and abs(across) <= PARALLEL * along
        if body_done >= body_edges or (done < edges and (both or across > 0.0)):
            dx, dy, turns = dx + ax, dy + ay, 1
            done += 1
        if turns == 0 or both:
            dx, dy = dx + bx, dy + by
            body_done += 1
        _write_face(faces[face], px, py, dx, dy, turns)
        face += 1
        px, py = px + dx, py + dy
        outline.x0, outline.y0 = min(outline.x0, px), min(outline.y0, py)
        outline.x1, outline.y1 = max(outline.x1, px), max(outline.y1, py)
    if face == outline.first:
        faces[face].x, faces[face].y = px, py
        face += 1
    outline.count = face - outline.first
    outline.x0, outline.y0 = outline.x0 - outline.radius, outline.y0 - outline.radius
    outline.x1, outline.y1 = outline.x1 + outline.radius, outline.y1 + outline.radius


@leaf
def _turned(corners: Any, index: int, pose: Any) -> tuple[float, float]:
    x, y = pose.scale * corners[index].x, pose.scale * corners[index].y
    return x * pose.cosine - y * pose.sine, x * pose.sine + y * pose.cosine


@leaf
def _write_face(face: Any, x: float, y: float, dx: float, dy: float, turns: int) -> None:
    length = math.sqrt(dx * dx + dy * dy)
    face.x, face.y = x, y
    face.tx, face.ty = dx / length, dy / length
    face.nx, face.ny = face.ty, -face.tx
    face.length = length
    face.turns = turns
