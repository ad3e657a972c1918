"""The player among loose bodies: it pushes with its force, stands, jumps, kicks, is struck, squeezed and carried."""

from __future__ import annotations

import math

import numpy as np
import pytest

import haptos

G = 1800.0
FLOOR = {"name": "floor", "at": [0, -8], "shape": {"box": [4000, 16]}}
SHAPES = [{"capsule": [14, 28]}, {"box": [14, 28]}, {"circle": 14}]


def play(*pieces, cues, player=None, world=None, **more):
    level = haptos.Level(
        world={"gravity": [0, -G], **(world or {})}, player={"at": [-60, 14], **(player or {})},
        pieces=[FLOOR, *pieces], **more,
    )  # fmt: skip
    run = haptos.simulate(level, cues)
    assert not len(run.events[run.events.event == "stall"])
    return run


def crate_of(mass=30, at=(0, 16), **more):
    return {"name": "crate", "at": list(at), "shape": {"box": [32, 32]}, "body": {"mass": mass}, **more}


def track_of(run, name):
    return run.pieces[run.pieces["piece"] == name].reset_index(drop=True)


@pytest.mark.parametrize("shape", SHAPES, ids=str)
@pytest.mark.parametrize("way", ["right", "left"])
def test_a_crate_is_pushed_by_more_than_its_friction_and_by_no_less(shape, way):
    sense = 1 if way == "right" else -1

    def push(share):
        player = {"at": [-60 * sense, 14], "shape": shape, "push": {"force": share * 0.5 * 30 * G}}
        run = play(crate_of(), cues=f"{way} 1.5 s", player=player)
        return sense * track_of(run, "crate"), run

    assert push(0.5)[0].x.abs().max() < 0.3
    assert push(0.95)[0].x.abs().max() < 0.5
    assert push(0.95)[0].vx.iloc[-1] == pytest.approx(0, abs=0.1)
    crate, run = push(1.1)
    touched = run.events.query("event == 'touch' and piece == 'crate'").t.iloc[0]
    assert crate.vx.iloc[-1] == pytest.approx(0.1 * 0.5 * G * (1.5 - touched), rel=0.12)
    crate, run = push(3)
    assert crate.vx.iloc[-1] == pytest.approx(150, abs=0.5)
    # One touch, while it is pushed.
    assert (run.events.query("piece == 'crate'").event == "touch").sum() == 1


def test_what_is_too_heavy_is_a_wall_and_the_force_is_shared():
    run = play(crate_of(mass=2000), cues="right 1.5 s", player={"push": {"force": 1000}})
    assert track_of(run, "crate").x.abs().max() < 0.1
    assert run.track.x.iloc[-1] == pytest.approx(-23, abs=0.2)


@pytest.mark.parametrize("shape", SHAPES, ids=str)
@pytest.mark.parametrize("rate", [30, 60, 240])
def test_on_ice_nothing_but_mass_stops_what_comes_at_the_player(shape, rate):
    ice = {**FLOOR, "surface": {"friction": 0}}
    crate = crate_of(mass=120, at=(100, 16))
    crate["body"] |= {"friction": 0, "velocity": [-90, 0]}
    player = {"at": [0, 14], "shape": shape, "mass": 60}
    level = haptos.Level(world={"gravity": [0, -G], "tick_rate": rate}, player=player, pieces=[ice, crate])
    run = haptos.simulate(level, "wait 1.2 s")
    # Both go on at m v / (m + M), and its feet find nothing to brake or to push with.
    assert track_of(run, "crate").vx.iloc[-1] == pytest.approx(-60, rel=1e-4)
    assert run.track.vx.iloc[-1] == pytest.approx(-60, rel=1e-4)
    assert track_of(haptos.simulate(level, "wait 1.1 s, right 1 s"), "crate").vx.iloc[-1] == pytest.approx(
        -60, rel=1e-4
    )


@pytest.mark.parametrize("shape", SHAPES, ids=str)
@pytest.mark.parametrize("rate", [30, 240])
@pytest.mark.parametrize(("mass", "rubs"), [(30, 0), (240, 0), (40, 0.025)])
def test_feet_that_slip_share_their_grip_between_the_player_and_its_crate(shape, rate, mass, rubs):
    slippery = {**FLOOR, "surface": {"friction": 0.1}}
    crate = crate_of(mass=mass, at=(-30 if "circle" in shape else -23, 16))
    crate["body"]["friction"] = rubs
    player = {"at": [0, 14], "shape": shape, "mass": 60}
    level = haptos.Level(world={"gravity": [0, -G], "tick_rate": rate}, player=player, pieces=[crate, slippery])
    run = haptos.simulate(level, "left 0.4 s")
    # Both get faster by what the feet hold, less what the crate rubs on the floor, over both masses.
    speed = -0.4 * G * (0.1 * 60 - math.sqrt(0.1 * rubs) * mass) / (60 + mass)
    assert run.track.vx.iloc[-1] == pytest.approx(speed, rel=2e-2 if rubs else 1e-3)
    assert track_of(run, "crate").vx.iloc[-1] == pytest.approx(speed, rel=2e-2 if rubs else 1e-3)


@pytest.mark.parametrize("view", ["side", "top"])
def test_who_slides_into_a_crate_goes_on_with_it(view):
    ice = {"name": "ice", "at": [430, -8], "shape": {"box": [800, 16]}, "surface": {"friction": 0}}
    plain = {"name": "plain", "at": [-470, -8], "shape": {"box": [1000, 16]}}
    crate = crate_of(mass=120, at=(130, 16))
    crate["body"]["friction"] = 0
    if view == "top":
        ice, plain, crate["at"] = {**ice, "at": [430, 0], "shape": {"box": [800, 400]}}, None, [130, 0]
    player = {"at": [-60, 0 if view == "top" else 14], "mass": 60}
    world = {"view": "top"} if view == "top" else {"gravity": [0, -G]}
    pieces = [piece for piece in (plain, ice, crate) if piece]
    run = haptos.simulate(haptos.Level(world=world, player=player, pieces=pieces), "right 2 s")
    before = run.track.vx.max()
    assert run.track.vx.iloc[-1] == pytest.approx(before * 60 / 180, rel=1e-6)
    assert track_of(run, "crate").vx.iloc[-1] == pytest.approx(before * 60 / 180, rel=1e-6)


def test_a_ball_is_kicked_at_the_players_own_speed():
    ball = {"name": "ball", "at": [0, 8], "shape": {"circle": 8}, "body": {"mass": 1, "friction": 0}}
    run = play(ball, cues="right 1 s, left 0.5 s")
    ball = track_of(run, "ball")
    assert ball.vx.iloc[-1] == pytest.approx(150, rel=0.02)
    assert run.events.query("event == 'touch' and piece == 'ball'").t.iloc[0] == pytest.approx(0.342, abs=0.02)


def test_standing_on_a_seesaw_presses_it_down_and_jumping_off_kicks_it():
    board = {"name": "board", "at": [0, 20], "shape": {"box": [160, 8]}, "body": {"mass": 20}}
    run = play(
        {**board, "hinge": {"limits": [-10, 10]}}, cues="wait 1 s, jump 0.3 s, wait 0.5 s", player={"at": [60, 40]}
    )
    angle = track_of(run, "board").angle
    assert angle.iloc[59] == pytest.approx(-10, abs=0.3)
    assert run.track.support.iloc[59] == "board"


def test_a_landing_and_a_jump_give_their_impulse_to_what_they_are_made_on():
    plate = {"name": "raft", "at": [0, 200], "shape": {"box": [120, 8]}}
    raft = {**plate, "body": {"mass": 60, "gravity_factor": 0, "turns": False}}
    run = play(raft, cues="wait 0.3 s", player={"at": [0, 240]})
    landed = run.events.query("event == 'land' and piece == 'raft'").iloc[0]
    speed = math.sqrt(2 * G * landed.amount)
    after = track_of(run, "raft")
    after = after[after.t > landed.t].iloc[2]
    # Of two of one mass, each has half of it; in two more ticks the weight of the one moves both.
    assert after.vy == pytest.approx(-speed / 2 - 2 * G / 2 / 60, rel=1e-3)


@pytest.mark.parametrize("shape", [{"box": [60, 10]}, {"capsule": [60, 10]}], ids=str)
@pytest.mark.parametrize("off", [-25, 0, 20])
def test_a_bouncing_plank_gets_no_more_energy_than_the_landing_player_has(shape, off):
    drop, mass, player_mass = 100, 1.0, 60.0
    plank = {
        "name": "plank", "at": [0, 5.5], "shape": shape,
        "body": {"mass": mass, "restitution": 1, "spin": 40, "velocity": [0, 60]},
    }  # fmt: skip
    run = play(plank, cues="wait 1 s", player={"at": [off, 14 + drop], "mass": player_mass})
    assert (run.events.query("who == 'player' and event == 'land'").piece == "plank").any()
    path = track_of(run, "plank")
    kinetic = 0.5 * mass * (path.vx**2 + path.vy**2)
    assert kinetic.max() < player_mass * G * drop + 0.5 * mass * 60**2 + 1
    # So light a one is pressed into the floor for a moment, and comes out of it again.
    assert path.y.iloc[-1] > 0


def test_a_light_crate_on_the_head_is_held_and_a_heavy_one_crushes():
    run = play(crate_of(at=(-60, 120)), cues="wait 1.5 s")
    assert not len(run.events[run.events.event == "crush"])
    assert track_of(run, "crate").y.iloc[-1] == pytest.approx(44, abs=0.2)
    run = play(crate_of(mass=400, at=(-60, 120)), cues="wait 1.5 s", player={"health": {"lives": 2}})
    assert (run.events.event == "crush").sum() >= 1
    run = play(crate_of(mass=400, at=(-60, 120)), cues="wait 1.5 s", player={"crush": {"lethal": False, "points": 1}})
    assert run.track.health.iloc[-1] == 2
    hurts = crate_of(at=(-60, 120), harm={"points": 1}, layer="prop")
    assert play(hurts, cues="wait 1.5 s").track.health.min() < 3


def test_who_stands_on_a_crate_rides_it_and_presses_on_it():
    belt = {"name": "belt", "at": [0, -8], "shape": {"box": [3000, 16]}, "surface": {"conveyor": 80}}
    level = haptos.Level(world={"gravity": [0, -G]}, player={"at": [0, 60]}, pieces=[belt, crate_of(mass=60)])
    run = haptos.simulate(level, "wait 2 s")
    assert run.track.support.iloc[-1] == "crate"
    assert run.track.vx.iloc[-1] == pytest.approx(80, abs=0.5)
    assert "board" in set(run.events.event)


def test_a_plate_feels_bodies_and_the_player():
    plate = {"name": "plate", "at": [200, 2], "shape": {"box": [60, 4]}}
    rules = [
        {"when": "counter", "if": "plate.load > 50000", "once": True, "do": [{"say": "crate"}]},
        {"when": "counter", "if": "plate.load > 150000", "once": True, "do": [{"say": "both"}]},
    ]
    cues = "wait 1 s, wait until plate.load > 70000, right 0.85 s, right+jump 0.5 s, right 0.1 s, "
    cues += "wait until plate.load > 170000 within 3 s"
    run = play(plate, crate_of(mass=40, at=(200, 40)), rules=rules, cues=cues, player={"at": [-30, 14]})
    # 40 kg and 60 kg under a gravity of 1800.
    assert run.events[run.events.event == "say"].detail.tolist() == ["crate", "both"]
    assert "too_late" not in set(run.events.event)


def test_nothing_changes_for_a_player_whom_no_body_comes_near():
    cues = "right 0.7 s, right+jump 0.4 s, left 1 s"
    steps = [{"name": "step", "at": [120, 10], "shape": {"box": [40, 20]}}]
    alone = play(*steps, cues=cues)
    among = play(*steps, crate_of(at=(900, 200)), cues=cues)
    assert np.array_equal(alone.track_records["x"], among.track_records["x"])
    assert np.array_equal(alone.track_records["y"], among.track_records["y"])
    assert np.array_equal(alone.track_records["vx"], among.track_records["vx"])


def test_the_same_bits_alone_in_a_batch_and_from_a_snapshot():
    chance = np.random.default_rng(5)
    bodies = [
        {"name": f"b{k}", "at": [30.0 * (k % 5), 20 + 34 * (k // 5)],
         "shape": [{"box": [26, 26]}, {"circle": 13}][k % 2],
         "body": {"velocity": [float(chance.uniform(-50, 50)), 0]}}
        for k in range(20)
    ]  # fmt: skip
    level = haptos.Level(world={"gravity": [0, -G]}, player={"at": [-60, 14]}, pieces=[FLOOR, *bodies])

    def bits(run):
        columns = ["x", "y", "angle", "vx", "vy", "spin"]
        return run.pieces[columns].to_numpy().tobytes() + run.track_records.tobytes()

    cues = "right 1 s, right+jump 0.3 s, wait 0.5 s"
    alone = bits(haptos.simulate(level, cues))
    assert [bits(run) for run in haptos.simulate_many(level, ["left 1 s", cues, cues], threads=2)][1:] == [alone, alone]
    simulation = haptos.Simulation(level)
    simulation.step("right", 40)
    moment = simulation.snapshot()
    simulation.step("left", 30)
    simulation.restore(moment)
    simulation.step("right", 20)
    simulation.step("right+jump", 18)
    simulation.step("", 30)
    assert bits(simulation.run) == alone


@pytest.mark.parametrize("change", ["mirrored", "larger", "turned"])
def test_mirrored_larger_and_turned_scenes_go_the_same_way(change):
    sense, scale, angle = {"mirrored": (-1, 1, 0), "larger": (1, 3, 0), "turned": (1, 1, 90)}[change]

    def scene(sense, scale, angle):
        turn = math.radians(angle)
        cosine, sine = round(math.cos(turn), 12), round(math.sin(turn), 12)

        def place(x, y):
            x, y = sense * scale * x, scale * y
            return [x * cosine - y * sine, x * sine + y * cosine]

        pieces = [{"name": "floor", "at": place(0, -8), "shape": {"box": [2000 * scale, 16 * scale]}, "turn": angle}]
        for number, (x, y) in enumerate([(0, 16), (0.4, 49), (60, 16), (140, 80)]):
            shape = {"circle": 12 * scale} if number == 3 else {"box": [32 * scale, 32 * scale]}
            pieces.append(
                {"name": f"b{number}", "at": place(x, y), "shape": shape, "turn": angle, "body": {"mass": 20}}
            )
        player = {
            "at": place(-80, 14), "shape": {"capsule": [14 * scale, 28 * scale]}, "mass": 60,
            "gaits": {"walk": 150 * scale, "sprint": 300 * scale}, "push": {"force": 108000 * scale},
            "run": {"ground_accel": 1800 * scale, "ground_brake": 2400 * scale, "air_accel": 1200 * scale,
                    "air_brake": 300 * scale},
            "jump": {"height": 72 * scale}, "fall": {"terminal_speed": 900 * scale},
            "ground": {"step_height": 4 * scale, "snap": 4 * scale},
        }  # fmt: skip
        gravity = [1800 * scale * sine, -1800 * scale * cosine]
        level = haptos.Level(world={"gravity": gravity}, player=player, pieces=pieces)
        run = haptos.simulate(level, f"{'right' if sense > 0 else 'left'} 1.6 s, wait 0.4 s")
        table = run.pieces
        found = np.concatenate(
            [table[table.piece == f"b{number}"][["x", "y"]].to_numpy() for number in range(4)]
            + [run.track[["x", "y"]].to_numpy()]
        )
        back = np.column_stack((found[:, 0] * cosine + found[:, 1] * sine, found[:, 1] * cosine - found[:, 0] * sine))
        return back / scale * np.array([sense, 1])

    assert np.abs(scene(sense, scale, angle) - scene(1, 1, 0)).max() < 1e-6
