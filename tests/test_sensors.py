"""Pieces that rules notice in zones: when they enter and leave, who is meant, and what hangs on the player."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import haptos
from haptos.study.rule_why import why_rule
from tests.scenes import first

PLATE = {"name": "plate", "at": [200, 60], "shape": {"box": [40, 40]}, "layer": "zone"}
GLOBE = {
    "name": "globe", "at": [100, 60], "shape": {"circle": 10}, "layer": "prop", "marks": ["brass"],
    "route": {"stops": [[0, 0], [200, 0]], "speed": 100, "mode": "once"},
}  # fmt: skip
SAY = [{"say": "noticed"}]


def rule(when="enter", who="globe", do=SAY, **more) -> dict:
    return {"name": "watch", "when": when, "piece": "plate", "who": who, "do": list(do), **more}


def watched(flat, rules, cues="wait 3 s", pieces=(PLATE, GLOBE), **sections) -> haptos.Run:
    return haptos.simulate(flat(list(pieces), rules=rules, **sections), cues)


def said(run: haptos.Run) -> list[float]:
    return [row.t for row in run.event_rows if row.event == "say"]


@pytest.mark.parametrize("rate", [30, 60, 240])
def test_a_piece_enters_and_leaves_at_the_exact_times(flat, rate):
    run = watched(flat, [rule(), rule("leave")], world={"tick_rate": rate})
    # Its edge meets the near side after 70, and its other edge leaves the far one after 130.
    assert said(run) == pytest.approx([0.7, 1.3], abs=1e-9)
    enters = first(run, "enter")
    assert (enters.who, enters.piece, enters.x) == ("globe", "plate", pytest.approx(170))


@given(
    speed=st.floats(20, 40000), angle=st.floats(-80, 80), width=st.floats(0.5, 60), rate=st.sampled_from([30, 60, 120])
)
def test_however_fast_and_thin_the_times_are_those_of_the_straight_way(speed, angle, width, rate):
    way = np.array([math.cos(math.radians(angle)), math.sin(math.radians(angle))])
    ball = {
        "name": "ball", "at": (-300 * way).tolist(), "shape": {"circle": 5}, "layer": "prop",
        "drift": {"velocity": (speed * way).tolist()},
    }  # fmt: skip
    wall = {"name": "plate", "at": [0, 0], "shape": {"box": [width, 8000]}, "layer": "zone"}
    level = haptos.Level(
        world={"gravity": [0, -1], "tick_rate": rate}, pieces=[wall, ball], player={"at": [0, 9000]},
        rules=[rule(who="ball"), rule("leave", "ball")],
    )  # fmt: skip
    near, far = 300 - (width / 2 + 5) / way[0], 300 + (width / 2 + 5) / way[0]
    run = haptos.simulate(level, f"wait {far / speed + 0.1} s")
    assert said(run) == pytest.approx([near / speed, far / speed], abs=2e-9 / rate * 60 + 1e-6 / speed)


def test_an_arm_that_turns_enters_at_its_angle(flat):
    arm = {"name": "globe", "at": [200, 200], "shape": {"box": [200, 2]}, "layer": "prop", "spin": {"speed": 90}}
    strip = {**PLATE, "at": [200, 285], "shape": {"box": [4000, 10]}}
    run = watched(flat, [rule()], pieces=[strip, arm])
    # The upper corner, 100 out and 1 up, reaches the strip 80 above the middle.
    reach = math.hypot(100, 1)
    angle = math.degrees(math.asin(80 / reach) - math.atan2(1, 100))
    assert said(run)[0] == pytest.approx(angle / 90, abs=1e-8)


@pytest.mark.parametrize(
    ("who", "count"), [("globe", 1), ("#brass", 1), ("prop", 1), ("orb", 1), ("other", 1), ("player", 0), ("drop", 0)]
)
def test_whom_a_rule_means(flat, who, count):
    still = {"name": "drop", "at": [100, 300], "shape": {"circle": 3}, "layer": "prop"}
    globe = {**GLOBE, "kind": "orb"}
    run = watched(flat, [rule(who=who)], pieces=[PLATE, globe, still], kinds={"orb": {}})
    assert len(said(run)) == count


def test_the_first_one_in_and_the_last_one_out_whoever_they_are(flat):
    second = {**GLOBE, "name": "second", "at": [60, 60]}
    rules = [rule("occupied", "other"), rule("empty", "other", [{"say": "empty"}])]
    plate = {**PLATE, "at": [200, 40], "shape": {"box": [40, 80]}}
    run = watched(flat, rules, "right 1 s, wait 2 s", [plate, GLOBE, second], player={"at": [60, 14]})
    # The globe goes in after 0.7 s and out after 1.3 s, the second is 0.4 s behind, and the player stays in there.
    assert (first(run, "enter").who, said(run)) == ("globe", pytest.approx([0.7], abs=1e-9))
    away = watched(flat, rules, "wait 3 s", [plate, GLOBE, second], player={"at": [20, 14]})
    assert said(away) == pytest.approx([0.7, 1.7], abs=1e-9)


def test_while_it_is_inside_it_comes_again(flat):
    run = watched(flat, [rule("inside", every=0.25)])
    assert said(run) == pytest.approx([0.7, 0.95, 1.2], abs=1e-9)


def test_what_is_met_is_taken_away_and_another_can_be_made(flat):
    lamp = {"name": "lamp", "at": [100, 60], "spawner": {"kind": "ember", "every": 1.0, "limit": 1}}
    kinds = {"ember": {"shape": {"circle": 10}, "layer": "prop", "drift": {"velocity": [100, 0]}}}
    run = watched(flat, [rule(who="ember", do=[{"remove": "other"}])], pieces=[PLATE, lamp], kinds=kinds)
    vanish = run.events[run.events.event == "vanish"]
    assert vanish.who.tolist() == ["ember 1", "ember 2", "ember 3"]
    assert vanish.t.tolist() == pytest.approx([0.7, 1.7, 2.7], abs=1e-9)
    assert "spawn_refused" not in set(run.events.event)


def test_what_hangs_on_the_player_is_noticed_breaks_shots_and_takes_drops(flat):
    shield = {"name": "shield", "shape": {"box": [4, 30]}, "at": [20, 0], "layer": "prop"}
    shot = {"name": "shot", "shape": {"circle": 4}, "at": [200, 14], "drift": {"velocity": [-100, 0]},
            "fragile": {"on": ["prop"]}}  # fmt: skip
    drop = {"name": "drop", "at": [140, 14], "pickup": {"counter": "oil", "collect_within": 2, "by": ["player/shield"]}}
    plate = {**PLATE, "at": [60, 20], "shape": {"box": [10, 40]}}
    player = {"pieces": [shield], "run": {"ground_accel": 1e9}}
    run = watched(
        flat, [rule(who="player/shield")], "right 1 s", [plate, shot, drop], player=player, counters={"oil": {}}
    )  # fmt: skip
    # It walks at 150: the shield's front is 22 ahead, and the shot comes toward it at 100.
    assert said(run) == pytest.approx([(55 - 22) / 150], abs=1e-6)
    assert first(run, "vanish").t == pytest.approx((200 - 4 - 22) / 250, abs=1e-6)
    assert (first(run, "collect").who, first(run, "collect").t) == (
        "player/shield", pytest.approx((138 - 22) / 150, abs=1e-6)
    )  # fmt: skip
    assert run.track.oil.iloc[-1] == 1


def test_a_batch_notices_the_same_bit_for_bit(flat):
    second = {**GLOBE, "name": "second", "at": [60, 60], "spin": {"speed": 33}}
    level = flat([PLATE, GLOBE, second], rules=[rule("inside", "other", every=0.1), rule("empty", "other", after=0.3)])
    sheets = ["right 2 s", "wait 1 s, right 1 s", "left 2 s"]
    for run, sheet in zip(haptos.simulate_many(level, sheets), sheets, strict=True):
        assert run.events.equals(haptos.simulate(level, sheet).events)


@pytest.mark.parametrize(
    ("pieces", "who", "code"),
    [
        ([PLATE, {**GLOBE, "layer": "terrain"}], "globe", "rule-ignored-pair"),
        ([PLATE, {**GLOBE, "never_meets": ["plate"]}], "globe", "rule-ignored-pair"),
        ([{**PLATE, "layer": "terrain"}, GLOBE], "globe", "rule-ignored-pair"),
        ([PLATE, {key: value for key, value in GLOBE.items() if key != "route"}], "globe", "rule-who-still"),
        ([PLATE, GLOBE], "globe", None),
        ([PLATE, GLOBE], "other", None),
    ],
)
def test_who_is_never_noticed_is_found_and_why_says_so(flat, pieces, who, code):
    level = flat(pieces, rules=[rule(who=who)])
    found = {finding.code: finding.message for finding in haptos.check(level) if finding.code.startswith("rule")}
    assert set(found) == ({code} if code else set())
    answer = why_rule(haptos.simulate(level, "wait 2 s"), "watch")
    assert answer.reasons == list(found.values())


def test_why_tells_who_else_was_there_and_how_near_it_came(flat):
    rules = [rule(), {**rule(who="player"), "name": "hello"}]
    plate = {**PLATE, "at": [60, 14]}
    answer = why_rule(watched(flat, rules, "right 1 s", [plate, GLOBE]), "watch")
    assert answer.reasons == [
        "player did: its 'enter' of 'plate' was at 0.2617 s (tick 16), but who = 'globe' does not mean it",
        f"'globe' came as near to 'plate' as {math.hypot(20, 26) - 10:.4g} px, at 0 s (tick 0)",
    ]
