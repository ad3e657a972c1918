"""Why, in a run: what holds at a moment, and what came of two things."""

from __future__ import annotations

import json
import math
import re

import pytest

import haptos
from haptos.demo import DEMO_SHEETS, demo_file

G = 1800.0
ATTIC = """
haptos = 1
player = { at = [0, 14] }
[[pieces]]
name = "floor"
shape = { corners = [-400, -16, 1200, 0] }
[[pieces]]
name = "tar"
layer = "zone"
shape = { corners = [100, 0, 200, 40] }
field = { speed_factor = 0.5 }
[[pieces]]
name = "wall"
shape = { corners = [300, 0, 320, 200] }
[[pieces]]
name = "bell"
layer = "zone"
shape = { corners = [40, 0, 60, 40] }
[[rules]]
when = "enter"
piece = "bell"
do = [{ say = "rings" }]
"""


@pytest.fixture
def attic(tmp_path):
    file = tmp_path / "attic.toml"
    file.write_text(ATTIC)
    return file


def test_a_moment_has_its_reasons_with_their_lines(attic):
    level = haptos.load(attic)
    run = haptos.simulate(level, "right 4 s, jump 0.2 s, wait 1 s")
    slow, stopped, aloft = run.why(1.2), run.why(3.9), run.why(4.2)
    assert f"is in 'tar' ({attic}, line 11): speed_factor 0.5" in slow.reasons
    assert "right is held: walk at 150 px/s times 0.5 asks for 75 px/s" in slow.reasons
    assert f"is stopped on its right by 'wall' ({attic}, line 12)" in stopped.reasons
    assert stopped.reasons[0].startswith(f"stands on 'floor' ({attic}, line 4)")
    assert aloft.reasons[0] == f"is in the air since 4 s: leaves at {math.sqrt(2 * G * 72):.4g} px/s"
    assert (slow.meeting, aloft.meeting) == ("ground", "air")
    assert run.why(0).reasons[0].startswith("stands on 'floor'")
    with pytest.raises(haptos.HaptosError, match=r"expected a time of the run: from 0 s to 5.2 s"):
        run.why(5.3)


@pytest.mark.parametrize(("room", "sheet"), [(room, sheets[0]) for room, sheets in DEMO_SHEETS.items()])
def test_what_is_said_of_a_moment_agrees_with_the_track(room, sheet):
    level = haptos.load(demo_file(f"{room}.toml"))
    run = haptos.simulate(level, haptos.load_cues(demo_file(f"{sheet}.toml"), level.unit_table()))
    for tick in range(0, run.ticks, 29):
        answer, row = run.why(tick / level.world.tick_rate), run.track.iloc[tick]
        assert answer.meeting == row.stance
        assert row.stance == "ground" or not row.support
        assert not row.support or f"stands on '{row.support}'" in answer.reasons[0]
        drawn = next(reason for reason in answer.reasons if reason.startswith("gravity is"))
        assert ("the world's" in drawn) or "line" in drawn


def test_two_things_that_met_and_what_it_led_to(attic, tool):
    run = haptos.simulate(haptos.load(attic), "right 4 s")
    met = haptos.why_pair(run, "player", "bell")
    # Its edge is 33 px before the bell, which it gets to at 150 px/s, after a start at 1800 px/s².
    t = 33 / 150 + 150 / (2 * G)
    assert met.sentence == f"'player' and 'bell' met first at {t:.6g} s"
    assert met.reasons[0] == f"enter at {t:.6g} s: enters bell; so “rings”"
    short = haptos.simulate(haptos.load(attic), "right 0.5 s")
    missed = haptos.why_pair(short, "player", "wall")
    gap = 300 - 7 - short.track.x.max()
    assert missed.meeting == "near"
    said = re.search(r"never met; they were the closest at 0\.5 s: (\S+) px apart", missed.sentence)
    assert float(said[1]) == pytest.approx(gap, abs=0.11)
    code, out, _ = tool("why", attic, "player", "bell", "--cues", "right 4 s", "--json")
    assert (code, json.loads(out)["meeting"]) == (0, "met")
    code, out, _ = tool("why", attic, "--at", "1.2", "--cues", "right 4 s")
    assert (code, "speed_factor 0.5" in out) == (0, True)


@pytest.mark.parametrize(
    ("words", "expected"),
    [
        (["--at", "2"], "found --at without --cues"),
        (["--at", "9", "--cues", "right 1 s"], "from 0 s to 1 s"),
        (["player", "--cues", "right 1 s"], "expected two names"),
        (["player", "bel", "--cues", "right 1 s"], "(did you mean 'bell'?)"),
        (["player", "bell", "--at", "2", "--cues", "right 1 s"], "expected two names"),
    ],
)
def test_what_cannot_be_asked_is_told_in_a_sentence(attic, tool, words, expected):
    code, out, err = tool("why", attic, *words)
    assert (code, out, expected in err) == (2, "", True), err
