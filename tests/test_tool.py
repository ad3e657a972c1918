"""The command-line tool as its users meet it."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pandas as pd
import pytest
from PIL import Image

import haptos
from haptos import cli
from haptos.demo import demo_file

ROOM = str(demo_file("first-room.toml"))
SHEET = str(demo_file("gets-through.toml"))


@pytest.fixture
def tool(capsys, monkeypatch):
    def call(*words: object) -> tuple[int, str, str]:
        monkeypatch.setattr(sys, "argv", ["haptos", *map(str, words)])
        code = 0
        try:
            cli.main()
        except SystemExit as stop:
            code = int(stop.code or 0)
        out = capsys.readouterr()
        return code, out.out, out.err

    return call


def test_new_writes_a_level_that_runs_and_never_overwrites(tool, tmp_path):
    file = tmp_path / "room.toml"
    assert tool("new", file)[0] == 0
    assert tool("check", file)[0] == 0
    code, out, _ = tool("run", file, "right 1.2 s, right+jump 0.2 s, wait 1 s")
    assert (code, "A first room" in out, "jump" in out) == (0, True, True)
    file.write_text("mine")
    code, _, err = tool("new", file)
    assert (code, file.read_text()) == (2, "mine")
    assert "exists already" in err


def test_run_prints_and_writes_what_happened(tool, tmp_path):
    code, out, _ = tool("run", ROOM, SHEET, "--out", tmp_path / "out", "--json")
    answer = json.loads(out)
    assert code == 0
    assert answer["summary"]["says"] == ["the door lamp takes the flame", "the stair lamp takes the flame"]
    track = pd.read_csv(answer["files"]["track"])
    events = pd.read_csv(answer["files"]["events"])
    run = haptos.simulate(haptos.load(ROOM), haptos.load_cues(SHEET))
    assert list(track.columns) == list(run.track.columns)
    assert track.x.tolist() == run.track.x.tolist()
    assert events.event.tolist() == run.events.event.tolist() == [event["event"] for event in answer["events"]]
    with Image.open(answer["files"]["picture"]) as picture:
        assert picture.size == (1280, 800)


def test_the_two_sheets_of_the_demo(tool):
    _, out, _ = tool("run", ROOM, str(demo_file("falls-short.toml")))
    assert "the lamplighter is lost in the shaft" in out
    _, out, _ = tool("run", ROOM, SHEET)
    assert "lost  never" in out


def test_draw_check_moves_why_show_schema(tool, tmp_path):
    code, out, _ = tool("draw", ROOM, SHEET, "--out", tmp_path / "room.svg")
    assert code == 0
    assert (tmp_path / "room.svg").read_text().startswith("<?xml")
    assert "enter stair lamp" in out
    leak = tmp_path / "leak.toml"
    bounds = 'bounds = { corners = [-50, -50, 50, 50], left = "open", right = "wall", top = "wall", bottom = "wall" }'
    leak.write_text(f'[world]\nview = "top"\n{bounds}\n')
    code, out, _ = tool("check", leak, "--json")
    assert (code, json.loads(out)["findings"][0]["code"]) == (1, "leak")
    code, out, _ = tool("moves", ROOM, "--json")
    widest = {row["gait"]: row["simulated"] for row in json.loads(out)["moves"] if row["quantity"] == "widest gap"}
    # The shaft is 144 wide: it can't be walked, but it can be sprinted.
    assert widest["walk"] < 144 < widest["sprint"]
    code, out, _ = tool("why", ROOM, "player", "door lamp", "--json")
    assert json.loads(out)["meeting"] == "overlap"
    code, out, _ = tool("show", ROOM, "book shelf")
    assert "kind long_shelf" in out
    code, out, _ = tool("schema")
    assert json.loads(out)["properties"]["player"]


def test_what_can_not_be_used_ends_with_two_and_leaves_nothing(tool, tmp_path):
    file = tmp_path / "file"
    file.write_text("")
    for words, wanted in (
        (("run", tmp_path / "nope.toml"), "no such file"),
        (("run", ROOM, "rigth 1 s"), "did you mean 'right'"),
        (("run", ROOM, "nope.toml"), "no such cue sheet"),
        (("run", ROOM, "wait 1 s", "--out", file), "this is a file"),
        (("draw", ROOM, "--out", tmp_path / "a.gif"), "wanted a picture"),
        (("draw", ROOM, "--out", tmp_path / "none" / "a.png"), "can't be written"),
        (("show", ROOM, "book shlf"), "did you mean 'book shelf'"),
        (("why", ROOM, "player", "nobody"), "no piece is called 'nobody'"),
        (("run", SHEET), "this is a cue sheet, wanted a level"),
    ):
        code, _, err = tool(*words)
        assert (code, wanted in err, "Traceback" in err) == (2, True, False), err
        assert err.count("\n") == 1
    assert sorted(path.name for path in tmp_path.iterdir()) == ["file"]


def test_the_tool_as_a_process():
    done = subprocess.run([sys.executable, "-m", "haptos.cli", "check", "nope.toml"], capture_output=True, text=True)
    assert (done.returncode, done.stdout) == (2, "")
    assert done.stderr.startswith("haptos: nope.toml: no such file")


def test_labels_and_paths_of_the_demo_command(tool, tmp_path):
    code, out, _ = tool("demo", "--out", tmp_path / "demo")
    assert code == 0
    written = {
        str(path.relative_to(tmp_path / "demo")) for path in Path(tmp_path / "demo").rglob("*") if path.is_file()
    }
    assert {"gets-through/picture.png", "falls-short/track.csv", "falls-short/events.csv"} <= written
    assert "widest gap" in out
