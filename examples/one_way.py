"""One-way pieces: up through them, stand on them, down through them; each pass says why."""

import haptos

level = haptos.Level(
    player={"at": [0, 14]},
    kinds={"awning": {"shape": {"box": [80, 6]}, "solid_from": "above"}},
    pieces=[
        {"name": "floor", "shape": {"corners": [-400, -16, 400, 0]}},
        {"name": "awning", "kind": "awning", "at": [0, 50], "copies": [[0, 100]]},
        {"name": "flap", "shape": {"box": [6, 80]}, "at": [120, 40], "solid_from": "right"},
    ],
)

if __name__ == "__main__":
    run = haptos.simulate(level, "jump 0.4 s, wait 0.2 s, down+jump 0.1 s, wait 0.5 s, right 1.2 s, left 1 s")
    print(run.events.query("event in ('pass', 'land')")[["t", "event", "piece", "detail"]].to_string(index=False))
    print("held back by the flap at x =", run.track.x.iloc[-1])
