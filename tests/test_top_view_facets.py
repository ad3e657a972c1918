"""In the top view one-way pieces, lines, fields and floors work as from the side; ladders and launches do nothing."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from tests.scenes import first


def room(*pieces: dict, **player: object) -> haptos.Level:
    return haptos.Level(world={"view": "top"}, player={"shape": {"circle": 8}, **player}, pieces=list(pieces))


@pytest.mark.parametrize(("way", "unit"), [("right", (1, 0)), ("left", (-1, 0)), ("up", (0, 1)), ("down", (0, -1))])
@pytest.mark.parametrize("side", ["left", "right", "above", "below"])
def test_a_flap_stops_who_comes_from_its_side_and_lets_the_others_through(way, unit, side):
    towards = {"left": (-1, 0), "right": (1, 0), "above": (0, 1), "below": (0, -1)}[side]
    flap = {"name": "flap", "at": [0, 0], "shape": {"box": [20, 20]}, "solid_from": side}
    start = (-100 * unit[0], -100 * unit[1])
    run = haptos.simulate(room(flap, at=list(start)), f"{way} 2 s")
    end = run.track[["x", "y"]].iloc[-1].to_numpy() @ np.array(unit)
    # It is met on its side if the way runs against the side's direction.
    if np.dot(unit, towards) == -1:
        assert end == pytest.approx(-18)
    else:
        assert end > 100
        assert first(run, "pass").piece == "flap"


@settings(max_examples=25, deadline=None)
@given(turn=st.floats(-180, 180), offset=st.floats(-25, 25))
def test_a_line_at_any_turn_blocks_from_its_left_alone(turn, offset):
    angle = math.radians(turn)
    along, left = np.array([math.cos(angle), math.sin(angle)]), np.array([-math.sin(angle), math.cos(angle)])
    rail = {"name": "rail", "at": [0, 0], "turn": turn, "shape": {"line": [[-60, 0], [60, 0]]}}
    for side, stops in ((1, True), (-1, False)):
        simulation = haptos.Simulation(room(rail))
        simulation.place(*(offset * along + side * 60 * left), *(-side * 200 * left))
        # Nothing is expected: the body brakes at 2400, and would go 8.3 farther; it is put there at a speed each time.
        for _ in range(40):
            simulation.step("")
            simulation.state.player["vx"], simulation.state.player["vy"] = -side * 200 * left
        across = np.array([simulation.x, simulation.y]) @ left
        if stops:
            assert across == pytest.approx(8, abs=4)
            assert across >= 8 - 1e-6
        else:
            assert across > 20


def test_a_diagonal_through_mud_is_slowed_as_any_other_way():
    mud = {"name": "mud", "at": [0, 0], "shape": {"box": [200, 200]}, "field": {"speed_factor": 0.5}}
    for cues in ("right 1 s", "right+up 1 s", "down+left 1 s"):
        track = haptos.simulate(room(mud), cues).track
        assert np.hypot(track.vx, track.vy).iloc[-1] == pytest.approx(75)


@pytest.mark.parametrize("facet", [{"ladder": {}}, {"launch": {"speed": 500}}])
def test_ladders_and_launches_do_nothing_on_the_floor(facet):
    pad = {"name": "pad", "at": [40, 0], "layer": "zone", "shape": {"box": [20, 20]}, **facet}
    run = haptos.simulate(room(pad), "right 1 s")
    assert {"climb", "launch"}.isdisjoint(run.events.event)
    assert run.track.vx.iloc[-1] == 150
    assert first(run, "enter").x == pytest.approx(22)


def test_a_belt_under_an_idle_body_carries_it_to_its_end_and_no_farther():
    belt = {"name": "belt", "at": [0, 0], "turn": 90, "shape": {"box": [100, 40]}, "surface": {"conveyor": 60}}
    track = haptos.simulate(room(belt), "wait 2 s").track
    # Turned by a quarter it runs up; the centre leaves it at 50, and brakes from 60 at 2400.
    assert track.x.iloc[-1] == 0
    assert track.y.iloc[-1] == pytest.approx(50 + 60**2 / (2 * 2400), rel=1e-9)
    assert track.vy.iloc[-1] == 0


@pytest.mark.parametrize("swapped", [False, True])
def test_the_support_is_the_floor_of_the_highest_rank_under_the_centre(swapped):
    tar = {"name": "tar", "at": [50, 0], "shape": {"box": [60, 60]}, "surface": {"speed_factor": 0.5}}
    rug = {"name": "rug", "at": [60, 0], "shape": {"box": [20, 60]}, "surface": {"rank": 2}}
    oil = {"name": "drops", "at": [74, 0], "shape": {"circle": 5}, "layer": "zone"}
    rule = {"when": "enter", "piece": "drops", "if": "support == 'rug'", "do": [{"say": "soft"}]}
    pieces = [rug, tar, oil] if swapped else [tar, rug, oil]
    level = haptos.Level(world={"view": "top"}, pieces=pieces, rules=[rule])
    run = haptos.simulate(level, "right 2 s")
    on = {name: run.track.x[run.track.support == name] for name in ("tar", "rug")}
    assert on["rug"].between(50, 70).all()
    assert (on["tar"].between(20, 50) | on["tar"].between(70, 80)).all()
    assert len(on["tar"])
    assert len(on["rug"])
    assert set(run.track.support[run.track.x.between(81, 400)]) == {""}
    assert "say" in set(run.events.event)
    assert "stands on 'rug'" in run.why(0.6).reasons
    started = haptos.simulate(level.changed({"player.at": [60, 0]}), "wait 0.1 s")
    assert set(started.track.support) == {"rug"}
