"""Scenes that once ended the process, hung it or gave garbage: each runs compiled, in a process of its own."""

from __future__ import annotations

import subprocess
import sys

import pytest

BEGIN = """
import math
import matplotlib
matplotlib.use("agg")
import haptos
FLOOR = {"name": "floor", "shape": {"box": [4000, 16]}, "at": [0, -22]}
BALL = {"name": "ball", "shape": {"circle": 10}, "at": [100, 40], "body": {"mass": 5}}
SPARK = {"spark": {"shape": {"circle": 4}}}

def near(one, other, room=1e-6):
    assert abs(one - other) <= room, (one, other)

def read_all(level, run):
    haptos.check(level)
    haptos.draw(level, run)
    assert not {"reaim", "stall"} & set(run.events.event), set(run.events.event)
    return run.pieces, run.track
"""

# What hangs on the player goes where it goes, whichever gravity holds; a body beside it falls as it would alone.
HUNG = """
for gravity in ({"vector": [0, 900]}, {"vector": [700, -700]}, {"toward": True, "strength": 900}, {"flip": True}):
    for at in ([0, 0], [30, 0]):
        for others in ([], [BALL], [{**BALL, "body": {"mass": 5, "velocity": [0, 50]}, "shape": {"box": [20, 20]}}]):
            zone = {"name": "eddy", "at": [200, 0], "layer": "zone", "shape": {"circle": 60}}
            lamp = {"name": "lamp", "shape": {"circle": 6}, "at": at}
            level = haptos.Level(
                player={"pieces": [lamp]}, pieces=[FLOOR, *others, {**zone, "field": {"gravity": gravity}}]
            )
            run = haptos.simulate(level, "right 1 s, jump 0.2 s, left 0.5 s")
            pieces, track = read_all(level, run)
            lamp = pieces[pieces.piece == "player/lamp"]
            near((lamp.x.to_numpy() - track.x.to_numpy() - at[0]).__abs__().max(), 0.0)
            near((lamp.y.to_numpy() - track.y.to_numpy() - at[1]).__abs__().max(), 0.0)
            alone = haptos.simulate(level.changed({"player.pieces": []}), "right 1 s, jump 0.2 s, left 0.5 s")
            assert alone.track.equals(track)
            own = alone.pieces
            assert own[own.piece == "ball"].values.tolist() == pieces[pieces.piece == "ball"].values.tolist()
"""
SEEN_FROM_ABOVE = """
for at in ([0, 0], [30, 0]):
    lamp = {"name": "lamp", "shape": {"circle": 6}, "at": at}
    level = haptos.Level(world={"view": "top"}, player={"pieces": [lamp]}, pieces=[{**BALL, "at": [300, 0]}])
    pieces, track = read_all(level, haptos.simulate(level, "right 1 s, up 0.5 s"))
    lamp = pieces[pieces.piece == "player/lamp"]
    near((lamp.x.to_numpy() - track.x.to_numpy() - at[0]).__abs__().max(), 0.0)
    near(pieces[pieces.piece == "ball"].x.iloc[-1], 300.0)
"""
# A rule that never fires changes nothing: the ball falls 44 px, and lies where it fell until it is pushed.
NEVER_SPAWNED = """
for shape in ({"circle": 10}, {"box": [20, 20]}, {"capsule": [20, 20]}):
    for kind in ({}, {"drift": {"velocity": [10, 0]}}, {"fragile": {"on": ["terrain"]}}):
        for who in ("player", "ball"):
            rules = [{"when": "restart", "do": [{"spawn": "spark", "parent": "player", "limit": 4}]}]
            level = haptos.Level(
                kinds={"spark": {**SPARK["spark"], **kind}}, pieces=[FLOOR, {**BALL, "shape": shape}], rules=rules
            )
            pieces, _ = read_all(level, haptos.simulate(level, "left 1.5 s"))
            ball = pieces[pieces.piece == "ball"]
            near(ball.x.iloc[-1], 100.0, 0.01)
            near(ball.y.iloc[-1], -4.0, 0.2)
            land = [row for row in haptos.simulate(level, "left 1 s").event_rows if row.event == "land"]
            near(land[0].t, math.sqrt(2 * 44 / 1800), 1e-5)
"""
SPAWNED_ON_THE_PLAYER = """
for others in ([], [BALL]):
    for kind in ({}, {"drift": {"velocity": [10, 0]}}):
        rules = [{"when": "timer", "every": 0.5, "do": [{"spawn": "spark", "parent": "player", "offset": [0, 30]}]}]
        level = haptos.Level(
            kinds={"spark": {**SPARK["spark"], **kind}}, pieces=[FLOOR, *others], rules=rules
        )
        run = haptos.simulate(level, "left 1.2 s")
        pieces, track = read_all(level, run)
        spark = pieces[pieces.piece == "spark 1"].iloc[-1]
        drifted = 10 * 0.7 if kind else 0.0
        near(spark.x, track.x.iloc[-1] + drifted, 1e-6)
        near(spark.y, track.y.iloc[-1] + 30, 1e-6)
for kind in ({"body": {"mass": 3}}, {"pieces": [{"name": "knob", "at": [0, 9], "shape": {"circle": 3}, "body": {}}]}):
    rules = [{"when": "timer", "every": 0.5, "do": [{"spawn": "spark", "parent": "player"}]}]
    try:
        haptos.Level(kinds={"spark": {**SPARK["spark"], **kind}}, pieces=[FLOOR], rules=rules)
    except haptos.LevelError as error:
        assert "expected a body that stands for itself" in str(error), error
    else:
        raise AssertionError("a body that is carried was taken")
"""
# The last of many fields acts as it would alone: across the eddy the ball is pulled up instead of down.
MANY_FIELDS = """
def ends(extra):
    rest = [
        {"name": f"lull {number}", "layer": "zone", "shape": {"circle": 2}, "at": [2000 + 9 * number, 900],
         "field": {"gravity": {"vector": [0, 5]}}}
        for number in range(extra)
    ]
    wide = {"name": "hall", "layer": "zone", "shape": {"box": [900, 900]}, "at": [0, 0]}
    eddy = {"name": "eddy", "layer": "zone", "shape": {"box": [400, 900]}, "at": [250, 0]}
    fields = [
        {**wide, "field": {"gravity": {"vector": [0, -300], "lasts": "after"}}},
        {**eddy, "field": {"gravity": {"vector": [0, 600], "lasts": "after"}}},
    ]
    ball = {**BALL, "at": [0, 100], "body": {"mass": 5, "velocity": [100, 0]}}
    level = haptos.Level(player={"at": [-1500, 0]}, pieces=[FLOOR, *rest, *fields, ball])
    pieces = haptos.simulate(level, "wait 1 s").pieces
    return pieces[pieces.piece == "ball"].iloc[-1]

for extra in (0, 58, 61, 62, 63, 70, 140):
    ball = ends(extra)
    near(ball.x, 100.0)
    # Half a second of falling at 300, half a second of rising at 600; what acts is looked up once a tick.
    near(ball.y, 100 - 150 * 0.25 - 150 * 0.5 + 300 * 0.25, 600 * 0.5 / 60 * 2)
    assert ball.y == ends(0).y
"""
TAKEN_AWAY = """
rules = [{"when": "timer", "every": 0.2, "once": True, "do": [{"remove": "pane"}]}]
pane = {"name": "pane", "at": [20, 40], "shape": {"box": [40, 8]}, "fragile": {"on": ["prop"], "hits": 9}}
for layer in ("prop", "terrain"):
    lamp = {"name": "lamp", "shape": {"circle": 6}, "at": [0, 30], "layer": layer}
    level = haptos.Level(player={"pieces": [lamp]}, pieces=[FLOOR, pane, BALL], rules=rules)
    pieces, _ = read_all(level, haptos.simulate(level, "right 0.5 s, left 0.5 s"))
    assert pieces[pieces.piece == "pane"].state.iloc[-1] == "gone"
"""
BEGINS_AGAIN = """
pit = {"name": "pit", "shape": {"box": [4000, 900]}, "at": [0, 0], "harm": {"lethal": True}}
level = haptos.Level(player={"on_death": "restart"}, pieces=[FLOOR, pit])
simulation = haptos.Simulation(level)
simulation.place(0, 0)
simulation.place(50, 0)
simulation.step("right", 10)
near(simulation.t, 10 / 60)
run = haptos.simulate(level, "place 30,0, wait 0.2 s, place 30,0")
assert (run.events.event == "restart").sum() >= 12
"""
LINES_AND_CHILDREN = """
line = {"name": "wire", "at": [0, 50], "shape": {"line": [[0, 0], [30, 0]]}, "body": {"mass": 1}}
try:
    haptos.Level(pieces=[FLOOR, line])
except haptos.LevelError as error:
    assert "found a shape without area" in str(error)
else:
    raise AssertionError("a body without area was taken")
child = {"name": "spout", "at": [0, 20], "shape": {"circle": 2}, "spawner": {"kind": "spark", "every": 0.1, "limit": 3}}
mast = {"name": "mast", "at": [50, 60], "shape": {"box": [4, 40]}, "pieces": [child]}
run = haptos.simulate(haptos.Level(kinds=SPARK, pieces=[FLOOR, mast]), "wait 0.5 s")
assert (run.events.event == "spawn").sum() == 3
"""
SCENES = {name.lower(): code for name, code in globals().items() if name.isupper() and name not in ("BEGIN", "SCENES")}


@pytest.mark.parametrize("scene", SCENES)
def test_the_process_ends_well_and_what_happened_is_what_arithmetic_says(scene: str) -> None:
    ended = subprocess.run([sys.executable, "-c", BEGIN + SCENES[scene]], capture_output=True, text=True, timeout=300)
    assert ended.returncode == 0, ended.stderr[-2000:]
