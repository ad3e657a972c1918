"""How exact the simulation is: against closed forms, against itself at other tick rates, and against walls."""

from __future__ import annotations

import math
from typing import Any

import levels
import numpy as np
import shapely
from marks import Mark, at_least, at_most
from tests.hall import BODIES, hall, mirrored, points, random_cues
from tests.test_hall import SHEETS

import haptos
from haptos.engine.build.compile_level import compile_level
from haptos.engine.collision.impact import is_one_way
from haptos.engine.collision.zones import depth_in
from haptos.engine.compiling.contract import leaf
from haptos.engine.compiling.kernels import KernelCall
from haptos.engine.records.events import STALL
from haptos.engine.stepping import Runner

RATES = (24, 30, 60, 144, 1000)
GRAVITY, HEIGHT = 1800.0, 72.0
COMMON = "right 1 s, right+jump 0.2 s, right 0.8 s, right+sprint 1 s, right+sprint+jump 0.4 s, left 2 s, left+jump 1 s"


def flight() -> Mark:
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
    return at_most("flight at 24 to 1000 ticks/s against closed form, relative", worst, 1e-9, form=".1e")


def tick_rates() -> Mark:
    data = levels.demo_room().model_dump(exclude_unset=True, by_alias=True)
    tracks = []
    for rate in (30, 60, 120, 240):
        data["world"]["tick_rate"] = rate
        track = haptos.simulate(haptos.Level(**data), COMMON).track
        tracks.append(track[["x", "y", "vx", "vy"]].to_numpy()[:: rate // 30])
    worst = max(float(np.abs(track - tracks[0]).max()) for track in tracks)
    return at_most("the demo room at 30, 60, 120, 240 ticks/s, apart", worst, 1e-6, "px", ".1e")


def tunnelling() -> Mark:
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
    return at_most(f"through a wall 1 thick at 100,000 units/s, of {shots}", passed, 0, form="d")


@leaf
def deepest(obstacles: Any, track: Any, worst: Any) -> None:
    """Note the greatest depth of a track inside grown outlines."""
    grid = obstacles.grid[0]
    for index in range(track.shape[0]):
        x, y = track[index].x, track[index].y
        column, row = int((x - grid.x) // grid.size), int((y - grid.y) // grid.size)
        if 0 <= column < grid.columns and 0 <= row < grid.rows:
            cell = row * grid.columns + column
            for item in range(obstacles.start[cell], obstacles.start[cell + 1]):
                outline = obstacles.outlines[obstacles.items[item]]
                if is_one_way(outline):
                    continue
                worst[0] = max(worst[0], depth_in(outline, obstacles.faces, x, y))


def random_shape(rng: np.random.Generator) -> dict[str, Any]:
    w, h = rng.uniform(8, 90, 2)
    hull = shapely.MultiPoint(rng.uniform(-45, 45, (7, 2))).convex_hull.exterior.coords
    shapes: list[dict[str, Any]] = [
        {"box": [w, h]},
        {"box": [w, h], "turn": rng.uniform(0, 360)},
        {"circle": w / 2},
        {"capsule": [w, h], "turn": 30},
        {"polygon": [[0, 0], [w, 0], [w, h]]},
        {"polygon": [[0, 0], [w, 0], [w, h], [0.6 * w, h], [0.5 * w, 0.3 * h], [0, h]]},
        {"polygon": [list(point) for point in hull[:-1]]},
    ]
    return shapes[rng.integers(len(shapes))]


def random_facets(rng: np.random.Generator) -> dict[str, Any]:
    choices: list[dict[str, Any]] = [
        {"solid_from": str(rng.choice(["above", "left", "right", "below"]))},
        {"launch": {"height": float(rng.uniform(20, 150)), "direction": float(rng.uniform(40, 140))}},
        {"surface": {"friction": float(rng.uniform(0, 1)), "conveyor": float(rng.uniform(-80, 80))}},
        {"surface": {"restitution": 0.7}},
        {"field": {"speed_factor": 0.5}},
        {"shape": {"box": [20, 90]}, "ladder": {}},
        {"shape": {"line": rng.uniform(-50, 50, (3, 2)).tolist()}},
    ]
    return choices[rng.integers(len(choices))] if rng.random() < 0.5 else {}


def clutter(seed: int, view: str) -> haptos.Level:
    rng = np.random.default_rng(seed)
    pieces = []
    for index in range(60):
        at = rng.uniform(-280, 280, 2)
        piece = {"name": f"trunk {index}", "at": list(at), "shape": random_shape(rng)}
        if np.hypot(*at) > 100:
            pieces.append(piece | (random_facets(rng) if view == "side" else {}))
    walls = dict.fromkeys(("left", "right", "top", "bottom"), "wall")
    world = {"view": view, "bounds": {"corners": [-300, -300, 300, 300], **walls}}
    return haptos.Level(world=world, player={"shape": BODIES[seed % 3], "jump": {"extra_jumps": 3}}, pieces=pieces)


def penetration(ticks: int = 1_000_000, levels_played: int = 50) -> Mark:
    """Random play, all controls at random, in cluttered levels of all shapes and facets, in both views."""
    worst, stalls = -math.inf, 0
    for seed in range(levels_played):
        compiled = compile_level(clutter(seed, "top" if seed % 5 == 4 else "side"))
        rng = np.random.default_rng(seed)
        held = np.repeat(rng.integers(0, 64, ticks // levels_played), rng.integers(1, 40, ticks // levels_played))
        controls = held[: ticks // levels_played].astype(np.uint8)
        runner = Runner(compiled)
        runner.run(controls)
        track, _, events, _ = runner.recording.whole()
        height = compiled.level.player.shape.size[1]
        depth = np.full(1, -math.inf)
        KernelCall(deepest, "deepest", (compiled.tables.solids, track, depth))()
        worst = max(worst, float(depth[0]) / height)
        stalls += int((events["kind"] == STALL).sum())
        assert np.isfinite(track["x"]).all()
    return at_most("deepest in a million random ticks in clutter", worst, 1e-5, "heights", ".1e", f", {stalls} stalls")


def hall_symmetry() -> Mark:
    """The hall mirrored, turned and scaled; two tours and random play, each body."""
    worst = 0.0
    for cues in SHEETS:
        for body in BODIES:
            here = points(hall(body=body), cues)
            pairs = [points(hall(body=body, mirror=True), mirrored(cues)) * [-1, 1]]
            pairs += [points(hall(body=body, scale=scale), cues) / scale for scale in (0.01, 1000.0)]
            for angle in (37.0, 90.0, -123.4):
                turn = math.radians(angle)
                spin = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
                pairs.append(points(hall(angle, body=body), cues) @ spin)
            worst = max(worst, *(float(np.abs(pair - here).max()) for pair in pairs))
    return at_most("the hall mirrored, turned, scaled, apart", worst, 1e-6, "px", ".1e")


def hall_rates(sheets: int = 60) -> list[Mark]:
    """The hall at 30, 60, 120 and 240 ticks a second: the tours, and random play; in heights of the body."""
    apart = []
    for number, cues in enumerate([*SHEETS[:2], *(random_cues(seed) for seed in range(sheets))]):
        body = BODIES[number % 3]
        slow = points(hall(tick_rate=30, body=body), cues)
        fast = [points(hall(tick_rate=rate, body=body), cues)[:: rate // 30] for rate in (60, 120, 240)]
        tall = hall(body=body).player.shape.size[1]
        apart.append(max(float(np.abs(track - slow).max()) for track in fast) / tall)
    good = sum(value < 1e-6 for value in apart[2:])
    return [
        at_most("the hall's tours at 30 to 240 ticks/s, apart", max(apart[:2]), 1e-6, "heights", ".1e"),
        at_least("random play in it at 30 to 240 ticks/s, within 1e-6", good, sheets, "sheets", "d"),
    ]


def rows() -> list[Mark]:
    return [flight(), tick_rates(), tunnelling(), hall_symmetry(), *hall_rates(), penetration()]
