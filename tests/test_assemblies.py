"""Pieces that hold pieces: placed, copied, scaled, turned and moved as one; cabins; what a kind's rules are about."""

from __future__ import annotations

import math

import numpy as np
import pytest

import haptos
from haptos.engine.build.compile_level import compile_level
from haptos.geometry.polygons import shape_polygons
from tests.scenes import floor

FLOOR = floor(4000, 20)
DOOR = {
    "layer": "terrain",
    "shape": {"box": [8, 60]},
    "pieces": [
        {"name": "leaf", "shape": {"box": [40, 6]}, "at": [24, 10], "turn": 30},
        {"name": "sensor", "layer": "zone", "shape": {"circle": 20}, "at": [0, -40],
         "pieces": [{"name": "bulb", "layer": "zone", "shape": {"circle": 2}, "at": [0, 25]}]},
    ],
    "rules": [{"name": "open", "when": "enter", "piece": "self/sensor", "do": [{"say": "the sensor answers"}]}],
}  # fmt: skip


def centres(level: haptos.Level) -> dict[str, tuple[float, float]]:
    compiled = compile_level(level)
    polygons = shape_polygons(compiled.placement)
    names = [compiled.resolved.pieces[index].name for index in compiled.placement.piece]
    return {name: (polygon.centroid.x, polygon.centroid.y) for name, polygon in zip(names, polygons, strict=True)}


@pytest.mark.parametrize(("turn", "scale"), [(0, 1), (90, 1), (-35, 2.5)])
def test_an_assembly_is_placed_turned_and_scaled_as_one(turn, scale):
    piece = {"name": "door", "kind": "door", "at": [100, 50], "turn": turn, "scale": scale, "copies": [[400, 0]]}
    found = centres(haptos.Level(kinds={"door": DOOR}, pieces=[piece]))
    angle = math.radians(turn)
    for name, (x, y) in {"leaf": (24, 10), "sensor": (0, -40), "sensor/bulb": (0, -15)}.items():
        dx = scale * (x * math.cos(angle) - y * math.sin(angle))
        dy = scale * (x * math.sin(angle) + y * math.cos(angle))
        assert found[f"door/{name}"] == pytest.approx((100 + dx, 50 + dy))
        assert found[f"door 2/{name}"] == pytest.approx((400 + dx, dy))
    bulb = compile_level(haptos.Level(kinds={"door": DOOR}, pieces=[piece])).resolved.by_name["door 2/sensor/bulb"]
    assert bulb.scale == scale


def test_one_change_of_the_kind_or_of_a_piece_is_seen_where_it_belongs():
    wider = {"name": "leaf", "shape": {"box": [90, 6]}}
    level = haptos.Level(
        kinds={"door": DOOR, "gate": {"based_on": "door", "pieces": [wider]}},
        pieces=[{"name": "door", "kind": "door", "at": [0, 0]}, {"name": "gate", "kind": "gate", "at": [300, 0]},
                {"name": "own", "kind": "door", "at": [600, 0], "pieces": [{"name": "leaf", "at": [-24, 10]}]}],
    )  # fmt: skip
    pieces = compile_level(level).resolved.by_name
    assert pieces["door/leaf"].parts[0].shape.box == (40, 6)
    assert pieces["gate/leaf"].parts[0].shape.box == (90, 6)
    assert pieces["gate/leaf"].turn == 30
    assert pieces["own/leaf"].at == (576, 10)


def test_two_sensors_on_one_thing_never_answer_for_each_other():
    near = {"name": "near", "layer": "zone", "shape": {"circle": 10}}
    far = {"name": "far", "layer": "zone", "shape": {"circle": 80}}
    rules = [{"when": "enter", "piece": f"self/{name}", "do": [{"say": name}]} for name in ("near", "far")]
    kind = {"pieces": [near, far], "rules": rules}
    orb = {"name": "orb", "kind": "orb", "at": [200, 14], "copies": [[500, 14]]}
    level = haptos.Level(kinds={"orb": kind}, player={"at": [0, 14]}, pieces=[FLOOR, orb])
    run = haptos.simulate(level, "right 1.2 s, wait 0.3 s")
    assert run.says() == ["far"]
    assert [row.piece for row in run.event_rows if row.event == "enter"] == ["orb/far"]
    assert haptos.simulate(level, "right 4 s").says() == ["far", "near", "far", "near"]
    assert not [finding for finding in haptos.check(level) if finding.severity == "error"]


def test_rules_of_a_kind_are_about_the_piece_its_children_and_whoever_meets_it():
    said = [{"when": "touch", "piece": "self", "who": "other", "do": [{"say": "bumped"}]},
            {"when": "enter", "piece": "self/near", "who": "#lamplighter", "do": [{"say": "near"}]},
            {"when": "enter", "piece": "self/near", "who": "#ghost", "do": [{"say": "never"}]}]  # fmt: skip
    post = {
        "shape": {"box": [8, 40]},
        "pieces": [{"name": "near", "layer": "zone", "shape": {"circle": 40}}],
        "rules": said,
    }
    posts = {"name": "post", "kind": "post", "at": [120, 20]}
    level = haptos.Level(kinds={"post": post}, player={"at": [0, 14], "marks": ["lamplighter"]}, pieces=[FLOOR, posts])
    assert haptos.simulate(level, "right 1.5 s").says() == ["near", "bumped"]
    (finding,) = [one for one in haptos.check(level) if one.severity == "error"]
    assert finding.place == "kinds.post.rules[2] of 'post'"
    assert "who = '#ghost' is nobody" in finding.message


def test_children_move_and_turn_with_their_parent_several_levels_deep():
    mill = {
        "name": "mill", "at": [0, 0], "shape": {"circle": 4}, "layer": "zone", "spin": {"speed": 90},
        "pieces": [{"name": "arm", "at": [100, 0], "shape": {"box": [8, 4]}, "layer": "zone",
                    "route": {"stops": [[0, 0], [40, 0]], "speed": 20},
                    "pieces": [{"name": "pan", "at": [0, 10], "shape": {"box": [4, 4]}, "layer": "zone"}]}],
    }  # fmt: skip
    rows = haptos.simulate(haptos.Level(pieces=[mill, FLOOR]), "wait 2 s").pieces.set_index(["piece", "t"])
    # After a second it has turned by a quarter, and the arm has gone 20 out; after two by a half, and 40.
    assert rows.loc[("mill/arm", 1.0), ["x", "y", "angle"]].tolist() == pytest.approx([0, 120, 90])
    assert rows.loc[("mill/arm/pan", 1.0), ["x", "y", "angle"]].tolist() == pytest.approx([-10, 120, 90])
    assert rows.loc[("mill/arm/pan", 2.0), ["x", "y"]].tolist() == pytest.approx([-140, -10])
    assert rows.loc[("mill/arm", 1.0), ["vx", "vy"]].tolist() == pytest.approx([-120 * math.pi / 2, 20])


def test_a_piece_named_as_parent_carries_what_stays_where_it_is_put():
    raft = {
        "name": "raft",
        "shape": {"box": [80, 16]},
        "at": [0, -8],
        "route": {"stops": [[0, 0], [300, 0]], "speed": 60},
    }
    mast = {"name": "mast", "shape": {"box": [6, 40]}, "at": [30, 20], "parent": "raft"}
    run = haptos.simulate(haptos.Level(player={"at": [0, 14]}, pieces=[mast, raft]), "right 1 s, wait 1 s")
    rows = run.pieces[run.pieces.piece == "mast"]
    assert rows.x.iloc[-1] == pytest.approx(30 + 120)
    assert run.track.x.iloc[-1] == pytest.approx(150 - 3 - 7)


def test_what_the_player_carries_goes_along_and_never_meets_it():
    lamp = {"name": "lamp", "shape": {"circle": 5}, "at": [12, 4]}
    level = haptos.Level(
        player={"at": [0, 14], "pieces": [lamp]},
        pieces=[FLOOR, {**lamp, "name": "bat", "at": [-20, 60], "parent": "player"}],
    )
    run = haptos.simulate(level, "right 0.5 s, jump 0.2 s")
    for name, x, y in (("player/lamp", 12, 18), ("bat", -20, 60)):
        rows = run.pieces[run.pieces.piece == name].reset_index()
        assert rows.x.to_numpy() == pytest.approx(run.track.x.to_numpy() + x)
        assert rows.y.to_numpy() == pytest.approx(run.track.y.to_numpy() + y - 14)
    assert not {"lamp", "bat"} & set(run.events.piece)


CABIN = {
    "name": "cabin", "at": [0, 50], "layer": "zone", "shape": {"box": [120, 100]}, "field": {"carries": True},
    "pieces": [{"name": "floor", "shape": {"box": [120, 10]}, "at": [0, -45], "layer": "terrain"}],
}  # fmt: skip


@pytest.mark.parametrize("way", [[300, 0], [180, 240], [0, -300]])
def test_a_cabin_takes_along_who_is_inside_in_the_air_too(way):
    cabin = {**CABIN, "route": {"stops": [[0, 0], way], "speed": 100, "ease": True}}
    body = {"at": [0, 24], "shape": {"capsule": [14, 28]}}
    moves = haptos.simulate(
        haptos.Level(player=body, pieces=[cabin]), "wait 0.4 s, right+jump 0.15 s, left 0.2 s, wait 1.2 s"
    )
    rests = haptos.simulate(
        haptos.Level(player=body, pieces=[CABIN]), "wait 0.4 s, right+jump 0.15 s, left 0.2 s, wait 1.2 s"
    )
    rows = moves.pieces[moves.pieces.piece == "cabin"].reset_index()
    # Inside, everything is as in a cabin that rests.
    assert np.abs(moves.track.x - rows.x - rests.track.x).max() < 1e-9 * 28
    assert np.abs(moves.track.y - (rows.y - 50) - rests.track.y).max() < 1e-9 * 28
    said = [
        [(row.event, row.piece) for row in run.event_rows if row.event not in ("board", "alight")]
        for run in (moves, rests)
    ]
    assert said[0] == said[1]


def test_one_leaves_a_cabin_once_and_with_its_velocity():
    cabin = {**CABIN, "route": {"stops": [[0, 0], [900, 0]], "speed": 100}}
    player = {"at": [0, 24], "run": {"air_accel": 0, "air_brake": 0}}
    run = haptos.simulate(haptos.Level(player=player, pieces=[cabin]), "right 1 s")
    events = [row.event for row in run.event_rows if row.piece.startswith("cabin")]
    assert events == ["touch", "enter", "board", "part", "leave", "alight"]
    # 67 from its middle the body is out: it walks up to speed in 1/12 s, over 6.25.
    left = next(row for row in run.event_rows if row.event == "leave")
    assert left.t == pytest.approx(1 / 12 + (67 - 6.25) / 150, abs=1e-6)
    assert run.track.vx.iloc[-1] == pytest.approx(250)


def test_a_boat_in_the_top_view_carries_who_is_over_its_deck():
    deck = {"shape": {"box": [80, 60]}, "surface": {"rank": 1}, "layer": "zone"}
    boat = {"name": "boat", "at": [0, 0], **deck, "spin": {"speed": 18, "pivot": [0, 100]}}
    level = haptos.Level(world={"view": "top"}, player={"at": [10, 5], "shape": {"circle": 7}}, pieces=[boat])
    track = haptos.simulate(level, "wait 3 s").track
    angle = np.radians(18) * track.t
    x, y = 10 * np.cos(angle) + 95 * np.sin(angle), 100 + 10 * np.sin(angle) - 95 * np.cos(angle)
    assert np.abs(track.x - x).max() < 1e-9 * 14
    assert np.abs(track.y - y).max() < 1e-9 * 14


def test_a_tray_that_carries_in_the_top_view():
    tray = {"name": "tray", "at": [0, 0], "layer": "zone", "shape": {"box": [80, 60]}, "field": {"carries": True}}
    tray["route"] = {"stops": [[0, 0], [120, 50]], "speed": 65, "ease": True, "waits_for": "ridden"}
    level = haptos.Level(world={"view": "top"}, player={"at": [5, 5], "shape": {"circle": 7}}, pieces=[tray])
    run = haptos.simulate(level, "wait 0.5 s, up 0.1 s, wait 2.4 s")
    rows = run.pieces
    assert run.track.x.to_numpy() == pytest.approx(rows.x + 5, abs=1e-9)
    assert run.track.y.iloc[-1] - rows.y.iloc[-1] > 10
    assert rows.x.max() == pytest.approx(120)


@pytest.mark.parametrize(
    ("pieces", "kinds", "message"),
    [
        ([{"name": "a", "at": [0, 0], "parent": "b"}], {}, r"pieces\[0\] 'a', parent: no piece 'b'"),
        ([{"name": "a", "at": [0, 0], "parent": "b"}, {"name": "b", "at": [0, 0], "parent": "a"}], {},
         r"parent: found the loop a → b → a, expected one that does not descend from it"),
        ([{"name": "a", "kind": "box", "at": [0, 0]}], {"box": {"pieces": [{"name": "in", "kind": "box"}]}},
         r"kinds.box.pieces: found .* which holds 'box' in itself without end"),
        ([{"name": "a", "at": [0, 0], "pieces": [{"name": "b", "layer": "zome"}]}], {},
         r"pieces\[0\] 'b', layer: .*'zone'"),
        ([{"name": "a", "at": [0, 0], "spin": {}}], {}, r"pieces\[0\] 'a', spin.speed: found no speed, expected one"),
    ],
)  # fmt: skip
def test_bad_assemblies_say_where(pieces, kinds, message):
    with pytest.raises(haptos.LevelError, match=message):
        haptos.simulate(haptos.Level(pieces=pieces, kinds=kinds))
