"""Shapes: a compound piece, a concave polygon, a line, copies, and a piece that rests on another."""

import haptos

level = haptos.Level(
    player={"at": [-60, 14]},
    kinds={
        "brazier": {
            "parts": [
                {"shape": {"box": [8, 24]}, "at": [0, 12]},
                {"shape": {"capsule": [32, 8]}, "at": [0, 26]},
            ]
        }
    },
    pieces=[
        {"name": "floor", "shape": {"corners": [-200, -16, 900, 0]}},
        {"name": "brazier", "kind": "brazier", "at": [40, 100], "rest": {"on": "floor"}},
        {"name": "tall brazier", "kind": "brazier", "at": [160, 0], "scale": 1.5, "copies": [[280, 0]]},
        {
            "name": "trough",
            "shape": {"polygon": [[0, 0], [120, 0], [120, 40], [90, 40], [90, 12], [0, 12]]},
            "at": [400, 0],
        },
        {"name": "rail", "shape": {"line": [[60, 0], [0, 20], [-60, 0]]}, "at": [640, 60]},
    ],
)

if __name__ == "__main__":
    run = haptos.simulate(level, "right 1 s, right+jump 0.4 s, right 1 s")
    print(run.events[["t", "event", "piece"]].to_string(index=False))
    print("a ray straight down over the brazier meets", haptos.first_hit(level, (40, 200), (0, -1)))
    for finding in haptos.check(level):
        print(finding.severity, finding.place, finding.message)
