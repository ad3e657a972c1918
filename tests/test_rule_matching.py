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


PLANKS = {
    "contacts": {"layers": ["hero", "plank", "stone"], "solid": {"hero": ["plank", "stone"]}},
    "player": {"layer": "hero"},
    "kinds": {"plank": {"layer": "stone", "shape": {"box": [60, 16]}}},
    "pieces": [
        {"name": "plank", "kind": "plank", "at": [0, -22]},
        {"name": "shelf", "kind": "plank", "at": [60, -22]},
        {"name": "slat", "layer": "plank", "shape": {"box": [60, 16]}, "at": [120, -22]},
    ],
}


def touched(rules, pieces=PLANKS["pieces"], **more):
    level = haptos.Level(**{**PLANKS, "pieces": pieces, **more}, rules=rules)
    events = haptos.simulate(level, "right 1 s").events
    return list(events[events["event"] == "say"]["piece"])


@pytest.mark.parametrize(
    ("name", "pieces", "meant"),
    [
        ("plank", PLANKS["pieces"], ["plank"]),
        ("plank", PLANKS["pieces"][1:], ["shelf"]),
        ("kind:plank", PLANKS["pieces"], ["plank", "shelf"]),
        ("layer:plank", PLANKS["pieces"], ["slat"]),
        ("piece:shelf", PLANKS["pieces"], ["shelf"]),
    ],
)
def test_the_exact_piece_goes_first_then_the_kind_then_the_layer(name, pieces, meant):
    rule = {"when": "touch", "piece": name, "do": [{"say": "here"}]}
    start = {} if pieces is PLANKS["pieces"] else {"player": {"layer": "hero", "at": [50, 0]}}
    assert touched([rule], pieces, **start) == meant


def test_check_warns_of_a_name_that_is_several_things_only_where_that_makes_a_difference():
    rule = {"when": "touch", "piece": "plank", "do": [{"say": "here"}]}

    def warned(**level):
        return [one.message for one in haptos.check(haptos.Level(**level)) if one.code == "name-unclear"]

    assert warned(**PLANKS, rules=[rule]) == [
        "'plank' means the piece 'plank' here, but the kind 'plank' and the layer 'plank' have that name too; "
        "write 'piece:plank' or 'kind:plank'"
    ]
    assert warned(**PLANKS, rules=[{**rule, "piece": "kind:plank"}]) == []
    same = {**PLANKS, "kinds": {"plank": {"layer": "plank", "shape": {"box": [60, 16]}}}}
    assert warned(**{**same, "pieces": same["pieces"][1:]}, rules=[rule]) == [
        "'plank' means the kind 'plank' here, but the layer 'plank' has that name too; "
        "write 'kind:plank' or 'layer:plank'"
    ]
    assert warned(**{**same, "pieces": same["pieces"][1:2]}, rules=[rule]) == []


def test_a_name_that_nothing_has_is_an_error_wherever_it_stands():
    for wrong in (
        {"rules": [{"when": "touch", "piece": "plnk", "do": [{"say": "x"}]}]},
        {"rules": [{"when": "touch", "piece": "plank", "who": "plnk", "do": [{"say": "x"}]}]},
        {"player": {"layer": "hero", "never_meets": ["plnk"]}},
        {"pieces": [{**PLANKS["pieces"][0], "never_meets": ["plnk"]}]},
    ):
        with pytest.raises(haptos.LevelError, match=r"is called 'plnk' \(did you mean 'plank'\?\)"):
            haptos.check(haptos.Level(**{**PLANKS, **wrong}))
    level = haptos.Level(**{**PLANKS, "pieces": [{**PLANKS["pieces"][0], "never_meets": ["#lit"]}]})
    assert [one.message for one in haptos.check(level) if one.code == "never-meets-nobody"] == [
        "no piece bears the mark '#lit'"
    ]


def test_a_rule_hears_a_wall_of_the_bounds():
    bounds = {"corners": [-90, -90, 90, 90], "left": "wall", "right": "wall"}
    rule = {"when": "touch", "piece": "bounds/right", "do": [{"say": "here"}]}
    assert touched([rule], world={"bounds": bounds}) == ["bounds/right"]
