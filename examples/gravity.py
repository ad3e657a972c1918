"""Gravity that is turned over in a shaft, and that draws to the middle of a globe one walks round."""

import math

import haptos

SHAFT = [
    {"name": "floor", "shape": {"corners": [-400, -16, 900, 0]}},
    {"name": "ceiling", "shape": {"corners": [-400, 160, 900, 176]}},
    {"name": "flip", "at": [200, 80], "shape": {"box": [120, 160]}, "field": {"gravity": {"flip": True}}},
]
GLOBE = [
    {"name": "globe", "at": [0, 0], "shape": {"circle": 120}},
    {"name": "air", "at": [0, 0], "shape": {"circle": 400}, "field": {"gravity": {"toward": True}}},
]

if __name__ == "__main__":
    run = haptos.simulate(haptos.Level(player={"at": [0, 14]}, pieces=SHAFT), "right 2.5 s")
    for row in run.events[run.events.event.isin(["flip", "land"])].itertuples():
        print(f"{row.t:.3f} s  {row.event} {row.piece} at y = {row.y:.0f}")
    level = haptos.Level(player={"at": [0, 134]}, pieces=GLOBE)
    track = haptos.simulate(level, "right 7 s").track
    angle = [math.atan2(x, y) % (2 * math.pi) for x, y in zip(track.x, track.y, strict=True)]
    back = next(t for t, one, other in zip(track.t[1:], angle, angle[1:], strict=False) if other < one - math.pi)
    print(f"round the globe in {back:.2f} s; its circle at 150 px/s takes {2 * math.pi * 134 / 150:.2f} s")
    print(f"on the globe at {100 * (track.support == 'globe').mean():.0f} % of the ticks")
