"""Worlds that draw to their middle: walked round, jumped on, orbited, and going along or turning themselves."""

from __future__ import annotations

import math

import numpy as np
import pytest

import haptos
from tests.scenes import first
from tests.test_gravity import BODIES


def globe(**motion) -> list[dict]:
    pull = {"name": "pull", "shape": {"circle": 300}, "layer": "zone", "field": {"gravity": {"toward": True}}}
    return [{"name": "globe", "at": [0, 0], "shape": {"circle": 100}, "pieces": [pull], **motion}]


@pytest.mark.parametrize("shape", BODIES)
@pytest.mark.parametrize(("held", "sign"), [("right", 1), ("left", -1)])
@pytest.mark.parametrize("rate", [60, 120])
def test_a_walk_round_a_globe_takes_as_long_as_its_circle_is(shape, held, sign, rate):
    pieces = [
        {"name": "globe", "at": [0, 0], "shape": {"circle": 150}},
        {
            "name": "air",
            "at": [0, 0],
            "layer": "zone",
            "shape": {"circle": 500},
            "field": {"gravity": {"toward": True}},
        },
    ]
    player = {"at": [0, 164], "shape": shape, "run": {"ground_accel": 1e9}}
    level = haptos.Level(world={"tick_rate": rate}, player=player, pieces=pieces)
    round_trip = 2 * math.pi * (150 + 14) / 150
    track = haptos.simulate(level, f"{held} {round_trip + 0.5:.3f} s").track
    turned = np.unwrap(np.arctan2(track.x, track.y)) * sign
    assert np.interp(2 * math.pi, turned, track.t) == pytest.approx(round_trip, rel=0.01)
    assert (track.support == "globe").all()
    assert (track.stance == "ground").all()
    assert np.hypot(track.x, track.y).to_numpy() == pytest.approx(164, abs=0.002 * 164)
    # It stands straight out, but for the way of one tick.
    out = np.column_stack((track.x, track.y)) / np.hypot(track.x, track.y).to_numpy()[:, None]
    ups = np.column_stack((track.up_x, track.up_y))
    assert (out * ups).sum(axis=1).min() > math.cos(1.5 * 150 / rate / 150)


def test_who_jumps_on_a_globe_comes_down_on_it_where_it_went_up():
    pieces = [
        {"name": "globe", "at": [0, 0], "shape": {"circle": 100}},
        {
            "name": "air",
            "at": [0, 0],
            "layer": "zone",
            "shape": {"circle": 900},
            "field": {"gravity": {"toward": True}},
        },
    ]
    level = haptos.Level(player={"at": [114, 0], "shape": {"capsule": [14, 28]}}, pieces=pieces)
    run = haptos.simulate(level, "wait 0.5 s, jump 0.4 s, wait 1 s")
    top = first(run, "apex", after=0.5)
    assert (top.x, top.y) == (pytest.approx(114 + 72, abs=0.1), pytest.approx(0, abs=0.1))
    assert first(run, "land", after=0.6).amount == pytest.approx(72, abs=0.1)
    assert run.track[["x", "y"]].iloc[-1].tolist() == pytest.approx([114, 0], abs=0.1)


@pytest.mark.parametrize(("falloff", "power"), [("none", 0), ("linear", 1), ("inverse_square", 2)])
def test_an_orbit_stays_on_its_circle_for_ten_turns(falloff, power):
    reference, radius, strength = 300, 500, 1500
    pull = strength * (reference / radius) ** power
    speed = math.sqrt(pull * radius)
    assert speed / radius / 60 <= 0.04
    gravity = {"toward": True, "strength": strength, "falloff": falloff, "reference": reference}
    glides = {"fall": {"terminal_speed": None}, "run": {"air_accel": 0, "air_brake": 0}}
    level = haptos.Level(
        player={"at": [0, radius], "shape": {"circle": 14}, **glides},
        pieces=[
            {"name": "air", "at": [0, 0], "layer": "zone", "shape": {"circle": 2000}, "field": {"gravity": gravity}}
        ],
    )
    simulation = haptos.Simulation(level)
    simulation.place(0, radius, vx=speed)
    simulation.step(ticks=math.ceil(10 * 2 * math.pi * radius / speed * 60))
    track = simulation.run.track
    assert np.abs(np.hypot(track.x, track.y) / radius - 1).max() < 1e-3
    turns = np.unwrap(np.arctan2(track.x, track.y))[-1] / (2 * math.pi)
    assert turns == pytest.approx(10, abs=0.1)


@pytest.mark.parametrize("shape", BODIES)
def test_a_globe_that_travels_takes_along_who_stands_on_it(shape):
    route = {"stops": [[0, 0], [300, 60]], "speed": 90}
    level = haptos.Level(player={"at": [0, 114], "shape": shape}, pieces=globe(route=route))
    run = haptos.simulate(level, "wait 1 s, right 1 s, wait 1 s")
    rows = run.pieces[run.pieces.piece == "globe"]
    away = run.track[["x", "y"]].to_numpy() - rows[["x", "y"]].to_numpy()
    assert np.abs(away[:60] - [0, 114]).max() < 1e-9 * 28
    assert (run.track.support == "globe").all()
    assert not any(row.event in ("part", "alight") for row in run.event_rows)
    assert np.hypot(*away.T) == pytest.approx(114, abs=0.05)
    # Relative to the globe it walks a second at 150, less what it takes to come up to that, and brakes.
    angle = np.unwrap(np.arctan2(away[:, 0], away[:, 1]))
    walked = 150 - 150**2 / 1800 / 2 + 150**2 / 2400 / 2
    assert angle[-1] * 114 == pytest.approx(walked, rel=0.01)


@pytest.mark.parametrize("shape", BODIES)
def test_a_globe_that_spins_takes_round_who_stands_on_it(shape):
    level = haptos.Level(player={"at": [0, 114], "shape": shape}, pieces=globe(spin={"speed": 30}))
    run = haptos.simulate(level, "wait 6 s")
    angle = np.degrees(np.unwrap(np.arctan2(-run.track.x, run.track.y)))
    assert angle[-1] == pytest.approx(180, abs=0.2)
    assert np.hypot(run.track.x, run.track.y).to_numpy() == pytest.approx(114, abs=0.05)
    assert (run.track.support == "globe").all()
    assert not any(row.event in ("part", "alight") for row in run.event_rows)


def test_within_its_core_a_pull_is_even_and_a_negative_one_pushes_away():
    drift = {"run": {"air_accel": 0, "air_brake": 0}, "fall": {"terminal_speed": None}, "shape": {"circle": 5}}
    gravity = {"toward": True, "falloff": "inverse_square", "reference": 200, "core": 100}
    # At 300 it is 900 (2/3)²; from 100 inward it stays at 900 · 2².
    for at, strength, pull in ((300, 900, -400), (100, 900, -3600), (40, 900, -3600), (300, -900, 400)):
        middle = {"name": "middle", "at": [0, 0], "shape": {"circle": 800}}
        middle["field"] = {"gravity": {**gravity, "strength": strength}}
        simulation = haptos.Simulation(haptos.Level(player={"at": [at, 0], **drift}, pieces=[middle]))
        simulation.step()
        assert simulation.state.player["gravity_x"][0] == pytest.approx(pull)
        assert simulation.x - at == pytest.approx(0.5 * pull / 60**2)


@pytest.mark.parametrize("shape", BODIES)
@pytest.mark.parametrize(("held", "angle"), [("right+sprint", 60), ("left+sprint", -60)])
@pytest.mark.parametrize("rate", [30, 240])
def test_nobody_turns_through_a_wall_on_a_globe(shape, held, angle, rate):
    at = 120 * np.array([math.sin(math.radians(angle)), math.cos(math.radians(angle))])
    wall = {"name": "wall", "at": at.tolist(), "turn": -angle, "shape": {"box": [2, 60]}}
    level = haptos.Level(world={"tick_rate": rate}, player={"at": [0, 114], "shape": shape}, pieces=[*globe(), wall])
    run = haptos.simulate(level, f"{held} 3 s")
    turned = np.unwrap(np.arctan2(run.track.x, run.track.y))
    assert np.abs(turned).max() < math.radians(60)
    assert "wall" in {row.piece for row in run.event_rows if row.event == "touch"}


def space(**player) -> haptos.Level:
    pull = {"name": "pull", "layer": "zone", "shape": {"circle": 200}}
    pull["field"] = {"gravity": {"toward": True, "strength": 1200}}
    return haptos.Level(
        world={"gravity": [0, 0]}, player={"at": [0, 114], **player},
        pieces=[{"name": "globe", "at": [0, 0], "shape": {"circle": 100}}, {**pull, "at": [0, 0]}],
    )  # fmt: skip


def test_without_gravity_a_body_floats_on_as_it_left_the_last_field():
    # From 114 at 800 against 1200 for 100 of height: v² = 800² - 2 · 1200 · 100; on the globe it walks at 150.
    run = haptos.simulate(space(jump={"speed": 800}), "jump 0.3 s, right+jump 2 s")
    out = first(run, "leave")
    assert math.hypot(out.x, out.y) == pytest.approx(214, rel=1e-3)
    after = run.track[run.track.t > out.t + 0.1]
    speed = math.sqrt(800**2 - 2 * 1200 * 100)
    assert np.hypot(after.vx, after.vy).to_numpy() == pytest.approx(speed, rel=0.02)
    # Straight on, upright as it was, without steering.
    assert np.ptp(after.vx) < 1e-9
    assert np.ptp(after.up_x) < 1e-9
    steered = haptos.simulate(space(jump={"speed": 800}, run={"air_accel": 300}), "jump 0.4 s, right 1 s").track
    assert steered.vx.iloc[-1] > 100


def test_without_gravity_what_needs_some_says_so():
    for values, word in (({"jump": {"height": 50}}, "jump.speed"), ({}, "without gravity")):
        with pytest.raises(haptos.LevelError, match=word):
            haptos.moves(space(**values))
    assert [one.code for one in haptos.check(space())] == ["floats-away"]
