"""Places to stand, leaks past one-way pieces, the level file of facets: what the studies see, and what files hold."""

from __future__ import annotations

import json
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from haptos.demo import demo_file
from haptos.engine.build.compile_level import compile_level
from haptos.files.reading import load
from haptos.study.ballistics import Flight
from haptos.study.moves import integrators
from haptos.study.surfaces import open_surfaces, places_to_stand
from tests.scenes import floor

FLOOR = floor(300)


def places(*pieces: dict, gravity: tuple[float, float] = (0, -1800)) -> list[tuple[tuple, tuple]]:
    """Return the ends of every place to stand, along right and up."""
    compiled = compile_level(
        haptos.Level(world={"gravity": list(gravity)}, player={"at": [0, 14]}, pieces=list(pieces))
    )
    return [(place.left, place.right) for place in places_to_stand(compiled, open_surfaces(compiled))]


def test_what_stands_on_a_floor_cuts_it_into_places():
    trunk = {"name": "trunk", "shape": {"corners": [-20, 0, 40, 30]}}
    assert places(FLOOR, trunk) == [
        (pytest.approx((-300, 0)), pytest.approx((-20, 0))),
        (pytest.approx((-20, 30)), pytest.approx((40, 30))),
        (pytest.approx((40, 0)), pytest.approx((300, 0))),
    ]


def test_a_walkable_ramp_and_low_steps_join_places_and_a_steep_one_parts_them():
    def ramp(height: float) -> dict:
        return {"name": "ramp", "at": [0, 0], "shape": {"polygon": [[0, 0], [100, 0], [100, height]]}}

    joined = places(ramp(80) | {"shape": {"polygon": [[0, 0], [100, 80], [200, 80], [200, 0]]}}, FLOOR)
    assert (pytest.approx((-300, 0)), pytest.approx((200, 80))) in joined
    # What is open is looked at a thousandth of the body's height above the ground.
    assert (pytest.approx((-300, 0)), pytest.approx((0, 0), abs=0.028)) in places(ramp(200), FLOOR)
    step = {"name": "step", "shape": {"corners": [100, 0, 300, 3]}}
    assert places(step, FLOOR) == [(pytest.approx((-300, 0)), pytest.approx((300, 3)))]


def test_one_way_pieces_are_stood_on_by_their_side_alone():
    def awning(side: str) -> dict:
        return {"name": "awning", "at": [0, 50], "shape": {"box": [80, 6]}, "solid_from": side}

    assert (pytest.approx((-40, 53)), pytest.approx((40, 53))) in places(FLOOR, awning("above"))
    for side in ("below", "left", "right"):
        assert len(places(FLOOR, awning(side))) == 1


@settings(max_examples=20, deadline=None)
@given(angle=st.floats(-180, 180))
def test_places_turn_with_gravity(angle):
    turn = math.radians(angle)
    trunk = {
        "name": "trunk",
        "at": [80 * math.cos(turn), 80 * math.sin(turn)],
        "turn": angle,
        "shape": {"box": [40, 60]},
    }
    floor = {
        "name": "floor",
        "at": [8 * math.sin(turn), -8 * math.cos(turn)],
        "turn": angle,
        "shape": {"box": [600, 16]},
    }
    gravity = (1800 * math.sin(turn), -1800 * math.cos(turn))
    assert np.allclose(
        places(floor, trunk, gravity=gravity),
        [((-300, 0), (60, 0)), ((60, 30), (100, 30)), ((100, 0), (300, 0))],
        atol=1e-6,
    )


@pytest.mark.parametrize(("side", "leaks"), [("above", True), (None, False)])
def test_a_roof_that_lets_through_from_below_is_a_leak(side, leaks):
    bounds = {"corners": [-100, -100, 100, 100], "left": "wall", "right": "wall", "bottom": "wall"}
    roof = {"name": "roof", "shape": {"corners": [-100, 80, 60, 90]}}
    lid = {"name": "lid", "shape": {"corners": [60, 80, 100, 90]}} | ({"solid_from": side} if side else {})
    level = haptos.Level(world={"bounds": bounds}, player={"at": [0, -86]}, pieces=[roof, lid])
    assert ("leak" in [finding.code for finding in haptos.check(level)]) == leaks


FACETS = {
    "surface": {"speed_factor": 0.5, "friction": 0.2, "conveyor": "2 tile/s", "restitution": 0.3, "cushion": True},
    "field": {"speed_limit": "3 tile/s", "only_grounded": True, "stacks": True},
    "ladder": {"speed_factor": 2, "top": False, "centres": False},
    "launch": {"height": "4 tile", "from": "left", "direction": "0.25 turn", "cooldown": "30 frame", "keep": 0.5},
    "rest": {"on": "floor", "gap": "0.5 tile"},
    "look": {"image": "slab.png", "size": [32, "1 tile"], "offset": [1, 2]},
}


def faceted() -> dict:
    pieces = [FLOOR] + [
        {"name": f"with {facet}", "at": [0, 100], "shape": {"box": [32, 16]}, facet: values, "scale": 1.5, "turn": 15}
        for facet, values in FACETS.items()
    ]
    return {"units": {"tile": "16 px"}, "pieces": pieces}


def test_facets_carry_units():
    pieces = {piece.name: piece for piece in haptos.Level(**faceted()).pieces}
    assert pieces["with surface"].surface.conveyor == 32
    assert pieces["with field"].field.speed_limit == 48
    launch = pieces["with launch"].launch
    assert (launch.height, launch.direction, launch.cooldown) == (64, 90, 0.5)
    assert pieces["with rest"].rest.gap == 8
    assert pieces["with look"].look.size == (32, 16)


def test_facets_mean_the_same_in_json_and_come_back_from_a_dump(tmp_path):
    data = faceted()
    level = haptos.Level(**data)
    again = haptos.Level(**level.model_dump(exclude_unset=True, by_alias=True))
    assert again == level
    (tmp_path / "level.json").write_text(json.dumps(data))
    look = {piece.name: piece for piece in load(tmp_path / "level.json").pieces}["with look"].look
    # Images are written relative to the level file.
    assert look.image == str(tmp_path / "slab.png")


def test_the_schema_knows_every_facet():
    definitions = haptos.Level.model_json_schema()["$defs"]
    piece = definitions["Piece"]["properties"]
    assert set(FACETS) | {"parts", "copies", "scale", "solid_from", "never_meets"} <= set(piece)
    assert "from" in definitions["Launch"]["properties"]
    assert {"polygon", "line"} <= set(definitions["Shape"]["properties"])


@pytest.mark.parametrize("name", ["first-room.toml", "stair-hall.toml"])
def test_the_demo_has_nothing_wrong(name):
    assert [finding for finding in haptos.check(haptos.load(demo_file(name))) if finding.severity != "note"] == []


def test_the_track_that_is_saved_holds_the_speed_factor_and_the_ladder(tmp_path):
    pieces = [FLOOR, {"name": "rigging", "at": [0, 60], "shape": {"box": [16, 120]}, "ladder": {}}]
    run = haptos.simulate(haptos.Level(player={"at": [0, 14]}, pieces=pieces), "up 0.5 s")
    import pandas as pd

    track = pd.read_csv(run.save(tmp_path)["track"])
    assert track.stance.iloc[-1] == "ladder"
    assert track.pose.iloc[-1] == "climb"
    assert (track.speed_factor == 1).all()


@pytest.mark.parametrize(("rising", "falling"), [(1, 1), (0.8, 1.6), (1.5, 0.5)])
def test_the_closed_form_of_a_jump_is_what_the_exact_method_does(rising, falling):
    level = haptos.Level(player={"fall": {"rising_factor": rising, "falling_factor": falling, "terminal_speed": None}})
    flight = Flight(level)
    up = math.sqrt(2 * 72 / (1800 * rising))
    assert flight.air_time == pytest.approx(up + math.sqrt(2 * 72 / (1800 * falling)))
    table = integrators(level).set_index("quantity")
    assert table["exact"]["air time"] == pytest.approx(flight.air_time, rel=1e-9)
    assert table["exact"]["flat jump distance"] == pytest.approx(150 * flight.air_time, rel=1e-9)


def test_the_top_view_has_no_jump_to_integrate():
    assert len(integrators(haptos.Level(world={"view": "top"}))) == 0
