"""A hall with slopes, one-way pieces, ladders, trampolines, belts and mud, that can be mirrored, turned and scaled."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

import haptos

# name, place, shape, further values; speeds and heights are scaled by `hall`.
PIECES: list[tuple[str, tuple[float, float], dict[str, Any], dict[str, Any]]] = [
    ("floor", (0, -8), {"box": [1200, 16]}, {}),
    ("left wall", (-610, 50), {"box": [20, 400]}, {}),
    ("right wall", (610, 50), {"box": [20, 400]}, {}),
    ("ramp", (100, 0), {"polygon": [[0, 0], [60, 0], [60, 30]]}, {}),
    ("landing", (200, 15), {"box": [80, 30]}, {}),
    ("way down", (240, 0), {"polygon": [[0, 0], [80, 0], [0, 30]]}, {}),
    ("awning", (140, 80), {"box": [60, 6]}, {"solid_from": "above"}),
    ("tilted", (-60, 70), {"box": [80, 6]}, {"turn": 12, "solid_from": "above"}),
    ("flap", (-200, 60), {"box": [6, 80]}, {"solid_from": "left"}),
    ("rigging", (-130, 60), {"box": [16, 120]}, {"ladder": {}}),
    ("loft", (-160, 116), {"box": [100, 8]}, {"solid_from": "above"}),
    ("tar", (-320, 4), {"box": [120, 8]}, {"field": {"speed_factor": 0.4, "jump_factor": 0.8}}),
    ("drum", (420, 3), {"box": [40, 6]}, {"launch": {"height": 120, "keep": 0.8, "cooldown": 0.1}}),
    ("slant", (520, 6), {"polygon": [[-30, -6], [30, -6], [30, 20]]}, {"launch": {"speed": 400, "direction": 120}}),
    ("globe", (330, -2), {"circle": 12}, {}),
    ("ice", (-480, 3), {"box": [100, 6]}, {"surface": {"friction": 0.1}}),
    ("belt", (480, 120), {"box": [100, 6]}, {"surface": {"conveyor": 40}}),
    ("net", (40, 150), {"line": [[30, 0], [-30, 0]]}, {}),
    ("steps", (-560, 6), {"polygon": [[-20, -6], [20, -6], [20, -2], [5, -2], [5, 2], [-20, 2]]}, {}),
]
BODIES = ({"capsule": [14, 28]}, {"box": [14, 28]}, {"circle": 12})


def hall(
    angle: float = 0.0, scale: float = 1.0, mirror: bool = False, tick_rate: float = 60, body: Any = None
) -> haptos.Level:
    """Return the hall, turned by degrees, scaled, and with left and right swapped."""
    side = -1 if mirror else 1
    turn = math.radians(angle)

    def put(x: float, y: float) -> list[float]:
        x, y = side * scale * x, scale * y
        return [x * math.cos(turn) - y * math.sin(turn), x * math.sin(turn) + y * math.cos(turn)]

    def shaped(shape: dict[str, Any]) -> dict[str, Any]:
        ((form, value),) = shape.items()
        if form in ("polygon", "line"):
            points = [[side * scale * x, scale * y] for x, y in value]
            # A line blocks from its left, which the mirror swaps.
            return {form: points[::-1] if mirror and form == "line" else points}
        return {form: [scale * part for part in value] if isinstance(value, list) else scale * value}

    def faceted(values: dict[str, Any]) -> dict[str, Any]:
        values = {key: dict(value) if isinstance(value, dict) else value for key, value in values.items()}
        for facet, key in (("launch", "height"), ("launch", "speed"), ("surface", "conveyor")):
            if key in values.get(facet, {}):
                values[facet][key] *= scale * (side if key == "conveyor" else 1)
        if mirror:
            if "direction" in values.get("launch", {}):
                values["launch"]["direction"] = 180 - values["launch"]["direction"]
            values["solid_from"] = {"left": "right", "right": "left"}.get(
                values.get("solid_from", ""), values.get("solid_from")
            )
        return values | {"turn": side * values.get("turn", 0) + angle}

    pieces = [
        {"name": name, "at": put(*at), "shape": shaped(shape), **faceted(values)} for name, at, shape, values in PIECES
    ]
    body = shaped(body or BODIES[0])
    height = body.get("circle", 0) * 2 or (body.get("capsule") or body.get("box"))[1]
    return haptos.Level(
        world={
            "gravity": [1800 * scale * math.sin(turn), -1800 * scale * math.cos(turn)],
            "tick_rate": tick_rate,
        },
        player={
            "at": put(0, height / scale / 2 + 0.5),
            "shape": body,
            **scaled_player(scale, extra_jumps=1),
        },
        pieces=pieces,
    )


def scaled_player(scale: float, extra_jumps: int = 0) -> dict[str, Any]:
    """Return how a player moves, with every length scaled."""
    run = {"ground_accel": 1800, "ground_brake": 2400, "air_accel": 1200, "air_brake": 300}
    return {
        "gaits": {"walk": 150 * scale, "sprint": 300 * scale},
        "run": {name: rate * scale for name, rate in run.items()},
        "jump": {"height": 72 * scale, "extra_jumps": extra_jumps},
        "fall": {"terminal_speed": 900 * scale},
        "climb": {"speed": 90 * scale},
    }


def mirrored(cues: str) -> str:
    """Return cues with left and right swapped."""
    return cues.replace("right", "RIGHT").replace("left", "right").replace("RIGHT", "left")


def random_cues(seed: int, count: int = 20) -> str:
    """Return random cues whose edges lie on thirtieths of a second."""
    rng = np.random.default_rng(seed)
    cues = []
    for _ in range(count):
        words = [str(rng.choice(["left", "right", ""]))]
        words += [word for word in ("sprint", "jump") if rng.random() < 0.4]
        words.append(str(rng.choice(["up", "down", "", "", ""])))
        held = "+".join(word for word in words if word) or "wait"
        cues.append(f"{held} {rng.integers(2, 25) / 30:.10f} s")
    return ", ".join(cues)


def points(level: haptos.Level, cues: str) -> np.ndarray:
    """Return the track's places."""
    return haptos.simulate(level, cues).track[["x", "y"]].to_numpy()
