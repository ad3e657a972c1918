"""How two shapes become a pair: how they lie to each other, their surfaces, and what goes on from the tick before."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.contact_rows import NO_CAP, SLOP, place_rows
from haptos.engine.bodies.one_sided import is_faced, passes
from haptos.engine.bodies.pair_store import NONE, copy_pair, first_pair, pair_before
from haptos.engine.bodies.patches import GOES_FAR, MARGIN, find_patch, place_spots
from haptos.engine.bodies.sweeping import first_touch_in
from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import leaf
from haptos.engine.records.loose_records import FIRST_SIDE, PLAYER_ROW, SECOND_SIDE

# Impulses go on where the normals agree as well as this.
AGREES = 0.8
# Until it has moved by this share of its size, it is not looked at anew how a body lies to another one.
HARDLY = 1e-3


@leaf
def add_pair(
    stirred: Any, felt: Any, first_shape: int, first: int, second_shape: int, second: int, time: float
) -> None:
    """Add a pair of shapes, if they touch, are near, or come to touch within a time."""
    loose, tally = stirred.loose, stirred.tally[0]
    a, b = stirred.partakers[first], stirred.partakers[second]
    one, other = loose.shapes[first_shape], loose.shapes[second_shape]
    old = pair_before(stirred, first_shape, second_shape)
    if tally.anew:
        if _is_paired(stirred, first_shape, second_shape):
            return
    if one.side_x != 0.0 or one.side_y != 0.0 or other.side_x != 0.0 or other.side_y != 0.0:
        if passes(stirred, first_shape, first, second_shape, second, old, min(a.size, b.size)):
            return
    if old != NONE and not tally.anew:
        # Who hardly moves lies as it has lain.
        before = stirred.pairs[old]
        moved = math.sqrt(square(b.vx - a.vx) + square(b.vy - a.vy)) + abs(a.spin) * a.reach + abs(b.spin) * b.reach
        before.spent += time * moved
        if before.spent < HARDLY * min(a.size, b.size) and before.points > 0 and not before.passed:
            if tally.pairs < stirred.pairs.shape[0] // 2 and before.cap < 0.0:
                copy_pair(stirred, old, first_pair(stirred, tally.turn) + tally.pairs)
                _meet_surfaces(stirred, felt, first_pair(stirred, tally.turn) + tally.pairs)
                tally.pairs += 1
                return
    own, its = lie_as(stirred, first_shape, first, second_shape, second, time)
    if own < 0:
        return
    index = first_pair(stirred, tally.turn) + tally.pairs
    if tally.pairs >= stirred.pairs.shape[0] // 2:
        tally.lost += 1
        return
    tally.pairs += 1
    pair = stirred.pairs[index]
    pair.first, pair.second, pair.first_shape, pair.second_shape = first, second, first_shape, second_shape
    pair.first_radius, pair.second_radius = one.radius * a.scale, other.radius * b.scale
    pair.cap, pair.left, pair.impulse, pair.passed = NO_CAP, 0.0, 0.0, 0
    pair.touches, pair.told, pair.since, pair.eager, pair.approach, pair.active = 0, 0, 0.0, 0, 0.0, 1
    pair.spent, pair.when, pair.rubs, pair.struck = 0.0, 0.0, 0.0, 0
    write_patch(stirred, index, own, its)
    _meet_surfaces(stirred, felt, index)
    if old != NONE:
        _go_on(stirred, old, index)
    place_rows(stirred, index)


@leaf
def lie_as(stirred: Any, first_shape: int, first: int, second_shape: int, second: int, time: float) -> tuple[int, int]:
    """Write how two shapes lie to each other, or will when they come to touch; below zero if they are not to meet.

    Return the rows in which they do: their own, or the spare ones, which are where they will be then.
    """
    patch = stirred.patch[0]
    a, b = stirred.partakers[first], stirred.partakers[second]
    size = min(a.size, b.size)
    reach = math.sqrt(square(b.vx - a.vx) + square(b.vy - a.vy)) + abs(a.spin) * a.reach + abs(b.spin) * b.reach
    reach = time * (reach + 0.5 * time * math.sqrt(square(b.ax - a.ax) + square(b.ay - a.ay)))
    far = MARGIN * size
    if stirred.tally[0].anew:
        # What it may come to until it is looked at again counts as near.
        far += GOES_FAR * size
        place_spots(stirred, first_shape, first)
        place_spots(stirred, second_shape, second)
    find_patch(stirred, first_shape, first, second_shape, second, max(far, reach))
    own, its = first, second
    gap = patch.gap
    if gap > max(far, reach):
        return NONE, NONE
    if reach > far:
        met = math.inf
        if gap > SLOP * size:
            # They may come to touch: if so, they lie to each other as they will then.
            met = first_touch_in(stirred, first_shape, first, second_shape, second, 0.0, time)
        if met < math.inf:
            own = stirred.partakers.shape[0] - 2
            its = own + 1
            place_spots(stirred, first_shape, own)
            place_spots(stirred, second_shape, its)
            find_patch(stirred, first_shape, own, second_shape, its, far)
            place_spots(stirred, first_shape, first)
            place_spots(stirred, second_shape, second)
        else:
            find_patch(stirred, first_shape, first, second_shape, second, far)
    if patch.points == 0 or not is_faced(stirred, first_shape, first, second_shape, second):
        return NONE, NONE
    return own, its


@leaf
def _is_paired(stirred: Any, first_shape: int, second_shape: int) -> bool:
    """Whether two shapes are a pair of this tick already."""
    first = first_pair(stirred, stirred.tally[0].turn)
    for number in range(first, first + stirred.tally[0].pairs):
        pair = stirred.pairs[number]
        if pair.first_shape == first_shape and pair.second_shape == second_shape:
            return True
    return False


@leaf
def write_patch(stirred: Any, index: int, own: int, its: int) -> None:
    """Write what is fixed of a pair: the side, or a corner, of one and the points of the other, each in its own frame.

    They lie to each other as two rows say, which may be those of a later time.
    """
    pair, patch = stirred.pairs[index], stirred.patch[0]
    a, b = stirred.partakers[own], stirred.partakers[its]
    pair.kind, pair.points, pair.rubs = patch.kind, patch.points, 0.0
    pair.nx, pair.ny = patch.nx, patch.ny
    if patch.kind == SECOND_SIDE:
        pair.side_x, pair.side_y = -(b.cosine * patch.nx + b.sine * patch.ny), b.sine * patch.nx - b.cosine * patch.ny
    else:
        pair.side_x, pair.side_y = a.cosine * patch.nx + a.sine * patch.ny, a.cosine * patch.ny - a.sine * patch.nx
    for place in range(patch.points):
        point = stirred.points[2 * index + place]
        if place == 0:
            x, y, point.mark = patch.x, patch.y, patch.mark
        else:
            x, y, point.mark = patch.other_x, patch.other_y, patch.other_mark
        point.normal, point.waits, point.closing = 0.0, 0, 0.0
        # A side's own point is the one that lies under what comes to it.
        fx, fy = patch.side_x, patch.side_y
        if patch.kind == SECOND_SIDE:
            along = (y - fy) * patch.nx - (x - fx) * patch.ny
            fx, fy = fx - along * patch.ny, fy + along * patch.nx
            point.side_x, point.side_y = _into(b, fx, fy)
            point.tip_x, point.tip_y = _into(a, x, y)
        else:
            if patch.kind == FIRST_SIDE:
                along = (y - fy) * patch.nx - (x - fx) * patch.ny
                fx, fy = fx - along * patch.ny, fy + along * patch.nx
            point.side_x, point.side_y = _into(a, fx, fy)
            point.tip_x, point.tip_y = _into(b, x, y)


@leaf
def _into(row: Any, x: float, y: float) -> tuple[float, float]:
    """Return a point of the world in the frame of one that takes part."""
    dx, dy = x - row.x, y - row.y
    return dx * row.cosine + dy * row.sine, dy * row.cosine - dx * row.sine


@leaf
def _go_on(stirred: Any, old: int, index: int) -> None:
    """Let a pair go on with the impulses, and the story, of the tick before."""
    before, pair = stirred.pairs[old], stirred.pairs[index]
    pair.told, pair.since = before.told, before.since
    if before.nx * pair.nx + before.ny * pair.ny < AGREES:
        return
    for place in range(pair.points):
        point = stirred.points[2 * index + place]
        for its in range(before.points):
            other = stirred.points[2 * old + its]
            if other.mark == point.mark:
                point.normal = other.normal
                pair.rubs = before.rubs


@leaf
def _meet_surfaces(stirred: Any, felt: Any, index: int) -> None:
    """Write the friction and the restitution between two, and the speed of a belt."""
    pair = stirred.pairs[index]
    loose = stirred.loose
    count = loose.bodies.shape[0]
    second = loose.bodies[pair.second]
    friction, restitution, belt = second.friction, second.restitution, 0.0
    if pair.first < count:
        first = loose.bodies[pair.first]
        friction, restitution = math.sqrt(friction * first.friction), max(restitution, first.restitution)
    elif pair.first == count + PLAYER_ROW:
        friction = 0.0
    else:
        piece = loose.shapes[pair.first_shape].piece
        # The bounds have no surface of their own.
        row = felt.pieces[piece].surface if piece >= 0 else NONE
        if row >= 0:
            surface = felt.surfaces[row]
            if surface.friction >= 0.0:
                friction = math.sqrt(friction * surface.friction)
            restitution = max(restitution, surface.restitution)
            # A belt runs clockwise round its piece; the tangent is the normal turned counter-clockwise.
            belt = surface.conveyor
    # Seen from the belt the other goes along with it: against the tangent.
    pair.friction, pair.restitution, pair.belt = friction, restitution, -belt
