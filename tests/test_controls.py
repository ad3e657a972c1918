"""Gaits, braking and jumps do what their numbers say."""

from __future__ import annotations

import math

import pytest

import haptos
from tests.scenes import first

SPEED = math.sqrt(2 * 1800 * 72)


def test_speeding_up_braking_and_turning_round(flat):
    track = haptos.simulate(flat(), "right 1 s, wait 1 s, right+sprint 1 s, left 1 s").track
    assert track.vx[3] == pytest.approx(1800 * 3 / 60)
    assert track.vx[60] == 150
    stop = track[track.tick >= 60]
    assert stop.x.iloc[60] - stop.x.iloc[0] == pytest.approx(150**2 / (2 * 2400), rel=1e-9)
    assert track.vx[180] == 300
    # Turned round: braked to rest, then sped up the other way.
    rest = 300 / 2400
    assert track.vx[180 + 6] == pytest.approx(300 - 2400 * 6 / 60)
    assert track.vx[180 + 9] == pytest.approx(-1800 * (9 / 60 - rest))
    assert track.facing[240] == "left"
    assert track.pose[170] == "sprint"


def test_letting_sprint_go_brakes_to_the_walk(flat):
    track = haptos.simulate(flat(), "right+sprint 1 s, right 1 s").track
    assert track.vx[60 + 3] == pytest.approx(300 - 2400 * 3 / 60)
    assert track.vx[120] == 150


def test_letting_go_of_jump_cuts_the_rise(flat):
    run = haptos.simulate(flat(), "jump 0.1 s, wait 1 s")
    rise = SPEED * 0.1 - 900 * 0.1**2
    left = 0.5 * (SPEED - 180)
    assert first(run, "apex").amount == pytest.approx(rise + left**2 / 3600, rel=1e-9)


@pytest.mark.parametrize(("late", "jumps"), [(0.05, 1), (0.08, 1), (0.1, 0)])
def test_coyote_time(late, jumps):
    # Off the edge of the shelf at t; jump pressed `late` after.
    level = haptos.Level(
        world={"tick_rate": 1000},
        player={"at": [-15, 22], "shape": {"box": [14, 28]}},
        pieces=[{"name": "shelf", "shape": {"corners": [-100, 0, 0, 8]}}],
    )
    leaves = first(haptos.simulate(level, "right 1 s"), "part").t
    run = haptos.simulate(level, f"right {leaves + late:.3f} s, right+jump 0.5 s")
    assert (run.events.event == "jump").sum() == jumps


@pytest.mark.parametrize(("early", "jumps"), [(0.05, 2), (0.1, 2), (0.12, 1)])
def test_jump_buffer_jumps_at_the_landing_itself(flat, early, jumps):
    level = flat(world={"tick_rate": 1000})
    landing = 2 * SPEED / 1800
    press = round(landing - early, 3)
    run = haptos.simulate(level, f"jump 0.4 s, wait {press - 0.4:.3f} s, jump 0.3 s")
    times = run.events[run.events.event == "jump"].t.tolist()
    assert len(times) == jumps
    if jumps == 2:
        assert times[1] == pytest.approx(landing, rel=1e-9)


def test_extra_jumps_are_counted_and_come_back_on_the_ground(flat):
    level = flat(player={"jump": {"extra_jumps": 2}})
    tap = "jump 0.1 s, wait 0.1 s, "
    run = haptos.simulate(level, tap * 5 + "wait 2 s, " + tap * 4)
    jumps = run.events[run.events.event == "jump"]
    assert (jumps.t < 2).sum() == 3
    assert (jumps.t > 2).sum() == 3
    assert jumps.amount.iloc[1] == pytest.approx(SPEED)


def test_jump_by_speed(flat):
    run = haptos.simulate(flat(player={"jump": {"speed": 300}}), "jump 1 s")
    assert first(run, "apex").amount == pytest.approx(300**2 / 3600, rel=1e-9)


def test_steep_faces_are_slid_down_and_gentle_ones_stood_on():
    def stance(angle):
        pieces = [{"name": "slab", "at": [0, -50], "turn": -angle, "shape": {"box": [4000, 40]}}]
        level = haptos.Level(player={"at": [0, 0], "shape": {"circle": 10}, "ground": {"max_slope": 50}}, pieces=pieces)
        return haptos.simulate(level, "wait 1 s").track.iloc[-1]

    assert stance(49).stance == "ground"
    assert stance(49).vx == 0
    steep = stance(51)
    assert steep.stance == "air"
    assert steep.vx > 100


def test_a_slide_gathers_speed_by_the_slope_alone():
    pieces = [{"name": "slab", "at": [0, -20], "turn": -60, "shape": {"box": [40000, 20]}}]
    level = haptos.Level(
        player={"at": [20, 0], "shape": {"circle": 10}, "fall": {"terminal_speed": 1e6}, "run": {"air_brake": 0}},
        pieces=pieces,
    )
    track = haptos.simulate(level, "wait 1 s").track
    speed = (track.vx**2 + track.vy**2) ** 0.5
    assert (speed[50] - speed[20]) / 0.5 == pytest.approx(1800 * math.sin(math.radians(60)), rel=1e-6)
