"""Cues that wait for something: they end when arithmetic says, and what they came to can be played again."""

from __future__ import annotations

import math
from itertools import product

import numpy as np
import pytest

import haptos
from haptos.level.cues import parse_cues
from tests.scenes import first, rows_of

G, WALK = 1800.0, 150.0
FLOOR = {"name": "floor", "shape": {"corners": [-400, -20, 200, 0]}}
FAR_WALL = {"name": "far wall", "shape": {"corners": [150, 0, 170, 200]}}
PIT = {"corners": [-500, -300, 900, 600], "bottom": "lost"}


def room(*pieces: dict, rate: float = 60, **more: object) -> haptos.Level:
    return haptos.Level(
        world={"tick_rate": rate, "bounds": PIT}, player={"at": [0, 14], "shape": {"box": [14, 28]}},
        pieces=[FLOOR, *pieces], **more,
    )  # fmt: skip


def begins(run: haptos.Run, number: int) -> float:
    """Return when a cue began, by what was held."""
    edges = np.flatnonzero(np.diff([step.parts[0].held for step in run.plain_cues.steps]))
    return run.plain_cues.begins[edges[number - 2] + 1] if number > 1 else 0.0


@pytest.mark.parametrize("rate", [30, 60, 240])
def test_a_comparison_ends_a_cue_at_the_first_tick_at_which_it_holds(rate):
    run = haptos.simulate(room(rate=rate), "right until x > 100, left 0.1 s, place 20,60")
    assert first(run, "place").cue == 3
    x = run.track.x.to_numpy()
    tick = round(begins(run, 2) * rate)
    assert x[tick] > 100 >= x[tick - 1]
    assert run.plain_cues.duration == pytest.approx(tick / rate + 0.1, abs=0.51 / rate)


def test_an_event_ends_a_cue_at_the_tick_in_which_it_falls():
    run = haptos.simulate(room(FAR_WALL), 'right until touch "far wall", jump until apex, wait until land floor')
    wall, apex, land = first(run, "touch", piece="far wall"), first(run, "apex"), first(run, "land")
    assert [round(begin * 60) for begin in (begins(run, 2), begins(run, 3))] == [wall.tick, apex.tick]
    # A jump of 72 px rises for √(2 h / g), and falls as long.
    assert apex.t - begins(run, 2) == pytest.approx(math.sqrt(2 * 72 / G))
    assert run.duration == land.tick / 60
    assert rows_of(run, "end")[0].detail == "the cues are over"
    # Each event names the cue that it fell in.
    assert (wall.cue, apex.cue, land.cue) == (1, 2, 3)


@pytest.mark.parametrize(("way", "rate"), list(product(["right", "left"], [30, 60, 240])))
def test_a_cue_until_the_ledge_ends_on_the_last_tick_on_the_ground(way, rate):
    side = 1 if way == "right" else -1
    floor = {"name": "shelf", "shape": {"corners": [-100, -20, 100, 0]}}
    level = haptos.Level(world={"tick_rate": rate}, player={"at": [0, 14], "shape": {"box": [14, 28]}}, pieces=[floor])
    run = haptos.simulate(level, f"{way} until ledge, {way}+jump 0.1 s, {way} until land within 0.5 s")
    jump = first(run, "jump")
    # The side of the body leaves the edge where its middle is half its width beyond.
    assert 0 <= 107 - side * jump.x <= WALK / rate
    assert run.track.stance[round(jump.t * rate)] == "ground"
    assert rows_of(run, "alight", "stall") == []


@pytest.mark.parametrize("shape", [{"capsule": [14, 28]}, {"circle": 10}, {"box": [14, 28]}])
@pytest.mark.parametrize("rate", [30, 240])
def test_the_ledge_of_what_moves_is_found_on_either_side_with_every_body(shape, rate):
    ends = []
    for way, side in (("right", 1), ("left", -1)):
        for order in (1, -1):
            raft = {"name": "raft", "at": [0, -8], "shape": {"box": [200, 16]},
                    "route": {"stops": [[0, 0], [side * 400, 0]], "speed": 60}}  # fmt: skip
            post = {"name": "post", "shape": {"corners": [-2000, -400, 2000, -380]}}
            half = 10 if "circle" in shape else 14
            level = haptos.Level(
                world={"tick_rate": rate}, player={"at": [0, half], "shape": shape}, pieces=[raft, post][::order]
            )
            run = haptos.simulate(level, f"{way} until ledge, {way} 0.5 s")
            steps = run.plain_cues.begins[-1] - 0.5
            ends.append(side * run.track.x.iloc[round(steps * rate)])
            assert run.track.support.iloc[round(steps * rate)] == "raft"
            assert first(run, "alight").t == pytest.approx(steps, abs=1.01 / rate)
    assert max(ends) - min(ends) < 1e-9


def test_what_never_comes_is_said_and_how_near_it_came():
    run = haptos.simulate(room(FAR_WALL), "right until x > 236 within 2 s, left 0.5 s")
    late = first(run, "too_late")
    assert late.t == 2.0
    assert late.cue == 1
    assert late.detail == "waited 2 s for x > 236; it came to 143"
    assert run.duration == 2.5
    # The wall is at 150, the right side of the body at 7 when it starts to go away.
    touch = haptos.simulate(room(FAR_WALL), "left until touch 'far wall' within 0.5 s")
    assert first(touch, "too_late").detail == (
        "waited 0.5 s for touch 'far wall'; the body came as near as 143 px to 'far wall', at 0 s"
    )
    stopped = haptos.simulate(room(FAR_WALL), parse_cues("right until x > 236 within 2 s, left 1 s", stop=["too_late"]))
    assert stopped.duration == 2.0
    assert rows_of(stopped, "end")[0].detail == "too_late, at which the cues stop"


def test_cues_wait_for_pieces_kinds_and_counters():
    lift = {"name": "lift", "at": [300, 100], "shape": {"box": [60, 16]},
            "route": {"stops": [[0, 0], [0, -120]], "speed": 60}}  # fmt: skip
    drop = {"layer": "pickup", "shape": {"circle": 5}, "pickup": {"counter": "oil", "worth": 3}}
    level = room(
        lift, {"name": "one", "at": [40, 14], "kind": "drop"}, {"name": "two", "at": [90, 14], "kind": "drop"},
        kinds={"drop": drop}, counters={"oil": {}},
    )  # fmt: skip
    cues = "right until collect drop, wait until oil >= 3, right until oil > 4, wait until lift.y < 40"
    run = haptos.simulate(level, cues)
    taken = rows_of(run, "collect")
    assert [row.piece for row in taken] == ["one", "two"]
    # From 100 down to 40 at 60 px/s, and a tick to be below it.
    assert run.duration == pytest.approx(1.0 + 1 / 60)


def test_what_cues_came_to_gives_the_same_bits(tmp_path):
    cues = "right+sprint until ledge, right+jump until apex & up 0.05 s, place 20,60, right until land, left 0.35 s"
    for rate in (24, 60, 144):
        level = room(rate=rate)
        run = haptos.simulate(level, cues)
        path = haptos.save_cues(run.plain_cues, tmp_path / "came-to.toml", "the pit")
        again = haptos.simulate(level, haptos.load_cues(path))
        assert np.array_equal(run.track_records, again.track_records)
        rows = [[row._replace(cue=0) for row in one.event_rows if row.event != "too_late"] for one in (run, again)]
        assert [str(row) for row in rows[0]] == [str(row) for row in rows[1]]


def test_a_sheet_can_stop_the_run_and_plain_cues_are_followed_the_same(tmp_path):
    sheet = tmp_path / "sheet.toml"
    sheet.write_text(
        'haptos_cues = 1\nstop = ["lost"]\ncues = "right 1.234 s, right+jump 0.111 s, right 3 s, left 9 s"\n'
    )
    cues = haptos.load_cues(sheet)
    run, whole = haptos.simulate(room(), cues), haptos.simulate(room(), cues.text)
    lost = first(run, "lost")
    assert run.ticks == lost.tick < whole.ticks
    assert np.array_equal(run.track_records[: lost.tick], whole.track_records[: lost.tick])
    assert rows_of(run, "end")[0].detail == "lost, at which the cues stop"


def test_a_run_ends_where_the_level_does():
    gate = {"name": "lamp", "at": [60, 20], "layer": "zone", "shape": {"box": [20, 40]}, "finish": {}}
    run = haptos.simulate(room(gate), "right 9 s")
    assert run.ticks == first(run, "finish").tick
    assert (rows_of(run, "end")[0].detail, rows_of(run, "end")[0].t) == ("the level is finished", run.duration)


@pytest.mark.parametrize(
    ("cues", "message"),
    [
        ("right until x >> 3", "cue 1: found 'until x >> 3', expected an event such as 'land'"),
        ("right until lnad", "(did you mean 'land'?)"),
        (
            "right 1 s, right until land flor",
            "cue 2: no piece, kind, mark or layer is called 'flor' (did you mean 'floor'?)",
        ),
        ("right until oill > 3", "cue 1: no counter 'oill'"),
        ("right until lift.z > 3", "found 'lift.z', expected lift and one of x, y"),
        ("right until ledge floor", "expected 'until ledge' alone"),
        ("right until land within soon", "cue 1: "),
        ("right until", "found 'right until'"),
    ],
)
def test_what_cannot_be_waited_for_is_a_sentence(cues, message, tool, tmp_path):
    with pytest.raises(haptos.CueError) as error:
        haptos.simulate(room(), cues)
    assert message in str(error.value)
    assert "\n" not in str(error.value)
