"""One-way pieces: solid from one side alone, from any of their sides and at any turn."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from tests.hall import BODIES
from tests.scenes import first

# Turned like this, the side looks up.
UPWARD = {"above": 0, "left": -90, "below": 180, "right": 90}


def awning(**values: object) -> dict:
    return {"name": "awning", "at": [0, 50], "shape": {"box": [80, 6]}, "solid_from": "above"} | values


@pytest.mark.parametrize("side", UPWARD)
@pytest.mark.parametrize("body", BODIES)
def test_up_through_it_and_down_onto_it(flat, side, body):
    shape = {"box": [80, 6]} if side in ("above", "below") else {"box": [6, 80]}
    level = flat([awning(shape=shape, turn=UPWARD[side], solid_from=side)], body)
    run = haptos.simulate(level, "jump 1 s, wait 1 s")
    land = first(run, "land", piece="awning")
    half = body.get("circle") or (body.get("capsule") or body.get("box"))[1] / 2
    assert land.y == pytest.approx(53 + half, abs=1e-9)
    # The rise is free, so the whole flight is: up by 72, down to 53.
    assert land.t == pytest.approx(math.sqrt(2 * 72 / 1800) + math.sqrt(2 * (72 - 53) / 1800), rel=1e-9)
    passed = first(run, "pass")
    assert "met from behind" in passed.detail
    assert run.track.support.iloc[-1] == "awning"


@pytest.mark.parametrize("height", [2, 6, 30])
def test_thin_and_thick_ones_are_landed_on_top(flat, height):
    level = flat([awning(at=[0, 60 - height / 2], shape={"box": [80, height]})])
    assert first(haptos.simulate(level, "jump 1 s, wait 1 s"), "land", piece="awning").y == pytest.approx(74)


@settings(max_examples=30, deadline=None)
@given(reach=st.floats(1.0, 71.9), body=st.sampled_from(BODIES))
def test_a_body_that_is_only_partly_through_falls_back_without_a_pop(reach, body):
    # Its top edge is `reach` above where the foot is at the apex.
    half = body.get("circle") or (body.get("capsule") or body.get("box"))[1] / 2
    floor = {"name": "floor", "shape": {"corners": [-500, -16, 500, 0]}}
    level = haptos.Level(player={"at": [0, half], "shape": body}, pieces=[floor, awning(at=[0, 72 + reach - 3])])
    free = haptos.Level(player={"at": [0, half], "shape": body}, pieces=[floor])
    with_it, without = (haptos.simulate(one, "jump 1 s, wait 0.3 s").track for one in (level, free))
    assert np.abs(with_it.y - without.y).max() < 1e-9


@settings(max_examples=40, deadline=None)
@given(offset=st.floats(-70, 70), gait=st.sampled_from(["right", "right+sprint"]), body=st.sampled_from(BODIES))
def test_the_edge_never_catches_from_below(offset, gait, body):
    half = body.get("circle") or (body.get("capsule") or body.get("box"))[1] / 2
    floor = {"name": "floor", "shape": {"corners": [-900, -16, 900, 0]}}
    cues = f"{gait} 0.4 s, {gait}+jump 0.28 s"
    levels = [
        haptos.Level(player={"at": [-60 + offset, half], "shape": body}, pieces=[floor, *pieces])
        for pieces in ([awning(at=[60, 40])], [])
    ]
    with_it, without = (haptos.simulate(level, cues).track for level in levels)
    assert np.abs(with_it[["x", "y"]] - without[["x", "y"]]).to_numpy().max() < 1e-9


def test_down_and_jump_drops_through_one_at_a_time(flat):
    level = flat([awning(at=[0, 150], copies=[[0, 100], [0, 50]])], player={"at": [0, 167]})
    run = haptos.simulate(level, "wait 0.2 s, down+jump 0.05 s, wait 0.4 s, down+jump 0.05 s, wait 1 s")
    passes = run.events[run.events.event == "pass"]
    assert passes.piece.tolist() == ["awning", "awning 2"]
    assert passes.detail.str.startswith("drops through").all()
    land = first(run, "land", piece="awning 2")
    assert land.t - 0.2 == pytest.approx(math.sqrt(2 * 50 / 1800), rel=1e-9)
    assert run.track.support.iloc[-1] == "awning 3"
    assert "jump" not in set(run.events.event)


def test_a_joint_of_two_is_dropped_through_as_one(flat):
    level = flat([awning(at=[-40, 50]), awning(name="second", at=[40, 50])], player={"at": [0, 67]})
    run = haptos.simulate(level, "wait 0.2 s, down+jump 0.05 s, wait 0.5 s")
    assert run.track.support.iloc[-1] == "floor"


def test_there_is_no_drop_where_a_floor_is_in_the_way(flat):
    level = flat([{"name": "mat", "shape": {"corners": [-50, -6, 50, 0]}, "solid_from": "above"}])
    track = haptos.simulate(level, "wait 0.2 s, down+jump 0.05 s, wait 0.3 s, jump 0.1 s, wait 1 s").track
    assert track.y.min() == pytest.approx(14)
    assert track.y.max() > 30


def test_down_and_jump_on_solid_ground_is_a_jump(flat):
    assert "jump" in set(haptos.simulate(flat(), "down+jump 0.2 s, wait 1 s").events.event)


@pytest.mark.parametrize(("side", "stops"), [("left", "right"), ("right", "left")])
def test_a_flap_stops_from_its_side_alone(flat, side, stops):
    flap = {"name": "flap", "shape": {"box": [6, 80]}, "at": [0, 40], "solid_from": side}
    for way in ("right", "left"):
        start = -100 if way == "right" else 100
        run = haptos.simulate(flat([flap], player={"at": [start, 14]}), f"{way} 2 s")
        end = run.track.x.iloc[-1]
        if way == stops:
            assert abs(end) == pytest.approx(10)
        else:
            assert abs(end) > 100
            assert first(run, "pass").piece == "flap"


def test_a_tilted_plank_is_stood_on_at_its_tilt(flat):
    level = flat([awning(turn=25, at=[0, 60], shape={"box": [160, 6]})], {"circle": 10})
    run = haptos.simulate(level, "jump 1 s, wait 1 s")
    turn = math.radians(25)
    # The circle's centre lies 3 + 10 over the plank's middle line, along its normal.
    x, y = run.track.x.iloc[-1], run.track.y.iloc[-1]
    assert run.track.support.iloc[-1] == "awning"
    assert -math.sin(turn) * x + math.cos(turn) * (y - 60) == pytest.approx(13, abs=1e-9)


def test_a_line_blocks_what_comes_from_its_left_alone(flat):
    rail = {"name": "rail", "at": [0, 40], "shape": {"line": [[40, 0], [-40, 0]]}}
    # Drawn from right to left, its left is below: it holds down what jumps, and lets through what falls.
    assert first(haptos.simulate(flat([rail]), "jump 1 s"), "touch", piece="rail").y == pytest.approx(40 - 14)
    fallen = haptos.simulate(flat([rail], player={"at": [0, 100]}), "wait 1 s").track
    assert fallen.y.iloc[-1] == pytest.approx(14)
    other = rail | {"shape": {"line": [[-40, 0], [40, 0]]}}
    assert haptos.simulate(flat([other], player={"at": [0, 100]}), "wait 1 s").track.y.iloc[-1] == pytest.approx(54)
