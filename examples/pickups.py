"""Oil drops that come to the lamplighter: at a speed, or the faster the farther they are; and what they are worth."""

import haptos

FLOOR = {"name": "floor", "shape": {"corners": [-400, -16, 900, 0]}}


def level(**pickup: object) -> haptos.Level:
    drop = {"name": "drop", "at": [107, 14], "shape": {"circle": 4}}
    drop["pickup"] = {"counter": "oil", "attract_within": 150, "collect_within": 5, **pickup}
    return haptos.Level(
        player={"at": [0, 14]}, counters={"oil": {"rewards": [{"every": 1, "lives": 1}]}}, pieces=[FLOOR, drop]
    )


if __name__ == "__main__":
    for name, pickup in (("steady", {"speed": 250}), ("ease", {"motion": "ease", "rate": 3})):
        for rate in (30, 240):
            ticked = level(**pickup)
            world = ticked.world.model_copy(update={"tick_rate": rate})
            run = haptos.simulate(ticked.model_copy(update={"world": world}), "wait 2 s")
            taken = run.events[run.events.event == "collect"].iloc[0]
            print(f"{name} at {rate} ticks/s: taken after {taken.t:.4f} s at x = {taken.x:.1f}")
    print(f"oil {run.track.oil.iloc[-1]:g}; rewards {(run.events.event == 'reward').sum()}")
    print("check:", [finding.code for finding in haptos.check(level(motion="ease", rate=3)) if "ease" in finding.code])
