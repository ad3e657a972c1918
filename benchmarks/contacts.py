"""Random play in random levels: no stall, nobody behind a wall, nothing touched twice. The tests have a short form."""

from __future__ import annotations

import os
import sys
from concurrent.futures import ProcessPoolExecutor

from marks import Mark, at_most
from tests.generated import cues_of, flaws_of, level_of

import haptos

# About 908 ticks each: ten million.
LEVELS = 11_250
PART = 250


def flawed(first: int) -> tuple[int, list[int]]:
    """Return the ticks of a part of the levels, and the seeds of those that are flawed."""
    ticks, found = 0, []
    for seed in range(first, first + PART):
        try:
            run = haptos.simulate(level_of(seed), cues_of(seed))
        except haptos.LevelError:
            continue
        ticks += run.ticks
        if flaws_of(run):
            found.append(seed)
    return ticks, found


def rows(levels: int = LEVELS) -> list[Mark]:
    """Return how many of the levels are flawed."""
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        parts = list(pool.map(flawed, range(0, levels, PART)))
    seeds = [seed for _, found in parts for seed in found]
    ticks = sum(part for part, _ in parts)
    more = f" in {ticks:,} ticks" + (f" (seeds {', '.join(map(str, seeds[:12]))})" if seeds else "")
    return [at_most("random levels with a stall or another flaw", len(seeds), 0, form=".0f", more=more)]


if __name__ == "__main__":
    for mark in rows(int(sys.argv[1]) if len(sys.argv) > 1 else LEVELS):
        print(mark.what, mark.measured)
