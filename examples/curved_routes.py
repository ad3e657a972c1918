"""A smooth route: through its stops at an even speed, the piece turned along its way."""

from __future__ import annotations

import numpy as np

import haptos

ROUTE = {"stops": [[0, 0], [120, 60], [240, 0], [120, -60]], "speed": 100, "mode": "loop"}


def level(**keys: object) -> haptos.Level:
    vane = {"name": "weathervane", "shape": {"box": [50, 10]}, "at": [0, 200], "turn": 90}
    return haptos.Level(pieces=[{**vane, "route": {**ROUTE, **keys}}])


if __name__ == "__main__":
    for curve, turns in (("straight", False), ("smooth", False), ("smooth", True)):
        rows = haptos.simulate(level(curve=curve, turns=turns), "wait 6 s").pieces
        speed = np.hypot(rows.vx, rows.vy)
        turned = np.ptp(rows.angle)
        print(f"{curve:>8}, turns {turns!s:>5}: {speed.min():.2f} to {speed.max():.2f} px/s", end=", ")
        print(f"turned by {turned:.0f} degrees")
