"""Rules about what facets make happen, and findings about rules that wait for it in vain."""

from __future__ import annotations

from typing import Any

import pytest

import haptos
from tests.scenes import floor

FLOOR = floor(400)
AWNING = {"name": "awning", "at": [0, 50], "shape": {"box": [80, 6]}, "solid_from": "above"}
RIGGING = {"name": "rigging", "at": [0, 60], "shape": {"box": [16, 120]}, "ladder": {}}
DRUM = {"name": "drum", "shape": {"corners": [-40, 0, 40, 8]}, "launch": {"height": 90, "cooldown": 5}}
STEP = {"name": "step", "shape": {"corners": [40, 0, 200, 3]}}


def level(piece: dict[str, Any], when: str, **rule: Any) -> haptos.Level:
    at = [0, 60] if piece is DRUM else [0, 14]
    rules = [{"when": when, "piece": piece["name"], "do": [{"say": f"{when} of {piece['name']}"}], **rule}]
    return haptos.Level(player={"at": at}, pieces=[FLOOR, piece], rules=rules)


@pytest.mark.parametrize(
    ("piece", "when", "cues", "times"),
    [
        (AWNING, "pass", "jump 0.5 s, wait 0.5 s, down+jump 0.1 s, wait 0.5 s", 2),
        (RIGGING, "climb", "up 0.5 s, down 1 s", 2),
        (DRUM, "launch", "wait 2 s", 1),
        (STEP, "step", "right 1 s", 1),
        (STEP, "land", "right 1 s, jump 0.3 s, wait 1 s", 1),
    ],
)
def test_rules_fire_on_what_facets_make_happen(piece, when, cues, times):
    run = haptos.simulate(level(piece, when), cues)
    assert run.says() == [f"{when} of {piece['name']}"] * times
    once = haptos.simulate(level(piece, when, once=True), cues)
    assert len(once.says()) == 1
    # The rule speaks at the instant of what it answers.
    said = run.events[run.events.event == "say"].t.tolist()
    assert said == run.events[(run.events.event == when) & (run.events.piece == piece["name"])].t.tolist()


@pytest.mark.parametrize(("piece", "when"), [(AWNING, "launch"), (DRUM, "climb"), (STEP, "pass"), (STEP, "launch")])
def test_a_rule_for_a_facet_that_is_not_there_is_found(piece, when):
    codes = [finding.code for finding in haptos.check(level(piece, when))]
    assert "rule-no-facet" in codes


@pytest.mark.parametrize(("piece", "when"), [(AWNING, "pass"), (RIGGING, "climb"), (RIGGING, "pass"), (DRUM, "launch")])
def test_a_rule_for_a_facet_that_is_there_is_not(piece, when):
    codes = [finding.code for finding in haptos.check(level(piece, when))]
    assert "rule-no-facet" not in codes


def test_a_rule_for_a_pair_that_is_switched_off_says_so():
    ghost = STEP | {"never_meets": ["player"]}
    finding = next(one for one in haptos.check(level(ghost, "touch")) if one.code == "rule-ignored-pair")
    assert "never_meets" in finding.message


def test_rules_about_rigging_do_not_change_its_layer():
    assert haptos.simulate(level(RIGGING, "climb"), "up 0.5 s").track.stance.iloc[-1] == "ladder"


@pytest.mark.parametrize("facet", ["field", "ladder", "solid_from"])
def test_default_layers_follow_the_facets(facet):
    from haptos.level.resolve import ResolvedLevel

    values = {"field": {"speed_factor": 0.5}, "ladder": {}, "solid_from": "above"}
    piece = {"name": "slab", "at": [0, 0], "shape": {"box": [9, 9]}, facet: values[facet]}
    resolved = ResolvedLevel(haptos.Level(pieces=[piece]))
    assert resolved.by_name["slab"].layer == ("ledge" if facet == "solid_from" else "zone")


def test_facets_are_merged_key_by_key_over_kinds():
    from haptos.level.origins import values_of
    from haptos.level.resolve import ResolvedLevel

    kinds = {
        "mud": {"shape": {"box": [9, 9]}, "field": {"speed_factor": 0.5, "jump_factor": 0.7}},
        "deep_mud": {"based_on": "mud", "field": {"speed_factor": 0.2}},
    }
    pieces = [{"name": "pool", "kind": "deep_mud", "at": [0, 0], "field": {"only_grounded": True}}]
    resolved = ResolvedLevel(haptos.Level(kinds=kinds, pieces=pieces))
    field = resolved.by_name["pool"].facet("field")
    assert (field.speed_factor, field.jump_factor, field.only_grounded, field.stacks) == (0.2, 0.7, True, False)
    origins = {row.key: row.origin for row in values_of(resolved, "pool")}
    assert origins["field.speed_factor"] == "kind deep_mud"
    assert origins["field.jump_factor"] == "kind mud"
    assert origins["field.only_grounded"] == "the piece itself"
    assert origins["field.stacks"] == "default"
