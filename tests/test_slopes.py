"""Slopes and steps: sliding, resting, keeping the speed over crests, stepping up, staying on dips."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from tests.hall import BODIES

GRAVITY = 1800.0


def slab(angle: float, body: dict | None = None, surface: dict | None = None, **player: object) -> haptos.Level:
    """A long slab that falls to the right by an angle, with the body a hair over it."""
    body = body or {"circle": 10}
    turn = math.radians(angle)
    normal = np.array([math.sin(turn), math.cos(turn)])
    half = body.get("circle") or (body.get("capsule") or body.get("box"))[1] / 2
    foot = np.array([0.0, 0.0])
    if "circle" in body:
        foot = normal * half
    elif "capsule" in body:
        radius = body["capsule"][0] / 2
        foot = normal * radius + [0, half - radius]
    else:
        foot = np.array([body["box"][0] / 2, half])
    return haptos.Level(
        player={"at": list(foot), "shape": body, "fall": {"terminal_speed": None}, **player},
        pieces=[
            {
                "name": "slab",
                "at": list(-normal * 20),
                "turn": -angle,
                "shape": {"box": [400_000, 40]},
                "surface": surface or {},
            }
        ],
    )


@pytest.mark.parametrize("body", BODIES)
@pytest.mark.parametrize("angle", [5, 20, 45])
def test_a_frictionless_slide_gathers_g_sin(angle, body):
    track = haptos.simulate(slab(angle, body, {"friction": 0}), "wait 2 s").track
    speed = np.hypot(track.vx, track.vy)
    rate = (speed[120] - speed[60]) / 1.0
    assert rate == pytest.approx(GRAVITY * math.sin(math.radians(angle)), rel=1e-6)
    assert (track.stance[2:] == "ground").all()


@settings(max_examples=25, deadline=None)
@given(friction=st.floats(0.05, 1.0), past=st.sampled_from([-0.1, 0.1]))
def test_a_body_rests_if_the_friction_holds_it(friction, past):
    angle = math.degrees(math.atan(friction)) + past
    track = haptos.simulate(slab(angle, surface={"friction": friction}), "wait 3 s").track
    moved = math.hypot(track.x[180] - track.x[30], track.y[180] - track.y[30])
    assert (moved < 1e-9) == (past < 0)


@pytest.mark.parametrize("limit", [20, 40])
@pytest.mark.parametrize("past", [-0.1, 0.1])
def test_a_body_rests_if_the_slope_is_no_steeper_than_the_limit(limit, past):
    level = slab(limit + past, surface={"friction": 5}, ground={"max_slope": limit})
    track = haptos.simulate(level, "wait 3 s").track
    assert (track.stance.iloc[-1] == "ground") == (past < 0)
    assert (abs(track.x[180] - track.x[30]) < 1e-9) == (past < 0)


@pytest.mark.parametrize(("friction", "angle"), [(0.2, 30), (0.5, 40)])
def test_friction_takes_its_share_of_a_slide(friction, angle):
    track = haptos.simulate(slab(angle, surface={"friction": friction}), "wait 2 s").track
    turn = math.radians(angle)
    speed = np.hypot(track.vx, track.vy)
    assert speed[120] - speed[60] == pytest.approx(GRAVITY * (math.sin(turn) - friction * math.cos(turn)), rel=1e-6)


@pytest.mark.parametrize("body", BODIES)
def test_standing_still_on_a_slope_is_standing_still(body):
    track = haptos.simulate(slab(35, body), "wait 10 s").track.iloc[5:]
    assert np.ptp(track.x) == 0
    assert np.ptp(track.y) == 0
    assert (track.stance == "ground").all()


def hill(body: dict, snap: float = 4.0) -> haptos.Level:
    half = body.get("circle") or (body.get("capsule") or body.get("box"))[1] / 2
    return haptos.Level(
        player={"at": [-200, half], "shape": body, "ground": {"snap": snap}},
        pieces=[
            {"name": "floor", "shape": {"corners": [-900, -16, 1500, 0]}},
            {"name": "rise", "at": [0, 0], "shape": {"polygon": [[0, 0], [120, 0], [120, 60]]}},
            {"name": "top", "shape": {"corners": [120, 0, 200, 60]}},
            {"name": "fall", "at": [200, 0], "shape": {"polygon": [[0, 0], [90, 0], [0, 60]]}},
            {"name": "ridge", "at": [450, 0], "shape": {"polygon": [[0, 0], [160, 0], [80, 50]]}},
        ],
    )


@pytest.mark.parametrize("body", BODIES)
@pytest.mark.parametrize("way", ["right", "left"])
def test_the_speed_is_kept_up_over_the_crest_and_down(body, way):
    start = "wait 0.1 s" if way == "right" else "place 800,14, wait 0.1 s"
    track = haptos.simulate(hill(body), f"{start}, {way}+sprint 3.5 s").track.iloc[20:]
    speed = np.hypot(track.vx, track.vy)
    assert np.abs(speed / 300 - 1).max() < 1e-9
    assert (track.stance == "ground").all()
    assert track.y.max() > 60


@pytest.mark.parametrize("body", BODIES)
def test_without_snap_a_crest_is_a_hop(body):
    track = haptos.simulate(hill(body, snap=0), "wait 0.1 s, right+sprint 3.5 s").track
    assert (track.stance[20:] == "air").any()


@pytest.mark.parametrize("body", BODIES)
def test_a_thousand_slope_tiles_never_catch_and_never_hop(body):
    rise = 16 * math.tan(math.radians(30))
    tile = {"polygon": [[0, 0], [16, rise], [16, -40], [0, -40]]}
    half = body.get("circle") or (body.get("capsule") or body.get("box"))[1] / 2
    pieces = [
        {
            "name": "stair",
            "at": [0, 0],
            "shape": tile,
            "copies": [[16 * index, rise * index] for index in range(1, 1000)],
        },
        {"name": "floor", "shape": {"corners": [-400, -40, 0, 0]}},
    ]
    level = haptos.Level(player={"at": [-200, half], "shape": body}, pieces=pieces)
    run = haptos.simulate(level, "right+sprint 55 s")
    track = run.track.iloc[15:]
    assert np.abs(np.hypot(track.vx, track.vy) / 300 - 1).max() < 1e-9
    assert (track.stance == "ground").all()
    assert set(run.events.event) == {"touch", "part", "end"}
    assert track.y.iloc[-1] > 999 * rise * 0.8


def test_a_map_of_slopes_is_run_up_like_one_ramp():
    kinds = {"stone": {}, "slope": {"shape": {"polygon": [[-8, -8], [8, -8], [8, 8]]}}}
    rows = "\n".join("." * (20 - row) + "/" + "#" * row for row in range(21))
    level = haptos.Level(
        player={"at": [-150, 14]},
        kinds=kinds,
        map={"tile": 16, "at": [0, 0], "rows": rows, "signs": {"#": "stone", "/": "slope"}},
        pieces=[{"name": "floor", "shape": {"corners": [-400, -16, 0, 0]}}],
    )
    track = haptos.simulate(level, "right 3.6 s").track.iloc[10:]
    assert np.abs(np.hypot(track.vx, track.vy) / 150 - 1).max() < 1e-9
    assert track.y.iloc[-1] > 250


@pytest.mark.parametrize("body", BODIES)
@pytest.mark.parametrize(("height", "steps"), [(2.0, True), (3.9, True), (4.5, False), (30, False)])
def test_steps_up_to_the_limit_are_taken_at_speed(body, height, steps):
    half = body.get("circle") or (body.get("capsule") or body.get("box"))[1] / 2
    level = haptos.Level(
        player={"at": [0, half], "shape": body, "ground": {"step_height": 4, "max_slope": 20}},
        pieces=[
            {"name": "floor", "shape": {"corners": [-400, -16, 100, 0]}},
            {"name": "stage", "shape": {"corners": [100, -16, 600, height]}},
        ],
    )
    run = haptos.simulate(level, "right 3 s")
    end = run.track.iloc[-1]
    if steps:
        assert end.x > 350
        assert end.y == pytest.approx(height + half, abs=1e-9)
        assert end.vx == pytest.approx(150, rel=1e-12)
        assert "step" in set(run.events.event) or height < 0.5
        assert (run.track.stance[5:] == "ground").all()
    else:
        assert end.x < 101
        assert end.vx == 0


def test_a_step_under_a_low_beam_is_not_taken():
    pieces = [
        {"name": "floor", "shape": {"corners": [-400, -16, 600, 0]}},
        {"name": "step", "shape": {"corners": [100, 0, 600, 4]}},
        {"name": "beam", "shape": {"corners": [60, 30, 600, 40]}},
    ]
    level = haptos.Level(player={"at": [0, 14], "shape": {"box": [14, 28]}}, pieces=pieces)
    assert haptos.simulate(level, "right 2 s").track.x.iloc[-1] == pytest.approx(93)


@pytest.mark.parametrize(("dip", "stays"), [(3.0, True), (3.99, True), (4.5, False)])
def test_the_body_stays_on_a_dip_no_deeper_than_snap(dip, stays):
    pieces = [
        {"name": "stage", "shape": {"corners": [-400, -16, 0, dip]}},
        {"name": "floor", "shape": {"corners": [0, -16, 600, 0]}},
    ]
    level = haptos.Level(
        player={"at": [-100, 14 + dip], "shape": {"box": [14, 28]}, "ground": {"snap": 4}}, pieces=pieces
    )
    run = haptos.simulate(level, "right+sprint 2 s")
    assert ("land" in set(run.events[run.events.t > 0.1].event)) != stays
    assert run.track.y.iloc[-1] == pytest.approx(14)
    if stays:
        assert (run.track.stance[2:] == "ground").all()
        assert np.abs(run.track.vx[40:] / 300 - 1).max() < 1e-9


def test_a_ledge_deeper_than_snap_is_left_on_the_parabola():
    pieces = [
        {"name": "stage", "shape": {"corners": [-400, -16, 0, 80]}},
        {"name": "floor", "shape": {"corners": [0, -16, 600, 0]}},
    ]
    run = haptos.simulate(
        haptos.Level(player={"at": [-100, 94], "shape": {"box": [14, 28]}}, pieces=pieces), "right 2 s"
    )
    land = run.events[(run.events.event == "land") & (run.events.piece == "floor")].iloc[0]
    assert land.x - 7 == pytest.approx(150 * math.sqrt(2 * 80 / GRAVITY), rel=1e-9)
