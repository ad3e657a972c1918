"""Surfaces and slowing zones: what they do to running, braking and jumping, and only where they hold."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from tests.scenes import first

GRAVITY, WALK, SPRINT, ACCEL, BRAKE = 1800.0, 150.0, 300.0, 1800.0, 2400.0


def ground(**surface: object) -> haptos.Level:
    return haptos.Level(
        player={"at": [0, 14]},
        pieces=[{"name": "ground", "shape": {"corners": [-9000, -16, 9000, 0]}, "surface": surface}],
    )


@settings(max_examples=20, deadline=None)
@given(friction=st.floats(0.02, 3.0))
def test_friction_caps_traction_and_braking(friction):
    track = haptos.simulate(ground(friction=friction), "right+sprint 0.1 s, right+sprint 12 s, wait 12 s").track
    rate = min(ACCEL, friction * GRAVITY)
    assert track.vx[6] == pytest.approx(min(rate * 0.1, SPRINT), rel=1e-9)
    speed = track.vx[726]
    stop = track.x.iloc[-1] - track.x[726]
    assert stop == pytest.approx(speed**2 / (2 * min(BRAKE, friction * GRAVITY)), rel=1e-6)


def test_without_friction_nothing_moves_it_on_the_level():
    track = haptos.simulate(ground(friction=0), "right 1 s").track
    assert track.x.iloc[-1] == 0


@pytest.mark.parametrize("belt", [-60, 40, 200])
def test_a_belt_carries_what_stands_and_adds_to_what_walks(belt):
    track = haptos.simulate(ground(conveyor=belt), "wait 1 s, right 1 s, left 1 s").track
    assert track.vx[60] == pytest.approx(belt)
    assert track.vx[120] == pytest.approx(belt + WALK)
    assert track.vx[180] == pytest.approx(belt - WALK)


def test_a_turned_belt_runs_along_itself():
    belt = {"name": "belt", "at": [0, -10], "turn": -20, "shape": {"box": [900, 20]}, "surface": {"conveyor": 50}}
    track = haptos.simulate(
        haptos.Level(player={"at": [0, 12], "shape": {"circle": 10}}, pieces=[belt]), "wait 2 s"
    ).track
    turn = math.radians(20)
    assert track.vx.iloc[-1] == pytest.approx(50 * math.cos(turn))
    assert track.vy.iloc[-1] == pytest.approx(-50 * math.sin(turn))


@pytest.mark.parametrize("share", [0.3, 0.6, 0.9])
def test_restitution_gives_back_its_share_of_the_speed(share):
    run = haptos.simulate(ground(restitution=share), "place 0,214, wait 6 s")
    apexes = run.events[run.events.event == "apex"].amount.to_numpy()
    # Each height is the share squared of the one before, from a drop of 200.
    for bounce, height in enumerate(apexes[:3], start=1):
        assert height == pytest.approx(200 * share ** (2 * bounce), rel=1e-9)
    assert (run.track.stance.iloc[-1] == "ground") == (share < 0.9)


def test_a_wall_throws_back_too(flat):
    wall = {"name": "wall", "shape": {"corners": [60, 0, 80, 200]}, "surface": {"restitution": 0.5}}
    level = flat([wall], player={"run": {"air_accel": 0, "air_brake": 0}})
    track = haptos.simulate(level, "right+sprint 0.1 s, right+sprint+jump 0.4 s").track
    into = track.vx.max()
    assert track.vx.min() == pytest.approx(-0.5 * into)


def test_a_cushioned_landing_says_so():
    run = haptos.simulate(ground(cushion=True), "place 0,414, wait 2 s")
    assert first(run, "land", after=0.1).detail.endswith("the landing is cushioned")
    assert "cushioned" not in first(haptos.simulate(ground(), "place 0,414, wait 2 s"), "land", after=0.1).detail


def test_factors_of_a_surface_hold_on_it_alone(flat):
    mud = {
        "name": "mud",
        "shape": {"corners": [100, -16, 400, 0.0]},
        "surface": {"speed_factor": 0.5, "jump_factor": 0.5},
    }
    floor = {"name": "floor", "shape": {"corners": [-500, -16, 100, 0]}}
    after = {"name": "after", "shape": {"corners": [400, -16, 900, 0]}}
    level = haptos.Level(player={"at": [0, 14]}, pieces=[floor, mud, after])
    run = haptos.simulate(level, "right+sprint 3.5 s")
    track = run.track
    assert track.vx[(track.x > 130) & (track.x < 390)].iloc[-1] == 150
    assert track.vx.iloc[-1] == 300
    assert set(track.speed_factor[(track.x > 120) & (track.x < 390)]) == {0.5}
    leap = haptos.simulate(level, "place 250,14, wait 0.1 s, jump 1 s")
    assert first(leap, "apex").amount == pytest.approx(0.25 * 72, rel=1e-9)


def tar(view: str = "side", **field: object) -> haptos.Level:
    pieces = [{"name": "tar", "shape": {"corners": [300, -20, 500, 40]}, "field": field}]
    if view == "side":
        pieces.append({"name": "floor", "shape": {"corners": [-900, -16, 1800, 0]}})
    return haptos.Level(world={"view": view}, player={"at": [0, 14]}, pieces=pieces)


@pytest.mark.parametrize("view", ["side", "top"])
@pytest.mark.parametrize("field", [{"speed_factor": 0.4}, {"speed_limit": 120}])
def test_entering_at_a_sprint_brakes_at_the_braking_rate_and_leaving_gives_the_speed_back(view, field):
    run = haptos.simulate(tar(view, **field), "right+sprint 5 s")
    enter, leave = first(run, "enter"), first(run, "leave")
    assert enter.x == pytest.approx(293, abs=1e-6)
    assert leave.x == pytest.approx(507, abs=1e-6)
    # 300 down to 120 at the braking rate, then on at 120.
    braking = (SPRINT - 120) / BRAKE
    way = (SPRINT**2 - 120**2) / (2 * BRAKE)
    assert leave.t - enter.t == pytest.approx(braking + (214 - way) / 120, rel=1e-7)
    after = run.track[run.track.t >= leave.t + (SPRINT - 120) / ACCEL]
    assert (after.vx == 300).all()


def test_jumping_over_leaves_the_speed_alone():
    level = tar(speed_factor=0.4)
    track = haptos.simulate(level, "right+sprint 0.95 s, right+sprint+jump 1 s").track
    inside = track[(track.x > 300) & (track.x < 400) & (track.y > 54)]
    assert len(inside) > 5
    assert (inside.vx == 300).all()


@pytest.mark.parametrize("only_grounded", [True, False])
def test_only_grounded_spares_who_is_in_the_air_inside(only_grounded):
    level = tar(speed_factor=0.4, only_grounded=only_grounded)
    track = haptos.simulate(level, "right+sprint 0.75 s, right+sprint+jump 0.55 s").track
    inside = track[(track.x > 300) & (track.y < 50) & (track.stance == "air")]
    assert len(inside) > 2
    assert (inside.vx == 300).all() == only_grounded


def test_the_strongest_slowing_wins_unless_they_stack():
    def slowest(*fields: dict) -> float:
        pieces = [
            {"name": f"tar {index}", "shape": {"corners": [300, -20, 900, 40]}, "field": field}
            for index, field in enumerate(fields)
        ]
        floor = {"name": "floor", "shape": {"corners": [-900, -16, 1800, 0]}}
        level = haptos.Level(player={"at": [0, 14]}, pieces=[floor, *pieces])
        return float(haptos.simulate(level, "right+sprint 2 s").track.vx.iloc[-1])

    assert slowest({"speed_factor": 0.8}, {"speed_factor": 0.5}) == pytest.approx(150)
    assert slowest({"speed_factor": 0.8, "stacks": True}, {"speed_factor": 0.5}) == pytest.approx(120)
    assert slowest({"speed_factor": 1.5}, {"speed_factor": 0.5}) == pytest.approx(150)
    assert slowest({"speed_factor": 1.5}) == pytest.approx(450)
    assert slowest({"speed_factor": 0.5}, {"speed_limit": 60}) == pytest.approx(60)


def test_a_field_of_several_parts_acts_once():
    parts = [{"shape": {"box": [300, 60]}, "at": [x, 0]} for x in (0, 100)]
    pool = {"name": "pool", "at": [500, 10], "parts": parts, "field": {"speed_factor": 0.5, "stacks": True}}
    floor = {"name": "floor", "shape": {"corners": [-900, -16, 1800, 0]}}
    run = haptos.simulate(haptos.Level(player={"at": [0, 14]}, pieces=[floor, pool]), "right+sprint 5 s")
    inside = run.track[(run.track.x > 420) & (run.track.x < 640)]
    assert (inside.vx == 150).all()
    assert run.events.event.tolist().count("enter") == 1
    assert run.track.vx.iloc[-1] == 300


def test_acceleration_factors_slow_speeding_up_and_braking():
    track = haptos.simulate(ground(accel_factor=0.25), "right 0.1 s, right 1 s, wait 1 s").track
    assert track.vx[6] == pytest.approx(0.25 * ACCEL * 0.1)
    assert track.x.iloc[-1] - track.x[66] == pytest.approx(WALK**2 / (2 * 0.25 * BRAKE), rel=1e-9)


def test_floors_of_the_top_view_hold_under_the_centre_by_rank():
    pieces = [
        {"name": "ice", "shape": {"corners": [100, -50, 300, 50]}, "surface": {"friction": 0.05}},
        {"name": "belt", "shape": {"corners": [200, -50, 400, 50]}, "surface": {"conveyor": 90, "rank": 1}},
    ]
    level = haptos.Level(world={"view": "top"}, pieces=pieces)
    track = haptos.simulate(level, "right 1 s, right 3 s").track
    ice = track[(track.x > 105) & (track.x < 195)]
    assert np.abs(ice.vx - WALK).max() < 1e-9
    assert track[(track.x > 290) & (track.x < 395)].vx.iloc[0] == pytest.approx(WALK + 90)
    # Letting go on the ice: braking is capped by the weight on it.
    slid = haptos.simulate(level, "place 110,0, wait 0.1 s, right 0.2 s").track
    assert slid.vx.iloc[-1] == pytest.approx(0.05 * GRAVITY * 0.2, rel=1e-9)
    assert track.vx.iloc[-1] == WALK


@pytest.mark.parametrize(
    ("section", "expected"),
    [
        ({"surface": {"restitution": 1.5}}, "found restitution 1.5, expected 0 to 1"),
        ({"surface": {"frction": 1}}, "unknown key 'frction' (did you mean 'friction'?)"),
        ({"field": {"speed_factor": -1}}, "expected a plain number of 0 or more"),
        ({"surface": {"conveyor": "3 s"}}, "found '3 s', expected a speed"),
    ],
)
def test_bad_facets_are_refused_with_their_place(section, expected):
    with pytest.raises(haptos.LevelError, match=r"pieces\[0\] 'slab'") as caught:
        haptos.Level(pieces=[{"name": "slab", "at": [0, 0], "shape": {"box": [9, 9]}, **section}])
    assert expected in str(caught.value)
