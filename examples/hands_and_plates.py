"""A hand carries a trunk onto a plate that feels its weight; a shove sends a ball rolling."""

from __future__ import annotations

import haptos

LEVEL = haptos.Level(
    player={"at": [-300, 14]},
    pieces=[
        {"name": "floor", "shape": {"box": [2000, 16]}, "at": [0, -8]},
        {"name": "trunk", "shape": {"box": [32, 32]}, "at": [0, 16], "body": {"mass": 40}},
        {"name": "brass ball", "shape": {"circle": 9}, "at": [-120, 9], "body": {"mass": 4}},
        {"name": "plate", "shape": {"box": [60, 4]}, "at": [160, 2]},
    ],
    rules=[{"when": "counter", "if": "plate.load > 70000", "do": [{"say": "the plate sinks"}]}],
)

if __name__ == "__main__":
    run = haptos.simulate(LEVEL, 'hand trunk to 160,40 in 1 s, shove "brass ball" by 400,0, wait 1 s')
    chosen = run.events[run.events.event.isin(["hand", "shove", "say", "land"])]
    print(chosen[["t", "event", "who", "piece", "amount", "detail"]].to_string(index=False))
