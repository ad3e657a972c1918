"""Level files: units, defaults, kinds, and one clear sentence for whatever can't be used."""

from __future__ import annotations

import json
import pickle
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

import haptos
from haptos.demo import demo_file
from haptos.files.reading import load, load_cues
from haptos.level.cues import parse_cues
from haptos.level.origins import values_of
from haptos.level.quantity import Units
from haptos.level.resolve import ResolvedLevel


def written(tmp_path, text, name="level.toml"):
    path = tmp_path / name
    path.write_text(text)
    return path


@pytest.mark.parametrize(
    ("text", "dimension", "number"),
    [
        ("4 px/frame", "speed", 240.0),
        ("50 frames", "time", 50 / 60),
        ("0.25 turn", "angle", 90.0),
        ("1.5 tile", "length", 24.0),
        ("200 ms", "time", 0.2),
        ("2 tile/s^2", "acceleration", 32.0),
        ("0.06 tonne", "mass", 60.0),
    ],
)
def test_a_string_may_carry_another_unit(text, dimension, number):
    assert Units("px", 60, {"tile": "16 px"}).convert(text, dimension) == pytest.approx(number, rel=1e-12)


def test_metres_are_metres():
    level = haptos.Level(world={"length_unit": "m", "gravity": [0, "-9.81 m/s^2"]}, player={"at": ["120 cm", 0]})
    assert level.player.at == (1.2, 0)


@given(st.floats(0.1, 1e4), st.sampled_from([24.0, 30.0, 60.0]))
def test_a_frame_is_a_share_of_a_second_whatever_the_tick_rate(frames, rate):
    level = haptos.Level(
        world={"frame_rate": rate, "tick_rate": 144}, player={"jump": {"buffer_time": f"{frames!r} frame"}}
    )
    assert level.player.jump.buffer_time == pytest.approx(frames / rate, rel=1e-12)


def test_json_and_toml_mean_the_same(tmp_path):
    level = load(demo_file("first-room.toml"))
    path = written(tmp_path, json.dumps(level.model_dump(exclude_unset=True, by_alias=True)), "level.json")
    assert load(path) == level
    assert haptos.Level.model_json_schema()["properties"]["map"]


def test_kinds_are_based_on_kinds_key_by_key():
    kinds = {
        "plank": {"shape": {"box": [48, 8]}, "layer": "ledge", "marks": ["wood"], "turn": 5},
        "long": {"based_on": "plank", "shape": {"box": [96, 8]}, "marks": ["long"]},
    }
    pieces = [{"name": "one", "kind": "long", "at": [0, 0], "turn": 30}, {"name": "two", "kind": "plank", "at": [9, 9]}]
    resolved = ResolvedLevel(haptos.Level(kinds=kinds, pieces=pieces))
    one = resolved.by_name["one"]
    assert (one.parts[0].shape.box, one.layer, one.turn, one.marks) == ((96, 8), "ledge", 30, ("long", "wood"))
    assert one.kinds == ("long", "plank")
    assert [piece.name for piece in resolved.selected("plank")] == ["one", "two"]
    origins = {(row.key, str(row.value)): row.origin for row in values_of(resolved, "one")}
    assert origins["turn", "30.0"] == "the piece itself"
    assert origins["layer", "ledge"] == "kind plank"
    assert origins["marks", "wood"] == "kind plank"
    assert origins["shape.box", "[96.0, 8.0]"] == "kind long"


def test_default_layers():
    rules = [
        {"when": "enter", "piece": "felt", "do": [{"say": "x"}]},
        {"when": "enter", "piece": "both", "do": [{"say": "x"}]},
        {"when": "touch", "piece": "both", "do": [{"say": "x"}]},
    ]
    pieces = [{"name": name, "at": [0, 0], "shape": {"circle": 1}} for name in ("felt", "both", "plain")]
    resolved = ResolvedLevel(haptos.Level(pieces=pieces, rules=rules))
    assert [piece.layer for piece in resolved.pieces] == ["zone", "terrain", "terrain"]


BAD = {
    "broken TOML": ("[world", "not TOML"),
    "an unknown key": ("[world]\ngravty = [0, -1]", "world.gravty: unknown key 'gravty' (did you mean 'gravity'?)"),
    "a wrong unit": ('[player]\ngaits = { walk = "3 s" }', "player.gaits.walk: found '3 s', expected a speed"),
    "an unknown unit": ('[player]\ngaits = { walk = "3 yd/s" }', "whose unit 'yd' is not known"),
    "a layer not declared": (
        '[contacts]\nlayers = ["stone"]\n[contacts.solid]\nstone = ["ston"]\n[player]\nlayer = "stone"',
        "found layer 'ston', which is not declared (did you mean 'stone'?)",
    ),
    "a pair both ways": (
        '[player]\nlayer = "a"\n[contacts]\nlayers = ["a", "b"]\nsolid = { a = ["b"] }\noverlap = { b = ["a"] }',
        "both solid and overlap",
    ),
    "a kind based on itself": ('[kinds.a]\nbased_on = "b"\n[kinds.b]\nbased_on = "a"', "the loop a → b → a"),
    "not a number": ("[player]\nat = [nan, 0]", "player.at[0]: found nan, expected a finite number"),
    "infinity": ("[world]\ntick_rate = inf", "world.tick_rate: found inf"),
    "a truth value": ("[world]\ntick_rate = true", "world.tick_rate: found true"),
    "another version": ("haptos = 2", "found format version 2, expected 1"),
    "two forms": (
        '[[pieces]]\nname = "x"\nat = [0, 0]\nshape = { box = [1, 2], circle = 3 }',
        "pieces[0] 'x', shape: found box and circle, expected exactly one",
    ),
    "a name twice": (
        '[[pieces]]\nname = "x"\nat = [0, 0]\n[[pieces]]\nname = "x"\nat = [0, 0]',
        "pieces[1] 'x': found the name a second time",
    ),
    "an unknown kind": (
        '[kinds.stone]\n[[pieces]]\nname = "x"\nkind = "stne"\nat = [0, 0]',
        "no kind 'stne' (did you mean 'stone'?)",
    ),
    "no place": ('[[pieces]]\nname = "x"', "pieces[0] 'x', at: found none"),
    "uneven rows": ('[kinds.s]\n[map]\nrows = "##\\n#"\nsigns = { "#" = "s" }', "found rows[1] of 1 tiles, expected 2"),
    "an unknown sign": ('[kinds.s]\n[map]\nrows = "#?"\nsigns = { "#" = "s" }', "found '?' in rows[0]"),
    "half a wrap": (
        '[world]\nbounds = { corners = [0, 0, 9, 9], left = "wrap" }',
        "found wrap on one of left and right",
    ),
    "jump by both": ("[player]\njump = { height = 1, speed = 2 }", "found both height and speed"),
    "a moment without its zone": ('[[rules]]\nwhen = "enter"\ndo = [{ say = "x" }]', "without a piece"),
}


@pytest.mark.parametrize("case", BAD)
def test_bad_levels_give_one_sentence_with_the_place(case, tmp_path):
    text, expected = BAD[case]
    path = written(tmp_path, text)
    with pytest.raises(haptos.LevelError) as caught:
        ResolvedLevel(load(path))
    message = str(caught.value.within(str(path)) if not caught.value.file else caught.value)
    assert re.match(re.escape(str(path)) + r":\d+: ", message)
    assert expected in message
    assert "\n" not in message.replace("\\n", "")


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("rigth 1 s", "'rigth' is not a control (did you mean 'right'?)"),
        ("right", "without a time"),
        ("right 1 px", "found '1 px', expected a time"),
        ("right -1 s", "zero or more"),
        ("wait 1 s, place 3", "cue 2: found 'place 3'"),
        ("wait nan", "finite"),
        ("?", "found '?'"),
    ],
)
def test_bad_cues_give_one_sentence(text, expected):
    with pytest.raises(haptos.CueError) as caught:
        parse_cues(text)
    assert expected in str(caught.value)


def test_cues_are_rounded_once_from_the_cumulative_time():
    # A third of a second again and again: 20 ticks each at 60, however often.
    schedule = parse_cues("right 0.3333333333 s, wait 0.3333333333 s, " * 30).schedule(60)
    edges = [index for index in range(1, len(schedule.held)) if schedule.held[index] != schedule.held[index - 1]]
    assert len(schedule.held) == 1200
    assert edges == list(range(20, 1200, 20))


def test_more_ticks_than_a_machine_holds_are_refused():
    with pytest.raises(haptos.CueError, match="expected 50000000 at most"):
        haptos.simulate(haptos.Level(world={"tick_rate": 1e5}), "wait 1000 s")


def test_cue_files_of_every_sort(tmp_path):
    sheet = written(
        tmp_path, 'haptos_cues = 1\ncues = """\nright 1 s\n# a remark\njump 30 frame & left 0.2 s\n"""', "cues.toml"
    )
    table = written(tmp_path, "t,held\n0,right\n1,jump+left\n1.2,jump\n1.5,\n", "cues.csv")
    text = written(tmp_path, "right 1 s\njump 0.5 s & left 0.2 s\n", "cues.txt")
    schedules = [load_cues(path).schedule(60).held.tolist() for path in (sheet, table, text)]
    assert schedules[0] == schedules[1] == schedules[2]
    assert schedules[0][59:61] == [2, 17]
    for name, content, expected in (
        ("a.toml", "haptos_cues = 2\ncues = ''", "found 2, expected 1"),
        ("b.toml", "haptos_cues = 1\ncue = ''", "unknown key 'cue' (did you mean 'cues'?)"),
        ("c.csv", "t,held\n1,right\n0,left", "line 3"),
        ("d.csv", "time,keys\n1,right", "the columns t and held"),
        ("e.csv", "t,held,hand\n0,right,trunk\n1,,", "line 2: found 'hand trunk in 1.0', expected 'hand trunk to"),
    ):
        with pytest.raises(haptos.CueError) as caught:
            load_cues(written(tmp_path, content, name))
        assert expected in str(caught.value)
        assert name in str(caught.value)


def test_an_error_keeps_its_sentence_from_one_process_to_another():
    error = haptos.LevelError("player.at", "missing", "stair.toml")
    assert str(pickle.loads(pickle.dumps(error))) == "stair.toml: player.at: missing"
