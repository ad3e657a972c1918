"""Trampolines: the height that is reached does not depend on the fall before it, nor on the tick rate."""

import haptos


def level(tick_rate: float, direction: float = 90) -> haptos.Level:
    return haptos.Level(
        world={"tick_rate": tick_rate},
        player={"at": [-60, 14]},
        pieces=[
            {"name": "floor", "shape": {"corners": [-400, -16, 900, 0]}},
            {
                "name": "drum",
                "shape": {"corners": [-20, 0, 40, 8]},
                "launch": {"height": 150, "direction": direction, "keep": 0.5},
            },
        ],
    )


if __name__ == "__main__":
    for tick_rate in (30, 60, 144):
        for direction in (90, 60):
            run = haptos.simulate(level(tick_rate, direction), "right+jump 0.6 s, wait 2 s")
            thrown = run.events.query("event == 'launch'").iloc[0]
            apex = run.events[(run.events.event == "apex") & (run.events.t > thrown.t)].iloc[0]
            way = f"{tick_rate:>4} ticks/s, along {direction} degrees"
            print(f"{way}: thrown at {thrown.amount:.3f} px/s, up to {apex.amount:.9f} px")
