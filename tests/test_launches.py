"""Trampolines set the velocity along their direction, whatever came before, and only from their own side."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from tests.scenes import first

GRAVITY = 1800.0


def drum(shape: dict | None = None, **launch: object) -> dict:
    return {"name": "drum", "shape": shape or {"corners": [-60, 0, 60, 8]}, "launch": launch}


def thrown(level: haptos.Level, cues: str) -> tuple[object, object]:
    """Return the launch, and the apex after it."""
    run = haptos.simulate(level, cues)
    launch = first(run, "launch")
    return launch, first(run, "apex", after=launch.t)


@settings(max_examples=40, deadline=None)
@given(
    drop=st.floats(1, 900),
    height=st.floats(10, 400),
    speed=st.floats(-300, 300),
    direction=st.floats(50, 130),
    keep=st.floats(0, 1),
    rate=st.sampled_from([24.0, 60.0, 144.0]),
)
def test_the_height_is_reached_whatever_came_before(drop, height, speed, direction, keep, rate):
    floor = {"name": "floor", "shape": {"corners": [-9000, -16, 9000, 0]}}
    pad = drum({"corners": [-4000, 0, 4000, 8]}, height=height, direction=direction, keep=keep)
    level = haptos.Level(
        world={"tick_rate": rate},
        player={"fall": {"terminal_speed": None}, "run": {"air_accel": 0, "air_brake": 0}},
        pieces=[floor, pad],
    )
    simulation = haptos.Simulation(level)
    simulation.place(0, 22 + drop, vx=speed)
    simulation.step("", ticks=math.ceil((math.sqrt(2 * drop / GRAVITY) + math.sqrt(2 * height / GRAVITY)) * rate) + 2)
    run = simulation.run
    launch = first(run, "launch")
    apex = first(run, "apex", after=launch.t)
    assert apex.amount == pytest.approx(height, rel=1e-9)
    # Across the direction, the share that is kept is left.
    way = np.array([math.cos(math.radians(direction)), math.sin(math.radians(direction))])
    across = np.array([-way[1], way[0]])
    before = np.array([speed, -math.sqrt(2 * GRAVITY * drop)])
    kept = keep * (before @ across)
    along = launch.amount
    assert apex.x - launch.x == pytest.approx(
        (along * way + kept * across)[0] * (apex.t - launch.t), rel=1e-6, abs=1e-6
    )


@pytest.mark.parametrize("measure", [{"speed": 500}, {"impulse": 30000}])
def test_speed_and_impulse_set_the_speed_along_the_direction(flat, measure):
    launch, apex = thrown(flat([drum(**measure)], player={"at": [0, 122], "mass": 60}), "wait 2 s")
    assert launch.amount == pytest.approx(500)
    assert apex.amount == pytest.approx(500**2 / (2 * GRAVITY), rel=1e-9)


@pytest.mark.parametrize("cues", ["right 2 s", "right+sprint 2 s"])
def test_it_does_nothing_from_the_side(flat, cues):
    run = haptos.simulate(flat([drum({"corners": [60, 0, 100, 30]}, height=90)]), cues)
    assert "launch" not in set(run.events.event)
    assert run.track.x.iloc[-1] == pytest.approx(53)


def test_it_does_nothing_from_below(flat):
    run = haptos.simulate(flat([drum({"corners": [-60, 50, 60, 58]}, height=90)]), "jump 1 s")
    assert "launch" not in set(run.events.event)
    assert "drum" in set(run.events.piece)


@pytest.mark.parametrize(("side", "way", "turn"), [("left", "right", 0), ("right", "left", 0), ("above", "right", 90)])
def test_its_own_side_turns_with_it(flat, side, way, turn):
    start = -100 if way == "right" else 100
    shape = {"box": [20, 60]} if turn == 0 else {"box": [60, 20]}
    pad = {"name": "drum", "at": [0, 30], "turn": turn, "shape": shape, "launch": {"speed": 240, "from": side}}
    run = haptos.simulate(flat([pad], player={"at": [start, 14]}), f"{way} 1 s")
    launch = first(run, "launch")
    assert launch.amount == 240
    after = run.track[run.track.t > launch.t].iloc[0]
    assert abs(after.vx) > 150
    assert np.sign(after.vx) == (-1 if way == "right" else 1)


def test_any_side_throws(flat):
    pad = {"name": "drum", "shape": {"corners": [60, 0, 100, 30]}, "launch": {"speed": 400, "from": "any"}}
    assert first(haptos.simulate(flat([pad]), "right 1 s"), "launch").amount == 400


def test_it_is_off_while_it_cools_down_and_throws_what_still_stands_there(flat):
    run = haptos.simulate(flat([drum(height=20, cooldown=1.0)], player={"at": [0, 42]}), "wait 3 s")
    times = run.events[run.events.event == "launch"].t.tolist()
    assert np.diff(times) == pytest.approx([1.0] * (len(times) - 1), abs=1e-8)
    assert len(times) == 3
    rests = run.track[(run.track.t > times[0] + 0.5) & (run.track.t < times[1] - 0.02)]
    assert (rests.support == "drum").all()


def test_an_overlapping_one_throws_on_entry(flat):
    pad = {"name": "updraught", "layer": "zone", "at": [0, 30], "shape": {"box": [40, 20]}, "launch": {"height": 100}}
    launch, apex = thrown(flat([pad], player={"at": [0, 150]}), "wait 2 s")
    assert launch.y == pytest.approx(40 + 14, abs=1e-6)
    assert apex.amount == pytest.approx(100, rel=1e-9)
    # From below it is not on its side.
    assert "launch" not in set(haptos.simulate(flat([pad | {"at": [0, 60]}]), "jump 0.2 s").events.event)


def test_holding_jump_changes_nothing_unless_the_level_says_so(flat):
    plain = thrown(flat([drum(height=100)], player={"at": [0, 60]}), "jump 2 s")
    assert plain[1].amount == pytest.approx(100, rel=1e-9)
    boosted = thrown(flat([drum(height=100, jump_factor=1.5)], player={"at": [0, 60]}), "jump 2 s")
    assert boosted[1].amount == pytest.approx(225, rel=1e-9)
    # Letting go of jump does not cut a launch.
    cut = thrown(flat([drum(height=100)], player={"at": [0, 60]}), "jump 0.3 s, wait 2 s")
    assert cut[1].amount == pytest.approx(100, rel=1e-9)


def test_a_kinds_measure_is_replaced_by_the_pieces_own():
    kinds = {"drum": {"shape": {"box": [40, 8]}, "launch": {"height": 90, "keep": 0.5}}}
    level = haptos.Level(
        player={"at": [0, 60]},
        kinds=kinds,
        pieces=[{"name": "pad", "kind": "drum", "at": [0, 0], "launch": {"speed": 300}}],
    )
    assert first(haptos.simulate(level, "wait 1 s"), "launch").amount == 300


@pytest.mark.parametrize(
    ("launch", "expected"),
    [
        ({"speed": 3, "height": 4}, "found speed and height, expected one of them"),
        ({"keep": 0.5}, "found no measure, expected one of speed, height, impulse"),
        ({"height": 4, "direction": -90}, "a direction that does not go up"),
        ({"height": 4, "from": "top"}, "found 'top', expected"),
    ],
)
def test_launches_that_contradict_themselves_are_refused(launch, expected):
    with pytest.raises(haptos.LevelError, match=r"pieces\[0\] 'drum', launch") as caught:
        haptos.simulate(haptos.Level(pieces=[drum(**launch)]))
    assert expected in str(caught.value)
