"""What rules and cues ask, in one language."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from haptos.level.conditions import condition_of
from haptos.level.control_bits import CONTROLS
from haptos.study.asked_again import ask_again
from haptos.study.rule_why import why_rule

RIGHT, ACT = CONTROLS["right"], CONTROLS["act"]

FLOOR = {"name": "floor", "at": [0, -22], "shape": {"box": [800, 16]}}
LIFTS = {"stops": [[0, 0], [0, 90]], "speed": 60}
HALL = {
    "player": {"at": [0, 8]},
    "counters": {"oil": {}},
    "pieces": [
        FLOOR,
        {"name": "plank", "at": [0, -10], "shape": {"box": [40, 8]}, "crumble": {"delay": 0.2, "gone_after": 0.29}},
        {"name": "lift", "at": [150, -60], "shape": {"box": [40, 8]}, "route": LIFTS},
        {"name": "bar", "at": [150, -160], "shape": {"box": [40, 8]}, "spin": {"speed": 90}},
        {"name": "salt and oil", "at": [90, 0], "shape": {"circle": 5}, "pickup": {"counter": "oil"}},
        {"name": "gate", "at": [-90, 0], "shape": {"box": [9, 90]}, "active": False},
        {"name": "tar", "at": [250, -4], "shape": {"box": [60, 20]}, "layer": "zone", "field": {"speed_factor": 0.5}},
    ],
    "rules": [{"when": "collect", "piece": "salt and oil", "do": [{"set": "gate.active", "to": True}]}],
}  # fmt: skip

CONDITIONS = [
    "x > 60 and stance == ground",
    "stance == air and vy < 0",
    "support == floor or support == plank and x > 3",
    "support != plank and not stance == air",
    "facing == right and x >= 50",
    "speed > 149 and oil >= 1",
    "oil.left == 0",
    "not 'salt and oil'.active",
    "not plank.active",
    "gate.active and not (x < 100 or up_y < 1)",
    "bar.angle > 80.5 and bar.angle <= 100",
    "lift.y > -40.5",
    "speed_factor < 1 and not health < 3 and lives >= 3",
]


@pytest.mark.parametrize("asked", CONDITIONS)
def test_rules_cues_and_the_study_of_a_run_agree_on_when_it_holds(asked):
    rule = {"when": "counter", "if": asked, "once": True, "do": [{"say": "now"}]}
    level = haptos.Level(**{**HALL, "rules": [*HALL["rules"], rule]})
    run = haptos.simulate(level, f"right 3 s & act until {asked} within 3 s")
    said = run.events[run.events["detail"] == "now"]
    assert len(said) == 1
    tick = int(said["tick"].iloc[0])

    assert run.plain_cues.schedule(60).held.tolist() == [ACT | RIGHT] * tick + [RIGHT] * (180 - tick)
    (answers,) = ask_again(run, [(condition_of(asked), "asked")])
    assert int(answers.holds.argmax()) == tick


WORDS = st.recursive(
    st.sampled_from(["x > 3", "x < 5", "y == 2", "y != 2"]),
    lambda inner: st.one_of(
        inner.map(lambda one: f"not {one}"),
        inner.map(lambda one: f"({one})"),
        st.tuples(inner, st.sampled_from(["and", "or"]), inner).map(" ".join),
    ),
    max_leaves=12,
)


@settings(max_examples=200, deadline=None)
@given(WORDS, st.integers(0, 8), st.integers(0, 4))
def test_not_binds_before_and_and_that_before_or_as_everywhere(text, x, y):
    condition = condition_of(text)
    values = {"x": float(x), "y": float(y)}
    expected = eval(text, {}, {"x": x, "y": y})
    assert condition.holds(lambda one: values[one.subject]) == expected
    again = condition_of(condition.changed(lambda one: one).words)
    assert again.holds(lambda one: values[one.subject]) == expected


REFUSED = {
    "stance == flying": "found 'stance == flying', expected one of ground, air, ladder, gone",
    "stance > air": "found 'stance > air', expected == or != with a word",
    "support == lift": "no piece, kind, mark or layer is called 'lift'",
    "facing == 90": "found 'facing == 90', expected left or right",
    "x > 3 and": "expected a comparison on both sides of and and or",
    "(x > 3": "expected a ')' for each '('",
    "x > 3) y > 3": "expected and, or, or the end before ')'",
    "floor.tilt > 3": "found 'floor.tilt', expected floor and one of x, y, angle, load, active",
    "x > 3 furlong": "whose unit 'furlong' is not known",
}


@pytest.mark.parametrize("asked", REFUSED)
def test_a_condition_is_refused_where_it_can_not_be_answered(tool, tmp_path, asked):
    file = tmp_path / "level.toml"
    floor = "[[pieces]]\nname = 'floor'\nat = [0, -22]\nshape = { box = [800, 16] }\n"
    file.write_text(f"{floor}[[rules]]\nwhen = 'jump'\nif = \"{asked}\"\ndo = [{{ say = 'now' }}]\n")
    code, _, error = tool("run", file, "wait 1 s")
    assert code == 2
    assert REFUSED[asked] in error
    file.write_text(floor)
    code, _, error = tool("run", file, f"wait until {asked}")
    assert code == 2
    assert REFUSED[asked] in error


def test_a_number_in_a_rule_may_have_a_unit_of_the_level():
    rule = {"when": "counter", "if": "x > 2 tile", "do": [{"say": "now"}]}
    level = haptos.Level(units={"tile": "16 px"}, pieces=[FLOOR], rules=[rule])
    run = haptos.simulate(level, "right 0.5 s")
    tick = int(run.events[run.events["event"] == "say"]["tick"].iloc[0])
    assert run.track["x"][tick - 1] <= 32 < run.track["x"][tick]


def test_self_in_a_kinds_condition_is_the_piece_that_was_placed():
    asked = "not (self.x > 100 or not self.active)"
    rule = {"when": "enter", "piece": "self", "if": asked, "do": [{"say": "near"}]}
    door = {"shape": {"box": [8, 80]}, "layer": "zone", "rules": [rule]}
    doors = [{"name": name, "kind": "door", "at": [x, 0]} for name, x in (("west", 140), ("east", 60))]
    run = haptos.simulate(haptos.Level(kinds={"door": door}, pieces=[FLOOR, *doors]), "right 2 s")
    assert list(run.events[run.events["event"] == "say"]["piece"]) == ["east"]
    reasons = why_rule(run, "kinds.door.rules[0] of 'west'").reasons
    assert "west.x was 140, west was there" in reasons[1]


def test_why_tells_what_a_timer_asked_for_in_vain():
    rule = {"name": "late", "when": "timer", "every": 0.5, "if": "x > 900 or stance == ladder", "do": [{"say": "x"}]}
    run = haptos.simulate(haptos.Level(pieces=[FLOOR], rules=[rule]), "wait 2.2 s")
    answer = why_rule(run, "late")
    assert answer.reasons == [
        "the first time was at 0.5 s",
        "then the player's x was 0, the player's stance was ground; it did not hold at any of its 4 moments",
    ]


def test_what_came_nearest_is_told_of_each_number_that_was_waited_for():
    run = haptos.simulate(haptos.Level(pieces=[FLOOR]), "right until x > 900 and vy > 3 within 1 s")
    late = run.events[run.events["event"] == "too_late"].iloc[0]
    assert late["detail"].startswith("waited 1 s for x > 900 and vy > 3; player.x came to 14")
    assert late["detail"].endswith(", player.vy came to 0")
