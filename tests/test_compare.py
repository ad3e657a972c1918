"""What is different between two runs: by arithmetic, and as the tool tells it."""

from __future__ import annotations

import json
import math
from pathlib import Path

import pytest

import haptos
from haptos.demo import DEMO_SHEETS, demo_file
from haptos.study.compare import Differences

GRAVITY = 1800.0
FLOOR = {"name": "floor", "shape": {"box": [2000, 16]}, "at": [0, -8]}


def level(**sections: object) -> haptos.Level:
    """Return a floor with the player on it."""
    pieces = [FLOOR, *sections.pop("pieces", [])]  # type: ignore[misc]
    return haptos.Level(**({"player": {"at": [0, 14]}, "pieces": pieces} | sections))


def rows_of(found: Differences) -> list[tuple[str, str]]:
    return [(one.change, one.event.event) for one in found.differences]


@pytest.mark.parametrize(("room", "sheet"), [(room, sheets[0]) for room, sheets in DEMO_SHEETS.items()])
def test_a_run_differs_in_nothing_from_itself_run_again(room: str, sheet: str) -> None:
    here = haptos.load(demo_file(f"{room}.toml"))
    cues = haptos.load_cues(demo_file(f"{sheet}.toml"), here.unit_table())
    found = haptos.compare(haptos.simulate(here, cues), haptos.simulate(here, cues))
    assert found.same
    assert found.parted is None
    assert found.events.empty


JUMP, WALK, STAND = "wait 1 s, jump 1.2 s", "wait 1 s, right 0.3 s", "wait 1 s"
ROOMS_TO_JUMP = ("first-room", "stair-hall", "lift-shaft", "lantern-way")


def rise(height: float, gravity: float = GRAVITY) -> float:
    """Return how long a jump rises."""
    return math.sqrt(2 * height / gravity)


def walked(speed: float, accelerate: float = 1800.0) -> float:
    """Return how far a walk of 0.3 s from rest goes."""
    return speed * 0.3 - speed**2 / (2 * accelerate)


# Room, cues, change, and by arithmetic: how much later apex and landing are, how much farther the end is.
CHANGES = [
    *[(room, JUMP, {"player.jump.height": 60}, rise(60) - rise(72), 0.0) for room in ROOMS_TO_JUMP],
    *[(room, JUMP, {"world.gravity": [0, -2400]}, rise(72, 2400) - rise(72), 0.0) for room in ROOMS_TO_JUMP],
    *[(room, WALK, {"player.gaits.walk": 90}, None, walked(90) - walked(150)) for room in ROOMS_TO_JUMP],
    ("lift-shaft", WALK, {"player.run.ground_accel": 900}, None, walked(150, 900) - walked(150)),
    ("lantern-way", WALK, {"player.run.ground_accel": 3600}, None, walked(150, 3600) - walked(150)),
    # And what has no consequence there.
    ("lift-shaft", JUMP, {"player.mass": 90}, None, 0.0),
    ("lantern-way", JUMP, {"player.jump.coyote_time": 0.2}, None, 0.0),
    ("first-room", JUMP, {"player.gaits.walk": 90}, None, 0.0),
    ("stair-hall", STAND, {"player.jump.height": 60}, None, 0.0),
    ("lift-shaft", JUMP, {"title": "another", "world.seed": 8}, None, 0.0),
    ("lantern-way", WALK, {"player.fall.safe_drop": 500}, None, 0.0),
]


@pytest.mark.parametrize(("room", "cues", "change", "later", "farther"), CHANGES)
def test_a_change_in_a_room_is_told_as_exactly_its_consequences(room, cues, change, later, farther) -> None:
    level = haptos.load(demo_file(f"{room}.toml"))
    found = haptos.compare(haptos.simulate(level, cues), haptos.simulate(level.changed(change), cues))
    ends = found.ends.set_index("what")
    if later is None and not farther:
        assert found.same
        return
    assert ends.other["x"] - ends.one["x"] == pytest.approx(farther, abs=1e-6)
    own = found.events[(found.events.who == "player") & (found.events.t_one >= 1.0)]
    if later is not None:
        table = own[own.change == "moved"].set_index("event")
        assert table.later["apex"] == pytest.approx(later, abs=1e-9)
        assert table.later["land"] == pytest.approx(2 * later, abs=1e-9)
        assert set(own.event) <= {"jump", "apex", "touch", "land", "part"}
    else:
        assert set(own.event) <= {"end", "enter", "collect", "attract", "leave", "say", "touch", "part"}
    assert ends.differs["x"] == bool(farther)


def test_other_words_of_a_rule_are_another_event() -> None:
    level = haptos.load(demo_file("first-room.toml"))
    other = level.changed({"rules[0].do": [{"say": "no flame today"}]})
    found = haptos.compare(haptos.simulate(level, "right 1 s"), haptos.simulate(other, "right 1 s"))
    assert rows_of(found) == [("gone", "say"), ("new", "say")]


@pytest.mark.parametrize("height", [40.0, 80.0, 120.0])
def test_a_higher_jump_is_told_as_its_consequences_alone(height: float) -> None:
    one = level()
    found = haptos.compare(
        haptos.simulate(one, "wait 0.5 s, jump 1.5 s"),
        haptos.simulate(one.changed({"player.jump.height": height}), "wait 0.5 s, jump 1.5 s"),
    )
    up, other_up = (math.sqrt(2 * h / GRAVITY) for h in (72.0, height))
    assert rows_of(found) == [("changed", "jump"), ("moved", "apex"), ("moved", "touch"), ("moved", "land")]
    table = found.events.set_index("event")
    assert table.later["apex"] == pytest.approx(other_up - up, abs=1e-9)
    assert table.later["land"] == pytest.approx(2 * (other_up - up), abs=1e-9)
    assert table.amount_other["jump"] == pytest.approx(math.sqrt(2 * GRAVITY * height), abs=1e-9)
    # The first tick of the jump, and where the two are the farthest apart: at the end, both stand again.
    assert found.parted == pytest.approx(0.5 + 1 / 60)
    assert not found.ends.set_index("what").differs.any()


def test_a_faster_walk_is_farther_at_the_end_and_comes_sooner() -> None:
    wall = {"name": "lens", "shape": {"box": [20, 40]}, "at": [200, 20]}
    one = level(pieces=[wall], player={"at": [0, 14], "run": {"ground_accel": 1e9}})
    found = haptos.compare(
        haptos.simulate(one, "right 1 s"),
        haptos.simulate(one.changed({"player.gaits.walk": 200}), "right 1 s"),
    )
    # 183 px to the face of the lens, at 150 px/s and at 200 px/s: the first one is still on its way.
    assert rows_of(found) == [("new", "touch"), ("changed", "end")]
    # While it gets there it loses v/2a.
    assert found.events.t_other[0] == pytest.approx(183 / 200 + 200 / 2e9, abs=1e-9)
    ends = found.ends.set_index("what")
    assert ends.one["x"] == pytest.approx(150.0, abs=1e-4)
    assert ends.other["x"] == pytest.approx(183.0)
    assert list(ends.index[ends.differs]) == ["x"]
    # The faster one gains 50 px/s until it is stopped, and the other one closes up by 150 px/s from there on.
    gap, when = found.farthest
    assert gap == pytest.approx(183 - 150 * 55 / 60, abs=1e-4)
    assert when == pytest.approx(55 / 60)


def test_a_piece_that_is_gone_takes_its_events_with_it_and_no_others() -> None:
    shelf = {"name": "shelf", "shape": {"box": [60, 8]}, "at": [0, 46], "solid_from": "above"}
    cues = "jump 1 s, wait 0.2 s, right 1 s, jump 0.8 s"
    with_shelf, without = haptos.simulate(level(pieces=[shelf]), cues), haptos.simulate(level(), cues)
    found = haptos.compare(with_shelf, without)
    gone = {one.event.piece for one in found.differences if one.change == "gone"}
    assert gone == {"shelf"}
    assert not [one for one in found.differences if one.change == "new" and one.event.piece == "shelf"]
    # The other way round it is what is new.
    back = haptos.compare(without, with_shelf)
    assert {one.event.piece for one in back.differences if one.change == "new"} == {"shelf"}


@pytest.mark.parametrize("wait", [0.25, 1.0, 3.0])
def test_events_are_matched_however_much_later_they_all_are(wait: float) -> None:
    cues = "right 0.5 s, right+jump 0.8 s, left+jump 0.8 s, jump 0.7 s"
    one = level()
    found = haptos.compare(haptos.simulate(one, cues), haptos.simulate(one, f"wait {wait} s, {cues}"))
    assert {one.change for one in found.differences} == {"moved"}
    assert [one.shift for one in found.differences] == pytest.approx([wait] * len(found.differences))


def test_runs_of_other_tick_rates_are_compared_at_the_same_times() -> None:
    cues = "right 1 s, right+jump 1 s"
    one = level()
    found = haptos.compare(haptos.simulate(one, cues), haptos.simulate(one.changed({"world.tick_rate": 120}), cues))
    assert found.differences == []
    # Between two ticks the second is taken to go straight on: off by g dt²/8, and not at common times at all.
    assert found.farthest[0] < 1e-6


def test_the_tool_says_what_differs(tool: object, tmp_path: Path) -> None:
    file = tmp_path / "attic.toml"
    level().save(file)
    code, out, _ = tool("compare", file, "jump 1 s", "--set", "player.jump.height=80")  # type: ignore[operator]
    assert code == 1
    assert "the paths part at 0.01667 s" in out
    assert "509.1 → 536.7" in out
    assert max(map(len, out.splitlines())) <= 80
    code, out, _ = tool("compare", file, "right 1 s", "--set", "player.jump.height=80", "--json")  # type: ignore[operator]
    assert code == 0
    assert json.loads(out)["same"] is True
    picture = tmp_path / "both.png"
    code, out, _ = tool("compare", file, "jump 1 s", "--with-cues", "right 1 s", "--out", picture)  # type: ignore[operator]
    assert code == 1
    assert picture.stat().st_size > 10_000


@pytest.mark.parametrize(
    ("words", "expected"),
    [
        ((), "found nothing to compare with"),
        (("--set", "player.jmp.height=80"), "unknown key 'jmp' (did you mean 'jump'?)"),
        (("--set", "player.jump.height=3 s"), "found '3 s', expected a length"),
        (("--set", "player.jump.height"), "expected PATH=VALUE"),
        (("--with-cues", "rihgt 1 s"), "rihgt"),
        (("--with", "nowhere.toml"), "nowhere.toml"),
        (("--set", "player.jump.height=80", "--out", "both.gif"), "expected a picture"),
    ],
)
def test_what_cannot_be_compared_is_told_in_a_sentence(
    tool: object, tmp_path: Path, words: tuple[str, ...], expected: str
) -> None:
    file = tmp_path / "attic.toml"
    level().save(file)
    code, out, err = tool("compare", file, "jump 1 s", *words)  # type: ignore[operator]
    assert code == 2
    assert out == ""
    assert expected in err


@pytest.mark.parametrize(
    "command", [("run", "jump 1 s"), ("check",), ("moves",), ("show", "player"), ("why", "player", "floor")]
)
def test_values_are_set_for_one_call(tool: object, tmp_path: Path, command: tuple[str, ...]) -> None:
    file = tmp_path / "attic.toml"
    level().save(file)
    name, *rest = command
    plain = tool(name, file, *rest, "--json")[1]  # type: ignore[operator]
    changed = tool(name, file, *rest, "--json", "--set", "player.jump.height=80")[1]  # type: ignore[operator]
    assert (plain != changed) == (name in ("run", "moves", "show"))
