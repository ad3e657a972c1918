"""Terrain of any walkable slopes, globes and beams: closed forms and invariants of what is run and slid over."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

import haptos
from haptos.engine.build.compile_level import body_of, compile_level
from haptos.geometry.polygons import body_polygon, shape_polygons
from tests.hall import BODIES
from tests.scenes import first

GRAVITY = 1800.0
WIDTH = 60.0


def half_height(body: dict) -> float:
    return body.get("circle") or (body.get("capsule") or body.get("box"))[1] / 2


def terrain(slopes: list[float], body: dict, turn: float = 0.0, rate: float = 60) -> haptos.Level:
    """Columns of stone whose tops rise and fall by the slopes, degrees, between two level runs; turned as a whole."""
    angle = math.radians(turn)
    spin = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])
    heights = np.concatenate(([0.0], np.cumsum([WIDTH * math.tan(math.radians(slope)) for slope in slopes])))
    low = heights.min() - 100
    pieces = []
    for index in range(len(slopes)):
        left, right = WIDTH * index, WIDTH * (index + 1)
        column = [[left, low], [right, low], [right, heights[index + 1]], [left, heights[index]]]
        pieces.append({"name": f"column {index}", "at": [0, 0], "shape": {"polygon": column}, "turn": turn})
    for name, x0, x1, top in (("start", -300, 0, 0.0), ("end", WIDTH * len(slopes), 3000, heights[-1])):
        corners = [[x0, low], [x1, low], [x1, top], [x0, top]]
        pieces.append({"name": name, "at": [0, 0], "shape": {"polygon": corners}, "turn": turn})
    return haptos.Level(
        world={"gravity": list(spin @ [0, -GRAVITY]), "tick_rate": rate},
        player={"at": list(spin @ [-150, half_height(body)]), "shape": body, "ground": {"max_slope": 50}},
        pieces=pieces,
    )


SLOPES = st.lists(st.floats(-42, 42), min_size=1, max_size=8)


@settings(max_examples=60, deadline=None)
@given(slopes=SLOPES, body=st.sampled_from(BODIES), gait=st.sampled_from(["right", "right+sprint"]))
def test_any_walkable_terrain_is_run_over_at_full_speed_on_the_ground(slopes, body, gait):
    speed = 300 if "sprint" in gait else 150
    seconds = (WIDTH * len(slopes) / math.cos(math.radians(42)) + 400) / speed
    track = haptos.simulate(terrain(slopes, body), f"wait 0.1 s, {gait} {seconds:.3f} s").track.iloc[18:]
    assert np.abs(np.hypot(track.vx, track.vy) / speed - 1).max() < 1e-9
    assert (track.stance == "ground").all()
    assert track.x.iloc[-1] > WIDTH * len(slopes)


@settings(max_examples=25, deadline=None)
@given(slopes=SLOPES, body=st.sampled_from(BODIES), turn=st.floats(-180, 180))
def test_turned_terrain_is_run_over_as_well(slopes, body, turn):
    angle = math.radians(turn)
    spin = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    cues = "wait 0.1 s, right+sprint 3 s, left 1 s"
    here, there = (haptos.simulate(terrain(slopes, body, way), cues).track for way in (0.0, turn))
    assert np.abs(there[["x", "y"]].to_numpy() - here[["x", "y"]].to_numpy() @ spin).max() < 1e-6


@settings(max_examples=25, deadline=None)
@given(slopes=SLOPES, body=st.sampled_from(BODIES))
def test_terrain_is_run_over_alike_at_every_tick_rate(slopes, body):
    cues = "wait 0.1 s, right+sprint 3 s, left 1 s, right+jump 0.5 s, wait 1 s"
    slow = haptos.simulate(terrain(slopes, body, rate=30), cues).track[["x", "y"]].to_numpy()
    for rate in (60, 240):
        fast = haptos.simulate(terrain(slopes, body, rate=rate), cues).track[["x", "y"]].to_numpy()
        assert np.abs(fast[:: rate // 30] - slow).max() < 1e-6


@settings(max_examples=30, deadline=None)
@given(slope=st.floats(-45, 45), drop=st.floats(5, 200), speed=st.floats(-200, 200), body=st.sampled_from(BODIES))
def test_a_landing_on_a_slope_is_the_root_of_the_parabola(slope, drop, speed, body):
    turn = math.radians(slope)
    normal = np.array([-math.sin(turn), math.cos(turn)])
    slab = {"name": "slab", "at": list(-10 * normal), "turn": slope, "shape": {"box": [4000, 20]}}
    level = haptos.Level(
        player={"shape": body, "run": {"air_accel": 0, "air_brake": 0}, "fall": {"terminal_speed": None}}, pieces=[slab]
    )
    # How far the body reaches along the normal.
    reach = -shapely.get_coordinates(body_polygon(body_of(level))) @ normal
    support = float(reach.max())
    if "circle" in body:
        support = body["circle"]
    elif "capsule" in body:
        support = 7 + 7 * abs(normal[1])
    start = normal * (support + drop)
    simulation = haptos.Simulation(level)
    simulation.place(*start, vx=speed)
    simulation.step("", ticks=120)
    # drop + v·n t - g n_y t²/2 = 0.
    into, pull = speed * normal[0], GRAVITY * normal[1]
    time = (into + math.sqrt(into * into + 2 * pull * drop)) / pull
    assume(time < 1.9)
    assert first(simulation.run, "touch", piece="slab").t == pytest.approx(time, rel=1e-9)


@pytest.mark.parametrize("begin", [5.0, 20.0, 40.0])
@pytest.mark.parametrize("rate", [30, 60, 240])
def test_a_body_leaves_a_smooth_globe_where_its_cosine_has_fallen_to_two_thirds(begin, rate):
    # Sliding from rest at an angle: v² = 2 g R (cos φ₀ - cos φ), and it lets go where v²/R = g cos φ.
    radius, foot = 100.0, 10.0
    turn = math.radians(begin)
    at = [(radius + foot) * math.sin(turn), (radius + foot) * math.cos(turn)]
    level = haptos.Level(
        world={"tick_rate": rate},
        player={
            "at": at,
            "shape": {"circle": foot},
            "ground": {"max_slope": 1, "snap": 0},
            "run": {"air_brake": 0},
            "fall": {"terminal_speed": None},
        },
        pieces=[{"name": "globe", "at": [0, 0], "shape": {"circle": radius}}],
    )
    leaves = first(haptos.simulate(level, "wait 3 s"), "part", piece="globe")
    assert leaves.y / (radius + foot) == pytest.approx(2 / 3 * math.cos(turn), rel=1e-6)


def test_a_belt_brings_a_body_to_its_speed_at_the_rate_of_its_grip():
    friction, belt = 0.3, 120.0
    surface = {"conveyor": belt, "friction": friction}
    level = haptos.Level(
        player={"at": [0, 14]}, pieces=[{"name": "belt", "shape": {"corners": [-900, -16, 900, 0]}, "surface": surface}]
    )
    track = haptos.simulate(level, "wait 1 s").track
    time = belt / (friction * GRAVITY)
    assert track.vx[10] == pytest.approx(friction * GRAVITY * 10 / 60)
    assert track.vx.iloc[-1] == pytest.approx(belt)
    assert track.x.iloc[-1] == pytest.approx(belt * time / 2 + belt * (1 - time), rel=1e-9)


@settings(max_examples=60, deadline=None)
@given(
    points=st.lists(st.tuples(st.floats(-60, 60), st.floats(-60, 60)), min_size=3, max_size=8),
    angle=st.floats(0, 360),
    offset=st.floats(-40, 40),
)
def test_a_ray_meets_what_a_line_meets_first(points, angle, offset):
    hull = shapely.MultiPoint(points).convex_hull
    assume(hull.geom_type == "Polygon" and hull.area > 50)
    corners = [list(point) for point in hull.exterior.coords[:-1]]
    level = haptos.Level(pieces=[{"name": "rock", "at": [0, 0], "shape": {"polygon": corners}}])
    way = np.array([math.cos(math.radians(angle)), math.sin(math.radians(angle))])
    origin = -300 * way + offset * np.array([-way[1], way[0]])
    ray = shapely.LineString([origin, origin + 600 * way])
    met = ray.intersection(hull)
    # Whether a graze is a hit is for rounding to say.
    assume(hull.distance(ray) > 1e-6 or hull.buffer(-1e-3).intersects(ray))
    hit = haptos.first_hit(level, tuple(origin), tuple(way))
    if met.is_empty:
        assert hit is None
    else:
        nearest = min(np.hypot(*(np.array(point) - origin)) for point in shapely.get_coordinates(met))
        assert hit.distance == pytest.approx(nearest, rel=1e-9)
        assert np.dot(hit.normal, way) < 0


@settings(max_examples=30, deadline=None)
@given(
    points=st.lists(st.tuples(st.floats(-40, 40), st.floats(10, 60)), min_size=3, max_size=7),
    body=st.sampled_from(BODIES),
)
def test_a_zone_of_any_outline_is_entered_and_left_where_the_body_begins_to_overlap_it(points, body):
    hull = shapely.MultiPoint(points).convex_hull
    assume(hull.geom_type == "Polygon" and hull.area > 100)
    corners = [list(point) for point in hull.exterior.coords[:-1]]
    floor = {"name": "floor", "shape": {"corners": [-900, -16, 900, 0]}}
    zone = {"name": "mist", "at": [0, 0], "layer": "zone", "shape": {"polygon": corners}}
    half = half_height(body)
    level = haptos.Level(player={"at": [-300, half], "shape": body}, pieces=[floor, zone])
    events = haptos.simulate(level, "right+sprint 3 s").events
    shape = shape_polygons(compile_level(level).placement)[1]
    entered = events[events.event == "enter"]
    for row in events[events.event.isin(["enter", "leave"])].itertuples():
        assert body_polygon(body_of(level), row.x, row.y).distance(shape) < 1e-2
    swept = shapely.union_all([body_polygon(body_of(level), x, half) for x in (-150, 150)]).convex_hull
    overlap = swept.intersection(shape).area
    assume(overlap == 0 or overlap > 1)
    assert len(entered) == (overlap > 0)


@pytest.mark.parametrize("body", BODIES)
@pytest.mark.parametrize("angle", [55, 65, 80])
def test_a_slope_too_steep_is_slid_down_at_g_sin_and_not_climbed(body, angle):
    height = 300.0
    run = height / math.tan(math.radians(angle))
    slope = {"name": "slope", "at": [0, 0], "shape": {"polygon": [[0, 0], [run, 0], [run, height]]}}
    floor = {"name": "floor", "shape": {"corners": [-600, -16, 0, 0]}}
    level = haptos.Level(
        player={"at": [-100, half_height(body)], "shape": body, "run": {"air_accel": 0, "air_brake": 0}},
        pieces=[floor, slope],
    )
    track = haptos.simulate(level, "right+sprint 2 s").track
    assert track.y.max() < half_height(body) + 8
    turn = math.radians(angle)
    normal = np.array([-math.sin(turn), math.cos(turn)])
    corners = shapely.get_coordinates(body_polygon(body_of(level)))
    support = float((-corners @ normal).max())
    middle = np.array([run / 2, height / 2]) + normal * (support + 0.05)
    simulation = haptos.Simulation(level)
    simulation.place(*middle)
    simulation.step("", ticks=12)
    slid = simulation.run.track
    speed = np.hypot(slid.vx, slid.vy)
    assert (speed[12] - speed[8]) * 60 / 4 == pytest.approx(GRAVITY * math.sin(turn), rel=1e-6)
    assert set(slid.stance) == {"air"}
