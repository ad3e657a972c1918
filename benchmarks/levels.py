"""The levels and controls that are timed."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

import haptos
from haptos.demo import demo_file
from haptos.level.cues import CONTROLS

PLAY = ("right", "left", "right+jump", "left+jump", "right+sprint", "right+sprint+jump", "left+sprint", "")


def demo_room() -> haptos.Level:
    return haptos.load(demo_file("first-room.toml"))


def demo_hall() -> haptos.Level:
    return haptos.load(demo_file("stair-hall.toml"))


def controls(ticks: int, seed: int = 1) -> NDArray[np.uint8]:
    """Return random play: a choice of controls for a sixth of a second to a second each."""
    rng = np.random.default_rng(seed)
    held = np.zeros(ticks, dtype=np.uint8)
    at = 0
    while at < ticks:
        length = int(rng.integers(10, 60))
        words = PLAY[rng.integers(len(PLAY))]
        held[at : at + length] = sum(CONTROLS[word] for word in words.split("+") if word)
        at += length
    return held


def boxes(count: int, body: dict | None = None) -> haptos.Level:
    """Return a walled room of boxes, about one for every 64 by 64 units, whose size grows with the count."""
    rng = np.random.default_rng(3)
    side = 64.0 * np.sqrt(count)
    pieces = [
        {"name": "floor", "shape": {"corners": [-16, -16, side + 16, 0]}},
        {"name": "left wall", "shape": {"corners": [-16, -16, 0, side + 16]}},
        {"name": "right wall", "shape": {"corners": [side, -16, side + 16, side + 16]}},
        {"name": "roof", "shape": {"corners": [-16, side, side + 16, side + 16]}},
    ]
    for index in range(count - len(pieces)):
        w, h = rng.uniform(16, 56), rng.choice([8.0, 12.0])
        x, y = rng.uniform(40, side - 40), 36 + 48 * rng.integers(0, max(1, int((side - 80) / 48)))
        pieces.append({"name": f"plank {index}", "at": [x, float(y)], "shape": {"box": [w, h]}})
    # Steps and dips are left to the plain physics, as in the C program.
    ground = {"step_height": 0, "snap": 0}
    player = {"at": [20, 14.5], "shape": body or {"box": [14, 28]}, "ground": ground}
    return haptos.Level(world={"lost_below": -400}, player=player, pieces=pieces)


def lifts(count: int) -> haptos.Level:
    """Return a hall of lifts, each on a route of its own."""
    rng = np.random.default_rng(1)
    pieces: list[dict] = [{"name": "floor", "shape": {"corners": [-16, -16, 4000, 0]}}]
    for index in range(count):
        route = {"stops": [[0, 0], [rng.uniform(-90, 90), rng.uniform(20, 90)]], "speed": 80, "pause": 0.5}
        at = [rng.uniform(0, 4000), rng.uniform(40, 1500)]
        pieces.append({"name": f"lift {index}", "at": at, "shape": {"box": [48, 8]}, "route": route})
    return haptos.Level(player={"at": [2000, 14]}, pieces=pieces)


def pile(count: int, sleeps: bool) -> haptos.Level:
    """Return a bin in which so many loose bodies of four shapes lie, and the player among them."""
    rng = np.random.default_rng(0)
    shapes = [{"box": [26, 26]}, {"circle": 13}, {"box": [40, 18]}, {"capsule": [18, 34]}]
    pieces: list[dict] = [
        {"name": "floor", "at": [0, -8], "shape": {"box": [2000, 16]}},
        {"name": "left wall", "at": [-200, 200], "shape": {"box": [16, 800]}},
        {"name": "right wall", "at": [200, 200], "shape": {"box": [16, 800]}},
    ]
    for index in range(count):
        at = [float((index % 11) * 34 - 170 + rng.uniform(-2, 2)), 20.0 + 34 * (index // 11)]
        body = {"name": f"body {index}", "at": at, "shape": shapes[index % 4], "body": {"sleeps": sleeps}}
        pieces.append(body)
    return haptos.Level(world={"gravity": [0, -1800]}, player={"at": [0, 900]}, pieces=pieces)


def embers(count: int) -> haptos.Level:
    """Return a wide hall in which so many embers fly at once, each for eight seconds, and put each other out."""
    ember = {
        "layer": "ember", "shape": {"circle": 3}, "drift": {"on_exit": "vanish"}, "fragile": {"on": ["ember", "stone"]}
    }  # fmt: skip
    aim = {"box": [4800, 3200], "speed": [20, 60]}
    brazier = {"kind": "ember", "every": 8 / count, "area": "inside", "aim": aim, "lasts": 8, "limit": count}
    return haptos.Level(
        world={"bounds": {"corners": [0, 0, 6000, 4000]}},
        contacts={
            "layers": ["body", "stone", "ember"],
            "solid": {"body": ["stone"]},
            "overlap": {"body": ["ember"], "ember": ["ember", "stone"]},
        },
        player={"at": [3000, 14], "layer": "body"},
        kinds={"ember": ember},
        pieces=[
            {"name": "floor", "layer": "stone", "shape": {"corners": [-16, -16, 6016, 0]}},
            {"name": "brazier", "layer": "stone", "at": [3000, 2000], "spawner": brazier},
        ],
    )


def drops(count: int) -> haptos.Level:
    """Return a hall full of drops that come, half of them at a speed and half by easing, and shelves to jump on."""
    rng = np.random.default_rng(2)
    pieces: list[dict] = [{"name": "floor", "shape": {"corners": [-16, -16, 8000, 0]}}]
    for index in range(count // 10):
        at = [rng.uniform(0, 8000), 40.0 * rng.integers(1, 20)]
        pieces.append({"name": f"shelf {index}", "at": at, "shape": {"box": [60, 6]}, "solid_from": "above"})
    ways = ({"speed": 300}, {"motion": "ease", "rate": 4})
    for index in range(count):
        near = {"counter": "oil", "collect_within": 4, "attract_within": 60, **ways[index % 2]}
        at = [rng.uniform(0, 8000), rng.uniform(10, 800)]
        pieces.append({"name": f"drop {index}", "at": at, "shape": {"circle": 4}, "pickup": near})
    return haptos.Level(player={"at": [4000, 14]}, counters={"oil": {}}, pieces=pieces)


def tile_map(side: int) -> haptos.Level:
    """Return a map of side by side tiles, a third of them stone."""
    rng = np.random.default_rng(5)
    rows = "\n".join("".join(line) for line in np.where(rng.random((side, side)) < 0.33, "#", "."))
    return haptos.Level(kinds={"stone": {}}, map={"rows": rows, "signs": {"#": "stone"}}, player={"at": [-50, 0]})
