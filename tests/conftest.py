"""Levels that many tests use."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import settings

import haptos

# The same examples every time, however slow the machine; `--hypothesis-profile=default` looks for new ones.
settings.register_profile("steady", derandomize=True, deadline=None)
settings.load_profile("steady")

GRAVITY = 1800.0
HEIGHT = 72.0


@pytest.fixture
def flat() -> Callable[..., haptos.Level]:
    """A floor whose top is at height zero, with the body standing on it at x = 0."""

    def make(pieces: list[dict[str, Any]] | None = None, shape: Any = None, **sections: Any) -> haptos.Level:
        shape = shape or {"capsule": [14, 28]}
        high = shape.get("circle", 0) * 2 or (shape.get("capsule") or shape.get("box"))[1]
        sections.setdefault("player", {}).setdefault("at", [0, high / 2])
        sections["player"].setdefault("shape", shape)
        floor = {"name": "floor", "shape": {"corners": [-5000, -16, 5000, 0]}}
        return haptos.Level(pieces=[floor, *(pieces or [])], **sections)

    return make


def first(run: haptos.Run, event: str, after: float = -1.0, piece: str | None = None) -> Any:
    """Return the first event of a sort."""
    events = run.events
    rows = events[(events.event == event) & (events.t > after)]
    if piece is not None:
        rows = rows[rows.piece == piece]
    assert len(rows), f"no {event} in {events.event.tolist()}"
    return rows.iloc[0]
