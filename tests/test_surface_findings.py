"""What `check` finds about things to stand on, and that it keeps quiet where all is well."""

from __future__ import annotations

import pytest

import haptos
from tests.scenes import floor

FLOOR = floor(300)
WALLS = [
    {"name": "left wall", "shape": {"corners": [-316, -16, -300, 400]}},
    {"name": "right wall", "shape": {"corners": [300, -16, 316, 400]}},
]


def codes(*pieces: dict, **sections: object) -> list[tuple[str, str]]:
    """Return code and piece of every warning and error, apart from those about the made room itself."""
    sections.setdefault("player", {"at": [-100, 14]})
    level = haptos.Level(world={"lost_below": -300}, pieces=[FLOOR, *WALLS, *pieces], **sections)
    findings = [
        finding for finding in haptos.check(level) if finding.severity != "note" or finding.code == "solids-overlap"
    ]
    return [
        (finding.code, finding.place.split("'")[1] if "'" in finding.place else finding.place) for finding in findings
    ]


def test_a_plain_room_is_quiet():
    ramp = {"name": "ramp", "at": [0, 0], "shape": {"polygon": [[0, 0], [100, 0], [100, 50]]}}
    stage = {"name": "stage", "shape": {"corners": [100, 0, 200, 50]}}
    awning = {"name": "awning", "at": [0, 120], "shape": {"box": [60, 6]}, "solid_from": "above"}
    drum = {"name": "drum", "shape": {"corners": [-250, 0, -200, 8]}, "launch": {"height": 100}}
    rigging = {"name": "rigging", "at": [-50, 60], "shape": {"box": [16, 120]}, "ladder": {}}
    assert codes(ramp, stage, awning, drum, rigging) == []


@pytest.mark.parametrize("solid_from", ["above", "below"])
def test_a_one_way_piece_that_is_only_reached_from_its_dead_side(solid_from):
    # Under a lid, with walls down to the floor on either side of the part above it.
    lid = {"name": "lid", "shape": {"corners": [-300, 96, 300, 110]}}
    awning = {"name": "awning", "at": [0, 90], "shape": {"box": [600, 12]}, "solid_from": solid_from}
    found = codes(lid, awning)
    assert (("dead-side", "awning") in found) == (solid_from == "above")


def test_a_trampoline_on_its_back():
    drum = {
        "name": "drum",
        "shape": {"box": [60, 8]},
        "turn": 180,
        "at": [0, 4],
        "launch": {"height": 100, "direction": 270},
    }
    assert ("dead-side", "drum") in codes(drum)
    assert ("dead-side", "drum") not in codes(drum | {"turn": 0, "launch": {"height": 100}})


@pytest.mark.parametrize(("gap", "blocked"), [(20, True), (40, False)])
def test_a_ladder_that_ends_under_a_beam(gap, blocked):
    rigging = {"name": "rigging", "at": [0, 60], "shape": {"box": [16, 120]}, "ladder": {}}
    beam = {"name": "beam", "shape": {"corners": [-40, 120 + gap, 40, 160 + gap]}}
    assert (("ladder-top-blocked", "rigging") in codes(rigging, beam)) == blocked


@pytest.mark.parametrize(("height", "steep"), [(100, False), (150, True)])
def test_a_slope_that_is_too_steep_where_one_walks(height, steep):
    # 45 and 56 degrees against a limit of 50.
    slope = {"name": "slope", "at": [50, 0], "shape": {"polygon": [[0, 0], [100, 0], [100, height]]}}
    assert (("too-steep", "slope") in codes(slope)) == steep
    # High up on a wall it is nobody's way.
    assert ("too-steep", "slope") not in codes(slope | {"at": [200, 200]})


@pytest.mark.parametrize(("height", "slips"), [(3, False), (6, True), (8, True), (9, False)])
def test_a_step_that_is_too_high_by_little(height, slips):
    step = {"name": "step", "shape": {"corners": [50, 0, 250, height]}}
    assert (("high-step", "step") in codes(step, player={"at": [-100, 14], "ground": {"step_height": 4}})) == slips


def test_a_zone_inside_a_rock():
    rock = {"name": "rock", "shape": {"corners": [0, 0, 100, 100]}}
    mist = {"name": "mist", "layer": "zone", "at": [50, 50], "shape": {"circle": 20}}
    assert ("zone-covered", "mist") in codes(rock, mist)
    assert ("zone-covered", "mist") not in codes(rock, mist | {"at": [95, 50]})


def test_solids_of_different_kinds_that_overlap():
    kinds = {"rock": {"shape": {"box": [60, 60]}}, "trunk": {"shape": {"box": [60, 60]}}}
    rock = {"name": "rock", "kind": "rock", "at": [0, 30]}
    trunk = {"name": "trunk", "kind": "trunk", "at": [40, 30]}
    assert ("solids-overlap", "rock") in codes(rock, trunk, kinds=kinds)
    assert ("solids-overlap", "rock") not in codes(rock, trunk | {"kind": "rock"}, kinds=kinds)
    assert ("solids-overlap", "rock") not in codes(rock, trunk | {"at": [60, 30]}, kinds=kinds)


def test_a_start_inside_a_one_way_piece_is_no_fault_but_inside_a_rock_is():
    awning = {"name": "awning", "at": [-100, 14], "shape": {"box": [60, 6]}, "solid_from": "above"}
    assert not [code for code, _ in codes(awning) if code.startswith("start")]
    rock = awning | {"name": "rock", "solid_from": None}
    with pytest.raises(haptos.LevelError):
        codes(rock | {"solid_from": "top"})
    del rock["solid_from"]
    assert "start-inside" in [code for code, _ in codes(rock)]
