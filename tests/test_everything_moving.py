"""All that moves at once: the demo's rooms at several tick rates, snapshots, and a thousand routes."""

from __future__ import annotations

import numpy as np
import pytest

import haptos
from haptos.cli import main
from haptos.demo import demo_file

LATE = ("crumble", "drop", "gone", "return", "spawn", "vanish", "fire", "spawn_refused", "reaim", "wrap")


PLANK = {
    "layer": "ledge", "shape": {"box": [60, 8]}, "solid_from": "above", "crumble": {"delay": 0.3, "returns_after": 0.7}
}  # fmt: skip
SPARK = {
    "layer": "hazard", "shape": {"circle": 5}, "drift": {"on_exit": "reaim", "spin": 90}, "fragile": {"on": ["shot"]}
}  # fmt: skip
DART = {"layer": "shot", "shape": {"box": [8, 3]}, "fragile": {"on": ["terrain"]}}
PIECES = [
    {"name": "floor", "shape": {"corners": [-300, -20, 0, 0]}},
    {"name": "plank", "kind": "plank", "at": [30, -4], "copies": [[90, -4]]},
    {"name": "lift", "shape": {"box": [80, 16]}, "at": [160, -8],
     "route": {"stops": [[0, 0], [0, 80]], "speed": 60, "waits_for": "ridden", "mode": "once"}},
    {"name": "arm", "shape": {"box": [120, 8]}, "at": [400, 100], "spin": {"speed": 40},
     "pieces": [{"name": "pan", "shape": {"circle": 9}, "at": [60, 0], "spin": {"speed": -90}}]},
    {"name": "cabin", "at": [-200, 45], "layer": "zone", "shape": {"box": [80, 80]}, "field": {"carries": True},
     "route": {"stops": [[0, 0], [-50, 30]], "speed": 40, "ease": True}},
    {"name": "vent", "at": [0, 200],
     "spawner": {"kind": "spark", "every": [0.2, 0.5], "area": [200, 50], "limit": 4, "scale": [0.5, 1.5],
                 "aim": {"at": "player", "speed": [60, 120]}}},
]  # fmt: skip


def loft(**world) -> haptos.Level:
    """Return a room in which everything is in play; it asks for no jump, so that every rate sees the same."""
    return haptos.Level(
        world={"bounds": {"corners": [-300, -200, 700, 400], "bottom": "lost"}, "seed": 3, **world},
        player={"at": [-100, 14], "shot": {"kind": "dart", "speed": 300, "cooldown": 0.2, "lasts": 0.9}},
        kinds={"plank": PLANK, "spark": SPARK, "dart": DART},
        pieces=PIECES,
    )


CUES = "act 0.1 s, right 1.8 s, act 0.1 s, wait 2 s"


def test_times_of_everything_are_the_same_at_every_tick_rate():
    said = {}
    for rate in (30, 60, 120, 240):
        run = haptos.simulate(loft(tick_rate=rate), CUES)
        said[rate] = [(row.event, row.who, row.piece, row.t) for row in run.event_rows if row.event in LATE]
    # What is aimed at the player depends on where it is; when things happen does not, but for what these meet.
    for rate in (30, 120, 240):
        for events in (("crumble", "drop", "gone", "return"), ("spawn", "spawn_refused"), ("fire",)):
            here, there = ([row for row in said[one] if row[0] in events] for one in (rate, 60))
            assert [row[:3] for row in here] == [row[:3] for row in there]
            assert [row[3] for row in here] == pytest.approx([row[3] for row in there], abs=1e-6)


@pytest.mark.parametrize("room", ["orrery-loft", "ember-gallery", "lift-shaft", None])
def test_a_snapshot_taken_back_gives_the_same_bits(room):
    level = loft() if room is None else haptos.load(demo_file(f"{room}.toml"))
    simulation = haptos.Simulation(level)
    for held, ticks in (("right+sprint", 70), ("act", 3), ("right+jump", 20)):
        simulation.step(held, ticks)
    kept = simulation.snapshot()
    ends = []
    for _ in range(2):
        for held, ticks in (("right+sprint", 60), ("act", 2), ("", 100), ("left+jump", 30)):
            simulation.step(held, ticks)
        run = simulation.run
        ends.append((run.track_records.tobytes(), run.event_records.tobytes(), run.flight_records.tobytes()))
        simulation.restore(kept)
    assert ends[0] == ends[1]


def test_stepping_by_hand_batches_and_threads_agree():
    level = loft()
    alone = haptos.simulate(level, CUES)
    batch = haptos.simulate_many(level, ["left 3 s", CUES, "wait 4 s", CUES], threads=2)
    stepped = haptos.Simulation(level)
    for held, ticks in (("act", 6), ("right", 108), ("act", 6), ("", 120)):
        stepped.step(held, ticks)
    for run, end in ((batch[1], None), (batch[3], None), (stepped.run, -1)):
        assert run.track_records.tobytes() == alone.track_records.tobytes()
        # Only a run of cues has an end.
        assert run.event_records.tobytes() == alone.event_records[:end].tobytes()
        assert run.flight_records.tobytes() == alone.flight_records.tobytes()


def test_a_ray_meets_what_moves_where_it_is_now():
    gate = {"name": "gate", "shape": {"box": [10, 100]}, "at": [100, 50], "spin": {"speed": 90, "pivot": [0, -50]}}
    simulation = haptos.Simulation(haptos.Level(pieces=[gate], player={"at": [0, 14]}))
    assert simulation.first_hit((0, 50), (1, 0)).distance == pytest.approx(95)
    simulation.step(ticks=60)
    assert simulation.first_hit((50, 50), (0, -1)).point == pytest.approx((50, 5))
    assert simulation.first_hit((0, 50), (1, 0)) is None


def test_a_crush_that_is_not_lethal_lets_through_until_the_body_is_clear():
    press = {
        "name": "press",
        "shape": {"box": [40, 40]},
        "at": [0, 120],
        "route": {"stops": [[0, 0], [0, -100]], "speed": 100},
    }
    floor = {"name": "floor", "shape": {"corners": [-400, -20, 400, 0]}}
    level = haptos.Level(player={"at": [0, 14], "crush": {"lethal": False}}, pieces=[press, floor])
    run = haptos.simulate(level, "wait 2.5 s")
    events = [row.event for row in run.event_rows]
    assert events.count("crush") == 1
    assert "respawn" not in events
    assert (run.track.y == 14).all()
    # The second time that it comes down it is solid again.
    again = haptos.simulate(level, "wait 4.5 s")
    assert [row.t for row in again.event_rows if row.event == "crush"] == pytest.approx([0.72, 2.72], abs=1 / 30)


def test_the_demo_goes_across_the_loft_and_through_the_embers(tmp_path, monkeypatch, capsys):
    says = {"orrery-loft": ["aboard the cabin", "lights the lantern"], "ember-gallery": ["the first ember is gone"]}
    for room, sheet in (("orrery-loft", "across-the-loft"), ("ember-gallery", "through-the-embers")):
        files = [str(demo_file(f"{name}.toml")) for name in (room, sheet)]
        monkeypatch.setattr("sys.argv", ["haptos", "run", *files, "--out", str(tmp_path / room)])
        with pytest.raises(SystemExit) as end:
            main()
        assert end.value.code == 0
        out = capsys.readouterr().out
        for words in says[room]:
            assert words in out
        assert (tmp_path / room / "picture.png").read_bytes().startswith(b"\x89PNG")
        level = haptos.load(files[0])
        run = haptos.simulate(level, haptos.load_cues(files[1]))
        drawn = [lines for lines in haptos.draw(level, run).collections if hasattr(lines, "get_segments")]
        path = np.vstack([one for lines in drawn for one in lines.get_segments()])
        for end in run.track[["x", "y"]].to_numpy()[[0, -1]]:
            assert np.hypot(*(path - end).T).min() < 1e-6
    pieces = np.genfromtxt(tmp_path / "ember-gallery" / "pieces.csv", delimiter=",", dtype=str, usecols=2)
    assert {"soot ball", "ember 1", "water drop 1"} <= set(pieces)
