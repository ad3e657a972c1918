"""One level with everything to stand on: mirrored, turned, scaled, and at other tick rates it gives the same run."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from tests.hall import BODIES, hall, mirrored, points, random_cues

# Over the ramp, by the slanted drum and the drum, back over the landing and up through the awning.
RIGHTWARD = (
    "right 1 s, right+sprint 0.8 s, right+sprint+jump 0.3 s, right+sprint 1 s, wait 0.5 s, left+sprint 1.2 s, "
    "left+jump 0.2 s, left 1.2 s, left+jump 0.2 s, left 0.8 s, jump 0.3 s, wait 1 s, down+jump 0.1 s, left+sprint 2 s"
)
# Up the rigging through the loft, off its end, through the flap, the tar and over the ice, and back.
LEFTWARD = (
    "left 0.9 s, up 1.5 s, wait 0.2 s, left+jump 0.3 s, left 1.2 s, left+sprint 1.7 s, wait 1.5 s, right+sprint 2 s, "
    "right+jump 0.3 s, right+sprint 2 s, wait 1 s"
)
# And random play.
SHEETS = [RIGHTWARD, LEFTWARD, *(random_cues(seed) for seed in (1, 2, 4))]


def test_the_tours_are_worth_testing():
    runs = [haptos.simulate(hall(body=body), cues) for cues in (RIGHTWARD, LEFTWARD) for body in BODIES]
    met = {piece for run in runs for piece in run.events.piece}
    assert {"ramp", "landing", "way down", "awning", "slant", "drum", "rigging", "loft", "flap", "tar", "ice"} <= met
    happened = {event for run in runs for event in run.events.event}
    assert {"launch", "climb", "pass", "enter", "leave", "land", "jump", "apex"} <= happened
    assert all(run.ticks >= 600 for run in runs)


@pytest.mark.parametrize("cues", SHEETS)
@pytest.mark.parametrize("body", BODIES)
def test_mirrored_and_scaled(body, cues):
    here = points(hall(body=body), cues)
    assert np.abs(points(hall(body=body, mirror=True), mirrored(cues)) * [-1, 1] - here).max() < 1e-6
    for scale in (0.01, 1000.0):
        assert np.abs(points(hall(body=body, scale=scale), cues) / scale - here).max() < 1e-6


@settings(max_examples=12, deadline=None)
@given(angle=st.one_of(st.sampled_from([37.0, 90.0, 180.0]), st.floats(-180, 180)), which=st.integers(0, 4))
def test_turned_by_any_angle(angle, which):
    body, cues = BODIES[which % 3], SHEETS[which]
    turn = math.radians(angle)
    spin = np.array([[math.cos(turn), math.sin(turn)], [-math.sin(turn), math.cos(turn)]])
    assert np.abs(points(hall(angle, body=body), cues) - points(hall(body=body), cues) @ spin).max() < 1e-6


@pytest.mark.parametrize("cues", SHEETS)
@pytest.mark.parametrize("body", BODIES)
def test_the_same_at_every_tick_rate(body, cues):
    slow = points(hall(tick_rate=30, body=body), cues)
    for rate in (60, 120, 240):
        fast = points(hall(tick_rate=rate, body=body), cues)
        assert np.abs(fast[:: rate // 30] - slow).max() < 1e-6
