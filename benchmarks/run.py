"""Time the simulation and print a table: `make bench`.

Speeds are the best of several runs in one process; ratios are of runs taken in turn, so that a machine whose speed
drifts does not show in them. The kernels are compiled before anything is timed, but for the line that times that.
"""

from __future__ import annotations

import os
import shutil
import struct
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import accuracy
import levels
import numpy as np
from rich.console import Console
from rich.table import Table

import haptos
from haptos.demo import demo_file
from haptos.engine.build.compile_level import CompiledLevel, compile_level
from haptos.engine.build.initial_state import new_state
from haptos.engine.runner import run_ticks
from haptos.engine.simulation import simulate_many

HERE = Path(__file__).parent
TICKS = 300_000
ROUNDS = 5

Row = tuple[str, str, str]


def once(compiled: CompiledLevel, held: np.ndarray) -> float:
    state = new_state(compiled, 1)
    begin = time.perf_counter()
    run_ticks(compiled, state, 0, held)
    return time.perf_counter() - begin


def best(jobs: list[Callable[[], float]]) -> list[float]:
    """Run the jobs in turn, several rounds, and return the best of each."""
    times = [[job() for job in jobs] for _ in range(ROUNDS)]
    return np.min(np.array(times), axis=0).tolist()


def speeds() -> list[Row]:
    held = levels.controls(TICKS)
    room, hall = compile_level(levels.demo_room()), compile_level(levels.demo_hall())
    few, many = compile_level(levels.boxes(100)), compile_level(levels.boxes(10_000))
    for compiled in (room, hall, few, many):
        once(compiled, held[:10])
    demo, stairs, one, other = best(
        [lambda: once(room, held), lambda: once(hall, held), lambda: once(few, held), lambda: once(many, held)]
    )
    return [
        ("one world, the demo's first room", f"{TICKS / demo / 1e6:.2f} M ticks/s", "0.8 or more"),
        ("one world, the demo's stair hall", f"{TICKS / stairs / 1e6:.2f} M ticks/s", "0.5 or more"),
        ("10,000 boxes against 100", f"{other / one:.2f} times the tick", "1.2 or less"),
    ]


def movers() -> Row:
    held = levels.controls(TICKS // 10)
    compiled = compile_level(levels.lifts(1000))
    once(compiled, held[:10])
    (seconds,) = best([lambda: once(compiled, held)])
    return ("1,000 pieces on routes", f"{len(held) / seconds:,.0f} ticks/s", "50,000 or more")


def pickups() -> Row:
    held = levels.controls(TICKS // 3)
    compiled = compile_level(levels.drops(5000))
    once(compiled, held[:10])
    (seconds,) = best([lambda: once(compiled, held)])
    return ("5,000 pickups that come", f"{len(held) / seconds:,.0f} ticks/s", "100,000 or more")


def against_c() -> Row:
    name = "boxes alone against plain C"
    compiler = shutil.which("cc") or shutil.which("gcc") or shutil.which("clang")
    if compiler is None:
        return (name, "no C compiler here", "5 or less")
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
    track = run_ticks(compiled, new_state(compiled, 1), 0, held[:2000]).track
    write_for_c(compiled, held[:2000], data)
    in_c()
    same = abs(track["x"][-1] - end[0]) + abs(track["y"][-1] - end[1]) < 1e-6
    agree = "same track" if same else "TRACKS DIFFER"
    return (name, f"{ours / theirs:.2f} times ({TICKS / theirs / 1e6:.1f} M ticks/s in C; {agree})", "5 or less")


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


def threads() -> Row:
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
    return ("two threads against one on either core, a batch of 64", f"{ratio:.2f} times as fast", "1.8 or more")


def loading() -> list[Row]:
    def timed(make: Callable[[], haptos.Level]) -> float:
        begin = time.perf_counter()
        compile_level(make())
        return time.perf_counter() - begin

    timed(lambda: levels.tile_map(10))
    tiles, pieces = best([lambda: timed(lambda: levels.tile_map(500)), lambda: timed(lambda: levels.boxes(10_000))])
    return [
        ("500 by 500 tiles, loaded and compiled", f"{tiles:.2f} s", "2 s"),
        ("10,000 pieces, loaded and compiled", f"{pieces:.2f} s", "4 s"),
    ]


def command(*words: str, fresh: bool = False) -> float:
    with tempfile.TemporaryDirectory() as folder:
        environment = os.environ | ({"HAPTOS_CACHE_DIR": folder} if fresh else {})
        begin = time.perf_counter()
        subprocess.run([sys.executable, "-m", "haptos.cli", *words], check=True, capture_output=True, env=environment)
        return time.perf_counter() - begin


def tool() -> list[Row]:
    room = str(demo_file("first-room.toml"))
    play = "right 5 s, right+jump 1 s, left 4 s"
    command("run", room, play)
    usage, run = best([lambda: command("--help"), lambda: command("run", room, play)])
    first = command("run", room, play, fresh=True)
    full = command("run", str(demo_file("stair-hall.toml")), play, fresh=True)
    return [
        ("haptos --help", f"{usage:.2f} s", "0.4 s"),
        ("haptos run, ten seconds of play", f"{run:.2f} s", "2 s"),
        ("haptos run, the first room's first compile included", f"{first:.1f} s", "30 s"),
        ("haptos run, the stair hall's first compile included", f"{full:.1f} s", "30 s"),
    ]


def main() -> None:
    table = Table("what", "measured", "must reach", title="Haptos benchmarks", title_justify="left")
    for row in [*accuracy.rows(), *speeds(), movers(), pickups(), against_c(), threads(), *loading(), *tool()]:
        table.add_row(*row)
    Console(width=110).print(table)


if __name__ == "__main__":
    main()
