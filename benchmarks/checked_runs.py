"""Random levels as plain Python, which raises where machine code would read out of a table, and compiled."""

from __future__ import annotations

import os
import sys
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor

from marks import Mark, at_most
from tests.test_checked_runs import bodies_of, contacts_of, crossings_of

# Of each sort; about a quarter of an hour on two cores.
LEVELS = {contacts_of: 800, bodies_of: 400, crossings_of: 800}
PART = 20


def flawed(job: tuple[Callable[[int], Iterator[tuple[str, bytes]]], int]) -> list[str]:
    """Return the seeds of a part of the levels in which something is raised, or the bits differ."""
    played, first = job
    found = []
    for seed in range(first, first + PART):
        bits = []
        for interpreted in ("0", "1"):
            os.environ["HAPTOS_INTERPRET"] = interpreted
            try:
                bits.append(list(played(seed)))
            except (IndexError, ArithmeticError, ValueError, TypeError) as error:
                bits.append([(type(error).__name__, b"")])
        if bits[0] != bits[1]:
            found.append(f"{played.__name__.partition('_')[0]} {seed}")
    return found


def rows(share: float = 1.0) -> list[Mark]:
    """Return in how many of the levels anything differs; of a share of them."""
    jobs = [(played, first) for played, count in LEVELS.items() for first in range(0, int(share * count), PART)]
    before = os.environ.get("HAPTOS_INTERPRET", "0")
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        flaws = [flaw for part in pool.map(flawed, jobs) for flaw in part]
    os.environ["HAPTOS_INTERPRET"] = before
    more = f" of {len(jobs) * PART:,}" + (f" ({', '.join(flaws[:12])})" if flaws else "")
    return [at_most("random levels that differ as plain Python, or raise", len(flaws), 0, form=".0f", more=more)]


if __name__ == "__main__":
    for mark in rows(float(sys.argv[1]) if len(sys.argv) > 1 else 1.0):
        print(mark.what, mark.measured)
