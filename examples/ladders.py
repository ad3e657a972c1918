"""Ladders: up through a loft's floor, stand on the top, down again, and off to the side."""

import haptos

level = haptos.Level(
    player={"at": [0, 14], "climb": {"speed": 90}},
    pieces=[
        {"name": "floor", "shape": {"corners": [-400, -16, 400, 0]}},
        {"name": "rigging", "shape": {"box": [16, 120]}, "at": [50, 60], "ladder": {"speed_factor": 1.5}},
        {"name": "loft", "shape": {"corners": [-20, 112, 120, 120]}, "solid_from": "above"},
    ],
)

if __name__ == "__main__":
    run = haptos.simulate(level, "right 0.35 s, up 1.2 s, wait 0.2 s, down 0.4 s, right+jump 0.2 s, wait 1 s")
    print(
        run.events.query("event in ('climb', 'pass', 'jump')")[["t", "event", "piece", "detail"]].to_string(index=False)
    )
    print("ends on", run.track.support.iloc[-1])
