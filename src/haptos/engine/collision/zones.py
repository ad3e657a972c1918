"""Zones: what the body overlaps, when it enters and when it leaves.

A zone is overlapped while the body's centre is inside its grown outline by more than rounding. On a segment the path is
cut where it crosses the outline, and each part is judged by its middle, so that a zone thinner than one tick's motion
is entered and left.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.grid import span, visit_cells, visit_near
from haptos.engine.collision.impact import is_kept
from haptos.engine.collision.poses import moved_since
from haptos.engine.collision.roots import falls_at, quartic_falls_at
from haptos.engine.compiling.contract import leaf
from haptos.engine.records.events import CLIMBED, DROPPED, ENTER, FROM_ASIDE, FROM_BEHIND, LEAVE, PASSES
from haptos.engine.records.journal import sort_since, write_at

# Overlap begins at this depth, a fraction of the body's height: more than the rounding of coordinates.
DEPTH = 1e-10
# A one-way piece is passed through from this depth on, so many times greater: less is mended where it is stood on.
THROUGH = 2e4
# Within this share of that depth, neither side is told from the other.
EDGE_BAND = 0.1
# Crossings of one outline that one segment can have; a rounded box has eight sides, each crossed twice at most.
CROSSINGS = 64


@leaf
def depth_in(outline: Any, faces: Any, x: float, y: float) -> float:
    """Return how deep a point is inside an outline, below zero outside (then at least the distance's negative)."""
    deepest = math.inf
    is_polygon = outline.count > 2
    nearest_square = math.inf
    for f in range(outline.first, outline.first + outline.count):
        face = faces[f]
        dx, dy = x - face.x, y - face.y
        if is_polygon:
            deepest = min(deepest, -(face.nx * dx + face.ny * dy))
        along = min(max(dx * face.tx + dy * face.ty, 0.0), face.length)
        ex, ey = dx - along * face.tx, dy - along * face.ty
        nearest_square = min(nearest_square, ex * ex + ey * ey)
    if is_polygon and deepest >= 0.0:
        return deepest + outline.radius
    return outline.radius - math.sqrt(nearest_square)


@leaf
def sweep_zones(
    core: Any, felt: Any, zones: Any, movers: Any, moving: Any, height: float, duration: float, now: float
) -> None:
    """Write what is entered and left on a path that begins at the player's place.

    Movers are where they are at the end of it: seen from a zone that moves, the body comes from where it was as seen
    from where that was.
    """
    player, segment, journal = core.player, core.segment, core.journal
    if zones is None:
        return
    x0, x1 = span(player.x, segment.path_vx, segment.path_ax, 0.0, duration)
    y0, y1 = span(player.y, segment.path_vy, segment.path_ay, 0.0, duration)
    first = journal.written[0]
    player.sweep += 1
    scene = (core, felt, movers, moving, height, duration, now, x0, x1, y0, y1)
    visit_cells(zones, x0, x1, y0, y1, _sweep, scene)
    if movers is not None:
        visit_near(zones, _sweep_moving, scene)
    sort_since(journal, first)


@leaf
def _sweep(scene: Any, index: int) -> None:
    """Enter and leave an outline that stays."""
    core, felt, _, _, height, duration, now, _, _, _, _ = scene
    player, segment = core.player, core.segment
    # Round a corner the path is a chord, which cuts into what the body rests on.
    if felt.seen[index] != player.sweep and not is_kept(
        core.contacts, player.contacts, felt.zones.outlines[index].twin
    ):
        felt.seen[index] = player.sweep
        _cross(core, felt, index, height, duration, now, player.x, player.y, segment.path_vx, segment.path_vy)


@leaf
def _sweep_moving(scene: Any, index: int) -> None:
    """Enter and leave an outline that moves: its box is where it is at the end."""
    core, felt, movers, moving, height, duration, now, x0, x1, y0, y1 = scene
    player, segment, outline = core.player, core.segment, felt.zones.outlines[index]
    if outline.x0 > outline.x1:
        return
    x, y = player.x, player.y
    ahead_x, ahead_y = moved_since(movers.movers[outline.mover], moving[outline.mover], x, y)
    far_x, far_y = abs(ahead_x), abs(ahead_y)
    if outline.x0 > x1 + far_x or outline.x1 < x0 - far_x or outline.y0 > y1 + far_y or outline.y1 < y0 - far_y:
        return
    if not is_kept(core.contacts, player.contacts, outline.twin):
        vx, vy = segment.path_vx - ahead_x / duration, segment.path_vy - ahead_y / duration
        _cross(core, felt, index, height, duration, now, x + ahead_x, y + ahead_y, vx, vy)


@leaf
def _cross(
    core: Any,
    felt: Any,
    index: int,
    height: float,
    duration: float,
    now: float,
    from_x: float,
    from_y: float,
    vx: float,
    vy: float,
) -> None:
    """Enter and leave one outline, seen from which the body is at a place and has a velocity."""
    zones, inside = felt.zones, felt.inside
    player, segment, journal = core.player, core.segment, core.journal
    outline = zones.outlines[index]
    if outline.twin >= 0:
        height *= THROUGH
    ax, ay = segment.path_ax, segment.path_ay
    begin = 0.0
    for _ in range(CROSSINGS):
        begin = next_change(
            outline, zones.faces, from_x, from_y, vx, vy, ax, ay, begin, duration, height, inside[index] != 0
        )
        if begin >= duration:
            return
        x = player.x + begin * (segment.path_vx + 0.5 * ax * begin)
        y = player.y + begin * (segment.path_vy + 0.5 * ay * begin)
        is_inside = inside[index] == 0
        set_inside(felt, index, is_inside, player, journal, now + begin, x, y)
        if outline.twin >= 0:
            say_pass(
                outline, is_inside, core.passing, player, journal, now + begin, x, y, vx + ax * begin, vy + ay * begin
            )


@leaf
def next_change(
    outline: Any,
    faces: Any,
    x: float,
    y: float,
    vx: float,
    vy: float,
    ax: float,
    ay: float,
    begin: float,
    duration: float,
    height: float,
    is_inside: bool,
) -> float:
    """Return when a path, on which the body is inside or outside at `begin`, changes that; infinite if it does not.

    The path is cut at its crossings; the first part whose middle is clearly on the other side begins with the change.
    """
    # More than ten arguments: a parabola is six numbers, and is asked about for other bodies than the path's record.
    threshold = DEPTH * height
    # Too deep inside, or too far outside, to cross on so short a path.
    reach = duration * (math.sqrt(vx * vx + vy * vy) + 0.5 * duration * math.sqrt(ax * ax + ay * ay)) + 2.0 * threshold
    depth = depth_in(outline, faces, x, y)
    if (depth > reach and is_inside) or (depth < -reach and not is_inside):
        return math.inf
    for _ in range(CROSSINGS):
        following = _next_crossing(outline, faces, x, y, vx, vy, ax, ay, begin, duration, threshold)
        end = min(following, duration)
        middle = 0.5 * (begin + end)
        there = (
            depth_in(outline, faces, x + middle * (vx + 0.5 * ax * middle), y + middle * (vy + 0.5 * ay * middle))
            - threshold
        )
        # So near the edge, the part before still holds.
        if end > begin and abs(there) > EDGE_BAND * threshold and (there > 0.0) != is_inside:
            return begin
        if following >= duration:
            return math.inf
        begin = following
    return math.inf


@leaf
def set_inside(felt: Any, index: int, is_inside: bool, player: Any, journal: Any, t: float, x: float, y: float) -> None:
    """Note that an outline is entered or left; the piece is when its first one is, or its last."""
    zones, inside, visits = felt.zones, felt.inside, felt.visits
    inside[index] = 1 if is_inside else 0
    if zones.outlines[index].twin >= 0:
        return
    piece = zones.outlines[index].piece
    if is_inside:
        visits[piece] += 1
        if visits[piece] == 1:
            write_at(journal, player, ENTER, t, piece, x, y, math.nan, 0.0)
    else:
        visits[piece] -= 1
        if visits[piece] == 0:
            write_at(journal, player, LEAVE, t, piece, x, y, math.nan, 0.0)


@leaf
def say_pass(
    outline: Any,
    is_inside: bool,
    passing: Any,
    player: Any,
    journal: Any,
    t: float,
    x: float,
    y: float,
    vx: float,
    vy: float,
) -> None:
    """Say why a one-way piece is passed through; once the body is out again, it is solid again."""
    if not is_inside:
        if passing[outline.twin]:
            passing[outline.twin] = 0
            player.dropping -= 1
        return
    out = vx * outline.side_x + vy * outline.side_y
    reason = FROM_ASIDE
    if passing[outline.twin]:
        reason = DROPPED
    elif passing[passing.shape[0] - 1]:
        reason = CLIMBED
    elif out > 0.0:
        reason = FROM_BEHIND
    write_at(journal, player, PASSES, t, outline.piece, x, y, math.nan, reason)


@leaf
def _next_crossing(
    outline: Any,
    faces: Any,
    x: float,
    y: float,
    vx: float,
    vy: float,
    ax: float,
    ay: float,
    begin: float,
    duration: float,
    threshold: float,
) -> float:
    """Return the first time after `begin` at which the path may cross the outline; infinite if there is none."""
    # More than ten arguments: the same parabola.
    # Two crossings nearer than this in time are one: the body would be inside by less than rounding.
    earliest = begin + 1e-13 * duration
    best = math.inf
    radius = outline.radius - threshold
    for f in range(outline.first, outline.first + outline.count):
        face = faces[f]
        dx, dy = x - face.x, y - face.y
        if face.length > 0.0:
            gap = face.nx * dx + face.ny * dy - radius
            speed = face.nx * vx + face.ny * vy
            acceleration = face.nx * ax + face.ny * ay
            down = falls_at(gap, speed, acceleration)
            up = falls_at(-gap, -speed, -acceleration)
            for t in (down, up):
                if earliest < t < best and t <= duration:
                    along = (dx + t * (vx + 0.5 * ax * t)) * face.tx + (dy + t * (vy + 0.5 * ay * t)) * face.ty
                    if -threshold <= along <= face.length + threshold:
                        best = t
        if radius > threshold and outline.radius > 0.0:
            t = _circle_crossing(dx, dy, vx, vy, ax, ay, radius, earliest, min(best, duration))
            if t < best:
                best = t
    return best


@leaf
def _circle_crossing(
    dx: float, dy: float, vx: float, vy: float, ax: float, ay: float, radius: float, begin: float, end: float
) -> float:
    if end <= begin:
        return math.inf
    x, y = dx + begin * (vx + 0.5 * ax * begin), dy + begin * (vy + 0.5 * ay * begin)
    ux, uy = vx + begin * ax, vy + begin * ay
    c0 = x * x + y * y - radius * radius
    reach = (end - begin) * (math.sqrt(ux * ux + uy * uy) + 0.5 * (end - begin) * math.sqrt(ax * ax + ay * ay))
    if c0 > 0.0 and math.sqrt(x * x + y * y) - radius > reach:
        return math.inf
    c1 = 2.0 * (x * ux + y * uy)
    c2 = ux * ux + uy * uy + x * ax + y * ay
    c3 = ux * ax + uy * ay
    c4 = 0.25 * (ax * ax + ay * ay)
    if c0 < 0.0:
        c0, c1, c2, c3, c4 = -c0, -c1, -c2, -c3, -c4
    return begin + quartic_falls_at(c0, c1, c2, c3, c4, end - begin)


@leaf
def survey_zones(felt: Any, zones: Any, player: Any, journal: Any, height: float, now: float) -> None:
    """Compare with where the body is now, after it was put somewhere: leave what it left, enter what it is in.

    What it overlaps before and after through different outlines of one piece is neither left nor entered.
    """
    inside = felt.inside
    if zones is None:
        return
    threshold = DEPTH * height
    for index in range(zones.outlines.shape[0]):
        outline = zones.outlines[index]
        is_gone = outline.x0 > outline.x1
        least = threshold * THROUGH if outline.twin >= 0 else threshold
        is_in = not is_gone and depth_in(outline, zones.faces, player.x, player.y) > least
        if inside[index] == 0 and is_in:
            set_inside(felt, index, is_in, player, journal, now, player.x, player.y)
            inside[index] = 2
    for index in range(zones.outlines.shape[0]):
        outline = zones.outlines[index]
        is_gone = outline.x0 > outline.x1
        least = threshold * THROUGH if outline.twin >= 0 else threshold
        is_in = not is_gone and depth_in(outline, zones.faces, player.x, player.y) > least
        if inside[index] == 1 and not is_in:
            set_inside(felt, index, is_in, player, journal, now, player.x, player.y)
        elif inside[index] == 2:
            inside[index] = 1
