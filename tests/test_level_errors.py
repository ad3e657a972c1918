"""What is wrong in a level file is told at once, each thing with its line; what is changed is checked as a file is."""

from __future__ import annotations

import re

import pytest

import haptos
from haptos.demo import demo_file
from tests.scenes import floor

MANY = """haptos = 1
title = 3
[world]
gravty = [0, -900]
[player]
at = [0, 0]
jump = { height = "3 s", coyote_time = -1 }
turn_rate = "quick"
[contacts]
layers = ["hero"]

[[pieces]]
name = "floor"
at = [0, 0]
shape = { box = [10] }
solid_from = "top"

[[pieces]]
name = "door"
at = 5
active = "yes"

[[rules]]
when = "entr"
do = [
  { say = "in" },
  { sey = "out" },
]
[map]
rows = 3
signs = { "#" = "stone" }
"""


def test_all_that_is_wrong_is_told_at_once_each_with_its_line(tool, tmp_path):
    file = tmp_path / "attic.toml"
    file.write_text(MANY)
    code, out, err = tool("check", file)
    assert (code, out) == (2, "")
    assert err.replace(f"haptos: {file}:", "").splitlines() == [
        "2: title: found 3, expected a string",
        "4: world.gravty: unknown key 'gravty' (did you mean 'gravity'?)",
        "7: player.jump.height: found '3 s', expected a length such as '24 px'",
        "7: player.jump.coyote_time: found -1, expected a time of 0 or more",
        "8: player.turn_rate: found 'quick', expected 'none' or a number with its unit",
        "15: pieces[0] 'floor', shape.box: found [10], expected 2 entries",
        "16: pieces[0] 'floor', solid_from: found 'top', expected 'above', 'below', 'left' or 'right'",
        "20: pieces[1] 'door', at: found 5, expected a list such as [0, 0]",
        "21: pieces[1] 'door', active: found 'yes', expected true or false",
        "24: rules[0].when: found 'entr', which is none of the words that can stand here (did you mean 'enter'?)",
        "27: rules[0].do[1].sey: unknown key 'sey' (did you mean 'set'?)",
        "30: map.rows: found 3, expected a string, or a list of strings",
    ]


NAMES = """[[pieces]]
name = "floor"
kind = "plnk"
at = [0, 0]

[[pieces]]
name = "loft"
layer = "terain"
shape = { box = [4, 4] }
at = [0, 90]
pieces = [
  { name = "leaf", kind = "plnk" },
]
"""
SOUND = """[[pieces]]
name = "loft"
shape = { box = [4, 4] }
at = [0, 90]
never_meets = ["lofd"]
route = { stops = [[0, 0], [9, 0]], speed = 4, waits_for = "bell" }

[[rules]]
when = "land"
piece = "lift"
do = [{ say = "in" }]
"""
RULES = """[[rules]]
when = "jump"
do = [{ add = "oil" }]

[[rules]]
when = "jump"
do = [
  { say = "up" },
  { remove = "lift" },
]
"""


@pytest.mark.parametrize(
    ("text", "lines"), [(NAMES, [3, 8, 12]), (SOUND, [5, 6, 10]), (RULES, [3, 9])], ids=["names", "sound", "rules"]
)
def test_each_stage_of_looking_tells_all_that_it_finds(tmp_path, text, lines):
    file = tmp_path / "attic.toml"
    file.write_text(text)
    with pytest.raises(haptos.LevelError) as caught:
        haptos.load(file)
    assert [one.line for one in caught.value.all] == lines
    assert len(str(caught.value).splitlines()) == len(lines)


@pytest.mark.parametrize(
    ("name", "text", "sentence"),
    [
        ("a.toml", "[pieces]\nname = 'a'\n", ":1: pieces: found one table [pieces], expected a list of them: [[pie"),
        ("a.toml", "[pieces]\na = 1\n[pieces]\n", ":3: found '[pieces]' a second time, expected each name once"),
        ("a.toml", "title = 'a'\ntitle = 'b'\n", ":2: found 'title' a second time, expected each key once"),
        ("a.toml", "title = 'a\n", ":1: not TOML: found 'title = 'a', expected the end of a string"),
        ("a.toml", "title\n", ":1: not TOML: found 'title', expected KEY = VALUE"),
        ("a.toml", "\ntitle = \n", ":2: not TOML: found 'title =', expected a value such as"),
        ("a.toml", "[player]\nat = [0, 0\n", ":2: not TOML: "),
        ("a.json", '{"title": "a",\n"world": {,}}', ':2: not JSON: found \'"world": {,}}\', expected a key'),
        ("a.json", '{"world":\n {"view": "side",\n "gravty": 3}}', ":3: world.gravty: unknown key"),
        ("a.toml", "[map]\nrows = ['#', '##']\nsigns = {'#' = 's'}\n[kinds.s]", ":1: map: found rows[1] of 2 tiles"),
    ],
)  # fmt: skip
def test_a_slip_is_told_with_its_line(tmp_path, name, text, sentence):
    file = tmp_path / name
    file.write_text(text)
    with pytest.raises(haptos.LevelError, match=re.escape(f"{file}{sentence}")):
        haptos.load(file)


def test_findings_name_their_lines(tool, tmp_path):
    file = tmp_path / "attic.toml"
    file.write_text("title = 'attic'\n\n[[pieces]]\nname = 'floor'\nat = [0, -22]\n")
    code, out, _ = tool("check", file)
    assert code == 1
    assert "line 3, pieces[0] 'floor'" in out


def test_rows_of_a_map_may_be_a_list():
    kinds, signs = {"stone": {}}, {"#": "stone"}
    text, rows = ({"rows": rows, "signs": signs} for rows in ("#.\n##", ["#.", "##"]))
    assert haptos.Level(kinds=kinds, map=text) == haptos.Level(kinds=kinds, map=rows)


LIFT = {"name": "old lift", "kind": "plank", "at": [0, -40], "route": {"stops": [[0, 0], [0, 90]], "speed": 60}}
ATTIC = {
    "title": "attic", "units": {"tile": "16 px"}, "kinds": {"plank": {"shape": {"box": [48, 8]}}},
    "pieces": [floor(400), LIFT],
    "rules": [{"name": "bell", "when": "land", "if": "x > 2 tile", "do": [{"say": "ding"}], "after": 1}],
}  # fmt: skip


def test_a_changed_level_is_another_one_by_the_paths_of_the_file():
    level = haptos.Level(**ATTIC)
    other = level.changed(
        {
            "player.jump.height": "6 tile",
            "pieces.old lift.route.speed": "1 px/frame",
            "pieces.old lift.at": [0, -50],
            "kinds.plank.crumble.delay": "30 frame",
            "rules.bell.after": 2,
            "rules[0].do[0].say": "dong",
            "pieces[1].route.stops[1]": [0, 80],
        }
    )
    assert level == haptos.Level(**ATTIC)
    assert other.player.jump.height == 96
    assert (other.pieces[1].route.speed, other.pieces[1].at) == (60, (0, -50))
    assert other.kinds["plank"].crumble.delay == 0.5
    assert (other.rules[0].after, other.rules[0].do[0].say) == (2, "dong")
    assert other.pieces[1].route.stops == ((0, 0), (0, 80))
    assert str(other.rules[0].if_) == "x > 2 tile"


@pytest.mark.parametrize(
    ("path", "value", "sentence"),
    [
        ("player.jump.hight", 3, "player.jump.hight: unknown key 'hight' (did you mean 'height'?)"),
        ("pieces.old lif.at", [0, 0], "pieces.old lif.at: unknown name 'old lif' (did you mean 'old lift'?)"),
        ("pieces[7].at", [0, 0], "pieces[7].at: found entry 7, expected one below 2"),
        ("kinds.plnk.layer", "x", "unknown name 'plnk' (did you mean 'plank'?)"),
        ("player.jump.height.x", 3, "found 'x' within a plain value, expected the path to end before it"),
        ("player.jump.height", "3 s", "player.jump.height: found '3 s', expected a length such as '24 px'"),
        ("pieces.old lift.kind", "plnk", "pieces[1] 'old lift', kind: no kind 'plnk' (did you mean 'plank'?)"),
    ],
)
def test_a_change_that_can_not_be_made_is_one_sentence(path, value, sentence):
    with pytest.raises(haptos.LevelError) as caught:
        haptos.Level(**ATTIC).changed({path: value})
    assert sentence in str(caught.value)


@pytest.mark.parametrize("suffix", ["toml", "json"])
@pytest.mark.parametrize("name", ["stair-hall.toml", "orrery-hall.toml", "ember-gallery.toml"])
def test_a_level_that_is_saved_is_read_as_the_same_one(tmp_path, name, suffix):
    level = haptos.load(demo_file(name))
    again = haptos.load(level.save(tmp_path / f"copy.{suffix}"))
    assert again == level
    assert hash(again) == hash(level)
    with pytest.raises(haptos.HaptosError, match=r"expected a level ending in \.toml or \.json"):
        level.save(tmp_path / "copy.txt")


def test_a_level_is_checked_whole_when_it_is_made_and_stays_as_it_is():
    with pytest.raises(haptos.LevelError, match=r"rules\[0\], do\[0\]\.add: no counter 'oil'"):
        haptos.Level(rules=[{"when": "jump", "do": [{"add": "oil"}]}])
    level = haptos.Level(**ATTIC)
    for change in (
        lambda: level.pieces.append(LIFT),
        lambda: level.kinds.update(x=1),
        lambda: setattr(level.player, "at", (1, 1)),
        lambda: setattr(level.pieces[0], "name", "x"),
    ):
        with pytest.raises((TypeError, AttributeError, ValueError)):
            change()


def test_a_level_and_a_run_are_shown_in_a_few_lines():
    level = haptos.Level(**ATTIC)
    assert repr(level) == "<Level 'attic': side view, 2 pieces, 1 kind, 1 rule, 60 ticks/s>"
    assert "<td>old lift</td><td>plank</td><td>0, -40</td><td>route</td>" in level._repr_html_()
    run = haptos.simulate(level.changed({"player.at": [0, 14]}), "right 0.5 s")
    assert repr(run) == (
        "<Run of 'attic': 0.5 s, 30 ticks, 2 events; ended on floor at (68.75, 14): the cues are over>"
    )
    assert "<th>event</th>" in run._repr_html_()


def test_show_and_why_know_the_player_kinds_and_the_bounds(tool, tmp_path):
    level = haptos.Level(**ATTIC, world={"bounds": {"corners": [-90, -90, 90, 90], "left": "wall"}})
    file = level.save(tmp_path / "attic.toml")
    shown = {
        "player": "gaits.walk            150",
        "plank": "shape.box  [48, 8]  kind plank",
        "kind:plank": "shape.box  [48, 8]  kind plank",
        "bounds/left": "bounds/left  wall   world.bounds.left",
    }
    for name, words in shown.items():
        code, out, _ = tool("show", file, name)
        assert code == 0
        assert words.split() in [line.split()[: len(words.split())] for line in out.splitlines()], out
    assert "no piece or kind is called 'plnk' (did you mean 'plank'?)" in tool("show", file, "plnk")[2]
    assert haptos.why(level, "player", "kind:plank").reasons[0] == (
        "one piece is the kind 'plank'; 'old lift' stands for it"
    )
    assert haptos.why(level, "bounds/left", "player").meeting == "solid"
    assert haptos.why(level, "player", "bounds/right").reasons[0] == "world.bounds.right is 'open'"
    assert haptos.why(level, "floor", "bounds/left").meeting == "nothing"
