"""A weight opens a gate for a while, a counter lights a lamp, and why a rule did not fire."""

import haptos
from haptos.study.rule_why import why_rule

LEVEL = haptos.Level(
    player={"at": [0, 14]},
    counters={"oil": {}},
    pieces=[
        {"name": "floor", "shape": {"corners": [-400, -16, 900, 0]}},
        {"name": "weight", "at": [100, 3], "shape": {"box": [20, 6]}, "layer": "zone"},
        {"name": "gate", "at": [200, 40], "shape": {"box": [10, 80]}},
        {"name": "lamp", "at": [500, 40], "shape": {"box": [10, 80]}, "layer": "zone", "active": False},
        {"name": "drop", "at": [300, 14], "copies": [[340, 14]], "shape": {"circle": 4}, "pickup": {"counter": "oil"}},
    ],
    rules=[
        {"name": "open", "when": "enter", "piece": "weight", "do": [{"set": "gate.active", "to": False}]},
        {"name": "shut", "when": "enter", "piece": "weight", "after": 1.5, "do": [{"set": "gate.active", "to": True}]},
        {"name": "light", "when": "counter", "if": "oil == 2", "do": [{"set": "lamp.active", "to": True}]},
        {"name": "rich", "when": "enter", "piece": "weight", "if": "oil > 5", "do": [{"say": "oil to spare"}]},
    ],
)

if __name__ == "__main__":
    run = haptos.simulate(LEVEL, "right 3 s")
    for row in run.events[run.events.event.isin(["gone", "return", "collect", "set"])].itertuples():
        print(f"{row.t:.3f} s  {row.detail}")
    for name in ("light", "rich"):
        answer = why_rule(run, name)
        print(answer.sentence)
        for reason in answer.reasons:
            print("   ", reason)
