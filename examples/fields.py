"""Slowing zones: tar that holds who walks through it, and leaves who jumps over alone; in the top view as well."""

import haptos


def level(view: str) -> haptos.Level:
    pieces = [{"name": "tar", "at": [300, 5], "shape": {"box": [100, 40]}, "field": {"speed_factor": 0.4}}]
    if view == "side":
        pieces.append({"name": "floor", "shape": {"corners": [-400, -16, 900, 0]}})
    return haptos.Level(world={"view": view}, player={"at": [0, 14]}, pieces=pieces)


if __name__ == "__main__":
    for view in ("side", "top"):
        track = haptos.simulate(level(view), "right+sprint 3 s").track
        inside = track[(track.x > 260) & (track.x < 340)]
        print(f"{view}: slowest inside {inside.vx.min():.0f} px/s, afterwards {track.vx.iloc[-1]:.0f}")
    over = haptos.simulate(level("side"), "right+sprint 0.75 s, right+sprint+jump 0.6 s, right+sprint 0.5 s").track
    print(f"jumped over: never slower than {over[over.x > 100].vx.min():.0f} px/s")
