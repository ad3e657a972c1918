"""Kernels: interpreted and compiled alike, shipped and fresh, and made anew where what ships can't be used."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from importlib.metadata import version
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
import pytest

import haptos
from haptos.demo import demo_file
from haptos.engine.build.compile_level import compile_level
from haptos.engine.compiling import shipped
from haptos.engine.compiling.contract import leaf
from haptos.engine.compiling.kernels import KernelCall, ready_code
from haptos.engine.compiling.packing import Record, layout_of, words_of
from haptos.engine.simulation import needs_compiling
from haptos.engine.stepping import Runner

ROOMS = (
    "first-room",
    "stair-hall",
    "lift-shaft",
    "orrery-loft",
    "ember-gallery",
    "lantern-way",
    "orrery-hall",
    "library",
)
# A ray's kernel is the quickest to compile.
RAY = """
import haptos
level = haptos.Level(pieces=[{"name": "trunk", "shape": {"box": [20, 20]}, "at": [100, 0]}])
print(haptos.first_hit(level, (0, 0), (1, 0)).distance)
"""


def ran(code: str, **environment: str) -> subprocess.CompletedProcess[str]:
    """Run Python in a process of its own."""
    whole = {**os.environ, **environment}
    return subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, env=whole, check=False)


@pytest.mark.parametrize("room", ROOMS)
def test_interpreted_and_compiled_give_the_same_bits(room, monkeypatch):
    level = haptos.load(demo_file(f"{room}.toml"))
    cues = "right 0.2 s, right+jump 0.1 s, right+up 0.1 s, act 0.1 s" if room != "ember-gallery" else "act+right 0.1 s"
    compiled = haptos.simulate(level, cues)
    monkeypatch.setenv("HAPTOS_INTERPRET", "1")
    interpreted = haptos.simulate(level, cues)
    for name in ("track_records", "event_records", "flight_records", "scores"):
        assert getattr(compiled, name).tobytes() == getattr(interpreted, name).tobytes(), name
    ray = haptos.Simulation(level).first_hit((0, 100), (1, -0.2))
    monkeypatch.setenv("HAPTOS_INTERPRET", "0")
    assert haptos.Simulation(level).first_hit((0, 100), (1, -0.2)) == ray


def test_what_ships_is_fresh_and_there_for_every_sort():
    said = shipped.manifest()
    assert said["digest"] == shipped.digest(), "run `make kernels` after a change of what kernels are made of"
    assert set(said["files"]) == set(shipped.PLATFORMS)
    route = {"stops": [[0, 0], [0, 9]], "speed": 9}
    for method in ("exact", "semi-implicit-euler"):
        for view in ("side", "top"):
            for piece in ({}, {"surface": {}}, {"route": route}, {"harm": {}}, {"body": {}}):
                pieces = [{"name": "thing", "at": [0, 99], "shape": {"box": [9, 9]}, **piece}]
                level = haptos.Level(world={"view": view, "method": method}, pieces=pieces)
                key = Runner(compile_level(level)).kernel_call.key
                for platform in shipped.PLATFORMS:
                    assert shipped.shipped_code(key, platform), (key, platform)
                assert not needs_compiling(level)


def test_a_run_imports_neither_numba_nor_what_draws(tmp_path):
    code = "import haptos, sys; haptos.simulate(haptos.Level()); print({'numba', 'matplotlib'} & set(sys.modules))"
    done = ran(code, HAPTOS_CACHE_DIR=str(tmp_path))
    assert (done.stdout, done.stderr) == ("set()\n", "")
    assert not list(tmp_path.iterdir())


@pytest.fixture
def elsewhere(tmp_path, monkeypatch):
    """Return a copy of what ships, which is what is looked for there."""
    folder = tmp_path / "shipped"
    folder.mkdir()
    for file in shipped.FOLDER.iterdir():
        (folder / file.name).write_bytes(file.read_bytes())
    monkeypatch.setattr(shipped, "FOLDER", folder)
    monkeypatch.setenv("HAPTOS_CACHE_DIR", str(tmp_path / "cache"))
    shipped.manifest.cache_clear()
    yield folder
    shipped.manifest.cache_clear()


def damage_archives(folder: Path) -> None:
    for archive in folder.glob("*.xz"):
        code = archive.read_bytes()
        archive.write_bytes(code[:999] + bytes([code[999] ^ 1]) + code[1000:])


@pytest.mark.parametrize(
    ("damage", "why"),
    [
        (damage_archives, "is damaged"),
        (lambda folder: [archive.write_bytes(b"foreign") for archive in folder.glob("*.xz")], "is damaged"),
        (lambda folder: [archive.unlink() for archive in folder.glob("*.xz")], "can't be read"),
        (
            lambda folder: (folder / shipped.MANIFEST).write_text(
                json.dumps({**shipped.manifest(), "digest": "of long ago"})
            ),
            "older than the sources",
        ),
        (lambda folder: (folder / shipped.MANIFEST).write_text("["), "does not ship"),
    ],
)
def test_what_ships_is_not_used_where_it_is_damaged_or_stale(damage, why, elsewhere):
    call = Runner(compile_level(haptos.Level())).kernel_call
    assert ready_code(call.key)[0] is not None
    damage(elsewhere)
    shipped.manifest.cache_clear()
    code, reason = ready_code(call.key)
    assert code is None
    assert why in reason


def test_what_can_not_be_used_is_compiled_and_kept_with_one_line_that_says_why(elsewhere, tmp_path):
    damage_archives(elsewhere)
    redirected = "from pathlib import Path; from haptos.engine.compiling import shipped\n"
    redirected += f"shipped.FOLDER = Path({str(elsewhere)!r})"
    first = ran(redirected + RAY)
    assert first.stdout == "90.0\n", first.stderr
    assert len(first.stderr.splitlines()) == 1
    assert "is damaged" in first.stderr
    again = ran(redirected + RAY)
    assert (again.stdout, again.stderr) == ("90.0\n", "")
    # Damaged in the cache too, it is made once more.
    (kept,) = (tmp_path / "cache").rglob("ray-*")
    kept.write_bytes(kept.read_bytes()[:-1])
    assert ran(redirected + RAY).stdout == "90.0\n"


def test_where_no_cache_can_be_written_it_works_uncached(tmp_path):
    (tmp_path / "file").write_text("in the way")
    code = "from haptos.engine.compiling import shipped; shipped.manifest = lambda: {}" + RAY
    done = ran(code, HAPTOS_CACHE_DIR=str(tmp_path / "file"))
    assert done.stdout == "90.0\n", done.stderr
    assert len(done.stderr.splitlines()) == 1


def test_of_older_kernels_only_a_few_are_kept(tmp_path, monkeypatch):
    monkeypatch.setenv("HAPTOS_CACHE_DIR", str(tmp_path))
    for number in range(shipped.KEPT_FOLDERS + 3):
        monkeypatch.setattr(shipped, "digest", lambda number=number: f"digest {number} " + "0" * 20)
        shipped.keep_code("ray-0", "here", b"code")
        os.utime(tmp_path / "kernels" / shipped.digest()[:20], (number, number))
    assert len(list((tmp_path / "kernels").iterdir())) == shipped.KEPT_FOLDERS
    assert shipped.cached_code("ray-0", "here") == b"code"
    assert shipped.cached_code("ray-1", "here") is None


def test_how_long_a_compile_took_is_known_the_next_time(tmp_path, monkeypatch):
    monkeypatch.setenv("HAPTOS_CACHE_DIR", str(tmp_path))
    assert shipped.last_times() == {}
    shipped.note_time("ray", 3.14159)
    shipped.note_time("poses", 1.0)
    assert shipped.last_times() == {"ray": 3.1, "poses": 1.0}


def test_words_say_where_arrays_lie_and_layouts_what_they_are():
    rows = np.zeros(3, dtype=[("x", "f8"), ("piece", "i8")])
    table = np.zeros((4, 2))
    assert words_of((rows, None, table)) == [rows.ctypes.data, 3, table.ctypes.data, 4, 2]
    with pytest.raises(ValueError, match="an array with gaps"):
        words_of(table[:, 0])
    other = np.zeros(3, dtype=[("piece", "i8"), ("x", "f8")])
    assert layout_of((rows,)) != layout_of((other,)) != layout_of((None,))


def test_step_by_step_interpreted_and_compiled_give_the_same_bits(monkeypatch):
    level = haptos.load(demo_file("lift-shaft.toml"))
    ends = []
    for interpreted in ("0", "1"):
        monkeypatch.setenv("HAPTOS_INTERPRET", interpreted)
        simulation = haptos.Simulation(level)
        simulation.step("right", 5)
        before = simulation.snapshot()
        simulation.step("right+jump", 20)
        simulation.restore(before)
        for held in ("right", "jump", "left"):
            simulation.step(held, 3)
        ends.append(
            (
                simulation.x,
                simulation.y,
                simulation.vx,
                simulation.vy,
                [(event.event, event.t) for event in simulation.events],
            )
        )
    assert ends[0] == ends[1]


class Inner(NamedTuple):
    rows: Any
    table: Any
    lacking: Any


class Outer(NamedTuple):
    is_whole: Any
    inner: Any
    record: Any
    share: Any
    count: Any


@leaf
def add_up(outer, scale):
    table = outer.inner.table[1]
    return scale * (outer.record.x + outer.share + outer.count) + table[0] + outer.inner.rows.shape[0]


@leaf
def sum_bundle(outer, lacking, scale, found):
    found[0] = add_up(outer, scale) if outer.is_whole else -1.0
    found[1] = outer.inner.rows[1].x
    if lacking is None:
        found[2] = 7.0


@pytest.mark.parametrize("interpreted", [False, True])
def test_the_parts_of_a_bundle_are_read_where_they_lie(interpreted, tmp_path, monkeypatch):
    monkeypatch.setenv("HAPTOS_CACHE_DIR", str(tmp_path))
    rows = np.zeros(3, dtype=[("x", "f8"), ("piece", "i8")])
    rows["x"] = 1.0, 2.0, 3.0
    table, found = np.array([[10.0], [20.0]]), np.zeros(3)
    outer = Outer(True, Inner(rows, table, None), Record(rows[2:].copy()), 0.5, 4)
    call = KernelCall(sum_bundle, "sum_bundle", (outer, outer.inner.lacking, 2.0, found), interpreted=interpreted)
    call()
    assert found.tolist() == [2.0 * (3.0 + 0.5 + 4) + 20.0 + 3, 2.0, 7.0]
    # From the second of other rows on.
    others = np.array([(0.0, 0), (5.0, 0), (6.0, 0)], dtype=rows.dtype)
    call.point((0, 1, 0), others, 1)
    call()
    assert found.tolist() == [2.0 * (3.0 + 0.5 + 4) + 20.0 + 2, 6.0, 7.0]
    named = layout_of((Outer(True, None, None, 0.5, 4),))
    assert named != layout_of((Outer(False, None, None, 0.5, 4),)) != layout_of((Outer(True, None, None, 4, 0.5),))


def test_where_python_raises_compiled_code_goes_on(tmp_path, monkeypatch):
    @leaf
    def divide(numbers):
        numbers[0] = 1.0 / numbers[1]

    monkeypatch.setenv("HAPTOS_CACHE_DIR", str(tmp_path))
    numbers = np.zeros(2)
    with pytest.raises(ZeroDivisionError):
        KernelCall(divide, "divide", (numbers,), interpreted=True)()
    KernelCall(divide, "divide", (numbers,))()
    assert numbers[0] == np.inf


def test_a_record_before_the_first_is_an_error_where_it_can_be_seen():
    @leaf
    def read_before(numbers, rows):
        numbers[0] = rows[int(numbers[1])].x

    rows = np.zeros(2, dtype=[("x", "f8"), ("piece", "i8")])
    with pytest.raises(IndexError, match="record -1 of 2"):
        KernelCall(read_before, "read_before", (np.array([0.0, -1.0]), rows), interpreted=True)()


def test_what_ships_was_made_by_the_versions_that_tests_use():
    assert shipped.manifest()["versions"] == {name: version(name) for name in ("numba", "llvmlite")}
