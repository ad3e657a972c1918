"""Check, why, moves: what is found, and what is not."""

from __future__ import annotations

import math

import pytest

import haptos
from haptos.demo import demo_file
from haptos.study.why import why


def codes(level: haptos.Level) -> list[str]:
    return [finding.code for finding in haptos.check(level)]


def find(level: haptos.Level, code: str) -> haptos.Finding:
    found = [finding for finding in haptos.check(level) if finding.code == code]
    assert len(found) == 1, haptos.check(level)
    return found[0]


def test_the_demo_has_nothing_worse_than_a_note():
    assert {finding.severity for finding in haptos.check(haptos.load(demo_file("first-room.toml")))} <= {"note"}


def test_shapes_and_starts(flat):
    world = {"lost_below": -500}
    level = flat(
        [{"name": "ghost", "at": [0, 90]}, {"name": "flat", "at": [50, 90], "shape": {"box": [10, 0]}}], world=world
    )
    assert codes(level) == ["no-shape", "no-area"]
    assert find(flat(player={"at": [0, 9]}), "start-inside").message.startswith(
        "the player starts 5 deep inside 'floor'"
    )
    assert codes(flat(player={"at": [6000, 14]}, world=world)) == ["start-above-nothing"]
    bounds = {"corners": [10, -50, 100, 100], "left": "wall", "right": "wall", "bottom": "wall", "top": "wall"}
    assert "start-out-of-bounds" in codes(flat(world={"bounds": bounds}))
    bounds |= {"corners": [-3, -50, 100, 100]}
    assert find(flat(world={"bounds": bounds}), "start-inside").message.startswith(
        "the player starts 4 deep inside the left"
    )
    assert codes(flat()) == ["endless-fall"]
    assert "start-lost" in codes(flat(world={"lost_below": 50}))


def test_layers_that_nobody_touches(flat):
    contacts = {"layers": ["hero", "stone", "haze", "spare"], "solid": {"hero": ["stone"]}}
    level = haptos.Level(
        contacts=contacts,
        player={"layer": "hero", "at": [0, 14]},
        pieces=[
            {"name": "floor", "layer": "stone", "shape": {"corners": [-99, -9, 99, 0]}},
            {"name": "fog", "layer": "haze", "at": [0, 50], "shape": {"circle": 9}},
        ],
    )
    assert find(level, "layer-untouched").place == "contacts.layers, 'haze'"
    assert find(level, "layer-empty").place == "contacts.layers, 'spare'"


@pytest.mark.parametrize(
    ("rule", "code"),
    [
        ({"when": "touch", "piece": "bounds/left"}, "rule-no-piece"),
        ({"when": "enter", "piece": "#lit"}, "rule-no-mark"),
        ({"when": "touch", "piece": "prop"}, "rule-no-piece"),
        ({"when": "enter", "piece": "lamp", "who": "#gost"}, "rule-no-who"),
        ({"when": "enter", "piece": "lamp", "who": "floor"}, "rule-ignored-pair"),
        ({"when": "enter", "piece": "floor"}, "rule-solid-zone"),
        ({"when": "land", "piece": "lamp"}, "rule-felt-solid"),
        ({"when": "enter", "piece": "far"}, "rule-ignored-pair"),
        ({"when": "lost"}, "rule-never-lost"),
    ],
)
def test_rules_that_can_never_fire(flat, rule, code):
    pieces = [
        {"name": "lamp", "layer": "zone", "at": [50, 20], "shape": {"circle": 9}},
        {"name": "far", "layer": "shot", "at": [90, 20], "shape": {"circle": 9}},
    ]
    level = flat(pieces, rules=[rule | {"do": [{"say": "x"}]}], kinds={"spike layer": {}})
    if code == "rule-solid-zone":
        # Without a layer of its own the floor would become a zone through such a rule.
        data = level.model_dump(exclude_unset=True, by_alias=True)
        data["pieces"][0]["layer"] = "terrain"
        level = haptos.Level(**data)
    assert find(level, code).severity == "error"


def walled(hole: float, view: str = "top", side: str = "open", **more) -> haptos.Level:
    """A room with walls 10 thick and a hole in its roof, 200 from the left."""
    corners = {
        "left wall": [0, 0, 10, 200],
        "right wall": [390, 0, 400, 200],
        "floor": [0, 0, 400, 10],
        "roof": [0, 190, 200, 200],
        "other roof": [200 + hole, 190, 400, 200],
    }
    pieces = [{"name": name, "shape": {"corners": box}} for name, box in corners.items() if box[2] > box[0]]
    sides = dict.fromkeys(("left", "right", "top", "bottom"), side)
    world = {"view": view, "bounds": {"corners": [-50, -50, 450, 250], **sides}}
    return haptos.Level(world=world, player={"at": [50, 18], "shape": {"circle": 8}}, pieces=pieces, **more)


@pytest.mark.parametrize("view", ["top", "side"])
def test_a_leak_is_found_with_its_place(view):
    leak = find(walled(20, view), "leak")
    assert leak.at == pytest.approx((210, 195), abs=6)
    assert "20 wide" in leak.message
    assert "leak" not in codes(walled(0, view))
    assert "leak" not in codes(walled(15, view))
    assert "leak" not in codes(walled(20, view, side="wall"))


def test_a_passage_too_narrow_for_the_body_is_found():
    finding = find(walled(12), "narrow-passage")
    assert finding.at == pytest.approx((206, 195), abs=6)
    assert "12 wide" in finding.message
    assert "narrow-passage" not in codes(walled(16))


def test_a_leak_through_a_wrap_and_a_blocked_wrap():
    def level(block: bool, hole: bool) -> haptos.Level:
        # A corridor that wraps; beyond the seam a roof may be missing.
        pieces = [{"name": "floor", "shape": {"corners": [0, 0, 300, 10]}}]
        pieces.append({"name": "roof", "shape": {"corners": [60, 60, 300, 70]}})
        pieces.append({"name": "roof beyond", "shape": {"corners": [0, 60, 20 if hole else 60, 70]}})
        pieces.append({"name": "inner wall", "shape": {"corners": [60, 10, 70, 60]}})
        if block:
            pieces.append({"name": "plug", "shape": {"corners": [280, 10, 300, 60]}})
        bounds = {"corners": [0, -20, 300, 200], "left": "wrap", "right": "wrap", "top": "open", "bottom": "wall"}
        world = {"view": "top", "bounds": bounds}
        return haptos.Level(world=world, player={"at": [150, 35], "shape": {"circle": 8}}, pieces=pieces)

    assert codes(level(False, False)) == []
    assert codes(level(False, True)) == ["leak"]
    assert "leak" not in codes(level(True, True))
    assert "wrap-blocked" in codes(level(True, False))


def test_an_open_sky_is_a_note_and_a_hole_in_a_roof_a_warning(flat):
    sides = {"left": "wall", "right": "wall", "bottom": "wall", "top": "open"}
    level = flat(world={"bounds": {"corners": [-300, -50, 300, 300], **sides}})
    assert find(level, "open-sky").severity == "note"


def test_why_names_the_line_of_the_file():
    file = demo_file("first-room.toml")
    level = haptos.load(file)
    answer = why(level, "player", "stair lamp")
    assert answer.meeting == "overlap"
    line = next(number for number, text in enumerate(file.read_text().splitlines(), 1) if text == 'hero = ["light"]')
    assert any(f"line {line}" in reason for reason in answer.reasons)
    assert any("light at the stair" in reason for reason in answer.reasons)
    assert why(level, "telescope", "player").meeting == "nothing"
    with pytest.raises(haptos.LevelError, match="did you mean 'telescope'"):
        why(level, "player", "telescop")


BODIES = [{"capsule": [14, 28]}, {"box": [14, 28]}, {"circle": 12}]


@pytest.mark.parametrize("body", BODIES)
@pytest.mark.parametrize("rate", [24, 60])
def test_moves_agree_with_the_engine(body, rate):
    level = haptos.Level(
        world={"tick_rate": rate},
        player={"shape": body, "fall": {"falling_factor": 1.5, "terminal_speed": 420}, "gaits": {"sprint": 260}},
    )
    table = haptos.moves(level)
    ledges = table.quantity == "highest ledge"
    assert table[~ledges].simulated.tolist() == pytest.approx(table[~ledges].closed_form.tolist(), rel=1e-6)
    # A round foot that meets the corner early is lifted by it: where that happens there is no closed form.
    agreed = table[ledges].closed_form.notna()
    assert table[ledges][agreed].simulated.tolist() == pytest.approx(
        table[ledges][agreed].closed_form.tolist(), rel=1e-4
    )
    assert (table[ledges].simulated >= 72).all()
    assert "box" not in body or agreed.all()


def test_moves_in_closed_form():
    table = haptos.moves(haptos.Level(player={"shape": {"box": [14, 28]}})).set_index(["quantity", "gait"]).closed_form
    air_time = 2 * math.sqrt(2 * 72 / 1800)
    assert table["air time", ""] == pytest.approx(air_time)
    assert table["widest gap", "sprint"] == pytest.approx(300 * air_time + 14)
    assert table["stopping distance", "walk"] == pytest.approx(150**2 / 4800)


def test_rays():
    level = haptos.load(demo_file("first-room.toml"))
    hit = haptos.first_hit(level, (120, 200), (0, -3), layers=["light"])
    assert hit.piece == "door lamp"
    assert hit.distance == pytest.approx(200 - 72)
    assert hit.normal == pytest.approx((0, 1))
    assert haptos.Simulation(level).first_hit((300, 250), (0, -1), ["plank", "stone"]).piece == "book shelf"
    assert haptos.first_hit(level, (300, 250), (0, -1), layers=["hero"]) is None
    with pytest.raises(ValueError, match="did you mean 'plank'"):
        haptos.first_hit(level, (0, 0), (1, 0), layers=["plnk"])
