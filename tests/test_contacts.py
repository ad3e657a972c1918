"""Where outlines meet and things push: scenes that a designer draws without thinking, against arithmetic."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

import haptos
from haptos.engine.records.events import STALL
from tests.generated import BODIES, cues_of, data_of, flaws_of, level_of, transformed
from tests.hall import mirrored as swapped_sides
from tests.scenes import first, rows_of

G = 1800
HALF = {"capsule": 14, "circle": 10, "box": 14}
WIDE = {"capsule": 7, "circle": 10, "box": 7}
FLOOR = {"name": "floor", "shape": {"corners": [-900, -20, 900, 0]}}


def sort_of(shape: dict[str, Any]) -> str:
    return next(iter(shape))


def stalls(run: haptos.Run) -> int:
    return int((run.event_records["kind"] == STALL).sum())


@pytest.mark.parametrize("shape", BODIES, ids=sort_of)
@pytest.mark.parametrize("side", [1, -1])
@pytest.mark.parametrize("other", [{"corners": [-40, -60, -30, 60]}, {"corners": [-40, 50, 40, 60]}, "ledge"])
def test_who_walks_off_a_corner_that_two_pieces_share_falls(shape, side, other):
    def mirrored(corners: list[float]) -> list[float]:
        x0, y0, x1, y1 = corners
        return [min(side * x0, side * x1), y0, max(side * x0, side * x1), y1]

    shelf = {"name": "shelf", "shape": {"corners": mirrored([-40, 50, 40, 60])}}
    ledge = {"shape": {"corners": mirrored([-40, 50, 10, 60])}, "solid_from": "above"}
    second = ledge if other == "ledge" else {"shape": {"corners": mirrored(other["corners"])}}
    pair = [shelf, {"name": "second", **second}]
    player = {"at": [0, 60 + HALF[sort_of(shape)]], "shape": shape}
    ends = []
    for pieces in (pair, pair[::-1]):
        run = haptos.simulate(haptos.Level(player=player, pieces=pieces), "left 2 s" if side > 0 else "right 2 s")
        assert stalls(run) == 0
        assert run.track.y.iloc[-1] < -500
        ends.append(run.track[["x", "y"]].iloc[-1].tolist())
    # The order of the file changes nothing.
    assert ends[0] == ends[1]


@pytest.mark.parametrize("shape", BODIES, ids=sort_of)
def test_at_the_fastest_fall_a_draught_changes_nothing_that_the_air_can_take(shape):
    wind = {"name": "wind", "at": [0, 0], "layer": "zone", "shape": {"box": [4000, 6000]}}
    # It falls at 900, or as fast as what is left of the push lifts it in two seconds.
    for push, speed in ((-100, -900), (1700, -200), (2500, 1400)):
        level = haptos.Level(player={"at": [0, 0], "shape": shape}, pieces=[{**wind, "field": {"push": [0, push]}}])
        run = haptos.simulate(level, "wait 2 s")
        assert stalls(run) == 0
        assert run.track.vy.iloc[-1] == pytest.approx(speed)


@pytest.mark.parametrize("shape", BODIES, ids=sort_of)
@pytest.mark.parametrize("side", [1, -1])
@pytest.mark.parametrize("rate", [30, 60, 240])
def test_a_ball_that_rolls_along_pushes_ahead_of_itself(shape, side, rate):
    ball = {"name": "ball", "at": [150 * side, 14], "shape": {"circle": 14}}
    ball["route"] = {"stops": [[0, 0], [-300 * side, 0]], "speed": 80, "mode": "once"}
    player = {"at": [0, HALF[sort_of(shape)]], "shape": shape}
    run = haptos.simulate(haptos.Level(world={"tick_rate": rate}, player=player, pieces=[FLOOR, ball]), "wait 3 s")
    assert stalls(run) == 0
    # Where both touch: of a round foot that is on the line between two middles, which differ in height.
    up = 4 if sort_of(shape) == "circle" else 0
    reach = math.sqrt(24**2 - up**2) if up else 14 + WIDE[sort_of(shape)]
    meets = (150 - reach) / 80
    assert first(run, "touch", piece="ball").t == pytest.approx(meets, rel=1e-9)
    last = run.track.iloc[-1]
    assert last.x == pytest.approx(-80 * (3 - meets) * side, rel=1e-9)
    assert last.vx == pytest.approx(-80 * side, rel=1e-9)


@pytest.mark.parametrize("shape", BODIES, ids=sort_of)
@pytest.mark.parametrize("way", [[0, 300], [0, -300], [300, 0], [-200, 100]])
@pytest.mark.parametrize("lift", [{"box": [80, 16]}, {"capsule": [80, 16]}], ids=sort_of)
def test_who_walks_off_a_lift_boards_once_and_alights_once(shape, way, lift):
    for speed, side in ((5, "left"), (40, "right"), (120, "left"), (120, "right")):
        piece = {"name": "lift", "at": [0, 8], "shape": lift, "route": {"stops": [[0, 0], way], "speed": speed}}
        level = haptos.Level(player={"at": [0, 16 + HALF[sort_of(shape)]], "shape": shape}, pieces=[piece])
        run = haptos.simulate(level, f"{side} 1.5 s")
        assert stalls(run) == 0
        assert [len(rows_of(run, name)) for name in ("board", "alight")] == [1, 1]


@pytest.mark.parametrize("rate", [30, 60, 120, 240])
@pytest.mark.parametrize("rise", [-100, 60, 240])
def test_a_landing_and_a_bounce_on_a_plate_that_moves_are_exact(rate, rise):
    plate = {"name": "plate", "at": [0, -8], "shape": {"box": [120, 16]}}
    plate["route"] = {"stops": [[0, 0], [0, math.copysign(2000, rise)]], "speed": abs(rise)}
    player = {"at": [0, 94], "shape": {"capsule": [14, 28]}, "fall": {"terminal_speed": None}}
    meets = (-rise + math.sqrt(rise**2 + 2 * G * 80)) / G
    world = {"tick_rate": rate}
    landed = haptos.simulate(haptos.Level(world=world, player=player, pieces=[plate]), "wait 1 s")
    assert first(landed, "land").t == pytest.approx(meets, rel=1e-12)
    plate["surface"] = {"restitution": 0.8}
    bounced = haptos.simulate(haptos.Level(world=world, player=player, pieces=[plate]), "wait 1 s")
    after = bounced.track[bounced.track.t > meets].iloc[0]
    assert after.vy == pytest.approx(rise + 0.8 * (G * meets + rise) - G * (after.t - meets), rel=1e-9)


def test_who_rides_and_is_pushed_has_both_velocities_and_a_crush_has_its_time():
    lift = {
        "name": "lift",
        "at": [0, 8],
        "shape": {"box": [400, 16]},
        "route": {"stops": [[0, 0], [0, 400]], "speed": 20},
    }
    ram = {
        "name": "ram",
        "at": [-60, 60],
        "shape": {"box": [20, 90]},
        "route": {"stops": [[0, 0], [300, 0]], "speed": 80},
    }
    roof = {"name": "roof", "shape": {"corners": [40, 64, 300, 80]}}
    level = haptos.Level(player={"at": [0, 30], "shape": {"box": [14, 28]}}, pieces=[lift, ram])
    run = haptos.simulate(level, "wait 1 s")
    assert run.track[["vx", "vy"]].iloc[-1].tolist() == pytest.approx([80, 20])
    player = {"at": [100, 30], "shape": {"box": [14, 28]}}
    crushed = haptos.simulate(haptos.Level(player=player, pieces=[lift, roof]), "wait 2 s")
    assert first(crushed, "crush").t == pytest.approx((64 - 44) / 20, rel=1e-9)


@pytest.mark.parametrize("shape", BODIES, ids=sort_of)
@pytest.mark.parametrize("spin", [0.001, 30, -90, 200])
def test_what_turns_in_the_top_view_lets_nobody_freeze(shape, spin):
    for form in ({"circle": 40}, {"box": [160, 12]}, {"box": [60, 60]}):
        thing = {"name": "thing", "at": [0, 0], "shape": form, "spin": {"speed": spin}}
        for seed in range(3):
            level = haptos.Level(world={"view": "top"}, player={"at": [120, 40], "shape": shape}, pieces=[thing])
            assert stalls(haptos.simulate(level, cues_of(seed, 12))) == 0


def test_wedged_between_two_circles_it_rests_and_jumps_out():
    for shape in BODIES:
        pair = [{"name": f"globe {x}", "at": [x, 0], "shape": {"circle": 40}} for x in (-44, 44)]
        level = haptos.Level(player={"at": [1, 150], "shape": shape}, pieces=pair)
        run = haptos.simulate(level, "wait 2 s, right 0.5 s, jump 0.2 s, wait 0.5 s")
        assert stalls(run) == 0
        assert len(rows_of(run, "jump")) == 1


def test_an_edge_that_wraps_is_heeded_while_carried():
    bounds = {"corners": [-100, -100, 100, 200], "left": "wrap", "right": "wrap"}
    lift = {
        "name": "lift",
        "at": [0, 8],
        "shape": {"box": [80, 16]},
        "route": {"stops": [[0, 0], [400, 0]], "speed": 50},
    }
    run = haptos.simulate(haptos.Level(world={"bounds": bounds}, player={"at": [20, 30]}, pieces=[lift]), "wait 3 s")
    assert first(run, "wrap").t == pytest.approx(80 / 50)


def test_rules_hear_what_they_cause_and_the_new_beginning():
    rules = [
        {"name": "back", "when": "jump", "do": [{"respawn": True}]},
        {"name": "welcome", "when": "respawn", "do": [{"say": "welcome back"}]},
        {"name": "anew", "when": "act", "do": [{"restart": True}]},
        {"name": "once more", "when": "restart", "do": [{"say": "once more"}]},
    ]
    level = haptos.Level(player={"at": [0, 14]}, pieces=[FLOOR], rules=rules)
    run = haptos.simulate(level, "jump 0.1 s, wait 0.2 s, act 0.1 s, wait 0.2 s")
    assert [row.detail for row in rows_of(run, "say")] == ["welcome back", "once more"]


def test_a_field_that_the_player_starts_in_holds_for_the_first_jump():
    mud = {"name": "mud", "at": [0, 0], "layer": "zone", "shape": {"box": [90, 90]}, "field": {"jump_factor": 0.5}}
    run = haptos.simulate(haptos.Level(player={"at": [0, 14]}, pieces=[FLOOR, mud]), "jump 0.2 s")
    assert first(run, "jump").amount == pytest.approx(0.5 * math.sqrt(2 * G * 72))


@pytest.mark.parametrize("shape", BODIES, ids=sort_of)
@pytest.mark.parametrize("side", [1, -1])
def test_between_jaws_that_close_too_flat_it_is_crushed_and_steeper_ones_push_it_out(shape, side):
    for tilt in (2.0, 20.0):
        lid = {
            "name": "lid",
            "at": [0, 90],
            "shape": {"box": [400, 16]},
            "turn": side * tilt,
            "route": {"stops": [[0, 0], [0, -200]], "speed": 60, "mode": "once"},
        }
        player = {"at": [0, HALF[sort_of(shape)]], "shape": shape, "crush": {"lethal": False}}
        run = haptos.simulate(haptos.Level(player=player, pieces=[FLOOR, lid]), "wait 1.5 s")
        assert stalls(run) == 0
        # Lifted by v, a slope t pushes what stands on a floor along by v / tan t.
        assert len(rows_of(run, "crush")) == (1 if tilt < 5 else 0)
        pushed = np.abs(np.diff(run.track.x)) * 60
        assert pushed.max() <= (1e-9 if tilt < 5 else 60 / math.tan(math.radians(tilt)) * (1 + 1e-6))
        assert (abs(run.track.x.iloc[-1]) > 60) == (tilt > 5)


@pytest.mark.parametrize("shape", BODIES, ids=sort_of)
def test_what_turns_pushes_on_where_its_sides_come_to_lie_flush(shape):
    # At 4.5 s and 6 s, ends of ticks, its sides are level with those of the body.
    for spin in (60, -60, 120):
        bar = {"name": "bar", "at": [0, 0], "shape": {"capsule": [64, 16]}, "spin": {"speed": spin}}
        level = haptos.Level(world={"view": "top"}, player={"at": [60, 3], "shape": shape}, pieces=[bar])
        for cues in ("left 7 s", "left 1 s, wait 6 s", "left 0.5 s, up 6.5 s"):
            run = haptos.simulate(level, cues)
            assert stalls(run) == 0
            # The end of the bar is 32 px from its middle.
            assert np.hypot(np.diff(run.track.x), np.diff(run.track.y)).max() <= 5 + 1e-9


def test_who_starts_in_a_mover_without_room_beside_it_falls_out_of_it():
    bounds = {"corners": [-320, -240, 320, 240], "top": "wall", "bottom": "wall"}
    globe = {
        "name": "globe",
        "at": [-80, 160],
        "shape": {"circle": 48},
        "route": {"stops": [[0, 0], [0, 96]], "speed": 30},
    }
    player = {"at": [-82, 194], "shape": {"box": [14, 28]}}
    run = haptos.simulate(haptos.Level(world={"bounds": bounds}, player=player, pieces=[globe]), "wait 1 s")
    assert run.track.x.iloc[-1] == pytest.approx(-82)
    assert run.track.y.iloc[-1] == pytest.approx(-226)


# Of each sort of place at which a body once froze, leapt or sank in: a corner that passes, one that is counted anew,
# jaws, two grounds at one place, what is left slowly, who rides on what spins.
HARD = [132, 204, 255, 767, 1052, 1383, 1457, 1639, 1646, 2439, 2954, 3357, 3575, 3811, 5136, 5208, 5624, 7442, 9751]


@pytest.mark.parametrize("seed", HARD)
def test_levels_in_which_a_body_once_froze_or_leapt_have_no_flaw(seed):
    assert flaws_of(haptos.simulate(level_of(seed), cues_of(seed))) == []


@pytest.mark.parametrize("first_seed", range(0, 120, 20))
def test_random_levels_have_no_flaw(first_seed):
    for seed in range(first_seed, first_seed + 20):
        try:
            run = haptos.simulate(level_of(seed), cues_of(seed))
        except haptos.LevelError:
            # Rules of levels that contradict each other have tests of their own.
            continue
        assert flaws_of(run) == [], f"seed {seed}"


@pytest.mark.parametrize("seed", [*range(24), 110, 135, 299, 410, 452])
def test_mirrored_turned_larger_and_in_another_order_a_level_gives_the_same_track(seed):
    data, cues = data_of(seed), cues_of(seed, 6)
    plain = haptos.simulate(transformed(data), cues).track[["x", "y"]].to_numpy()[:121]
    ways = [(0, 1, -1), (0, 3, 1)] + ([(30, 1, 1)] if data["world"]["view"] == "side" else [])
    for angle, scale, side in ways:
        words = swapped_sides(cues) if side < 0 else cues
        track = haptos.simulate(transformed(data, angle, scale, side), words).track[["x", "y"]].to_numpy()[:121]
        cosine, sine = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        expected = scale * plain * [side, 1] @ np.array([[cosine, sine], [-sine, cosine]])
        assert np.abs(track - expected).max() < 1e-6 * scale
    swapped = haptos.Level(**{**data, "pieces": data["pieces"][::-1]})
    one, other = (haptos.simulate(level, cues).track[["x", "y"]] for level in (haptos.Level(**data), swapped))
    assert one.equals(other)


@pytest.mark.parametrize("seed", [58, 62])
def test_who_slides_on_what_turns_boards_it_once_at_every_tick_rate(seed):
    told = []
    for tick_rate in (30, 60, 240):
        events = haptos.simulate(level_of(seed, tick_rate=tick_rate), "wait 1.5 s").events
        told.append([*zip(events.event, events.piece, strict=True)])
        assert events[events.event == "board"].piece.is_unique
    assert told[0] == told[1] == told[2]


def test_what_turns_back_takes_nobody_along_whom_it_has_pushed_at_any_tick_rate():
    # It rides on what eases, and a round piece that pushes it begins its way back.
    tracks = [haptos.simulate(level_of(138, tick_rate=rate), "wait 2 s").track for rate in (30, 60, 240)]
    ends = [track.x.iloc[-1] for track in tracks]
    assert ends == pytest.approx([ends[2]] * 3, abs=0.02)
    assert all(track[track.t > 1.25].vx.max() < 1 for track in tracks)


@pytest.mark.parametrize("held", ["wait", "right"])
@pytest.mark.parametrize("tick_rate", [30, 240])
def test_what_is_pushed_by_something_round_is_met_once(held, tick_rate):
    ball = {
        "name": "ball",
        "at": [60, 26],
        "shape": {"circle": 10},
        "route": {"stops": [[0, 0], [-400, 60]], "speed": 90},
    }
    level = haptos.Level(world={"tick_rate": tick_rate}, player={"at": [0, 14]}, pieces=[FLOOR, ball])
    run = haptos.simulate(level, f"{held} 1.2 s")
    assert [row.piece for row in rows_of(run, "touch")].count("ball") == 1
    assert stalls(run) == 0
