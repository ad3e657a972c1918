"""What fields add to gravity in flight: wind, pull and whirl, drag, and factors on weight and the fastest fall."""

from __future__ import annotations

import math

import pytest

import haptos


def test_wind_pushes_and_a_factor_makes_light(flat):
    wind = {"name": "wind", "at": [0, 0], "layer": "zone", "shape": {"box": [4000, 4000]}}
    glides = {"at": [0, 1000], "run": {"air_accel": 0, "air_brake": 0}, "fall": {"terminal_speed": None}}
    pushed = haptos.simulate(flat([{**wind, "field": {"push": [300, 0]}}], player=glides), "wait 0.5 s").track.iloc[-1]
    assert [pushed.x, pushed.y] == pytest.approx([0.5 * 300 * 0.25, 1000 - 0.5 * 1800 * 0.25])
    lifted = haptos.simulate(flat([{**wind, "field": {"push": [0, 1900]}}]), "wait 0.5 s").track
    assert lifted.y.iloc[-1] == pytest.approx(14 + 0.5 * 100 * 0.25)
    held = haptos.simulate(flat([{**wind, "field": {"push": [0, 1700]}}]), "wait 0.5 s").track
    assert held.y.iloc[-1] == 14
    light = haptos.simulate(flat([{**wind, "field": {"gravity_factor": 0.25}}], player=glides), "wait 0.5 s").track
    assert light.y.iloc[-1] == pytest.approx(1000 - 0.5 * 450 * 0.25)


@pytest.mark.parametrize(("rate", "miss"), [(60, 4e-3), (240, 2.5e-4)])
def test_drag_leaves_an_exponential_of_the_speed(flat, rate, miss):
    air = {"name": "air", "at": [0, 0], "layer": "zone", "shape": {"box": [9000, 9000]}, "field": {"drag": 3}}
    glides = {"at": [0, 1000], "run": {"air_accel": 0, "air_brake": 0}, "fall": {"terminal_speed": None}}
    simulation = haptos.Simulation(flat([air], player=glides, world={"tick_rate": rate}))
    simulation.place(0, 1000, vx=400)
    simulation.step(ticks=rate // 2)
    left = math.exp(-1.5)
    assert simulation.vx == pytest.approx(400 * left, rel=1e-9)
    # The way is that of the exponential, and the fall that of one with drag, to the second order of the tick.
    assert simulation.x == pytest.approx(400 * (1 - left) / 3, rel=miss)
    assert simulation.vy == pytest.approx(-1800 / 3 * (1 - left), rel=miss)


def test_pull_and_whirl_draw_in_and_round_and_leave_the_up_alone(flat):
    glides = {"at": [200, 1000], "run": {"air_accel": 0, "air_brake": 0}, "fall": {"terminal_speed": None}}
    for keys, way in (({"pull": 500}, (-500, 0)), ({"whirl": 500}, (0, 500)), ({"whirl": -500}, (0, -500))):
        swirl = {"name": "swirl", "at": [0, 1000], "layer": "zone", "shape": {"circle": 400}, "field": keys}
        simulation = haptos.Simulation(flat([swirl], player=glides))
        simulation.step()
        assert [simulation.vx, simulation.vy] == pytest.approx([way[0] / 60, (way[1] - 1800) / 60])
        assert simulation.state.player["up_y"][0] == 1


def test_the_fastest_fall_has_its_factor(flat):
    thick = {"name": "thick", "at": [0, 0], "shape": {"box": [900, 9000]}, "field": {"terminal_factor": 0.25}}
    track = haptos.simulate(flat([thick], player={"at": [0, 1500]}), "wait 1 s").track
    assert track.vy.min() == pytest.approx(-900 * 0.25)
