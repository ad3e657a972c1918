"""Harm, health and lives, deep drops, checkpoints, the finish, and how a level begins again."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from tests.conftest import GRAVITY
from tests.scenes import first, rows_of

RATES = [30, 60, 120, 240]


def thorn(name="thorn", at=(100, 5), size=(40, 10), **harm) -> dict:
    return {"name": name, "at": list(at), "shape": {"box": list(size)}, "harm": harm}


@pytest.mark.parametrize("rate", RATES)
def test_harm_hurts_when_it_is_met_and_again_after_the_mercy_time(flat, rate):
    level = flat(
        [thorn(at=(1000, 5), size=(1800, 10), points=2)],
        player={"health": {"points": 9, "mercy_time": 0.5}, "run": {"ground_accel": 1e9}},
        world={"tick_rate": rate},
    )
    run = haptos.simulate(level, "right 1.75 s")
    # Its side is 93 from the body's: at 150 a second it is met, and hurts every half second from then on.
    met = 93 / 150
    assert [row.t for row in rows_of(run, "hurt")] == pytest.approx([met, met + 0.5, met + 1.0], abs=1e-6)
    assert run.track.health.iloc[-1] == 3


def test_its_own_interval_goes_on_in_spite_of_nothing_but_the_mercy_time(flat):
    player = {"health": {"points": 99, "mercy_time": 0}}
    run = haptos.simulate(flat([thorn(at=(0, 5), every=0.3)], player=player), "wait 1 s")
    assert [row.t for row in rows_of(run, "hurt")] == pytest.approx([0, 0.3, 0.6, 0.9])
    once = haptos.simulate(flat([thorn(at=(0, 5))], player=player), "wait 1 s")
    assert [row.t for row in rows_of(once, "hurt")] == [0]


def test_in_the_mercy_time_others_do_no_harm_and_say_so(flat):
    run = haptos.simulate(flat([thorn("one", (60, 5), (9, 9)), thorn("two", (90, 5), (9, 9))]), "right 1 s")
    assert [(row.piece, row.amount) for row in rows_of(run, "hurt")] == [("one", 1), ("two", 0)]
    assert "mercy" in rows_of(run, "hurt")[1].detail


def test_solid_harm_hurts_who_touches_it_and_knocks_away(flat):
    wall = {**thorn(at=(100, 30), size=(20, 60), knock=400), "layer": "terrain"}
    run = haptos.simulate(flat([wall], shape={"box": [14, 28]}), "right 1 s")
    hurt = first(run, "hurt")
    assert hurt.x == pytest.approx(90 - 7, abs=1e-6)
    after = run.track[run.track.t >= hurt.t].iloc[0]
    # Away from its middle (100, 30), seen from (83, 14): left and down, so along the floor to the left.
    assert math.hypot(after.vx, after.vy) == pytest.approx(400)
    assert after.vx == pytest.approx(400 * -17 / math.hypot(17, 16))


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize(("rounding", "points"), [("none", 0.05 * 77.25), ("down", 3), ("up", 4), ("nearest", 4)])
def test_a_deep_drop_costs_what_it_is_deeper_than_is_safe(flat, rate, rounding, points):
    fall = {"harm_per_unit": 0.05, "safe_drop": 60, "rounding": rounding, "terminal_speed": None}
    level = flat(player={"at": [0, 14 + 137.25], "fall": fall, "health": {"points": 99}}, world={"tick_rate": rate})
    run = haptos.simulate(level, "wait 2 s")
    assert first(run, "hurt").amount == pytest.approx(points, abs=1e-9)
    assert first(run, "hurt").t == first(run, "land").t


def test_ladder_trampoline_and_cushion_start_the_measure_anew(flat):
    fall = {"harm_per_unit": 1, "safe_drop": 50}
    player = {"at": [0, 214], "fall": fall, "health": {"points": 9999}}
    plain = haptos.simulate(flat(player=player), "wait 2 s")
    assert first(plain, "hurt").amount == pytest.approx(150)
    cushion = {"name": "straw", "at": [0, 2], "shape": {"box": [60, 4]}, "surface": {"cushion": True}}
    assert not rows_of(haptos.simulate(flat([cushion], player=player), "wait 2 s"), "hurt")
    # Caught on the ladder, the drop from there counts alone.
    ladder = {"name": "rungs", "at": [0, 90], "shape": {"box": [20, 80]}, "ladder": {"top": False}}
    held = haptos.simulate(flat([ladder], player=player), "up 1 s, wait 0.2 s, jump 0.1 s, wait 2 s")
    climbs = [row for row in held.event_rows if row.event == "climb"]
    assert climbs
    # It hangs with its foot at the ladder's top; jump is let go after 0.1 s, which halves the speed.
    speed = math.sqrt(2 * GRAVITY * 72)
    risen = 0.1 * speed - 0.5 * GRAVITY * 0.1**2
    apex = 130 + risen + (0.5 * (speed - 0.1 * GRAVITY)) ** 2 / (2 * GRAVITY)
    assert [row.amount for row in rows_of(held, "hurt")] == pytest.approx([apex - 50], abs=1e-6)
    # A trampoline throws instead of bearing: the drop onto it is none, and from there its own height counts.
    launcher = {"name": "drum", "at": [0, 2], "shape": {"box": [10, 4]}, "launch": {"height": 80}}
    thrown = haptos.simulate(flat([launcher], player=player), "wait 0.55 s, right 1 s")
    assert [row.amount for row in rows_of(thrown, "hurt")] == pytest.approx([80 + 4 - 50], abs=1e-6)


def test_without_health_it_comes_back_where_it_was_saved(flat):
    lamp = {"name": "lamp", "at": [60, 20], "shape": {"box": [9, 40]}, "checkpoint": {"respawn_at": [-20, -6]}}
    late = {**lamp, "name": "late", "at": [80, 20], "checkpoint": {"facing": "left"}}
    pit = thorn(at=(200, 5), lethal=True)
    run = haptos.simulate(flat([lamp, late, pit], player={"health": {"points": 5, "lives": 9}}), "right 1.4 s")
    saves = rows_of(run, "checkpoint")
    assert [row.piece for row in saves] == ["lamp", "late"]
    hurt, lost, back = (first(run, name) for name in ("hurt", "lost", "respawn"))
    assert (hurt.amount, hurt.piece) == (5, "thorn")
    assert hurt.t <= lost.t <= back.t
    assert (back.x, back.y) == (80, 20)
    assert "no health" in lost.detail
    row = run.track[run.track.t >= back.t].iloc[0]
    assert (row.health, row.lives) == (5, 8)
    # The controls still say right, so that it turns round at once; the saved facing shows where nothing is held.
    idle = haptos.simulate(
        flat([late, pit], player={"at": [80, 14], "health": {"lives": 9}}),
        "wait 0.1 s, place 200,14, wait 0.3 s",
    )
    assert idle.track.facing.iloc[-1] == "left"


def test_a_checkpoint_saves_again_unless_once(flat):
    places = {}
    for once in (False, True):
        one = {"name": "one", "at": [40, 20], "shape": {"box": [9, 40]}, "checkpoint": {"once": once}}
        two = {"name": "two", "at": [90, 20], "shape": {"box": [9, 40]}, "checkpoint": {}}
        run = haptos.simulate(flat([one, two]), "right 0.8 s, left 0.6 s, right 0.6 s")
        places[once] = [row.piece for row in rows_of(run, "checkpoint")]
    assert places == {False: ["one", "two", "one", "two"], True: ["one", "two"]}


def test_lives_run_out_and_the_body_is_gone(flat):
    level = flat([thorn(at=(60, 5), lethal=True)], player={"health": {"lives": 2}})
    run = haptos.simulate(level, "right 4 s")
    assert len(rows_of(run, "lost")) == 2
    assert len(rows_of(run, "respawn")) == 1
    end = run.track.iloc[-1]
    assert (end.stance, end.lives, end.support) == ("gone", 0, "")
    assert (run.track[run.track.stance == "gone"].vx == 0).all()
    # Nothing happens to who is gone.
    gone_at = rows_of(run, "lost")[-1].t
    assert all(row.t <= gone_at + 1e-9 for row in run.event_rows)


def test_a_restart_brings_all_back_but_the_lives(flat):
    drop = {"name": "drop", "at": [40, 14], "shape": {"circle": 4}, "pickup": {"counter": "oil"}}
    lift = {"name": "lift", "at": [-200, 50], "shape": {"box": [30, 8]},
            "route": {"stops": [[0, 0], [0, 100]], "speed": 40}}  # fmt: skip
    lamp = {"name": "lamp", "at": [70, 20], "shape": {"box": [9, 40]}, "checkpoint": {}}
    player = {"on_death": "restart", "health": {"lives": 3}}
    level = flat([drop, lift, lamp, thorn(at=(120, 5), lethal=True)], player=player, counters={"oil": {"start": 7}})
    run = haptos.simulate(level, "right 1 s, wait 0.5 s")
    again = first(run, "restart")
    assert (again.x, again.y) == (0, 14)
    before, after = (
        run.track[run.track.t < again.t - 1e-9].iloc[-1],
        run.track[run.track.t > again.t + 1e-9].iloc[0],
    )
    assert (before.oil, after.oil) == (8, 7)
    assert (after.lives, after.health) == (2, 3)
    assert after.x == pytest.approx(0, abs=3)
    assert [row.t for row in rows_of(run, "collect")][1] == pytest.approx(
        again.t + rows_of(run, "collect")[0].t, abs=0.1
    )
    rows = run.pieces[run.pieces.piece == "lift"]
    since = np.where(rows.t > again.t + 1e-9, rows.t - again.t, rows.t)
    assert rows.y.to_numpy() == pytest.approx(50 + 40 * since, abs=1e-6)


def test_the_finish_waits_for_what_it_needs_and_then_holds_the_run(flat):
    drop = {"name": "drop", "at": [-40, 14], "shape": {"circle": 4}, "pickup": {"counter": "oil"}}
    door = {"name": "door", "at": [60, 20], "shape": {"box": [20, 40]}, "finish": {"needs": "oil"}}
    level = flat([drop, door], counters={"oil": {}})
    assert not rows_of(haptos.simulate(level, "right 2 s"), "finish")
    run = haptos.simulate(level, "left 0.5 s, right 2 s, left 1 s")
    done = first(run, "finish")
    after = run.track[run.track.t >= done.t]
    facts = run.summary()
    assert (facts["finished"], facts["counters"], facts["health"], facts["lives"]) == (True, {"oil": 1.0}, 3.0, None)
    assert np.ptp(after.x) == 0
    assert (after.vx == 0).all()


@settings(max_examples=15, deadline=None)
@given(cut=st.integers(1, 170), held=st.sampled_from(["right", "left", "right+jump"]))
def test_a_snapshot_holds_all_that_is_at_stake(cut, held):
    pieces = [
        {"name": "floor", "shape": {"corners": [-500, -16, 500, 0]}},
        thorn(at=(70, 5), every=0.2, knock=150),
        {"name": "drop", "at": [40, 40], "shape": {"circle": 4}, "copies": [[-40, 14], [90, 60]],
         "pickup": {"counter": "oil", "attract_within": 50, "motion": "ease"}},
        {"name": "lamp", "at": [-60, 20], "shape": {"box": [9, 40]}, "checkpoint": {}},
    ]  # fmt: skip
    rules = [{"when": "timer", "every": 0.7, "after": 0.3, "do": [{"add": "oil", "amount": 2}]},
             {"when": "hurt", "do": [{"set": "thorn.harm.points", "to": 0.5}]}]  # fmt: skip
    player = {"at": [0, 14], "health": {"lives": 2}, "on_death": "restart"}
    level = haptos.Level(
        player=player, counters={"oil": {"rewards": [{"every": 3, "health": 1}]}}, pieces=pieces, rules=rules
    )
    simulation = haptos.Simulation(level)
    simulation.step(held, ticks=cut)
    before = simulation.snapshot()
    runs = []
    for _ in range(2):
        simulation.step("left", ticks=60)
        simulation.step(held, ticks=120)
        run = simulation.run
        runs.append((run.track_records.tobytes(), run.event_records.tobytes(), run.scores.tobytes()))
        simulation.restore(before)
    assert runs[0] == runs[1]


def test_bad_stakes_say_where_and_what_is_wanted(flat):
    lamp = {"name": "lamp", "at": [0, 0], "shape": {"box": [9, 40]}, "checkpoint": {"respawn_at": [900, 0]}}
    bounds = {"bounds": {"corners": [-200, -50, 200, 200]}}
    for sections, message in (
        (
            {"pieces": [lamp], "world": bounds},
            r"'lamp', checkpoint\.respawn_at: .*\(900, 0\), out of the bounds",
        ),
        ({"pieces": [{**lamp, "checkpoint": {}, "finish": {"needs": "oil"}}]}, r"finish\.needs: no counter 'oil'"),
        ({"counters": {"vx": {}}}, r"counters\.vx: found 'vx', expected a name that the track has no column of"),
        ({"counters": {"oil": {"rewards": [{"every": 0}]}}}, r"counters\.oil\.rewards\[0\]\.every"),
        ({"player": {"health": {"lives": 0}}}, r"player\.health\.lives"),
        ({"player": {"on_death": "respwan"}}, r"player\.on_death: found 'respwan', .*did you mean 'respawn'"),
    ):
        with pytest.raises(haptos.LevelError, match=message):
            haptos.simulate(flat(**sections))


def test_what_is_at_stake_in_the_top_view_too():
    pieces = [
        {"name": "wall", "at": [300, 0], "shape": {"box": [20, 400]}},
        {"name": "thorn", "at": [0, 100], "shape": {"box": [60, 20]}, "harm": {"points": 1, "knock": 300}},
        {"name": "lamp", "at": [80, 0], "shape": {"box": [20, 60]}, "checkpoint": {"facing": "up"}},
        {"name": "drop", "at": [120, 0], "shape": {"circle": 4}, "pickup": {"counter": "oil", "attract_within": 30}},
        {"name": "pit", "at": [200, 0], "shape": {"box": [20, 200]}, "harm": {"lethal": True}},
    ]
    level = haptos.Level(world={"view": "top"}, counters={"oil": {}}, pieces=pieces)
    run = haptos.simulate(level, "up 0.8 s, wait 0.4 s, place 0,0, right 2 s, wait 0.5 s")
    hurt = first(run, "hurt")
    # The middle of the body, 14 high, is 14 below the thorn's lower side; it is thrown straight back.
    assert (hurt.piece, hurt.y) == ("thorn", pytest.approx(90 - 14, abs=1e-6))
    assert run.track.set_index("tick").vy[int(hurt.tick)] == pytest.approx(-300, abs=1e-6)
    assert run.track.oil.iloc[-1] == 1
    back = first(run, "respawn")
    assert (back.x, back.y) == (80, 0)
    assert run.track.health.iloc[-1] == 3


@pytest.mark.parametrize("rate", RATES)
def test_times_of_what_hurts_saves_and_rewards_do_not_depend_on_the_tick_rate(flat, rate):
    pieces = [
        {"name": "drop", "at": [40, 14], "copies": [[90, 14]], "shape": {"circle": 4}, "pickup": {"counter": "oil"}},
        thorn(at=(160, 5), size=(30, 10)),
        {"name": "lamp", "at": [230, 20], "shape": {"box": [9, 40]}, "checkpoint": {}},
    ]
    rules = [{"when": "counter", "if": "oil == 2", "after": 0.35, "do": [{"say": "two"}]}]
    # Coming up to speed ends on a tick of every rate: 150 / 1500 is a tenth of a second.
    player = {"run": {"ground_accel": 1500}}
    counters = {"oil": {"rewards": [{"every": 2, "lives": 1}]}}
    level = flat(pieces, player=player, counters=counters, rules=rules, world={"tick_rate": rate})
    run = haptos.simulate(level, "right 2 s")
    # 7.5 in the first tenth, 150 a second from then on; met 7 + 4 before a drop, 7 before the others.
    times = {
        "collect": [0.1 + (place - 11 - 7.5) / 150 for place in (40, 90)],
        "hurt": [0.1 + (145 - 7 - 7.5) / 150],
        "checkpoint": [0.1 + (225.5 - 7 - 7.5) / 150],
        "reward": [0.1 + (90 - 11 - 7.5) / 150],
        "say": [0.1 + (90 - 11 - 7.5) / 150 + 0.35],
    }
    for event, expected in times.items():
        assert [row.t for row in rows_of(run, event)] == pytest.approx(expected, abs=1e-9), event


def test_a_crush_that_is_not_lethal_costs_its_points(flat):
    roof = {"name": "roof", "shape": {"corners": [-100, 60, 100, 80]}}
    lift = {
        "name": "lift",
        "at": [0, -8],
        "shape": {"box": [60, 16]},
        "route": {"stops": [[0, 0], [0, 52]], "speed": 40},
    }
    crush = {"lethal": False, "points": 1.5}
    run = haptos.simulate(flat([roof, lift], player={"crush": crush, "health": {"points": 4}}), "wait 1.4 s")
    crushed = first(run, "crush")
    assert (first(run, "hurt").amount, first(run, "hurt").t) == (1.5, pytest.approx(crushed.t))
    assert run.track.health.iloc[-1] == 2.5
    assert not rows_of(run, "lost", "respawn")
