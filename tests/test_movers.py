"""Pieces on routes: where they are, whom they carry, what they push, when they crush."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from haptos.cli import main
from haptos.demo import demo_file
from tests.scenes import floor

FLOOR = floor(4000, 20)
BODY = {"shape": {"box": [14, 28]}}


def shaft(route, pieces=(), player=None, mover=None, **world) -> haptos.Level:
    """Return a level with a lift of 80 by 16, its top at 8, the player on it."""
    lift = {"name": "lift", "shape": {"box": [80, 16]}, "at": [0, 0], "route": route, **(mover or {})}
    return haptos.Level(world=world, player={"at": [0, 22], **BODY, **(player or {})}, pieces=[lift, *pieces])


def shuttled(t: np.ndarray, length: float, leg: float, pause: float, ease: bool) -> np.ndarray:
    """Return how far along a shuttle of two stops is, by arithmetic."""
    clock = np.fmod(t, 2 * (leg + pause))
    back = clock >= leg + pause
    share = np.clip((clock - pause - back * (leg + pause)) / leg, 0, 1)
    share = share * share * (3 - 2 * share) if ease else share
    return length * np.where(back, 1 - share, share)


@pytest.mark.parametrize("ease", [False, True])
def test_an_idle_body_keeps_its_place_on_a_lift_for_an_hour(ease):
    route = {"stops": [[0, 0], [60, 80]], "speed": 80, "pause": 0.25, "ease": ease}
    track = haptos.simulate(shaft(route), "wait 3600 s").track
    along = shuttled(track.t.to_numpy(), 100, 1.25, 0.25, ease)
    assert np.abs(track.x - 0.6 * along).max() < 1e-9 * 80
    assert np.abs(track.y - 22 - 0.8 * along).max() < 1e-9 * 80
    assert (track.support == "lift").all()


def test_a_loop_with_times_for_its_legs_and_a_way_that_is_gone_once():
    loop = {"stops": [[0, 0], [100, 0], [100, 50]], "leg_times": [1, 2, 0.5], "mode": "loop", "start": 0.5}
    pieces = haptos.simulate(shaft(loop), "wait 4 s").pieces.set_index("t")
    times = [0.0, 0.5, 1.5, 2.5, 2.75, 3.0, 3.5]
    assert pieces.loc[times, "x"].tolist() == pytest.approx([50, 100, 100, 100, 50, 0, 50])
    assert pieces.loc[[0.0, 1.5, 2.5, 2.75], "y"].tolist() == pytest.approx([0, 25, 50, 25])
    assert pieces.loc[1.5, "vy"] == pytest.approx(25)
    once = haptos.simulate(shaft({"stops": [[0, 0], [0, 60]], "speed": 60, "mode": "once"}), "wait 3 s")
    assert once.track.y.iloc[-1] == pytest.approx(82)
    assert (once.pieces.state == "moves").sum() == 60


@pytest.mark.parametrize(("cues", "own"), [("wait 1 s", 0), ("right 1 s", 150), ("left 1 s", -150)])
def test_walking_is_relative_to_what_carries(cues, own):
    run = haptos.simulate(shaft({"stops": [[0, 0], [900, 0]], "speed": 100}, mover={"shape": {"box": [800, 16]}}), cues)
    assert run.track.vx.iloc[-1] == pytest.approx(100 + own, rel=1e-9)
    assert run.track.pose.iloc[-1] == ("walk" if own else "idle")


@pytest.mark.parametrize("keeps", [True, False])
@pytest.mark.parametrize("speed", [-90.0, 60.0, 400.0])
def test_a_jump_takes_the_velocity_of_the_lift_along(keeps, speed):
    leg = [240 * np.sign(speed), abs(240.0)]
    route = {"stops": [[0, 0], leg], "speed": abs(speed) * math.sqrt(2)}
    level = shaft(route, player={"keep_momentum": keeps, "jump": {"speed": 500}})
    run = haptos.simulate(level, "wait 0.25 s, jump 0.1 s, wait 0.1 s")
    jump = run.track.iloc[round(0.25 * 60)]
    after = run.track.iloc[round(0.25 * 60) + 1]
    carried = abs(speed) if keeps else 0.0
    assert after.vy == pytest.approx(500 + carried - 1800 / 60, rel=1e-9)
    # In the air the wish to stand still brakes what is carried along.
    brake = min(300 / 60, abs(speed)) * np.sign(speed) if keeps else 0.0
    assert after.vx == pytest.approx((speed if keeps else 0.0) - brake, rel=1e-9, abs=1e-9)
    assert after.y - jump.y == pytest.approx((500 + carried) / 60 - 900 / 3600, rel=1e-9)
    assert [row.event for row in run.event_rows[:5]] == ["touch", "board", "jump", "alight", "part"]


def test_walking_off_takes_it_along_too():
    glides = {"run": {"air_accel": 0, "air_brake": 0}}
    run = haptos.simulate(shaft({"stops": [[0, 0], [900, 0]], "speed": 100}, player=glides), "left 1 s")
    alight = next(row for row in run.event_rows if row.event == "alight")
    assert run.track.vx[alight.tick] == pytest.approx(-50, rel=1e-9)


@pytest.mark.parametrize("speed", [120, 3000, 50_000])
def test_a_mover_pushes_and_never_passes_through(speed):
    route = {"stops": [[0, 0], [3000, 0]], "speed": speed, "mode": "once"}
    level = shaft(route, [FLOOR], player={"at": [0, 14]}, mover={"shape": {"box": [20, 40]}, "at": [-60, 20]})
    run = haptos.simulate(level, "wait 2 s")
    side = -50 + np.minimum(speed * run.track.t, 3000)
    ahead = run.track.x - np.maximum(side + 7, 0)
    pushed = run.track.t <= 3000 / speed
    assert np.abs(ahead[pushed]).max() < 1e-9 * 28
    assert run.track.vx[pushed & (run.track.t > 43 / speed)].to_numpy() == pytest.approx(speed)
    # Once the mover stands, the body goes on, as fast as it was pushed.
    assert ahead.min() > -1e-9 * 28
    touches = [row for row in run.event_rows if row.event == "touch" and row.piece == "lift"]
    assert len(touches) == 1
    assert touches[0].t == pytest.approx(43 / speed, rel=1e-9)
    assert touches[0].amount == pytest.approx(speed)


@pytest.mark.parametrize("speed", [120, 50_000])
def test_who_is_squeezed_against_a_wall_is_crushed_and_starts_again(speed):
    route = {"stops": [[0, 0], [300, 0]], "speed": speed, "mode": "once"}
    wall = {"name": "wall", "shape": {"box": [20, 80]}, "at": [60, 40]}
    level = shaft(route, [FLOOR, wall], player={"at": [0, 14]}, mover={"shape": {"box": [20, 40]}, "at": [-60, 20]})
    rows = haptos.simulate(level, "wait 1 s").event_rows
    crush = next(row for row in rows if row.event == "crush")
    assert (crush.piece, crush.x) == ("lift", pytest.approx(43))
    assert crush.t == pytest.approx(86 / speed, abs=1 / 60)
    assert rows[rows.index(crush) + 1].event == "respawn"


def test_a_mover_pushes_a_body_up_a_slope():
    ramp = {"name": "ramp", "shape": {"polygon": [[0, 0], [200, 0], [200, 80]]}, "at": [7, 0]}
    route = {"stops": [[0, 0], [100, 0]], "speed": 100, "mode": "once"}
    level = shaft(route, [FLOOR, ramp], player={"at": [0, 14]}, mover={"shape": {"box": [20, 200]}, "at": [-20, 100]})
    track = haptos.simulate(level, "wait 1.5 s").track
    # Pushed up at 100 px/s to the right, it then brakes along the slope.
    braked = 100**2 / (2 * 2400 * math.cos(math.atan(0.4)))
    assert track.x.iloc[-1] == pytest.approx(97 + braked, rel=1e-9)
    assert track.y.iloc[-1] == pytest.approx(14 + 0.4 * (97 + braked), rel=1e-9)


def test_a_lift_under_a_roof_crushes_but_a_one_way_one_lets_through():
    roof = {"name": "roof", "shape": {"box": [60, 6]}, "at": [0, 100]}
    route = {"stops": [[0, 0], [0, 120]], "speed": 60}
    solid = haptos.simulate(shaft(route, [roof]), "wait 2 s").event_rows
    assert next(row for row in solid if row.event == "crush").t == pytest.approx((97 - 36) / 60, abs=1 / 60)
    thin = haptos.simulate(shaft(route, [roof], mover={"solid_from": "above"}), "wait 2 s").event_rows
    assert "crush" not in [row.event for row in thin]


def test_a_one_way_lift_picks_up_whom_it_comes_under_and_does_not_catch_from_the_side():
    route = {"stops": [[0, 0], [0, 120]], "speed": 60}
    mover = {"shape": {"box": [60, 6]}, "at": [0, -30], "solid_from": "above"}
    run = haptos.simulate(shaft(route, [FLOOR], player={"at": [0, 14]}, mover=mover), "wait 1.5 s")
    assert next(row for row in run.event_rows if row.event == "board").t == pytest.approx(0.45, abs=1 / 60)
    assert run.track.y.iloc[-1] == pytest.approx(-30 + 90 + 3 + 14)
    aside = {"stops": [[0, 0], [200, 0]], "speed": 100, "mode": "once"}
    mover = {"shape": {"box": [60, 6]}, "at": [-100, 10], "solid_from": "above"}
    run = haptos.simulate(shaft(aside, [FLOOR], player={"at": [0, 14]}, mover=mover), "wait 2 s")
    assert np.abs(run.track.x).max() == 0


def test_carried_against_a_wall_the_body_stays_and_the_lift_goes_on():
    wall = {"name": "wall", "shape": {"box": [20, 800]}, "at": [57, 0]}
    run = haptos.simulate(shaft({"stops": [[0, 0], [60, 60]], "speed": 60, "mode": "once"}, [wall]), "wait 2 s")
    # Held back by the wall it goes as fast to the left, as seen from the lift; there it brakes once that stands.
    assert run.track.x.iloc[-1] == pytest.approx(40 - 60**2 / 2 / (2 * 2400))
    assert run.track.y.iloc[-1] == pytest.approx(82)
    assert "crush" not in set(run.events.event)


def test_a_zone_on_a_route_is_entered_and_left():
    route = {"stops": [[0, 0], [300, 0]], "speed": 120, "mode": "once"}
    level = shaft(
        route, [FLOOR], player={"at": [0, 14]}, mover={"shape": {"box": [20, 40]}, "at": [-60, 20], "layer": "zone"}
    )
    rows = [(row.event, row.t) for row in haptos.simulate(level, "wait 2 s").event_rows if row.piece == "lift"]
    assert [event for event, _ in rows] == ["enter", "leave"]
    assert [t for _, t in rows] == pytest.approx([43 / 120, 77 / 120], abs=1 / 60)


def test_what_was_far_away_is_where_it_should_be_once_the_body_is_there():
    route = {"stops": [[0, 0], [0, 80]], "speed": 64, "pause": 0.25}
    walk = {"name": "walk", "shape": {"corners": [-4000, -20, -40, 8]}}
    level = shaft(route, [walk], player={"at": [-3000, 22]})
    put = haptos.simulate(level, "wait 1.1 s, place 0,120, wait 3 s").track
    up = shuttled(put.t.to_numpy(), 80, 1.25, 0.25, False)
    late = put.tick > 1.6 * 60
    assert np.abs(put.y - 22 - up)[late].max() < 1e-9 * 28
    wide = {"shape": {"box": [800, 16]}, "at": [360, 0]}
    level = shaft(route | {"start": 0.3}, [walk], player={"at": [-900, 22], "jump": {"height": 120}}, mover=wide)
    run = haptos.simulate(level, "right+sprint 2.7 s, right+sprint+jump 0.25 s, wait 2 s").track
    up = shuttled(run.t.to_numpy() + 0.3, 80, 1.25, 0.25, False)
    stood = run.support == "lift"
    assert stood.sum() > 60
    assert np.abs(run.y - 22 - up)[stood].max() < 1e-9 * 28


RIDE = {"stops": [[0, 0], [120, 60], [0, 120]], "speed": 90, "pause": 0.5, "mode": "loop"}


def test_rides_are_the_same_at_other_tick_rates():
    places = []
    for rate in (30, 60, 120, 240):
        track = haptos.simulate(shaft(RIDE, tick_rate=rate), "wait 2 s, right 0.2 s, wait 5 s").track
        places.append(track[["x", "y"]].to_numpy()[:: rate // 30])
    assert max(np.abs(other - places[0]).max() for other in places[1:]) < 1e-9 * 28


def test_a_turned_level_gives_the_turned_ride():
    cues = "wait 1 s, right 0.2 s, wait 1 s, left+jump 0.3 s, wait 1.5 s"
    here = haptos.simulate(shaft(RIDE, [{**FLOOR, "shape": {"box": [800, 20]}, "at": [0, -60]}]), cues).track
    angle = math.radians(37)
    spin = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])

    def turned(point):
        return (spin @ np.array(point)).tolist()

    route = RIDE | {"stops": [turned(stop) for stop in RIDE["stops"]]}
    floor = {"name": "floor", "shape": {"box": [800, 20]}, "at": turned([0, -60]), "turn": 37}
    level = shaft(route, [floor], player={"at": turned([0, 22])}, mover={"turn": 37}, gravity=turned([0, -1800]))
    there = haptos.simulate(level, cues).track
    assert np.abs(there[["x", "y"]].to_numpy() - here[["x", "y"]].to_numpy() @ spin.T).max() < 1e-6 * 28
    assert (there.support == here.support).all()


def test_snapshots_and_batches_are_bit_for_bit():
    level = haptos.load(demo_file("lift-shaft.toml"))
    simulation = haptos.Simulation(level)
    simulation.step("right", ticks=90)
    saved = simulation.snapshot()
    simulation.step("", ticks=200)
    first = simulation.run.track_records.tobytes()
    simulation.restore(saved)
    simulation.step("", ticks=200)
    assert simulation.run.track_records.tobytes() == first
    sheets = ["right 1.5 s, wait 3 s", "right+jump 4 s", "place 580,14, wait 3 s"]
    alone = [haptos.simulate(level, sheet).track_records.tobytes() for sheet in sheets]
    assert [run.track_records.tobytes() for run in haptos.simulate_many(level, sheets, threads=2)] == alone


PLAY = ["right 0.4 s", "left 0.4 s", "right+jump 0.5 s", "jump 0.3 s", "wait 0.3 s"]


@settings(max_examples=60, deadline=None)
@given(
    stops=st.lists(st.tuples(st.integers(-120, 120), st.integers(-60, 160)), min_size=2, max_size=4),
    speed=st.sampled_from([40, 200, 900, 6000, 50_000]),
    mode=st.sampled_from(["loop", "shuttle", "once"]),
    cues=st.lists(st.sampled_from(PLAY), min_size=3, max_size=6),
)
def test_no_mover_is_ever_in_the_body_unless_it_is_crushed(stops, speed, mode, cues):
    walls = [{"name": "wall", "shape": {"box": [20, 200]}, "at": [150, 100]}, FLOOR]
    route = {"stops": [*stops], "speed": speed, "mode": mode, "pause": 0.1}
    level = shaft(route, walls, player={"at": [-200, 14]}, mover={"shape": {"box": [60, 30]}, "at": [0, 60]})
    run = haptos.simulate(level, ", ".join(cues))
    pieces = run.pieces
    depth = np.minimum(37 - np.abs(run.track.x - pieces.x), 29 - np.abs(run.track.y - pieces.y))
    assert (depth < 1e-5 * 28).all()
    assert np.isfinite(run.track[["x", "y", "vx", "vy"]].to_numpy()).all()
    # Who is thrown off the floor's end falls.
    assert (run.track.y[run.track.x.abs() < 4000] >= 14 - 1e-5 * 28).all()


@pytest.mark.parametrize(
    ("route", "sentence"),
    [
        ({"stops": [[0, 0]], "speed": 3}, "found 1 stops, expected two or more"),
        ({"stops": [[0, 0], [1, 1]]}, "found neither speed nor leg_times, expected one of them"),
        ({"stops": [[0, 0], [1, 1]], "speed": 1, "leg_times": [1]}, "found both speed and leg_times"),
        ({"stops": [[0, 0], [0, 9]], "leg_times": [1, 2]}, "found 2 leg_times, expected 1 for 2 stops in mode shuttle"),
        ({"stops": [[0, 0], [0, 9]], "leg_times": [-2]}, "route.leg_times[0]: found -2, expected a time above 0"),
        ({"stops": [[0, 0], [0, 9]], "speed": 3, "pause": -1}, "route.pause: found -1"),
        ("lifft", "no route 'lifft' (did you mean 'lift'?)"),
    ],
)
def test_a_route_that_can_not_be_used_is_one_sentence(route, sentence):
    shared = {"lift": {"stops": [[0, 0], [0, 5]], "speed": 9}}
    pieces = [{"name": "lift", "at": [0, 0], "shape": {"box": [9, 9]}, "route": route}]
    with pytest.raises(haptos.LevelError, match=r"pieces\[0\] 'lift', route") as error:
        _resolved(shared, pieces)
    assert sentence in str(error.value)


def _resolved(routes, pieces):
    haptos.simulate(haptos.Level(routes=routes, pieces=pieces))


def test_shared_routes_are_refined_by_kinds_and_pieces():
    level = haptos.load(demo_file("lift-shaft.toml"))
    pieces = haptos.simulate(level).pieces
    one, other = (pieces[pieces.piece == name].iloc[0] for name in ("orbit", "orbit ahead"))
    assert (other.x - one.x, other.y - one.y) == pytest.approx((0, 80))


def test_show_says_where_a_route_comes_from(capsys, monkeypatch):
    monkeypatch.setattr("sys.argv", ["haptos", "show", str(demo_file("lift-shaft.toml")), "orbit ahead"])
    with pytest.raises(SystemExit):
        main()
    lines = {line.split()[0]: line for line in capsys.readouterr().out.splitlines() if line.startswith("route.")}
    assert "[[0, 0], [72, 40], [0, 80]," in lines["route.stops"]
    assert lines["route.mode"].split(maxsplit=1)[1].startswith("loop")
    assert "[routes.orbit]" in lines["route.mode"]
    assert lines["route.start"].rstrip().endswith("the piece itself")


def test_findings_of_routes():
    press = {"name": "press", "shape": {"box": [20, 20]}, "at": [200, 40]}
    press["route"] = {"stops": [[0, 0], [0, -60]], "speed": 9}
    level = shaft({"stops": [[0, 0], [0, 0], [0, 60]], "speed": 0}, [FLOOR, press])
    found = {finding.code: finding for finding in haptos.check(level)}
    assert found["idle-route"].place.endswith("'lift', route.speed")
    assert "(0, 0) twice" in found["repeated-stop"].message
    assert found["swept-solid"].place == "pieces[0] 'lift', route"
    assert "goes through floor" in found["swept-solid"].message
    assert found["swept-solid"].message.endswith("(also 'press')")
    assert not {"idle-route", "repeated-stop", "swept-solid"} & {
        finding.code for finding in haptos.check(haptos.load(demo_file("lift-shaft.toml")))
    }


def test_what_moves_is_drawn_where_it_is():
    level = shaft({"stops": [[0, 0], [200, 0]], "speed": 100, "mode": "once"})

    def lift_left(at):
        ax = haptos.draw(level, at=at)
        return min(patch.get_path().vertices[:, 0].min() for patch in ax.patches if patch.get_facecolor()[3] > 0.8)

    assert lift_left(None) == pytest.approx(-40)
    assert lift_left(1.5) == pytest.approx(110)
