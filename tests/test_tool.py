"""The command-line tool as its users meet it."""

from __future__ import annotations

import json
import re
import subprocess
import sys
from pathlib import Path

import pandas as pd
import pytest
from PIL import Image

import haptos
from haptos.commands.begin_level import STARTER_CUES
from haptos.demo import DEMO_SHEETS, demo_file

ROOM = str(demo_file("first-room.toml"))
SHEET = str(demo_file("gets-through.toml"))


def test_new_writes_a_level_that_runs_and_never_overwrites(tool, tmp_path):
    file = tmp_path / "room.toml"
    assert tool("new", file)[0] == 0
    assert tool("check", file)[0] == 0
    code, out, _ = tool("run", file, STARTER_CUES)
    assert (code, "A first room" in out, "the lamplighter stands in the light" in out) == (0, True, True)
    assert "too_late" not in out
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
    for words, expected in (
        (("run", tmp_path / "nope.toml"), "no such file"),
        (("run", ROOM, "rigth 1 s"), "did you mean 'right'"),
        (("run", ROOM, "nope.toml"), "no such cue sheet"),
        (("run", ROOM, "wait 1 s", "--out", file), "this is a file"),
        (("draw", ROOM, "--out", tmp_path / "a.gif"), "expected a picture"),
        (("draw", ROOM, "--out", tmp_path / "none" / "a.png"), "can't be written"),
        (("show", ROOM, "book shlf"), "did you mean 'book shelf'"),
        (("why", ROOM, "player", "nobody"), "no piece is called 'nobody'"),
        (("run", SHEET), "this is a cue sheet, expected a level"),
    ):
        code, _, err = tool(*words)
        assert (code, expected in err, "Traceback" in err) == (2, True, False), err
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
    assert {"over-the-pit/pieces.csv", "across-the-loft/picture.png", "through-the-embers/pieces.csv"} <= written
    assert {"gets-through/picture.png", "falls-short/track.csv", "falls-short/events.csv"} <= written
    # One screen: a line for each room and cue sheet, and what to try next.
    assert len(out.splitlines()) < 24
    for room, sheets in DEMO_SHEETS.items():
        assert room in out
        assert all(sheet in out for sheet in sheets)
    code, out, _ = tool("demo", "lift-shaft", "--out", tmp_path / "shaft")
    assert code == 0
    assert "is squeezed by press" in out
    assert "widest gap" in out
    assert "no room of the demo is called 'shaft'" in tool("demo", "shaft", "--out", tmp_path / "none")[2]


HALL = str(demo_file("stair-hall.toml"))


def test_the_hall_is_crossed_by_its_sheet_and_slipped_in_by_the_other(tool):
    code, out, _ = tool("run", HALL, str(demo_file("up-the-rigging.toml")), "--json")
    answer = json.loads(out)
    assert code == 0
    assert answer["summary"]["says"] == ["the tar holds the lamplighter's feet", "the far lamp takes the flame"]
    happened = {event["event"] for event in answer["events"]}
    assert {"pass", "launch", "climb", "step", "land", "enter"} <= happened
    met = {event["piece"] for event in answer["events"]}
    assert {"awning 2", "ramp", "drum", "gallery", "wet flags", "rigging", "loft", "belt", "mattress", "step"} <= met
    _, out, _ = tool("run", HALL, str(demo_file("slips-on-the-flags.toml")))
    assert "parts from wet flags" in out
    assert "on map/stone" in out


def test_gaps_as_a_table_for_programs_and_in_the_picture(tool, tmp_path):
    code, out, _ = tool("moves", HALL, "--gaps")
    assert code == 0
    drum = next(line for line in out.splitlines() if line.startswith("drum"))
    # From the drum's top at 12 to the gallery's at 120: 72, and what a round foot is lifted by, is not enough.
    assert "108" in drum
    assert "too high by 33.5 px" in drum
    rows = json.loads(tool("moves", HALL, "--gaps", "--json")[1])["gaps"]
    launch = next(row for row in rows if row["start"] == "drum" and row["gait"] == "launch")
    assert launch["margin"] > 0
    assert {row["margin"] is None for row in rows if row["needs"] > 0} == {True}
    code, out, _ = tool("draw", HALL, "--gaps", "--out", tmp_path / "gaps.png")
    assert code == 0
    assert "drum → gallery, launch: cleared by" in out
    with Image.open(tmp_path / "gaps.png") as picture:
        assert picture.size == (1280, 800)


def test_moves_prints_how_far_each_method_is_off(tool):
    answer = json.loads(tool("moves", HALL, "--json")[1])
    apex = next(row for row in answer["integrators"] if row["quantity"] == "apex height")
    assert apex["closed_form"] == 72
    assert apex["exact"] == pytest.approx(72, rel=1e-9)
    assert apex["semi-implicit-euler"] < 70 < apex["velocity-verlet"] < 72


def test_show_and_why_explain_facets(tool, tmp_path):
    _, out, _ = tool("show", HALL, "drum")
    shown = [line.split() for line in out.splitlines()]
    assert ["launch.height", "150", "kind", "drum"] in shown
    assert ["rest.on", "layer:stone", "the", "piece", "itself"] in shown
    assert ["launch.from", "above", "default"] in shown
    _, out, _ = tool("show", HALL, "awning 3")
    assert "a copy of 'awning'" in out
    _, out, _ = tool("why", HALL, "player", "awning")
    assert "it is solid from above alone" in out
    level = tmp_path / "ghost.toml"
    level.write_text('[[pieces]]\nname = "ghost"\nat = [0, 0]\nshape = { box = [9, 9] }\nnever_meets = ["player"]\n')
    _, out, _ = tool("why", level, "player", "ghost")
    assert "they ignore each other" in out
    assert "never_meets switches the pair off" in out


FAULTS = {
    '[[rules]]\nwhen = "start"\ndo = [{ set = "slap.active", to = true }]': "there is no piece 'slap' (did",
    '[[rules]]\nwhen = "start"\ndo = [{ spawn = "ember", at = "slab" }]': "no kind or spawner is called 'ember'",
    "launch = { speed = 3, height = 4 }": "pieces[0] 'slab', launch: found speed and height, expected one of them",
    "launch = { height = 4, direction = 270 }": "launch: found a height with a direction that does not go up",
    "launch = { hight = 4 }": "launch.hight: unknown key 'hight' (did you mean 'height'?)",
    'solid_from = "top"': "pieces[0] 'slab', solid_from: found 'top', expected 'above', 'below', 'left' or 'right'",
    "shape = { polygon = [[0, 0], [9, 9], [9, 0], [0, 5]] }": "crosses itself at (",
    "parts = []": "pieces[0] 'slab', parts: found []",
    "scale = 0": "pieces[0] 'slab', scale: found 0, expected a plain number above 0",
    'rest = { on = "floor", gap = -1 }': "pieces[0] 'slab', rest.gap: found -1, expected a length of 0 or more",
    'copies = [[1, "2 s"]]': "pieces[0] 'slab', copies[0][1]: found '2 s', expected a length",
    "ladder = { speed_factor = nan }": "pieces[0] 'slab', ladder.speed_factor: found nan, expected a finite number",
    "surface = { conveyor = true }": "pieces[0] 'slab', surface.conveyor: found true, expected a speed",
    "field = 3": "pieces[0] 'slab', field: found 3, expected a table",
}


@pytest.mark.parametrize("fault", FAULTS)
@pytest.mark.parametrize("command", ["run", "check"])
def test_bad_facets_end_in_one_sentence_with_the_place(tool, tmp_path, fault, command):
    level = tmp_path / "level.toml"
    level.write_text(f'[[pieces]]\nname = "slab"\nat = [0, 0]\n{fault}\n')
    code, out, err = tool(command, level)
    assert (code, out, err.count("\n"), "Traceback" in err) == (2, "", 1, False), err
    assert re.match(rf"haptos: {re.escape(str(level))}:[456]: ", err)
    assert FAULTS[fault] in err


def test_pictures_show_what_facets_are(tmp_path):
    level = haptos.load(HALL)
    ax = haptos.draw(level)
    live = [line for line in ax.lines if line.get_linewidth() == 3.2]
    # Three awnings, the loft, and the two links of the chain have a live edge.
    assert len(live) == 6
    arrows = [text for text in ax.texts if getattr(text, "arrow_patch", None) is not None]
    # Drum and belt, each arrow drawn twice.
    assert len(arrows) == 4


def test_the_tool_is_a_module_too_and_says_its_version(tool):
    assert tool("--version") == (0, f"haptos {haptos.__version__}\n", "")
    done = subprocess.run([sys.executable, "-m", "haptos", "--version"], capture_output=True, text=True, check=True)
    assert done.stdout == f"haptos {haptos.__version__}\n"


def test_run_prints_what_is_asked_for_and_writes_what_the_cues_came_to(tool, tmp_path):
    room, sheet = demo_file("first-room.toml"), tmp_path / "came-to.toml"
    cues = "right until ledge, right+jump until apex, right until land within 1 s"
    code, out, _ = tool("run", room, cues, "--only", "apex,jump,end", "--cues-out", sheet)
    assert code == 0
    rows = out[out.index("t (s)") :].splitlines()
    assert [line.split()[1] for line in rows[1:4]] == ["jump", "apex", "end"]
    assert "2 right+jump until apex" in rows[1]
    played = json.loads(tool("run", room, cues, "--json")[1])["summary"]["to"]
    assert json.loads(tool("run", room, sheet, "--json")[1])["summary"]["to"] == played
    code, _, error = tool("run", room, cues, "--only", "lnad")
    assert (code, error) == (2, "haptos: --only: 'lnad' is not an event (did you mean 'land'?)\n")
    code, _, error = tool("run", room, "right 1,5 s")
    assert (code, error) == (2, "haptos: cues: cue 1: found '1,5 s', expected a decimal point: '1.5 s'\n")
