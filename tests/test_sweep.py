"""What comes out when numbers are others: measured, drawn, on all cores and on a cluster."""

from __future__ import annotations

import json
import math
from contextlib import contextmanager

import numpy as np
import pandas as pd
import pytest

import haptos
from haptos.demo import demo_file

G = 1800.0
ROOM, SHEET = demo_file("first-room.toml"), demo_file("gets-through.toml")


@pytest.fixture
def attic():
    floor = {"name": "floor", "shape": {"box": [4000, 16]}, "at": [0, -8]}
    shelf = {"name": "shelf", "shape": {"box": [60, 8]}, "at": [0, 76], "solid_from": "above"}
    return haptos.Level(player={"at": [0, 14]}, pieces=[floor, shelf])


def test_a_sweep_measures_what_arithmetic_says(attic):
    heights = [40.0, 60.0, 75.0, 100.0, 120.0]
    measures = [
        "event apex",
        "event land shelf",
        "that support == shelf",
        "count land",
        "end y",
        "end support",
        "seconds",
    ]
    found = haptos.sweep(attic, "jump 2 s", {"player.jump.height": heights}, measures)
    assert list(found.columns) == ["player.jump.height", *measures]
    assert found["event apex"].tolist() == pytest.approx([math.sqrt(2 * h / G) for h in heights], abs=1e-9)
    # The top of the shelf is at 80.
    up = [h > 80 for h in heights]
    lands = [math.sqrt(2 * h / G) + math.sqrt(2 * (h - 80) / G) if h > 80 else math.nan for h in heights]
    np.testing.assert_allclose(found["event land shelf"], lands, atol=1e-9)
    assert found["that support == shelf"].tolist() == up
    assert found["end y"].tolist() == pytest.approx([94 if high else 14 for high in up])
    assert found["end support"].tolist() == ["shelf" if high else "floor" for high in up]
    assert found.attrs["units"]["player.jump.height"] == "px"


def test_two_numbers_are_combined_and_all_cores_give_what_one_does():
    level = haptos.load(ROOM)
    values = {
        "player.jump.height": np.linspace(60, 80, 8).tolist(),
        "player.gaits.walk": ["140 px/s", 150, 160, 170, 180],
    }
    measures = ["end x", "most y", "least vy", "end low shelf.y", "expect"]
    found = haptos.sweep(level, SHEET, values, measures)
    assert len(found) == 40
    cues = haptos.load_cues(SHEET, level.unit_table())
    for row in found.iloc[::13].itertuples(index=False):
        run = haptos.simulate(level.changed({"player.jump.height": row[0], "player.gaits.walk": row[1]}), cues)
        assert row[2:5] == (run.track.x.iloc[-1], run.track.y.max(), run.track.vy.min())


def test_a_cluster_gives_the_same_table(tool):
    distributed = pytest.importorskip("distributed")
    level = haptos.load(ROOM)
    values, measures = {"player.jump.height": np.linspace(40, 120, 20)}, ["end x", "event land 'book shelf'"]
    with distributed.LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None, processes=True) as cluster:
        with distributed.Client(cluster, set_as_default=False) as client:
            client.wait_for_workers(2, timeout=60)
        there = haptos.sweep(level, SHEET, values, measures, dask=cluster.scheduler_address)
    pd.testing.assert_frame_equal(there, haptos.sweep(level, SHEET, values, measures))
    words = ["sweep", ROOM, SHEET, "--set", "player.jump.height=60,70", "--measure", "end x"]
    code, out, err = tool(*words, "--dask", "tcp://127.0.0.1:9")
    assert (code, out) == (2, "")
    assert "no Dask cluster answers there" in err


def test_the_tool_prints_and_draws_what_came_out(tool, tmp_path, monkeypatch):
    measures = ["--measure", "end x", "--measure", "end stance"]
    words = ["sweep", ROOM, SHEET, "--set", "player.jump.height=40:120:9", *measures]
    code, out, _ = tool(*words, "--out", tmp_path)
    assert (code, "9 runs" in out) == (0, True)
    assert max(len(line) for line in out.splitlines() if str(tmp_path) not in line) <= 80
    monkeypatch.setenv("COLUMNS", "80")
    wide = ["--measure", "event land 'book shelf'", "--measure", "that support == 'map/stone'", "--measure", "expect"]
    _, out, _ = tool(*words, *wide)
    assert max(map(len, out.splitlines())) <= 80
    assert "d  event land 'book shelf'" in out
    assert pd.read_csv(tmp_path / "sweep.csv")["player.jump.height"].tolist() == list(range(40, 130, 10))
    assert (tmp_path / "sweep.png").stat().st_size > 10_000
    code, out, _ = tool(*words, "--set", "player.gaits.walk=100,200", "--out", tmp_path / "two", "--json")
    assert (code, len(json.loads(out))) == (0, 18)
    assert (tmp_path / "two" / "sweep.png").exists()


def test_what_is_done_is_kept_when_it_is_interrupted(tool, tmp_path, monkeypatch):
    def interrupt(done, whole):
        if done >= 24:
            raise KeyboardInterrupt

    heights = np.linspace(40, 120, 200)
    found = haptos.sweep(haptos.load(ROOM), SHEET, {"player.jump.height": heights}, ["end x"], progress=interrupt)
    assert found.attrs["interrupted"]
    assert 24 <= len(found) < 200
    assert set(found["player.jump.height"]) <= set(heights)

    # As Ctrl-C does in the tool.
    @contextmanager
    def interrupted(what, count):
        yield interrupt

    monkeypatch.setattr("haptos.commands.sweep_values.progress_bar", interrupted)
    words = ["sweep", ROOM, SHEET, "--set", "player.jump.height=40:120:200", "--measure", "end x"]
    code, out, _ = tool(*words, "--out", tmp_path)
    assert (code, "interrupted: the rest was not run" in out) == (130, True)
    assert 24 <= len(pd.read_csv(tmp_path / "sweep.csv")) < 200


@pytest.mark.parametrize(
    ("words", "expected"),
    [
        (["--set", "player.jmp.height=1:2:3", "--measure", "end x"], "unknown key 'jmp' (did you mean 'jump'?)"),
        (["--set", "player.jump.height=1:2", "--measure", "end x"], "expected two numbers and a count of 2 or more"),
        (["--set", "player.jump.height=60 s,70 s", "--measure", "end x"], "found '60 s', expected a length"),
        (["--set", "player.jump.height", "--measure", "end x"], "expected PATH=FROM:TO:COUNT"),
        (["--set", "player.jump.height=60,70", "--measure", "ends x"], "(did you mean 'end'?)"),
        (["--set", "player.jump.height=60,70", "--measure", "end oill"], "no counter 'oill'"),
        (["--set", "player.jump.height=60,70", "--measure", "event landd"], "'landd' is not an event (did you mean"),
        (["--set", "player.jump.height=60,70", "--measure", "event land shelff"], "is called 'shelff'"),
        (["--set", "player.jump.height=60,70", "--measure", "most stance"], "which is no number"),
        (["--set", "player.jump.height=60,70", "--measure", "end"], "found nothing after 'end'"),
        (["--set", "player.jump.height=60,70", "--measure", "end x", "--measure", "end x"], "twice"),
        (["--set", "world.seed=1:9:9999", "--set", "player.mass=1:9:9999", "--measure", "end x"], "combinations"),
    ],
)  # fmt: skip
def test_what_cannot_be_swept_is_told_in_a_sentence(tool, tmp_path, words, expected):
    code, out, err = tool("sweep", ROOM, SHEET, *words, "--json")
    assert (code, out, expected in err) == (2, "", True), err
