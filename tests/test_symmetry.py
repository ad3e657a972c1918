"""Turned, mirrored and scaled levels give turned, mirrored and scaled tracks."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import haptos
from tests.hall import points, scaled_player

CUES = (
    "right+jump 0.3 s, right 0.7 s, right+sprint+jump 0.5 s, right+sprint 0.6 s, jump 0.3 s, left 0.6 s, "
    "left+jump 0.3 s, left+sprint 1 s, right+jump 0.5 s, wait 0.5 s"
)

MIRRORED = CUES.replace("right", "LEFT").replace("left", "right").replace("LEFT", "left")
ROWS = """
...........==...
...==...........
...........##...
################
"""
BOXES = [
    ((-20.0, 60.0), (8.0, 152.0), 0.0),
    ((244.0, 60.0), (8.0, 152.0), 0.0),
    ((42.0, 6.0), (30.0, 12.0), 0.0),
    ((110.0, 0.0), (40.0, 14.0), 20.0),
]


def room(angle: float = 0.0, scale: float = 1.0, mirror: bool = False) -> haptos.Level:
    """The same room, turned about the origin, scaled, or mirrored at the y axis."""
    turn = math.radians(angle)
    side = -1.0 if mirror else 1.0

    def put(x: float, y: float) -> list[float]:
        x, y = side * scale * x, scale * y
        return [x * math.cos(turn) - y * math.sin(turn), x * math.sin(turn) + y * math.cos(turn)]

    rows = "\n".join(line[::-1] if mirror else line for line in ROWS.strip().split("\n"))
    pieces = [
        {
            "name": f"box {index}",
            "at": put(*at),
            "turn": side * own + angle,
            "shape": {"box": [scale * side_ for side_ in size]},
        }
        for index, (at, size, own) in enumerate(BOXES)
    ]
    pieces.append({"name": "globe", "at": put(200, -6), "shape": {"circle": 14 * scale}})
    corner = put(240 if mirror else -16, -16)
    return haptos.Level(
        world={"gravity": [1800 * scale * math.sin(turn), -1800 * scale * math.cos(turn)]},
        player={
            "at": put(0, 14.5),
            "shape": {"capsule": [14 * scale, 28 * scale]},
            **scaled_player(scale),
        },
        kinds={"stone": {}, "shelf": {"shape": {"box": [16 * scale, 6 * scale]}}},
        map={"tile": 16 * scale, "at": corner, "turn": angle, "rows": rows, "signs": {"#": "stone", "=": "shelf"}},
        pieces=pieces,
    )


def test_the_room_is_worth_testing():
    events = haptos.simulate(room(), CUES).events
    assert {"land", "jump", "apex", "touch"} <= set(events.event)
    assert {"map/stone", "map/shelf", "box 0", "box 3"} <= set(events.piece)


@settings(max_examples=12, deadline=None)
@given(angle=st.one_of(st.just(37.0), st.just(90.0), st.just(180.0), st.floats(-180, 180)))
def test_a_turned_level_gives_the_turned_track(angle):
    turn = math.radians(angle)
    spin = np.array([[math.cos(turn), math.sin(turn)], [-math.sin(turn), math.cos(turn)]])
    assert np.abs(points(room(angle), CUES) - points(room(), CUES) @ spin).max() < 1e-6


@pytest.mark.parametrize("scale", [0.01, 7.0, 1000.0])
def test_a_scaled_level_gives_the_scaled_track(scale):
    assert np.abs(points(room(scale=scale), CUES) / scale - points(room(), CUES)).max() < 1e-6


def test_a_mirrored_level_gives_the_mirrored_track():
    mirrored = points(room(mirror=True), MIRRORED)
    assert np.abs(mirrored * [-1, 1] - points(room(), CUES)).max() < 1e-6
