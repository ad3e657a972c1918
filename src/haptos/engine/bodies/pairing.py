"""Who can meet whom in a tick: bodies sorted from the bottom up, what stays in its cells, and what moves by plan.

What touches goes on with the impulses of the tick before. What is near is kept in sight. What could come to touch
within the tick is looked for at the time at which it does, with the normal and the arms that it has then.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.contact_rows import place_rows
from haptos.engine.bodies.pair_making import add_pair, lie_as, write_patch
from haptos.engine.bodies.pair_store import first_pair
from haptos.engine.bodies.patches import MARGIN
from haptos.engine.collision.grid import cells_of
from haptos.engine.compiling.contract import leaf
from haptos.engine.records.loose_records import OTHER_ROWS, PLAYER_ROW, STAYS_ROW

# What rests at a round height is so far, in steps, from where the next one begins.
OFF_STAIR = 0.37


@leaf
def find_pairs(stirred: Any, felt: Any, time: float) -> None:
    """Find all pairs of a tick, from the bottom up."""
    loose, order = stirred.loose, stirred.order
    count = loose.bodies.shape[0]
    for place in range(count):
        row = order[place]
        body = stirred.partakers[row]
        if not body.there:
            continue
        if body.awake:
            _with_what_stays(stirred, felt, row, time)
            _with_others(stirred, felt, row, time)
        _with_bodies(stirred, felt, place, time)


@leaf
def sort_bodies(stirred: Any) -> None:
    """Put the bodies in order, from the bottom up; those that are all but level keep that of the file.

    Rounding decides nothing: heights are counted in steps, between which nothing is likely to rest.
    """
    laws, order = stirred.loose.laws[0], stirred.order
    for row in range(order.shape[0]):
        body = stirred.partakers[row]
        body.level = math.floor(_lowest(body, laws) / laws.stair + OFF_STAIR)
    for place in range(1, order.shape[0]):
        row = order[place]
        level = stirred.partakers[row].level
        before = place
        while before > 0:
            other = order[before - 1]
            its = stirred.partakers[other].level
            if its < level or (its == level and other < row):
                break
            order[before] = other
            before -= 1
        order[before] = row


@leaf
def _lowest(row: Any, laws: Any) -> float:
    """Return how low a body comes to be in a tick, along up."""
    return (row.x0 if laws.up_x >= 0.0 else row.x1) * laws.up_x + (row.y0 if laws.up_y >= 0.0 else row.y1) * laws.up_y


@leaf
def _highest(row: Any, laws: Any) -> float:
    return (row.x1 if laws.up_x >= 0.0 else row.x0) * laws.up_x + (row.y1 if laws.up_y >= 0.0 else row.y0) * laws.up_y


@leaf
def _with_bodies(stirred: Any, felt: Any, place: int, time: float) -> None:
    """Find the pairs of a body with those that lie higher."""
    loose, order = stirred.loose, stirred.order
    laws = loose.laws[0]
    row = order[place]
    body = stirred.partakers[row]
    top = _highest(body, laws)
    for later in range(place + 1, order.shape[0]):
        other_row = order[later]
        other = stirred.partakers[other_row]
        if (other.level - OFF_STAIR) * laws.stair > top:
            return
        if not other.there or not (body.awake or other.awake):
            continue
        if other.x0 > body.x1 or other.x1 < body.x0 or other.y0 > body.y1 or other.y1 < body.y0:
            continue
        if are_pinned(stirred, row, other_row) or is_apart(loose, row, loose.bodies[other_row].piece):
            continue
        if is_apart(loose, other_row, loose.bodies[row].piece):
            continue
        _pair_bodies(stirred, felt, row, other_row, time)


@leaf
def _pair_bodies(stirred: Any, felt: Any, row: int, other_row: int, time: float) -> None:
    """Find the pairs of the shapes of two bodies; the first of them in the file is the first."""
    loose = stirred.loose
    first, second = min(row, other_row), max(row, other_row)
    one, other = loose.bodies[first], loose.bodies[second]
    for own in range(one.first_part, one.first_part + one.parts):
        for its in range(other.first_part, other.first_part + other.parts):
            own_shape, its_shape = loose.parts[own], loose.parts[its]
            if (loose.solid_to[loose.shapes[own_shape].layer] >> loose.shapes[its_shape].layer) & 1:
                add_pair(stirred, felt, own_shape, first, its_shape, second, time)


@leaf
def are_pinned(stirred: Any, row: int, other: int) -> bool:
    """Whether a hinge pins one of two to the other: they do not collide."""
    if not stirred.partakers[row].jointed and not stirred.partakers[other].jointed:
        return False
    for index in range(stirred.loose.hinges.shape[0]):
        hinge = stirred.loose.hinges[index]
        if (hinge.first == row and hinge.second == other) or (hinge.first == other and hinge.second == row):
            return True
    return False


@leaf
def is_apart(loose: Any, row: int, piece: int) -> bool:
    """Whether a body never meets a piece."""
    body = loose.bodies[row]
    for place in range(body.first_apart, body.first_apart + body.aparts):
        if loose.aparts[place] == piece:
            return True
    return False


@leaf
def _with_what_stays(stirred: Any, felt: Any, row: int, time: float) -> None:
    """Find the pairs of a body with what stays."""
    loose = stirred.loose
    body = stirred.partakers[row]
    stays = loose.bodies.shape[0] + STAYS_ROW
    grid = loose.grid[0]
    first_column, last_column, first_line, last_line = cells_of(grid, body.x0, body.x1, body.y0, body.y1)
    for line in range(first_line, last_line + 1):
        for column in range(first_column, last_column + 1):
            cell = line * grid.columns + column
            for item in range(loose.start[cell], loose.start[cell + 1]):
                index = loose.items[item]
                shape = loose.shapes[index]
                if shape.x0 > body.x1 or shape.x1 < body.x0 or shape.y0 > body.y1 or shape.y1 < body.y0:
                    continue
                # Of the cells that both reach into, the first one counts.
                if column > first_column and shape.x0 < grid.x + column * grid.size:
                    continue
                if line > first_line and shape.y0 < grid.y + line * grid.size:
                    continue
                _with_shape(stirred, felt, row, index, stays, time)


@leaf
def _with_shape(stirred: Any, felt: Any, row: int, index: int, other: int, time: float) -> None:
    """Find the pairs of a body's shapes with one that is no body's."""
    loose = stirred.loose
    body, shape = loose.bodies[row], loose.shapes[index]
    if is_apart(loose, row, shape.piece):
        return
    for own in range(body.first_part, body.first_part + body.parts):
        part = loose.parts[own]
        if (loose.solid_to[loose.shapes[part].layer] >> shape.layer) & 1:
            add_pair(stirred, felt, index, other, part, row, time)


@leaf
def _with_others(stirred: Any, felt: Any, row: int, time: float) -> None:
    """Find the pairs of a body with what moves by plan, and with the player."""
    loose = stirred.loose
    count = loose.bodies.shape[0]
    body = stirred.partakers[row]
    for place in range(loose.other_shapes.shape[0]):
        other_row = count + OTHER_ROWS + loose.other_of[place]
        other = stirred.partakers[other_row]
        if not other.there or other.x0 > body.x1 or other.x1 < body.x0 or other.y0 > body.y1 or other.y1 < body.y0:
            continue
        if body.jointed:
            if are_pinned(stirred, row, other_row):
                continue
        _with_shape(stirred, felt, row, loose.other_shapes[place], other_row, time)
    player_row = count + PLAYER_ROW
    player = stirred.partakers[player_row]
    if player.there and player.x0 <= body.x1 and player.x1 >= body.x0 and player.y0 <= body.y1 and player.y1 >= body.y0:
        _with_shape(stirred, felt, row, loose.shapes.shape[0] - 1, player_row, time)


@leaf
def look_anew(stirred: Any, felt: Any, row: int, time: float) -> None:
    """Look anew how a fast body lies to what it is near, and whom it comes to meet within a time."""
    loose, tally, count = stirred.loose, stirred.tally[0], stirred.loose.bodies.shape[0]
    body = stirred.partakers[row]
    body.swept, tally.anew = 0, 1
    first = first_pair(stirred, tally.turn)
    for number in range(first, first + tally.pairs):
        pair = stirred.pairs[number]
        if (pair.first != row and pair.second != row) or pair.passed or pair.cap >= 0.0 or not pair.active:
            continue
        own, its = lie_as(stirred, pair.first_shape, pair.first, pair.second_shape, pair.second, time)
        if own < 0:
            pair.points, pair.gap = 0, math.inf
        else:
            # Close to it, the rest of its shape may come to touch soon; who turns does not come to it straight.
            body.swept |= 1 if own == pair.first or body.spin != 0.0 else 0
            write_patch(stirred, number, own, its)
            place_rows(stirred, number)
    far_x, far_y = time * (abs(body.vx) + 0.5 * time * abs(body.ax)), time * (abs(body.vy) + 0.5 * time * abs(body.ay))
    reach = body.reach + MARGIN * body.size
    body.x0, body.x1 = body.x - reach - far_x, body.x + reach + far_x
    body.y0, body.y1 = body.y - reach - far_y, body.y + reach + far_y
    _with_what_stays(stirred, felt, row, time)
    _with_others(stirred, felt, row, time)
    for other_row in range(count):
        other = stirred.partakers[other_row]
        if other_row == row or not other.there:
            continue
        if other.x0 > body.x1 or other.x1 < body.x0 or other.y0 > body.y1 or other.y1 < body.y0:
            continue
        if are_pinned(stirred, row, other_row) or is_apart(loose, row, loose.bodies[other_row].piece):
            continue
        if not is_apart(loose, other_row, loose.bodies[row].piece):
            _pair_bodies(stirred, felt, row, other_row, time)
    tally.anew = 0
