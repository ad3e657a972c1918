"""How exact the simulation is: against closed forms, against itself at other tick rates, and against walls."""

from __future__ import annotations

import math
from typing import Any

import levels
import numpy as np

import haptos
from haptos.engine.compile import compile_level, new_state
from haptos.engine.compiled import kernel
from haptos.engine.simulation import run_ticks
from haptos.engine.zones import depth_in

Row = tuple[str, str, str]
RATES = (24, 30, 60, 144, 1000)
GRAVITY, HEIGHT = 1800.0, 72.0
BODIES = ({"capsule": [14, 28]}, {"box": [14, 28]}, {"circle": 12})
COMMON = "right 1 s, right+jump 0.2 s, right 0.8 s, right+sprint 1 s, right+sprint+jump 0.4 s, left 2 s, left+jump 1 s"


def flight() -> Row:
    """Apex, air time, landing and distance, with walk speed and terminal speed reached inside a tick."""
    worst = 0.0
    for rate in RATES:
        floor = {"name": "floor", "shape": {"corners": [-5000, -16, 5000, 0]}}
        level = haptos.Level(world={"tick_rate": rate}, player={"at": [0, 14]}, pieces=[floor])
        events = haptos.simulate(level, "right 1.5 s, right+jump 1 s, right 0.5 s").events.set_index("event")
        air = 2 * math.sqrt(2 * HEIGHT / GRAVITY)
        start = 150 * (1.5 - 150 / 1800 / 2)
        pairs = [
            (events.amount["apex"], HEIGHT),
            (events.t["apex"] - 1.5, air / 2),
            (events.t["land"] - 1.5, air),
            (events.x["land"], start + 150 * air),
        ]
        tower = {"at": [0, 1014], "fall": {"terminal_speed": 500}}
        land = haptos.simulate(haptos.Level(world={"tick_rate": rate}, player=tower, pieces=[floor]), "wait 3 s").events
        fall = 500 / GRAVITY + (1000 - 500**2 / (2 * GRAVITY)) / 500
        pairs.append((land[land.event == "land"].t.iloc[0], fall))
        worst = max(worst, *(abs(found / expected - 1) for found, expected in pairs))
    return ("flight at 24 to 1000 ticks/s against closed form", f"{worst:.1e}, relative", "1e-9")


def tick_rates() -> Row:
    data = levels.demo_room().model_dump(exclude_unset=True, by_alias=True)
    tracks = []
    for rate in (30, 60, 120, 240):
        data["world"]["tick_rate"] = rate
        track = haptos.simulate(haptos.Level(**data), COMMON).track
        tracks.append(track[["x", "y", "vx", "vy"]].to_numpy()[:: rate // 30])
    worst = max(float(np.abs(track - tracks[0]).max()) for track in tracks)
    return ("the demo room at 30, 60, 120, 240 ticks/s", f"{worst:.1e} apart", "1e-6")


def tunnelling() -> Row:
    """A body at 100,000 units a second against a wall one unit thick, at many places, angles and sub-tick times."""
    rng = np.random.default_rng(2)
    passed, shots = 0, 300
    for number in range(shots):
        angle, distance = rng.uniform(-80, 80), rng.uniform(40, 3000)
        wall = {"name": "wall", "at": [distance, 0], "turn": angle, "shape": {"box": [1, 200_000]}}
        level = haptos.Level(world={"view": "top"}, player={"shape": BODIES[number % 3]}, pieces=[wall])
        simulation = haptos.Simulation(level)
        simulation.place(0, 0, vx=100_000)
        simulation.step("", ticks=3)
        turn = math.radians(angle)
        passed += (simulation.x - distance) * math.cos(turn) + simulation.y * math.sin(turn) > 0
    return ("through a wall 1 thick at 100,000 units/s", f"{passed} of {shots}", "none")


@kernel
def deepest(obstacles: Any, track: Any) -> float:
    """Return the greatest depth of a track inside grown outlines."""
    grid = obstacles.grid[0]
    worst = -np.inf
    for index in range(track.shape[0]):
        x, y = track[index].x, track[index].y
        column, row = int((x - grid.x) // grid.size), int((y - grid.y) // grid.size)
        if 0 <= column < grid.columns and 0 <= row < grid.rows:
            cell = row * grid.columns + column
            for item in range(obstacles.start[cell], obstacles.start[cell + 1]):
                outline = obstacles.outlines[obstacles.items[item]]
                worst = max(worst, depth_in(outline, obstacles.faces, x, y))
    return worst


def clutter(seed: int, view: str) -> haptos.Level:
    rng = np.random.default_rng(seed)
    pieces = []
    for index in range(60):
        at, (w, h) = rng.uniform(-280, 280, 2), rng.uniform(8, 90, 2)
        shape = [{"box": [w, h]}, {"box": [w, h], "turn": rng.uniform(0, 360)}, {"circle": w / 2}, {"capsule": [w, h]}]
        if np.hypot(*at) > 90:
            pieces.append({"name": f"trunk {index}", "at": list(at), "shape": shape[rng.integers(4)]})
    walls = dict.fromkeys(("left", "right", "top", "bottom"), "wall")
    world = {"view": view, "bounds": {"corners": [-300, -300, 300, 300], **walls}}
    return haptos.Level(world=world, player={"shape": BODIES[seed % 3], "jump": {"extra_jumps": 3}}, pieces=pieces)


def penetration(ticks: int = 1_000_000, levels_played: int = 50) -> Row:
    """Random play, all controls at random, in cluttered levels of all shapes, in both views."""
    worst, stalls = -math.inf, 0
    for seed in range(levels_played):
        compiled = compile_level(clutter(seed, "top" if seed % 5 == 4 else "side"))
        rng = np.random.default_rng(seed)
        held = np.repeat(rng.integers(0, 64, ticks // levels_played), rng.integers(1, 40, ticks // levels_played))
        track, events = run_ticks(compiled, new_state(compiled, 1), 0, held[: ticks // levels_played].astype(np.uint8))
        height = compiled.level.player.shape.size[1]
        worst = max(worst, deepest(compiled.tables.solids, track) / height)
        stalls += int((events["kind"] == 13).sum())
        assert np.isfinite(track["x"]).all()
    return ("deepest in a million random ticks in clutter", f"{worst:.1e} heights, {stalls} stalls", "1e-5 heights")


def rows() -> list[Row]:
    return [flight(), tick_rates(), tunnelling(), penetration()]
