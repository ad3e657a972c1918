"""Loose bodies against closed forms: collisions, momentum, slopes, rolling, bounces, stacks, thin walls."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos

G = 1800.0
SHAPES = {"circle": {"circle": 10}, "box": {"box": [20, 20]}, "capsule": {"capsule": [20, 30]}}
FLOOR = {"name": "floor", "at": [0, -8], "shape": {"box": [4000, 16]}}
FAR = {"at": [-1500, 14]}


def level_of(pieces, player=FAR, **more):
    world = {"gravity": [0, -G], **more.pop("world", {})}
    return haptos.Level(world=world, player=player, pieces=pieces, **more)


def track_of(run, name):
    return run.pieces[run.pieces["piece"] == name].reset_index(drop=True)


def state_of(simulation):
    loose = simulation.compiled.tables.loose.bodies
    return loose, simulation.state.partakers[: len(loose)]


@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize("rate", [30, 60, 240])
@pytest.mark.parametrize("bounce", [0.0, 0.5, 1.0])
def test_two_that_meet_part_as_newton_says(shape, rate, bounce):
    light, heavy, speed = 1.0, 3.0, 200.0
    body = {"restitution": bounce, "friction": 0}
    level = level_of(
        [
            {
                "name": "a",
                "at": [-60.3, 0],
                "shape": SHAPES[shape],
                "body": {**body, "mass": light, "velocity": [200, 0]},
            },
            {"name": "b", "at": [0, 0], "shape": SHAPES[shape], "body": {**body, "mass": heavy}},
        ],
        world={"view": "top", "tick_rate": rate},
    )
    run = haptos.simulate(level, "wait 1 s")
    a, b = track_of(run, "a"), track_of(run, "b")
    assert a.vx.iloc[-1] == pytest.approx(speed * (light - bounce * heavy) / (light + heavy), abs=1e-9)
    after = speed * light * (1 + bounce) / (light + heavy)
    assert b.vx.iloc[-1] == pytest.approx(after, abs=1e-9)
    met = (60.3 - 20.0) / speed
    assert b.x.iloc[-1] == pytest.approx(after * (1 - met), abs=1e-9)
    (touch,) = run.events.query("event == 'touch' and who == 'b'").itertuples()
    assert touch.t == pytest.approx(met, abs=1e-9)
    assert touch.amount == pytest.approx(heavy * after, rel=1e-9)


def test_a_free_system_keeps_its_momentum_and_the_moment_of_it():
    chance = np.random.default_rng(1)
    forms = list(SHAPES.values())
    pieces = []
    for index in range(25):
        x, y = 60.0 * (index % 5 - 2) + chance.uniform(-5, 5), 60.0 * (index // 5 - 2) + chance.uniform(-5, 5)
        velocity = [chance.uniform(-100, 100) - 1.5 * x, chance.uniform(-100, 100) - 1.5 * y]
        body = {"mass": chance.uniform(1, 10), "velocity": velocity, "spin": chance.uniform(-300, 300)}
        pieces.append(
            {"name": f"b{index}", "at": [x, y], "shape": forms[index % 3],
             "body": {**body, "restitution": 0.9, "friction": 0.3}}
        )  # fmt: skip
    simulation = haptos.Simulation(level_of(pieces, world={"view": "top"}))

    def moments():
        loose, rows = state_of(simulation)
        mass, x, y, vx, vy = loose["mass"], rows["x"], rows["y"], rows["vx"], rows["vy"]
        return np.array([mass @ vx, mass @ vy, mass @ (x * vy - y * vx) + loose["inertia"] @ rows["spin"]])

    simulation.step("", 1)
    loose, rows = state_of(simulation)
    scale = loose["mass"] @ np.hypot(rows["vx"], rows["vy"])
    scales = np.array(
        [scale, scale, loose["mass"] @ (np.hypot(rows["vx"], rows["vy"]) * np.hypot(rows["x"], rows["y"]))]
    )
    before = moments()
    simulation.step("", 9999)
    assert (simulation.run.events["event"] == "touch").sum() > 20
    assert np.abs((moments() - before) / scales).max() < 1e-9


@pytest.mark.parametrize("friction", [0.2, 0.5, 0.9])
def test_a_box_rests_on_a_slope_as_long_as_friction_holds_it(friction):
    def slide(angle, seconds):
        turn = math.radians(angle)
        away = 35.0
        level = level_of(
            [
                {"name": "slope", "at": [0, 0], "shape": {"box": [4000, 40]}, "turn": angle},
                {"name": "box", "at": [-math.sin(turn) * away, math.cos(turn) * away], "shape": {"box": [30, 30]},
                 "turn": angle, "body": {"friction": friction}},
            ]
        )  # fmt: skip
        run = track_of(haptos.simulate(level, f"wait {seconds} s"), "box")
        return np.hypot(run.x - run.x[0], run.y - run.y[0]).iloc[-1], np.hypot(run.vx, run.vy)

    edge = math.degrees(math.atan(friction))
    assert slide(edge - 0.2, 3)[0] < 0.2
    assert slide(edge + 0.2, 3)[0] > 20
    turn = math.radians(edge + 10)
    speed = slide(edge + 10, 1)[1]
    gained = (speed.iloc[60] - speed.iloc[30]) / 0.5
    assert gained == pytest.approx(G * (math.sin(turn) - friction * math.cos(turn)), rel=1e-3)


@pytest.mark.parametrize("angle", [-20, 5, 20])
def test_a_disc_rolls_down_at_two_thirds_of_the_slope(angle):
    turn = math.radians(angle)
    ball = {"name": "ball", "at": [-math.sin(turn) * 35, math.cos(turn) * 35], "shape": {"circle": 15}}
    level = level_of(
        [
            {"name": "slope", "at": [0, 0], "shape": {"box": [4000, 40]}, "turn": angle},
            {**ball, "body": {"friction": 0.9}},
        ]
    )
    run = track_of(haptos.simulate(level, "wait 1 s"), "ball")
    speed = np.hypot(run.vx, run.vy)
    assert (speed[60] - speed[20]) / (40 / 60) == pytest.approx(2 / 3 * G * abs(math.sin(turn)), rel=1e-3)
    # It does not slip.
    assert abs(math.radians(run.spin[60])) * 15 == pytest.approx(speed[60], rel=1e-3)


@settings(max_examples=15, deadline=None)
@given(st.floats(0.3, 1.0), st.floats(60, 400), st.sampled_from([30, 60, 120]))
def test_a_ball_comes_back_to_the_square_of_its_restitution(bounce, height, rate):
    ball = {"name": "ball", "at": [0, 10 + height], "shape": {"circle": 10}, "body": {"restitution": bounce}}
    run = haptos.simulate(level_of([FLOOR, ball], world={"tick_rate": rate}), "wait 1.5 s")
    # The event is the exact time; half a flight later it would be back at the top.
    first = run.events.query("event == 'touch' and who == 'ball'").iloc[0]
    assert first.t == pytest.approx(math.sqrt(2 * height / G), abs=2e-5)
    after = track_of(run, "ball")
    after = after[after.t > first.t].iloc[0]
    speed = bounce * math.sqrt(2 * G * height)
    assert after.vy == pytest.approx(speed - G * (after.t - first.t), abs=2e-3 * speed)


@pytest.mark.parametrize("form", ["stack", "pyramid"])
def test_what_is_stacked_stands_and_sleeps(form):
    places = [(0.3 * (index % 3 - 1), 15 + 30.2 * index) for index in range(10)]
    if form == "pyramid":
        places = [(31 * (k - (4 - row) / 2), 15.1 + 30 * row) for row in range(5) for k in range(5 - row)]
    boxes = [
        {"name": f"b{index}", "at": list(place), "shape": {"box": [30, 30]}, "body": {}}
        for index, place in enumerate(places)
    ]
    run = haptos.simulate(level_of([FLOOR, *boxes]), "wait 60 s")
    slept = run.events[run.events.event == "sleep"]
    assert set(slept.who) == {box["name"] for box in boxes}
    assert slept.t.max() < 3
    assert not (run.events.event == "wake").any()
    for box in boxes:
        last = track_of(run, box["name"]).iloc[-1]
        assert math.hypot(last.x - box["at"][0], last.y - box["at"][1]) < 4
        assert abs(last.angle) < 0.5


@pytest.mark.parametrize("shape", [{"circle": 5}, {"box": [10, 10]}, {"capsule": [6, 20]}], ids=str)
@pytest.mark.parametrize("spin", [0, 500])
def test_nothing_passes_a_plank_one_unit_thick(shape, spin):
    for offset in np.linspace(0, 333, 9):
        wall = {"name": "wall", "at": [0, 0], "shape": {"box": [1, 20000]}}
        shot = {"name": "shot", "at": [-700 + float(offset), 0], "shape": shape}
        body = {"velocity": [20000, 0], "spin": spin, "friction": 0.2}
        run = haptos.simulate(level_of([wall, {**shot, "body": body}], world={"view": "top"}), "wait 0.3 s")
        assert track_of(run, "shot").x.max() < 0


@pytest.mark.parametrize("shape", [{"box": [40, 2]}, {"polygon": [[0, 0], [40, 0], [0, 3]]}], ids=str)
@pytest.mark.parametrize("speed", [5000, 10000, 20000])
@pytest.mark.parametrize("spin", [2000, -5000])
def test_a_thin_board_that_spins_does_not_pass_it_either(shape, speed, spin):
    wall = {"name": "wall", "at": [0, 0], "shape": {"box": [1, 20000]}}
    for offset in (0, 61.7, 133.3):
        shot = {"name": "shot", "at": [-700 + offset, 0], "shape": shape}
        body = {"velocity": [speed, 0], "spin": spin, "friction": 0.2}
        run = haptos.simulate(level_of([wall, {**shot, "body": body}], world={"view": "top"}), "wait 0.4 s")
        assert track_of(run, "shot").x.max() < 0


@pytest.mark.parametrize("rate", [30, 60, 240])
@pytest.mark.parametrize("shape", SHAPES)
def test_who_is_struck_asleep_goes_on_from_that_moment(shape, rate):
    # The ball is gone from the sleeper in less than a tick: e = 1, the wall beside the sleeper throws it back.
    sleeper = {"mass": 4, "restitution": 1, "friction": 0}
    half = SHAPES[shape].get("circle") or SHAPES[shape].get("box", SHAPES[shape].get("capsule"))[0] / 2
    level = level_of(
        [
            {"name": "wall", "at": [100 + half + 10, 0], "shape": {"box": [20, 200]}},
            {"name": "sleeper", "at": [100, 0], "shape": SHAPES[shape], "body": sleeper},
            {"name": "ball", "at": [-200, 0], "shape": {"circle": 10}, "body": sleeper | {"mass": 1}},
        ],
        world={"view": "top", "tick_rate": rate},
    )
    run = haptos.simulate(level, "wait 1 s, shove ball by 1000,0, wait 1 s")
    meets = 1 + (300 - half - 10) / 1000
    woken, touch = (run.events.query(f"event == '{event}'").iloc[-1] for event in ("wake", "touch"))
    assert run.events.query("event == 'sleep'").who.tolist() == ["sleeper"]
    assert woken.who == "sleeper"
    assert woken.t == pytest.approx(meets, abs=1e-9) == touch.t
    track, ball = track_of(run, "sleeper").iloc[-1], track_of(run, "ball").iloc[-1]
    assert track.vx == pytest.approx(-400, abs=1e-6)
    assert ball.vx == pytest.approx(-600, abs=1e-6)
    assert track.x == pytest.approx(100 - 400 * (2 - meets), abs=1e-6)
    assert ball.x == pytest.approx(100 - half - 10 - 600 * (2 - meets), abs=1e-6)


def test_no_joint_of_tiles_is_felt():
    tiles = [{"name": f"t{index}", "at": [16 * index - 400, -8], "shape": {"box": [16, 16]}} for index in range(80)]
    crate = {"name": "crate", "at": [-300, 16], "shape": {"box": [32, 32]}}
    ball = {"name": "ball", "at": [-380, 10], "shape": {"circle": 10}}
    run = haptos.simulate(
        level_of([*tiles, {**crate, "body": {"velocity": [600, 0], "friction": 0.05}},
                  {**ball, "body": {"velocity": [300, 0], "friction": 0.5}}]),
        "wait 1 s",
    )  # fmt: skip
    crate, ball = track_of(run, "crate").iloc[-1], track_of(run, "ball").iloc[-1]
    assert crate.vx == pytest.approx(600 - 0.05 * G, rel=1e-2)
    assert crate.x == pytest.approx(-300 + 600 - 0.5 * 0.05 * G, abs=1.5)
    # Sliding becomes rolling at two thirds of the speed.
    assert ball.vx == pytest.approx(200, rel=1e-2)


def test_belts_lifts_and_launchers_take_bodies_along():
    crate = {"name": "crate", "shape": {"box": [20, 20]}, "at": [0, 10], "body": {}}
    belt = {"name": "belt", "at": [0, -8], "shape": {"box": [1000, 16]}, "surface": {"conveyor": 100}}
    assert track_of(haptos.simulate(level_of([belt, crate]), "wait 1 s"), "crate").vx.iloc[-1] == pytest.approx(
        100, abs=0.1
    )
    lift = {
        "name": "lift",
        "at": [0, -8],
        "shape": {"box": [99, 16]},
        "route": {"stops": [[0, 0], [0, 90]], "speed": 60},
    }
    run = haptos.simulate(level_of([lift, crate]), "wait 1 s")
    assert track_of(run, "crate").y.iloc[-1] == pytest.approx(70, abs=0.1)
    assert "board" in set(run.events[run.events.who == "crate"].event)
    thrower = {"name": "awning", "at": [0, -8], "shape": {"box": [99, 16]}, "launch": {"height": 120}}
    run = haptos.simulate(level_of([thrower, {**crate, "at": [0, 40]}]), "wait 1 s")
    assert track_of(run, "crate").y.max() == pytest.approx(130, abs=2)


def test_a_one_way_shelf_lets_a_body_up_and_holds_it_then():
    shelf = {"name": "shelf", "at": [0, 80], "shape": {"box": [200, 8]}, "solid_from": "above"}
    crate = {"name": "crate", "at": [0, 20], "shape": {"box": [20, 20]}, "body": {"velocity": [0, 700]}}
    run = track_of(haptos.simulate(level_of([FLOOR, shelf, crate]), "wait 1.5 s"), "crate")
    assert run.y.max() == pytest.approx(20 + 700**2 / (2 * G), abs=1)
    assert run.y.iloc[-1] == pytest.approx(94, abs=0.1)


def test_fields_and_edges_act_on_bodies():
    crate = {"name": "crate", "at": [0, 50], "shape": {"box": [20, 20]}, "body": {}}
    wind = {"name": "wind", "at": [0, 200], "shape": {"box": [200, 600]}, "field": {"push": [0, 2500]}}
    run = track_of(haptos.simulate(level_of([wind, crate]), "wait 0.5 s"), "crate")
    assert run.y.iloc[-1] == pytest.approx(50 + 0.5 * 700 * 0.25, abs=1e-6)
    flip = {"name": "gate", "at": [0, 200], "shape": {"box": [200, 600]}, "field": {"gravity": {"flip": True}}}
    run = track_of(haptos.simulate(level_of([flip, crate]), "wait 0.4 s"), "crate")
    assert run.vy.iloc[-1] == pytest.approx(0.4 * G, abs=1e-6)
    bounds = {"corners": [-100, -100, 100, 300], "left": "wrap", "right": "wrap", "top": "open", "bottom": "lost"}
    wide = haptos.simulate(
        level_of([{**crate, "body": {"velocity": [600, 0]}}], world={"bounds": bounds, "lost_below": -90}), "wait 1 s"
    )
    happened = wide.events[wide.events.who == "crate"].event.tolist()
    assert happened.count("wrap") == 1
    assert happened[-1] == "lost"


def test_an_hour_of_shaking_keeps_everything_within_its_walls():
    chance = np.random.default_rng(3)
    shapes = [{"box": [20, 20]}, {"circle": 11}, {"capsule": [14, 26]}, {"box": [34, 12]}]
    bodies = [
        {"name": f"b{k}", "at": [40.0 * (k % 7) - 120, 120 + 40.0 * (k // 7)], "shape": shapes[k % 4],
         "body": {"restitution": float(chance.uniform(0, 0.6))}}
        for k in range(25)
    ]  # fmt: skip
    shaker = {"name": "shaker", "at": [0, -60], "shape": {"box": [180, 20]}}
    route = {"stops": [[-40, 0], [40, 60]], "speed": 240, "ease": True}
    bounds = {"corners": [-160, -100, 160, 500], "left": "wall", "right": "wall", "top": "wall", "bottom": "wall"}
    level = level_of([{**shaker, "route": route}, *bodies], world={"bounds": bounds}, player={"at": [0, 470]})
    simulation = haptos.Simulation(level)
    for _ in range(20):
        simulation.step("", 180)
        _, rows = state_of(simulation)
        assert np.isfinite(rows["vx"]).all()
        assert (np.abs(rows["x"]) < 160).all()
        assert ((rows["y"] > -100) & (rows["y"] < 500)).all()
