"""What cue sheets expect: what holds and what does not, the nearest miss, and sheets verified in numbers."""

from __future__ import annotations

import json
import math
import re
import shutil
import subprocess
import sys
from pathlib import Path
from xml.etree import ElementTree

import pytest

import haptos
from haptos.demo import DEMO_SHEETS, demo_file
from haptos.level.conditions import condition_of
from haptos.level.expectations import Expectation, read_expectations
from haptos.study.expectations_of import expectations_of
from haptos.study.outcomes import outcomes_of

G, UP = 1800.0, math.sqrt(2 * 72 / 1800)
SHEETS = [(room, sheet) for room, sheets in DEMO_SHEETS.items() for sheet in sheets]
LEVEL = """
haptos = 1
player = { at = [0, 14] }
pieces = [
    { name = "floor", shape = { box = [4000, 16] }, at = [0, -8] },
    { name = "shelf", shape = { box = [60, 8] }, at = [0, 46], solid_from = "above" },
    { name = "drop", shape = { circle = 4 }, at = [150, 14], pickup = { counter = "oil", worth = 3 } },
]
counters = { oil = {} }
"""
CUES = "jump 1 s, right 2 s, wait 1 s"


@pytest.fixture(scope="module")
def run(tmp_path_factory: pytest.TempPathFactory) -> haptos.Run:
    file = tmp_path_factory.mktemp("levels") / "attic.toml"
    file.write_text(LEVEL)
    return haptos.simulate(haptos.load(file), CUES)


# Up to the shelf at 50 it jumps at 509 px/s; it comes down on it from 72 px by 22, at 2 t_up - t(50) …
LANDS = UP + math.sqrt(2 * (72 - 50) / G)


@pytest.mark.parametrize(
    ("expected", "held", "message"),
    [
        ({"event": "land", "piece": "shelf"}, True, f"at {LANDS:.6g}"),
        ({"event": "land", "piece": "shelf", "after": 0.4, "before": 0.5}, True, "land on shelf"),
        ({"event": "land", "piece": "shelf", "before": 0.3}, False, f"expected before 0.3 s, came at {LANDS:.6g} s"),
        ({"event": "land", "piece": "shelf", "after": "60 frame"}, False, f"expected after 1 s, came at {LANDS:.6g} s"),
        ({"event": "land", "count": 1}, False, "expected 1, found 2"),
        ({"event": "land", "at_least": 3}, False, "expected at least 3, found 2"),
        ({"event": "land", "at_most": 1, "after": 0.1}, False, "expected at most 1 after 0.1 s, found 2"),
        ({"event": "jump", "never": True}, False, "expected never, came at 0 s"),
        ({"event": "hurt", "never": True}, True, "never came"),
        ({"event": "land", "piece": "drop"}, False, "land came on floor at"),
        ({"event": "collect", "who": "player", "piece": "drop", "count": 1}, True, "collect drop"),
        ({"event": "finish"}, False, "expected at least once, never came"),
        # The apex is 72 over the floor, at 14 + 72.
        ({"near": [0, 86], "within": 0.1}, True, "px away at 0.28"),
        ({"near": [0, 100], "within": 13}, False, "never nearer than 14 px"),
        ({"near": [0, 14], "within": 0.1, "at": 0}, True, "0 px away at 0 s"),
        ({"near": [0, 14], "within": 5, "at": "end"}, False, "px away at the end, at ("),
        ({"near": [0, 14], "within": 5, "at": 9}, False, "expected at 9 s, the run ended at 4 s"),
        ({"that": "oil >= 3", "at": "end"}, True, "oil was 3"),
        ({"that": "oil >= 3", "at": 0.5}, False, "expected at 0.5 s, oil was 0"),
        ({"that": "oil == 0", "always": True}, False, "expected always, at"),
        ({"that": "oil > 3"}, False, "never so; at"),
        ({"that": "y > 80"}, True, "so at 0.2"),
        ({"that": "support == shelf and x < 5"}, True, "so at"),
        ({"that": "not drop.active", "at": "end"}, True, "drop was not there"),
        ({"under": 5}, True, "took 4 s"),
        ({"under": 4}, False, "expected under 4 s, took 4 s"),
        ({"event": "collect", "under": 1}, False, "expected under 1 s, came at"),
    ],
)  # fmt: skip
def test_an_expectation_holds_or_says_the_nearest_miss(run, expected, held, message):
    (outcome,) = outcomes_of(run, read_expectations([expected], run.level.unit_table()))
    assert (outcome.held, message in outcome.message) == (held, True), outcome


@pytest.mark.parametrize(("room", "sheet"), SHEETS)
def test_what_the_demo_expects_holds_and_none_of_it_can_fail_unnoticed(room, sheet):
    level = haptos.load(demo_file(f"{room}.toml"))
    outcomes = haptos.verify(level, demo_file(f"{sheet}.toml"))
    assert len(outcomes) >= 2
    assert not [outcome for outcome in outcomes if not outcome.held]
    run = haptos.simulate(level, haptos.load_cues(demo_file(f"{sheet}.toml"), level.unit_table()))
    for outcome in outcomes_of(run, [mutated(outcome.expectation, run) for outcome in outcomes]):
        assert not outcome.held, outcome
        assert re.search(r"\d|never came| was ", outcome.message.partition(": ")[2]), outcome
    # And what a run is said to do holds of it.
    assert all(outcome.held for outcome in outcomes_of(run, expectations_of(run)))


def mutated(one: Expectation, run: haptos.Run) -> Expectation:
    """Return an expectation that is off by as much as can be noticed."""
    keys = one.model_dump(exclude_defaults=True)
    if one.near is not None:
        return Expectation(**keys | {"near": (one.near[0], one.near[1] + 2.5 * one.within + 5), "at": "end"})
    if one.that is not None:
        when = {"at": one.at} if one.at is not None else {"always": True}
        return Expectation(that=condition_of(f"not ({one.that})"), **when)
    if one.under is not None:
        return Expectation(**keys | {"under": 0.1})
    if one.never:
        return Expectation(**{key: value for key, value in keys.items() if key != "never"})
    if one.count is not None:
        return Expectation(**keys | {"count": one.count + 1})
    if one.at_least is not None:
        return Expectation(**keys | {"at_least": one.at_least + 50})
    # Just before it came.
    came = min(row.t for row in run.event_rows if row.event == one.event and one.piece in (None, row.piece))
    return Expectation(**{key: value for key, value in keys.items() if key != "after"} | {"before": came - 1e-3})


def test_a_run_that_is_written_down_is_verified_and_told_apart_from_another(tool, tmp_path):
    level, sheet = tmp_path / "rooms" / "attic.toml", tmp_path / "sheets" / "attic.cues.toml"
    level.parent.mkdir()
    sheet.parent.mkdir()
    level.write_text(LEVEL)
    assert tool("run", level, CUES, "--expect-out", sheet)[0] == 0
    assert 'level = "../rooms/attic.toml"' in sheet.read_text()
    code, out, _ = tool("verify", tmp_path)
    assert (code, "all 5" in out) == (0, True)
    code, out, _ = tool("verify", sheet, "--set", "player.jump.height=30", "--junit", tmp_path / "report.xml")
    assert code == 1
    assert "land on shelf: expected after 0.39 s and before 0.49 s, never came" in out
    (suite,) = ElementTree.parse(tmp_path / "report.xml").getroot()
    failures = [case for case in suite if case.find("failure") is not None]
    assert int(suite.get("failures")) == len(failures) > 0
    code, out, _ = tool("run", level, sheet, "--set", "player.jump.height=30", "--json")
    assert code == 1
    assert len(failures) == sum(not one["held"] for one in json.loads(out)["outcomes"])


def test_a_test_runner_collects_sheets(tmp_path):
    (tmp_path / "attic.toml").write_text(LEVEL)
    head = f'haptos_cues = 1\nlevel = "attic.toml"\ncues = "{CUES}"\n'
    (tmp_path / "attic.cues.toml").write_text(
        head + '[[expect]]\nname = "up"\nevent = "land"\npiece = "shelf"\n[[expect]]\nthat = "oil > 7"\nat = "end"\n'
    )
    (tmp_path / "broken.cues.toml").write_text(head + '[[expect]]\nevent = "landd"\n')
    (tmp_path / "other.toml").write_text("nothing = 1\n")
    words = [sys.executable, "-m", "pytest", "-p", "no:cacheprovider", "--rootdir", str(tmp_path), str(tmp_path)]
    done = subprocess.run(words, capture_output=True, text=True, cwd=tmp_path)
    assert "2 failed, 1 passed" in done.stdout
    assert "oil > 7: expected at the end, oil was 3" in done.stdout
    assert "'landd' is not an event" in done.stdout
    assert "Traceback" not in done.stdout


def test_many_sheets_are_verified_on_all_cores_with_the_same_result(tool, tmp_path):
    (tmp_path / "attic.toml").write_text(LEVEL)
    for number in range(20):
        expect = f'[[expect]]\nevent = "collect"\nbefore = {1.0 + 0.2 * number:.1f}\n'
        sheet = f'haptos_cues = 1\nlevel = "attic.toml"\ncues = "{CUES}"\n{expect}'
        (tmp_path / f"sheet-{number:02}.toml").write_text(sheet)
    code, out, _ = tool("verify", tmp_path, "--json")
    held = [one["held"] for one in json.loads(out)]
    # Its edge is 6 px before the drop, and it is collected there: it goes 125 px from a second on, at 150 px/s but for
    # the start.
    assert (code, held) == (1, [1.0 + 0.2 * number > 1.9 for number in range(20)])
    code, out, _ = tool("verify", tmp_path, "--fail-fast", "--json")
    assert 1 <= len(json.loads(out)) < 20


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ('level = "attic.toml"\n[[expect]]\nevent = "land"\nafter = 5\nbefore = 3', "found after = 5 and before = 3"),
        ('level = "attic.toml"\n[[expect]]\nevent = "land"\npiece = "shelff"', "(did you mean 'shelf'?)"),
        ('level = "attic.toml"\n[[expect]]\nthat = "oill > 3"', "no counter 'oill' (did you mean 'oil'?)"),
        ('level = "attic.toml"\n[[expect]]\nevent = "landd"', ":4: expect[0]: 'landd' is not an event"),
        ('level = "attic.toml"\n[[expect]]\nnear = [1, 2]\nwithin = "3 s"', "expected a length"),
        ('level = "attic.toml"\n[[expect]]\nnear = [1, 2]', "found near without within"),
        ('level = "attic.toml"\n[[expect]]\nevent = "land"\nnever = true\ncount = 2', "found never and count"),
        ('level = "attic.toml"\n[[expect]]\nat = "end"', "found none of event, near, that and under"),
        ('level = "attic.toml"\n[[expect]]\nevent = "land"\nwithin = 2', "found within beside event"),
        ('level = "attic.toml"', "found nothing that it expects"),
        ('level = "nowhere.toml"\n[[expect]]\nunder = 3', "nowhere.toml: no such file"),
        ("[[expect]]\nunder = 3", "level: found none, expected the level that it is for"),
    ],
)  # fmt: skip
def test_a_sheet_that_cannot_be_used_is_told_in_a_sentence(tool, tmp_path, text, expected):
    (tmp_path / "attic.toml").write_text(LEVEL)
    sheet = tmp_path / "sheet.toml"
    sheet.write_text(f'haptos_cues = 1\ncues = "{CUES}"\n{text}\n')
    code, out, _ = tool("verify", sheet, "--json")
    assert (code, expected in json.loads(out)[0]["error"]) == (2, True), out
    assert tool("verify", sheet)[0] == 2


def test_where_nothing_is_found_that_is_said(tool, tmp_path):
    code, _, err = tool("verify", tmp_path)
    assert (code, "found no cue sheet" in err) == (2, True)
    shutil.copy(demo_file("first-room.toml"), tmp_path)
    Path(tmp_path / "bare.toml").write_text('haptos_cues = 1\ncues = "right 1 s"\n')
    assert tool("verify", tmp_path)[0] == 2
    assert "no such file or folder" in tool("verify", tmp_path / "nowhere")[2]
