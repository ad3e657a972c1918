"""Embers that drift in from outside, at random times and places from the level's seed, and are put out by drops."""

from __future__ import annotations

import haptos

LEVEL = {
    "world": {"bounds": {"corners": [-300, 0, 300, 300]}, "seed": 4},
    "player": {"at": [0, 34], "shot": {"kind": "drop", "speed": 400, "cooldown": 0.2, "lasts": 1}},
    "kinds": {
        "ember": {
            "layer": "hazard",
            "shape": {"circle": 8},
            "drift": {"on_exit": "vanish"},
            "fragile": {"on": ["shot"]},
        },
        "drop": {"layer": "shot", "shape": {"circle": 4}, "fragile": {"on": ["hazard", "terrain"]}},
    },
    "pieces": [
        {"name": "floor", "shape": {"corners": [-300, 0, 300, 20]}},
        {
            "name": "draught",
            "at": [0, 150],
            "spawner": {
                "kind": "ember",
                "every": [0.3, 0.5],
                "area": "outside",
                "aim": {"at": "player", "speed": [80, 160]},
            },
        },
    ],
}


if __name__ == "__main__":
    cues = "right 0.1 s, " + "act 0.1 s, wait 0.2 s, " * 12 + "wait 1 s"
    runs = [haptos.simulate(haptos.Level(**LEVEL), cues) for _ in range(2)]
    print(f"the same seed, the same run: {runs[0].event_records.tobytes() == runs[1].event_records.tobytes()}")
    for row in runs[0].event_rows:
        if row.event == "vanish":
            print(f"{row.t:.3f} s: {row.detail}")
