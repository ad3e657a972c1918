"""Rays among pieces that move: against closed forms, and against other geometry at other poses."""

from __future__ import annotations

import math

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from haptos.demo import demo_file
from haptos.engine.report.replay import placement_at
from haptos.geometry.polygons import shape_polygons
from tests.scenes import floor

FLOOR = floor(900)


@pytest.mark.parametrize("rate", [30, 60, 240])
@pytest.mark.parametrize("side", [1, -1])
def test_a_lift_is_met_where_it_is_by_then(rate, side):
    lift = {
        "name": "lift",
        "at": [side * 200, 50],
        "shape": {"box": [40, 10]},
        "route": {"stops": [[0, 0], [0, 300]], "speed": 90},
    }
    level = haptos.Level(world={"tick_rate": rate}, player={"at": [0, 14]}, pieces=[FLOOR, lift])
    simulation = haptos.Simulation(level)
    assert simulation.first_hit((side * 200, 400), (0, -1)).distance == pytest.approx(345)
    simulation.step(ticks=rate)
    # After a second it is 90 higher.
    assert simulation.first_hit((side * 200, 400), (0, -1)).distance == pytest.approx(255, abs=1e-9)
    hit = simulation.first_hit((0, 141), (side, 0))
    assert (hit.piece, hit.distance) == ("lift", pytest.approx(180, abs=1e-9))
    assert hit.normal == pytest.approx((-side, 0))
    # The level itself is asked about the start.
    assert haptos.first_hit(level, (side * 200, 400), (0, -1)).distance == pytest.approx(345)


def test_an_arm_that_turns_is_met_with_its_normal():
    arm = {"name": "arm", "at": [0, 300], "shape": {"box": [200, 20]}, "spin": {"speed": 45}}
    simulation = haptos.Simulation(haptos.Level(player={"at": [0, 14]}, pieces=[FLOOR, arm]))
    simulation.step(ticks=60)
    hit = simulation.first_hit((0, 600), (0, -5))
    # Turned by 45 degrees, its upper side is 10 away from its middle, which is 10 times the square root of 2 upward.
    assert hit.point == pytest.approx((0, 300 + 10 * math.sqrt(2)))
    assert hit.normal == pytest.approx((-math.sqrt(0.5), math.sqrt(0.5)))


def test_what_is_gone_or_hangs_on_the_player_is_met_as_it_is():
    plank = {"name": "plank", "at": [0, 0], "shape": {"box": [60, 8]}, "crumble": {"delay": 0.1, "gone_after": 0.1}}
    lantern = {"name": "lantern", "at": [0, 40], "shape": {"circle": 5}}
    level = haptos.Level(
        player={"at": [0, 18], "pieces": [lantern]},
        pieces=[plank, {**FLOOR, "shape": {"corners": [-900, -90, 900, -80]}}],
    )
    simulation = haptos.Simulation(level)
    assert simulation.first_hit((25, 40), (0, -1)).piece == "plank"
    assert simulation.first_hit((0, 200), (0, -1)).point == pytest.approx((0, 63))
    simulation.step(ticks=60)
    assert simulation.first_hit((25, 40), (0, -1)).piece == "floor"
    assert simulation.first_hit((0, 200), (0, -1)).point == pytest.approx((0, simulation.y + 45))


ROOMS = {room: haptos.load(demo_file(f"{room}.toml")) for room in ("lift-shaft", "orrery-loft", "orrery-hall")}


@settings(max_examples=30)
@given(
    room=st.sampled_from(sorted(ROOMS)), ticks=st.integers(0, 400), x=st.integers(0, 1100), y=st.integers(0, 380),
    turn=st.integers(0, 359),
)  # fmt: skip
def test_in_the_demo_a_ray_meets_what_other_geometry_says(room, ticks, x, y, turn):
    simulation = haptos.Simulation(ROOMS[room])
    simulation.step(ticks=ticks)
    way = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    found = simulation.first_hit((x, y), way)
    placement, _ = placement_at(simulation.run, simulation.t)
    ray = shapely.LineString([(x, y), (x + 3000 * way[0], y + 3000 * way[1])])
    # A ray meets what it is outside of; round shapes are polygons there, a little smaller.
    shapes = [shape for shape in shape_polygons(placement) if not shape.buffer(0.1).contains(shapely.Point(x, y))]
    crossed = [ray.intersection(shape).distance(shapely.Point(x, y)) for shape in shapes if ray.intersects(shape)]
    if found is None:
        assert not [distance for distance in crossed if distance > 0.2]
    elif crossed:
        assert found.distance == pytest.approx(min(crossed), abs=0.2) or found.distance < min(crossed)
        assert shapely.Point(found.point).distance(shapely.union_all(shape_polygons(placement))) < 0.2
