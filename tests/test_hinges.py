"""Hinges against closed forms: pendulum, motors, brakes, holds, limits; doors that rules and the player drive."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.special import ellipk

import haptos

G = 1800.0
LENGTH = 100.0


def leaf_of(**hinge):
    body = hinge.pop("body", {"mass": 10})
    return {"name": "leaf", "at": [40, 0], "shape": {"box": [80, 8]}, "body": body, "hinge": {"at": [-40, 0], **hinge}}


INERTIA = 10 * ((80**2 + 8**2) / 12 + 40**2)


def seen_from_above(*pieces, cues="wait 2 s", player=(900, 900), **more):
    level = haptos.Level(world={"view": "top"}, player={"at": list(player)}, pieces=list(pieces), **more)
    run = haptos.simulate(level, cues)
    return run, run.pieces[run.pieces.piece == "leaf"].reset_index(drop=True)


@pytest.mark.parametrize("amplitude", [10, 60, 120])
@pytest.mark.parametrize("rate", [30, 60])
def test_a_rod_swings_with_the_exact_period_and_keeps_its_height(amplitude, rate):
    turn = math.radians(amplitude)
    at = [math.sin(turn) * LENGTH / 2, -math.cos(turn) * LENGTH / 2]
    rod = {"name": "rod", "at": at, "turn": amplitude, "shape": {"box": [8, LENGTH]}, "hinge": {"at": [0, LENGTH / 2]}}
    level = haptos.Level(
        world={"gravity": [0, -G], "tick_rate": rate}, player={"at": [900, 0]}, pieces=[{**rod, "body": {"mass": 5}}]
    )
    run = haptos.simulate(level, "wait 40 s").pieces
    angle, t = np.radians(run.angle.to_numpy()) + turn, run.t.to_numpy()
    up = np.flatnonzero((angle[:-1] < 0) & (angle[1:] >= 0))
    passes = t[up] - angle[up] * (t[up + 1] - t[up]) / (angle[up + 1] - angle[up])
    moment = (8**2 + LENGTH**2) / 12 + (LENGTH / 2) ** 2
    period = 4 * math.sqrt(moment / (G * LENGTH / 2)) * ellipk(math.sin(turn / 2) ** 2)
    assert np.diff(passes).mean() == pytest.approx(period, rel=2e-4)
    assert np.degrees(np.abs(angle[-2 * rate :]).max()) == pytest.approx(amplitude, rel=5e-3)
    pin = np.hypot(run.x - np.sin(angle) * LENGTH / 2, run.y + np.cos(angle) * LENGTH / 2)
    assert pin.max() < 1e-6 * LENGTH


def test_a_motor_comes_to_its_speed_in_time_and_a_brake_stops_it_as_fast():
    torque, speed = 30000.0, math.radians(90)
    time = speed * INERTIA / torque
    _, leaf = seen_from_above(leaf_of(motor={"speed": 90, "max_torque": torque}))
    tick = int(60 * time / 2)
    assert leaf.spin[tick] == pytest.approx(90 * leaf.t[tick] / time, rel=1e-6)
    assert leaf.torque[tick] == pytest.approx(torque, rel=1e-6)
    assert leaf.spin.iloc[-1] == pytest.approx(90, rel=1e-3)
    moving = {"mass": 10, "spin": 90, "velocity": [0, speed * 40]}
    _, leaf = seen_from_above(leaf_of(body=moving, motor={"speed": 0, "max_torque": torque}))
    assert leaf.spin[tick] == pytest.approx(90 * (1 - leaf.t[tick] / time), rel=1e-6)
    assert leaf.spin.iloc[-1] == pytest.approx(0, abs=1e-6)
    assert leaf.angle.iloc[-1] == pytest.approx(math.degrees(0.5 * speed * time), rel=1e-2)


def test_a_hold_is_a_damped_spring():
    stiffness, damping = 4e5, 4e4
    moving = {"mass": 10, "spin": 90, "velocity": [0, math.radians(90) * 40]}
    _, leaf = seen_from_above(leaf_of(body=moving, hold={"stiffness": stiffness, "damping": damping}), cues="wait 1 s")
    decay, omega = damping / (2 * INERTIA), math.sqrt(stiffness / INERTIA)
    ring = math.sqrt(omega**2 - decay**2)
    expected = 90 / ring * np.exp(-decay * leaf.t) * np.sin(ring * leaf.t)
    assert np.abs(leaf.angle - expected).max() < 0.02 * np.abs(expected).max()


def test_limits_stop_a_leaf_on_either_side():
    for sense in (1.0, -1.0):
        moving = {"mass": 10, "spin": sense * 300, "velocity": [0, sense * math.radians(300) * 40]}
        _, leaf = seen_from_above(leaf_of(body=moving, limits=[-30, 60]))
        assert leaf.angle.min() > -30.2
        assert leaf.angle.max() < 60.2
        assert leaf.angle.iloc[-1] == pytest.approx(60 if sense > 0 else -30, abs=0.2)


@pytest.mark.parametrize("bounce", [0, 1])
@pytest.mark.parametrize("mass", [1, 40])
@pytest.mark.parametrize("side", [1, -1])
@pytest.mark.parametrize("backward", [False, True])
def test_a_leaf_at_its_stop_takes_an_impact_as_a_wall_does(bounce, mass, side, backward):
    facet = {"restitution": bounce, "friction": 0}
    limits = [0, 90] if side > 0 else [-90, 0]
    leaf = leaf_of(body={"mass": 1, **facet}, limits=limits) | {"at": [0, 40], "shape": {"box": [8, 80]}}
    leaf["hinge"]["at"] = [0, -40]
    globe = {"name": "globe", "at": [-100 * side, 55], "shape": {"circle": 12}}
    globe["body"] = {"mass": mass, "velocity": [200 * side, 0], **facet}
    run, track = seen_from_above(*([globe, leaf] if backward else [leaf, globe]), cues="wait 1 s")
    ball = run.pieces[run.pieces.piece == "globe"]
    assert ball.vx.iloc[-1] == pytest.approx(-200 * side * bounce, abs=1e-6)
    assert track.angle.abs().max() < 1e-6


@pytest.mark.parametrize("arm", [0.5, 9, -9])
@pytest.mark.parametrize("bounce", [0.5, 1])
def test_who_strikes_a_light_leaf_near_its_pin_feels_what_the_pin_leaves_of_it(arm, bounce):
    facet = {"restitution": bounce, "friction": 0}
    leaf = {"name": "leaf", "at": [0, 0], "shape": {"box": [30, 30]}, "body": {"mass": 1, **facet}}
    leaf["hinge"] = {"at": [6, 0]}
    globe = {"name": "globe", "at": [-60, arm], "shape": {"circle": 12}}
    globe["body"] = {"mass": 40, "velocity": [40, 0], **facet}
    # They meet after 33 units: within the last tick.
    run, track = seen_from_above(leaf, globe, cues="wait 50 frame")
    inertia = (30**2 + 30**2) / 12 + 6**2
    impulse = (1 + bounce) * 40 / (1 / 40 + arm**2 / inertia)
    ball = run.pieces[run.pieces.piece == "globe"]
    assert ball.vx.iloc[-1] == pytest.approx(40 - impulse / 40, abs=1e-6)
    # Toward +x above the pin: clockwise.
    assert math.radians(track.spin.iloc[-1]) == pytest.approx(-arm * impulse / inertia, rel=1e-6)


def test_a_detector_starts_the_door_for_the_player_alone_and_stops_it():
    eye = {"name": "eye", "at": [40, -90], "shape": {"box": [120, 60]}}
    rules = [
        {"when": "enter", "piece": "eye", "do": [{"set": "leaf.hinge.motor.speed", "to": "0.2 turn/s"}]},
        {"when": "leave", "piece": "eye", "do": [{"set": "leaf.hinge.motor.speed", "to": 0}]},
    ]
    door = leaf_of(motor={"speed": 0, "max_torque": 1e7})
    cues = "wait 2 s, up until enter, wait 0.5 s, down until leave, wait 1 s"
    run, leaf = seen_from_above(door, eye, cues=cues, player=(40, -180), rules=rules)
    entered, left = (run.events[run.events.event == name].t.iloc[0] for name in ("enter", "leave"))
    assert leaf.angle[leaf.t < entered].abs().max() == 0
    # It was asleep by then.
    assert "sleep" in set(run.events[run.events.t < entered].event)
    assert leaf.angle.iloc[-1] == pytest.approx(72 * (left - entered), abs=3)
    assert leaf.spin.iloc[-1] == pytest.approx(0, abs=1e-6)
    (way,) = [finding for finding in haptos.check(run.level) if finding.code == "door-way"]
    assert "counter-clockwise" in way.message
    assert "away from" in way.message


def test_a_door_that_is_pushed_goes_on_by_what_it_was_given():
    """Impulse over inertia: a braked door turns on by I ω² / 2 T after the push."""

    def angle(mass, impulse):
        door = leaf_of(body={"mass": mass}, motor={"speed": 0, "max_torque": 2e5})
        return seen_from_above(door, cues=f"shove leaf by 0,{impulse}, wait 3 s")[1].angle.iloc[-1]

    once = angle(10, 2000)
    assert once > 5
    assert angle(10, 4000) == pytest.approx(4 * once, rel=0.05)
    assert angle(20, 2000) == pytest.approx(once / 2, rel=0.05)


def test_the_player_pushes_a_door_open_and_a_mirrored_one_alike():
    ends = []
    for sense in (1, -1):
        door = {"name": "leaf", "at": [sense * 40, 0], "shape": {"box": [80, 8]}, "body": {"mass": 20}}
        door["hinge"] = {"at": [-sense * 40, 0], "motor": {"speed": 0, "max_torque": 2e5}}
        run, leaf = seen_from_above(door, cues="up 1 s, wait 1 s", player=(sense * 60, -60))
        assert run.track.y.iloc[-1] > 60
        assert len(run.events[run.events.event.isin(["crush", "stall"])]) == 0
        assert leaf.spin.iloc[-1] == pytest.approx(0, abs=1e-6)
        ends.append(sense * leaf.angle.iloc[-1])
    assert ends[0] > 30
    assert ends[0] == pytest.approx(ends[1], abs=1e-6)


def test_a_chain_of_planks_hangs_together():
    post = {"name": "post", "at": [0, 200], "shape": {"box": [10, 10]}, "layer": "zone"}
    planks, above = [], "post"
    for number in range(5):
        planks.append(
            {"name": f"plank {number}", "at": [20 + 40 * number, 200], "shape": {"box": [40, 6]}, "body": {"mass": 4},
             "hinge": {"at": [-20, 0], **({} if number == 0 else {"to": above})}}
        )  # fmt: skip
        above = f"plank {number}"
    level = haptos.Level(world={"gravity": [0, -G]}, player={"at": [900, 0]}, pieces=[post, *planks])
    table = haptos.simulate(level, "wait 10 s").pieces
    ends = {}
    for number in range(5):
        own = table[table.piece == f"plank {number}"].reset_index(drop=True)
        turn = np.radians(own.angle)
        left = np.column_stack((own.x - 20 * np.cos(turn), own.y - 20 * np.sin(turn)))
        if number:
            assert np.hypot(*(left - ends[number - 1]).T).max() < 1.6
        ends[number] = np.column_stack((own.x + 20 * np.cos(turn), own.y + 20 * np.sin(turn)))


@pytest.mark.parametrize("shape", [{"box": [80, 10]}, {"polygon": [[-40, -5], [40, -5], [0, 5]]}])
@pytest.mark.parametrize("tilt", [0, 4, -30])
@pytest.mark.parametrize("bounce", [0, 1])
def test_what_presses_on_a_leaf_from_both_sides_of_its_pin_does_not_tear_it_off(shape, tilt, bounce):
    body = {"mass": 10, "restitution": bounce}
    leaf = {"name": "leaf", "at": [0, 0], "turn": tilt, "shape": shape, "body": body, "hinge": {"at": [0, 0]}}
    press = {"at": [0, 120], "shape": {"box": [200, 20]}, "route": {"stops": [[0, 0], [0, -115]], "speed": 90}}
    level = haptos.Level(world={"gravity": [0, -G]}, player={"at": [900, 0]}, pieces=[leaf, {"name": "press", **press}])
    path = haptos.simulate(level, "wait 6 s").pieces.query("piece == 'leaf'")
    # There is no room for it: it gives way within what presses on it, and stays at its pin.
    assert np.hypot(path.x, path.y).max() < 2
    assert np.hypot(path.vx, path.vy).max() < 200
