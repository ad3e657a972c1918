"""Methods of integration: how high a jump goes at different tick rates."""

import haptos

METHODS = ("exact", "semi-implicit-euler", "velocity-verlet")


def apex(method: str, tick_rate: float) -> float:
    level = haptos.Level(
        world={"method": method, "tick_rate": tick_rate},
        player={"at": [0, 14]},
        pieces=[{"name": "floor", "shape": {"corners": [-400, -16, 400, 0]}}],
    )
    events = haptos.simulate(level, "jump 1 s").events
    return float(events.query("event == 'apex'").amount.iloc[0])


if __name__ == "__main__":
    for tick_rate in (30, 60, 120):
        heights = ", ".join(f"{method} {apex(method, tick_rate):.3f}" for method in METHODS)
        print(f"{tick_rate:>4} ticks/s: {heights}; closed form 72")
