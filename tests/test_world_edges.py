"""Facets at the edges of things: bounds that wrap or lose, cues that put the body elsewhere, pictures, sentences."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from haptos.engine.build.compile_level import compile_level
from haptos.geometry.placement import launch_direction, piece_places, side_direction
from haptos.geometry.polygons import shape_polygons
from haptos.geometry.rest import drop_distance
from haptos.views.picture import save_picture
from tests.scenes import first, floor

FLOOR = floor(900)
RIGGING = {"name": "rigging", "at": [0, 60], "shape": {"box": [16, 120]}, "ladder": {}}
AWNING = {"name": "awning", "at": [0, 50], "shape": {"box": [80, 6]}, "solid_from": "above"}


def test_being_put_elsewhere_lets_go_of_a_ladder_and_of_a_field():
    tar = {"name": "tar", "shape": {"corners": [-30, 0, 30, 20]}, "field": {"speed_factor": 0.4}}
    level = haptos.Level(player={"at": [0, 14]}, pieces=[FLOOR, RIGGING, tar])
    run = haptos.simulate(level, "up 0.1 s, place 200,14, right 1 s, place 0,14, right 0.1 s")
    after = run.track[(run.track.tick > 8) & (run.track.tick <= 66)]
    assert (after.stance == "ground").all()
    assert after.vx.iloc[-1] == 150
    assert set(after.speed_factor) == {1.0}
    # Put back into the tar, it holds at once.
    assert run.track.speed_factor.iloc[-1] == 0.4
    assert run.track.vx.iloc[-1] == pytest.approx(60)


def test_a_drop_through_a_floor_is_forgotten_when_the_body_is_put_back_on_it():
    level = haptos.Level(player={"at": [0, 67]}, pieces=[FLOOR, AWNING])
    run = haptos.simulate(level, "wait 0.1 s, down+jump 0.05 s, place 0,67, wait 1 s")
    assert run.track.support.iloc[-1] == "awning"
    assert run.track.y.iloc[-1] == pytest.approx(67)


def test_a_lost_climber_begins_again_on_its_feet():
    world = {"bounds": {"corners": [-100, -50, 100, 100], "top": "lost"}}
    level = haptos.Level(world=world, player={"at": [0, 14]}, pieces=[FLOOR, RIGGING | {"ladder": {"top": False}}])
    run = haptos.simulate(level, "up 2 s, wait 1 s")
    lost = first(run, "lost")
    assert lost.y == pytest.approx(100)
    # From the floor to the edge at the climbing speed.
    assert lost.t == pytest.approx((100 - 14) / 90, rel=1e-9)
    assert run.track.y.iloc[-1] >= 14


def test_a_field_that_reaches_over_a_wrapping_edge_is_felt_on_both_sides():
    world = {"bounds": {"corners": [-200, -100, 200, 200], "left": "wrap", "right": "wrap"}}
    tar = {"name": "tar", "shape": {"corners": [160, 0, 240, 20]}, "field": {"speed_factor": 0.5}}
    level = haptos.Level(world=world, player={"at": [0, 14]}, pieces=[FLOOR, tar])
    track = haptos.simulate(level, "right 4 s").track
    slow = track[track.speed_factor < 1]
    # 160 to 200, and -200 to -160 on the other side, with half the body's width.
    assert slow.x.max() > 198
    assert slow.x.min() < -198
    assert slow[slow.x < 0].x.max() == pytest.approx(-153, abs=3)
    assert track.vx.iloc[-1] == 150


@pytest.mark.parametrize("turn", [0, 30, -90, 180])
@pytest.mark.parametrize("side", ["above", "below", "left", "right"])
def test_sides_and_launches_turn_with_the_piece(side, turn):
    piece = {"name": "pad", "at": [5, 6], "turn": turn, "shape": {"box": [9, 5]}, "solid_from": side}
    level = haptos.Level(world={"view": "top"}, pieces=[piece | {"launch": {"speed": 9, "from": side}}])
    pad = compile_level(level).resolved.by_name["pad"]
    angle = math.radians({"right": 0, "above": 90, "left": 180, "below": 270}[side] + turn)
    way = [math.cos(angle), math.sin(angle)]
    assert side_direction(pad) == pytest.approx(way, abs=1e-12)
    assert launch_direction(pad) == pytest.approx(way, abs=1e-12)


def test_places_of_copies_and_tiles_are_where_they_stand():
    kinds = {"post": {"shape": {"circle": 3}}}
    pieces = [{"name": "post", "kind": "post", "at": [1, 2], "turn": 40, "copies": [[30, 40]]}]
    tiles = {"tile": 10, "at": [100, 0], "turn": 90, "rows": "#.#", "signs": {"#": "post"}}
    compiled = compile_level(haptos.Level(kinds=kinds, pieces=pieces, map=tiles))
    places = {
        piece.name: [
            tuple(at) for at in piece_places(piece, compiled.placement.only(compiled.placement.piece == index))
        ]
        for index, piece in enumerate(compiled.resolved.pieces)
    }
    assert places["post"] == [pytest.approx((1, 2))]
    assert places["post 2"] == [pytest.approx((30, 40))]
    # Turned by a quarter about the corner at (100, 0): the row runs up from there, to the left of it.
    assert places["map/post"] == [pytest.approx((95, 5)), pytest.approx((95, 25))]


CONVEX = st.sampled_from(
    [{"box": [20, 8]}, {"circle": 7}, {"capsule": [8, 24]}, {"polygon": [[0, 0], [30, -4], [12, 14]]}]
)


@settings(max_examples=60, deadline=None)
@given(one=CONVEX, other=CONVEX, turn=st.floats(-180, 180), x=st.floats(-60, 60), angle=st.floats(0, 360))
def test_a_piece_is_moved_until_it_touches_and_no_farther(one, other, turn, x, angle):
    way = (math.cos(math.radians(angle)), math.sin(math.radians(angle)))
    start = (-200 * way[0] - x * way[1], -200 * way[1] + x * way[0])
    pieces = [
        {"name": "mover", "at": list(start), "turn": turn, "shape": one},
        {"name": "target", "at": [0, 0], "shape": other},
    ]
    placement = compile_level(haptos.Level(pieces=pieces)).placement
    moving, still = placement.only(placement.piece == 0), placement.only(placement.piece == 1)
    distance = drop_distance(moving, still, way)
    mover, target = shape_polygons(moving)[0], shape_polygons(still)[0]
    if math.isinf(distance):
        end = shapely.affinity.translate(mover, 400 * way[0], 400 * way[1])
        swept = shapely.union_all([mover, end]).convex_hull
        assert swept.intersection(target).area < 0.1
        return
    touching = shapely.affinity.translate(mover, distance * way[0], distance * way[1])
    # Circles are drawn with 128 sides.
    assert touching.distance(target) < 6e-3
    assert touching.intersection(target).area < 0.05
    before = shapely.affinity.translate(mover, (distance - 1) * way[0], (distance - 1) * way[1])
    assert before.intersection(target).area < 1e-9


def test_every_event_of_a_tour_says_something_to_people():
    pieces = [FLOOR, RIGGING, AWNING | {"at": [120, 50]}]
    pieces += [
        {"name": "drum", "shape": {"corners": [250, 0, 300, 6]}, "launch": {"height": 90}},
        {"name": "step", "shape": {"corners": [-120, 0, -60, 3]}},
        {"name": "mist", "layer": "zone", "at": [60, 20], "shape": {"circle": 10}},
    ]
    level = haptos.Level(player={"at": [0, 14]}, pieces=pieces)
    cues = (
        "up 0.4 s, right+jump 0.2 s, right 0.5 s, jump 0.4 s, wait 0.5 s, act 0.1 s, right+sprint 0.5 s, "
        "right+sprint+jump 0.2 s, wait 1.5 s, place -20,14, left 1 s"
    )
    events = haptos.simulate(level, cues).events
    assert {"climb", "jump", "apex", "land", "touch", "part", "act", "place", "step"} <= set(events.event)
    assert (events.detail.str.len() > 5).all()
    assert not events.detail.str.contains(r"[{}]").any()
    named = events[events.piece != ""]
    told = named[~named.event.isin(["say", "inside"])]
    assert all(row.piece in row.detail for row in told.itertuples())


def test_a_picture_has_every_piece_and_the_whole_way_in_view():
    level = haptos.Level(player={"at": [0, 14]}, pieces=[FLOOR, RIGGING, AWNING])
    run = haptos.simulate(level, "jump 0.4 s, wait 0.3 s, right 1 s")
    ax = haptos.draw(level, run)
    x0, x1 = ax.get_xlim()
    y0, y1 = ax.get_ylim()
    assert x0 < -900
    assert x1 > 900
    assert y0 < -16
    assert y1 > max(120, run.track.y.max())
    rungs = [line for line in ax.lines if line.get_linewidth() == 1.6]
    assert len(rungs) == 10
    assert all(np.ptp(line.get_xdata()) == pytest.approx(16) for line in rungs)
    live = next(line for line in ax.lines if line.get_linewidth() == 3.2)
    assert set(np.round(live.get_ydata(), 9)) == {53.0}


def test_the_legend_speaks_of_layers_though_one_piece_is_switched_off(tmp_path):
    ghost = {"name": "curtain", "shape": {"corners": [100, 0, 110, 60]}, "never_meets": ["player"]}
    level = haptos.Level(player={"at": [0, 14]}, pieces=[FLOOR, ghost])
    save_picture(level, None, tmp_path / "room.svg")
    drawn = (tmp_path / "room.svg").read_text()
    assert "terrain — solid to the player" in drawn
    assert "ignored" not in drawn
