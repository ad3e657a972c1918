"""Shapes: polygons cut into convex parts, compounds, copies, scale, rest, lines, maps that are turned, drawings."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

import haptos
from haptos.engine.build.compile_level import compile_level
from haptos.geometry.convex import convex_polygons
from haptos.geometry.polygons import shape_polygons
from tests.scenes import first


def shapes(level: haptos.Level, name: str) -> shapely.Geometry:
    """Return the union of a piece's shapes where they stand."""
    compiled = compile_level(level)
    index = [piece.name for piece in compiled.resolved.pieces].index(name)
    return shapely.union_all(shape_polygons(compiled.placement.only(compiled.placement.piece == index)))


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.floats(0.2, 1.0), st.floats(0.1, 1.0)), min_size=3, max_size=12))
def test_convex_parts_cover_exactly_the_polygon(spokes):
    # A star around the origin: simple, and concave almost always.
    angles = np.cumsum([turn for _, turn in spokes])
    assume(angles[-1] > 0)
    angles = angles / angles[-1] * 2 * np.pi
    assume(np.diff(np.concatenate(([0], angles))).max() < 0.9 * np.pi)
    points = np.column_stack((np.cos(angles), np.sin(angles))) * np.array([[radius] for radius, _ in spokes]) * 50
    whole = shapely.Polygon(points)
    parts = [shapely.Polygon(part) for part in convex_polygons(points)]
    assert shapely.union_all(parts).symmetric_difference(whole).area < 1e-9 * whole.area
    assert sum(part.area for part in parts) == pytest.approx(whole.area, rel=1e-9)
    assert all(part.convex_hull.area == pytest.approx(part.area, rel=1e-9) for part in parts)


def test_an_outline_that_touches_itself_is_cut_where_it_does():
    bow = [[0, 0], [5, 0], [5, 5], [10, 5], [10, 10], [5, 10], [5, 5], [0, 5]]
    level = haptos.Level(pieces=[{"name": "bow", "at": [0, 0], "shape": {"polygon": bow}}])
    assert shapes(level, "bow").area == pytest.approx(50)


BAD_SHAPES = {
    "crosses itself at (5, 5), between the sides from corners 0 and 2": {
        "polygon": [[0, 0], [10, 10], [10, 0], [0, 10]]
    },
    "found polygon with 2 points, expected at least 3": {"polygon": [[0, 0], [10, 10]]},
    "found polygon[2] = [10, 0] twice in a row": {"polygon": [[0, 0], [10, 0], [10, 0], [0, 10]]},
    "found polygon[0] = [0, 0] twice in a row": {"polygon": [[0, 0], [10, 0], [10, 9], [0, 0]]},
    "found a polygon without area": {"polygon": [[0, 0], [10, 0], [20, 0]]},
    "found line with 1 points, expected at least 2": {"line": [[0, 0]]},
    "found line[1] = [0, 0] twice in a row": {"line": [[0, 0], [0, 0], [9, 9]]},
    "expected exactly one of box, corners, circle, capsule, polygon, line": {"box": [1, 1], "line": [[0, 0], [1, 1]]},
}


@pytest.mark.parametrize("expected", BAD_SHAPES)
def test_shapes_that_are_none_are_refused_with_their_place(expected):
    piece = {"name": "rock", "at": [0, 0], "shape": BAD_SHAPES[expected]}
    with pytest.raises(haptos.LevelError, match=r"pieces\[0\] 'rock', shape") as caught:
        haptos.Level(pieces=[piece])
    assert expected in str(caught.value)


@pytest.mark.parametrize("form", ["corners", "polygon", "line"])
def test_the_body_is_a_box_a_circle_or_a_capsule(form):
    shape = {form: [0, 0, 9, 9] if form == "corners" else [[0, 0], [9, 0], [9, 9]]}
    with pytest.raises(haptos.LevelError, match=f"found shape.{form}, expected box, circle or capsule"):
        haptos.Level(player={"shape": shape})


def test_parts_copies_scale_and_turn_move_a_piece_as_one():
    kinds = {
        "brazier": {
            "parts": [
                {"shape": {"box": [4, 20]}, "at": [0, 10]},
                {"shape": {"circle": 6}, "at": [0, 26]},
                {"shape": {"box": [10, 2], "turn": 90}, "at": [8, 1]},
            ]
        }
    }
    pieces = [{"name": "one", "kind": "brazier", "at": [0, 0]}]
    pieces += [
        {"name": "big", "kind": "brazier", "at": [100, 50], "scale": 2, "turn": 30, "copies": [[300, 0], [400, 0]]}
    ]
    level = haptos.Level(kinds=kinds, pieces=pieces)
    one = shapes(level, "one")
    expected = shapely.affinity.translate(
        shapely.affinity.rotate(shapely.affinity.scale(one, 2, 2, origin=(0, 0)), 30, origin=(0, 0)), 100, 50
    )
    big = shapes(level, "big")
    # Circles are drawn with 128 sides, which do not turn with the piece.
    assert big.symmetric_difference(expected).area < 1e-3 * expected.area
    for name, x in (("big 2", 300), ("big 3", 400)):
        moved = shapely.affinity.translate(expected, x - 100, -50)
        assert shapes(level, name).symmetric_difference(moved).area < 1e-3 * moved.area
    assert one.area == pytest.approx(80 + 36 * math.pi + 20, rel=1e-3)


@settings(max_examples=40, deadline=None)
@given(
    shape=st.sampled_from(
        [{"box": [20, 8]}, {"circle": 7}, {"capsule": [8, 24]}, {"polygon": [[0, 0], [30, -4], [12, 14], [10, 6]]}]
    ),
    turn=st.floats(-180, 180),
    gap=st.sampled_from([0.0, 5.0]),
    x=st.floats(-40, 40),
)
def test_a_piece_at_rest_lies_exactly_its_gap_above_the_first_surface(shape, turn, gap, x):
    ground = [
        {
            "name": "slope",
            "at": [0, 0],
            "layer": "terrain",
            "marks": ["ground"],
            "turn": 20,
            "shape": {"box": [200, 10]},
        },
        {"name": "globe", "at": [30, 20], "marks": ["ground"], "shape": {"circle": 10}},
    ]
    piece = {"name": "trunk", "at": [x, 120], "turn": turn, "shape": shape, "rest": {"on": "#ground", "gap": gap}}
    level = haptos.Level(pieces=[*ground, piece])
    trunk = shapes(level, "trunk")
    below = shapely.union_all([shapes(level, "slope"), shapes(level, "globe")])
    lowered = shapely.affinity.translate(trunk, 0, -gap)
    # The circles are drawn with 128 sides, each of which is 3e-4 of the radius off at most.
    assert lowered.distance(below) < 6e-3
    assert lowered.intersection(below).area < 0.05


def test_rest_follows_gravity_and_says_when_nothing_is_there():
    pieces = [
        {"name": "wall", "shape": {"corners": [100, -50, 120, 50]}},
        {"name": "trunk", "at": [0, 0], "shape": {"box": [10, 10]}, "rest": {"on": "wall"}},
        {"name": "lost trunk", "at": [0, 200], "shape": {"box": [10, 10]}, "rest": {"on": "wall"}},
    ]
    level = haptos.Level(world={"gravity": [1800, 0]}, pieces=pieces)
    assert shapes(level, "trunk").bounds == pytest.approx((90, -5, 100, 5))
    findings = {finding.code: finding for finding in haptos.check(level)}
    assert "lost trunk" in findings["rests-on-nothing"].place


def test_never_meets_switches_a_pair_off():
    slab = {"name": "slab", "shape": {"corners": [-50, -16, 50, 0]}}
    for piece, player in (
        (slab | {"never_meets": ["player"]}, {}),
        (slab | {"never_meets": ["#light"]}, {"marks": ["light"]}),
        (slab | {"marks": ["ghost"]}, {"never_meets": ["#ghost"]}),
    ):
        level = haptos.Level(player={"at": [0, 14], **player}, pieces=[piece])
        assert haptos.simulate(level, "wait 1 s").track.y.iloc[-1] < -100
    assert haptos.simulate(haptos.Level(player={"at": [0, 14]}, pieces=[slab]), "wait 1 s").track.y.iloc[-1] == 14


def test_a_turned_map_carries_its_slopes():
    rows = ".../\n../#\n./##\n/###"
    kinds = {"stone": {}, "slope": {"shape": {"polygon": [[-8, -8], [8, -8], [8, 8]]}}}
    signs = {"#": "stone", "/": "slope"}
    level = haptos.Level(kinds=kinds, map={"tile": 16, "at": [10, 20], "turn": 30, "rows": rows, "signs": signs})
    whole = shapely.union_all([shapes(level, "map/stone"), shapes(level, "map/slope")])
    triangle = shapely.affinity.rotate(shapely.Polygon([(0, 0), (64, 0), (64, 64)]), 30, origin=(0, 0))
    assert whole.symmetric_difference(shapely.affinity.translate(triangle, 10, 20)).area < 1e-6 * triangle.area


def test_a_concave_trough_holds_the_body():
    trough = {"polygon": [[-60, 60], [-60, -10], [60, -10], [60, 60], [50, 60], [50, 0], [-50, 0], [-50, 60]]}
    level = haptos.Level(player={"at": [0, 60]}, pieces=[{"name": "trough", "at": [0, 0], "shape": trough}])
    run = haptos.simulate(level, "wait 1 s, right 1 s, left 1 s")
    assert run.track.x[120] == pytest.approx(43)
    assert run.track.x[180] == pytest.approx(-43)
    assert run.track.y.iloc[-1] == pytest.approx(14)
    assert "jump" not in set(run.events.event)


def test_a_ray_meets_a_line_and_a_one_way_piece_from_their_sides_alone():
    pieces = [
        {"name": "rail", "at": [50, 0], "shape": {"line": [[0, 20], [0, -20]]}},
        {"name": "awning", "at": [0, 50], "shape": {"box": [20, 6]}, "solid_from": "above"},
    ]
    level = haptos.Level(pieces=pieces)
    # Drawn downward, the line's left is on the right.
    assert haptos.first_hit(level, (0, 0), (1, 0)) is None
    assert haptos.first_hit(level, (100, 0), (-1, 0)).piece == "rail"
    assert haptos.first_hit(level, (0, 100), (0, -1)).distance == pytest.approx(47)
    assert haptos.first_hit(level, (0, 0), (0, 1)) is None


@pytest.fixture
def plank_image(tmp_path):
    """A drawing of 40 by 20 dots, opaque in the middle 20 by 10."""
    from matplotlib.image import imsave

    pixels = np.zeros((20, 40, 4))
    pixels[5:15, 10:30] = (0.6, 0.4, 0.2, 1.0)
    imsave(tmp_path / "plank.png", pixels)
    return tmp_path


def test_the_drawing_is_compared_with_the_shape_side_by_side(plank_image):
    text = """
    [[pieces]]
    name = "plank"
    at = [0, 0]
    shape = { box = [20, 10] }
    look = { image = "plank.png", size = [40, 20], offset = [3, 0] }
    [[pieces]]
    name = "fitting plank"
    at = [100, 0]
    shape = { box = [20, 10] }
    look = { image = "plank.png", size = [40, 20] }
    [[pieces]]
    name = "bare plank"
    at = [200, 0]
    shape = { box = [20, 10] }
    look = { image = "missing.png" }
    """
    (plank_image / "level.toml").write_text(text)
    level = haptos.load(plank_image / "level.toml")
    findings = [finding for finding in haptos.check(level) if finding.code.startswith("look")]
    assert [(finding.code, finding.place) for finding in findings] == [
        ("look-missing", "pieces[2] 'bare plank', look.image"),
        ("look-loose", "pieces[0] 'plank'"),
    ]
    assert "left -3, right +3, below +0, above +0" in findings[1].message
    ax = haptos.draw(level)
    assert len(ax.get_images()) == 2


def test_a_map_whose_tiles_have_a_shape_is_landed_on_at_its_height():
    kinds = {"post": {"shape": {"box": [4, 10]}}}
    level = haptos.Level(
        player={"at": [24, 60]}, kinds=kinds, map={"tile": 16, "at": [0, 0], "rows": "#####", "signs": {"#": "post"}}
    )
    # A tile's middle is at 8; the post reaches 5 above it.
    assert first(haptos.simulate(level, "wait 1 s"), "land").y == pytest.approx(13 + 14, abs=0.5)
