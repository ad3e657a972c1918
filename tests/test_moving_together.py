"""Movers with other facets, other bodies, other methods and views, and the tool on them."""

from __future__ import annotations

import math

import numpy as np
import pandas as pd
import pytest

import haptos
from haptos.demo import demo_file
from tests.test_movers import BODY, FLOOR, RIDE, shaft, shuttled

G = 1800.0
UP = {"stops": [[0, 0], [0, 900]], "speed": 90}
BODIES = [{"box": [14, 28]}, {"capsule": [14, 28]}, {"circle": 14}]


def test_a_trampoline_on_a_lift_throws_relative_to_it():
    drum = {"launch": {"speed": 400}}
    run = haptos.simulate(shaft(UP, player={"at": [0, 40]}, mover=drum), "wait 1 s")
    thrown = next(row for row in run.event_rows if row.event == "launch")
    assert thrown.amount == pytest.approx(400)
    after = run.track.iloc[thrown.tick]
    assert after.vy == pytest.approx(400 + 90 - 1800 * (after.t - thrown.t), rel=1e-9)


@pytest.mark.parametrize("rate", [30, 60, 240])
@pytest.mark.parametrize("shape", [{"box": [14, 28]}, {"box": [30, 28]}])
def test_who_is_lowered_onto_bouncy_ground_is_thrown_back(rate, shape):
    # It stands on a narrow lift that goes down between two pads.
    pad = {"shape": {"box": [18, 16]}, "surface": {"restitution": 0.7}}
    lift = {
        "at": [0, 96],
        "shape": {"box": [8, 8]},
        "route": {"stops": [[0, 0], [0, -150]], "speed": 200, "mode": "once"},
    }
    level = haptos.Level(
        world={"gravity": [0, -G], "tick_rate": rate}, player={"at": [0, 114], "shape": shape},
        pieces=[
            {"name": "left", "at": [-14, -8], **pad},
            {"name": "right", "at": [14, -8], **pad},
            {"name": "lift", **lift},
        ],
    )  # fmt: skip
    run = haptos.simulate(level, "wait 1 s")
    apex = run.events[run.events.event == "apex"].iloc[0]
    touch = run.events[(run.events.event == "touch") & (run.events.piece != "lift")].iloc[0]
    assert touch.t == pytest.approx(0.5, abs=1e-9)
    assert touch.amount == pytest.approx(200, abs=1e-6)
    assert apex.t == pytest.approx(0.5 + 140 / G, abs=1e-9)
    assert apex.amount == pytest.approx(140**2 / (2 * G), abs=1e-6)
    assert run.track.x.abs().max() == 0.0


def test_a_belt_on_a_lift_goes_at_the_sum_of_both():
    belt = {"shape": {"box": [900, 16]}, "surface": {"conveyor": 50}}
    track = haptos.simulate(shaft({"stops": [[0, 0], [600, 0]], "speed": 100}, mover=belt), "wait 1 s").track
    assert track.vx.iloc[-1] == pytest.approx(150, rel=1e-9)


def test_mud_on_a_lift_slows_only_the_walk():
    mud = {"shape": {"box": [900, 16]}, "surface": {"speed_factor": 0.4}}
    track = haptos.simulate(shaft(UP, mover=mud), "right 1 s").track
    assert track.vx.iloc[-1] == pytest.approx(60)
    assert track.vy.iloc[-1] == pytest.approx(90)


@pytest.mark.parametrize("body", BODIES)
@pytest.mark.parametrize("method", ["exact", "semi-implicit-euler", "velocity-verlet"])
def test_every_body_rides_under_every_method(body, method):
    half = 14
    track = haptos.simulate(shaft(RIDE, player={"shape": body, "at": [0, 8 + half]}, method=method), "wait 6 s").track
    lift = haptos.simulate(shaft(RIDE), "wait 6 s").pieces
    assert np.abs(track.x - lift.x).max() < 1e-9 * 28
    assert np.abs(track.y - 22 - lift.y).max() < 1e-9 * 28
    assert (track.support == "lift").all()


@pytest.mark.parametrize("body", BODIES)
def test_a_cart_pushes_in_the_top_view(body):
    cart = {"shape": {"box": [20, 40]}, "at": [-60, 0]}
    route = {"stops": [[0, 0], [200, 0]], "speed": 120, "mode": "once"}
    half = 14 if "circle" in body else 7
    track = haptos.simulate(
        shaft(route, player={"at": [0, 0], "shape": body}, mover=cart, view="top"), "wait 2 s"
    ).track
    after = np.clip(track.t - 200 / 120, 0, 120 / 2400)
    braked = 120 * after - 1200 * after**2
    assert np.abs(track.x - np.maximum(np.minimum(-50 + 120 * track.t, 150) + half, 0) - braked).max() < 1e-9 * 28


def test_parts_of_a_mover_push_one_after_the_other():
    # A fork whose lower prong is longer: it alone meets the body.
    prongs = [{"shape": {"box": [20, 10]}, "at": [0, 10]}, {"shape": {"box": [60, 10]}, "at": [20, -10]}]
    fork = {"at": [-80, 20], "parts": prongs}
    level = haptos.Level(
        player={"at": [0, 14], **BODY},
        pieces=[FLOOR, {"name": "fork", "route": {"stops": [[0, 0], [200, 0]], "speed": 100, "mode": "once"}, **fork}],
    )
    track = haptos.simulate(level, "wait 3 s").track
    after = np.clip(track.t - 2, 0, 100 / 2400)
    braked = 100 * after - 1200 * after**2
    assert np.abs(track.x - np.maximum(np.minimum(-30 + 100 * track.t, 170) + 7, 0) - braked).max() < 1e-9 * 28


def test_two_presses_crush_between_them():
    def press(name, x, way):
        route = {"stops": [[0, 0], [way, 0]], "speed": 60, "mode": "once"}
        return {"name": name, "shape": {"box": [20, 60]}, "at": [x, 30], "route": route}

    pieces = [FLOOR, press("left press", -60, 60), press("right press", 60, -60)]
    rows = haptos.simulate(haptos.Level(player={"at": [0, 14], **BODY}, pieces=pieces), "wait 1 s").event_rows
    # Both sides are 43 away from the body and meet it at once.
    assert next(row for row in rows if row.event == "crush").t == pytest.approx(43 / 60, abs=1 / 60)


def test_a_mirrored_level_gives_the_mirrored_ride():
    cues = "wait 1 s, right 0.2 s, wait 1 s, left+jump 0.3 s, wait 1.5 s"
    swapped = cues.replace("right", "RIGHT").replace("left", "right").replace("RIGHT", "left")
    mirrored = RIDE | {"stops": [[-x, y] for x, y in RIDE["stops"]]}
    here, there = (
        haptos.simulate(shaft(route, [{**FLOOR, "shape": {"box": [800, 20]}, "at": [0, -60]}]), sheet).track
        for route, sheet in ((RIDE, cues), (mirrored, swapped))
    )
    assert np.abs(there.x + here.x).max() < 1e-9 * 28
    assert np.abs(there.y - here.y).max() < 1e-9 * 28


def test_dropping_through_a_one_way_lift():
    run = haptos.simulate(shaft(UP, mover={"solid_from": "above"}), "wait 0.5 s, down+jump 0.1 s, wait 1 s")
    assert "drops through lift" in next(row for row in run.event_rows if row.event == "pass").detail
    assert run.track.y.iloc[-1] < run.pieces.y.iloc[-1]


def test_a_rule_about_boarding():
    rule = {"when": "board", "piece": "lift", "do": [{"say": "going up"}]}
    lift = {"name": "lift", "shape": {"box": [80, 16]}, "at": [0, 0], "route": UP}
    level = haptos.Level(player={"at": [0, 22]}, pieces=[lift], rules=[rule])
    assert haptos.simulate(level).says() == ["going up"]
    assert "rule-no-facet" not in {finding.code for finding in haptos.check(level)}
    still = haptos.Level(player={"at": [0, 22]}, pieces=[{**lift, "route": None}], rules=[rule])
    assert "which makes a 'board'" in next(f for f in haptos.check(still) if f.code == "rule-no-facet").message


@pytest.mark.parametrize(
    ("mover", "message"),
    [
        ({"ladder": {}}, "ladder: found a ladder on what moves"),
        ({"launch": {"speed": 300}, "layer": "zone"}, "launch: found a launch on what moves and is only overlapped"),
        ({"launch": {"speed": 300}, "spin": {"speed": 9}}, "launch: found a launch on what turns"),
    ],
)
def test_what_can_not_move_says_so(mover, message):
    with pytest.raises(haptos.LevelError, match=rf"pieces\[0\] 'lift', {message}"):
        haptos.simulate(shaft(UP, mover=mover))


def test_the_tool_writes_and_draws_what_moves(tool, tmp_path):
    room, sheet = demo_file("lift-shaft.toml"), demo_file("over-the-pit.toml")
    assert tool("run", room, sheet, "--out", tmp_path)[0] == 0
    rows = pd.read_csv(tmp_path / "pieces.csv")
    lift = rows[rows.piece == "lift"]
    # The lift's clock is 0.9 ahead; it eases over 188 in 188 / 80 s, after a pause of 0.6 s.
    assert np.abs(lift.y + 4 - shuttled(lift.t.to_numpy() + 0.9, 188, 188 / 80, 0.6, True)).max() < 1e-9 * 188
    level = haptos.load(room)
    run = haptos.simulate(level, haptos.load_cues(sheet))
    for at in (0.0, 3.0):
        assert tool("draw", room, sheet, "--at", str(at), "--out", tmp_path / f"{at:g}.png")[0] == 0
        assert (tmp_path / f"{at:g}.png").read_bytes().startswith(b"\x89PNG")
        boxes = [
            patch.get_path().get_extents(patch.get_patch_transform())
            for patch in haptos.draw(level, run, at=at).patches
        ]
        where = float(shuttled(np.array([at + 0.9]), 188, 188 / 80, 0.6, True)[0])
        assert any(box.y1 == pytest.approx(where, abs=1e-6) and box.width == 72 for box in boxes), at
    assert tool("draw", room, "--at", "-1", "--out", tmp_path / "no.png")[0] == 2
    assert not (tmp_path / "no.png").exists()


def test_sheets_that_are_there_twice_run_alike():
    level = shaft(UP)
    runs = haptos.simulate_many(level, ["jump 0.5 s", "right 1 s", "jump 0.5 s"])
    assert [run.track_records.tobytes() for run in runs[:1]] == [run.track_records.tobytes() for run in runs[2:]]
    assert math.isclose(runs[1].track.vx.iloc[20], 150)
