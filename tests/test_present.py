"""The state of a simulation in the hand of a bot: the same as the run's tables say."""

from __future__ import annotations

import math

import numpy as np
import pytest

import haptos
from haptos.demo import demo_file
from haptos.study.rule_why import why_rule


@pytest.mark.parametrize("room", ["first-room", "lift-shaft", "orrery-hall"])
def test_what_a_simulation_shows_is_what_its_tables_say(room):
    level = haptos.load(demo_file(f"{room}.toml"))
    simulation = haptos.Simulation(level)
    rng = np.random.default_rng(3)
    seen = []
    for _ in range(40):
        before = simulation.t
        simulation.step(rng.choice(["right", "right+jump", "left", ""]), ticks=int(rng.integers(1, 30)))
        row = simulation.run.track.iloc[-1]
        assert (simulation.x, simulation.y) == (row.x, row.y)
        assert (simulation.vx, simulation.vy) == pytest.approx((row.vx, row.vy), abs=1e-9)
        for column in ("stance", "pose", "support", "facing", "health", "lives"):
            assert getattr(simulation, column) == row[column]
        assert simulation.up == (row.up_x, row.up_y)
        assert simulation.counters == {name: row[name] for name in level.counters}
        seen += [event for event in simulation.events if event.t >= before - 1e-9]
        pieces = simulation.run.pieces
        named = [piece.name for piece in simulation.compiled.resolved.pieces]
        for last in pieces[(pieces.tick == row.tick) & pieces.piece.isin(named)].itertuples():
            now = simulation.piece(last.piece)
            assert (now.x, now.y, now.state) == (pytest.approx(last.x), pytest.approx(last.y), last.state)
            if now.state != "comes":
                # That of what comes is taken between ticks there.
                assert (now.vx, now.vy) == pytest.approx((last.vx, last.vy), abs=1e-6)
            assert math.cos(math.radians(now.angle - last.angle)) == pytest.approx(1.0)
    # As texts, since what has no number has none that equals itself.
    assert [str(event._replace(cue=0)) for event in seen] == [
        str(event._replace(cue=0)) for event in simulation.run.event_rows
    ]


def test_what_is_not_there_is_a_sentence_and_what_is_over_stays():
    lamp = {"name": "lamp", "at": [40, 20], "layer": "zone", "shape": {"box": [20, 40]}, "finish": {}}
    floor = {"name": "floor", "shape": {"corners": [-400, -20, 400, 0]}}
    simulation = haptos.Simulation(haptos.Level(player={"at": [0, 14]}, pieces=[floor, lamp]))
    assert simulation.over == ""
    with pytest.raises(haptos.HaptosError, match="no piece is called 'lamb' \\(did you mean 'lamp'"):
        simulation.piece("lamb")
    simulation.step("right", ticks=90)
    assert simulation.over == "the level is finished"
    end = simulation.t, simulation.x
    simulation.step("left", ticks=10)
    assert (simulation.t, simulation.x) == end
    assert "the level is finished" in repr(simulation)


def test_rules_ask_for_places_and_numbers_of_the_player():
    floor = {"name": "floor", "shape": {"corners": [-400, -20, 800, 0]}}
    # Nobody meets the moon, which turns about the hub's place with its arm: from (100, 200) to (0, 300) in a second.
    hub = {
        "name": "hub", "at": [0, 200], "layer": "shot", "shape": {"box": [4, 4]}, "spin": {"speed": 90},
        "pieces": [{"name": "moon", "at": [100, 0], "layer": "shot", "shape": {"circle": 5}}],
    }  # fmt: skip
    rules = [
        {"name": "far", "when": "counter", "if": "x > 100", "do": [{"say": "far"}]},
        {"name": "fast", "when": "counter", "if": "player.vx >= 150", "do": [{"say": "fast"}]},
        {"name": "high", "when": "counter", "if": "hub/moon.y > 270.71", "do": [{"say": "high"}]},
        {"name": "still", "when": "jump", "if": "floor.y == -10", "do": [{"say": "on the floor"}]},
    ]
    level = haptos.Level(player={"at": [0, 14]}, pieces=[floor, hub], rules=rules)
    run = haptos.simulate(level, "right 0.9 s, right+jump 0.1 s")
    said = {row.detail: row.t for row in run.event_rows if row.event == "say"}
    track = run.track
    assert set(said) == {"far", "fast", "high", "on the floor"}
    assert said["far"] == track.t[track.x > 100].iloc[0]
    assert said["fast"] == track.t[track.vx >= 150].iloc[0]
    # sin 45° of the arm is 70.71.
    assert said["high"] == pytest.approx(0.5, abs=1.01 / 60)
    # Why one did not fire says what it asked for was.
    slow = haptos.simulate(level, "right 0.2 s")
    assert why_rule(slow, "high").reasons[0] == f"at the end hub/moon.y was {200 + 100 * math.sin(math.pi * 0.1):.6g}"
    late = {"name": "late", "when": "jump", "if": "x > 500", "do": [{"say": "late"}]}
    asked = haptos.simulate(
        haptos.Level(player={"at": [0, 14]}, pieces=[floor], rules=[late]), "right 0.5 s, jump 0.1 s"
    )
    x = asked.track.x[31]
    assert why_rule(asked, "late").reasons[1] == f"then the player's x was {x:.6g}; it did not hold at its only moment"
    with pytest.raises(haptos.LevelError, match="no counter 'oli'"):
        haptos.simulate(
            haptos.Level(rules=[{"when": "jump", "if": "oli > 3", "do": [{"say": ""}]}], counters={"oil": {}})
        )


def test_cues_and_levels_hash_and_a_simulation_shows_itself():
    level = haptos.Level(counters={"oil": {}}, player={"at": [0, 14]})
    again = haptos.Level(counters={"oil": {}}, player={"at": [0, 14]})
    one, other = (haptos.Cues.from_held([2, 2, 0], 60) for _ in range(2))
    assert len({level, again}) == len({one, other}) == 1
    shown = haptos.Simulation(level)._repr_html_()
    assert "<th>stance</th><td>air</td>" in shown
    assert "<th>oil</th><td>0</td>" in shown


@pytest.mark.parametrize(
    ("call", "message"),
    [
        (lambda level: haptos.Simulation(level).place(math.nan, 0), r"found the place \(nan, 0\)"),
        (lambda level: haptos.simulate_many(level, "right 1 s"), "expected a list of cue sheets"),
        (lambda level: haptos.show("level.toml", "player"), "expected a Level"),
        (lambda level: haptos.why("level.toml", "player", "floor"), "expected a Level"),
        (lambda level: haptos.integrators("level.toml"), "expected a Level"),
    ],
)
def test_what_is_of_the_wrong_type_is_a_sentence(call, message):
    with pytest.raises((TypeError, ValueError), match=message):
        call(haptos.Level())
