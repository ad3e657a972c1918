"""Loose bodies: a crate rests on a slope as long as friction holds it, a ball rolls down, a stack stands."""

from __future__ import annotations

import math

import haptos

GRAVITY = 1800.0


def slope(angle: float, friction: float) -> haptos.Level:
    turn = math.radians(angle)
    at = [-math.sin(turn) * 36, math.cos(turn) * 36]
    return haptos.Level(
        world={"gravity": [0, -GRAVITY]},
        player={"at": [0, 900]},
        pieces=[
            {"name": "roof", "shape": {"box": [4000, 40]}, "at": [0, 0], "turn": angle},
            {"name": "trunk", "shape": {"box": [32, 32]}, "at": at, "turn": angle, "body": {"friction": friction}},
        ],
    )


if __name__ == "__main__":
    for angle in (20, 26, 27, 40):
        run = haptos.simulate(slope(angle, 0.5), "wait 1 s")
        trunk = run.pieces[run.pieces.piece == "trunk"].iloc[-1]
        turn = math.radians(angle)
        expected = max(GRAVITY * (math.sin(turn) - 0.5 * math.cos(turn)), 0.0)
        print(f"slope of {angle}°: {math.hypot(trunk.vx, trunk.vy):7.2f} px/s after 1 s, expected {expected:7.2f}")
    boxes = [
        {"name": f"folio {k}", "shape": {"box": [30, 30]}, "at": [0, 15 + 30.5 * k], "body": {}} for k in range(10)
    ]
    floor = {"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -8]}
    run = haptos.simulate(haptos.Level(player={"at": [-150, 14]}, pieces=[floor, *boxes]), "wait 5 s")
    asleep = run.events[run.events.event == "sleep"]
    print(f"a stack of ten: {len(asleep)} asleep after {asleep.t.max():.2f} s")
