"""What has to hold of everything that moves, for all inputs: kernels against arithmetic and against other geometry."""

from __future__ import annotations

import cmath
import math

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, reject, settings
from hypothesis import strategies as st
from scipy.interpolate import CubicSpline

import haptos
from haptos.engine.build.compile_level import compile_level
from haptos.engine.report.piece_poses import pose_tables_of
from haptos.geometry.splines import Spline
from haptos.geometry.ways import way_of
from haptos.level.routes import Route

SHAPES = st.sampled_from(
    [
        {"box": [60, 14]},
        {"circle": 17},
        {"capsule": [50, 16]},
        {"polygon": [[-20, -10], [25, -12], [8, 22]]},
        {"line": [[20, 5], [-25, 0]]},
    ]
)
BODIES = st.sampled_from([{"box": [14, 28]}, {"circle": 10}, {"capsule": [14, 28]}, {"capsule": [30, 12]}])
PLACES = st.tuples(st.integers(-80, 80), st.integers(-80, 80))


@st.composite
def routes(draw) -> dict:
    """Return a route of any sort."""
    stops = draw(st.lists(PLACES, min_size=2, max_size=4, unique=True))
    curve = draw(st.sampled_from(["straight", "smooth"]))
    return {
        "stops": [list(stop) for stop in stops],
        "speed": draw(st.integers(20, 200)),
        "pause": draw(st.sampled_from([0.25, 0.5])),
        "ease": draw(st.booleans()),
        "mode": draw(st.sampled_from(["loop", "shuttle", "once"])),
        "start": draw(st.sampled_from([0, 0.4, 2.1])),
        "curve": curve,
        "turns": draw(st.booleans()),
    }


@settings(max_examples=25)
@given(
    outer=routes(), inner=routes(), spin=st.integers(-200, 200), pivot=PLACES, turn=st.integers(-180, 180),
    scale=st.sampled_from([0.5, 1, 2]),
)  # fmt: skip
def test_poses_three_levels_deep_are_those_of_each_carried_by_the_one_before(outer, inner, spin, pivot, turn, scale):
    leaf = {"name": "leaf", "at": [15, -20], "shape": {"box": [9, 4]}, "spin": {"speed": spin, "pivot": list(pivot)}}
    arm = {"name": "arm", "at": [30, 10], "shape": {"box": [9, 4]}, "route": inner, "pieces": [leaf]}
    root = {"name": "root", "at": [5, 7], "shape": {"circle": 9}, "route": outer, "turn": turn, "scale": scale}
    try:
        level = haptos.Level(player={"at": [0, 3000]}, pieces=[{**root, "pieces": [arm]}])
    except haptos.LevelError:
        # Nothing can turn along a curve that goes straight back; that sentence has a test of its own.
        reject()
    simulation = haptos.Simulation(level)
    tables = pose_tables_of(level)
    names = [piece.name for piece in simulation.compiled.resolved.pieces]
    chain = [names.index(name) for name in ("root", "root/arm", "root/arm/leaf")]
    places = [complex(*simulation.compiled.origins[index]) for index in chain]
    simulation.step(ticks=97)
    t = simulation.t
    # Each is where its carrier takes it: turned with that, about its place.
    place, angle, before = 0j, 0.0, 0j
    for index, rest in zip(chain, places, strict=True):
        own = tables.own_motion(index, [t])
        place += (rest - before + complex(*own.offset[0])) * cmath.rect(1.0, angle)
        angle += float(own.angle[0])
        before = rest
    # Put somewhere, all of them are brought to their poses; far away from them nothing is in their way.
    simulation.place(0, 3000)
    movers = simulation.compiled.tables.movers
    assert movers is not None
    pose = simulation.state.moving[movers.movers["piece"].tolist().index(chain[-1])]
    moved = place - places[-1]
    assert [pose["x"], pose["y"]] == pytest.approx([moved.real, moved.imag], abs=1e-8)
    assert [pose["cosine"], pose["sine"]] == pytest.approx([math.cos(angle), math.sin(angle)], abs=1e-9)
    # Its velocity is how its place changes, where it does so smoothly.
    h = 1e-5
    near = tables.motions(chain, [t - 2 * h, t - h, t, t + h, t + 2 * h])[chain[-1]]
    assert near.velocity[2] == pytest.approx([pose["vx"], pose["vy"]], abs=1e-9)
    assume(np.abs(np.diff(near.velocity, axis=0)).max() < 1.0)
    change = (near.offset[3] - near.offset[1]) / (2 * h)
    assert change == pytest.approx(near.velocity[2], abs=1e-2)


@settings(max_examples=60)
@given(stops=st.lists(PLACES, min_size=2, max_size=5, unique=True), t=st.floats(0, 30), speed=st.integers(20, 200))
def test_straight_ways_are_gone_along_evenly(stops, t, speed):
    route = {"stops": [list(stop) for stop in stops], "speed": speed, "mode": "shuttle"}
    level = haptos.Level(pieces=[{"name": "lift", "at": [7, 9], "shape": {"box": [9, 4]}, "route": route}])
    line = shapely.LineString(stops)
    gone = (speed * t) % (2 * line.length)
    expected = line.interpolate(min(gone, 2 * line.length - gone))
    offset = pose_tables_of(level).own_motion(0, [t]).offset[0]
    assert offset == pytest.approx([expected.x, expected.y], abs=1e-6)


@given(st.lists(st.tuples(st.floats(0.1, 5), *[st.floats(-100, 100)] * 2), min_size=3, max_size=12), st.booleans())
def test_a_spline_is_the_one_of_another_library(steps, closed):
    at, points = np.cumsum([step for step, *_ in steps]), np.array([place for _, *place in steps])
    if closed:
        points[-1] = points[0]
    own, other = Spline(at, points, closed=closed), CubicSpline(at, points, bc_type="periodic" if closed else "natural")
    t = np.linspace(at[0], at[-1], 60).reshape(4, 15)
    assert own(t) == pytest.approx(other(t), abs=1e-7)
    assert own.slope(t) == pytest.approx(other(t, 1), abs=1e-7)


@settings(max_examples=60)
@given(stops=st.lists(PLACES, min_size=2, max_size=6, unique=True), mode=st.sampled_from(["loop", "shuttle", "once"]))
def test_smooth_ways_meet_their_stops_and_are_gone_along_evenly(stops, mode):
    route = Route(stops=[list(stop) for stop in stops], speed=50, pause=0.25, mode=mode, curve="smooth")
    way = way_of(route)
    for leg in way.legs:
        knots = way.knots[leg.first_knot : leg.first_knot + leg.knots]
        assert knots[0, :2] == pytest.approx([leg.x, leg.y], abs=1e-9)
        assert knots[-1, :2] == pytest.approx([leg.x + leg.dx, leg.y + leg.dy], abs=1e-9)
        assert leg.duration == pytest.approx(leg.length / 50)
        # As long as a piece are its tangents, but where the curve stands to go straight back; no chord is longer.
        piece = leg.length / (leg.knots - 1)
        tangents = np.hypot(*knots[:, 2:].T)
        assert np.all((np.abs(tangents - piece) < 1e-9 * piece) | (tangents == 0.0))
        chords = np.hypot(*np.diff(knots[:, :2], axis=0).T)
        assert chords.max() <= piece * 1.001
        assert leg.length * 0.9 <= chords.sum() <= leg.length * 1.001
    level = haptos.Level(pieces=[{"name": "lift", "at": [0, 0], "shape": {"circle": 4}, "route": route}])
    ends = [leg.begin + leg.pause + leg.duration - 1e-9 for leg in way.legs]
    found = pose_tables_of(level).own_motion(0, ends)
    assert found.offset == pytest.approx(np.array([[leg.x + leg.dx, leg.y + leg.dy] for leg in way.legs]), abs=1e-6)


@settings(max_examples=25)
@given(shape=SHAPES, body=BODIES, angle=st.integers(-179, 180), one_way=st.booleans())
def test_outlines_of_what_has_turned_are_those_of_what_was_placed_so(shape, body, angle, one_way):
    piece = {"name": "piece", "at": [40, 30], "shape": shape}
    if one_way and "line" not in shape:
        piece["solid_from"] = "above"
    player = {"at": [0, 3000], "shape": body}
    simulation = haptos.Simulation(haptos.Level(player=player, pieces=[{**piece, "spin": {"speed": angle or 1}}]))
    placed = compile_level(haptos.Level(player=player, pieces=[{**piece, "turn": angle or 1}]))
    simulation.step(ticks=60)
    # Put somewhere after a second, everything is brought to its pose.
    simulation.place(0, 3000)
    state = simulation.state
    count = len(placed.tables.solids.outlines)
    for index in range(count):
        ours, theirs = state.outlines[index], placed.tables.solids.outlines[index]
        for name in ("x0", "y0", "x1", "y1", "radius", "side_x", "side_y"):
            assert ours[name] == pytest.approx(theirs[name], abs=1e-9), name
        assert polygon_of(ours, state.faces).symmetric_difference(
            polygon_of(theirs, placed.tables.solids.faces)
        ).area == pytest.approx(0, abs=1e-6)  # fmt: skip


def polygon_of(outline, faces) -> shapely.Geometry:
    rows = faces[outline["first"] : outline["first"] + outline["count"]]
    return shapely.MultiPoint(np.column_stack((rows["x"], rows["y"]))).convex_hull


@settings(max_examples=25)
@given(
    target=SHAPES, shot=SHAPES, turn=st.integers(0, 359), y=st.integers(-12, 12), spin=st.sampled_from([0, 90, -400])
)
def test_a_shot_breaks_where_other_geometry_says_that_both_touch(target, shot, turn, y, spin):
    assume("line" not in target and "line" not in shot)
    drift = {"velocity": [300, 0], "spin": spin}
    kinds = {"shot": {"layer": "shot", "shape": shot, "drift": drift, "fragile": {"on": ["terrain"]}}}
    pieces = [
        {"name": "gun", "at": [0, y], "spawner": {"kind": "shot", "every": 100, "limit": 1}},
        {"name": "target", "at": [150, 0], "turn": turn, "shape": target},
    ]
    level = haptos.Level(player={"at": [0, 500]}, kinds=kinds, pieces=pieces)
    run = haptos.simulate(level, "wait 1 s")
    broke = [row for row in run.event_rows if row.event == "vanish"]
    still, flying = (_shape(shape) for shape in (target, shot))
    still = shapely.affinity.translate(shapely.affinity.rotate(still, turn, (0, 0)), 150, 0)

    def gap(t: float) -> float:
        turned = shapely.affinity.rotate(flying, spin * t, (0, 0))
        return shapely.affinity.translate(turned, 300 * t, y).distance(still)

    # In a step of these times the shot goes 0.3 px. Round shapes are polygons there, which miss by up to a hundredth.
    times = np.linspace(0, 1, 1001)
    if not broke:
        assert min(map(gap, times)) > 0
        return
    assert gap(broke[0].t) == pytest.approx(0, abs=0.02)
    assert all(gap(t) > 0 for t in times if t < broke[0].t - 1e-3)


def _shape(shape: dict) -> shapely.Geometry:
    if "circle" in shape:
        return shapely.Point(0, 0).buffer(shape["circle"], quad_segs=64)
    if "polygon" in shape:
        return shapely.Polygon(shape["polygon"])
    width, height = shape.get("box") or shape["capsule"]
    if "box" in shape:
        return shapely.box(-width / 2, -height / 2, width / 2, height / 2)
    return shapely.LineString([(-(width - height) / 2, 0), ((width - height) / 2, 0)]).buffer(height / 2, quad_segs=64)


def test_what_one_spawner_draws_does_not_depend_on_another():
    spark = {"layer": "hazard", "shape": {"circle": 4}, "drift": {}}
    one = {"name": "one", "at": [0, 0], "spawner": {"kind": "spark", "every": [0.1, 0.4], "area": [90, 90], "lasts": 1}}
    other = {**one, "name": "second", "spawner": {**one["spawner"], "every": 0.05}}
    made = []
    for pieces in ([one], [one, other]):
        run = haptos.simulate(haptos.Level(player={"at": [0, 500]}, kinds={"spark": spark}, pieces=pieces), "wait 3 s")
        made.append([(row.t, row.x, row.y) for row in run.event_rows if row.event == "spawn" and row.who == "one"])
    assert made[0] == made[1]
    assert len(made[0]) >= 8


@pytest.mark.parametrize(
    ("facet", "message"),
    [
        ({"route": {"stops": [[0, 0]], "speed": 5}}, r"route: found 1 stops, expected two or more"),
        (
            {"route": {"stops": [[0, 0], [5, 0]], "speed": 5, "pause": -1}},
            r"route\.pause: found -1, expected a time of 0",
        ),
        (
            {"route": {"stops": [[0, 0], [5, 0]], "leg_times": [0]}},
            r"route\.leg_times.*: found 0, expected a time above 0",
        ),
        (
            {"route": {"stops": [[0, 0], [60, 0], [20, 0]], "speed": 5, "curve": "smooth", "turns": True}},
            r"route: found turns with a curve that goes sharply back near \(5\d\.\d+, 0\), expected stops",
        ),
        ({"spin": {"speed": "5 px"}}, r"spin\.speed: found '5 px', expected an angular speed such as '0\.2 turn/s'"),
        ({"crumble": {"delay": -0.1}}, r"crumble\.delay: found -0\.1, expected a time of 0 or more"),
        ({"crumble": {"dealy": 1}}, r"unknown key 'dealy' \(did you mean 'delay'\?\)"),
        ({"drift": {"on_exit": "wrapp"}}, r"drift\.on_exit: found 'wrapp', expected .* \(did you mean 'wrap'\?\)"),
        ({"spawner": {"every": 1}}, r"spawner\.kind: found no kind"),
    ],
)
def test_bad_motion_says_where_and_what_is_wanted(facet, message):
    with pytest.raises(haptos.LevelError, match=message) as error:
        haptos.simulate(haptos.Level(pieces=[{"name": "piece", "at": [0, 0], "shape": {"box": [9, 9]}, **facet}]))
    assert "pieces[0] 'piece'" in str(error.value)
