"""What check says of what is at stake and of gravity, why a rule did not fire, and how it all looks."""

from __future__ import annotations

import json

import numpy as np
import pytest
from typer.testing import CliRunner

import haptos
from haptos.cli import app
from haptos.demo import demo_file
from haptos.study.rule_why import why_rule
from tests.scenes import floor

FLOOR = floor(500, 20)
DROP = {"name": "drop", "at": [60, 14], "shape": {"circle": 4}, "pickup": {"counter": "oil"}}
LAMP = {"name": "lamp", "at": [60, 20], "shape": {"box": [10, 40]}}
COUNTED = {"counters": {"oil": {"rewards": [{"every": 9, "lives": 1}]}}}


def codes(*pieces, **sections) -> set[str]:
    sections.setdefault("player", {"at": [0, 14]})
    return {finding.code for finding in haptos.check(haptos.Level(pieces=[FLOOR, *pieces], **sections))}


def pickup(**changes) -> dict:
    return {**DROP, "pickup": {"counter": "oil", **changes}}


@pytest.mark.parametrize(
    ("code", "wrong", "right"),
    [
        ("attract-too-near", pickup(collect_within=9, attract_within=9), pickup(collect_within=9, attract_within=10)),
        # Behind a sprint of 300 it lags by 300 / rate, less half a width of 7: 8 are caught from a rate of 20 on.
        ("ease-too-slow", pickup(collect_within=8, attract_within=50, motion="ease", rate=19.9),
         pickup(collect_within=8, attract_within=50, motion="ease", rate=20.1)),
        ("steady-too-slow", pickup(attract_within=50, speed=300), pickup(attract_within=50, speed=301)),
        ("pickup-inside", {**DROP, "at": [60, -5]}, {**DROP, "at": [60, 1]}),
        ("pickup-unnoticed", pickup(counter=None), DROP),
        ("pickup-ignored", {**DROP, "layer": "shot"}, DROP),
        ("harm-ignored", {**LAMP, "harm": {}, "layer": "shot"}, {**LAMP, "harm": {}}),
        ("harmless", {**LAMP, "harm": {"points": 0, "knock": 9}}, {**LAMP, "harm": {"points": 0, "lethal": True}}),
        ("respawn-inside", {**LAMP, "checkpoint": {"respawn_at": [0, -10]}},
         {**LAMP, "checkpoint": {"respawn_at": [0, -6]}}),
        ("respawn-above-nothing", {**LAMP, "checkpoint": {"respawn_at": [460, 0]}},
         {**LAMP, "checkpoint": {"respawn_at": [440, 0]}}),
        ("finish-needs-nothing", {**LAMP, "finish": {"needs": "oil"}}, {**LAMP, "finish": {}}),
        ("no-finish", {**LAMP, "checkpoint": {}}, {**LAMP, "checkpoint": {}, "finish": {}}),
        ("finish-ignored", {**LAMP, "finish": {}, "layer": "shot"}, {**LAMP, "finish": {}}),
    ],
)  # fmt: skip
def test_each_fault_is_found_and_its_mending_is_not(code, wrong, right):
    assert code in codes(wrong, **COUNTED)
    assert code not in codes(right, **COUNTED)


def test_a_respawn_place_in_harm_and_pickups_out_of_bounds():
    thorn = {"name": "thorn", "at": [100, 5], "shape": {"box": [30, 10]}, "harm": {}}
    for at, is_found in (([40, -6], True), ([0, -6], False)):
        assert ("respawn-in-harm" in codes(thorn, {**LAMP, "checkpoint": {"respawn_at": at}})) is is_found
    bounds = {"bounds": {"corners": [-500, -50, 500, 300]}}
    assert "pickup-out-of-bounds" in codes({**DROP, "at": [600, 14]}, world=bounds, **COUNTED)


def test_counters_that_nobody_reads_or_adds_to():
    assert "counter-unread" in codes(DROP, counters={"oil": {}})
    assert "counter-unread" not in codes(DROP, {**LAMP, "finish": {"needs": "oil"}}, counters={"oil": {}})
    asks = [{"when": "act", "if": "oil > 1", "do": [{"say": "a"}]}]
    assert "counter-unread" not in codes(DROP, counters={"oil": {}}, rules=asks)
    assert "counter-stands" in codes(counters={"oil": {}}, rules=asks)


def test_rules_about_what_is_never_there():
    hidden = {**LAMP, "active": False}
    rule = {"when": "touch", "piece": "lamp", "do": [{"say": "a"}]}
    assert "rule-never-there" in codes(hidden, rules=[rule])
    switch = {"when": "act", "do": [{"set": "lamp.active", "to": True}]}
    assert "rule-never-there" not in codes(hidden, rules=[rule, switch])
    goes = {"when": "gone", "piece": "lamp", "do": [{"say": "a"}]}
    assert "rule-no-facet" in codes(LAMP, rules=[goes])
    assert "rule-no-facet" not in codes(
        LAMP, rules=[goes, {"when": "act", "do": [{"set": "lamp.active", "to": False}]}]
    )


def test_rules_about_what_is_taken_away_or_never_entered():
    rule = {"when": "touch", "piece": "lamp", "do": [{"say": "a"}]}
    start = {"when": "start", "do": [{"remove": "lamp"}]}
    assert "rule-removed" in codes(LAMP, rules=[start, rule])
    assert "rule-removed" not in codes(LAMP, rules=[{**start, "after": 1}, rule])
    enters = {"when": "enter", "piece": "drop", "do": [{"say": "a"}]}
    assert "rule-pickup-zone" in codes(DROP, rules=[enters], **COUNTED)
    assert "rule-pickup-zone" not in codes(DROP, rules=[{**enters, "when": "collect"}], **COUNTED)
    own = {"when": "vanish", "who": "lamp", "do": [{"say": "a"}]}
    assert "rule-who-still" not in codes(LAMP, rules=[own])
    assert "rule-who-still" in codes(LAMP, rules=[{**own, "when": "jump"}])


def zone(name="zone", at=(60, 50), size=(60, 100), **field) -> dict:
    return {"name": name, "at": list(at), "shape": {"box": list(size)}, "field": field}


def test_gravity_that_ties_strands_or_lets_fall():
    one, other = zone(gravity={"vector": [0, 900]}), zone("second", (100, 50), gravity={"vector": [900, 0]})
    assert "gravity-tie" in codes(one, other)
    assert "gravity-tie" not in codes(one, {**other, "field": {**other["field"], "rank": 1}})
    assert "gravity-tie" not in codes(one, {**other, "at": [300, 50]})
    globe = {"name": "globe", "at": [200, 300], "shape": {"circle": 60}}
    for radius, is_found in ((85, True), (95, False)):
        pull = {"name": "pull", "at": [200, 300], "shape": {"circle": radius}, "field": {"gravity": {"toward": True}}}
        assert ("world-sticks-out" in codes(globe, pull)) is is_found
    turn = {"gravity": {"flip": True, "lasts": "toggle"}}
    assert "flip-above-nothing" in codes(zone(**turn))
    # The field ends at 100, a jump and the body reach 72 and 28.
    for height, is_found in ((195, False), (205, True)):
        roof = {"name": "roof", "shape": {"corners": [-500, height, 500, height + 20]}}
        assert ("toggle-stuck" in codes(zone(**turn), roof)) is is_found
        assert "flip-above-nothing" not in codes(zone(**turn), roof)
        # Along the ceiling one gets to another that turns back.
        assert "toggle-stuck" not in codes(zone(**turn), zone("second", (400, height - 20), (40, 20), **turn), roof)


def test_why_a_rule_did_not_fire_names_the_condition_and_the_tick():
    rules = [
        {"name": "far", "when": "enter", "piece": "far", "do": [{"say": "a"}]},
        {"name": "poor", "when": "enter", "piece": "lamp", "if": "oil >= 2", "do": [{"say": "a"}]},
        {"name": "late", "when": "enter", "piece": "lamp", "after": 9, "do": [{"say": "a"}]},
        {"name": "other", "when": "enter", "piece": "lamp", "who": "#cat", "do": [{"say": "a"}]},
        {"name": "once", "when": "enter", "piece": "lamp", "once": True, "do": [{"say": "a"}]},
        {"name": "count", "when": "counter", "if": "oil > 5", "do": [{"say": "a"}]},
    ]
    pieces = [FLOOR, {**LAMP, "layer": "zone"}, {**LAMP, "name": "far", "at": [200, 20], "layer": "zone"}]
    level = haptos.Level(
        player={"at": [0, 14], "shape": {"box": [14, 28]}}, counters={"oil": {}}, pieces=pieces, rules=rules
    )
    run = haptos.simulate(level, "right 0.6 s, left 0.5 s, right 0.6 s")
    entered = [row for row in run.event_rows if row.event == "enter"]
    assert len(entered) > 1
    nearest = 195 - 7 - run.track.x.max()
    far = why_rule(run, "far")
    assert "there was no 'enter' of 'far'" in far.sentence
    assert f"{nearest:.4g} px" in far.reasons[0]
    assert f"tick {int(run.track.x.idxmax())}" in far.reasons[0]
    poor = why_rule(run, "poor")
    assert "its if = 'oil >= 2' did not hold" in poor.sentence
    assert f"tick {entered[0].tick}" in poor.reasons[0]
    assert "its delay of 9 s was not over" in why_rule(run, "late").sentence
    assert "its who = '#cat' did not match" in why_rule(run, "other").sentence
    once = why_rule(run, "once")
    assert (once.meeting, len(once.reasons)) == ("fired", 1)
    assert "had fired already" in once.reasons[0]
    count = why_rule(run, "count")
    assert ("never became true" in count.sentence, count.reasons) == (True, ["at the end oil was 0"])
    with pytest.raises(haptos.LevelError, match=r"no rule is called 'pore' .*did you mean 'poor'"):
        why_rule(run, "pore")


def test_the_tool_says_why_and_takes_either_question_not_both():
    level, sheet = str(demo_file("lantern-way.toml")), str(demo_file("to-the-lantern.toml"))
    asked = CliRunner().invoke(app, ["why", level, "--cues", sheet, "--rule", "open", "--json"])
    assert asked.exit_code == 0, asked.output
    assert json.loads(asked.stdout)["meeting"] == "fired"
    for wrong in ([], ["floor"], ["player", "floor", "--rule", "open"]):
        with pytest.raises(haptos.HaptosError, match="expected two names"):
            CliRunner().invoke(app, ["why", level, *wrong], catch_exceptions=False)


def test_radii_teeth_and_lamps_are_in_the_picture():
    thorn = {**LAMP, "name": "thorn", "at": [150, 20], "harm": {}}
    door = {**LAMP, "name": "door", "at": [-80, 20], "finish": {}}
    full = [pickup(attract_within=40, collect_within=3), thorn, {**LAMP, "checkpoint": {}}, door]
    ax = haptos.draw(haptos.Level(player={"at": [0, 14]}, pieces=[FLOOR, *full], **COUNTED))
    circles = {(patch.radius, patch.get_linestyle()) for patch in ax.patches if hasattr(patch, "radius")}
    assert {(40.0, ":"), (3.0, "solid")} <= circles
    # 17 teeth go round the thorn, 10 by 40, each 0.6 of its width high; the body that comes back at the lamp is dashed;
    # the finish is chequered.
    lines = {line.get_linestyle(): line.get_xydata() for line in ax.lines}
    assert any(np.ptp(line.get_xydata()[:, 0]) == pytest.approx(10 + 1.2 * 100 / 17) for line in ax.lines)
    assert lines["--"][:, 0].mean() == pytest.approx(LAMP["at"][0], abs=2)
    squares = [patch for patch in ax.patches if type(patch).__name__ == "Rectangle" and patch.get_x() < -60]
    assert len({patch.get_facecolor() for patch in squares}) == 2
