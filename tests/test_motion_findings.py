"""What `check` finds about pieces that move, give way, fly and are made."""

from __future__ import annotations

import pytest

import haptos
from tests.scenes import floor

FLOOR = floor(100, 20)
FAR = {"name": "far", "shape": {"corners": [400, -20, 700, 0]}}
BOX = {"shape": {"box": [60, 8]}}


def found(*pieces, code, kinds=None, **player) -> list[haptos.Finding]:
    bounds = {"corners": [-800, -400, 800, 400], "bottom": "lost"}
    level = haptos.Level(
        world={"bounds": bounds}, player={"at": [0, 14], **player}, kinds=kinds or {}, pieces=[FLOOR, *pieces]
    )  # fmt: skip
    return [finding for finding in haptos.check(level) if finding.code == code]


def lift(**route) -> dict:
    return {"name": "lift", **BOX, "at": [160, -4], "route": {"speed": 60, **route}}


def test_a_press_squeezes_and_a_lift_beside_a_loft_does_not():
    press = {
        "name": "press",
        "shape": {"box": [40, 40]},
        "at": [0, 120],
        "route": {"stops": [[0, 0], [0, -95]], "speed": 40},
    }
    (finding,) = found(press, code="squeezes")
    # The body, 28 high, has no room once the press has come down by 72 of its 95; it leaves 5.
    assert "it leaves 5 where the body needs 28" in finding.message
    assert "against 'floor'" in finding.message
    assert not found({**press, "route": {"stops": [[0, 0], [0, -70]], "speed": 40}}, code="squeezes")
    assert not found({**press, "solid_from": "above"}, code="squeezes")
    loft = {"name": "loft", "shape": {"corners": [190, 80, 300, 100]}}
    assert not found(lift(stops=[[0, 0], [0, 104]]), loft, code="squeezes")


@pytest.mark.parametrize(("speed", "hits"), [(20, True), (0, False)])
def test_what_turns_sweeps_through_what_stands_in_its_circle(speed, hits):
    arm = {"name": "arm", "shape": {"box": [120, 8]}, "at": [250, 100], "spin": {"speed": speed}}
    post = {"name": "post", "shape": {"box": [8, 40]}, "at": [250, 150]}
    assert bool(found(arm, post, code="swept-solid")) == hits
    assert bool(found(arm, post, code="idle-spin")) == (not hits)


@pytest.mark.parametrize(("start", "crosses"), [(0, True), (1, False)])
def test_two_movers_that_are_at_one_place_at_one_time(start, crosses):
    route = {"speed": 60, "mode": "loop"}
    small = {"shape": {"box": [40, 8]}}
    across = {"name": "across", **small, "at": [300, 100], "route": {"stops": [[0, 0], [120, 0]], **route}}
    down = {"name": "down", **small, "at": [360, 160], "route": {"stops": [[0, 0], [0, -120]], "start": start, **route}}
    # Both are at (360, 100) after a second; with a second's start the other one is there first.
    assert bool(found(across, down, code="movers-cross")) == crosses


@pytest.mark.parametrize(("at", "boards"), [([180, 30], True), ([180, 150], False), ([500, -10], False)])
def test_a_platform_that_waits_has_to_start_where_it_can_be_boarded(at, boards):
    waits = {**lift(stops=[[0, 0], [0, 200]], waits_for="ridden"), "at": at}
    assert bool(found(waits, code="never-boarded")) == (not boards)
    # One that goes by itself comes down to where it can be.
    goes = {**lift(stops=[[0, 0], [0, -140]]), "at": [180, 150]}
    assert not found(goes, code="out-of-reach")


def test_a_plank_that_never_returns_on_the_only_way():
    plank = {"name": "plank", "shape": {"box": [300, 8]}, "at": [250, -4], "crumble": {}}
    (finding,) = found(plank, FAR, code="lost-way")
    assert "once it is gone, there is no way to 'far'" in finding.message
    assert not found({**plank, "crumble": {"returns_after": 2}}, FAR, code="lost-way")
    bridge = {"name": "bridge", "shape": {"box": [300, 8]}, "at": [250, -60]}
    assert not found(plank, FAR, bridge, code="lost-way")
    boards = {
        "name": "board",
        "shape": {"box": [100, 8]},
        "at": [150, -4],
        "copies": [[250, -4], [350, -4]],
        "crumble": {},
    }
    (finding,) = found(boards, FAR, code="lost-way")
    assert "once it and the 2 others like it are gone" in finding.message


SPARK = {"layer": "hazard", "shape": {"circle": 4}, "drift": {"on_exit": "vanish"}, "fragile": {"on": ["terrain"]}}


@pytest.mark.parametrize(
    ("spawner", "at", "code"),
    [
        ({"every": 1, "aim": {"box": [9, 9], "speed": 50}, "area": [100, 100]}, [0, 200], "spawns-in-view"),
        ({"every": 1}, [0, -10], "spawns-in-solid"),
        ({"every": 0.5, "lasts": 3, "limit": 4}, [0, 200], "spawner-refuses"),
    ],
)
def test_spawners_in_view_in_something_solid_and_beyond_their_limit(spawner, at, code):
    vent = {"name": "vent", "at": at, "spawner": {"kind": "spark", **spawner}}
    kinds = {"spark": {**SPARK, "layer": "shot"}}
    assert len(found(vent, code=code, kinds=kinds)) == 1
    others = {"spawns-in-view", "spawns-in-solid", "spawner-refuses", "never-breaks", "no-shape"} - {code}
    assert not [finding for other in others for finding in found(vent, code=other, kinds=kinds)]


def test_what_is_to_break_on_a_layer_that_it_ignores():
    vent = {"name": "vent", "at": [0, 200], "spawner": {"kind": "spark", "every": 1}}
    (finding,) = found(vent, code="never-breaks", kinds={"spark": SPARK})
    assert "its own layer 'hazard' ignores that" in finding.message
