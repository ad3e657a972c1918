"""Pieces that give way, routes that wait, and what becomes of who stands on them."""

from __future__ import annotations

import math

import numpy as np
import pytest

import haptos

BELOW = {"name": "below", "shape": {"corners": [-4000, -420, 4000, -400]}}
PLANK = {"name": "plank", "at": [0, -4], "shape": {"box": [48, 8]}}


def over(crumble, pieces=(BELOW,), player=None, plank=PLANK, **world) -> haptos.Level:
    """Return a level with the player on a plank that gives way, its top at 0."""
    body = {"at": [0, 14], "shape": {"capsule": [14, 28]}, **(player or {})}
    return haptos.Level(world=world, player=body, pieces=[{**plank, "crumble": crumble}, *pieces])


def times(run: haptos.Run, *events: str) -> list[float]:
    return [row.t for row in run.event_rows if row.event in events]


@pytest.mark.parametrize("rate", [30, 60, 120, 240])
def test_it_shakes_falls_is_gone_and_returns_at_its_times_at_every_tick_rate(rate):
    crumble = {"delay": 0.55, "fall_accel": 900, "fall_speed": 300, "gone_after": 0.7, "returns_after": 0.33}
    run = haptos.simulate(over(crumble, tick_rate=rate), "wait 3 s")
    assert times(run, "crumble", "drop", "gone", "return") == pytest.approx([0, 0.55, 1.25, 1.58], abs=1e-12)
    # Half of 900 t² until 300 is reached after a third of a second, then 300 t.
    fallen = run.pieces[run.pieces.t.between(0.55, 1.25, inclusive="left")]
    time = fallen.t - 0.55
    depth = np.where(time < 1 / 3, 450 * time**2, 50 + 300 * (time - 1 / 3))
    assert fallen.y.to_numpy() == pytest.approx(-4 - depth, abs=1e-9)
    # Who stands on it falls with it.
    rides = run.track[run.track.t.between(0.55, 1.25, inclusive="left")]
    assert rides.y.to_numpy() == pytest.approx(14 - depth, abs=1e-9)
    assert rides.vy.to_numpy() == pytest.approx(-np.minimum(900 * time, 300), abs=1e-9)
    assert (rides.support == "plank").all()


def test_when_it_is_gone_the_body_flies_on_from_where_it_is():
    run = haptos.simulate(over({"delay": 0.1, "fall_accel": 600, "gone_after": 0.4}), "wait 0.8 s")
    after = run.track[run.track.t.between(0.5, 0.79)]
    time = after.t - 0.5
    assert after.y.to_numpy() == pytest.approx(14 - 300 * 0.16 - 240 * time - 900 * time**2, abs=1e-6)
    assert times(run, "alight") == pytest.approx([0.5], abs=1 / 60)


def test_it_is_gone_once_it_sinks_below_where_things_are_lost():
    run = haptos.simulate(over({"delay": 0.2, "gone_after": 5}, lost_below=-404), "wait 2 s")
    assert times(run, "gone") == pytest.approx([0.2 + math.sqrt(2 * 400 / 1800)])


def test_touching_it_again_does_not_begin_anew_and_its_shape_does_not_shake():
    run = haptos.simulate(over({"delay": 1, "shake": 3}), "jump 0.05 s, wait 1.5 s")
    assert times(run, "crumble", "drop") == [0, 1]
    shaking = run.pieces[run.pieces.state == "shakes"]
    assert 2.5 < shaking.x.abs().max() <= 3
    assert (run.track.x == 0).all()


@pytest.mark.parametrize(("latched", "drops"), [(True, 1), (False, 0)])
def test_latched_it_goes_on_without_its_rider(latched, drops):
    run = haptos.simulate(over({"delay": 0.6, "latched": latched}), "right 0.5 s, wait 1 s")
    assert len(times(run, "crumble")) == 1
    assert len(times(run, "drop")) == drops


@pytest.mark.parametrize(("side", "begins"), [("above", False), ("below", True), ("any", True)])
def test_it_gives_way_to_its_own_side_alone(side, begins):
    shelf = {"name": "shelf", "at": [0, 60], "shape": {"box": [60, 8]}}
    floor = {"name": "floor", "shape": {"corners": [-99, -20, 99, 0]}}
    run = haptos.simulate(over({"from": side}, [floor], plank=shelf), "jump 0.5 s, wait 0.5 s")
    assert bool(times(run, "crumble")) == begins


def test_it_returns_once_nobody_stands_where_it_would_be():
    ledge = {"name": "ledge", "shape": {"corners": [-400, -60, 400, -20]}}
    crumble = {"delay": 0.1, "gone_after": 0.2, "returns_after": 0.3, "fall_accel": 4000}
    run = haptos.simulate(over(crumble, [ledge]), "wait 1 s, right 1 s")
    # The body, 7 wide to either side of its middle, is clear of the plank's 24.
    clear = run.track.t[(run.track.x >= 31).argmax()]
    assert times(run, "return") == pytest.approx([clear], abs=2 / 60)


def test_what_it_carries_goes_and_returns_with_it():
    plank = {**PLANK, "pieces": [{"name": "lamp", "shape": {"box": [4, 60]}, "at": [20, 34]}]}
    run = haptos.simulate(over({"delay": 0.2, "gone_after": 0.2, "returns_after": 1}, plank=plank), "wait 2 s")
    rows = run.pieces[run.pieces.piece == "plank/lamp"]
    assert set(rows.state[rows.t.between(0.41, 1.39)]) == {"gone"}
    assert set(rows.state[rows.t > 1.41]) == {"rests"}
    walks = haptos.simulate(over({"delay": 9}, plank=plank), "right 1 s")
    assert walks.track.x.max() == pytest.approx(20 - 2 - 7)


def test_zones_and_fields_that_it_carries_end_when_it_is_gone_and_begin_when_it_is_back():
    mist = {"name": "mist", "layer": "zone", "shape": {"box": [400, 80]}, "at": [0, 0], "field": {"speed_factor": 0.5}}
    shelf = {"name": "shelf", "shape": {"corners": [-200, -30, 200, -8]}}
    crumble = {"delay": 0.5, "fall_accel": 1, "gone_after": 0.25, "returns_after": 1}
    level = over(crumble, [shelf], plank={**PLANK, "pieces": [mist]})
    run = haptos.simulate(level, "wait 0.8 s, right 0.6 s, wait 1.5 s")
    said = [(row.event, round(row.t, 6)) for row in run.event_rows if row.piece == "plank/mist"]
    assert [event for event, _ in said] == ["enter", "leave", "enter"]
    assert [t for _, t in said] == pytest.approx([0, 0.75, 1.75], abs=1 / 60)
    factor = run.track.set_index("tick").speed_factor
    assert (factor[30], factor[60], factor[120]) == (0.5, 1.0, 0.5)


LIFT = {"name": "lift", "shape": {"box": [80, 16]}, "at": [140, 0]}
DOCK = {"name": "dock", "shape": {"corners": [-100, -8, 100, 8]}}


@pytest.mark.parametrize("rate", [30, 60, 120])
def test_a_route_that_waits_begins_when_it_is_ridden(rate):
    lift = {**LIFT, "route": {"stops": [[0, 0], [0, 90]], "speed": 60, "waits_for": "ridden", "mode": "once"}}
    level = haptos.Level(world={"tick_rate": rate}, player={"at": [0, 22]}, pieces=[lift, DOCK])
    run = haptos.simulate(level, "wait 0.5 s, right 1 s, wait 2 s")
    (boards,) = times(run, "board")
    # It walks up to speed in 150 / 1800 s, over 6.25.
    assert boards == pytest.approx(0.5 + 150 / 1800 + (100 - 6.25) / 150)
    # In the tick that it is boarded in it has not gone yet; from then on it is where arithmetic says.
    rides = run.track[run.track.t > boards + 1 / rate]
    assert rides.y.to_numpy() == pytest.approx(22 + np.minimum(60 * (rides.t - boards), 90), abs=1e-9)


def test_a_route_that_waits_for_a_rule():
    plate = {"name": "plate", "layer": "zone", "shape": {"box": [20, 40]}, "at": [60, 28]}
    lift = {**LIFT, "route": {"stops": [[0, 0], [0, 90]], "speed": 60, "waits_for": "call"}}
    rules = [
        {"when": "start", "do": [{"say": "silence"}]},
        {"name": "call", "when": "enter", "piece": "plate", "do": [{"say": "a bell"}, {"say": "and a rattle"}]},
    ]
    level = haptos.Level(player={"at": [0, 22]}, pieces=[lift, DOCK, plate], rules=rules)
    run = haptos.simulate(level, "right 0.3 s, wait 2 s")
    (enters,) = times(run, "enter")
    rows = run.pieces
    clock = np.maximum(rows.t - enters, 0)
    assert rows.y.to_numpy() == pytest.approx(90 - np.abs(90 - 60 * clock), abs=1e-9)
    with pytest.raises(haptos.LevelError, match=r"route\.waits_for: no rule 'cal' \(there is ridden\)"):
        haptos.simulate(
            haptos.Level(pieces=[{**LIFT, "route": {**lift["route"], "waits_for": "cal"}}], rules=rules[:1])
        )
