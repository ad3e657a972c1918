"""Compile every sort of kernel that the tests need, two at a time; pytest would have each of its workers do so."""

from __future__ import annotations

import os
import time
from concurrent.futures import ProcessPoolExecutor

import haptos
from haptos.engine.simulation import needs_compiling

BOX = {"at": [0, 99], "shape": {"box": [9, 9]}}
STAGES = {
    "plain": [],
    "full": [{"name": "mud", "surface": {"speed_factor": 0.5}, **BOX}],
    "moving": [{"name": "lift", "route": {"stops": [[0, 0], [0, 9]], "speed": 9}, **BOX}],
    "played": [{"name": "thorn", "harm": {}, **BOX}],
}
# The slowest to compile first, so that no worker is left with one at the end.
SORTS = [
    *((stage, view, "exact") for stage in ("played", "moving", "full", "plain") for view in ("side", "top")),
    *((stage, "side", "velocity-verlet") for stage in ("moving", "plain")),
]


def compile_sort(stage: str, view: str, method: str) -> str:
    """Run one tick of a level of a sort, which compiles its kernels if no process did before."""
    begin = time.perf_counter()
    level = haptos.Level(world={"view": view, "method": method}, pieces=STAGES[stage])
    is_ready = not needs_compiling(level)
    if not is_ready:
        haptos.simulate(level, "wait 0.1 s")
    return f"{view}-{stage} {method}: {'ready' if is_ready else f'{time.perf_counter() - begin:.1f} s'}"


if __name__ == "__main__":
    with ProcessPoolExecutor(min(os.cpu_count() or 1, 2)) as pool:
        for line in pool.map(compile_sort, *zip(*sorted(SORTS, key=lambda sort: sort[2]), strict=True)):
            print(line, flush=True)
