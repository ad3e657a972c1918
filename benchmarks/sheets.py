"""Many runs of the demo's lift shaft: a hundred sheets verified, and a thousand points swept."""

from __future__ import annotations

import shutil
import tempfile
import time
from pathlib import Path

import numpy as np
from marks import Mark, at_most

import haptos
from haptos.demo import demo_file
from haptos.study.verify_sheets import sheets_under, verify_sheets

SHEETS, POINTS = 100, 1000
MEASURES = ["end x", "event board lift", "that x > 800"]


def rows() -> list[Mark]:
    """Return how long both take, on all cores; each sheet and each point is a run of ten seconds."""
    level, sheet = demo_file("lift-shaft.toml"), demo_file("over-the-pit.toml")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        shutil.copy(level, folder)
        for number in range(SHEETS):
            shutil.copy(sheet, folder / f"sheet-{number}.toml")
        begin = time.perf_counter()
        found = list(verify_sheets(sheets_under([folder])))
        verified = time.perf_counter() - begin
    assert len(found) == SHEETS
    assert all(one.held for one in found)
    begin = time.perf_counter()
    heights = np.linspace(60, 120, POINTS)
    table = haptos.sweep(haptos.load(level), sheet, {"player.jump.height": heights}, MEASURES)
    swept = time.perf_counter() - begin
    assert len(table) == POINTS
    return [
        at_most(f"{SHEETS} sheets of ten seconds verified", verified, 5, "s"),
        at_most(f"{POINTS:,} points of a ten-second run swept", swept, 10, "s"),
    ]


if __name__ == "__main__":
    for mark in rows():
        print(mark.what, mark.measured)
