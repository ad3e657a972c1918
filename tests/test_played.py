"""The rooms where everything is at stake, played: by their cue sheets, at random, in batches, and from snapshots."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from haptos.demo import demo_file
from haptos.files.reading import load_cues
from haptos.level.origins import values_of
from haptos.level.resolve import ResolvedLevel

ROOMS = {"lantern-way": "to-the-lantern", "orrery-hall": "round-the-globes"}
TOOLS = st.sampled_from(
    ["right", "left", "jump", "right+jump", "left+jump", "right+sprint+jump", "wait", "down", "act"]
)


def played(room: str) -> haptos.Run:
    return haptos.simulate(haptos.load(demo_file(f"{room}.toml")), load_cues(demo_file(f"{ROOMS[room]}.toml")))


def test_the_lamplighter_gets_to_the_lantern_with_all_the_oil():
    run = played("lantern-way")
    events = run.events
    assert events.event.iloc[-2:].tolist() == ["finish", "end"]
    assert run.summary()["counters"] == {"oil": 10}
    # Two thorns, with a mercy time in between; the tar dries when the second lamp is reached.
    assert events[(events.event == "hurt") & (events.amount > 0)].piece.tolist() == ["railing", "railing 2"]
    assert run.track.health.iloc[-1] == 1
    assert events[events.event == "checkpoint"].piece.tolist() == ["lamp", "lamp 2"]
    assert "oil for the whole night" in run.says()
    assert events[events.event == "reward"].amount.tolist() == [1]


def test_the_lamplighter_walks_along_the_ceiling_and_round_the_globe():
    run = played("orrery-hall")
    assert set(run.track.support) >= {"floor", "roof", "stair", "great globe"}
    # It comes down on its side, and has stood up a fifth of a second later.
    on_the_globe = run.track[run.track.support == "great globe"].iloc[12:]
    angle = np.arctan2(on_the_globe.x - 800, on_the_globe.y - 190)
    assert np.ptp(np.unwrap(angle)) > math.pi
    away = np.hypot(on_the_globe.x - 800, on_the_globe.y - 190)
    assert away.to_numpy() == pytest.approx(60 + 14, abs=0.2)
    up = np.column_stack((on_the_globe.up_x, on_the_globe.up_y))
    out = np.column_stack((on_the_globe.x - 800, on_the_globe.y - 190)) / away.to_numpy()[:, None]
    # Two turns a second are faster than it walks round: it stands straight out, but for the way of one tick.
    assert (up * out).sum(axis=1).min() > 0.99
    assert run.track[run.track.flipped].up_y.tolist() == pytest.approx([-1] * int(run.track.flipped.sum()))


@settings(max_examples=8, deadline=None)
@given(
    room=st.sampled_from(sorted(ROOMS)), holds=st.lists(st.tuples(TOOLS, st.integers(5, 60)), min_size=4, max_size=12)
)
def test_random_play_is_the_same_alone_in_a_batch_and_from_a_snapshot(room, holds):
    level = haptos.load(demo_file(f"{room}.toml"))
    cues = ", ".join(f"{held} {ticks / 60:.6f} s" for held, ticks in holds)
    alone = haptos.simulate(level, cues)
    assert np.isfinite(alone.track[["x", "y", "vx", "vy"]].to_numpy()).all()
    others = ["right 3 s", cues, "left 1 s, jump 0.5 s, right 2 s", cues]
    for run in haptos.simulate_many(level, others, threads=2)[1::2]:
        assert run.event_records.tobytes() == alone.event_records.tobytes()
        assert run.track_records.tobytes() == alone.track_records.tobytes()
    simulation = haptos.Simulation(level)
    half = len(holds) // 2
    for held, ticks in holds[:half]:
        simulation.step("" if held == "wait" else held, ticks=ticks)
    before = simulation.snapshot()
    simulation.step("right", ticks=50)
    simulation.restore(before)
    for held, ticks in holds[half:]:
        simulation.step("" if held == "wait" else held, ticks=ticks)
    assert simulation.run.track_records.tobytes() == alone.track_records.tobytes()


def test_what_a_section_says_within_another_is_shown_line_by_line():
    level = haptos.load(demo_file("orrery-hall.toml"))
    shown = {row.key: row.value for row in values_of(ResolvedLevel(level), "lesser globe/pull")}
    assert (shown["field.gravity.toward"], shown["field.gravity.strength"]) == (True, 1500)
    assert "field.gravity" not in shown
