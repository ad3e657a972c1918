"""Pushing, kicking, standing: what the player does to loose bodies, and they to it."""

from __future__ import annotations

import haptos

FLOOR = {"name": "floor", "shape": {"box": [2000, 16]}, "at": [0, -8]}


def crate(mass: float) -> dict:
    return {"name": "trunk", "shape": {"box": [32, 32]}, "at": [0, 16], "body": {"mass": mass, "friction": 0.5}}


if __name__ == "__main__":
    for mass in (20, 60, 110, 130):
        level = haptos.Level(player={"at": [-60, 14], "push": {"force": 108000}}, pieces=[FLOOR, crate(mass)])
        trunk = haptos.simulate(level, "right 1.5 s").pieces.query("piece == 'trunk'").iloc[-1]
        needed = 0.5 * mass * 1800
        print(f"a trunk of {mass:>3} kg needs {needed:>6.0f} to slide: it has gone {trunk.x:4.0f} px")
    ball = {"name": "brass ball", "shape": {"circle": 8}, "at": [0, 8], "body": {"mass": 1, "restitution": 0.6}}
    run = haptos.simulate(haptos.Level(player={"at": [-60, 14]}, pieces=[FLOOR, ball]), "right+sprint 1 s")
    print(f"a ball is kicked: it rolls at {run.pieces.iloc[-1].vx:.1f} px/s")
    board = {
        "name": "board",
        "shape": {"box": [160, 8]},
        "at": [0, 24],
        "body": {"mass": 20},
        "hinge": {"limits": [-12, 12]},
    }
    run = haptos.simulate(haptos.Level(player={"at": [60, 44]}, pieces=[FLOOR, board]), "wait 1 s")
    print(
        f"a see-saw under the player: {run.pieces.iloc[-1].angle:.0f}°, who stands on the {run.track.support.iloc[-1]}"
    )
