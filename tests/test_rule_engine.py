"""What rules make, throw and let wait: pieces of a kind on a carrier or where something happened, kicks, delays."""

from __future__ import annotations

import math

import numpy as np
import pytest

import haptos
from tests.scenes import first

EMBER = {"ember": {"shape": {"circle": 4}, "layer": "shot"}}
LIFT = {
    "name": "lift", "at": [200, 100], "shape": {"box": [40, 8]},
    "route": {"stops": [[0, 0], [0, 120]], "speed": 60, "mode": "once"},
}  # fmt: skip
ARM = {"name": "arm", "at": [200, 200], "shape": {"box": [80, 8]}, "turn": 30, "spin": {"speed": 72}}


def made(flat, action, cues="wait 3 s", pieces=(), kinds=EMBER, when=None, **sections) -> haptos.Run:
    when = when or {"when": "timer", "every": 0.5, "once": True}
    rules = [{"name": "maker", **when, "do": [{"spawn": "ember", **action}]}]
    return haptos.simulate(flat(list(pieces), kinds=kinds, rules=rules, **sections), cues)


def rows_of(run: haptos.Run, name: str):
    return run.pieces[run.pieces.piece == name]


@pytest.mark.parametrize("rate", [30, 60, 240])
def test_what_a_lift_carries_goes_with_it_for_its_time(flat, rate):
    run = made(
        flat, {"parent": "lift", "offset": [0, 12], "lasts": 1.25}, pieces=[LIFT], world={"tick_rate": rate}
    )  # fmt: skip
    rows = rows_of(run, "ember 1")
    assert first(run, "spawn").y == pytest.approx(112 + 60 * 0.5, abs=1e-9)
    assert np.allclose(rows.y, 112 + 60 * np.minimum(rows.t, 2), atol=1e-9)
    assert first(run, "vanish").t == pytest.approx(1.75, abs=1e-9)
    assert first(run, "vanish").y == pytest.approx(112 + 60 * 1.75, abs=1e-9)


def test_on_an_arm_it_goes_round_and_turns_and_drifts_in_its_directions(flat):
    kinds = {"ember": {**EMBER["ember"], "drift": {"velocity": [10, 0]}}}
    run = made(flat, {"parent": "arm", "offset": [20, 5]}, pieces=[ARM], kinds=kinds)
    rows = rows_of(run, "ember 1")
    angle = np.radians(72 * rows.t.to_numpy())
    # The offset is in the arm's own directions, turned by 30 degrees at rest; the drift is in the world's of then.
    start = math.radians(30)
    x = 20 * math.cos(start) - 5 * math.sin(start) + 10 * (rows.t.to_numpy() - 0.5)
    y = 20 * math.sin(start) + 5 * math.cos(start)
    assert np.allclose(rows.x, 200 + x * np.cos(angle) - y * np.sin(angle), atol=1e-8)
    assert np.allclose(rows.y, 200 + x * np.sin(angle) + y * np.cos(angle), atol=1e-8)
    assert np.allclose(np.diff(rows.angle), 72 / 60, atol=1e-8)


def test_on_the_player_it_goes_where_that_goes_and_is_never_met(flat):
    kinds = {"ember": {**EMBER["ember"], "layer": "terrain"}}
    run = made(flat, {"parent": "player", "offset": [0, 20]}, "right 1 s, right+jump 0.5 s, wait 1 s", kinds=kinds)
    rows, track = rows_of(run, "ember 1"), run.track.set_index("tick")
    assert len(rows) > 100
    assert np.allclose(rows.x, track.x[rows.tick], atol=1e-9)
    assert np.allclose(rows.y, track.y[rows.tick] + 20, atol=1e-9)
    assert "ember 1" not in set(run.events[run.events.who == "player"].piece[run.events.event != "spawn"])


@pytest.mark.parametrize(
    ("action", "place"),
    [({}, (60, 4)), ({"offset": [3, 9]}, (63, 13)), ({"at": "arm"}, (200, 200)), ({"at": "player"}, (150 * 0.5, 14))],
)
def test_without_a_parent_it_stays_where_it_is_made(flat, action, place):
    plate = {"name": "plate", "at": [60, 4], "shape": {"box": [10, 8]}, "layer": "zone"}
    player = {"run": {"ground_accel": 1e9}}
    when = {"when": "enter", "piece": "plate", "after": 0.5 - 48 / 150}
    run = made(flat, action, "right 1 s", [plate, ARM], when=when, player=player)
    # The player is looked at as it is at the tick's end.
    assert (first(run, "spawn").x, first(run, "spawn").y) == pytest.approx(place, abs=150 / 60 + 1e-6)


def test_where_a_piece_breaks_another_is_made_and_it_is_heard_at_once(flat):
    pot = {"name": "pot", "at": [100, 200], "shape": {"circle": 5}, "drift": {"velocity": [0, -100]},
           "fragile": {"on": ["terrain"]}}  # fmt: skip
    rules = [
        {"when": "vanish", "who": "pot", "do": [{"spawn": "ember", "at": "other", "lasts": 0.1}]},
        {"when": "spawn", "piece": "ember", "do": [{"say": "crack"}]},
    ]
    run = haptos.simulate(flat([pot], kinds=EMBER, rules=rules), "wait 3 s")
    spawn = first(run, "spawn")
    assert (spawn.t, spawn.x, spawn.y) == pytest.approx((1.95, 100, 5), abs=1e-6)
    assert first(run, "say").t == spawn.t


def test_it_is_refused_where_its_carrier_is_gone_or_all_are_there(flat):
    plank = {"name": "plank", "at": [200, 100], "shape": {"box": [40, 8]}, "active": False}
    run = made(flat, {"parent": "plank"}, pieces=[plank])
    assert first(run, "spawn_refused").detail == "nothing is made: plank is not there"
    every = {"when": "timer", "every": 0.5}
    run = made(flat, {"parent": "lift", "limit": 2}, pieces=[LIFT], when=every)
    assert run.events.event.value_counts()[["spawn", "spawn_refused"]].tolist() == [2, 4]
    # Children go with what is removed.
    rules = [{"when": "start", "do": [{"spawn": "ember", "parent": "lift"}]},
             {"when": "timer", "every": 1, "once": True, "do": [{"remove": "lift"}]}]  # fmt: skip
    run = haptos.simulate(flat([LIFT], kinds=EMBER, rules=rules), "wait 2 s")
    assert rows_of(run, "ember 1").t.max() == pytest.approx(1, abs=1.01 / 60)


def test_a_door_of_a_kind_makes_sparks_on_its_own_leaf(flat):
    kinds = {**EMBER, "door": {
        "shape": {"box": [8, 40]}, "pieces": [{"name": "leaf", "at": [0, 60], "shape": {"box": [8, 8]}}],
        "rules": [{"when": "touch", "piece": "self", "do": [{"spawn": "ember", "parent": "self/leaf"}]}],
    }}  # fmt: skip
    doors = [{"name": name, "kind": "door", "at": [x, 20]} for name, x in (("west", -100), ("east", 100))]
    run = haptos.simulate(flat(doors, kinds=kinds), "left 1 s")
    assert (first(run, "spawn").who, first(run, "spawn").x) == ("west/leaf", -100)


def test_what_is_carried_and_breaks_does_so_where_it_is(flat):
    vase = {"name": "vase", "at": [0, 14], "shape": {"circle": 10}, "layer": "shot", "fragile": {"on": ["terrain"]}}
    cart = {"name": "cart", "at": [0, 60], "shape": {"box": [20, 8]}, "layer": "ledge", "pieces": [vase]}
    cart["route"] = {"stops": [[0, 0], [300, 0]], "speed": 90, "mode": "once"}
    wall = {"name": "wall", "at": [200, 100], "shape": {"box": [10, 60]}}
    run = haptos.simulate(flat([cart, wall]), "wait 3 s")
    assert first(run, "vanish").t == pytest.approx((195 - 10) / 90, abs=1e-6)
    drifter = {**vase, "fragile": {"on": ["hazard"]}, "drift": {"velocity": [0, 7]}}
    run = haptos.simulate(flat([{**cart, "pieces": [drifter]}]), "wait 2 s")
    rows = rows_of(run, "cart/vase")
    assert np.allclose(rows.x, 90 * rows.t, atol=1e-9)
    assert np.allclose(rows.y, 74 + 7 * rows.t, atol=1e-9)


def test_a_kick_throws_what_drifts_with_a_mass_by_its_share(flat):
    balls = [
        {"name": name, "at": [0, 200 + away], "shape": {"circle": 4}, "layer": "shot", "drift": {"mass": mass}}
        for name, away, mass in (("near", 30, 20), ("far", 60, 20), ("out", 130, 20))
    ]
    light = {"name": "free", "at": [40, 200], "shape": {"circle": 4}, "layer": "shot", "drift": {"velocity": [0, 5]}}
    horn = {"name": "horn", "at": [0, 200]}
    kick = {"when": "timer", "every": 0.5, "once": True, "do": [{"kick": 6000, "radius": 120, "at": "horn"}]}
    run = haptos.simulate(flat([horn, light, *balls], rules=[kick]), "wait 1 s")
    for name, speed in (("near", 6000 / 20 * 0.75), ("far", 6000 / 20 * 0.5), ("out", 0), ("free", 5)):
        assert rows_of(run, name).vy.iloc[-1] == pytest.approx(speed, rel=1e-9)


def test_in_a_turned_cabin_a_ball_comes_back_off_the_walls_that_carry_it():
    """What flies in a cabin that turns by itself is there as in one that does not."""
    walls = [{"name": "east", "at": [60, 0], "shape": {"box": [10, 900]}},
             {"name": "west", "at": [-60, 0], "shape": {"box": [10, 900]}}]  # fmt: skip
    ball = {"name": "ball", "at": [0, 0], "shape": {"circle": 5}, "layer": "prop",
            "drift": {"velocity": [90, 30], "restitution": 1, "mass": 20}}  # fmt: skip
    kick = {"when": "timer", "every": 0.25, "once": True, "do": [{"kick": 900, "radius": 400, "at": "cabin"}]}
    seen = []
    for turn, speed in ((0, 0.0), (0, 40.0)):
        cabin = {"name": "cabin", "at": [300, 300], "turn": turn, "pieces": [*walls, ball], "spin": {"speed": speed}}
        level = haptos.Level(pieces=[cabin], rules=[kick], world={"lost_below": -99999}, player={"at": [0, 0]})
        run = haptos.simulate(level, "wait 2 s")
        rows = rows_of(run, "cabin/ball")
        angle = np.radians(speed * rows.t.to_numpy())
        x, y = rows.x.to_numpy() - 300, rows.y.to_numpy() - 300
        seen.append((x * np.cos(angle) + y * np.sin(angle), y * np.cos(angle) - x * np.sin(angle)))
    assert seen[0][0].min() == pytest.approx(-50, abs=5)
    assert np.allclose(seen[0], seen[1], atol=1e-4)


def test_every_firing_waits_for_its_own_delay(flat):
    drops = [{"name": f"drop {n}", "at": [60 + 30 * n, 14], "pickup": {"collect_within": 0}} for n in range(5)]
    rules = [{"when": "collect", "after": 2, "do": [{"spawn": "ember", "at": "other"}]}]
    run = haptos.simulate(flat(drops, kinds=EMBER, rules=rules), "right 2 s, wait 2 s")
    taken, spawns = (run.events[run.events.event == event] for event in ("collect", "spawn"))
    assert len(taken) == 5
    assert np.allclose(spawns.t, taken.t + 2, atol=1e-12)
    assert spawns.x.tolist() == pytest.approx(taken.x.tolist())


def test_what_is_made_and_taken_makes_room_and_is_not_among_what_is_left(flat):
    kinds = {"drop": {"shape": {"circle": 4}, "pickup": {"counter": "oil"}}}
    rules = [
        {"when": "timer", "every": 0.5, "do": [{"spawn": "drop", "at": "player", "limit": 1}]},
        {"when": "counter", "if": "oil >= 5", "once": True, "do": [{"say": "five"}]},
        {"when": "counter", "if": "oil.left == 0", "do": [{"say": "none left"}]},
    ]
    drop = {"name": "last", "kind": "drop", "at": [900, 14]}
    run = haptos.simulate(flat([drop], kinds=kinds, rules=rules, counters={"oil": {}}), "wait 2.6 s, right 8 s")
    assert first(run, "say").detail == "five"
    assert first(run, "say").t == pytest.approx(2.5, abs=1 / 60)
    assert "spawn_refused" not in set(run.events.event)
    # Only the level's own drop counts.
    assert first(run, "say", after=3).t == first(run, "collect", piece="last").t


def test_more_firings_than_there_is_room_for_are_named(flat):
    plate = {"name": "plate", "at": [0, 4], "shape": {"box": [10, 8]}, "layer": "zone"}
    rule = {"name": "late", "when": "inside", "piece": "plate", "after": 5, "do": [{"say": "late"}]}
    with pytest.raises(haptos.LevelError, match=r"rules\[0\] 'late': found more than 64 firings that wait"):
        haptos.simulate(flat([plate], rules=[rule]), "wait 3 s")


@pytest.mark.parametrize(
    ("action", "message"),
    [
        ({"spawn": "embre"}, "no kind or spawner is called 'embre' (did you mean 'ember'?)"),
        ({"spawn": "ember", "parent": "lfit"}, "no piece 'lfit' (did you mean 'lift'?)"),
        ({"spawn": "ember", "parent": "lift", "at": "lift"}, "found both parent and at, expected one"),
        ({"say": "a", "parent": "lift"}, "found parent with say, expected it with spawn alone"),
        ({"spawn": "leaver", "parent": "lift"}, "found a parent for the kind 'leaver', which does something on_exit"),
        ({"remove": "other"}, "found 'other' where who = 'player' is the player alone"),
        ({"spawn": "nest"}, "found the kind 'nest', which holds a spawner itself, expected one without"),
    ],
)
def test_bad_actions_say_where_and_what_is_wanted(flat, action, message):
    kinds = {**EMBER, "leaver": {"shape": {"circle": 2}, "drift": {"on_exit": "vanish"}},
             "nest": {"spawner": {"kind": "ember"}}}  # fmt: skip
    rule = {"name": "bad", "when": "enter", "piece": "lift", "do": [action]}
    bounds = {"corners": [-500, -50, 500, 500]}
    with pytest.raises(haptos.LevelError) as error:
        haptos.simulate(flat([LIFT], kinds=kinds, rules=[rule], world={"bounds": bounds}), "wait 1 s")
    assert message in str(error.value)
    assert "rules[0] 'bad'" in str(error.value)


@pytest.mark.parametrize(
    ("rules", "code"),
    [
        ([{"when": "touch", "piece": "lift", "do": [{"remove": "lift"}, {"kick": 5, "at": "lift"}]}],
         "acts-on-removed"),
        ([{"when": "touch", "piece": "lift", "do": [{"kick": 5, "at": "lift"}, {"remove": "lift"}]}], None),
        ([{"when": "touch", "piece": "lift", "do": [{"remove": "lift"}]},
          {"when": "touch", "piece": "lift", "after": 1, "do": [{"set": "lift.active", "to": True}]}],
         "acts-on-removed"),
        ([{"when": "touch", "piece": "lift", "after": 2, "do": [{"remove": "lift"}]},
          {"when": "touch", "piece": "lift", "after": 1, "do": [{"set": "lift.active", "to": False}]}], None),
        ([{"when": "return", "piece": "rotten", "do": [{"say": "a"}]}], "rule-never-returns"),
        ([{"when": "gone", "piece": "rotten", "do": [{"say": "a"}]}], None),
    ],
)  # fmt: skip
def test_rules_for_what_is_gone_by_then_are_found(flat, rules, code):
    rotten = {"name": "rotten", "at": [300, 40], "shape": {"box": [40, 8]}, "crumble": {"delay": 1}}
    found = {finding.code for finding in haptos.check(flat([LIFT, rotten], rules=rules))}
    assert found & {"acts-on-removed", "rule-never-returns"} == ({code} if code else set())
