"""The public face: what it says of itself, what it refuses, and that levels and snapshots stay what they are."""

from __future__ import annotations

import copy
import inspect
import pickle
import re

import numpy as np
import pytest

import haptos
from haptos.demo import demo_file

FUNCTIONS = [getattr(haptos, name) for name in haptos.__all__ if inspect.isfunction(getattr(haptos, name))]
METHODS = [
    method
    for kind in (haptos.Simulation, haptos.Run)
    for name, method in inspect.getmembers(kind, inspect.isfunction)
    if not name.startswith("_") and len(inspect.signature(method).parameters) > 1
]


@pytest.fixture
def level() -> haptos.Level:
    return haptos.load(demo_file("lantern-way.toml"))


@pytest.mark.parametrize("function", [*FUNCTIONS, *METHODS], ids=lambda function: function.__qualname__)
def test_every_public_function_says_what_goes_in_what_comes_out_and_what_is_raised(function):
    text = inspect.getdoc(function) or ""
    sections = {"Parameters"} | ({"Raises"} if function.__name__ != "restore" else set())
    if inspect.signature(function).return_annotation != "None":
        sections.add("Returns")
    if function in FUNCTIONS:
        sections.add("Examples")
    assert sections <= set(re.findall(r"^(\w+)\n-+$", text, re.MULTILINE))
    for name in inspect.signature(function).parameters:
        assert name == "self" or re.search(rf"^(\w+, )*{name}\b.* : ", text, re.MULTILINE), name


@pytest.mark.parametrize(
    ("call", "kind", "message"),
    [
        (lambda: haptos.simulate("east-wing.toml", "right 1 s"), TypeError, "found 'east-wing.toml', expected a Level"),
        (lambda: haptos.check(None), TypeError, "found None, expected a Level"),
        (lambda: haptos.moves("x.toml"), TypeError, "expected a Level"),
        (lambda: haptos.gaps({}), TypeError, "expected a Level"),
        (lambda: haptos.draw("x.toml"), TypeError, "expected a Level"),
        (lambda: haptos.first_hit("x.toml", (0, 0), (1, 0)), TypeError, "expected a Level"),
        (lambda: haptos.simulate_many(haptos.Level(), "right 1 s"), TypeError, "expected a list of cue sheets"),
        (lambda: haptos.simulate(haptos.Level(), "rihgt 1 s"), haptos.CueError, "did you mean 'right'"),
        (lambda: haptos.Simulation(haptos.Level()).step("rihgt"), haptos.CueError, "did you mean 'right'"),
        (lambda: haptos.Simulation(haptos.Level()).step(ticks=-1), ValueError, "found -1 ticks"),
        (lambda: haptos.Simulation(haptos.Level()).place(float("nan"), 0), ValueError, "expected finite numbers"),
        (lambda: haptos.first_hit(haptos.Level(), (0, 0), (0, 0)), ValueError, "finite numbers and a direction"),
        (lambda: haptos.Level(peices=[]), haptos.LevelError, "did you mean 'pieces'"),
    ],
)  # fmt: skip
def test_wrong_arguments_are_one_sentence(call, kind, message):
    with pytest.raises(kind, match=re.escape(message)) as caught:
        call()
    assert "\n" not in str(caught.value)


def test_a_level_can_not_be_changed_and_copies_are_checked(level):
    assert isinstance(level.pieces, tuple)
    for change in (
        lambda: setattr(level, "title", "another"),
        lambda: level.kinds.update(level.kinds),
        lambda: level.kinds.__setitem__("plank", None),
        lambda: level.counters.clear(),
    ):
        with pytest.raises((TypeError, ValueError)):
            change()
    slow = level.model_copy(update={"world": level.world.model_copy(update={"tick_rate": 30})})
    assert slow.world.tick_rate == 30
    assert slow.pieces == level.pieces
    with pytest.raises(ValueError, match="tick_rate"):
        level.world.model_copy(update={"tick_rate": -1})
    with pytest.raises(haptos.LevelError, match="did you mean 'world'"):
        level.model_copy(update={"wrold": 1})


def test_equal_levels_are_one_in_a_set_and_survive_copies_and_pickles(level):
    haptos.simulate(level, "wait 0.1 s")
    again = haptos.load(demo_file("lantern-way.toml"))
    others = [again, copy.copy(level), copy.deepcopy(level), pickle.loads(pickle.dumps(level))]
    assert {level, *others} == {level}
    run = haptos.simulate(level, "right 0.5 s")
    for other in others:
        assert haptos.simulate(other, "right 0.5 s").track_records.tobytes() == run.track_records.tobytes()


def test_a_level_is_compiled_once_and_its_tables_stay_as_they_are(level):
    first, second = haptos.simulate(level, "right 0.5 s"), haptos.Simulation(level)
    assert first.compiled is second.compiled
    tables = first.compiled.tables
    for table in (tables.world, tables.solids.outlines, tables.stakes.pickups, tables.movers.movers):
        with pytest.raises(ValueError, match="read-only"):
            table[0] = table[0]
    # What rules change in one run does not reach the next.
    assert haptos.simulate(level, "right 3 s").track_records.tobytes() == (
        haptos.simulate(haptos.load(demo_file("lantern-way.toml")), "right 3 s").track_records.tobytes()
    )


def test_snapshots_are_a_tree_and_no_branch_disturbs_another(level):
    simulation = haptos.Simulation(level)
    root = simulation.snapshot()
    simulation.step("right", ticks=20)
    fork = simulation.snapshot()
    simulation.step("right+jump", ticks=30)
    high, high_run = simulation.snapshot(), simulation.run
    simulation.restore(fork)
    simulation.step("left", ticks=45)
    low, low_run = simulation.snapshot(), simulation.run
    for snapshot, run, cues in (
        (high, high_run, f"right {20 / 60} s, right+jump {30 / 60} s"),
        (low, low_run, f"right {20 / 60} s, left {45 / 60} s"),
    ):
        simulation.restore(snapshot)
        alone = haptos.simulate(level, cues)
        for one in (run, simulation.run):
            assert one.track_records.tobytes() == alone.track_records.tobytes()
            # Only a run of cues has an end.
            assert one.event_records.tobytes() == alone.event_records[:-1].tobytes()
            assert one.flight_records.tobytes() == alone.flight_records.tobytes()
    simulation.restore(root)
    assert len(simulation.run.track) == 1
    assert np.isclose(simulation.x, level.player.at[0])
