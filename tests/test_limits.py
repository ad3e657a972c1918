"""What has a fixed size: it grows, is refused with a sentence, or an event says what was left out.

The rows of the table "Limits" in `docs/tick.md` are the keys of `REACHED`, each with a test that reaches it.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest

import haptos
from haptos.level.cues import MOST_TICKS
from tests.scenes import floor

DOCS = Path(__file__).parent.parent / "docs" / "tick.md"
BODY: dict[str, Any] = {"shape": {"capsule": [14, 28]}, "at": [0, 14]}
CRATE: dict[str, Any] = {"name": "crate", "shape": {"box": [20, 20]}, "at": [60, 10], "body": {"mass": 5}}


def level_of(*pieces: dict[str, Any], **sections: Any) -> haptos.Level:
    return haptos.Level(player=sections.pop("player", BODY), pieces=[floor(5000), *pieces], **sections)


def kinds_of(run: haptos.Run, event: str) -> list[Any]:
    return [row for row in run.event_rows if row.event == event]


def posts(count: int, width: float, gap: float, high: float) -> list[dict[str, Any]]:
    return [
        {"name": f"post {number}", "shape": {"box": [width, high]}, "at": [(width + gap) * number, high / 2]}
        for number in range(count)
    ]


def contacts_of_the_player() -> None:
    for count in (5, 20, 60):
        wide = {"shape": {"box": [3 * count, 28]}, "at": [1.5 * count - 1.5, 54], "gaits": {"walk": 60}}
        level = level_of(*posts(count, 2, 1, 40), player=wide)
        run = haptos.simulate(level, "wait 0.2 s, right 0.1 s")
        assert run.track.y.tolist() == pytest.approx([54] * 19)
        # On plain ground the body walks at its gait, whatever lies under it.
        assert run.track.vx.iloc[-1] == pytest.approx(60)
        simulation = haptos.Simulation(level)
        for tick in range(18):
            simulation.step("" if tick < 12 else "right")
        assert simulation.run.track_records.tobytes() == run.track_records.tobytes()
        assert len(simulation.state.contacts) >= count
        assert not kinds_of(run, "stall")


def pairs_of_bodies() -> None:
    for count in (20, 100, 200):
        plank = {"name": "plank", "shape": {"box": [10 * count, 8]}, "at": [5 * count - 5, 45], "body": {"mass": 50}}
        run = haptos.simulate(
            level_of(*posts(count, 4, 6, 40), plank, player={**BODY, "at": [-100, 14]}), "wait 1 s"
        )  # fmt: skip
        row = run.pieces[run.pieces.piece == "plank"].iloc[-1]
        assert row.y == pytest.approx(44, abs=0.01 * math.sqrt(80 * count))
        touched = {one.piece for one in kinds_of(run, "touch") if one.who == "plank"}
        assert touched == {f"post {number}" for number in range(count)}


def segments_of_a_tick() -> None:
    # Every edge of a strip ends a segment, and a tick at this speed has more edges than segments.
    fast = {**BODY, "gaits": {"walk": 150, "sprint": 2e5}, "run": {"ground_accel": 1e12}}
    for count, has_stall in ((900, True), (300, False)):
        strips = [
            {"name": f"strip {number}", "layer": "zone", "shape": {"box": [1, 60]}, "at": [20 + 2 * number, 14],
             "field": {"speed_factor": 0.999 + 0.001 * (number % 2)}}
            for number in range(count)
        ]  # fmt: skip
        level = level_of(*strips, player=fast)
        run = haptos.simulate(level, "right+sprint 0.1 s")
        stalls = kinds_of(run, "stall")
        assert bool(stalls) == has_stall
        assert all(0 < row.amount < 1 / 60 and "gone through roughly" in row.detail for row in stalls)
        # Past all of them it is in none, and as fast as it wants to be.
        assert len(kinds_of(run, "enter")) == len(kinds_of(run, "leave")) > 0
        assert run.track.speed_factor.iloc[-1] == 1
        assert run.track.vx.iloc[-1] == pytest.approx(2e5)
        simulation = haptos.Simulation(level)
        simulation.step("right+sprint", 6)
        assert not simulation.state.visits.any()


def turns_of_what_flies() -> None:
    # Each turn takes 2 px of a way of 1e5 px/s: 833 in a tick.
    walls = [{"name": name, "shape": {"box": [10, 80]}, "at": [x, 60]} for name, x in (("left", 100), ("right", 122))]
    spark = {"name": "spark", "shape": {"circle": 5}, "at": [111, 60], "layer": "prop"}
    run = haptos.simulate(level_of(*walls, {**spark, "drift": {"velocity": [1e5, 0], "restitution": 1}}), "wait 0.1 s")
    assert {row.who for row in kinds_of(run, "stall")} == {"spark"}
    assert all(0 < row.amount < 1 / 60 and "spark stood still" in row.detail for row in kinds_of(run, "stall"))
    assert run.pieces.x.between(109.9, 112.1).all()
    slow = {**spark, "drift": {"velocity": [200, 0], "restitution": 1}}
    assert not kinds_of(haptos.simulate(level_of(*walls, slow), "wait 0.1 s"), "stall")


def impacts_of_bodies() -> None:
    facet = {"mass": 1, "restitution": 1, "friction": 0}
    balls = [
        {"name": f"ball {x}", "shape": {"circle": 4}, "at": [x, 4], "body": {**facet, "velocity": [speed, 0]}}
        for x, speed in zip(range(0, 252, 9), [9e4, -9e4] * 14, strict=True)
    ]
    bounds = {"corners": [-5, 0, 248, 60], **dict.fromkeys(("left", "right", "bottom", "top"), "wall")}
    run = haptos.simulate(
        haptos.Level(player={**BODY, "at": [20, 40]}, pieces=balls, world={"bounds": bounds}), "wait 0.1 s"
    )
    stalls = [row for row in kinds_of(run, "stall") if row.who != "player"]
    assert stalls
    assert all(row.who.startswith("ball") and 0 < row.amount <= 1 / 60 for row in stalls)
    assert run.pieces.x.between(-5, 248).all()
    assert run.pieces.y.between(0, 60).all()


def visits_of_a_zone() -> None:
    # 25,000 turns a second are 417 in a tick.
    blade = {"name": "blade", "shape": {"box": [40, 4]}, "at": [0, 60], "layer": "prop", "spin": {"speed": 9e6}}
    zone = {"name": "eye", "shape": {"circle": 3}, "at": [18, 60], "layer": "zone"}
    rules = [{"when": "enter", "piece": "eye", "who": "blade", "do": [{"say": "seen"}]}]
    run = haptos.simulate(level_of(blade, zone, rules=rules, player={**BODY, "at": [-200, 14]}), "wait 0.1 s")
    mine = [row for row in run.event_rows if row.who == "blade" and row.event in ("enter", "leave")]
    assert all(one.event != other.event for one, other in pairwise(mine))
    assert 0 < max(sum(row.tick == tick for row in mine) for tick in range(1, 7)) <= 65


def rules_without_end() -> None:
    rules = [{"when": "say", "name": "one", "do": [{"say": "again"}]}]
    start = [{"when": "start", "do": [{"say": "first"}]}]
    with pytest.raises(haptos.LevelError, match="fire each other without end"):
        haptos.simulate(level_of(rules=start + rules), "wait 0.1 s")


def firings_that_wait() -> None:
    rule = {"when": "timer", "every": 0.01, "after": 60, "do": [{"say": "late"}]}
    with pytest.raises(haptos.LevelError, match="more than 64 firings that wait"):
        haptos.simulate(level_of(rules=[rule]), "wait 1 s")


def rewards_at_once() -> None:
    counters = {"oil": {"rewards": [{"every": 1, "health": 1}]}}
    rules = [{"when": "start", "do": [{"add": "oil", "amount": 1000}]}]
    run = haptos.simulate(level_of(rules=rules, counters=counters), "wait 0.1 s")
    assert len(kinds_of(run, "reward")) == 1000
    rules[0]["do"][0]["amount"] = 1e9
    with pytest.raises(haptos.LevelError, match="more than 1000 rewards of one counter at once at 0\\.01667 s"):
        haptos.simulate(level_of(rules=rules, counters=counters), "wait 0.1 s")


def times_between_two() -> None:
    kinds = {"ember": {"shape": {"circle": 3}, "drift": {"velocity": [50, 0]}}}
    spout = {"name": "spout", "at": [0, 90], "shape": {"circle": 2}}
    tar = {"name": "tar", "at": [90, 20], "shape": {"circle": 9}}

    def levels_with(every: float) -> list[Callable[[], haptos.Level]]:
        changes = {"when": "start", "do": [{"set": "tar.harm.every", "to": every}]}
        return [
            lambda: level_of({**spout, "spawner": {"kind": "ember", "every": every}}, kinds=kinds),
            lambda: level_of({**spout, "spawner": {"kind": "ember", "every": [every, 1]}}, kinds=kinds),
            lambda: level_of(rules=[{"when": "timer", "every": every, "do": [{"say": "tick"}]}]),
            lambda: level_of({**tar, "harm": {"every": every}}),
            lambda: level_of({**tar, "harm": {"every": 1}}, rules=[changes]),
        ]

    for make in (*levels_with(1e-9), *levels_with(1e-5)):
        with pytest.raises(haptos.LevelError, match="a tick holds 1000 of them"):
            make()
    for make in levels_with(1 / 60000):
        make()


def pieces_that_are_made() -> None:
    kinds = {"ember": {"shape": {"circle": 3}, "drift": {"velocity": [50, 0]}}}
    spout = {"name": "spout", "at": [0, 90], "shape": {"circle": 2}, "spawner": {"kind": "ember", "every": 0.01}}
    run = haptos.simulate(level_of(spout, kinds=kinds), "wait 1 s")
    # One every hundredth of a second, the first at the start.
    assert (len(kinds_of(run, "spawn")), len(kinds_of(run, "spawn_refused"))) == (64, 100 - 64)


def layers_of_a_level() -> None:
    for count, is_refused in ((62, False), (63, True)):
        layers = [f"layer {number}" for number in range(count)]
        contacts = {"layers": layers, "solid": {"layer 0": layers[1:]}}
        pieces = [{**CRATE, "layer": layers[-1]}, {"name": "ground", "at": [0, -8], "shape": {"box": [900, 16]}}]
        pieces[1]["layer"] = "layer 1"
        data = {"contacts": contacts, "player": {**BODY, "layer": "layer 0"}, "pieces": pieces}
        if is_refused:
            with pytest.raises(haptos.LevelError, match="found 63 layers, expected at most 62"):
                haptos.Level(**data)
        else:
            # Nothing is solid to the crate but the player, who walks up to it.
            run = haptos.simulate(haptos.Level(**data), "wait 0.1 s")
            assert run.pieces.y.iloc[-1] == pytest.approx(10 - 900 * 0.1**2, abs=1e-6)


def comparisons_of_a_condition() -> None:
    rule = {"when": "start", "do": [{"say": "yes"}], "if": " and ".join(["x == 0"] * 60)}
    assert kinds_of(haptos.simulate(level_of(rules=[rule]), "wait 0.1 s"), "say")
    with pytest.raises(haptos.LevelError, match="found 61 comparisons, expected 60 at most"):
        level_of(rules=[{**rule, "if": " and ".join(["x == 0"] * 61)}])


def numbers_that_are_given() -> None:
    level = level_of(CRATE)
    for cue in (
        "shove crate by {},0",
        "place {},0",
        "place 0,-{}",
        "hand crate to {},0 in 1 s",
        "hand crate to 1,0 in {} s",
    ):
        haptos.simulate(level, f"{cue.format('1e12' if '{} s' not in cue else '1e4')}, wait 0.2 s")
        for number in ("1e13", "1e30", "1e50", "1e300"):
            with pytest.raises(haptos.CueError, match=re.escape("1e+12")):
                haptos.simulate(level, f"{cue.format(number)}, wait 0.2 s")
    simulation = haptos.Simulation(level)
    for place in ((1e13, 0), (0, -1e300), (0, 0, 1e50), (0, 0, 0, math.inf)):
        with pytest.raises(ValueError, match="1e\\+12 at most"):
            simulation.place(*place)
    for ray in (((1e30, 0), (1, 0)), ((0, 0), (1e300, 0))):
        with pytest.raises(ValueError, match="expected finite numbers"):
            simulation.first_hit(*ray)
    with pytest.raises(haptos.LevelError, match="1e\\+12 at most"):
        level_of({**CRATE, "at": [1e13, 0]})
    with pytest.raises(haptos.LevelError, match="1e-12 or more"):
        level_of({**CRATE, "body": {"mass": 1e-300}})
    with pytest.raises(haptos.LevelError, match="corners that fall together"):
        level_of({**CRATE, "at": [1e12, 0], "shape": {"box": [1e-9, 9]}})


def ticks_of_a_run() -> None:
    with pytest.raises(ValueError, match=f"expected 0 to {MOST_TICKS}"):
        haptos.Simulation(level_of()).step(ticks=10**12)
    with pytest.raises(haptos.CueError, match="expected at most 86400 s"):
        haptos.simulate(level_of(), "wait 1e12 s")


def bounces_of_one_pair() -> None:
    # A lift that brings a bouncy drum up to a ceiling: every bounce comes sooner than the one before.
    lift = {
        "name": "lift",
        "shape": {"box": [60, 10]},
        "at": [200, 15],
        "route": {"stops": [[0, 0], [0, 40]], "speed": 80},
    }
    ceiling = {"name": "ceiling", "shape": {"box": [90, 10]}, "at": [200, 90]}
    drum = {"name": "drum", "shape": {"circle": 12}, "at": [200, 34], "body": {"mass": 5, "restitution": 1}}
    run = haptos.simulate(level_of(lift, ceiling, drum), "wait 0.6 s")
    path = run.pieces[run.pieces.piece == "drum"]
    assert path.y.max() <= 85 - 12 + 0.2
    assert path.vy.abs().max() < 1e4


REACHED: dict[str, Callable[[], None]] = {
    "what the player touches": contacts_of_the_player,
    "pairs of shapes of bodies": pairs_of_bodies,
    "segments of the player in a tick": segments_of_a_tick,
    "turns of what flies in a tick": turns_of_what_flies,
    "impacts of bodies in a quarter of a tick": impacts_of_bodies,
    "bounces of one pair of bodies in a tick": bounces_of_one_pair,
    "times a piece is noticed in a zone in a tick": visits_of_a_zone,
    "firings of a rule in a tick": rules_without_end,
    "firings of a rule that wait": firings_that_wait,
    "rewards of a counter at once": rewards_at_once,
    "time between two": times_between_two,
    "pieces of one maker": pieces_that_are_made,
    "layers": layers_of_a_level,
    "comparisons of a condition": comparisons_of_a_condition,
    "numbers": numbers_that_are_given,
    "ticks of a run": ticks_of_a_run,
}


def test_the_page_lists_each_limit() -> None:
    table = DOCS.read_text(encoding="utf-8").partition("## Limits")[2].partition("\n## ")[0]
    rows = re.findall(r"^\| ([a-z][^|]*?) \|", table, re.MULTILINE)
    assert rows[0] == "what"
    assert rows[1:] == list(REACHED)


@pytest.mark.parametrize("limit", REACHED)
def test_each_limit_is_reached_and_something_is_said(limit: str) -> None:
    REACHED[limit]()
