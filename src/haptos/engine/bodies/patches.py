"""How two shapes lie to each other: the side and the corners, or the two corners, that are nearest [1]_.

Of cores that are apart or overlap, the side is the axis on which they are farthest apart, and what lies before it is
clipped to it; rounded corners beyond the end of a side meet corner to corner. A side that lies all along another solid
is none, and a corner between it and another side shows that other side alone: joints of tiles are not felt.

References
----------
.. [1] C. Ericson, "Real-Time Collision Detection", Morgan Kaufmann (2005), chapter 5; I. Sutherland, G. Hodgman,
   "Reentrant polygon clipping", Comm. ACM 17 (1974).
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.records.loose_records import CORNERS, FIRST_SIDE, SECOND_SIDE

# Directions that differ by less than this (radians) are one: what a corner between two sides shows.
SAME_WAY = 1e-3
# Of two sides that are as far apart as each other, within this share of a size, the first shape's holds.
PREFERRED = 1e-4
# What is nearer than this share of a body's size is kept in sight.
MARGIN = 0.1
# Who goes this share of its size in a step is looked at anew.
GOES_FAR = 0.25
# Sides in a mark: no shape has more.
SIDES = constant(1 << 12)


@leaf
def place_spots(stirred: Any, index: int, row: int) -> None:
    """Write where the corners of a shape are, as one that takes part has it."""
    shape, its = stirred.loose.shapes[index], stirred.partakers[row]
    corners, spots = stirred.movers.corners, stirred.spots
    cosine, sine = its.scale * its.cosine, its.scale * its.sine
    for place in range(shape.first, shape.first + shape.count):
        x, y = corners[place].x, corners[place].y
        spots[place].x = its.place_x + x * cosine - y * sine
        spots[place].y = its.place_y + x * sine + y * cosine


@leaf
def corner_of(spots: Any, index: int) -> tuple[float, float]:
    """Return where a corner is."""
    return spots[index].x, spots[index].y


@leaf
def find_patch(stirred: Any, first_shape: int, first: int, second_shape: int, second: int, far: float) -> None:
    """Write how two shapes lie to each other into the patch; points that are farther apart than `far` are left out.

    The gap is no greater than the true one.
    """
    loose, spots, patch = stirred.loose, stirred.spots, stirred.patch[0]
    one, other = loose.shapes[first_shape], loose.shapes[second_shape]
    a, b = stirred.partakers[first], stirred.partakers[second]
    patch.points, patch.mark, patch.other_mark = 0, 0, 0
    patch.gap = 0.0
    if one.count == 1 and other.count == 1:
        _corner_to_corner(stirred, first_shape, first, 0, second_shape, second, 0, far)
        return
    radii = one.radius * a.scale + other.radius * b.scale
    own, own_side, own_tip = _farthest_side(spots, loose.covered, one, other)
    its, its_side, its_tip = _farthest_side(spots, loose.covered, other, one)
    if own == -math.inf and its == -math.inf:
        return
    patch.gap = max(own, its) - radii
    if patch.gap > far:
        return
    rounded = one.radius > 0.0 or other.radius > 0.0
    if own >= its - PREFERRED * min(a.size, b.size):
        if rounded and own > 0.0:
            beyond, end = _beyond(spots, one, own_side, other, own_tip)
            if beyond:
                _corner_to_corner(stirred, first_shape, first, end, second_shape, second, own_tip, far)
                return
        _on_side(spots, patch, one, a, own_side, other, b, own_tip, far, FIRST_SIDE)
    else:
        if rounded and its > 0.0:
            beyond, end = _beyond(spots, other, its_side, one, its_tip)
            if beyond:
                _corner_to_corner(stirred, first_shape, first, its_tip, second_shape, second, end, far)
                return
        _on_side(spots, patch, other, b, its_side, one, a, its_tip, far, SECOND_SIDE)


@leaf
def _farthest_side(spots: Any, covered: Any, one: Any, other: Any) -> tuple[float, int, int]:
    """Return how far a shape's core is at most from a side of another one's, which side, and the nearest corner."""
    best, side, tip = -math.inf, -1, -1
    if one.count == 1:
        return best, side, tip
    ax, ay = corner_of(spots, one.first)
    for index in range(one.count):
        bx, by = corner_of(spots, one.first + (index + 1) % one.count)
        dx, dy = bx - ax, by - ay
        length = math.sqrt(dx * dx + dy * dy)
        if length > 0.0 and not covered[one.first + index]:
            nx, ny = dy / length, -dx / length
            lowest, nearest = math.inf, -1
            for place in range(other.count):
                cx, cy = corner_of(spots, other.first + place)
                above = (cx - ax) * nx + (cy - ay) * ny
                if above < lowest:
                    lowest, nearest = above, place
            if lowest > best and shows(spots, covered, other, nearest, -nx, -ny):
                best, side, tip = lowest, index, nearest
        ax, ay = bx, by
    return best, side, tip


@leaf
def shows(spots: Any, covered: Any, shape: Any, place: int, dx: float, dy: float) -> bool:
    """Whether a corner can be met from a direction: between two sides it can, but not past one that is covered."""
    if shape.count == 1:
        return True
    before = (place + shape.count - 1) % shape.count
    hides_before, hides_after = covered[shape.first + before] != 0, covered[shape.first + place] != 0
    if not hides_before and not hides_after:
        return True
    if hides_before and hides_after:
        return False
    px, py = corner_of(spots, shape.first + before)
    cx, cy = corner_of(spots, shape.first + place)
    qx, qy = corner_of(spots, shape.first + (place + 1) % shape.count)
    if hides_after:
        tx, ty = cx - px, cy - py
    else:
        tx, ty = qx - cx, qy - cy
    length = math.sqrt(tx * tx + ty * ty)
    nx, ny = ty / length, -tx / length
    across = nx * dy - ny * dx
    return across <= SAME_WAY if hides_after else across >= -SAME_WAY


@leaf
def _beyond(spots: Any, one: Any, side: int, other: Any, tip: int) -> tuple[bool, int]:
    """Whether a corner is nearest to an end of a side, and no side at it is nearer; and which corner that end is."""
    last = (side + 1) % one.count
    ax, ay = corner_of(spots, one.first + side)
    bx, by = corner_of(spots, one.first + last)
    cx, cy = corner_of(spots, other.first + tip)
    dx, dy = bx - ax, by - ay
    along = (cx - ax) * dx + (cy - ay) * dy
    if 0.0 <= along <= dx * dx + dy * dy:
        return False, side
    end = side if along < 0.0 else last
    ex, ey = (ax, ay) if along < 0.0 else (bx, by)
    for step in range(2):
        # Where the end lies before a side at that corner, it is that side which is nearest.
        place = (tip + 1) % other.count if step == 0 else (tip + other.count - 1) % other.count
        wx, wy = corner_of(spots, other.first + place)
        if (wx - cx) * (ex - cx) + (wy - cy) * (ey - cy) > 0.0:
            return False, side
    return True, end


@leaf
def _corner_to_corner(
    stirred: Any, first_shape: int, first: int, own: int, second_shape: int, second: int, its: int, far: float
) -> None:
    """Write that two rounded corners, or circles, meet."""
    loose, spots, patch = stirred.loose, stirred.spots, stirred.patch[0]
    one, other = loose.shapes[first_shape], loose.shapes[second_shape]
    a, b = stirred.partakers[first], stirred.partakers[second]
    ax, ay = corner_of(spots, one.first + own)
    bx, by = corner_of(spots, other.first + its)
    dx, dy = bx - ax, by - ay
    distance = math.sqrt(dx * dx + dy * dy)
    gap = distance - one.radius * a.scale - other.radius * b.scale
    if gap > far:
        return
    # Two circles with one middle part along up.
    nx, ny = (dx / distance, dy / distance) if distance > 0.0 else (0.0, 1.0)
    if not shows(spots, loose.covered, one, own, nx, ny):
        return
    if not shows(spots, loose.covered, other, its, -nx, -ny):
        return
    patch.kind, patch.points, patch.gap = CORNERS, 1, gap
    patch.nx, patch.ny = nx, ny
    patch.side_x, patch.side_y, patch.x, patch.y, patch.tip_gap = ax, ay, bx, by, gap
    patch.mark = (own * SIDES + its) * 4 + 3


@leaf
def _on_side(
    spots: Any, patch: Any, one: Any, a: Any, side: int, other: Any, b: Any, tip: int, far: float, kind: int
) -> None:
    """Write what of a shape lies before a side of another one: one point of it, or two."""
    ax, ay = corner_of(spots, one.first + side)
    bx, by = corner_of(spots, one.first + (side + 1) % one.count)
    tx, ty = bx - ax, by - ay
    length = math.sqrt(tx * tx + ty * ty)
    tx, ty = tx / length, ty / length
    nx, ny = ty, -tx
    radii = one.radius * a.scale + other.radius * b.scale
    patch.kind = kind
    patch.nx, patch.ny = (nx, ny) if kind == FIRST_SIDE else (-nx, -ny)
    patch.side_x, patch.side_y = ax, ay
    base = (side * SIDES + tip) * 4
    cx, cy = corner_of(spots, other.first + tip)
    if other.count == 1:
        gap = (cx - ax) * nx + (cy - ay) * ny - radii
        along = (cx - ax) * tx + (cy - ay) * ty
        if gap <= far and 0.0 <= along <= length:
            patch.points, patch.gap = 1, gap
            patch.x, patch.y, patch.tip_gap, patch.mark = cx, cy, gap, base
        return
    # Of the two sides at the nearest corner, that which faces this one.
    before, after = (tip + other.count - 1) % other.count, (tip + 1) % other.count
    px, py = corner_of(spots, other.first + before)
    qx, qy = corner_of(spots, other.first + after)
    before_length = math.sqrt(square(cx - px) + square(cy - py))
    after_length = math.sqrt(square(qx - cx) + square(qy - cy))
    facing_before = ((cy - py) * nx - (cx - px) * ny) / before_length
    facing_after = ((qy - cy) * nx - (qx - cx) * ny) / after_length
    if facing_before <= facing_after:
        other_end, ex, ey, dx, dy = before, px, py, cx, cy
    else:
        other_end, ex, ey, dx, dy = after, cx, cy, qx, qy
    base = (side * SIDES + min(tip, other_end)) * 4
    begin, end = (ex - ax) * tx + (ey - ay) * ty, (dx - ax) * tx + (dy - ay) * ty
    if begin > end:
        ex, ey, dx, dy = dx, dy, ex, ey
        begin, end = end, begin
    wide = end - begin
    low, high = max(begin, 0.0), min(end, length)
    if low > high:
        return
    from_x, from_y, way_x, way_y = ex, ey, dx - ex, dy - ey
    for number in range(2):
        at = low if number == 0 else high
        share = (at - begin) / wide if wide > 0.0 else float(number)
        x, y = from_x + share * way_x, from_y + share * way_y
        gap = (x - ax) * nx + (y - ay) * ny - radii
        if gap > far:
            continue
        if patch.points == 0:
            patch.x, patch.y, patch.tip_gap, patch.mark = x, y, gap, base + number
        else:
            patch.other_x, patch.other_y, patch.other_gap, patch.other_mark = x, y, gap, base + number
        patch.points += 1
        if high - low <= 1e-9 * length:
            return
