"""The pairs of shapes that touch, or may: those of a tick, and those of the tick before, by their shapes."""

from __future__ import annotations

from typing import Any

from haptos.engine.compiling.contract import constant, leaf

# No pair.
NONE = constant(-1)
# Large primes, by which pairs of shapes come into different lists.
ACROSS, ALONG = 73856093, 19349663


@leaf
def begin_pairs(stirred: Any) -> None:
    """Begin the pairs of a tick; those of the tick before are found by their shapes."""
    tally = stirred.tally[0]
    tally.before, tally.pairs = tally.pairs, 0
    tally.turn = 1 - tally.turn
    heads = stirred.heads
    for index in range(heads.shape[0]):
        heads[index] = NONE
    old = first_pair(stirred, 1 - tally.turn)
    for index in range(old, old + tally.before):
        pair = stirred.pairs[index]
        place = list_of(heads, pair.first_shape, pair.second_shape)
        pair.after = heads[place]
        heads[place] = index


@leaf
def keep_asleep(stirred: Any) -> None:
    """Keep the pairs of those that both sleep as they are."""
    tally = stirred.tally[0]
    before = first_pair(stirred, 1 - tally.turn)
    for index in range(before, before + tally.before):
        old = stirred.pairs[index]
        a, b = stirred.partakers[old.first], stirred.partakers[old.second]
        if a.awake or b.awake or not a.there or not b.there:
            continue
        if tally.pairs >= stirred.pairs.shape[0] // 2:
            tally.lost += 1
            continue
        number = first_pair(stirred, tally.turn) + tally.pairs
        tally.pairs += 1
        copy_pair(stirred, index, number)
        stirred.pairs[number].active = 0


@leaf
def copy_pair(stirred: Any, index: int, number: int) -> None:
    """Let a pair go on as it was in the tick before."""
    old, pair = stirred.pairs[index], stirred.pairs[number]
    pair.first, pair.second, pair.kind, pair.points = old.first, old.second, old.kind, old.points
    pair.first_shape, pair.second_shape, pair.passed = old.first_shape, old.second_shape, old.passed
    pair.side_x, pair.side_y, pair.nx, pair.ny = old.side_x, old.side_y, old.nx, old.ny
    pair.first_radius, pair.second_radius, pair.gap = old.first_radius, old.second_radius, old.gap
    pair.friction, pair.restitution, pair.belt = old.friction, old.restitution, old.belt
    pair.cap, pair.left, pair.mutual = old.cap, 0.0, old.mutual
    pair.since, pair.told, pair.spent, pair.when, pair.rubs = old.since, old.told, old.spent, 0.0, old.rubs
    pair.impulse, pair.approach, pair.touches, pair.eager, pair.active, pair.struck = 0.0, 0.0, 0, 0, 1, 0
    for place in range(old.points):
        point, its = stirred.points[2 * number + place], stirred.points[2 * index + place]
        point.side_x, point.side_y, point.tip_x, point.tip_y = its.side_x, its.side_y, its.tip_x, its.tip_y
        point.normal, point.mark, point.gap = its.normal, its.mark, its.gap
        point.waits, point.closing = 0, 0.0


@leaf
def first_pair(stirred: Any, turn: int) -> int:
    """Return where the pairs of a turn begin."""
    return turn * (stirred.pairs.shape[0] // 2)


@leaf
def list_of(heads: Any, first: int, second: int) -> int:
    """Return which list a pair of shapes is in."""
    return ((first * ACROSS) ^ (second * ALONG)) & (heads.shape[0] - 1)


@leaf
def pair_before(stirred: Any, first_shape: int, second_shape: int) -> int:
    """Return the pair of two shapes in the tick before, or NONE."""
    index = stirred.heads[list_of(stirred.heads, first_shape, second_shape)]
    while index != NONE:
        pair = stirred.pairs[index]
        if pair.first_shape == first_shape and pair.second_shape == second_shape:
            return index
        index = pair.after
    return index
