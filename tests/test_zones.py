"""Zones, rules, edges of the world and where a body is lost."""

from __future__ import annotations

import math

import pytest

import haptos
from tests.scenes import first


def zone(name: str, corners: list[float]) -> dict:
    return {"name": name, "layer": "zone", "shape": {"corners": corners}}


def says(run: haptos.Run) -> list[tuple[float, str]]:
    rows = run.events[run.events.event == "say"]
    return list(zip(rows.t.round(9), rows.detail, strict=True))


def test_entry_and_exit_are_exact(flat):
    # Sprinting at 300 the box body, 7 wide to a side, meets a zone from 200 to 230.
    level = flat([zone("light", [200, 0, 230, 50])], shape={"box": [14, 28]})
    run = haptos.simulate(level, "right+sprint 2 s")
    ramp = 300 / 1800
    enter = ramp + (193 - 300 * ramp / 2) / 300
    assert first(run, "enter").t == pytest.approx(enter, rel=1e-9)
    assert first(run, "leave").t == pytest.approx(enter + 44 / 300, rel=1e-9)
    assert first(run, "enter").x == pytest.approx(193, rel=1e-9)


@pytest.mark.parametrize("shape", [{"box": [0.001, 400]}, {"circle": 0.001}, {"box": [0.001, 600], "turn": 40}])
def test_a_zone_thinner_than_a_tick_is_entered_and_left(shape):
    level = haptos.Level(
        world={"view": "top"},
        player={"shape": {"circle": 0.001}},
        pieces=[{"name": "thread", "layer": "zone", "at": [500, 0], "shape": shape}],
    )
    simulation = haptos.Simulation(level)
    simulation.place(0, 0, vx=60_000)
    simulation.step("right")
    events = simulation.run.events
    assert [event for event in events.event if event != "place"] == ["enter", "leave"]
    enter = first(simulation.run, "enter")
    assert enter.x == pytest.approx(500, abs=0.01)


def test_flying_over_a_zone_leaves_and_enters_it_again(flat):
    # The apex is above the zone's top for a moment within one flight.
    level = flat([zone("mist", [-50, 0, 50, 60])], shape={"box": [14, 28]})
    run = haptos.simulate(level, "jump 1 s")
    half = math.sqrt(2 * (72 - 60) / 1800)
    apex = math.sqrt(2 * 72 / 1800)
    assert first(run, "leave").t == pytest.approx(apex - half, rel=1e-8)
    assert first(run, "enter", after=0.01).t == pytest.approx(apex + half, rel=1e-8)


def test_rules_say_their_words_in_order(flat):
    rules = [
        {"when": "start", "do": [{"say": "begin"}]},
        {"when": "enter", "piece": "#lamp", "once": True, "do": [{"say": "first lamp"}, {"say": "and a word more"}]},
        {"when": "enter", "piece": "lamp kind", "do": [{"say": "a lamp"}]},
        {"when": "leave", "piece": "near", "who": "body", "do": [{"say": "away"}]},
        {"when": "inside", "piece": "far", "every": 0.1, "do": [{"say": "tick"}]},
        {"when": "touch", "piece": "wall", "do": [{"say": "bump"}]},
        {"when": "empty", "piece": "far", "do": [{"say": "nobody"}]},
        {"when": "occupied", "piece": "far", "do": [{"say": "somebody"}]},
        {"when": "enter", "piece": "near", "who": "#stranger", "do": [{"say": "never"}]},
        {"when": "act", "do": [{"say": "acts"}]},
    ]
    kinds = {"lamp kind": {"layer": "zone", "marks": ["lamp"], "shape": {"box": [20, 40]}}}
    pieces = [
        {"name": "near", "kind": "lamp kind", "at": [50, 20]},
        {"name": "far", "kind": "lamp kind", "at": [150, 20]},
        {"name": "wall", "shape": {"corners": [200, 0, 210, 50]}},
    ]
    run = haptos.simulate(flat(pieces, shape={"box": [14, 28]}, rules=rules, kinds=kinds), "right 2 s, act 0.1 s")
    words = [word for _, word in says(run)]
    assert words == [
        "begin", "first lamp", "and a word more", "a lamp", "away", "a lamp", "tick", "somebody", "tick", "tick",
        "nobody", "bump", "acts",
    ]  # fmt: skip
    ticks = [t for t, word in says(run) if word == "tick"]
    assert ticks[1] - ticks[0] == pytest.approx(0.1, abs=1e-9)
    assert ticks[0] == pytest.approx(first(run, "enter", piece="far").t, abs=1e-9)


def test_what_the_body_starts_in_is_entered_at_once_and_placing_counts_too(flat):
    rules = [{"when": "enter", "piece": "light", "do": [{"say": "lit"}]}]
    level = flat([zone("light", [-20, 0, 20, 40])], rules=rules)
    run = haptos.simulate(level, "wait 0.5 s, place 200,14, wait 0.5 s, place 0,14, wait 0.5 s")
    assert [t for t, _ in says(run)] == [0.0, 1.0]
    assert first(run, "leave").t == pytest.approx(0.5)
    assert run.track.x.iloc[45] == 200


def test_zone_tiles_are_one_zone():
    level = haptos.Level(
        player={"at": [8, 14]},
        kinds={"stone": {}, "tar": {"layer": "zone"}},
        map={
            "at": [0, -16],
            "rows": "...~~..~~~...\n...~~~~~.....\n#############",
            "signs": {"#": "stone", "~": "tar"},
        },
    )
    run = haptos.simulate(level, "right 2 s")
    assert run.events[run.events.piece == "map/tar"].event.tolist() == ["enter", "leave"]


def test_lost_below_at_its_exact_time_and_back_at_the_start():
    level = haptos.Level(world={"lost_below": -500}, player={"at": [3, 0], "fall": {"terminal_speed": None}})
    run = haptos.simulate(level, "wait 1 s")
    lost = first(run, "lost")
    assert lost.t == pytest.approx(math.sqrt(2 * 500 / 1800), rel=1e-9)
    assert lost.y == pytest.approx(-500)
    back = first(run, "respawn")
    assert (back.t, back.x, back.y) == (lost.t, 3, 0)
    rest = 1 - lost.t
    assert run.track.y.iloc[-1] == pytest.approx(-900 * rest**2, rel=1e-9)


def test_walls_of_the_bounds_are_solid_and_lost_sides_lose(flat):
    corners = [-100, -50, 100, 400]
    level = flat(world={"bounds": {"corners": corners, "left": "wall", "right": "lost"}})
    run = haptos.simulate(level, "left 2 s, right 3 s")
    assert run.track.x.min() == pytest.approx(-93)
    lost = first(run, "lost")
    assert lost.x == pytest.approx(100)
    assert first(run, "touch", piece="bounds/left").amount == pytest.approx(150)


@pytest.mark.parametrize("rate", [30, 240])
def test_wrap_comes_back_opposite_and_feels_the_other_side(rate):
    def ring(pieces):
        bounds = {"corners": [0, -50, 200, 400], "left": "wrap", "right": "wrap"}
        floor = {"name": "floor", "shape": {"corners": [0, -16, 200, 0]}}
        return haptos.Level(
            world={"bounds": bounds, "tick_rate": rate},
            player={"at": [100, 14], "shape": {"box": [14, 28]}},
            pieces=[floor, *pieces],
        )

    run = haptos.simulate(ring([]), "right 3 s")
    distance = 150 * 3 - 150**2 / 3600
    assert run.track.x.iloc[-1] == pytest.approx((100 + distance) % 200, abs=1e-9)
    assert (run.events.event == "wrap").sum() == 2
    assert (run.track.stance == "ground").all()
    assert (run.events.event == "part").sum() == 0
    # A post just beyond the seam is met by the body's front while its centre is still before it.
    run = haptos.simulate(ring([{"name": "post", "shape": {"corners": [3, 0, 8, 20]}}]), "right 3 s")
    assert run.track.x.iloc[-1] == pytest.approx(203 - 7)


def test_top_view_moves_in_the_plane(flat):
    level = haptos.Level(
        world={"view": "top"},
        player={"shape": {"circle": 8}},
        pieces=[{"name": "wall", "shape": {"corners": [100, -500, 110, 500]}}],
    )
    run = haptos.simulate(level, "right+up 0.4 s, wait 1 s, right+down 2 s")
    track = run.track
    speed = (track.vx**2 + track.vy**2) ** 0.5
    assert speed[20] == pytest.approx(150)
    assert track.vx[20] == pytest.approx(track.vy[20])
    assert track.facing[20] == pytest.approx(45)
    length = 150 * 0.4 - 150**2 / 3600 + 150**2 / 4800
    assert math.hypot(track.x[80], track.y[80]) == pytest.approx(length, rel=1e-9)
    # Along the wall only the free part of the wish is left.
    assert track.x.iloc[-1] == pytest.approx(92)
    assert track.vy.iloc[-1] == pytest.approx(-150 * math.sqrt(0.5))
