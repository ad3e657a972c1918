"""Gravity that is turned over, points elsewhere, or draws to a middle; and the body that stands up after it."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from tests.scenes import first, floor

BODIES = [{"circle": 14}, {"capsule": [14, 28]}, {"box": [14, 28]}]
TOOLS = st.sampled_from(["right", "left", "jump", "right+jump", "left+jump", "right+sprint", "wait", "up", "down"])


def field(name="field", at=(0, 0), size=(100, 400), **gravity) -> dict:
    return {"name": name, "at": list(at), "shape": {"box": list(size)}, "field": {"gravity": gravity}}


def upside_down(pieces: list[dict]) -> list[dict]:
    """Return pieces mirrored in y = 0."""
    sides = {"above": "below", "below": "above"}
    mirrored = []
    for piece in pieces:
        other = {**piece, "at": [piece["at"][0], -piece["at"][1]]}
        if "polygon" in piece["shape"]:
            other["shape"] = {"polygon": [[x, -y] for x, y in reversed(piece["shape"]["polygon"])]}
        if "solid_from" in piece:
            other["solid_from"] = sides[piece["solid_from"]]
        if "launch" in piece:
            other["launch"] = {**piece["launch"], "from": "below"}
        mirrored.append(other)
    return mirrored


STAGE = [
    {"name": "floor", "at": [0, -10], "shape": {"box": [2000, 20]}},
    {"name": "ramp", "at": [150, 0], "shape": {"polygon": [[0, 0], [120, 0], [120, 50]]}},
    {"name": "step", "at": [-120, 2], "shape": {"box": [60, 4]}},
    {"name": "shelf", "at": [-200, 50], "shape": {"box": [90, 6]}, "solid_from": "above"},
    {"name": "drum", "at": [350, 4], "shape": {"box": [40, 8]}, "launch": {"height": 90}},
    {"name": "wall", "at": [600, 100], "shape": {"box": [20, 200]}},
]


@settings(max_examples=20, deadline=None)
@given(
    holds=st.lists(st.tuples(TOOLS, st.integers(3, 40)), min_size=2, max_size=7), shape=st.sampled_from(BODIES),
    rate=st.sampled_from([60, 120]),
)  # fmt: skip
def test_on_the_ceiling_everything_is_as_on_the_floor(holds, shape, rate):
    cues = ", ".join(f"{held} {ticks / 60:.6f} s" for held, ticks in holds)
    # On a ceiling, up and down are what they are for the body.
    player = {"at": [0, 14], "shape": shape}
    over = {"name": "all", "at": [0, 0], "layer": "zone", "shape": {"box": [4000, 2000]}}
    # A field that changes nothing makes both runs of one sort.
    plain = haptos.Level(
        world={"tick_rate": rate}, player=player, pieces=[*STAGE, {**over, "field": {"push": [0, 1e-300]}}]
    )
    turned = haptos.Level(
        world={"tick_rate": rate}, player={**player, "at": [0, -14]},
        pieces=[*upside_down(STAGE), {**over, "field": {"gravity": {"flip": True}}}],
    )  # fmt: skip
    one, other = haptos.simulate(plain, cues).track, haptos.simulate(turned, cues).track
    assert np.abs(one.x - other.x).max() < 1e-9 * 28
    assert np.abs(one.y + other.y).max() < 1e-9 * 28
    assert (other.up_y[1:] == -1).all()
    assert (one.stance[1:] == other.stance[1:]).all()
    assert (one.facing == other.facing).all()
    assert (one.support[1:] == other.support[1:]).all()


def test_a_jump_on_the_ceiling_leaves_the_ceiling(flat):
    roof = {"name": "roof", "shape": {"corners": [-500, 200, 500, 220]}}
    run = haptos.simulate(flat([roof, field(size=(1000, 600), flip=True)]), "wait 1 s, jump 0.3 s, wait 1 s")
    flip = first(run, "flip")
    assert (flip.t, flip.piece) == (0, "field")
    assert first(run, "land").piece == "roof"
    apex = first(run, "apex")
    assert apex.y == pytest.approx(200 - 14 - 72)
    assert apex.amount == pytest.approx(72)


@pytest.mark.parametrize(
    ("lasts", "ups"),
    [("inside", [1, -1, 1, 1, -1, 1]), ("after", [1, -1, -1, -1, -1, -1]), ("toggle", [1, -1, -1, -1, 1, 1])],
)
def test_it_lasts_while_inside_or_afterwards_or_by_turns(lasts, ups):
    # Through one field and back through it, between floor and roof, all of it in reach of the walk.
    pieces = [
        {"name": "floor", "shape": {"corners": [-500, -20, 500, 0]}},
        {"name": "roof", "shape": {"corners": [-500, 40, 500, 60]}},
        field(at=(100, 20), size=(80, 60), flip=True, lasts=lasts),
    ]
    level = haptos.Level(player={"at": [0, 14], "shape": {"box": [14, 28]}}, pieces=pieces)
    track = haptos.simulate(level, "right 1.6 s, left 1.8 s").track
    inside = (track.x > 100 - 47 + 3) & (track.x < 100 + 47 - 3)
    spots = [
        track[(track.t < 0.3)], track[inside & (track.t < 1.2)], track[(track.x > 150) & (track.t < 1.6)],
        track[(track.x > 150) & (track.t > 1.65)], track[inside & (track.t > 1.8)], track[track.t > 3.2],
    ]  # fmt: skip
    assert [spot.up_y.iloc[len(spot) // 2] for spot in spots] == ups


def test_a_second_field_that_takes_turns_turns_back_what_the_first_turned_over():
    pieces = [
        {"name": "floor", "shape": {"corners": [-500, -20, 900, 0]}},
        {"name": "roof", "shape": {"corners": [-500, 60, 900, 80]}},
        field("one", at=(100, 30), size=(40, 60), flip=True, lasts="toggle"),
        field("two", at=(300, 30), size=(40, 60), flip=True, lasts="toggle"),
    ]
    level = haptos.Level(player={"at": [0, 14], "shape": {"box": [14, 28]}}, pieces=pieces)
    run = haptos.simulate(level, "right 2.5 s")
    turns = [(row.event, row.piece) for row in run.event_rows if row.event in ("flip", "tilt")]
    assert turns == [("flip", "one"), ("flip", "two")]
    assert [run.track[run.track.x > x].up_y.iloc[0] for x in (0, 180, 340)] == [1, -1, 1]
    # Right stays right, and the drawing is mirrored on the ceiling.
    assert (run.track.vx[10:] > 0).all()
    assert (run.track.flipped == (run.track.up_y < 0)).all()


def test_a_hand_on_a_ladder_holds_on_while_gravity_turns_over():
    pieces = [
        {"name": "floor", "shape": {"corners": [-500, -20, 900, 0]}},
        {"name": "roof", "shape": {"corners": [-500, 300, 900, 320]}},
        {"name": "rungs", "at": [0, 100], "shape": {"box": [20, 200]}, "ladder": {"top": False}},
        {"name": "shelf", "at": [100, 250], "shape": {"box": [60, 6]}, "solid_from": "below"},
        field("over", at=(0, 200), size=(900, 200), flip=True),
    ]
    level = haptos.Level(player={"at": [0, 14], "shape": {"box": [14, 28]}}, pieces=pieces)
    run = haptos.simulate(level, "up 1.4 s, wait 0.5 s, down+jump 0.1 s, wait 1 s")
    flip = first(run, "flip")
    # Let go, it falls to the roof; up to then it climbs on at 90 a second.
    climbing = run.track[run.track.stance == "ladder"]
    assert climbing.t.iloc[-1] > flip.t + 0.5
    assert np.diff(climbing.y[(climbing.t > flip.t) & (climbing.t < 1.35)]) == pytest.approx(90 / 60)
    assert run.track.support.iloc[-1] == "roof"
    assert run.track.up_y.iloc[-1] == -1


def test_of_several_the_higher_rank_holds_and_then_the_latest_entered():
    sideways = {"vector": [0, -900]}
    pieces = [
        {"name": "floor", "shape": {"corners": [-900, -20, 900, 0]}},
        {**field("low", at=(100, 50), size=(200, 200), vector=[0, -400])},
        {**field("late", at=(200, 50), size=(200, 200), **sideways)},
        {**field("high", at=(260, 50), size=(120, 200), vector=[0, -100])},
    ]
    pieces[3]["field"]["rank"] = 2
    level = haptos.Level(player={"at": [-40, 14], "shape": {"box": [14, 28]}}, pieces=pieces)
    simulation = haptos.Simulation(level)
    found = {}
    for x in (-40, 50, 150, 220, 290):
        simulation.place(x, 60)
        simulation.step(ticks=1)
        found[x] = -simulation.state.player["gravity_y"][0]
    assert found == {-40: 1800, 50: 400, 150: 900, 220: 100, 290: 100}


@pytest.mark.parametrize("shape", BODIES)
def test_where_gravity_points_to_the_side_the_wall_is_the_floor(shape):
    pieces = [
        {"name": "wall", "at": [210, 0], "shape": {"box": [20, 2000]}},
        field(size=(4000, 4000), vector=[1800, 0]),
    ]
    run = haptos.simulate(haptos.Level(player={"at": [0, 0], "shape": shape}, pieces=pieces), "wait 1 s, right 1 s")
    landed = first(run, "land")
    # Lying on its side it reaches 14 far, as far as it did standing: 186 from where it began, less a hair of its turn.
    assert (landed.piece, landed.t) == ("wall", pytest.approx(math.sqrt(2 * 186 / 1800), abs=2e-3))
    end = run.track.iloc[-1]
    assert (end.up_x, end.up_y, end.stance) == (pytest.approx(-1), pytest.approx(0, abs=1e-9), "ground")
    assert end.x == pytest.approx(200 - 14, abs=1e-6)
    # Right is up turned by -90 degrees: here, that is up the wall.
    assert end.vy == pytest.approx(150)


def test_the_terminal_speed_holds_along_gravity_in_every_direction():
    for angle in range(0, 360, 30):
        way = np.array([math.cos(math.radians(angle)), math.sin(math.radians(angle))])
        pieces = [field(size=(90000, 90000), vector=(2000 * way).tolist())]
        player = {"at": [0, 0], "shape": {"circle": 14}, "fall": {"terminal_speed": 700}}
        track = haptos.simulate(haptos.Level(player=player, pieces=pieces), "wait 1 s").track
        assert track[["vx", "vy"]].iloc[-1].to_numpy() == pytest.approx(700 * way, abs=1e-6)


def test_the_up_turns_as_fast_as_it_may_and_waits_where_there_is_no_room():
    pieces = [field(size=(4000, 4000), vector=[900, 0])]
    player = {"at": [0, 0], "shape": {"capsule": [14, 60]}, "turn_rate": 90}
    track = haptos.simulate(haptos.Level(player=player, pieces=pieces), "wait 1.5 s").track
    angle = np.degrees(np.arctan2(-track.up_x, track.up_y))
    assert angle.iloc[31] == pytest.approx(90 * 30 / 60, abs=1.6)
    assert angle.iloc[-1] == pytest.approx(90)
    shaft = [
        {"name": "left", "at": [-20, 0], "shape": {"box": [20, 900]}},
        {"name": "right", "at": [20, 0], "shape": {"box": [20, 900]}},
    ]
    level = haptos.Level(player={**player, "turn_rate": "none"}, pieces=[*pieces, *shaft])
    run = haptos.simulate(level, "wait 0.5 s")
    blocked = [row for row in run.event_rows if row.event == "turn_blocked"]
    assert len(blocked) == 1
    # It leans until both ends of its core, 46 apart, have used up the room of 20 - 14 between the walls.
    leans = np.degrees(np.arctan2(-run.track.up_x, run.track.up_y)).iloc[-1]
    assert leans == pytest.approx(np.degrees(np.arcsin(6 / 46)), abs=0.1)
    assert run.track.x.abs().max() <= 3 + 1e-6


def test_being_turned_over_begins_the_measure_of_a_fall_anew(flat):
    # 400 up, half of it in the field that turns it over, and back.
    roof = {"name": "roof", "shape": {"corners": [-500, 700, 500, 720]}}
    zone = field(at=(0, 350), size=(200, 100), flip=True, lasts="after")
    fall = {"harm_per_unit": 1, "safe_drop": 0, "terminal_speed": None}
    player = {"at": [0, 500], "fall": fall, "health": {"points": 1e6}}
    run = haptos.simulate(flat([roof, zone], player=player), "wait 3 s")
    flip = first(run, "flip")
    # Its lowest point is where it turns back; from there it falls to the roof.
    low = run.track.y.min()
    assert flip.y == pytest.approx(400 + 14)
    assert first(run, "hurt").amount == pytest.approx(700 - 14 - low, abs=0.5)


def test_a_checkpoint_keeps_the_gravity_and_a_restart_does_not(flat):
    roof = {"name": "roof", "shape": {"corners": [-500, 100, 500, 120]}}
    turn = field(at=(60, 50), size=(20, 100), flip=True, lasts="after")
    lamp = {"name": "lamp", "at": [160, 70], "shape": {"box": [20, 60]}, "checkpoint": {"respawn_at": [0, 16]}}
    thorn = {"name": "thorn", "at": [300, 95], "shape": {"box": [40, 10]}, "harm": {"lethal": True}}
    ups = {}
    for on_death in ("respawn", "restart"):
        player = {"on_death": on_death, "health": {"lives": 3}}
        run = haptos.simulate(flat([roof, turn, lamp, thorn], player=player), "right 2.0 s, wait 0.3 s")
        lost = first(run, "lost").t
        ups[on_death] = run.track[run.track.t > lost + 0.05].up_y.iloc[0]
    assert ups == {"respawn": -1, "restart": 1}


@pytest.mark.parametrize(
    ("gravity", "message"),
    [
        ({"flip": True, "vector": [0, 5]}, r"found flip and vector of flip, vector and toward, expected one of them"),
        ({}, r"found none of flip, vector and toward"),
        ({"flip": True, "strength": 5}, r"found strength with flip, expected it with toward alone"),
        ({"toward": True, "falloff": "linear"}, r"found falloff 'linear' without reference"),
        ({"vector": [0, 0]}, r"found vector \[0, 0\], expected some"),
        ({"toward": True, "lasts": "insde"}, r"lasts: found 'insde', .*did you mean 'inside'"),
    ],
)
def test_contradicting_gravity_says_where_and_what_is_wanted(gravity, message):
    with pytest.raises(haptos.LevelError, match=message) as error:
        haptos.Level(pieces=[field("pull", **gravity)])
    assert "pieces[0] 'pull', field.gravity" in str(error.value)


@settings(max_examples=15, deadline=None)
@given(
    turn=st.sampled_from([90, 180, 37]), holds=st.lists(st.tuples(TOOLS, st.integers(5, 40)), min_size=2, max_size=5),
    shape=st.sampled_from(BODIES),
)  # fmt: skip
def test_a_level_that_is_turned_has_the_same_run_turned(turn, holds, shape):
    cues = ", ".join(f"{held} {ticks / 60:.6f} s" for held, ticks in holds)
    cosine, sine = math.cos(math.radians(turn)), math.sin(math.radians(turn))

    def at(x: float, y: float) -> list[float]:
        return [x * cosine - y * sine, x * sine + y * cosine]

    def level(is_turned: bool) -> haptos.Level:
        place = at if is_turned else (lambda x, y: [x, y])
        way = turn if is_turned else 0
        pieces = [
            {"name": "floor", "at": place(0, -10), "turn": way, "shape": {"box": [600, 20]}},
            {"name": "globe", "at": place(200, 120), "shape": {"circle": 60}},
            {"name": "pull", "at": place(200, 120), "shape": {"circle": 140}, "layer": "zone",
             "field": {"gravity": {"toward": True, "strength": 1500}}},
            {"name": "over", "at": place(-150, 60), "turn": way, "shape": {"box": [80, 120]},
             "field": {"gravity": {"flip": True}}},
            {"name": "roof", "at": place(-150, 150), "turn": way, "shape": {"box": [300, 20]}},
        ]  # fmt: skip
        return haptos.Level(
            world={"gravity": place(0, -1800)}, player={"at": place(0, 14), "shape": shape}, pieces=pieces
        )

    one, other = haptos.simulate(level(False), cues).track, haptos.simulate(level(True), cues).track
    x, y = np.array([at(*row) for row in one[["x", "y"]].to_numpy()]).T
    # Round a globe the tick's chords and the snaps onto it are not exact: what is alike is so to a millionth.
    assert np.abs(other.x - x).max() < 1e-6 * 28
    assert np.abs(other.y - y).max() < 1e-6 * 28
    assert (one.stance == other.stance).all()


def test_a_flip_names_the_gate_that_turned_gravity_back_too():
    rooms = [floor(400), {"name": "ceiling", "shape": {"corners": [-400, 160, 400, 200]}}]
    gate = {"shape": {"box": [24, 60]}, "field": {"gravity": {"flip": True, "lasts": "toggle"}}}
    gates = [{**gate, "name": "gate", "at": [60, 30]}, {**gate, "name": "gate back", "at": [200, 130]}]
    rule = {"when": "flip", "piece": "gate back", "do": [{"say": "down again"}]}
    level = haptos.Level(player={"at": [0, 14]}, pieces=[*rooms, *gates], rules=[rule])
    run = haptos.simulate(level, 'right until flip "gate back" within 5 s')
    assert list(run.events[run.events["event"] == "flip"]["piece"]) == ["gate", "gate back"]
    assert run.says() == ["down again"]
