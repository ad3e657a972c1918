"""Slopes and steps: the speed is kept up, over the crest and down; low steps are taken, high ones stop."""

import numpy as np

import haptos

level = haptos.Level(
    player={"at": [-100, 14], "ground": {"max_slope": 50, "step_height": 4, "snap": 4}},
    pieces=[
        {"name": "floor", "shape": {"corners": [-400, -16, 1200, 0]}},
        {"name": "ramp", "at": [0, 0], "shape": {"polygon": [[0, 0], [100, 50], [200, 50], [300, 0]]}},
        {"name": "step", "shape": {"corners": [400, 0, 600, 4]}},
        {"name": "wall", "shape": {"corners": [500, 4, 600, 12]}},
    ],
)

if __name__ == "__main__":
    run = haptos.simulate(level, "right+sprint 3 s")
    speed = np.hypot(run.track.vx, run.track.vy)
    at_speed = run.track[speed >= 300 - 1e-9]
    print(f"at 300 px/s from x = {at_speed.x.iloc[0]:.1f} to {at_speed.x.iloc[-1]:.1f}, over the ramp and the step")
    print("in the air for", int((run.track.stance == "air").sum()), "ticks; stopped by", run.track.x.iloc[-1] + 7)
    print(run.events.query("event == 'step'")[["t", "x", "detail"]].to_string(index=False))
