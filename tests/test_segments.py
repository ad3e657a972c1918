"""Flight against the closed forms of uniform acceleration, at any tick rate."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from haptos.demo import demo_file
from tests.conftest import GRAVITY, HEIGHT
from tests.scenes import first

RATES = (24, 30, 60, 144, 1000)


@pytest.mark.parametrize("rate", RATES)
def test_jump_agrees_with_the_parabola(flat, rate):
    # 1.5 s are whole ticks at every rate; the walk speed is reached inside a tick at most of them.
    run = haptos.simulate(flat(world={"tick_rate": rate}), "right 1.5 s, right+jump 1 s, right 0.5 s")
    jump, apex, land = first(run, "jump"), first(run, "apex"), first(run, "land")
    air_time = 2 * math.sqrt(2 * HEIGHT / GRAVITY)
    assert apex.amount == pytest.approx(HEIGHT, rel=1e-9)
    assert apex.t - jump.t == pytest.approx(air_time / 2, rel=1e-9)
    assert land.t - jump.t == pytest.approx(air_time, rel=1e-9)
    assert land.x - jump.x == pytest.approx(150 * air_time, rel=1e-9)
    assert land.amount == pytest.approx(HEIGHT, rel=1e-9)
    # From rest: v²/2a of run-up, then walking.
    ramp = 150 / 1800
    assert jump.x == pytest.approx(150 * ramp / 2 + 150 * (1.5 - ramp), rel=1e-9)


@pytest.mark.parametrize("rate", RATES)
def test_terminal_speed_is_reached_inside_a_tick(flat, rate):
    level = flat(world={"tick_rate": rate}, player={"at": [0, 1014], "fall": {"terminal_speed": 500}})
    land = first(haptos.simulate(level, "wait 3 s"), "land")
    to_limit = 500 / GRAVITY
    expected = to_limit + (1000 - 500**2 / (2 * GRAVITY)) / 500
    assert land.t == pytest.approx(expected, rel=1e-9)
    assert land.amount == pytest.approx(1000, rel=1e-9)


@settings(max_examples=25, deadline=None)
@given(
    height=st.floats(5, 400),
    gravity=st.floats(200, 6000),
    rising=st.floats(0.3, 2),
    falling=st.floats(0.3, 3),
    rate=st.sampled_from(RATES),
)
def test_any_jump_reaches_its_height(height, gravity, rising, falling, rate):
    level = haptos.Level(
        world={"gravity": [0, -gravity], "tick_rate": rate},
        player={
            "at": [0, 14],
            "jump": {"height": height},
            "fall": {"rising_factor": rising, "falling_factor": falling, "terminal_speed": 1e6},
        },
        pieces=[{"name": "floor", "shape": {"corners": [-500, -16, 500, 0]}}],
    )
    run = haptos.simulate(level, "jump 8 s")
    up, down = math.sqrt(2 * height / (gravity * rising)), math.sqrt(2 * height / (gravity * falling))
    assert first(run, "apex").amount == pytest.approx(height, rel=1e-9)
    if up + down < 8:
        assert first(run, "land").t == pytest.approx(up + down, rel=1e-9)


def _track(level: haptos.Level, rate: int, cues: str) -> np.ndarray:
    data = level.model_dump(exclude_unset=True, by_alias=True)
    data.setdefault("world", {})["tick_rate"] = rate
    track = haptos.simulate(haptos.Level(**data), cues).track
    return track[["x", "y", "vx", "vy"]].to_numpy()[:: rate // 30]


@pytest.mark.parametrize("sheet", ["gets-through.toml", "falls-short.toml"])
def test_the_tick_rate_is_a_sampling_rate(sheet):
    level = haptos.load(demo_file("first-room.toml"))
    cues = haptos.load_cues(demo_file(sheet), level.unit_table()).text
    # Edges on ticks common to all rates.
    for old, new in (
        ("0.58", "0.6"),
        ("0.45", "0.4"),
        ("0.16", "0.2"),
        ("0.42", "0.4"),
        ("0.22", "0.2"),
        ("2.15", "2.1"),
        ("0.35", "0.4"),
    ):
        cues = cues.replace(old, new)
    reference = _track(level, 30, cues)
    for rate in (60, 120, 240):
        assert np.abs(_track(level, rate, cues) - reference).max() < 1e-6
