"""Gaps: margins in closed form, and what the simulation makes of them."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos

GRAVITY = 1800.0


def shelves(gap: float, rise: float, body: dict | None = None, **world: object) -> haptos.Level:
    return haptos.Level(
        world=world,
        player={"at": [-60, 14], "shape": body or {"box": [14, 28]}, "fall": {"terminal_speed": None}},
        pieces=[
            {"name": "near", "shape": {"corners": [-200, -40, 0, 0]}},
            {"name": "far", "shape": {"corners": [gap, rise - 40, gap + 300, rise]}},
        ],
    )


def margin(level: haptos.Level, gait: str, start: str = "near") -> float:
    table = haptos.gaps(level)
    return float(table[(table.start == start) & (table.gait == gait)].margin.iloc[0])


@pytest.mark.parametrize(("gait", "speed"), [("walk", 150), ("sprint", 300)])
@pytest.mark.parametrize("rise", [-60, 0, 50])
def test_the_margin_is_the_flight_less_the_gap(gait, speed, rise):
    time = math.sqrt(2 * 72 / GRAVITY) + math.sqrt(2 * (72 - rise) / GRAVITY)
    # A box foot is as wide as the body: it leaves with its left edge and lands with its right one.
    assert margin(shelves(100, rise), gait) == pytest.approx(speed * time + 14 - 100, rel=1e-9)


def test_what_is_too_high_says_by_how_much():
    table = haptos.gaps(shelves(50, 90))
    row = table[(table.start == "near") & (table.gait == "walk")].iloc[0]
    assert math.isnan(row.margin)
    assert row.needs == pytest.approx(18)
    back = table[(table.start == "far") & (table.gait == "walk")].iloc[0]
    assert back.rise == -90
    assert back.needs == 0


@settings(max_examples=12, deadline=None)
@given(rise=st.floats(-80, 60), past=st.sampled_from([-1.0, 1.0]), gait=st.sampled_from(["walk", "sprint"]))
def test_the_simulation_clears_what_is_cleared_and_misses_what_is_missed(rise, past, gait):
    reach = margin(shelves(40, rise), gait) + 40
    level = shelves(reach + past, rise)
    simulation = haptos.Simulation(level)
    simulation.place(7 - 1e-4, 14, vx=300 if gait == "sprint" else 150)
    simulation.step("right+jump" + ("+sprint" if gait == "sprint" else ""), ticks=90)
    events = simulation.run.events
    assert ((events.event == "land") & (events.piece == "far")).any() == (past < 0)


def test_launchers_have_a_margin_of_their_own():
    pieces = [
        {"name": "drum", "shape": {"corners": [-40, -20, 0, 0]}, "launch": {"height": 200}},
        {"name": "far", "shape": {"corners": [100, 60, 300, 120]}},
    ]
    level = haptos.Level(
        player={"at": [-20, 14], "shape": {"box": [14, 28]}, "fall": {"terminal_speed": None}}, pieces=pieces
    )
    time = math.sqrt(2 * 200 / GRAVITY) + math.sqrt(2 * 80 / GRAVITY)
    assert margin(level, "launch", "drum") == pytest.approx(300 * time + 14 - 100, rel=1e-9)


def test_what_is_filled_and_what_is_walked_is_no_gap():
    pieces = [
        {"name": "floor", "shape": {"corners": [-500, -16, 500, 0]}},
        {"name": "trunk", "shape": {"corners": [0, 0, 60, 40]}},
        {"name": "step", "shape": {"corners": [200, 0, 300, 3]}},
    ]
    table = haptos.gaps(haptos.Level(player={"at": [-100, 14]}, pieces=pieces))
    assert len(table[(table.start == "floor") & (table.goal == "floor")]) == 0
    assert not {"step"} & set(table.start)


def test_gaps_turn_with_gravity_and_the_top_view_has_none():
    turned = haptos.Level(
        world={"gravity": [0, 1800]},
        player={"at": [60, -14], "shape": {"box": [14, 28]}},
        pieces=[
            {"name": "near", "shape": {"corners": [0, 0, 200, 40]}},
            {"name": "far", "shape": {"corners": [-400, 0, -100, 40]}},
        ],
    )
    row = haptos.gaps(turned).iloc[0]
    assert (row.gap, row.rise) == pytest.approx((100, 0))
    assert len(haptos.gaps(haptos.Level(world={"view": "top"}))) == 0
