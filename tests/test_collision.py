"""Nothing tunnels, nothing penetrates, nothing catches."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

import haptos
from haptos.engine.build.compile_level import body_of
from haptos.engine.simulation import Simulation
from haptos.geometry.polygons import body_polygon, shape_polygons
from haptos.level.cues import CONTROLS

BODIES = ({"capsule": [14, 28]}, {"box": [14, 28]}, {"circle": 12})


@pytest.mark.parametrize("body", BODIES)
@pytest.mark.parametrize("view", ["side", "top"])
@pytest.mark.parametrize("wall", [{"box": [1, 4000]}, {"box": [4000, 1], "turn": 70}, {"circle": 40}])
def test_no_tunnelling_at_a_hundred_thousand_units_a_second(body, view, wall):
    pieces = [{"name": "wall", "at": [900, 0], "shape": wall}]
    level = haptos.Level(world={"view": view}, player={"shape": body}, pieces=pieces)
    simulation = Simulation(level)
    simulation.place(0, 0, vx=100_000)
    simulation.step("right")
    assert "wall" in simulation.run.events.piece.tolist()
    if "circle" in wall:
        assert np.hypot(simulation.x - 900, simulation.y) >= 40
    else:
        turn = np.deg2rad(wall.get("turn", 90))
        assert (simulation.x - 900) * np.sin(turn) - simulation.y * np.cos(turn) < 0


def clutter(seed: int, body: dict, view: str) -> haptos.Level:
    rng = np.random.default_rng(seed)
    pieces = []
    for index in range(60):
        at = rng.uniform(-280, 280, 2)
        if np.hypot(*at) < 90:
            continue
        w, h = rng.uniform(8, 90, 2)
        shape = [
            {"box": [w, h]},
            {"box": [w, h], "turn": rng.uniform(0, 360)},
            {"circle": w / 2},
            {"capsule": [w, h], "turn": 30},
        ]
        pieces.append({"name": f"trunk {index}", "at": list(at), "shape": shape[rng.integers(4)]})
    walls = dict.fromkeys(("left", "right", "top", "bottom"), "wall")
    world = {"view": view, "bounds": {"corners": [-300, -300, 300, 300], **walls}}
    return haptos.Level(world=world, player={"shape": body, "jump": {"extra_jumps": 3}}, pieces=pieces)


@pytest.mark.parametrize("view", ["side", "top"])
@pytest.mark.parametrize("seed", range(6))
def test_random_play_in_clutter_never_penetrates(seed, view):
    body = BODIES[seed % 3]
    level = clutter(seed, body, view)
    rng = np.random.default_rng(seed)
    simulation = Simulation(level)
    names = list(CONTROLS)
    for _ in range(150):
        simulation.step([name for name in names if rng.random() < 0.4], ticks=int(rng.integers(1, 40)))
    track = simulation.run.track
    assert np.isfinite(track[["x", "y", "vx", "vy"]].to_numpy()).all()
    # Judged by polygons, not by the engine's own geometry; curves inscribed in theirs can only hide 0.1 %.
    shapes = shapely.STRtree(shape_polygons(simulation.compiled.placement))
    core = body_polygon(body_of(level)).buffer(-1e-5 * 28)
    for x, y in track[["x", "y"]].to_numpy()[::7]:
        moved = shapely.transform(core, lambda points, x=x, y=y: points + np.array([x, y]))
        assert len(shapes.query(moved, predicate="intersects")) == 0
    assert track.x.between(-300, 300).all()
    assert track.y.between(-300, 300).all()


@pytest.mark.parametrize("body", BODIES)
@pytest.mark.parametrize("angle", [0.0, 30.0])
def test_a_thousand_joints_never_catch(body, angle):
    turn = np.deg2rad(angle)
    along = np.array([np.cos(turn), np.sin(turn)])
    up = np.array([-np.sin(turn), np.cos(turn)])
    pieces = [
        {"name": f"plank {index}", "at": list(along * 16 * index - up * 8), "turn": angle, "shape": {"box": [16, 16]}}
        for index in range(-2, 1000)
    ]
    high = 24 if "circle" in body else 28
    level = haptos.Level(
        world={"gravity": list(-1800 * up)}, player={"shape": body, "at": list(up * high / 2)}, pieces=pieces
    )
    run = haptos.simulate(level, "right+sprint 50 s")
    track = run.track.iloc[30:]
    speed = track[["vx", "vy"]].to_numpy() @ along
    height = track[["x", "y"]].to_numpy() @ up
    assert np.abs(speed / 300 - 1).max() < 1e-9
    assert np.abs(height - high / 2).max() < 1e-9 * high
    assert (track.stance == "ground").all()
    assert set(run.events.event) == {"touch", "part", "end"}


def test_tiles_of_one_kind_are_one_floor(flat):
    level = haptos.Level(
        player={"at": [40, 14]},
        kinds={"stone": {}},
        map={"at": [0, -32], "rows": "#" * 400 + "\n" + "#" * 400, "signs": {"#": "stone"}},
    )
    run = haptos.simulate(level, "right+sprint 20 s")
    assert run.events.event.tolist() == ["touch", "end"]
    assert run.track.support.iloc[-1] == "map/stone"


def test_a_wall_stops_and_a_ceiling_ends_the_rise(flat):
    pieces = [
        {"name": "wall", "shape": {"corners": [100, 0, 110, 200]}},
        {"name": "beam", "shape": {"corners": [-50, 60, 50, 70]}},
    ]
    run = haptos.simulate(flat(pieces), "jump 0.6 s, right 2 s")
    hit = run.events[run.events.piece == "beam"].iloc[0]
    assert hit.y == pytest.approx(60 - 14)
    # v² = v0² - 2 g h on the way up.
    assert hit.amount == pytest.approx(np.sqrt(2 * 1800 * (72 - 32)))
    assert run.track.x.iloc[-1] == pytest.approx(100 - 7)
    assert run.track.vx.iloc[-1] == 0


def test_a_body_walks_off_a_ledge_and_lands_below():
    pieces = [
        {"name": "shelf", "shape": {"corners": [-100, 0, 0, 8]}},
        {"name": "floor", "shape": {"corners": [-100, -200, 400, -192]}},
    ]
    level = haptos.Level(player={"at": [-60, 22], "shape": {"box": [14, 28]}}, pieces=pieces)
    run = haptos.simulate(level, "right 3 s")
    land = run.events[(run.events.event == "land") & (run.events.piece == "floor")].iloc[0]
    part = run.events[(run.events.event == "part") & (run.events.piece == "shelf")].iloc[0]
    assert part.x == pytest.approx(7, abs=1e-9)
    assert land.amount == pytest.approx(200, rel=1e-9)
    assert land.t - part.t == pytest.approx(np.sqrt(2 * 200 / 1800), rel=1e-9)
