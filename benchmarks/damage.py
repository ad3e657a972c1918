"""Damaged level files: each runs, or is refused in sentences of our own, and none takes long."""

from __future__ import annotations

import os
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import NamedTuple

from marks import Mark, at_most
from tests.damaged import CUES, FOREIGN, damaged_cues, damaged_level, outcome

FILES = 10_000


class Tally(NamedTuple):
    """What became of some damaged files: how many failed, in whose words, and the longest that one took, s."""

    failed: int
    foreign: int
    slowest: float


def tally(seeds: range) -> Tally:
    failed, foreign, slowest = 0, 0, 0.0
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder, "damaged.toml")
        for seed in seeds:
            begin = time.process_time()
            try:
                said = outcome(damaged_level(seed), damaged_cues(seed) if seed % 3 == 0 else CUES, file)
            except Exception as error:  # what is counted here is anything that is not our own
                failed += 1
                print(f"damaged file {seed}: {type(error).__name__}: {error}")
                continue
            foreign += bool(FOREIGN.search(said))
            # The first one loads everything.
            slowest = max(slowest, time.process_time() - begin) if seed > seeds[0] else slowest
    return Tally(failed, foreign, slowest)


def rows() -> list[Mark]:
    workers = os.cpu_count() or 1
    size = -(-FILES // (8 * workers))
    with ProcessPoolExecutor(workers) as pool:
        tallies = list(pool.map(tally, [range(first, first + size) for first in range(0, FILES, size)]))
    return [
        at_most(f"{FILES:,} damaged levels, neither run nor refused", sum(one.failed for one in tallies), 0, form="d"),
        at_most("… refused in the words of a library", sum(one.foreign for one in tallies), 0, form="d"),
        at_most("… the slowest, processor time", max(one.slowest for one in tallies), 1.0, "s"),
    ]
