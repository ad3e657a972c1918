"""Pickups: when they come, how they move, when they are taken, and what is counted for them."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from tests.scenes import first

RATES = [30, 60, 120, 240]


def stage(flat, *pieces, player=None, counters=None, **sections) -> haptos.Level:
    return flat(list(pieces), player=player or {}, counters={"oil": {}} if counters is None else counters, **sections)


def drop(name="drop", at=(100, 14), **pickup) -> dict:
    return {"name": name, "at": list(at), "shape": {"circle": 4}, "pickup": {"counter": "oil", **pickup}}


@pytest.mark.parametrize("shape", [{"capsule": [14, 28]}, {"box": [14, 28]}, {"circle": 7}])
def test_the_inner_distance_is_from_the_shape_not_from_its_middle(flat, shape):
    # Both of its ends count: at rest the body's right side is 7 from its middle.
    for room, is_taken in ((19.9, False), (20.1, True)):
        middle = 14 if "circle" not in shape else 7
        level = stage(flat, drop(at=(27, middle), collect_within=room), shape=shape)
        assert bool(haptos.simulate(level, "wait 0.1 s").track.oil.iloc[-1]) is is_taken


def test_over_a_corner_of_a_box_the_distance_is_the_straight_one(flat):
    for room, is_taken in ((4.99, False), (5.01, True)):
        level = stage(flat, drop(at=(7 + 3, 28 + 4), collect_within=room), shape={"box": [14, 28]})
        assert bool(haptos.simulate(level, "wait 0.1 s").track.oil.iloc[-1]) is is_taken


def test_without_a_distance_half_of_its_smaller_side_counts(flat):
    plank = {**drop(at=(60, 14)), "shape": {"box": [40, 6]}}
    run = haptos.simulate(stage(flat, plank), "right 1 s")
    taken = first(run, "collect")
    assert (taken.x, taken.y, taken.amount) == (60, 14, 1)
    at = np.interp(taken.t, run.track.t, run.track.x)
    assert at + 7 + 3 == pytest.approx(60, abs=0.05)


@settings(max_examples=25, deadline=None)
@given(speed=st.integers(100, 200_000), rate=st.sampled_from(RATES), y=st.integers(-8, 8))
def test_however_fast_it_is_passed_it_is_taken(speed, rate, y):
    level = haptos.Level(
        world={"tick_rate": rate, "gravity": [0, -0.001]}, counters={"oil": {}},
        player={"at": [0, 0], "shape": {"box": [14, 28]}, "fall": {"terminal_speed": None}, "run": {"air_brake": 0}},
        pieces=[drop(at=(500, y))],
    )  # fmt: skip
    simulation = haptos.Simulation(level)
    simulation.place(0, 0, vx=speed)
    simulation.step(ticks=math.ceil(rate * 600 / speed) + 1)
    rows = [row for row in simulation.run.event_rows if row.event == "collect"]
    assert [row.piece for row in rows] == ["drop"]
    # Met where the body's side, 7 from its middle, comes within 4 of it; what brakes in the air does so evenly.
    track = simulation.run.track
    assert np.interp(rows[0].t, track.t, track.x) == pytest.approx(500 - 11, abs=0.01 * speed / rate + 0.01)


@pytest.mark.parametrize("rate", RATES)
def test_steady_ones_arrive_after_distance_over_speed(flat, rate):
    run = haptos.simulate(
        stage(flat, drop(at=(107, 14), attract_within=150, collect_within=5, speed=250), world={"tick_rate": rate}),
        "wait 1 s",
    )
    # The body's side is 100 from it; it comes from the start, and is taken 5 before it.
    assert first(run, "attract").t == pytest.approx(0, abs=1 / rate)
    assert first(run, "collect").t == pytest.approx(95 / 250, abs=1 / rate)
    assert first(run, "collect").x == pytest.approx(7 + 5, abs=250 / rate)


@pytest.mark.parametrize("rate", RATES)
def test_easing_ones_arrive_when_the_exponential_does(flat, rate):
    eases = {"motion": "ease", "rate": 3}
    run = haptos.simulate(
        stage(flat, drop(at=(107, 14), attract_within=150, collect_within=5, **eases), world={"tick_rate": rate}),
        "wait 2 s",
    )
    # It goes to the middle, 107 away, and is taken 12 from there: 107 exp(-3 t) = 12.
    assert first(run, "collect").t == pytest.approx(math.log(107 / 12) / 3, abs=1 / rate)


@pytest.mark.parametrize("ways", [{"speed": 90}, {"motion": "ease", "rate": 4}])
def test_the_table_of_pieces_has_its_way(flat, ways):
    run = haptos.simulate(stage(flat, drop(at=(60, 50), attract_within=30, **ways)), "right 0.6 s, left 1.5 s")
    came, taken = first(run, "attract"), first(run, "collect")
    rows = run.pieces.set_index("t")
    assert (rows.piece == "drop").all()
    before, after = rows[rows.index < came.t], rows[rows.index > taken.t]
    coming = rows[(rows.index > came.t) & (rows.index < taken.t)]
    assert (before.state == "rests").all()
    assert (before[["x", "y"]] == [60, 50]).all(axis=None)
    assert (coming.state == "comes").all()
    assert (after.state == "gone").all()
    # Its last place before it is taken leads to the one where that happens, at no more than its speed.
    last = coming.iloc[-1]
    step = math.hypot(taken.x - last.x, taken.y - last.y)
    fastest = 90 if "speed" in ways else 4 * math.hypot(last.x - taken.x, 30) + 4 * 40
    assert step <= fastest * (taken.t - coming.index[-1]) * 1.05 + 0.05
    if "speed" in ways:
        steps = np.hypot(np.diff(coming.x), np.diff(coming.y))
        assert steps == pytest.approx(90 / 60, abs=1e-9)


@pytest.mark.parametrize("rate", [30, 240])
def test_an_easing_one_lags_behind_who_runs_by_speed_over_rate(flat, rate):
    # Level with the middle, it stays 150/3 behind it: 50 is more than it may be taken at.
    eases = {"motion": "ease", "rate": 3, "attract_within": 60, "collect_within": 10}
    level = stage(flat, drop(at=(-60, 14), **eases), player={"run": {"ground_accel": 1e9}}, world={"tick_rate": rate})
    run = haptos.simulate(level, "right 4 s, wait 1 s")
    stops = first(run, "collect").t
    # Once the body stands, the 50 shrink to 17: 50 exp(-3 t) = 17, but for the short way of braking.
    assert stops == pytest.approx(4 + math.log(50 / 17) / 3, abs=0.05)


def test_latched_ones_come_on_and_others_are_let_go(flat):
    ends = {}
    for latched in (True, False):
        slow = drop(at=(0, 60), attract_within=40, collect_within=2, speed=20, latched=latched)
        run = haptos.simulate(stage(flat, slow), "wait 0.2 s, right 1 s, wait 8 s")
        ends[latched] = [row.event for row in run.event_rows if row.event in ("attract", "collect", "release")]
    assert ends == {True: ["attract", "collect"], False: ["attract", "release"]}


def test_what_is_in_between_keeps_it_from_coming(flat):
    wall = {"name": "wall", "shape": {"corners": [40, 0, 50, 150]}}
    seen = {"attract_within": 300, "speed": 4000}
    for blocked_by, is_taken in (([], True), (["terrain"], False), (["ledge"], True)):
        level = stage(flat, wall, drop(blocked_by=blocked_by, **seen))
        assert bool(haptos.simulate(level, "wait 0.5 s").track.oil.iloc[-1]) is is_taken
    over = stage(flat, wall, drop(at=(100, 320), blocked_by=["terrain"], **seen))
    assert haptos.simulate(over, "jump 1 s").track.oil.iloc[-1] == 1


def test_the_bonus_widens_every_reach_and_a_rule_can_change_it(flat):
    far = drop(at=(107, 14), attract_within=60, speed=1e4)
    assert haptos.simulate(stage(flat, far), "wait 1 s").track.oil.iloc[-1] == 0
    assert haptos.simulate(stage(flat, far, player={"attract_bonus": 41}), "wait 1 s").track.oil.iloc[-1] == 1
    wider = {"when": "timer", "every": 0.5, "once": True, "do": [{"set": "player.attract_bonus", "to": 41}]}
    run = haptos.simulate(stage(flat, far, rules=[wider]), "wait 1 s")
    assert first(run, "collect").t == pytest.approx(0.5, abs=0.05)


def test_one_on_a_mover_is_where_the_mover_is(flat):
    cart = {"name": "cart", "at": [200, 100], "shape": {"box": [20, 4]}, "route": {"stops": [[0, 0], [-400, 0]]}}
    cart["route"]["speed"] = 100
    carried = {**drop(at=(0, -86)), "parent": None}
    del carried["parent"]
    run = haptos.simulate(stage(flat, {**cart, "pieces": [carried]}), "wait 3 s")
    # Its place goes from 200 leftward; it is taken 4 from the side at 7.
    assert first(run, "collect").t == pytest.approx((200 - 11) / 100, abs=1e-6)
    assert first(run, "collect").piece == "cart/drop"


def test_worth_totals_and_rewards(flat):
    rewards = [{"every": 3, "lives": 1, "spend": True}, {"every": 1000, "health": 5}]
    kinds = {"drop": {"shape": {"circle": 4}, "pickup": {"counter": "oil"}}}
    kinds["flask"] = {"based_on": "drop", "pickup": {"worth": 5}}
    pieces = [
        {"name": "drop", "kind": "drop", "at": [40, 14], "copies": [[60, 14]]},
        {"name": "flask", "kind": "flask", "at": [80, 14]},
        {"name": "door", "at": [120, 20], "shape": {"box": [10, 40]}, "finish": {"needs": "oil"}},
    ]
    level = stage(
        flat, *pieces, kinds=kinds, counters={"oil": {"start": 1, "rewards": rewards}}, player={"health": {"lives": 2}}
    )
    run = haptos.simulate(level, "right 1.5 s")
    assert [row.amount for row in run.event_rows if row.event == "collect"] == [1, 1, 5]
    # 1 + 1 + 1 is a life, and 5 more is one with 2 left over.
    assert [row.amount for row in run.event_rows if row.event == "reward"] == [1, 2]
    assert run.track[["oil", "lives"]].iloc[-1].tolist() == [2, 4]
    assert first(run, "finish").piece == "door"
    assert run.summary()["totals"] == {"oil": 7}


@settings(max_examples=12, deadline=None)
@given(seed=st.integers(0, 1000))
def test_a_batch_takes_what_each_takes_alone(seed):
    rng = np.random.default_rng(seed)
    pieces = [{"name": "floor", "shape": {"corners": [-500, -16, 500, 0]}}] + [
        drop(f"drop {number}", at=rng.uniform((-300, 5), (300, 120)).tolist(), attract_within=rng.uniform(10, 90),
             **({"motion": "ease"} if number % 2 else {"speed": 90}))
        for number in range(12)
    ]  # fmt: skip
    level = haptos.Level(player={"at": [0, 14]}, counters={"oil": {}}, pieces=pieces)
    sheets = [" ".join(["right 0.4 s, jump 0.3 s,", *["left 0.5 s,"] * turns, "wait 1 s"]) for turns in range(3)]
    batch = haptos.simulate_many(level, sheets, threads=2)
    for sheet, run in zip(sheets, batch, strict=True):
        alone = haptos.simulate(level, sheet)
        assert alone.event_records.tobytes() == run.event_records.tobytes()
        assert alone.scores.tobytes() == run.scores.tobytes()


@pytest.mark.parametrize(
    ("pickup", "message"),
    [
        ({"counter": "oyl"}, r"pickup\.counter: no counter 'oyl' \(did you mean 'oil'\?\)"),
        ({"blocked_by": ["terain"]}, r"blocked_by.*'terain'.*did you mean 'terrain'"),
        ({"motion": "ease", "speed": 3}, r"found a speed with motion = 'ease', expected a rate"),
        ({"rate": 3}, r"found a rate with motion = 'steady', expected a speed"),
        ({"attract_within": -1}, r"attract_within: found -1, expected a length of 0 or more"),
    ],
)
def test_bad_pickups_say_where_and_what_is_wanted(flat, pickup, message):
    with pytest.raises(haptos.LevelError, match=message) as error:
        haptos.simulate(stage(flat, drop(**pickup)))
    assert "'drop'" in str(error.value)
    with pytest.raises(haptos.LevelError, match="found a pickup on a layer that is solid to the player"):
        haptos.simulate(stage(flat, {**drop(), "layer": "terrain"}))


@pytest.mark.parametrize("rate", RATES)
@pytest.mark.parametrize("speed", [90, 9000])
def test_something_else_may_take_it_too_however_fast_it_goes(flat, rate, speed):
    cart = {"name": "cart", "at": [-400, 60], "turn": 90, "shape": {"box": [20, 60]},
            "route": {"stops": [[0, 0], [9000, 0]], "speed": speed, "mode": "once"}}  # fmt: skip
    for by, taker in ((["player", "cart"], "cart"), (["cart"], "cart"), (["player"], None)):
        level = stage(flat, cart, drop(at=(-200, 65), collect_within=3, by=by), world={"tick_rate": rate})
        run = haptos.simulate(level, "wait 3 s")
        rows = [row for row in run.event_rows if row.event == "collect"]
        assert [row.who for row in rows] == ([taker] if taker else [])
        if taker:
            # Turned, its side is 30 ahead of its middle.
            assert rows[0].t == pytest.approx((200 - 30 - 3) / speed, abs=1e-6)
            assert run.track.oil.iloc[-1] == 1
    alone = haptos.simulate(stage(flat, cart, drop(at=(50, 14), by=["cart"], attract_within=90)), "right 1 s")
    assert not any(row.event in ("collect", "attract") for row in alone.event_rows)


def test_who_takes_has_to_be_there_and_to_move(flat):
    with pytest.raises(haptos.LevelError, match=r"pickup\.by: no piece, kind, mark or layer 'cort'"):
        haptos.simulate(stage(flat, drop(by=["cort"])))
    with pytest.raises(haptos.LevelError, match=r"pickup\.by: found 'floor', which stays where it is"):
        haptos.simulate(stage(flat, drop(by=["floor"])))
