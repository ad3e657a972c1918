"""Pictures: how the sheet is used, what is shown of a moment, and that no mark covers another."""

from __future__ import annotations

from itertools import combinations

import numpy as np
import pytest

import haptos
from haptos.demo import DEMO_SHEETS, demo_file
from haptos.files.reading import read_cue_sheet
from haptos.views.palette import PAPER
from haptos.views.themes import DARK_PAPER
from tests.scenes import floor

SHEETS = [(room, sheet) for room, sheets in DEMO_SHEETS.items() for sheet in sheets]


def run_of(room, sheet):
    level = haptos.load(demo_file(f"{room}.toml"))
    return haptos.simulate(level, read_cue_sheet(demo_file(f"{sheet}.toml"), level.unit_table()).cues)


def marks_of(ax):
    """The boxes of bubbles, names and signs, in dots."""
    ax.figure.draw_without_rendering()
    boxes = [(text.get_text(), text.get_window_extent()) for text in ax.texts if text.get_text()]
    seen = ax.get_window_extent()
    return [(words, box) for words, box in boxes if seen.overlaps(box)]


@pytest.mark.parametrize(("room", "sheet"), SHEETS)
def test_no_mark_covers_another_the_body_or_the_path(room, sheet):
    run = run_of(room, sheet)
    ax = haptos.draw(run.level, run)
    marks = marks_of(ax)
    assert sum(words.isdigit() for words, _ in marks) >= 2
    for (one, box), (other, second) in combinations(marks, 2):
        shared = box.intersection(box, second)
        assert shared is None or min(shared.width, shared.height) < 3, (one, other)
    path = ax.transData.transform(run.track[["x", "y"]].to_numpy())
    for words, box in marks:
        inside = (np.abs(path - [(box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2]) < [box.width / 4, box.height / 4]).all(
            1
        )
        assert not inside.any(), words


@pytest.mark.parametrize(("corners", "wide"), [([0, -20, 6000, 0], True), ([0, -6000, 200, 0], False)])
def test_a_wide_level_fills_the_width_and_a_tall_one_the_height(corners, wide):
    level = haptos.Level(player={"at": [60, 14]}, pieces=[{"name": "floor", "shape": {"corners": corners}}])
    ax = haptos.draw(level, haptos.simulate(level, "right 1 s"))
    left, bottom, width, height = ax.get_position().bounds
    legend = ax.figure.legends[0].get_window_extent().transformed(ax.figure.transFigure.inverted())
    assert (width > 0.9 and legend.y1 < bottom) if wide else (height > 0.85 and legend.x0 > left + width)


OIL = {
    "player": {"at": [0, 14]}, "counters": {"oil": {}},
    "pieces": [
        floor(400),
        {"name": "drop", "shape": {"circle": 5}, "at": [60, 14], "pickup": {"counter": "oil"}},
        {"name": "far drop", "shape": {"circle": 5}, "at": [140, 14], "pickup": {"counter": "oil"}},
    ],
}  # fmt: skip


def rings(ax):
    return sum(type(artist).__name__ == "Circle" for artist in ax.get_children())


def test_a_moment_shows_the_world_and_what_has_happened_by_then():
    level = haptos.Level(**OIL)
    run = haptos.simulate(level, "right 1.5 s")
    taken = run.events[run.events["event"] == "collect"]["t"].tolist()
    assert len(taken) == 2
    for at, left in ((taken[0] - 0.05, 2), (taken[0] + 0.05, 1), (taken[1] + 0.05, 0)):
        ax = haptos.draw(level, run, at=at)
        assert rings(ax) == left
        assert sum(text.get_text().isdigit() for text in ax.texts) == 2 - left
    assert rings(haptos.draw(level, run)) == 2


def test_a_part_of_a_level_and_of_a_run_is_shown():
    level = haptos.Level(**OIL)
    run = haptos.simulate(level, "right 1.5 s")
    ax = haptos.draw(level, run, around="far drop")
    assert np.mean(ax.get_xlim()) == pytest.approx(140)
    assert haptos.draw(level, window=(0, -10, 50, 40)).get_xlim() == (0, 50)
    path = next(
        lines for lines in haptos.draw(level, run, begin=0.5, end=1).collections if lines.get_array() is not None
    )
    assert len(path.get_array()) == 30
    names = [text.get_text() for text in haptos.draw(level, run, names="all").texts]
    assert {"floor", "drop", "far drop"} <= set(names)
    assert not any(text.get_text() == "floor" for text in haptos.draw(level, run, names="none").texts)
    assert rings(haptos.draw(level, run, layers=("terrain",))) == 0
    from matplotlib.colors import to_rgba

    assert haptos.draw(level).figure.get_facecolor() == to_rgba(PAPER)
    assert haptos.draw(level, theme="dark").figure.get_facecolor() == to_rgba(DARK_PAPER)
    assert haptos.draw(level, size=(600, 400)).figure.bbox.size.tolist() == [600, 400]


@pytest.mark.parametrize(
    ("options", "sentence"),
    [
        (["--at", "9"], "at: found 9 s, but the run is over at 1 s"),
        (["--from", "0.8", "--to", "0.5"], "expected an end after the begin"),
        (["--around", "drip"], "around: no piece is called 'drip' (did you mean 'drop'?)"),
        (["--window", "0,0,10"], "--window: found '0,0,10', expected left,bottom,right,top"),
        (["--window", "9,0,1,5"], "window: found [9.0, 0.0, 1.0, 5.0], expected [left, bottom, right, top]"),
        (["--layers", "terain"], "layers: no layer 'terain' (did you mean 'terrain'?)"),
        (["--names", "few"], "names: found 'few', expected one of all, some, none"),
        (["--theme", "pink"], "theme: found 'pink', expected one of light, dark"),
        (["--size", "12"], "--size: found '12', expected 1280x800"),
        (["--size", "12x9"], "size: found 12x9, expected 200 to 10000 dots each"),
    ],
)
def test_what_can_not_be_shown_is_a_sentence(tool, tmp_path, monkeypatch, options, sentence):
    monkeypatch.chdir(tmp_path)
    file = haptos.Level(**OIL).save(tmp_path / "oil.toml")
    code, _, error = tool("draw", file, "right 1 s", *options)
    assert code == 2
    assert sentence in error
    assert not (tmp_path / "oil.png").exists()


def test_gaps_name_tiles_by_their_place_and_what_is_in_the_way():
    tiles = {"rows": ["##...##"], "signs": {"#": "stone"}}
    level = haptos.Level(player={"at": [16, 30]}, kinds={"stone": {}}, map=tiles, world={"lost_below": -99})
    rows = haptos.gaps(level)
    assert set(rows["start"]) == {"stone at 1,0", "stone at 5,0"}
    assert set(rows["blocked_by"]) == {""}
    beam = {"name": "beam", "shape": {"box": [10, 40]}, "at": [56, 90]}
    blocked = haptos.gaps(level.changed({"pieces": [beam]}))
    assert set(blocked["blocked_by"][blocked["start"] != "beam"]) == {"beam"}
    assert set(blocked["blocked_by"][blocked["start"] == "beam"]) == {""}
