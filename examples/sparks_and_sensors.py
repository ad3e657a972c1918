"""A globe that rolls by rings a bell and carries a spark on; a drop that is taken comes back; a shield stops embers."""

import haptos

LEVEL = haptos.Level(
    player={
        "at": [-140, 14],
        "pieces": [{"name": "shield", "at": [16, 0], "shape": {"box": [4, 30]}, "layer": "prop"}],
    },
    counters={"oil": {}},
    kinds={
        "spark": {"shape": {"circle": 3}, "layer": "zone"},
        "drop": {"shape": {"circle": 4}, "pickup": {"counter": "oil"}},
        "ember": {"shape": {"circle": 3}, "drift": {"velocity": [-180, 0]}, "fragile": {"on": ["prop", "terrain"]}},
    },
    pieces=[
        {"name": "floor", "shape": {"corners": [-400, -16, 900, 0]}},
        {
            "name": "globe", "at": [0, 120], "shape": {"circle": 12}, "layer": "prop",
            "route": {"stops": [[0, 0], [300, 0]], "speed": 150},
        },
        {"name": "bell", "at": [120, 120], "shape": {"box": [6, 40]}, "layer": "zone"},
        {"name": "drop", "kind": "drop", "at": [-60, 14]},
        {"name": "vent", "at": [500, 14], "spawner": {"kind": "ember", "every": 1.0}},
    ],
    rules=[
        {"name": "ring", "when": "enter", "piece": "bell", "who": "globe", "do": [
            {"say": "the bell rings"}, {"spawn": "spark", "parent": "globe", "offset": [0, 16], "lasts": 0.5}]},
        {"name": "again", "when": "collect", "piece": "drop", "after": 1.0, "do": [{"spawn": "drop", "at": "other"}]},
    ],
)  # fmt: skip

if __name__ == "__main__":
    run = haptos.simulate(LEVEL, "right 1.5 s, wait 2 s")
    for row in run.events[run.events.event.isin(["say", "spawn", "collect", "vanish"])].itertuples():
        print(f"{row.t:.3f} s  {row.detail}")
    spark = run.pieces[run.pieces.piece == "spark 1"].iloc[-1]
    globe = run.pieces[(run.pieces.piece == "globe") & (run.pieces.tick == spark.tick)].iloc[0]
    print(f"the spark is {spark.y - globe.y:g} px over the globe, and as fast: {spark.vx:g} px/s")
