"""Planks that give way: they shake, fall with who stands on them, and return once nobody is in their place."""

from __future__ import annotations

import haptos


def level(latched: bool) -> haptos.Level:
    return haptos.Level(
        player={"at": [0, 14]},
        pieces=[
            {
                "name": "plank",
                "shape": {"box": [60, 8]},
                "at": [0, -4],
                "crumble": {"delay": "30 frame", "gone_after": 0.6, "returns_after": 1, "latched": latched},
            },
            {"name": "cellar", "shape": {"corners": [-400, -220, 400, -200]}},
        ],
    )


if __name__ == "__main__":
    for cues in ("wait 3 s", "right 0.4 s, wait 2.6 s"):
        for latched in (True, False):
            run = haptos.simulate(level(latched), cues)
            rows = run.events[run.events.event.isin(["crumble", "drop", "gone", "return", "land"])]
            story = ", ".join(f"{row.event} at {row.t:.3f} s" for row in rows.itertuples())
            print(f"{cues!r}, latched {latched}: {story}")
