"""Whole-tick methods do what their formulas say; the exact one does not depend on the tick rate."""

from __future__ import annotations

import math

import numpy as np
import pytest

import haptos
from haptos.study.moves import integrators

GRAVITY, SPEED = 1800.0, math.sqrt(2 * 1800 * 72)
METHODS = ("semi-implicit-euler", "velocity-verlet")


def level(method: str, rate: float, **player: object) -> haptos.Level:
    return haptos.Level(
        world={"method": method, "tick_rate": rate},
        player={"at": [0, 14], **player},
        pieces=[{"name": "floor", "shape": {"corners": [-5000, -16, 5000, 0]}}],
    )


@pytest.mark.parametrize("rate", [20, 60, 144])
@pytest.mark.parametrize("method", METHODS)
def test_a_jump_follows_the_methods_sum(method, rate):
    track = haptos.simulate(level(method, rate), "jump 0.4 s").track
    ticks = np.arange(int(0.25 * rate))
    dt = 1 / rate
    # Velocity first, then place: the sum 1 + 2 + … + n; half a tick before and after: n²/2.
    shape = ticks * (ticks + 1) / 2 if method == "semi-implicit-euler" else ticks**2 / 2
    expected = 14 + SPEED * dt * ticks - GRAVITY * dt**2 * shape
    assert np.abs(track.y[: len(ticks)] - expected).max() < 1e-9
    assert np.abs(track.vy[1 : len(ticks)] - (SPEED - GRAVITY * dt * ticks[1:])).max() < 1e-9


@pytest.mark.parametrize("method", METHODS)
def test_running_up_to_speed_in_whole_ticks(method):
    track = haptos.simulate(level(method, 60), "right 1 s").track
    dt, accel = 1 / 60, 1800.0
    speeds = np.minimum(accel * dt * np.arange(61), 150)
    places = np.zeros(61)
    for tick in range(1, 61):
        if method == "semi-implicit-euler":
            places[tick] = places[tick - 1] + speeds[tick] * dt
        else:
            half = min(speeds[tick - 1] + accel * dt / 2, 150)
            places[tick] = places[tick - 1] + half * dt
    assert np.abs(track.x - places).max() < 1e-9
    assert track.vx.iloc[-1] == 150


@pytest.mark.parametrize("method", METHODS)
def test_they_land_and_rest_and_stop_at_walls(method):
    wall = {"name": "wall", "shape": {"corners": [200, 0, 220, 300]}}
    base = level(method, 60)
    data = base.model_dump(exclude_unset=True, by_alias=True)
    data["pieces"] = [*data["pieces"], wall]
    run = haptos.simulate(haptos.Level(**data), "right+jump 0.5 s, right+sprint 2 s, wait 1 s")
    assert {"jump", "apex", "land", "touch"} <= set(run.events.event)
    end = run.track.iloc[-1]
    assert (end.x, end.y) == pytest.approx((193, 14))
    assert run.track.y.min() > 14 - 1e-6


@pytest.mark.parametrize("method", METHODS)
def test_the_terminal_speed_is_kept(method):
    track = haptos.simulate(level(method, 60, at=[0, 4014]), "wait 3 s").track
    assert track.vy.min() == -900


@pytest.mark.parametrize("method", METHODS)
def test_the_table_of_moves_shows_the_error(method):
    base = level("exact", 30)
    table = integrators(base).set_index("quantity")
    assert table["exact"]["apex height"] == pytest.approx(72, rel=1e-9)
    dt = 1 / 30
    ticks = np.arange(40)
    shape = ticks * (ticks + 1) / 2 if method == "semi-implicit-euler" else ticks**2 / 2
    heights = SPEED * dt * ticks - GRAVITY * dt**2 * shape
    assert table[method]["apex height"] == pytest.approx(heights.max(), rel=1e-6)
