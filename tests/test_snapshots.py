"""Snapshots: they go to any simulation of an equal level, in any process, and to no other."""

from __future__ import annotations

import copy
import pickle
import subprocess
import sys
from collections.abc import Iterator

import numpy as np
import pytest

import haptos
from haptos.demo import DEMO_SHEETS, demo_file
from tests.scenes import floor

HELD = ("right", "right+jump", "left", "act", "up", "right+sprint", "", "left+jump", "down")
FLOOR = {"name": "floor", "shape": {"box": [600, 16]}, "at": [0, -22]}


def stepped(simulation: haptos.Simulation, ticks: int) -> Iterator[object]:
    """Step by tens of ticks, and yield all that can be read of each moment, to the last bit."""
    for number in range(ticks // 10):
        simulation.step(HELD[number % len(HELD)], 10)
        yield simulation.state.player.tobytes(), simulation.events, simulation.pieces, simulation.counters
        yield simulation.support, simulation.over, simulation.t


def at_half_a_second(level: haptos.Level) -> haptos.Simulation:
    simulation = haptos.Simulation(level)
    simulation.step("right", 20)
    simulation.step("right+jump", 10)
    return simulation


@pytest.mark.parametrize("room", DEMO_SHEETS)
def test_a_snapshot_goes_on_with_the_same_bits_wherever_it_is_restored(room: str) -> None:
    level = haptos.load(demo_file(f"{room}.toml"))
    there = at_half_a_second(level)
    snapshot = there.snapshot()
    fresh, gone_on = haptos.Simulation(level), haptos.Simulation(haptos.load(demo_file(f"{room}.toml")))
    gone_on.step("left+jump", 45)
    from_bytes = haptos.Simulation(level)
    for simulation, moment in (
        (fresh, snapshot), (gone_on, snapshot), (from_bytes, pickle.loads(pickle.dumps(snapshot))),
    ):  # fmt: skip
        simulation.restore(moment)
    others = [fresh, gone_on, from_bytes, copy.copy(there), copy.deepcopy(there), pickle.loads(pickle.dumps(there))]
    expected = repr(list(stepped(there, 600)))
    for number, simulation in enumerate(others):
        assert repr(list(stepped(simulation, 600))) == expected, number
    # What led to it goes along, but not with the bytes of a snapshot, which are the state alone.
    whole = there.run
    for simulation in (fresh, gone_on, *others[3:]):
        assert simulation.run.track_records.tobytes() == whole.track_records.tobytes()
        assert simulation.run.events.equals(whole.events)
        assert simulation.run.pieces.equals(whole.pieces)
    for cut in (from_bytes, copy.copy(from_bytes), pickle.loads(pickle.dumps(from_bytes))):
        assert cut.state.player.tobytes() == there.state.player.tobytes()
        with pytest.raises(haptos.HaptosError, match="without what led to it"):
            _ = cut.run
    assert len(snapshot.to_bytes()) < snapshot.nbytes + 2000


def test_another_process_goes_on_from_the_bytes_of_a_snapshot(tmp_path) -> None:
    room = demo_file("library.toml")
    there = at_half_a_second(haptos.load(room))
    path = tmp_path / "moment"
    path.write_bytes(there.snapshot().to_bytes())
    code = (
        "import sys, pathlib, haptos\n"
        f"simulation = haptos.Simulation(haptos.load({str(room)!r}))\n"
        f"simulation.restore(haptos.Snapshot.from_bytes(pathlib.Path({str(path)!r}).read_bytes()))\n"
        "for held in ('right', 'left+jump', 'act') * 20:\n"
        "    simulation.step(held, 10)\n"
        "sys.stdout.write(simulation.state.partakers.tobytes().hex() + repr((simulation.x, simulation.y)))\n"
    )
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    for held in ("right", "left+jump", "act") * 20:
        there.step(held, 10)
    assert said == there.state.partakers.tobytes().hex() + repr((there.x, there.y))


def test_a_snapshot_of_another_level_or_damaged_bytes_are_refused_and_nothing_changes() -> None:
    level = haptos.Level(title="attic", pieces=[FLOOR])
    other = haptos.Level(title="attic", pieces=[FLOOR], player={"at": [40, 0], "jump": {"height": 90}})
    simulation = at_half_a_second(level)
    before = simulation.state.player.tobytes(), simulation.run.event_records.tobytes()
    snapshot = at_half_a_second(other).snapshot()
    for wrong in (snapshot, haptos.Snapshot.from_bytes(snapshot.to_bytes())):
        with pytest.raises(ValueError, match="expected one of 'attic': they differ in player"):
            simulation.restore(wrong)
    data = at_half_a_second(level).snapshot().to_bytes()
    flipped = bytearray(data)
    flipped[len(data) // 2] ^= 1
    for damaged in (b"", data[:-1], data[: len(data) // 2], bytes(flipped), b"x" + data[1:]):
        with pytest.raises(ValueError, match="no snapshot, or a damaged one"):
            haptos.Snapshot.from_bytes(damaged)
    with pytest.raises(TypeError, match="expected a Snapshot"):
        simulation.restore(data)  # type: ignore[arg-type]
    assert (simulation.state.player.tobytes(), simulation.run.event_records.tobytes()) == before


def test_a_snapshot_of_another_version_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    from haptos.engine import snapshot as home

    data = at_half_a_second(haptos.Level(pieces=[FLOOR])).snapshot().to_bytes()
    monkeypatch.setattr(home, "digest", lambda: "another")
    with pytest.raises(ValueError, match="another version of Haptos"):
        haptos.Snapshot.from_bytes(data)


def test_an_equal_level_is_one_whatever_object_it_is() -> None:
    one, same = haptos.Level(pieces=[FLOOR]), haptos.Level(pieces=[FLOOR])
    there, here = at_half_a_second(one), haptos.Simulation(same)
    here.restore(there.snapshot())
    assert (here.x, here.vy, here.t) == (there.x, there.vy, there.t)


@pytest.mark.parametrize("through_bytes", [False, True])
def test_what_was_made_keeps_its_number_after_a_restore(through_bytes: bool) -> None:
    kinds = {"ember": {"shape": {"circle": 3}, "drift": {"velocity": [30, 0]}}}
    spout = {"name": "spout", "at": [0, 90], "shape": {"circle": 2}}
    spawner = {"kind": "ember", "every": 0.1, "lasts": 0.25, "limit": 3}
    level = haptos.Level(kinds=kinds, pieces=[FLOOR, {**spout, "spawner": spawner}])
    there = haptos.Simulation(level)
    there.step(ticks=60)
    snapshot = there.snapshot()
    here = haptos.Simulation(level)
    here.restore(haptos.Snapshot.from_bytes(snapshot.to_bytes()) if through_bytes else snapshot)
    for simulation in (there, here):
        simulation.step(ticks=6)
    # One every tenth of a second from 0 on, and each for a quarter of one.
    assert [(row.event, row.piece or row.who) for row in here.events] == [
        (row.event, row.piece or row.who) for row in there.events
    ]
    assert "ember 11" in {row.piece for row in here.events}
    assert "ember 9" in {row.who for row in here.events if row.event == "vanish"}


def test_a_world_that_has_grown_goes_to_one_that_has_not_and_back() -> None:
    posts = [{"name": f"post {number}", "shape": {"box": [4, 40]}, "at": [10 * number, 20]} for number in range(100)]
    plank = {"name": "plank", "shape": {"box": [1000, 8]}, "at": [500, 60], "body": {"mass": 50}}
    level = haptos.Level(player={"at": [-100, 14]}, pieces=[floor(5000), *posts, plank])
    simulation, other = haptos.Simulation(level), haptos.Simulation(level)
    start = simulation.snapshot()
    simulation.step(ticks=60)
    grown = simulation.snapshot()
    assert grown.nbytes > start.nbytes
    other.restore(haptos.Snapshot.from_bytes(grown.to_bytes()))
    for one in (simulation, other):
        one.step(ticks=30)
    assert simulation.piece("plank") == other.piece("plank")
    other.restore(start)
    other.step(ticks=90)
    assert simulation.piece("plank") == other.piece("plank")
    assert np.isclose(other.piece("plank").y, 44.0, atol=0.5)


@pytest.mark.parametrize("rate", [30, 60, 240])
def test_a_level_begins_again_once_however_the_run_is_led(rate: int) -> None:
    tar = {"name": "tar", "at": [150, 0], "layer": "zone", "shape": {"box": [40, 60]}, "harm": {"lethal": True}}
    player = {"on_death": "restart", "shape": {"box": [14, 28]}}
    level = haptos.Level(pieces=[FLOOR, tar], player=player, world={"tick_rate": rate})
    waiting = haptos.simulate(level, "right until restart within 3 s, right until restart within 3 s, wait 0.1 s")
    at_once = haptos.simulate(level, waiting.plain_cues)
    simulation = haptos.Simulation(level)
    for held in waiting.plain_cues.schedule(rate).held:
        simulation.step("right" if held else "")
        other = haptos.Simulation(level)
        other.restore(haptos.Snapshot.from_bytes(simulation.snapshot().to_bytes()))
        simulation.restore(simulation.snapshot())
        assert (other.x, other.t) == (simulation.x, simulation.t)
    for run in (waiting, at_once, simulation.run):
        # It stands at 123 px, with the edge of the tar at 130, having lost 6.25 px on speeding up to 150 px/s.
        assert next(row.t for row in run.event_rows if row.event == "hurt") == pytest.approx((123 + 6.25) / 150)
        assert (run.events.event == "restart").sum() == 2
        assert run.track_records.tobytes() == at_once.track_records.tobytes()
        assert run.pieces.equals(at_once.pieces)
    # Only cues have an end.
    assert simulation.run.event_records.tobytes() == at_once.event_records[:-1].tobytes()
    assert waiting.event_records.tobytes() == at_once.event_records.tobytes()
