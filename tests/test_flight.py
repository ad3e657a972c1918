"""What drifts, is made while the level runs, is fired and breaks."""

from __future__ import annotations

import math

import numpy as np
import pytest

import haptos
from tests.scenes import floor, rows_of

BOUNDS = {"bounds": {"corners": [-400, -100, 400, 300]}}
FLOOR = floor(400, 100)
BODY = {"at": [0, 14], "shape": {"capsule": [14, 28]}}
SPARK = {"layer": "hazard", "shape": {"circle": 4}, "fragile": {"on": ["terrain"]}}


def sky(*pieces, player=None, kinds=None, rules=(), **world) -> haptos.Level:
    return haptos.Level(
        world={**BOUNDS, **world}, player={**BODY, **(player or {})}, kinds=kinds or {}, pieces=[FLOOR, *pieces],
        rules=list(rules),
    )  # fmt: skip


def drifting(name="ember", at=(-300, 100), **drift) -> dict:
    return {"name": name, "at": list(at), "layer": "hazard", "shape": {"circle": 6}, "drift": drift}


def test_what_drifts_is_where_arithmetic_says():
    box = {**drifting(velocity=[80, -10], spin=45), "shape": {"box": [20, 4]}}
    rows = haptos.simulate(sky(box), "wait 3 s").pieces
    assert rows.x.to_numpy() == pytest.approx(-300 + 80 * rows.t, abs=1e-9)
    assert rows.y.to_numpy() == pytest.approx(100 - 10 * rows.t, abs=1e-9)
    assert rows.angle.to_numpy() == pytest.approx(45 * rows.t, abs=1e-9)


def test_what_a_made_piece_holds_goes_turns_and_grows_with_it():
    blade = {"name": "blade", "at": [10, 0], "shape": {"box": [8, 2]}, "pieces": [
        {"name": "tip", "at": [5, 0], "turn": 90, "shape": {"circle": 1}}]}  # fmt: skip
    fan = {"layer": "hazard", "shape": {"circle": 4}, "drift": {"velocity": [30, 0], "spin": 90}, "pieces": [blade]}
    maker = {"kind": "fan", "first": 1, "every": 100, "scale": 2}
    run = haptos.simulate(
        sky({"name": "vent", "at": [-50, 100], "spawner": maker}, kinds={"fan": fan}, tick_rate=60), "wait 3 s"
    )
    rows = run.pieces.set_index(["piece", "t"])
    # After a second it has gone 30 and turned by a quarter; arms are twice as long as in the kind.
    for name, arm in (("fan 1", 0), ("fan 1/blade", 20), ("fan 1/blade/tip", 30)):
        row = rows.loc[(name, 2.0)]
        assert [row.x, row.y, row.angle] == pytest.approx([-20, 100 + arm, 90])
        assert [row.vx, row.vy, row.spin] == pytest.approx([30 - arm * math.pi / 2, 0, 90], abs=1e-9)
    assert (rows.loc["fan 1/blade"].index >= 1.0).all()


@pytest.mark.parametrize("rate", [30, 120])
def test_leaving_the_bounds_with_its_whole_shape_it_vanishes_wraps_or_turns_back(rate):
    level = sky(
        drifting("gone", velocity=[200, 0], on_exit="vanish"),
        drifting("round", at=(-300, 200), velocity=[200, 0], on_exit="wrap"),
        drifting("back", at=(-300, 250), velocity=[200, 0], on_exit="reaim", box=[100, 40]),
        drifting("visitor", at=(-700, 150), velocity=[200, 0], on_exit="vanish"),
        tick_rate=rate,
    )
    run = haptos.simulate(level, "wait 7 s")
    # From -300 to 406 at 200; from -700 to 406.
    assert [(row.who, row.t) for row in rows_of(run, "vanish", "wrap", "reaim")][:3] == [
        ("gone", pytest.approx(706 / 200)), ("round", pytest.approx(706 / 200)), ("back", pytest.approx(706 / 200))
    ]  # fmt: skip
    assert ("visitor", pytest.approx(1106 / 200)) in [(row.who, row.t) for row in rows_of(run, "vanish")]
    rows = run.pieces.set_index(["piece", "t"])
    assert rows.loc[("round", 6.0), "x"] == pytest.approx(-406 + 200 * (6 - 3.53))
    assert (rows.loc["gone"].state[3.6:] == "gone").all()
    # On its new way, it passes through the box around the middle (0, 100).
    back = rows.loc["back"].loc[3.6]
    assert math.hypot(back.vx, back.vy) == pytest.approx(200)
    at_middle = back.y - back.vy / back.vx * back.x
    assert back.vx < 0
    assert abs(at_middle - 100) < 20 + 50 * abs(back.vy / back.vx)


@pytest.mark.parametrize("restitution", [1.0, 0.5])
def test_it_comes_back_off_what_is_solid_by_its_restitution(restitution):
    ball = {"name": "ball", "at": [0, 108], "layer": "prop", "shape": {"circle": 8}}
    level = sky({**ball, "drift": {"velocity": [30, -100], "restitution": restitution}})
    rows = haptos.simulate(level, "right 2 s").pieces.set_index("t")
    assert rows.loc[1.5, ["x", "y"]].tolist() == pytest.approx([45, 8 + 50 * restitution])
    assert rows.loc[1.5, ["vx", "vy"]].tolist() == pytest.approx([30, 100 * restitution])
    through = haptos.simulate(sky({**ball, "drift": {"velocity": [30, -100]}}), "right 2 s").pieces.set_index("t")
    assert through.loc[1.5, "y"] == pytest.approx(-42)


@pytest.mark.parametrize("rate", [30, 120])
def test_an_arm_that_turns_throws_a_ball_by_the_speed_of_the_point_that_hits_it(rate):
    arm = {"name": "arm", "at": [0, 100], "turn": -45, "layer": "terrain", "shape": {"box": [200, 2]},
           "spin": {"speed": 90}}  # fmt: skip
    ball = {"name": "ball", "at": [60, 100], "layer": "prop", "shape": {"circle": 4}, "drift": {"restitution": 1}}
    run = haptos.simulate(sky(arm, ball, tick_rate=rate), "wait 1 s")
    # The arm's face is 1 off its axis. Against what no ball moves, it comes back as fast again as the point goes.
    angle = -math.asin(5 / 60)
    speed = 2 * math.radians(90) * 60 * math.cos(angle)
    hit = next(row for row in rows_of(run, "touch") if row.who == "ball")
    assert hit.t == pytest.approx((math.degrees(angle) + 45) / 90, abs=1e-5)
    row = run.pieces[run.pieces.piece == "ball"].iloc[-1]
    assert (row.vx, row.vy) == pytest.approx((-speed * math.sin(angle), speed * math.cos(angle)), rel=1e-4)


def test_one_can_stand_on_what_drifts_and_is_pushed_by_it():
    raft = {"name": "raft", "at": [0, -8], "shape": {"box": [60, 16]}, "drift": {"velocity": [40, 30], "spin": 0}}
    level = haptos.Level(player=BODY, pieces=[raft])
    track = haptos.simulate(level, "wait 2 s").track
    assert track.x.to_numpy() == pytest.approx(40 * track.t, abs=1e-9)
    assert track.y.to_numpy() == pytest.approx(14 + 30 * track.t, abs=1e-9)
    wall = {
        "name": "wall",
        "at": [-60, 30],
        "layer": "terrain",
        "shape": {"box": [20, 40]},
        "drift": {"velocity": [90, 0]},
    }
    pushed = haptos.simulate(sky(wall), "wait 2 s").track
    assert pushed.x.to_numpy() == pytest.approx(np.maximum(-60 + 90 * pushed.t + 17, 0), abs=1e-5 * 28)


@pytest.mark.parametrize("rate", [30, 60, 240])
def test_a_spawner_makes_pieces_at_its_times_for_their_time(rate):
    spark = {**SPARK, "drift": {"velocity": [0, 50]}}
    maker = {"name": "vent", "at": [100, 50], "spawner": {"kind": "spark", "first": 0.25, "every": 0.4, "lasts": 1}}
    run = haptos.simulate(sky(maker, kinds={"spark": spark}, tick_rate=rate), "wait 2 s")
    made = rows_of(run, "spawn")
    assert [row.t for row in made] == pytest.approx([0.25, 0.65, 1.05, 1.45, 1.85])
    assert [(row.who, row.piece) for row in made[:2]] == [("vent", "spark 1"), ("vent", "spark 2")]
    assert [row.t for row in rows_of(run, "vanish")] == pytest.approx([1.25, 1.65])
    second = run.pieces[run.pieces.piece == "spark 2"]
    assert second.y.to_numpy() == pytest.approx(50 + 50 * (second.t - 0.65), abs=1e-9)


def test_random_times_places_sizes_and_turns_stay_in_their_ranges():
    spawner = {"kind": "bar", "every": [0.05, 0.15], "area": [200, 40], "velocity": [0, 0], "limit": 100,
               "scale": [0.5, 2], "turn": [-30, 60]}  # fmt: skip
    bar = {"layer": "hazard", "shape": {"box": [10, 2]}, "drift": {}}
    vent = {"name": "vent", "at": [100, 50], "spawner": spawner}
    run = haptos.simulate(sky(vent, kinds={"bar": bar}, seed=5), "wait 9 s")
    made = run.events[run.events.event == "spawn"]
    gaps = np.diff(made.t)
    assert len(made) > 70
    assert (gaps >= 0.05).all()
    assert (gaps <= 0.15).all()
    # Evenly spread: the mean of so many is within four of its standard deviations.
    assert abs(gaps.mean() - 0.1) < 4 * 0.1 / math.sqrt(12 * len(gaps))
    assert made.x.between(0, 200).all()
    assert made.y.between(30, 70).all()
    assert np.ptp(made.x) > 150
    angles = run.pieces[run.pieces.t == 9.0].query("piece != 'floor'").angle
    assert angles.between(-30, 60).all()
    assert np.ptp(angles) > 60
    other = haptos.simulate(
        sky({"name": "vent", "at": [100, 50], "spawner": spawner}, kinds={"bar": bar}, seed=6), "wait 9 s"
    )
    assert other.events.t.tolist() != run.events.t.tolist()


def test_outside_means_just_outside_and_aims_reach_the_player_or_the_middle():
    spark = {"layer": "hazard", "shape": {"circle": 4}, "drift": {"on_exit": "vanish"}}
    at_player = {
        "kind": "spark",
        "every": 0.2,
        "area": "outside",
        "aim": {"at": "player", "speed": [100, 300]},
        "limit": 50,
    }
    run = haptos.simulate(sky({"name": "sky", "at": [0, 0], "spawner": at_player}, kinds={"spark": spark}), "wait 5 s")
    made = run.events[run.events.event == "spawn"]
    assert (np.maximum(np.abs(made.x) - 400, np.abs(made.y - 100) - 200)).to_numpy() == pytest.approx(4, abs=1e-3)
    for row in made.itertuples():
        first = run.pieces[(run.pieces.piece == row.piece)].iloc[0]
        speed = math.hypot(first.vx, first.vy)
        assert 100 <= speed <= 300
        assert (first.vx * (14 - row.y) - first.vy * (0 - row.x)) / speed == pytest.approx(0, abs=1e-6)
    assert len(run.events[run.events.event == "enter"]) > 10


def test_more_than_the_limit_is_refused_and_the_same_seed_gives_the_same():
    spark = {**SPARK, "drift": {"velocity": [0, -40]}}
    level = sky(
        {
            "name": "vent",
            "at": [0, 90],
            "spawner": {"kind": "spark", "every": [0.1, 0.3], "area": [300, 10], "limit": 2},
        },
        kinds={"spark": spark},
    )
    sheets = ["wait 6 s", "right 2 s, jump 0.3 s, left 3 s", "wait 6 s"]
    alone = haptos.simulate(level, sheets[1])
    batch = haptos.simulate_many(level, sheets, threads=2)
    assert batch[1].event_records.tobytes() == alone.event_records.tobytes()
    assert batch[1].flight_records.tobytes() == alone.flight_records.tobytes()
    assert batch[0].event_records.tobytes() == batch[2].event_records.tobytes()
    refused = rows_of(batch[0], "spawn_refused")
    assert refused[0].detail == "vent makes none: as many are there as may be"
    alive = batch[0].pieces.groupby("tick").size()
    assert alive.max() == 2


GUN = {"shot": {"kind": "dart", "speed": 400, "cooldown": 0.3}}
DART = {"layer": "shot", "shape": {"box": [10, 4]}, "fragile": {"on": ["terrain", "hazard"]}}


@pytest.mark.parametrize("facing", ["right", "left"])
def test_act_fires_the_way_it_faces_with_a_cooldown_and_a_shot_breaks_on_what_it_meets(facing):
    sign = 1 if facing == "right" else -1
    walls = [{"name": name, "shape": {"box": [20, 100]}, "at": [x, 50]} for name, x in (("east", 200), ("west", -200))]
    level = sky(*walls, player={**GUN, "facing": facing}, kinds={"dart": DART})
    run = haptos.simulate(level, "act 0.1 s, wait 0.1 s, act 0.1 s, wait 0.1 s, act 0.1 s, wait 1 s")
    fired = rows_of(run, "fire")
    assert [row.t for row in fired] == pytest.approx([0, 0.4])
    assert [row.t for row in rows_of(run, "spawn_refused")] == pytest.approx([0.2])
    # It begins in front of the body, half its diagonal away, and ends half its length before the wall.
    begin = 7 + math.hypot(5, 2)
    assert fired[0].x == pytest.approx(sign * begin)
    broke = rows_of(run, "vanish")[0]
    assert (broke.who, broke.piece) == ("dart 1", "east" if sign > 0 else "west")
    assert broke.t == pytest.approx((190 - 5 - begin) / 400, abs=1e-6)
    assert broke.detail == f"dart 1 breaks on {broke.piece}"


def test_shots_put_out_what_breaks_and_are_blocked_by_what_does_not():
    rock = drifting("rock", at=(-200, 14), velocity=[20, 0])
    vase = {
        "name": "vase",
        "at": [100, 14],
        "layer": "hazard",
        "shape": {"circle": 8},
        "fragile": {"on": ["shot"], "hits": 2},
    }
    level = sky(rock, vase, player={**GUN, "facing": "right"}, kinds={"dart": DART})
    run = haptos.simulate(level, "act 0.1 s, wait 0.4 s, act 0.1 s, wait 0.4 s, left 0.1 s, act 0.1 s, wait 1 s")
    pairs = [(row.who, row.piece) for row in rows_of(run, "vanish")]
    # Both break at one instant, in whatever order.
    assert [pairs[0], set(pairs[1:3]), *pairs[3:]] == [
        ("dart 1", "vase"), {("vase", "dart 2"), ("dart 2", "vase")}, ("dart 3", "rock")
    ]  # fmt: skip
    rows = run.pieces[run.pieces.piece == "rock"]
    assert rows.x.to_numpy() == pytest.approx(-200 + 20 * rows.t, abs=1e-9)


def test_what_breaks_on_the_player_does_so_once_it_is_touched():
    bubble = {"name": "bubble", "at": [80, 14], "layer": "zone", "shape": {"circle": 10}, "fragile": {"on": ["body"]}}
    crate = {
        "name": "crate",
        "at": [200, 20],
        "layer": "terrain",
        "shape": {"box": [20, 40]},
        "fragile": {"on": ["body"]},
    }
    rules = [{"when": "vanish", "piece": "bubble", "do": [{"say": "pop"}]}]
    run = haptos.simulate(sky(bubble, crate, rules=rules), "right 3 s")
    assert [(row.who, row.piece) for row in rows_of(run, "vanish")] == [("bubble", "player"), ("crate", "player")]
    assert run.says() == ["pop"]
    assert run.track.x.iloc[-1] > 250


@pytest.mark.parametrize(
    ("pieces", "kinds", "message"),
    [
        ([{"name": "vent", "at": [0, 0], "spawner": {"kind": "sparc", "every": 1}}], {"spark": SPARK},
         r"'vent', spawner.kind: no kind 'sparc' \(did you mean 'spark'\?\)"),
        ([{"name": "vent", "kind": "vent", "at": [0, 0]}], {"vent": {"spawner": {"kind": "vent", "every": 1}}},
         r"'vent', spawner: found the kind 'vent', which holds a spawner itself"),
        ([{"name": "vent", "at": [0, 0], "spawner": {"kind": "spark", "every": [2, 1]}}], {"spark": SPARK},
         r"spawner: found every = \[2, 1\], expected the lower number first"),
        ([drifting(velocity=[1, 0], box=[1, 1])], {}, r"drift: found a box without on_exit = 'reaim'"),
        ([{**FLOOR, "name": "pot", "fragile": {"on": ["shoot"]}}], {},
         r"'pot', fragile.on: .*'shoot'.* \(did you mean 'shot'\?\)"),
    ],
)  # fmt: skip
def test_bad_flyers_say_where(pieces, kinds, message):
    with pytest.raises(haptos.LevelError, match=message):
        haptos.simulate(sky(*pieces, kinds=kinds))


def test_what_asks_about_bounds_needs_them():
    with pytest.raises(
        haptos.LevelError, match=r"'ember', drift: found something about the bounds, expected world.bounds"
    ):
        haptos.Level(pieces=[drifting(velocity=[1, 0], on_exit="wrap")])


@pytest.mark.parametrize("turns", [0, 40])
@pytest.mark.parametrize("rate", [30, 60, 240])
def test_two_that_fly_at_each_other_break_when_their_gap_is_used_up(rate, turns):
    def thrown(name: str, x: float, speed: float) -> dict:
        own = drifting(name, at=(x, 150), velocity=[speed, 0], spin=turns)
        return {**own, "fragile": {"on": ["hazard"]}}

    # Between circles of 6 that come 500 nearer at 70 and 30.
    run = haptos.simulate(sky(thrown("left", -250, 70), thrown("right", 250, -30), tick_rate=rate), "wait 6 s")
    assert [row.t for row in rows_of(run, "vanish")] == pytest.approx([488 / 100, 488 / 100], abs=1e-7)


def test_nothing_meets_what_is_made_before_it_is_made():
    maker = {"name": "maker", "at": [0, 150], "spawner": {"kind": "ember", "first": 1.0071, "velocity": [0, 0]}}
    kind = {"layer": "hazard", "shape": {"circle": 6}, "drift": {}, "fragile": {"on": ["hazard"]}}
    # It is in the way from 0.98 s on, in the tick in which the other is made.
    passer = {**drifting("passer", at=(-60, 150), velocity=[60, 0]), "fragile": {"on": ["hazard"]}}
    run = haptos.simulate(sky(passer, maker, kinds={"ember": kind}), "wait 2 s")
    assert [row.t for row in rows_of(run, "vanish")] == pytest.approx([1.0071, 1.0071])


def test_of_many_that_fly_each_meets_just_whom_arithmetic_says():
    rng = np.random.default_rng(7)
    places, speeds = rng.uniform([-390, 0], [390, 290], (40, 2)), rng.uniform(-60, 60, (40, 2))
    pieces = [
        {**drifting(f"ember {index}", at=at, velocity=speed.tolist()), "fragile": {"on": ["hazard"]}}
        for index, (at, speed) in enumerate(zip(places, speeds, strict=True))
    ]
    level = haptos.Level(player={"at": [0, -500], "shape": {"circle": 5}}, pieces=pieces)
    broken = {row.who: row.t for row in rows_of(haptos.simulate(level, "wait 3 s"), "vanish")}
    # The earliest meeting of two that are both still there, and so on.
    gone: dict[int, float] = {}
    meetings = []
    for one in range(40):
        for other in range(one):
            d, v = places[one] - places[other], speeds[one] - speeds[other]
            root = (d @ v) ** 2 - (v @ v) * (d @ d - 12**2)
            when = (
                0.0 if d @ d < 12**2 else (-(d @ v) - math.sqrt(root)) / (v @ v) if root > 0 and d @ v < 0 else math.inf
            )
            meetings.append((when, one, other))
    for when, one, other in sorted(meetings):
        if when <= 3 and one not in gone and other not in gone:
            gone[one] = gone[other] = when
    assert len(gone) > 6
    assert broken == {f"ember {index}": pytest.approx(when, abs=1e-6) for index, when in gone.items()}
