"""Random play among shapes and facets of every sort: nothing penetrates, nothing breaks, mirrored runs agree."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely

import haptos
from haptos.engine.build.compile_level import body_of
from haptos.geometry.polygons import body_polygon, shape_polygons
from haptos.level.cues import CONTROLS
from haptos.study.solids import solid_shapes
from tests.hall import BODIES

SIDES = ("above", "below", "left", "right")


def random_piece(rng: np.random.Generator, index: int, view: str) -> dict[str, Any] | None:
    at = rng.uniform(-280, 280, 2)
    if np.hypot(*at) < 100:
        return None
    w, h = rng.uniform(8, 90, 2)
    shapes: list[dict[str, Any]] = [
        {"box": [w, h]},
        {"circle": w / 2},
        {"capsule": [w, h]},
        {"polygon": [[0, 0], [w, 0], [w, h]]},
        {"polygon": [[0, 0], [w, 0], [w, h], [0.6 * w, h], [0.5 * w, 0.3 * h], [0, h]]},
        {"line": rng.uniform(-50, 50, (3, 2)).tolist()},
    ]
    turn = float(rng.choice([0, 0, 30, 90, 163]))
    piece: dict[str, Any] = {"name": f"piece {index}", "at": list(at), "turn": turn, "shape": shapes[rng.integers(6)]}
    facets: list[dict[str, Any]] = [
        {"solid_from": SIDES[rng.integers(4)]},
        {"launch": {"speed": float(rng.uniform(100, 700)), "cooldown": 0.1}},
        {"surface": {"friction": float(rng.uniform(0, 1)), "conveyor": float(rng.uniform(-80, 80))}},
        {"surface": {"restitution": 0.7}},
        {"field": {"speed_factor": 0.5, "stacks": True}},
        {"shape": {"box": [20, 90]}, "ladder": {}, "turn": 0.0},
    ]
    chosen = facets[rng.integers(6)] if rng.random() < 0.4 else {}
    if view == "top" and ("launch" in chosen or "ladder" in chosen):
        chosen = {}
    return piece | chosen


def mirror(piece: dict[str, Any]) -> dict[str, Any]:
    """Return a piece with left and right swapped."""
    ((form, value),) = piece["shape"].items()
    if form in ("polygon", "line"):
        value = [[-x, y] for x, y in value][:: -1 if form == "line" else 1]
    turned = piece | {"at": [-piece["at"][0], piece["at"][1]], "turn": -piece["turn"], "shape": {form: value}}
    if "solid_from" in piece:
        turned["solid_from"] = {"left": "right", "right": "left"}.get(piece["solid_from"], piece["solid_from"])
    if "conveyor" in piece.get("surface", {}):
        turned["surface"] = piece["surface"] | {"conveyor": -piece["surface"]["conveyor"]}
    return turned


def rooms(seed: int, view: str) -> tuple[haptos.Level, haptos.Level]:
    """Return a random walled room, and its mirror image."""
    rng = np.random.default_rng(seed)
    pieces = [piece for index in range(60) if (piece := random_piece(rng, index, view)) is not None]
    walls = dict.fromkeys(("left", "right", "top", "bottom"), "wall")
    world = {"view": view, "bounds": {"corners": [-300, -300, 300, 300], **walls}}
    player = {"shape": BODIES[seed % 3], "jump": {"extra_jumps": 3}}
    levels = [
        haptos.Level(world=world, player=player | {"facing": facing}, pieces=some)
        for facing, some in (("right", pieces), ("left", [mirror(piece) for piece in pieces]))
    ]
    return levels[0], levels[1]


def random_play(seed: int, stretches: int) -> list[tuple[list[str], int]]:
    rng = np.random.default_rng(seed)
    return [([name for name in CONTROLS if rng.random() < 0.4], int(rng.integers(1, 40))) for _ in range(stretches)]


@pytest.mark.parametrize("view", ["side", "top"])
@pytest.mark.parametrize("seed", range(12))
def test_nothing_penetrates_and_nothing_breaks(seed, view):
    level, _ = rooms(seed, view)
    simulation = haptos.Simulation(level)
    for held, ticks in random_play(seed, 150):
        simulation.step(held, ticks=ticks)
    track = simulation.run.track
    assert np.isfinite(track[["x", "y", "vx", "vy"]].to_numpy()).all()
    assert track.x.abs().max() <= 300
    assert track.y.abs().max() <= 300
    # Judged by polygons, not by the engine's own geometry; what is solid from one side alone may be overlapped.
    solid = solid_shapes(simulation.compiled, one_way=False)
    tree = shapely.STRtree([shape for shape in shape_polygons(solid) if shape.area > 0])
    core = body_polygon(body_of(level)).buffer(-1e-5 * level.player.shape.size[1])
    for x, y in track[["x", "y"]].to_numpy()[::5]:
        moved = shapely.transform(core, lambda points, x=x, y=y: points + np.array([x, y]))
        assert len(tree.query(moved, predicate="intersects")) == 0


@pytest.mark.parametrize("view", ["side", "top"])
@pytest.mark.parametrize("seed", range(8))
def test_mirrored_play_is_mirrored(seed, view):
    level, image = rooms(seed, view)
    swap = {"left": "right", "right": "left"}
    here, there = haptos.Simulation(level), haptos.Simulation(image)
    for held, ticks in random_play(100 + seed, 30):
        here.step(held, ticks=ticks)
        there.step([swap.get(name, name) for name in held], ticks=ticks)
    one, other = here.run.track, there.run.track
    assert np.abs(one.x + other.x).max() < 1e-6
    assert np.abs(one.y - other.y).max() < 1e-6
    assert one.stance.tolist() == other.stance.tolist()


def test_in_a_batch_and_alone_the_hall_gives_the_same_bits():
    level, _ = rooms(3, "side")
    sheets = ["right 2 s, jump 1 s, left 2 s", "left+sprint 3 s, up 1 s", "right+jump 4 s"]
    alone = [haptos.simulate(level, cues) for cues in sheets]
    for batch in (haptos.simulate_many(level, sheets), haptos.simulate_many(level, sheets, threads=2)):
        for one, other in zip(alone, batch, strict=True):
            assert one.track_records.tobytes() == other.track_records.tobytes()
            assert one.event_records.tobytes() == other.event_records.tobytes()


def test_a_snapshot_holds_ladders_drops_cooldowns_and_fields():
    level, _ = rooms(4, "side")
    simulation = haptos.Simulation(level)
    play = random_play(7, 40)
    for held, ticks in play[:20]:
        simulation.step(held, ticks=ticks)
    saved = simulation.snapshot()
    for held, ticks in play[20:]:
        simulation.step(held, ticks=ticks)
    first = simulation.run.track_records.tobytes()
    simulation.restore(saved)
    for held, ticks in play[20:]:
        simulation.step(held, ticks=ticks)
    assert simulation.run.track_records.tobytes() == first
