"""A lift in motion: who stands on it is carried, who jumps off takes its velocity along."""

from __future__ import annotations

import haptos


def level(speed: float, keep_momentum: bool = True) -> haptos.Level:
    return haptos.Level(
        player={"at": [0, 22], "keep_momentum": keep_momentum},
        pieces=[
            {
                "name": "counterweight lift",
                "shape": {"box": [80, 16]},
                "at": [0, 0],
                "route": {"stops": [[0, 0], [0, 400]], "speed": speed, "pause": 0.5},
            },
        ],
    )


if __name__ == "__main__":
    for speed in (60, 120, 240):
        for keeps in (True, False):
            run = haptos.simulate(level(speed, keeps), "wait 1 s, jump 0.4 s, wait 1 s")
            apex = run.events.query("event == 'apex'").iloc[0]
            what = "keeps the lift's velocity" if keeps else "leaves it behind"
            print(f"lift at {speed:>3} px/s, {what}: {apex.amount:7.2f} px over the lift it left")
    print(run.pieces.iloc[[0, 60, 120]].to_string(index=False))
