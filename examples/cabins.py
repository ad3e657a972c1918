"""A cabin: a zone that carries takes along who is inside, in the air too."""

from __future__ import annotations

import haptos

CABIN = {
    "name": "cabin",
    "at": [0, 50],
    "layer": "zone",
    "shape": {"box": [160, 100]},
    "pieces": [{"name": "floor", "layer": "terrain", "shape": {"box": [160, 10]}, "at": [0, -45]}],
    "route": {"stops": [[0, 0], [400, 100]], "speed": 120, "ease": True, "pause": 0.5, "waits_for": "ridden"},
}


if __name__ == "__main__":
    for carries in (True, False):
        level = haptos.Level(player={"at": [0, 24]}, pieces=[{**CABIN, "field": {"carries": carries}}])
        run = haptos.simulate(level, "wait 1.2 s, jump 0.4 s, wait 0.6 s")
        cabin = run.pieces[run.pieces.piece == "cabin"].reset_index()
        strays = (run.track.x - cabin.x).abs().max()
        print(f"carries {carries}: in the jump the body strays by {strays:.2f} px from where it stood in the cabin")
