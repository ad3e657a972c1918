"""Surfaces: slippery flags, a belt, and a mattress that throws back."""

import haptos


def level(**surface: object) -> haptos.Level:
    return haptos.Level(
        player={"at": [-150, 14]},
        pieces=[
            {"name": "floor", "shape": {"corners": [-400, -16, 0, 0]}},
            {"name": "ground", "shape": {"corners": [0, -16, 900, 0]}, "surface": surface},
        ],
    )


if __name__ == "__main__":
    cues = "right+sprint 1 s, wait 2 s"
    for name, surface in {
        "plain": {},
        "slippery": {"friction": 0.05},
        "belt against the way": {"conveyor": -60},
        "sticky": {"speed_factor": 0.5, "accel_factor": 2},
    }.items():
        track = haptos.simulate(level(**surface), cues).track
        end = track.iloc[-1]
        print(f"{name:>22}: at most {track.vx.max():.0f} px/s, ends at x = {end.x:.1f} with {end.vx:.1f} px/s")
    bounce = haptos.simulate(level(restitution=0.6), "place 100,200, wait 3 s").events.query("event == 'apex'")
    print("bounces to", [round(float(height), 2) for height in bounce.amount[:4]])
