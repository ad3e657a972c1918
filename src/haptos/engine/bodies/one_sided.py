"""Pieces that are solid from one side alone, as bodies meet them: whoever is not wholly on that side is let through."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.contact_rows import NO_CAP, SLOP
from haptos.engine.bodies.pair_store import NONE, first_pair
from haptos.engine.bodies.patches import MARGIN, find_patch
from haptos.engine.compiling.contract import leaf

# A one-way piece holds what touches it with a normal this near to its own side.
FACING = 0.7


@leaf
def passes(stirred: Any, first_shape: int, first: int, second_shape: int, second: int, old: int, size: float) -> bool:
    """Whether one of two is solid from one side alone and the other is not on that side; it is let through then."""
    loose, tally = stirred.loose, stirred.tally[0]
    passed = False
    if old != NONE:
        passed = stirred.pairs[old].passed != 0
    one = loose.shapes[first_shape]
    if one.side_x != 0.0 or one.side_y != 0.0:
        ahead = _ahead(stirred, first_shape, first, second_shape, second)
    else:
        ahead = _ahead(stirred, second_shape, second, first_shape, first)
    if ahead >= -SLOP * size or (old != NONE and not passed):
        return False
    find_patch(stirred, first_shape, first, second_shape, second, MARGIN * size)
    if stirred.patch[0].points > 0 and tally.pairs < stirred.pairs.shape[0] // 2:
        # It is noted, so that it is let through to the end.
        index = first_pair(stirred, tally.turn) + tally.pairs
        tally.pairs += 1
        pair = stirred.pairs[index]
        pair.first, pair.second, pair.first_shape, pair.second_shape = first, second, first_shape, second_shape
        pair.points, pair.passed, pair.told, pair.touches, pair.gap, pair.active = 0, 1, 0, 0, math.inf, 0
        pair.cap, pair.eager, pair.impulse = NO_CAP, 0, 0.0
        pair.nx, pair.ny = 0.0, 0.0
    return True


@leaf
def _ahead(stirred: Any, sided_shape: int, sided: int, shape_index: int, row_index: int) -> float:
    """Return how far a shape is before the solid side of another one."""
    loose, corners = stirred.loose, stirred.movers.corners
    piece, row = loose.shapes[sided_shape], stirred.partakers[sided]
    shape, other = loose.shapes[shape_index], stirred.partakers[row_index]
    sx = piece.side_x * row.cosine - piece.side_y * row.sine
    sy = piece.side_x * row.sine + piece.side_y * row.cosine
    top, low = -math.inf, math.inf
    for place in range(piece.first, piece.first + piece.count):
        dx, dy = row.scale * corners[place].x, row.scale * corners[place].y
        x = row.place_x + dx * row.cosine - dy * row.sine
        y = row.place_y + dx * row.sine + dy * row.cosine
        top = max(top, x * sx + y * sy)
    for place in range(shape.first, shape.first + shape.count):
        dx, dy = other.scale * corners[place].x, other.scale * corners[place].y
        x = other.place_x + dx * other.cosine - dy * other.sine
        y = other.place_y + dx * other.sine + dy * other.cosine
        low = min(low, x * sx + y * sy)
    return low - shape.radius * other.scale - top - piece.radius * row.scale


@leaf
def is_faced(stirred: Any, first_shape: int, first: int, second_shape: int, second: int) -> bool:
    """Whether what is solid from one side alone is met from that side."""
    loose, patch = stirred.loose, stirred.patch[0]
    one, other = loose.shapes[first_shape], loose.shapes[second_shape]
    if one.side_x != 0.0 or one.side_y != 0.0:
        row = stirred.partakers[first]
        sx = one.side_x * row.cosine - one.side_y * row.sine
        sy = one.side_x * row.sine + one.side_y * row.cosine
        return patch.nx * sx + patch.ny * sy >= FACING
    if other.side_x != 0.0 or other.side_y != 0.0:
        row = stirred.partakers[second]
        sx = other.side_x * row.cosine - other.side_y * row.sine
        sy = other.side_x * row.sine + other.side_y * row.cosine
        return -(patch.nx * sx + patch.ny * sy) >= FACING
    return True
