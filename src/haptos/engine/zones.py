"""Zones: what the body overlaps, when it enters and when it leaves.

A zone is overlapped while the body's centre is inside its grown outline by more than rounding. On a segment the path is
cut where it crosses the outline, and each part is judged by its middle, so that a zone thinner than one tick's motion
is entered and left.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiled import leaf
from haptos.engine.impact import span
from haptos.engine.journal import ENTER, LEAVE, sort_since, write_at
from haptos.engine.roots import falls_at, quartic_falls_at

# Overlap begins at this depth, a fraction of the body's height: more than the rounding of coordinates.
DEPTH = 1e-10
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
    zones: Any, inside: Any, seen: Any, visits: Any, player: Any, journal: Any, height: float,
    vx: float, vy: float, ax: float, ay: float, duration: float, now: float,
) -> None:  # fmt: skip
    """Write what is entered and left on a path that begins at the player's place."""
    if zones is None:
        return
    grid = zones.grid[0]
    x0, x1 = span(player.x, vx, ax, 0.0, duration)
    y0, y1 = span(player.y, vy, ay, 0.0, duration)
    first_column = max(0, int(math.floor((x0 - grid.x) * grid.per_unit)))
    last_column = min(grid.columns - 1, int(math.floor((x1 - grid.x) * grid.per_unit)))
    first_row = max(0, int(math.floor((y0 - grid.y) * grid.per_unit)))
    last_row = min(grid.rows - 1, int(math.floor((y1 - grid.y) * grid.per_unit)))
    # Most segments are near no zone: they are spared the call.
    if first_row == last_row and first_column == last_column:
        cell = first_row * grid.columns + first_column
        if zones.start[cell] == zones.start[cell + 1]:
            return
    _sweep_cells(
        zones, inside, seen, visits, player, journal, height, vx, vy, ax, ay, duration, now,
        x0, x1, y0, y1, first_column, last_column, first_row, last_row,
    )  # fmt: skip


@leaf
def _sweep_cells(
    zones: Any, inside: Any, seen: Any, visits: Any, player: Any, journal: Any, height: float,
    vx: float, vy: float, ax: float, ay: float, duration: float, now: float,
    x0: float, x1: float, y0: float, y1: float, first_column: int, last_column: int, first_row: int, last_row: int,
) -> None:  # fmt: skip
    grid = zones.grid[0]
    first = journal.written[0]
    player.sweep += 1
    for row in range(first_row, last_row + 1):
        for column in range(first_column, last_column + 1):
            cell = row * grid.columns + column
            for item in range(zones.start[cell], zones.start[cell + 1]):
                index = zones.items[item]
                outline = zones.outlines[index]
                if outline.x0 > x1 or outline.x1 < x0 or outline.y0 > y1 or outline.y1 < y0:
                    continue
                if seen[index] != player.sweep:
                    seen[index] = player.sweep
                    _cross(zones, index, inside, visits, player, journal, height, vx, vy, ax, ay, duration, now)
    sort_since(journal, first)


@leaf
def _cross(
    zones: Any, index: int, inside: Any, visits: Any, player: Any, journal: Any, height: float,
    vx: float, vy: float, ax: float, ay: float, duration: float, now: float,
) -> None:  # fmt: skip
    outline = zones.outlines[index]
    begin = 0.0
    threshold = DEPTH * height
    # Too deep inside, or too far outside, to cross on so short a path.
    reach = duration * (math.sqrt(vx * vx + vy * vy) + 0.5 * duration * math.sqrt(ax * ax + ay * ay)) + threshold
    depth = depth_in(outline, zones.faces, player.x, player.y)
    if (depth > reach and inside[index] != 0) or (depth < -reach and inside[index] == 0):
        return
    for _ in range(CROSSINGS):
        following = _next_crossing(outline, zones.faces, player, vx, vy, ax, ay, begin, duration, threshold)
        end = min(following, duration)
        middle = 0.5 * (begin + end)
        x = player.x + middle * (vx + 0.5 * ax * middle)
        y = player.y + middle * (vy + 0.5 * ay * middle)
        is_inside = depth_in(outline, zones.faces, x, y) > threshold
        if end > begin and is_inside != (inside[index] != 0):
            x = player.x + begin * (vx + 0.5 * ax * begin)
            y = player.y + begin * (vy + 0.5 * ay * begin)
            set_inside(zones, index, is_inside, inside, visits, player, journal, now + begin, x, y)
        if following >= duration:
            return
        begin = following


@leaf
def set_inside(
    zones: Any, index: int, is_inside: bool, inside: Any, visits: Any, player: Any, journal: Any,
    t: float, x: float, y: float,
) -> None:  # fmt: skip
    """Note that an outline is entered or left; the piece is when its first one is, or its last."""
    piece = zones.outlines[index].piece
    inside[index] = 1 if is_inside else 0
    if is_inside:
        visits[piece] += 1
        if visits[piece] == 1:
            write_at(journal, player, ENTER, t, piece, x, y, math.nan, 0.0)
    else:
        visits[piece] -= 1
        if visits[piece] == 0:
            write_at(journal, player, LEAVE, t, piece, x, y, math.nan, 0.0)


@leaf
def _next_crossing(
    outline: Any, faces: Any, player: Any, vx: float, vy: float, ax: float, ay: float,
    begin: float, duration: float, threshold: float,
) -> float:  # fmt: skip
    """Return the first time after `begin` at which the path may cross the outline; infinite if there is none."""
    # Two crossings nearer than this in time are one: the body would be inside by less than rounding.
    earliest = begin + 1e-13 * duration
    best = math.inf
    radius = outline.radius - threshold
    for f in range(outline.first, outline.first + outline.count):
        face = faces[f]
        dx, dy = player.x - face.x, player.y - face.y
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
def survey_zones(zones: Any, inside: Any, visits: Any, player: Any, journal: Any, height: float, now: float) -> None:
    """Compare with where the body is now, after it was put somewhere: leave what it left, enter what it is in.

    What it overlaps before and after through different outlines of one piece is neither left nor entered.
    """
    if zones is None:
        return
    threshold = DEPTH * height
    for index in range(zones.outlines.shape[0]):
        is_in = depth_in(zones.outlines[index], zones.faces, player.x, player.y) > threshold
        if inside[index] == 0 and is_in:
            set_inside(zones, index, is_in, inside, visits, player, journal, now, player.x, player.y)
            inside[index] = 2
    for index in range(zones.outlines.shape[0]):
        is_in = depth_in(zones.outlines[index], zones.faces, player.x, player.y) > threshold
        if inside[index] == 1 and not is_in:
            set_inside(zones, index, is_in, inside, visits, player, journal, now, player.x, player.y)
        elif inside[index] == 2:
            inside[index] = 1
