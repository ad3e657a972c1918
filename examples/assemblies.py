"""An assembly made once and placed often: each of its sensors answers for itself alone."""

from __future__ import annotations

import haptos

LAMP = {
    "shape": {"box": [6, 60]},
    "layer": "zone",
    "pieces": [
        {"name": "near", "layer": "zone", "shape": {"circle": 20}},
        {"name": "far", "layer": "zone", "shape": {"circle": 90}},
    ],
    "rules": [
        {"when": "enter", "piece": "self/near", "do": [{"say": "near"}]},
        {"when": "enter", "piece": "self/far", "do": [{"say": "far"}]},
    ],
}


def level() -> haptos.Level:
    return haptos.Level(
        player={"at": [0, 14]},
        kinds={"lamp": LAMP},
        pieces=[
            {"name": "floor", "shape": {"corners": [-50, -20, 1200, 0]}},
            {"name": "lamp", "kind": "lamp", "at": [250, 30], "copies": [[550, 30]]},
            {"name": "tall lamp", "kind": "lamp", "at": [850, 60], "scale": 2},
        ],
    )


if __name__ == "__main__":
    run = haptos.simulate(level(), "right+sprint 3.5 s")
    for row in run.event_rows:
        if row.event == "say":
            print(f"{row.t:.3f} s at x = {row.x:6.1f}: {row.piece} says {row.detail!r}")
