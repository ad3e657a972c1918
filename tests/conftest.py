"""Levels that many tests use."""

from __future__ import annotations

import sys
from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import settings

import haptos
from haptos import cli
from tests.scenes import floor

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
        return haptos.Level(pieces=[floor(5000), *(pieces or [])], **sections)

    return make


@pytest.fixture
def tool(capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch) -> Callable[..., tuple[int, str, str]]:
    """Run a command of the tool; return its exit code, and what it wrote."""

    # A test runner with several workers says how wide its own terminal is.
    monkeypatch.delenv("COLUMNS", raising=False)

    def call(*words: object) -> tuple[int, str, str]:
        monkeypatch.setattr(sys, "argv", ["haptos", *map(str, words)])
        code = 0
        try:
            cli.main()
        except SystemExit as stop:
            code = int(stop.code or 0)
        out = capsys.readouterr()
        return code, out.out, out.err

    return call
