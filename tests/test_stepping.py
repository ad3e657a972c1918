"""The engine as a machine: the same bits every way, snapshots, room for events, geometry underneath."""

from __future__ import annotations

import subprocess
import sys

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from haptos.demo import demo_file
from haptos.engine.build.compile_level import body_of, compile_level
from haptos.geometry.outlines import grow_outlines
from haptos.geometry.placement import place_shapes
from haptos.geometry.polygons import body_polygon, outline_polygons, shape_polygons
from haptos.geometry.tiles import merge_tiles
from haptos.level.resolve import ResolvedLevel

PLAY = ["right 1 s, right+jump 0.4 s, left 1 s", "right+sprint 3 s", "jump 1 s, place 700,100, wait 2 s", "left 1 s"]


def same(one: haptos.Run, other: haptos.Run) -> bool:
    return bool(
        one.track_records.tobytes() == other.track_records.tobytes()
        and one.event_records.tobytes() == other.event_records.tobytes()
    )


def test_alone_in_a_batch_or_on_threads_the_bits_are_the_same():
    level = haptos.load(demo_file("first-room.toml"))
    alone = [haptos.simulate(level, cues) for cues in PLAY]
    for batch in (haptos.simulate_many(level, PLAY), haptos.simulate_many(level, PLAY, threads=3)):
        assert all(same(one, other) for one, other in zip(alone, batch, strict=True))
    assert haptos.simulate_many(level, []) == []


def test_stepping_by_hand_is_the_same_run():
    level = haptos.load(demo_file("first-room.toml"))
    simulation = haptos.Simulation(level)
    simulation.step("right", ticks=60)
    saved = simulation.snapshot()
    for _ in range(24):
        simulation.step(["right", "jump"])
    simulation.step("left", ticks=60)
    first = simulation.run
    whole = haptos.simulate(level, "right 1 s, right+jump 0.4 s, left 1 s")
    assert first.track_records.tobytes() == whole.track_records.tobytes()
    # Only a run of cues has an end.
    assert first.event_records.tobytes() == whole.event_records[:-1].tobytes()
    simulation.restore(saved)
    assert simulation.t == 1.0
    simulation.step("right+jump", ticks=24)
    simulation.step("left", ticks=60)
    assert same(simulation.run, first)


def test_events_that_need_more_room_are_none_of_them_lost(monkeypatch):
    from haptos.engine import stepping

    rules = [{"when": "inside", "piece": "mist", "do": [{"say": "here"}] * 3}]
    level = haptos.Level(pieces=[{"name": "mist", "at": [0, 0], "shape": {"box": [4000, 40000]}}], rules=rules)
    monkeypatch.setattr(stepping, "FREE_ROOM", 1)
    run = haptos.simulate(level, "wait 5 s")
    assert len(run.says()) == 3 * 301
    assert run.events.t.is_monotonic_increasing


def test_a_level_without_a_capability_does_not_compile_it():
    assert compile_level(haptos.Level()).tables.capabilities == "side-plain"
    assert compile_level(haptos.Level(world={"view": "top"})).tables.zones is None
    awning = {"name": "awning", "at": [0, 0], "shape": {"box": [9, 9]}, "solid_from": "above"}
    assert compile_level(haptos.Level(pieces=[awning])).tables.capabilities == "side-full"


def test_importing_haptos_is_light():
    heavy = ("numba", "pandas", "pint", "shapely", "matplotlib")
    code = f"import haptos, sys; print([name for name in {heavy} if name in sys.modules])"
    assert subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout == "[]\n"


@given(st.sets(st.tuples(st.integers(0, 12), st.integers(0, 9)), max_size=90))
def test_merged_tiles_cover_exactly_the_tiles(cells):
    table = np.array(sorted(cells), dtype=np.int64).reshape(-1, 2)
    covered = [
        (column, row)
        for x, y, width, height in merge_tiles(table).tolist()
        for column in range(x, x + width)
        for row in range(y, y + height)
    ]
    assert sorted(covered) == sorted(cells)


SHAPES = st.one_of(
    st.builds(lambda w, h: {"box": [w, h]}, st.sampled_from([3.0, 20.0]), st.sampled_from([8.0, 40.0])),
    st.builds(lambda w: {"capsule": [w, 10.0]}, st.sampled_from([4.0, 10.0, 30.0])),
    st.just({"circle": 5.0}),
    st.just({"line": [[-10, 0], [12, 3]]}),
    st.sampled_from(
        [
            [[0, 0], [20, 0], [20, 12]],
            [[-9, -4], [9, -4], [12, 3], [0, 9], [-12, 3]],
            [[0, 0], [30, 1], [31, 9], [1, 8]],
        ]
    ).map(lambda points: {"polygon": points}),
)


@settings(max_examples=80, deadline=None)
@given(
    shape=SHAPES,
    turn=st.floats(-200, 200),
    body=st.sampled_from([{"capsule": [14, 28]}, {"box": [14, 28]}, {"circle": 9}]),
    gravity=st.sampled_from([[0, -9], [5, -9], [-9, 2]]),
)
def test_grown_outlines_are_minkowski_sums(shape, turn, body, gravity):
    piece = {"name": "globe", "at": [10, -4], "turn": turn, "shape": shape}
    level = haptos.Level(world={"gravity": gravity}, player={"shape": body}, pieces=[piece])
    placement = place_shapes(ResolvedLevel(level))
    grown = outline_polygons(grow_outlines(placement, body_of(level)))[0]
    # Reference: the hull of all sums of boundary points, both shapes being convex and the body symmetric.
    drawn = shape_polygons(placement)[0]
    outer = np.asarray(getattr(drawn, "exterior", drawn).coords)
    moved = np.asarray(body_polygon(body_of(level)).exterior.coords)
    reference = shapely.MultiPoint((outer[:, None, :] + moved[None, :, :]).reshape(-1, 2)).convex_hull
    assert grown.symmetric_difference(reference).area < 4e-3 * reference.area


@pytest.mark.parametrize("cues", ["wait 0 s", "place 100,200", ""])
def test_a_run_of_no_time_is_a_run(cues):
    run = haptos.simulate(haptos.Level(), cues)
    assert len(run.track) == 1
    assert run.duration == 0
