"""Arms that turn: the body is carried by the point that it stands on, and takes that point's velocity along."""

from __future__ import annotations

import math

import haptos


def level(speed: float) -> haptos.Level:
    return haptos.Level(
        player={"at": [60, 22]},
        pieces=[
            {
                "name": "orrery arm",
                "shape": {"box": [200, 16]},
                "at": [0, 0],
                "spin": {"speed": speed},
            },
        ],
    )


if __name__ == "__main__":
    for speed in (5, 10, 20):
        run = haptos.simulate(level(speed), "wait 1 s, jump 0.4 s")
        before, after = run.track.iloc[60], run.track.iloc[61]
        radius = math.hypot(60, 8)
        print(f"{speed:>2} degrees/s: carried at {math.hypot(before.vx, before.vy):6.3f} px/s", end=", ")
        print(f"the point goes at {math.radians(speed) * radius:6.3f}", end="; ")
        print(f"the jump leaves at {after.vy + 1800 / 60:8.3f} px/s")
