"""What bodies do is told: they touch and part, land, ride on what moves, and get off."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.contact_rows import SLOP
from haptos.engine.bodies.pair_store import first_pair, list_of
from haptos.engine.compiling.contract import leaf
from haptos.engine.records.codes import MEETS_PLAYER, NO_PIECE
from haptos.engine.records.events import ALIGHT, BOARD, LAND, PARTS, STALL, STOOD_STILL, TOUCHES
from haptos.engine.records.journal import write_of
from haptos.engine.records.loose_records import PLAYER_ROW

# Who touches is said to have parted once it is this share of a size away.
AWAY = 0.02


@leaf
def say_of(
    stirred: Any, journal: Any, player: Any, kind: int, t: float, row: int, piece: int, amount: float, more: float
) -> None:
    """Add an event of a body's."""
    body = stirred.partakers[row]
    write_of(journal, player, kind, t, stirred.loose.bodies[row].piece, piece, body.x, body.y, amount, more)


@leaf
def say_stalled(stirred: Any, journal: Any, player: Any, end: float) -> None:
    """Say that there were more impacts than a tick can hold, of the body that was struck most often."""
    first = first_pair(stirred, stirred.tally[0].turn)
    most, struck = first, 0
    for number in range(first, first + stirred.tally[0].pairs):
        if stirred.pairs[number].struck > struck:
            most, struck = number, stirred.pairs[number].struck
    row, time = stirred.pairs[most].second, stirred.tally[0].stalled
    say_of(stirred, journal, player, STALL, end, row, NO_PIECE, time, STOOD_STILL)


@leaf
def piece_of(stirred: Any, shape: int, row: int) -> int:
    """Return the piece that a shape belongs to, or the player."""
    if row == stirred.loose.bodies.shape[0] + PLAYER_ROW:
        return MEETS_PLAYER
    return stirred.loose.shapes[shape].piece


@leaf
def tell_pairs(stirred: Any, journal: Any, player: Any, begin: float, end: float) -> None:
    """Say who has come to touch whom, who has parted, and who has landed."""
    loose, tally = stirred.loose, stirred.tally[0]
    count = loose.bodies.shape[0]
    laws = loose.laws[0]
    for row in range(count):
        body = stirred.partakers[row]
        body.touched, body.contacts = 0, 0
    first = first_pair(stirred, tally.turn)
    for number in range(first, first + tally.pairs):
        pair = stirred.pairs[number]
        if pair.passed or pair.points == 0:
            continue
        a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
        size = min(a.size, b.size)
        pressed = 0.0
        for place in range(pair.points):
            pressed += stirred.points[2 * number + place].normal
        touches = pressed > 0.0 or pair.touches != 0 or pair.gap <= 0.0
        if pair.told and not touches and pair.gap <= AWAY * size:
            touches = True
        if touches and not pair.told:
            pair.told = 1
            pair.since = pair.since if pair.touches else end
            if tally.begun and not _touches_already(stirred, number):
                _say_touch(stirred, journal, player, pair)
        elif pair.told and not touches:
            pair.told = 0
            if not _touches_already(stirred, number):
                _say_pair(stirred, journal, player, PARTS, end, number, math.nan, 0.0)
        if pair.told:
            ny = pair.nx * laws.up_x + pair.ny * laws.up_y
            if ny >= laws.steepest:
                _stand(stirred, pair.second, pair.first, pair.first_shape, pair, pair.met_x, pair.met_y)
            elif -ny >= laws.steepest and pair.first < count:
                _stand(stirred, pair.first, pair.second, pair.second_shape, pair, pair.its_x, pair.its_y)


@leaf
def _touches_already(stirred: Any, number: int) -> bool:
    """Whether two pieces touch by other shapes of theirs, too."""
    pair = stirred.pairs[number]
    first = first_pair(stirred, stirred.tally[0].turn)
    for index in range(first, first + stirred.tally[0].pairs):
        other = stirred.pairs[index]
        if index == number or not other.told or other.passed:
            continue
        if other.first == pair.first and other.second == pair.second:
            if stirred.loose.shapes[other.first_shape].piece == stirred.loose.shapes[pair.first_shape].piece:
                return True
    return False


@leaf
def tell_lost_pairs(stirred: Any, journal: Any, player: Any, end: float) -> None:
    """Say who has parted by so much that the pair is not looked at any more."""
    tally = stirred.tally[0]
    first, before = first_pair(stirred, tally.turn), first_pair(stirred, 1 - tally.turn)
    for index in range(first, first + tally.pairs):
        pair = stirred.pairs[index]
        place = _old_of(stirred, pair.first_shape, pair.second_shape)
        if place >= 0:
            # It goes on.
            stirred.pairs[place].told = 0
    for index in range(before, before + tally.before):
        pair = stirred.pairs[index]
        if not pair.told or pair.passed:
            continue
        a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
        if not a.awake and not b.awake and a.there and b.there:
            continue
        pair.told = 0
        if not _goes_on(stirred, pair):
            _say_pair(stirred, journal, player, PARTS, end, index, math.nan, 0.0)


@leaf
def _goes_on(stirred: Any, lost: Any) -> bool:
    """Whether two pieces still touch by other shapes of theirs."""
    first = first_pair(stirred, stirred.tally[0].turn)
    shapes = stirred.loose.shapes
    for index in range(first, first + stirred.tally[0].pairs):
        pair = stirred.pairs[index]
        if pair.told and not pair.passed and pair.first == lost.first and pair.second == lost.second:
            if shapes[pair.first_shape].piece == shapes[lost.first_shape].piece:
                return True
    return False


@leaf
def _old_of(stirred: Any, first_shape: int, second_shape: int) -> int:
    tally = stirred.tally[0]
    before = first_pair(stirred, 1 - tally.turn)
    index = stirred.heads[list_of(stirred.heads, first_shape, second_shape)]
    while index >= before and index < before + tally.before:
        pair = stirred.pairs[index]
        if pair.first_shape == first_shape and pair.second_shape == second_shape:
            return index
        index = pair.after
    return -1


@leaf
def _say_touch(stirred: Any, journal: Any, player: Any, pair: Any) -> None:
    """Say that two touch: where the second was when it struck the first, if it has."""
    piece = piece_of(stirred, pair.first_shape, pair.first)
    if piece == MEETS_PLAYER:
        # That is told of the player.
        return
    body, own = stirred.partakers[pair.second], stirred.loose.bodies[pair.second].piece
    x, y = (pair.met_x, pair.met_y) if pair.touches else (body.x, body.y)
    write_of(journal, player, TOUCHES, pair.since, own, piece, x, y, pair.impulse, pair.approach)


@leaf
def _say_pair(
    stirred: Any, journal: Any, player: Any, kind: int, t: float, number: int, amount: float, more: float
) -> None:
    """Add an event of two: the body's, or the second body's, and whom it meets."""
    pair = stirred.pairs[number]
    piece = piece_of(stirred, pair.first_shape, pair.first)
    if piece == MEETS_PLAYER:
        # That is told of the player.
        return
    say_of(stirred, journal, player, kind, t, pair.second, piece, amount, more)


@leaf
def _stand(stirred: Any, row: int, other: int, shape: int, pair: Any, x: float, y: float) -> None:
    """Note that a body is held from below, by what moves or by what stays."""
    body = stirred.partakers[row]
    body.contacts = 1
    body.touched = 1 + shape
    body.row = other
    body.landed = pair.since
    body.land_x, body.land_y = (x, y) if pair.touches else (body.x, body.y)
    if pair.approach > 0.0:
        body.fell = pair.approach


@leaf
def tell_supports(stirred: Any, journal: Any, player: Any, begin: float, end: float) -> None:
    """Say which bodies have landed, and what they ride on."""
    loose = stirred.loose
    laws, count, tally = loose.laws[0], loose.bodies.shape[0], stirred.tally[0]
    if laws.top:
        return
    for row in range(count):
        body = stirred.partakers[row]
        if not body.there or not body.awake:
            continue
        height = body.x * laws.up_x + body.y * laws.up_y
        if body.contacts:
            if tally.begun and not body.grounded and body.peak - height > SLOP * body.size:
                piece = piece_of(stirred, body.touched - 1, body.row)
                # What it has touched for a while may hold it only now.
                t, speed = max(body.landed, begin), max(body.fell, 0.0)
                drop = body.peak - body.land_x * laws.up_x - body.land_y * laws.up_y
                own = loose.bodies[row].piece
                write_of(journal, player, LAND, t, own, piece, body.land_x, body.land_y, drop, speed)
            body.grounded, body.peak = 1, height
        else:
            body.peak = max(body.peak, height) if not body.grounded else height
            body.grounded = 0
        _ride(stirred, journal, player, row, end)
        body.fell = -(body.vx * laws.up_x + body.vy * laws.up_y)


@leaf
def _ride(stirred: Any, journal: Any, player: Any, row: int, end: float) -> None:
    """Say that a body has come to ride on what moves, or does not ride any more; `rides` is its piece, and one."""
    body = stirred.partakers[row]
    count = stirred.loose.bodies.shape[0]
    rides = 0
    if body.contacts:
        if body.row >= count + PLAYER_ROW or body.row < count:
            piece = piece_of(stirred, body.touched - 1, body.row)
            if piece != MEETS_PLAYER:
                rides = 1 + piece
    if rides != body.rides:
        if body.rides > 0:
            say_of(stirred, journal, player, ALIGHT, end, row, body.rides - 1, math.nan, 0.0)
        if rides > 0:
            say_of(stirred, journal, player, BOARD, end, row, rides - 1, math.nan, 0.0)
        body.rides = rides


@leaf
def forget_touches(stirred: Any, row: int) -> None:
    """Forget what a body that is gone touches."""
    tally = stirred.tally[0]
    first = first_pair(stirred, tally.turn)
    for index in range(first, first + tally.pairs):
        pair = stirred.pairs[index]
        if pair.first == row or pair.second == row:
            pair.points, pair.told = 0, 0
