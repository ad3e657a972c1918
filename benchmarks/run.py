"""Time the simulation and print a table: `make bench`. Exit with 1 if a mark is missed.

Speeds are the best of several runs in one process; ratios are of runs taken in turn, so that a machine whose speed
drifts does not show in them.
"""

from __future__ import annotations

import math
import os
import shutil
import struct
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

import accuracy
import checked_runs
import contacts
import damage
import levels
import loose_levels
import numpy as np
import sheets
from marks import Mark, at_least, at_most
from rich.console import Console
from rich.table import Table

import haptos
from haptos.demo import DEMO_SHEETS, demo_file
from haptos.engine.build.compile_level import CompiledLevel, compile_level
from haptos.engine.simulation import simulate_many
from haptos.engine.stepping import Runner

HERE = Path(__file__).parent
TICKS = 300_000
ROUNDS = 5


def once(compiled: CompiledLevel, held: np.ndarray) -> float:
    runner = Runner(compiled)
    begin = time.perf_counter()
    runner.run(held)
    return time.perf_counter() - begin


def best(jobs: list[Callable[[], float]]) -> list[float]:
    """Run the jobs in turn, several rounds, and return the best of each."""
    times = [[job() for job in jobs] for _ in range(ROUNDS)]
    return np.min(np.array(times), axis=0).tolist()


def speeds() -> list[Mark]:
    held = levels.controls(TICKS)
    room, hall = compile_level(levels.demo_room()), compile_level(levels.demo_hall())
    few, many = compile_level(levels.boxes(100)), compile_level(levels.boxes(10_000))
    for compiled in (room, hall, few, many):
        once(compiled, held[:10])
    demo, stairs, one, other = best(
        [lambda: once(room, held), lambda: once(hall, held), lambda: once(few, held), lambda: once(many, held)]
    )
    return [
        at_least("one world, the demo's first room", TICKS / demo / 1e6, 0.8, "M ticks/s"),
        at_least("one world, the demo's stair hall", TICKS / stairs / 1e6, 0.5, "M ticks/s"),
        at_most("10,000 boxes against 100", other / one, 1.2, "times the tick"),
    ]


def by_hand() -> list[Mark]:
    """Steps and rays one at a time, as a bot takes them."""
    simulation = haptos.Simulation(haptos.load(demo_file("orrery-hall.toml")))
    simulation.step("right")

    def timed(job: Callable[[], object], count: int = 2000) -> float:
        begin = time.perf_counter()
        for _ in range(count):
            job()
        return (time.perf_counter() - begin) / count * 1e6

    step, ray = best(
        [lambda: timed(lambda: simulation.step("right")), lambda: timed(lambda: simulation.first_hit((0, 100), (1, 0)))]
    )
    room = haptos.Simulation(levels.demo_room())
    room.step("right", ticks=30)
    moment = room.snapshot()

    def go_back_and_step() -> None:
        room.restore(moment)
        room.step("right")

    (again,) = best([lambda: timed(go_back_and_step, 10_000)])
    return [
        at_most("one step from a snapshot, the first room", again, 30, "µs", ".1f"),
        at_most("one step by hand, the orrery hall", step, 30, "µs", ".1f"),
        at_most("one ray there, among pieces that move", ray, 80, "µs", ".1f"),
    ]


def movers() -> Mark:
    held = levels.controls(TICKS // 10)
    compiled = compile_level(levels.lifts(1000))
    once(compiled, held[:10])
    (seconds,) = best([lambda: once(compiled, held)])
    return at_least("1,000 pieces on routes", len(held) / seconds, 50_000, "ticks/s", ",.0f")


def flyers() -> list[Mark]:
    """What flies, is made and breaks: in a room of the demo, and a thousand at once that break on each other."""
    held = levels.controls(TICKS // 10)
    gallery, sky = compile_level(haptos.load(demo_file("ember-gallery.toml"))), compile_level(levels.embers(1000))
    for compiled in (gallery, sky):
        once(compiled, held[:10])
    room, many = best([lambda: once(gallery, held), lambda: once(sky, held[:10_000])])
    return [
        at_least("one world, the demo's ember gallery", len(held) / room, 150_000, "ticks/s", ",.0f"),
        at_least("1,000 embers that fly and break on each other", 10_000 / many, 20_000, "ticks/s", ",.0f"),
    ]


def bodies() -> list[Mark]:
    """Two hundred loose bodies on a pile that has settled: kept awake, and asleep."""
    awake, asleep = haptos.Simulation(levels.pile(200, False)), haptos.Simulation(levels.pile(200, True))

    def timed(simulation: haptos.Simulation, ticks: int) -> float:
        begin = time.perf_counter()
        simulation.step("", ticks)
        return ticks / (time.perf_counter() - begin)

    for simulation in (awake, asleep):
        simulation.step("", 900)
    return [
        at_least(
            "200 loose bodies on a pile, awake", max(timed(awake, 300) for _ in range(5)), 1500, "ticks/s", ",.0f"
        ),
        at_least("the same asleep", max(timed(asleep, 20_000) for _ in range(5)), 100_000, "ticks/s", ",.0f"),
    ]


def pickups() -> Mark:
    held = levels.controls(TICKS // 3)
    compiled = compile_level(levels.drops(5000))
    once(compiled, held[:10])
    (seconds,) = best([lambda: once(compiled, held)])
    return at_least("5,000 pickups that come", len(held) / seconds, 100_000, "ticks/s", ",.0f")


def against_c() -> Mark:
    name = "boxes alone against plain C"
    compiler = shutil.which("cc") or shutil.which("gcc") or shutil.which("clang")
    if compiler is None:
        return Mark(name, "no C compiler here", 0.0, 5.0, "5 times or less")
    build = HERE / "build"
    build.mkdir(exist_ok=True)
    program = build / "boxes"
    subprocess.run([compiler, "-O2", "-o", program, HERE / "boxes.c", "-lm"], check=True)
    level = levels.boxes(100)
    compiled = compile_level(level)
    held = levels.controls(TICKS)
    data = build / "boxes.bin"
    write_for_c(compiled, held, data)
    end: list[float] = []

    def in_c() -> float:
        out = subprocess.run([program, data, "1"], check=True, capture_output=True, text=True).stdout.split()
        end[:] = [float(out[1]), float(out[2])]
        return float(out[0])

    once(compiled, held[:10])
    ours, theirs = best([lambda: once(compiled, held), in_c])
    runner = Runner(compiled)
    runner.run(held[:2000])
    track = runner.recording.whole().track
    write_for_c(compiled, held[:2000], data)
    in_c()
    same = abs(track["x"][-1] - end[0]) + abs(track["y"][-1] - end[1]) < 1e-6
    agree = "same track" if same else "TRACKS DIFFER"
    more = f" ({TICKS / theirs / 1e6:.1f} M ticks/s in C; {agree})"
    return at_most(name, ours / theirs if same else math.inf, 5, "times", more=more)


def write_for_c(compiled: CompiledLevel, held: np.ndarray, path: Path) -> None:
    """Write the grown boxes, the grid and the controls for boxes.c."""
    tables = compiled.tables
    body, world, solids = tables.body[0], tables.world[0], tables.solids
    grid, edges = solids.grid[0], tables.edges[0]
    numbers = [
        world["dt"], *compiled.level.player.at, -world["gravity_y"], body["walk"], body["sprint"],
        body["ground_accel"], body["ground_brake"], body["air_accel"], body["air_brake"], body["jump_speed"],
        body["coyote_time"], body["buffer_time"], body["release_cut"], body["terminal_speed"], edges["lost_below"],
        grid["x"], grid["y"], grid["size"],
    ]  # fmt: skip
    counts = [int(grid["columns"]), int(grid["rows"]), len(solids.outlines), len(solids.items), len(held)]
    boxes = np.column_stack([solids.outlines[name] for name in ("x0", "y0", "x1", "y1")])
    with path.open("wb") as file:
        file.write(struct.pack(f"{len(numbers)}d{len(counts)}q", *map(float, numbers), *counts))
        for block in (boxes, solids.start, solids.items, held):
            file.write(np.ascontiguousarray(block).tobytes())


def threads() -> Mark:
    """Compare two threads with one on either core in turn: the cores of a shared machine are not equally fast."""
    level = levels.demo_room()
    sheets = ["right 60 s, left 60 s, jump 60 s, right+sprint 60 s, left+jump 60 s"] * 64
    cores = sorted(os.sched_getaffinity(0))[:2] if hasattr(os, "sched_setaffinity") else [0, 0]

    def timed(count: int, on: list[int]) -> float:
        if hasattr(os, "sched_setaffinity"):
            os.sched_setaffinity(0, on)
        begin = time.perf_counter()
        simulate_many(level, sheets, threads=count)
        return time.perf_counter() - begin

    timed(1, cores)
    rounds = [(timed(1, cores[:1]), timed(1, cores[1:]), timed(2, cores)) for _ in range(3 * ROUNDS)]
    one, other, two = 1.0 / np.array(rounds).T
    ratio = np.median(two / (0.5 * (one + other)))
    return at_least("two threads against one on either core, a batch of 64", float(ratio), 1.8, "times as fast")


def loading() -> list[Mark]:
    def timed(make: Callable[[], haptos.Level]) -> float:
        begin = time.perf_counter()
        compile_level(make())
        return time.perf_counter() - begin

    timed(lambda: levels.tile_map(10))
    tiles, pieces = best([lambda: timed(lambda: levels.tile_map(500)), lambda: timed(lambda: levels.boxes(10_000))])
    return [
        at_most("500 by 500 tiles, loaded and compiled", tiles, 2, "s"),
        at_most("10,000 pieces, loaded and compiled", pieces, 4, "s"),
    ]


def command(*words: str) -> float:
    """Return the seconds of processor time that the tool takes, in a process of its own with an empty cache."""
    with tempfile.TemporaryDirectory() as folder:
        before = os.times()
        environment = os.environ | {"HAPTOS_CACHE_DIR": folder}
        subprocess.run([sys.executable, "-m", "haptos.cli", *words], check=True, capture_output=True, env=environment)
        after = os.times()
        return after.children_user + after.children_system - before.children_user - before.children_system


def tool() -> list[Mark]:
    play = "right 5 s, right+jump 1 s, left 4 s"
    rooms = {room: str(demo_file(f"{room}.toml")) for room in DEMO_SHEETS}
    usage, *runs = best([lambda: command("--help"), *(partial(command, "run", room, play) for room in rooms.values())])
    with tempfile.TemporaryDirectory() as folder:
        demo = command("demo", "--out", folder)
    slowest = max(runs)
    name = list(rooms)[runs.index(slowest)]
    return [
        at_most("haptos --help, processor time", usage, 0.2, "s"),
        at_most("haptos run, ten seconds in any demo room, empty cache", slowest, 2.5, "s", more=f" ({name})"),
        at_most("haptos demo, empty cache", demo, 20, "s", ".1f"),
    ]


def main() -> int:
    """Measure everything and print the table; return the exit code."""
    table = Table("what", "measured", "wanted", "", title="Haptos benchmarks", title_justify="left")
    marks = [
        *accuracy.rows(), *speeds(), *by_hand(), movers(), *flyers(), *bodies(), pickups(), against_c(), threads(),
        *loading(), *tool(), *sheets.rows(), *contacts.rows(), *loose_levels.rows(), *checked_runs.rows(),
        *damage.rows(),
    ]  # fmt: skip
    for mark in marks:
        table.add_row(mark.what, mark.measured, mark.wanted, "" if mark.is_met else "missed")
    Console(width=120).print(table)
    return 0 if all(mark.is_met for mark in marks) else 1


if __name__ == "__main__":
    sys.exit(main())
