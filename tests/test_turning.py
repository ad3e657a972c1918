"""Pieces that turn: along a curve or about a pivot; whom they carry, hand their velocity to, and press aside."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from haptos.engine.build.compile_level import body_of
from haptos.engine.report.replay import placement_at
from haptos.geometry.polygons import body_polygon, shape_polygons
from tests.scenes import floor

FLOOR = floor(4000, 20)
LOW = {"name": "low", "shape": {"box": [8000, 20]}, "at": [0, -200]}
CAPSULE = {"shape": {"capsule": [14, 28]}}


def stage(arm, pieces=(), player=None, **world) -> haptos.Level:
    """Return a level with a beam of 200 by 16, its top at 8, and the player 60 to the right of its middle."""
    beam = {"name": "arm", "shape": {"box": [200, 16]}, "at": [0, 0], **arm}
    return haptos.Level(world=world, player={"at": [60, 22], **CAPSULE, **(player or {})}, pieces=[beam, *pieces])


def on_the_beam(angle: np.ndarray, along: float = 60.0) -> tuple[np.ndarray, np.ndarray]:
    """Return where the body is whose round foot, radius 7 and 7 below its middle, touches a turned beam there."""
    cosine, sine = np.cos(angle), np.sin(angle)
    return along * cosine - (8 + 7) * sine, along * sine + (8 + 7) * cosine + 7


def test_an_idle_body_turns_with_a_beam_and_stays_upright():
    track = haptos.simulate(stage({"spin": {"speed": 10}}), "wait 4 s").track
    x, y = on_the_beam(np.radians(10) * track.t)
    assert np.abs(track.x - x).max() < 1e-9 * 28
    assert np.abs(track.y - y).max() < 1e-9 * 28
    assert (track.support == "arm").all()
    assert (track.up_y == 1).all()


def test_an_idle_body_keeps_its_place_on_a_platform_that_turns_along_and_eases_for_an_hour():
    route = {"stops": [[0, 0], [200, 30], [400, 0]], "speed": 200, "curve": "smooth", "ease": True, "pause": 0.1}
    run = haptos.simulate(stage({"route": {**route, "turns": True}}), "wait 3600 s")
    rows = run.pieces
    assert np.ptp(rows.angle) > 20
    x, y = on_the_beam(np.radians(rows.angle))
    assert np.abs(run.track.x - rows.x - x).max() < 1e-9 * 200
    assert np.abs(run.track.y - rows.y - y).max() < 1e-9 * 200
    assert (run.track.support == "arm").all()


@pytest.mark.parametrize("speed", [-30.0, 4.0, 25.0])
def test_a_jump_takes_the_velocity_of_the_point_along(speed):
    glides = {"run": {"air_accel": 0, "air_brake": 0}, "jump": {"speed": 500}}
    run = haptos.simulate(stage({"spin": {"speed": speed}}, player=glides), "wait 0.5 s, jump 0.2 s")
    spin = math.radians(speed)
    angle = 0.5 * spin
    # The point that the foot stands on, on the beam's top.
    px, py = 60 * math.cos(angle) - 8 * math.sin(angle), 60 * math.sin(angle) + 8 * math.cos(angle)
    after = run.track.iloc[31]
    assert after.vx == pytest.approx(-spin * py, rel=1e-9)
    assert after.vy == pytest.approx(500 + spin * px - 1800 / 60, rel=1e-9)


def test_walking_on_a_turning_beam_gives_the_walk_relative_to_it():
    run = haptos.simulate(stage({"shape": {"box": [900, 16]}, "spin": {"speed": 8}}), "right 1 s")
    end, spin = run.track.iloc[-1], math.radians(8)
    angle = spin * 1.0
    normal = np.array([-math.sin(angle), math.cos(angle)])
    foot = np.array([end.x, end.y - 7]) - 7 * normal
    relative = np.array([end.vx, end.vy]) - spin * np.array([-foot[1], foot[0]])
    assert relative == pytest.approx(150 * np.array([math.cos(angle), math.sin(angle)]), rel=1e-9)


def test_a_wheel_takes_round_who_stands_on_it_until_it_is_too_steep():
    level = stage({"shape": {"circle": 100}, "spin": {"speed": 30}}, player={"at": [0, 114]})
    run = haptos.simulate(level, "wait 2 s")
    rides = run.track[run.track.t < 50 / 30]
    angle = np.radians(30) * rides.t
    assert np.abs(rides.x + 107 * np.sin(angle)).max() < 1e-9 * 28
    assert np.abs(rides.y - 107 * np.cos(angle) - 7).max() < 1e-9 * 28
    assert next(row for row in run.event_rows if row.event == "alight").t == pytest.approx(50 / 30, abs=1 / 60)


def test_a_curve_goes_through_its_stops_at_an_even_speed_and_turns_along():
    route = {"stops": [[0, 0], [120, 60], [240, 0], [120, -60]], "speed": 100, "curve": "smooth", "mode": "loop"}
    rows = haptos.simulate(stage({"route": {**route, "turns": True}}), "wait 12 s").pieces
    assert np.hypot(rows.vx, rows.vy).to_numpy() == pytest.approx(100, rel=1e-4)
    # The curve is symmetric about both axes, so that each leg is as long as every other one.
    lap = rows[rows.t < 5]
    far = lap.t[np.hypot(lap.x - 240, lap.y).argmin()]
    top = lap.t[np.hypot(lap.x - 120, lap.y - 60).argmin()]
    assert far == pytest.approx(2 * top, abs=2 / 60)
    heading = np.unwrap(np.arctan2(rows.vy, rows.vx))
    assert np.radians(rows.angle).to_numpy() == pytest.approx(heading - heading[0], abs=1e-9)
    step = np.diff(rows.angle) * 60
    assert step == pytest.approx((rows.spin.to_numpy()[1:] + rows.spin.to_numpy()[:-1]) / 2, abs=3)


def test_corners_of_a_straight_way_are_turned_in_the_pauses():
    stops = [[0, 0], [100, 0], [100, 100]]
    route = {"stops": stops, "speed": 100, "pause": 0.5, "turns": True, "mode": "once"}
    rows = haptos.simulate(stage({"route": route}), "wait 4 s").pieces.set_index("t")
    assert rows.angle[[0.5, 1.5, 1.75, 2.0, 3.0]].tolist() == pytest.approx([0, 0, 45, 90, 90])
    assert rows.spin[1.75] == pytest.approx(180)
    with pytest.raises(haptos.LevelError, match=r"turns with a corner at the stop \(100, 0\) and no pause to turn in"):
        haptos.simulate(stage({"route": {**route, "pause": 0}}))


def test_a_spin_about_a_pivot_goes_with_the_route():
    route = {"stops": [[0, 0], [90, 0]], "speed": 30, "mode": "once"}
    arm = {"route": route, "spin": {"speed": 90, "pivot": [-100, 0]}, "turn": 90, "scale": 0.5}
    rows = haptos.simulate(stage(arm), "wait 3 s").pieces.set_index("t")
    # In its own frame the pivot is at the left end: turned by 90 degrees and half as large, 50 below its place.
    assert rows.loc[1.0, ["x", "y", "angle"]].tolist() == pytest.approx([30 - 50, -50, 90])
    assert rows.loc[2.0, ["x", "y", "angle"]].tolist() == pytest.approx([60, -100, 180])
    assert rows.loc[2.0, ["vx", "vy"]].tolist() == pytest.approx([30 + 50 * math.pi / 2, 0])


def deepest(run: haptos.Run, until: int) -> float:
    """Return how deep the body is inside anything solid, at the worst, up to a tick."""
    level, worst = run.level, 0.0
    core = body_of(level)
    for tick in range(until):
        placement, _ = placement_at(run, tick / level.world.tick_rate)
        body = body_polygon(core, *run.track[["x", "y"]].iloc[tick])
        for polygon in shape_polygons(placement):
            if polygon.intersects(body):
                overlap = shapely.minimum_rotated_rectangle(polygon.intersection(body))
                x, y = overlap.exterior.coords.xy if overlap.geom_type == "Polygon" else ([0, 0, 0], [0, 0, 0])
                sides = np.hypot(np.diff(x), np.diff(y))
                worst = max(worst, float(min(sides[0], sides[1])))
    return worst


@given(
    speed=st.sampled_from([-40, 35, 200, -900, 4000, 30_000]),
    x=st.floats(-90, 90),
    height=st.floats(20, 90),
    drift=st.integers(-300, 300),
    held=st.sampled_from(["wait", "right", "left", "jump", "right+jump"]),
)
def test_what_turns_presses_aside_and_never_goes_through(speed, x, height, drift, held):
    route = {"stops": [[0, 0], [drift, 0]], "speed": 200}
    arm = {"shape": {"box": [120, 10]}, "at": [0, height], "spin": {"speed": speed}, "route": route}
    level = stage(arm, [FLOOR], player={"shape": {"box": [14, 28]}, "at": [x, 14]})
    run = haptos.simulate(level, f"{held} 0.5 s, wait 0.2 s")
    inside = deepest(run, 1)
    crushed = next((row.tick for row in run.event_rows if row.event == "crush"), run.ticks + 1)
    if inside < 1e-5 * 28:
        assert deepest(run, crushed) < 1e-5 * 28


@pytest.mark.parametrize("shape", [{"box": [14, 28]}, {"capsule": [14, 28]}, {"circle": 14}])
@pytest.mark.parametrize("sides", [{}, {"solid_from": "above"}])
@pytest.mark.parametrize("rate", [30, 120])
def test_what_turns_up_through_a_floor_picks_up_who_stands_there_and_keeps_them(shape, sides, rate):
    flap = {"shape": {"box": [120, 6]}, "at": [0, -30], "spin": {"speed": 25, "pivot": [-150, 0]}, **sides}
    level = stage(flap, [FLOOR], player={"shape": shape, "at": [20, 14]}, tick_rate=rate)
    run = haptos.simulate(level, "wait 1.2 s")
    boards = [row for row in run.event_rows if row.event == "board"]
    assert [row.piece for row in boards] == ["arm"]
    assert not any(row.event in ("pass", "crush", "alight") for row in run.event_rows)
    after = run.track[run.track.t > boards[0].t + 1 / rate]
    assert (after.support == "arm").all()
    # It lies on the top, 3 over a line through the pivot, with its lowest point: the foot is a corner, or round.
    angle = np.radians(25) * after.t
    foot = {"box": 0, "capsule": 7, "circle": 14}[next(iter(shape))]
    reach_x, reach_y = (7 - foot) * (1 if foot == 0 else 0), 14 - foot
    x, y = after.x + reach_x + 150, after.y - reach_y + 30
    assert np.abs(y * np.cos(angle) - x * np.sin(angle) - 3 - foot).max() < 1e-6 * 28
    assert run.track.y.iloc[-1] > 60


@settings(max_examples=12)
@given(x=st.floats(-60, 90), held=st.sampled_from(["wait", "right", "left", "jump", "left+jump"]))
def test_a_hairpin_that_turns_along_presses_aside_too(x, held):
    route = {"stops": [[0, 0], [80, 5], [78, 12], [-20, 8]], "speed": 160, "pause": 0.1, "ease": True}
    arm = {"shape": {"box": [90, 14]}, "at": [-60, 40], "route": {**route, "curve": "smooth", "turns": True}}
    level = stage(arm, [FLOOR], player={"shape": {"box": [14, 28]}, "at": [x, 14]})
    run = haptos.simulate(level, f"{held} 0.5 s, wait 0.7 s")
    crushed = next((row.tick for row in run.event_rows if row.event == "crush"), run.ticks + 1)
    if deepest(run, 1) < 1e-5 * 28:
        assert deepest(run, crushed) < 1e-5 * 28


def test_a_turning_level_is_mirrored_by_a_mirrored_one():
    cues, swapped = "right 0.4 s, jump 0.3 s, left 0.6 s, wait 1 s", "left 0.4 s, jump 0.3 s, right 0.6 s, wait 1 s"
    ends = []
    for sign, sheet in ((1, cues), (-1, swapped)):
        arm = {"spin": {"speed": 25 * sign, "pivot": [30 * sign, 0]}}
        fan = {"name": "fan", "shape": {"box": [10, 150]}, "at": [150 * sign, 60], "spin": {"speed": 300 * sign}}
        player = {"at": [60 * sign, 22], "facing": "right" if sign > 0 else "left"}
        ends.append(
            haptos.simulate(
                stage(arm, [fan, FLOOR | {"shape": {"box": [8000, 20]}, "at": [0, -200]}], player=player), sheet
            ).track
        )
    assert np.abs(ends[0].x + ends[1].x).max() < 1e-7 * 28
    assert np.abs(ends[0].y - ends[1].y).max() < 1e-7 * 28
