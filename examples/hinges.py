"""Hinges: a pendulum, a door that a motor brings to its speed, a trapdoor whose hold a rule lets go."""

from __future__ import annotations

import math

import haptos

MASS, LENGTH, TORQUE = 10.0, 80.0, 30000.0


def door(**hinge: object) -> haptos.Level:
    leaf = {"name": "leaf", "shape": {"box": [LENGTH, 8]}, "at": [LENGTH / 2, 0], "body": {"mass": MASS}}
    return haptos.Level(
        world={"view": "top"},
        player={"at": [900, 900]},
        pieces=[{**leaf, "hinge": {"at": [-LENGTH / 2, 0], **hinge}}],
    )


if __name__ == "__main__":
    inertia = MASS * ((LENGTH**2 + 8**2) / 12 + (LENGTH / 2) ** 2)
    time = math.radians(90) * inertia / TORQUE
    table = haptos.simulate(door(motor={"speed": 90, "max_torque": TORQUE}), "wait 2 s").pieces
    half = table.iloc[int(60 * time / 2)]
    print(f"a motor brings the door to 90°/s in {time:.3f} s: at {half.t:.3f} s it has {half.spin:.2f}°/s")
    rod = {"name": "rod", "shape": {"box": [8, 100]}, "at": [43.3, -25], "turn": 60, "body": {"mass": 5}}
    pendulum = haptos.Level(
        world={"gravity": [0, -1800]}, player={"at": [900, 0]}, pieces=[{**rod, "hinge": {"at": [0, 50]}}]
    )
    angle = haptos.simulate(pendulum, "wait 20 s").pieces.angle + 60
    print(f"a rod let go at 60° still swings to {angle.iloc[-120:].max():.2f}° after 20 s")
    hold = {"stiffness": 4e8, "damping": 2e6}
    trapdoor = {"name": "trapdoor", "shape": {"box": [58, 8]}, "at": [0, 80], "body": {"mass": 10}}
    level = haptos.Level(
        player={"at": [0, 120]},
        pieces=[{**trapdoor, "hinge": {"at": [-29, 0], "limits": [-95, 0], "hold": hold}}],
        rules=[
            {"when": "land", "piece": "trapdoor", "after": 1, "do": [{"set": "trapdoor.hinge.hold.stiffness", "to": 0}]}
        ],
    )
    run = haptos.simulate(level, "wait 1.6 s")
    print(f"a trapdoor holds for a second, and hangs at {run.pieces.angle.min():.0f}° then")
