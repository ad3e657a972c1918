"""Leaves alone, called as plain Python: against other people's arithmetic, and published numbers."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st

from haptos.engine.collision.roots import falls_at, quartic_falls_at
from haptos.engine.collision.separation import distance_to, gap_between
from haptos.engine.compiling.interpreting import readable
from haptos.engine.pieces.rng import GOLDEN, _mix, chance
from haptos.engine.records.motion_records import CORNER, SHAPE
from haptos.engine.records.state_records import POSE

NUMBERS = st.floats(-100, 100).map(lambda value: round(value, 3))
POINTS = st.tuples(NUMBERS, NUMBERS)


def real_roots(*coefficients: float) -> list[float]:
    """Return the real roots of a polynomial, highest power first, by NumPy; of a close pair both."""
    roots = np.roots(coefficients)
    return sorted(float(root.real) for root in roots if abs(root.imag) < 1e-6 * max(1.0, abs(root)))


@given(gap=st.floats(0.01, 100), speed=NUMBERS, acceleration=NUMBERS)
def test_a_parabola_falls_through_zero_where_numpy_says(gap, speed, acceleration):
    assume(abs(speed) > 0.01 or abs(acceleration) > 0.01)
    later = [root for root in real_roots(0.5 * acceleration, speed, gap) if root > 0]
    found = falls_at(gap, speed, acceleration)
    if later:
        assert found == pytest.approx(later[0], rel=1e-6)
    else:
        assert not 0 <= found < math.inf


@given(gap=st.floats(0.5, 100), others=st.tuples(NUMBERS, NUMBERS, NUMBERS, NUMBERS), horizon=st.floats(0.5, 3))
def test_a_quartic_reaches_zero_where_numpy_says(gap, others, horizon):
    coefficients = (*reversed(others), gap)
    times = np.linspace(0, horizon, 4001)
    lowest = np.polyval(coefficients, times).min()
    # What just grazes zero is a matter of rounding.
    assume(abs(lowest) > 1e-3)
    within = [root for root in real_roots(*coefficients) if 0 < root <= horizon]
    found = quartic_falls_at(gap, *others, horizon)
    if lowest < 0:
        assert found == pytest.approx(within[0], rel=1e-5)
    else:
        assert found == math.inf


@st.composite
def shapes(draw) -> tuple[list[tuple[float, float]], float]:
    """Return a convex core, counter-clockwise, and a radius around it."""
    points = draw(st.lists(POINTS, min_size=3, max_size=6))
    hull = shapely.MultiPoint(points).convex_hull
    assume(isinstance(hull, shapely.Polygon) and hull.area > 10)
    return list(shapely.geometry.polygon.orient(hull).exterior.coords)[:-1], draw(st.sampled_from([0.0, 4.0]))


def rows_of(*cores: tuple[list[tuple[float, float]], float]):
    """Return the corners, the shapes and the poses of some shapes as leaves read them."""
    corners = np.array([point for core, _ in cores for point in core], dtype=CORNER)
    rows = np.zeros(len(cores), dtype=SHAPE)
    rows["count"] = [len(core) for core, _ in cores]
    rows["first"] = np.cumsum([0, *rows["count"][:-1]])
    rows["radius"] = [radius for _, radius in cores]
    poses = np.zeros(len(cores), dtype=POSE)
    poses["cosine"] = poses["scale"] = 1.0
    return readable(corners), readable(rows), readable(poses)


@given(one=shapes(), other=shapes(), away=POINTS)
def test_gaps_are_those_of_shapely(one, other, away):
    corners, rows, poses = rows_of(one, other)
    dx, dy = 3 * away[0], 3 * away[1]
    gap, nx, ny = gap_between(corners, rows[0], poses[0], dx, dy, rows[1], poses[1], 0.0, 0.0)
    first = shapely.affinity.translate(shapely.Polygon(one[0]), dx, dy)
    distance = first.distance(shapely.Polygon(other[0]))
    assert gap == pytest.approx(distance - one[1] - other[1], abs=1e-9) if distance > 1e-9 else gap <= 1e-9
    assert math.hypot(nx, ny) == pytest.approx(1)


@given(shape=shapes(), point=POINTS)
def test_distances_of_points_are_those_of_shapely(shape, point):
    corners, rows, poses = rows_of(shape)
    core, place = shapely.Polygon(shape[0]), shapely.Point(point)
    outside = core.distance(place)
    expected = outside if outside > 0 else -core.exterior.distance(place)
    found = distance_to(corners, rows[0], poses[0], 0.0, 0.0, *point)
    assert found == pytest.approx(expected - shape[1], abs=1e-9)


def test_random_numbers_are_the_published_ones_and_even():
    # The first numbers of SplitMix64 from the seed 1234567.
    expected = [6457827717110365317, 3203168211198807973, 9817491932198370423, 4593380528125082431]
    with np.errstate(over="ignore"):
        states = [np.uint64(1234567) + GOLDEN * np.uint64(count) for count in range(1, 5)]
        assert [int(_mix(state)) for state in states] == expected
        drawn = np.array([chance(7, 1, count, -1.0, 3.0) for count in range(2000)])
    assert drawn.min() >= -1
    assert drawn.max() < 3
    # A mean of 2,000 even numbers over a width of 4 strays by 0.026, their sorted places by 1.36 / sqrt(2000) of it.
    assert drawn.mean() == pytest.approx(1, abs=0.08)
    assert np.abs((np.sort(drawn) + 1) / 4 - np.linspace(0, 1, 2000)).max() < 0.04
