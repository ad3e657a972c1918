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
from haptos.engine import compiled as kernels
from haptos.engine.compile import compile_level
from haptos.geometry.outlines import Body, grow_outlines
from haptos.geometry.placement import Placement
from haptos.geometry.polygons import outline_polygons, shape_polygons
from haptos.geometry.tiles import merge_tiles

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
    assert same(first, haptos.simulate(level, "right 1 s, right+jump 0.4 s, left 1 s"))
    simulation.restore(saved)
    assert simulation.t == 1.0
    simulation.step("right+jump", ticks=24)
    simulation.step("left", ticks=60)
    assert same(simulation.run, first)


def test_events_that_need_more_room_are_none_of_them_lost(monkeypatch):
    from haptos.engine import simulation

    rules = [{"when": "inside", "piece": "mist", "do": [{"say": "here"}] * 3}]
    level = haptos.Level(pieces=[{"name": "mist", "at": [0, 0], "shape": {"box": [4000, 40000]}}], rules=rules)
    monkeypatch.setattr(simulation, "FIRST_ROOM", 1)
    run = haptos.simulate(level, "wait 5 s")
    assert len(run.says()) == 3 * 301
    assert run.events.t.is_monotonic_increasing


def test_a_level_without_a_capability_does_not_compile_it():
    assert compile_level(haptos.Level()).tables.capabilities == "side"
    assert compile_level(haptos.Level(world={"view": "top"})).tables.zones is None


def test_kernels_leave_other_peoples_cache_alone():
    code = "from numba.core import config as c; it = c.CACHE_DIR; import haptos.engine.tick; print(it == c.CACHE_DIR)"
    assert subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout == "True\n"
    assert kernels.cache_folder() is not None


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


@settings(max_examples=60, deadline=None)
@given(
    size=st.tuples(st.sampled_from([0.0, 3.0, 20.0]), st.sampled_from([0.0, 8.0])),
    radius=st.sampled_from([0.0, 5.0]),
    angle=st.floats(-4, 4),
    body=st.sampled_from([(0.0, 7.0, 7.0), (7.0, 14.0, 0.0), (0.0, 0.0, 9.0)]),
    up=st.sampled_from([0.0, 0.6, -1.2]),
)
def test_grown_outlines_are_minkowski_sums(size, radius, angle, body, up):
    column = [np.array([value]) for value in (10.0, -4.0, *size, radius, angle)]
    placement = Placement(np.array([0]), *column)
    mover = Body(*body, angle=up)
    grown = outline_polygons(grow_outlines(placement, mover))[0]
    if grown.area == 0:
        return
    # Reference: the hull of all sums of boundary points, both shapes being convex and symmetric.
    half = np.array(body[:2])
    corners = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * half
    turn = np.array([[np.cos(up), -np.sin(up)], [np.sin(up), np.cos(up)]])
    core = shapely.MultiPoint(corners @ turn.T).convex_hull
    shape = shape_polygons(placement)[0]
    outer = np.asarray(getattr(shape, "exterior", shape).coords)
    moved = (core.buffer(body[2], quad_segs=32) if body[2] else core).exterior.coords
    reference = shapely.MultiPoint((outer[:, None, :] + np.asarray(moved)[None, :, :]).reshape(-1, 2)).convex_hull
    assert grown.symmetric_difference(reference).area < 4e-3 * reference.area


@pytest.mark.parametrize("cues", ["wait 0 s", "place 100,200", ""])
def test_a_run_of_no_time_is_a_run(cues):
    run = haptos.simulate(haptos.Level(), cues)
    assert len(run.track) == 1
    assert run.duration == 0
