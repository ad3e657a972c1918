"""Levels with loose bodies as users write them: errors, findings, hands, rules, what is made, the library."""

from __future__ import annotations

import math
import tomllib
from pathlib import Path

import pytest

import haptos
from haptos.demo import DEMO_SHEETS, demo_file
from haptos.files.reading import load, read_cue_sheet
from tests.generated_bodies import closed_scene_of, flaws_of, gain_of, scene_of

G = 1800.0
FLOOR = {"name": "floor", "at": [0, -8], "shape": {"box": [2000, 16]}}
CRATE = {"name": "crate", "at": [0, 16], "shape": {"box": [32, 32]}, "body": {"mass": 30}}
LEAF = {"name": "leaf", "at": [40, 60], "shape": {"box": [80, 8]}, "body": {"mass": 10}, "hinge": {"at": [-40, 0]}}


def level_of(*pieces, **more):
    world = {"gravity": [0, -G], **more.pop("world", {})}
    return haptos.Level(world=world, player={"at": [-300, 14], **more.pop("player", {})}, pieces=list(pieces), **more)


BAD = {
    "no mass": ({**CRATE, "body": {"mass": 0}}, "body.mass: found 0, expected a mass above 0"),
    "both": ({**CRATE, "body": {"mass": 1, "density": 1}}, "found both mass and density"),
    "bounce": ({**CRATE, "body": {"restitution": 2}}, "found restitution 2, expected 0 to 1"),
    "route": ({**CRATE, "route": {"stops": [[0, 0], [9, 0]], "speed": 1}}, "found both body and route"),
    "alone": ({**CRATE, "body": None, "hinge": {}}, "found a hinge without body"),
    "unknown": ({**LEAF, "hinge": {"to": "post"}}, "no piece 'post'"),
    "limits": ({**LEAF, "hinge": {"limits": [40, 10]}}, "expected the lower angle first"),
    "child": ({"name": "cart", "at": [0, 0], "shape": {"box": [9, 9]}, "pieces": [CRATE]}, "that 'cart' carries"),
    "shapeless": ({"name": "soul", "at": [0, 0], "body": {}}, "found a body without a shape"),
}


@pytest.mark.parametrize("case", BAD)
def test_what_can_be_no_body_is_told_in_a_sentence_with_its_place(case):
    piece, sentence = BAD[case]
    with pytest.raises(haptos.LevelError) as caught:
        level_of({key: value for key, value in piece.items() if value is not None})
    assert sentence in str(caught.value)
    assert "pieces[0]" in str(caught.value)


@pytest.mark.parametrize(
    ("cues", "sentence"),
    [
        ("hand floor to 1,2 in 1 s", "'floor', which is no loose body"),
        ("hand crat to 1,2 in 1 s", "no piece is called 'crat' (did you mean 'crate'?)"),
        ("shove crate 1,2", "expected 'shove \"brass ball\" by 400,0'"),
        ("hand crate to 1 in 1 s", "expected two numbers with a comma between them"),
    ],
)
def test_a_hand_and_a_shove_need_a_body_and_a_place(cues, sentence):
    with pytest.raises(haptos.CueError) as caught:
        haptos.simulate(level_of(FLOOR, CRATE), cues)
    assert sentence in str(caught.value)


WALL = {"name": "wall", "at": [0, 60], "shape": {"box": [20, 40]}}
FAULTS = {
    "body-overlaps": ([FLOOR, {**CRATE, "at": [0, 10]}], [FLOOR, CRATE]),
    "body-falls-out": ([FLOOR, {**CRATE, "at": [1500, 90]}], [FLOOR, {**CRATE, "at": [900, 90]}]),
    "mass-ratio": (
        [FLOOR, CRATE, {**CRATE, "name": "safe", "at": [0, 48], "body": {"mass": 60000}}],
        [FLOOR, CRATE, {**CRATE, "name": "safe", "at": [0, 48], "body": {"mass": 300}}],
    ),
    "body-blocks": (
        [FLOOR, {**CRATE, "at": [0, 60], "shape": {"box": [40, 120]}, "body": {"mass": 900}}],
        [FLOOR, {**CRATE, "at": [0, 60], "shape": {"box": [40, 120]}, "body": {"mass": 90}}],
    ),
    "hinge-outside": ([FLOOR, {**LEAF, "hinge": {"at": [-60, 0]}}], [FLOOR, LEAF]),
    "limits-exclude-start": ([FLOOR, {**LEAF, "hinge": {"at": [-40, 0], "limits": [10, 60]}}], [FLOOR, LEAF]),
    "weak-motor": (
        [FLOOR, {**LEAF, "hinge": {"at": [-40, 0], "motor": {"speed": 90, "max_torque": 600000}}}],
        [FLOOR, {**LEAF, "hinge": {"at": [-40, 0], "motor": {"speed": 90, "max_torque": 800000}}}],
    ),
    "leaf-meets-solid": (
        [FLOOR, {**LEAF, "hinge": {"at": [-40, 0], "limits": [-80, 0]}}],
        [FLOOR, {**LEAF, "hinge": {"at": [-40, 0], "limits": [-30, 0]}}],
    ),
}


@pytest.mark.parametrize("code", FAULTS)
def test_check_finds_what_is_likely_wrong_with_bodies_and_nothing_in_what_is_right(code):
    wrong, right = FAULTS[code]
    found = {finding.code: finding for finding in haptos.check(level_of(*wrong))}
    assert code in found
    assert found[code].message.endswith(tuple("abcdefghijklmnopqrstuvwxyz'°"))
    assert code not in {finding.code for finding in haptos.check(level_of(*right))}


def test_a_hand_carries_a_body_beside_other_controls_and_lets_go():
    run = haptos.simulate(level_of(FLOOR, CRATE), "right 1 s & hand crate to 100,120, wait 1 s")
    crate = run.pieces[run.pieces.piece == "crate"].reset_index(drop=True)
    assert crate.x[60] == pytest.approx(100, abs=2)
    assert crate.y[60] == pytest.approx(120, abs=2)
    assert crate.vx[61] == pytest.approx(100, abs=5)
    assert crate.y.iloc[-1] == pytest.approx(16, abs=0.2)
    assert run.track.x.iloc[-1] > -200
    assert run.events[run.events.event == "hand"].t.tolist() == pytest.approx([0.0, 1.0])
    assert haptos.simulate(run.level, run.plain_cues).pieces.equals(run.pieces)


def test_a_hand_draws_nothing_through_a_wall_and_drops_what_is_out_of_reach():
    wall = {"name": "wall", "at": [120, 100], "shape": {"box": [20, 200]}}
    run = haptos.simulate(level_of(FLOOR, CRATE, wall), "hand crate to 400,16 in 1 s, wait 1 s")
    crate = run.pieces[run.pieces.piece == "crate"]
    assert crate.x.max() < 94.5
    assert "out of the hand's reach" in run.events[run.events.event == "hand"].detail.iloc[-1]


def test_what_is_made_with_a_body_falls_lies_and_is_kicked():
    kinds = {"ball": {"shape": {"circle": 8}, "body": {"mass": 2}}}
    spout = {
        "name": "spout",
        "at": [0, 90],
        "shape": {"circle": 2},
        "spawner": {"kind": "ball", "every": 0.4, "limit": 3},
    }
    mine = {"name": "mine", "at": [-20, 0], "shape": {"circle": 2}, "layer": "zone"}
    rules = [{"when": "timer", "every": 2, "once": True, "do": [{"kick": 2000, "at": "mine", "radius": 200}]}]
    run = haptos.simulate(level_of(FLOOR, spout, mine, kinds=kinds, rules=rules), "wait 2.5 s")
    balls = run.pieces[run.pieces.piece.str.startswith("ball")]
    assert set(balls.piece) == {"ball 1", "ball 2", "ball 3"}
    before = balls[balls.t == 1.9]
    assert (before.y > 7.9).all()
    after = balls[balls.tick == 123]
    assert after.vx.max() > before.vx.max() + 20
    assert {"spawn", "touch", "land", "sleep", "wake"} <= set(run.events.event)


def test_rules_hear_bodies_and_a_change_of_a_spring_lets_a_trapdoor_fall():
    hold = {"stiffness": 4e8, "damping": 2e6}
    door = {**LEAF, "at": [40, 120], "hinge": {"at": [-40, 0], "limits": [-90, 0], "hold": hold}}
    ball = {"name": "ball", "at": [60, 200], "shape": {"circle": 8}, "body": {"mass": 2}}
    rules = [
        {
            "when": "land",
            "who": "ball",
            "piece": "leaf",
            "after": 1,
            "do": [{"set": "leaf.hinge.hold.stiffness", "to": 0}, {"set": "leaf.hinge.hold.damping", "to": 0}],
        },
        {"when": "touch", "who": "ball", "piece": "floor", "do": [{"say": "through"}]},
    ]
    run = haptos.simulate(level_of(FLOOR, door, ball, rules=rules), "wait 3 s")
    leaf = run.pieces[run.pieces.piece == "leaf"].reset_index(drop=True)
    assert leaf.angle[:60].abs().max() < 1
    assert leaf.angle.min() == pytest.approx(-90, abs=2)
    assert "through" in run.events.detail.tolist()


def test_the_library_is_gone_through_and_its_trapdoor_opens_by_hand_too():
    level = load(demo_file("library.toml"))
    ends = {}
    for sheet in DEMO_SHEETS["library"]:
        run = haptos.simulate(level, read_cue_sheet(demo_file(f"{sheet}.toml"), level.unit_table()).cues)
        says = run.events[run.events.event == "say"].detail.tolist()
        assert says[-1] == "the trapdoor opens"
        assert not {"stall", "crush", "too_late"} & set(run.events.event)
        ends[sheet] = set(run.events.event)
    assert "finish" in ends["through-the-cellar"]
    assert {"hand", "shove"} <= ends["by-hand"]


@pytest.mark.parametrize("seed", range(14))
def test_in_random_levels_bodies_stay_within_the_bounds_and_events_in_order(seed):
    level, cues = scene_of(seed)
    assert flaws_of(haptos.simulate(level, cues)) == []


@pytest.mark.parametrize("seed", range(10))
def test_no_impact_adds_to_the_energy_of_bodies_that_nothing_drives(seed):
    level = closed_scene_of(seed)
    assert gain_of(level, haptos.simulate(level, "wait 4 s")) < 0.001


@pytest.mark.parametrize("mass", [3, 8])
@pytest.mark.parametrize("count", [4, 5, 6])
@pytest.mark.parametrize("x", [330, 340])
def test_who_lands_among_light_things_is_not_thrown_by_them(x: int, count: int, mass: int) -> None:
    text = Path(demo_file("library.toml")).read_text(encoding="utf-8")
    pile = "at = [330, 101]\ncopies = [[330, 111], [330, 121]]"
    assert pile in text
    more = [[x, 101 + 10 * number] for number in range(1, count)]
    text = text.replace(pile, f"at = [{x}, 101]\ncopies = {more}").replace("mass = 3,", f"mass = {mass},")
    level = haptos.Level(**tomllib.loads(text))
    run = haptos.simulate(level, haptos.load_cues(demo_file("through-the-cellar.toml"), level.unit_table()))
    # Its own jump is the fastest that takes it up: thirty kilograms of folios have no more to give.
    jump = math.sqrt(2 * G * level.player.jump.height)
    assert run.track.vy.max() <= jump + 20
    assert "stall" not in set(run.events.event)


def test_a_body_touches_where_and_when_it_does_and_not_at_the_end_of_the_tick() -> None:
    ball = {"name": "ball", "shape": {"circle": 10}, "at": [0, 110], "body": {"mass": 4, "restitution": 0.5}}
    run = haptos.simulate(
        haptos.Level(world={"gravity": [0, -G]}, player={"at": [200, 14]}, pieces=[FLOOR, ball]), "wait 1 s"
    )
    touch = run.events.query("event == 'touch' and who == 'ball'").iloc[0]
    assert touch.t == pytest.approx(math.sqrt(2 * 100 / G), abs=1e-6)
    assert touch.y == pytest.approx(10.0, abs=1e-3)


def test_a_hand_that_was_recorded_does_the_same_as_one_that_is_written(tmp_path: Path) -> None:
    recorded = tmp_path / "by-hand.csv"
    rows = ("t,held,hand", '0,right,"crate to 60,90"', '0.5,right,"crate to 120,60"', "1,,", "1.5,,")
    recorded.write_text("\n".join(rows), encoding="utf-8")
    level = level_of(FLOOR, CRATE)
    words = "right 0.5 s & hand crate to 60,90, right 0.5 s & hand crate to 120,60, wait 0.5 s"
    one, other = haptos.simulate(level, haptos.load_cues(recorded)), haptos.simulate(level, words)
    assert one.pieces.equals(other.pieces)
    assert one.pieces.query("tick == 60").x.iloc[0] == pytest.approx(120, abs=4)
    # It goes on with the same body, so that it takes hold once, and lets go once.
    for run in (one, other, haptos.simulate(level, one.plain_cues)):
        held = run.events[run.events.event == "hand"]
        assert held.detail.tolist() == ["a hand takes hold of crate", "the hand lets go of crate"]
        assert held.t.tolist() == [0.0, 1.0]
    assert haptos.simulate(level, one.plain_cues).pieces.equals(one.pieces)
