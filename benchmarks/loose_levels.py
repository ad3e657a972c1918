"""Random play in random levels with loose bodies, and the energy of bodies that nothing drives."""

from __future__ import annotations

import os
import sys
from concurrent.futures import ProcessPoolExecutor

from marks import Mark, at_most
from tests.generated_bodies import closed_scene_of, flaws_of, gain_of, scene_of

import haptos

# About 400 ticks each of play, and 240 of what nothing drives.
LEVELS = 2_000
PART = 100


def flawed(first: int) -> tuple[int, list[int], float]:
    """Return the ticks of a part of the levels, the seeds of those that are flawed, and the greatest gain of energy."""
    ticks, found, most = 0, [], 0.0
    for seed in range(first, first + PART):
        level, cues = scene_of(seed)
        run = haptos.simulate(level, cues)
        ticks += run.ticks
        if flaws_of(run):
            found.append(seed)
        level = closed_scene_of(seed)
        most = max(most, gain_of(level, haptos.simulate(level, "wait 4 s")))
    return ticks, found, most


def rows(levels: int = LEVELS) -> list[Mark]:
    """Return how many of the levels are flawed, and how much energy bodies gain in a tick."""
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        parts = list(pool.map(flawed, range(0, levels, PART)))
    seeds = [seed for _, found, _ in parts for seed in found]
    ticks = sum(part for part, _, _ in parts)
    more = f" in {ticks:,} ticks" + (f" (seeds {', '.join(map(str, seeds[:12]))})" if seeds else "")
    return [
        at_most("random levels with bodies and a flaw", len(seeds), 0, form=".0f", more=more),
        at_most("energy that undriven bodies gain, of the whole", max(part[2] for part in parts), 0.01, form=".4f"),
    ]


if __name__ == "__main__":
    for mark in rows(int(sys.argv[1]) if len(sys.argv) > 1 else LEVELS):
        print(mark.what, mark.measured)
