"""Thorned railings, a deep drop, lamps that save the way, and the door at the end."""

import haptos

LEVEL = haptos.Level(
    player={"at": [0, 14], "health": {"points": 3, "lives": 2}, "fall": {"harm_per_unit": 0.02, "safe_drop": 100}},
    pieces=[
        {"name": "floor", "shape": {"corners": [-400, -16, 900, 0]}},
        {"name": "lamp", "at": [100, 22], "shape": {"box": [14, 44]}, "checkpoint": {"respawn_at": [0, -8]}},
        {"name": "railing", "at": [220, 6], "shape": {"box": [48, 12]}, "harm": {"points": 2, "knock": 200}},
        {"name": "door", "at": [400, 30], "shape": {"box": [20, 60]}, "finish": {}},
    ],
)

if __name__ == "__main__":
    run = haptos.simulate(LEVEL, "right 4 s")
    wanted = ["checkpoint", "hurt", "lost", "respawn", "finish"]
    for row in run.events[run.events.event.isin(wanted)].itertuples():
        print(f"{row.t:.3f} s  {row.event}: {row.detail}")
    dropped = haptos.simulate(LEVEL, "place 0,264, wait 1 s")
    hurt = dropped.events[dropped.events.event == "hurt"].iloc[0]
    print(f"a drop of 250 costs {hurt.amount:.3f} points: 0.02 (250 - 100)")
