"""Rules that act: what they change, when, under which condition, and what follows from one another."""

from __future__ import annotations

import pytest

import haptos
from haptos.study.rule_why import why_rule
from tests.scenes import first

PLATE = {"name": "plate", "at": [60, 4], "shape": {"box": [10, 8]}, "layer": "zone"}
GATE = {"name": "gate", "at": [160, 30], "shape": {"box": [10, 60]}}
LEAVES_AT = (60 - 5 - 7) / 150
BRISK = {"run": {"ground_accel": 1e9}}


def rules_run(flat, rules, cues="right 2 s", pieces=(PLATE, GATE), player=BRISK, **sections) -> haptos.Run:
    return haptos.simulate(flat(list(pieces), player=dict(player), rules=rules, **sections), cues)


def said(run: haptos.Run) -> list[tuple[float, str]]:
    return [(round(row.t, 9), row.detail) for row in run.event_rows if row.event == "say"]


@pytest.mark.parametrize("rate", [30, 60, 240])
def test_a_gate_opens_after_its_delay_and_the_body_goes_on_through(flat, rate):
    rule = {"when": "enter", "piece": "plate", "after": 1.0, "do": [{"set": "gate.active", "to": False}]}
    run = rules_run(flat, [rule], world={"tick_rate": rate})
    assert first(run, "gone").t == pytest.approx(LEAVES_AT + 1.0, abs=1e-6)
    assert (first(run, "gone").who, first(run, "touch", piece="gate").t) == ("gate", pytest.approx((155 - 7) / 150))
    assert first(run, "part", piece="gate").t == pytest.approx(LEAVES_AT + 1.0, abs=1 / rate)
    assert run.track.x.iloc[-1] == pytest.approx(148 + 150 * (2 - LEAVES_AT - 1), abs=2 * 150 / rate)
    states = run.pieces[run.pieces.piece == "gate"]
    assert set(states[states.t > LEAVES_AT + 1.0].state) == {"gone"}


def test_what_is_not_there_at_first_can_come_and_go(flat):
    hidden = {**GATE, "active": False, "at": [120, 30]}
    rules = [
        {"when": "timer", "every": 1.0, "if": "not gate.active", "do": [{"set": "gate.active", "to": True}]},
        {"when": "return", "piece": "gate", "do": [{"say": "shut"}]},
    ]
    run = rules_run(flat, rules, "right 0.3 s, wait 1 s, right 1 s", pieces=[PLATE, hidden])
    assert said(run) == [(1.0, "shut")]
    # It stands in the way from then on.
    assert run.track.x.iloc[-1] == pytest.approx(115 - 7)


def test_one_that_appears_around_a_zone_is_entered_and_left_by_switching(flat):
    pool = {"name": "pool", "at": [0, 10], "shape": {"box": [60, 20]}, "layer": "zone", "active": False}
    rules = [
        {"when": "timer", "every": 0.5, "once": True, "do": [{"set": "pool.active", "to": True}]},
        {"when": "inside", "piece": "pool", "every": 0.2, "do": [{"say": "wet"}]},
        {"when": "timer", "every": 1.0, "once": True, "do": [{"remove": "pool"}]},
    ]
    run = rules_run(flat, rules, "wait 1.5 s", pieces=[pool])
    assert first(run, "enter").t == pytest.approx(0.5, abs=1 / 60 + 1e-9)
    assert first(run, "leave").t == pytest.approx(1.0, abs=1 / 60 + 1e-9)
    assert 2 <= len(said(run)) <= 3
    assert first(run, "vanish").who == "pool"


def test_children_go_with_what_is_removed_and_the_player_stays(flat):
    rail = {"name": "rail", "at": [25, 15], "shape": {"box": [4, 20]}}
    cart = {"name": "cart", "at": [0, 40], "shape": {"box": [60, 10]}, "pieces": [rail]}
    cart["route"] = {"stops": [[0, 0], [80, 0]], "speed": 40}
    rule = {"when": "board", "piece": "cart", "after": 0.5, "do": [{"remove": "cart"}]}
    run = rules_run(flat, [rule], "wait 1.5 s", pieces=[cart], player={"at": [0, 70]})
    boards = first(run, "board").t
    assert first(run, "vanish").t == pytest.approx(boards + 0.5)
    assert run.track.support.iloc[-1] == "floor"
    # It keeps what the cart gave it.
    assert run.track.x.iloc[-1] > 40 * 0.5 + 1


def test_numbers_of_facets_and_of_the_player_change_with_their_units(flat):
    mud = {"name": "mud", "at": [300, 10], "shape": {"box": [500, 20]}, "field": {"speed_factor": 0.5}}
    rules = [
        {"when": "timer", "every": 1, "once": True, "do": [{"set": "mud.field.speed_factor", "to": 0.2}]},
        {"when": "timer", "every": 2, "once": True, "do": [{"set": "player.gaits.walk", "to": "5 px/frame"}]},
    ]
    run = rules_run(flat, rules, "right 3 s", pieces=[mud])
    speed = run.track.set_index("tick").vx
    assert [speed[50], speed[110], speed[175]] == pytest.approx([75, 30, 60], abs=1e-6)


def test_a_route_stands_still_and_goes_on_where_it_was(flat):
    lift = {"name": "lift", "at": [-300, 50], "shape": {"box": [30, 8]},
            "route": {"stops": [[0, 0], [0, 200]], "speed": 50, "mode": "once"}}  # fmt: skip
    rules = [
        {"when": "timer", "every": 1, "once": True, "do": [{"set": "lift.route.running", "to": False}]},
        {"when": "timer", "every": 2.5, "once": True, "do": [{"set": "lift.route.running", "to": True}]},
    ]
    rows = rules_run(flat, rules, "wait 4 s", pieces=[lift]).pieces.set_index("t")
    assert [rows.y[t] for t in (0.5, 1.5, 2.5, 3.5)] == pytest.approx([75, 100, 100, 150])
    assert [rows.vy[t] for t in (0.5, 1.5, 3.5)] == pytest.approx([50, 0, 50])
    # Who rides on it is where it is.
    riders = rules_run(flat, rules, "wait 4 s", pieces=[lift], player={"at": [-300, 68]}).track
    assert riders.y.iloc[-1] == pytest.approx(50 + 50 * 2.5 + 4 + 14)


def test_rules_run_in_file_order_and_the_next_sees_what_the_one_before_did(flat):
    one = {"when": "enter", "piece": "plate", "do": [{"add": "oil", "amount": 1}]}
    asks = {"when": "enter", "piece": "plate", "if": "oil >= 1", "do": [{"say": "seen"}]}
    assert said(rules_run(flat, [one, asks], counters={"oil": {}}))
    assert not said(rules_run(flat, [asks, one], counters={"oil": {}}))


def test_a_counter_rule_fires_when_its_condition_becomes_true_and_again_only_then(flat):
    rules = [
        {"when": "timer", "every": 0.5, "do": [{"add": "oil", "amount": 1}]},
        {"when": "counter", "if": "oil >= 2", "do": [{"say": "two"}]},
        {"when": "counter", "if": "oil == 3", "do": [{"add": "oil", "amount": -2}]},
    ]
    run = rules_run(flat, rules, "wait 2.75 s", counters={"oil": {}})
    # 1, 2, 3 and so 1, 2, 3 and so 1.
    assert said(run) == [(1.0, "two"), (2.0, "two")]
    assert run.track.oil.iloc[-1] == 1


@pytest.mark.parametrize(
    ("condition", "holds"),
    [("oil > 2", False), ("oil >= 2", True), ("oil < 2", False), ("oil <= 2", True), ("oil == 2", True),
     ("oil != 2", False), ("oil.left == 1", True), ("gate.active", True), ("not gate.active", False)],
)  # fmt: skip
def test_every_comparison(flat, condition, holds):
    drop = {"name": "drop", "at": [-200, 14], "shape": {"circle": 4}, "pickup": {"counter": "oil"}}
    rules = [{"when": "enter", "piece": "plate", "if": condition, "do": [{"say": "so"}]}]
    ask = {"when": "start", "if": "gate.active", "do": [{"say": "there"}]}
    run = rules_run(flat, [*rules, ask], counters={"oil": {"start": 2}}, pieces=[PLATE, GATE, drop])
    assert (len(said(run)) == 2) is holds


def test_rules_that_fire_each_other_without_end_are_named(flat):
    rules = [
        {"name": "up", "when": "counter", "if": "oil == 1", "do": [{"add": "oil", "amount": 1}]},
        {"name": "down", "when": "counter", "if": "oil == 2", "do": [{"add": "oil", "amount": -1}]},
        {"name": "first", "when": "enter", "piece": "plate", "do": [{"add": "oil"}]},
    ]
    with pytest.raises(
        haptos.LevelError, match=r"rules\[0\] 'up' and rules\[1\] 'down': found rules that fire each other"
    ):
        rules_run(flat, rules, counters={"oil": {}})


def test_the_player_comes_back_and_the_level_ends_or_begins_again(flat):
    for action, event in (("respawn", "respawn"), ("restart", "restart"), ("finish", "finish")):
        rule = {"when": "enter", "piece": "plate", "once": True, "do": [{action: True}]}
        run = rules_run(flat, [rule])
        assert first(run, event).t == pytest.approx(LEAVES_AT, abs=1 / 60 + 1e-9)
        assert bool(first(run, event).x < 1) is (event != "finish")
    lives = rules_run(
        flat, [{"when": "enter", "piece": "plate", "do": [{"respawn": True}]}], player={**BRISK, "health": {"lives": 2}}
    )
    assert lives.track.lives.iloc[-1] == 2


def test_a_kick_falls_off_with_the_distance_and_throws_off_the_ground(flat):
    mine = {"name": "mine", "at": [60, 4], "shape": {"box": [10, 8]}, "layer": "zone"}
    for radius, share in ((400, 1 - 13 / 400), (50, 1 - 13 / 50), (12, 0)):
        rule = {"when": "timer", "every": 0.5, "once": True, "do": [{"kick": 60 * 300, "radius": radius, "at": "mine"}]}
        # Its middle is 12 beside and 5 above the mine's: 13 away.
        player = {"at": [72, 9], "shape": {"box": [14, 18]}, "mass": 60}
        run = rules_run(flat, [rule], "wait 0.6 s", pieces=[mine], player=player)
        row = run.track.set_index("tick").loc[30]
        assert [row.vx, row.vy] == pytest.approx([300 * share * 12 / 13, 300 * share * 5 / 13])
        assert row.stance == ("air" if share else "ground")


def test_a_rule_lets_a_spawner_make_one_at_its_time(flat):
    vent = {"name": "vent", "at": [-50, 60], "spawner": {"kind": "ember", "lasts": 0.5}}
    ember = {"layer": "hazard", "shape": {"circle": 3}, "drift": {"velocity": [0, 100]}}
    rule = {"when": "enter", "piece": "plate", "after": 0.25, "do": [{"spawn": "vent"}]}
    run = rules_run(flat, [rule], pieces=[PLATE, vent], kinds={"ember": ember})
    made = [row for row in run.event_rows if row.event == "spawn"]
    assert [(row.who, row.piece, row.t) for row in made] == [
        ("vent", "ember 1", pytest.approx(LEAVES_AT + 0.25, abs=1e-6))
    ]
    assert first(run, "vanish").y == pytest.approx(60 + 50)


def test_rules_about_what_pieces_do_themselves(flat):
    shot = {"layer": "shot", "shape": {"circle": 3}, "drift": {"velocity": [300, 0]}, "fragile": {"on": ["terrain"]}}
    gun = {"name": "gun", "at": [-100, 60], "spawner": {"kind": "shot", "every": 100}}
    target = {"name": "target", "at": [0, 60], "shape": {"box": [10, 40]}, "marks": ["wood"]}
    far = {**target, "name": "far", "at": [50, 60]}
    cart = {"name": "cart", "at": [-400, 60], "shape": {"box": [20, 20]},
            "route": {"stops": [[0, 0], [900, 0]], "speed": 100}}  # fmt: skip
    drop = {"name": "drop", "at": [-200, 60], "shape": {"circle": 4}, "pickup": {"counter": "oil", "by": ["cart"]}}
    rules = [
        {"when": "vanish", "who": "shot", "piece": "#wood", "do": [{"say": "hit"}]},
        {"when": "vanish", "who": "shot", "piece": "far", "do": [{"say": "far hit"}]},
        {"when": "spawn", "who": "gun", "do": [{"say": "made"}]},
        {"when": "collect", "who": "cart", "do": [{"say": "taken"}]},
        {"when": "collect", "do": [{"say": "taken by the player"}]},
        {"when": "collect", "who": "gun", "do": [{"say": "never"}]},
    ]
    run = rules_run(
        flat, rules, "wait 3 s", pieces=[gun, target, far, cart, drop], kinds={"shot": shot}, counters={"oil": {}}
    )
    # From -100 to 5 + 3 before 0; and from -400 to 10 + 4 before -200.
    assert said(run)[0] == (0, "made")
    assert dict(reversed(pair) for pair in said(run))["hit"] == pytest.approx(92 / 300)
    assert dict(reversed(pair) for pair in said(run))["taken"] == pytest.approx((200 - 14) / 100, abs=1e-6)
    assert {words for _, words in said(run)} == {"made", "hit", "taken"}
    assert why_rule(run, "rules[3]").meeting == "fired"
    assert why_rule(run, "rules[1]").meeting == "not fired"


def test_each_placed_kind_has_its_own_rule(flat):
    door = {"shape": {"box": [10, 60]}, "pieces": [
        {"name": "sensor", "at": [-60, -26], "shape": {"box": [10, 8]}, "layer": "zone"},
        {"name": "lamp", "at": [0, 60], "shape": {"circle": 3}, "layer": "zone", "active": False}],
        "rules": [{"when": "enter", "piece": "self/sensor", "if": "not self/lamp.active", "do": [
            {"set": "self.active", "to": False}, {"set": "self/lamp.active", "to": True}]}]}  # fmt: skip
    pieces = [{"name": name, "kind": "door", "at": [x, 30]} for name, x in (("east", 120), ("far", 900))]
    run = rules_run(flat, [], kinds={"door": door}, pieces=pieces)
    assert [row.who for row in run.event_rows if row.event == "gone"] == ["east"]
    assert [row.who for row in run.event_rows if row.event == "return"] == []
    assert run.track.x.iloc[-1] == pytest.approx(300, abs=3)


@pytest.mark.parametrize(
    ("rule", "message"),
    [
        ({"do": [{"set": "gate.activ", "to": True}]}, r"do\[0\]\.set: found gate\.activ, which can't .*mean 'active'"),
        ({"do": [{"set": "gat.active", "to": True}]}, r"but there is no piece 'gat' \(did you mean 'gate'"),
        ({"do": [{"set": "gate.active", "to": 1}]}, r"gate\.active set to 1, expected true or false"),
        ({"do": [{"set": "gate.route.running", "to": True}]}, r"gate\.route\.running, but 'gate' has no route"),
        ({"do": [{"set": "gate.harm.points", "to": 2}]}, r"gate\.harm\.points, but none of these pieces has a harm"),
        ({"do": [{"set": "player.gaits.walk", "to": "5 s"}]}, r"player\.gaits\.walk: found '5 s', expected a speed"),
        ({"do": [{"set": "player.mass", "to": 5}]}, r"player\.mass, which can't be changed while the level runs"),
        ({"do": [{"set": "gate.active"}]}, r"found one of set and to, expected both"),
        ({"do": [{"add": "oyl"}]}, r"do\[0\]\.add: no counter 'oyl' \(did you mean 'oil'\?\)"),
        ({"do": [{"remove": "gait"}]}, r"do\[0\]\.remove: no piece 'gait' \(did you mean 'gate'\?\)"),
        ({"do": [{"spawn": "gate"}]}, r"do\[0\]\.spawn: no kind or spawner is called 'gate', there are none"),
        ({"do": [{"kick": 5}]}, r"do\[0\]\.kick: found no piece called 'None' to kick from"),
        ({"do": [{"say": "a", "at": "gate"}]}, r"found at with say, expected it with kick or spawn alone"),
        ({"do": [{"say": "a", "remove": "gate"}]}, r"found say and remove, expected one of"),
        ({"if": "oil >> 2", "do": [{"say": "a"}]}, r"found 'oil >> 2', expected such as 'oil >= 10'"),
        ({"if": "oyl > 2", "do": [{"say": "a"}]}, r"if: no counter 'oyl' \(did you mean 'oil'\?\)"),
        ({"when": "timer", "do": [{"say": "a"}]}, r"found when = 'timer' without every"),
    ],
)  # fmt: skip
def test_bad_rules_say_where_and_what_is_wanted(flat, rule, message):
    with pytest.raises(haptos.LevelError, match=message) as error:
        rules_run(flat, [{"when": "start", **rule}], counters={"oil": {}})
    assert "rules[0]" in str(error.value)
