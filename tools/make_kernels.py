"""Make the kernels that ship, for every sort of level and every platform; or only those of the sorts that are named.

python tools/make_kernels.py                   all, written into the package
python tools/make_kernels.py side-plain        made and compared with what ships; exits with 1 if they differ
"""

from __future__ import annotations

import os
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from importlib.metadata import version
from typing import Any

import haptos
from haptos.engine.build.compile_level import compile_level
from haptos.engine.compiling import machine_code, shipped
from haptos.engine.compiling.building import build
from haptos.engine.compiling.kernels import KernelCall, entry_name
from haptos.engine.ray import ray_caster
from haptos.engine.report.piece_poses import pose_tables_of
from haptos.engine.stepping import Runner

BOX = {"at": [0, 99], "shape": {"box": [9, 9]}}
# The smallest level of each sort; the slowest to compile first, so that no process is left with one at the end.
STAGES: dict[str, list[dict[str, Any]]] = {
    "loose": [{"name": "crate", "body": {}, **BOX}],
    "played": [{"name": "thorn", "harm": {}, **BOX}],
    "moving": [{"name": "lift", "route": {"stops": [[0, 0], [0, 9]], "speed": 9}, **BOX}],
    "full": [{"name": "mud", "surface": {"speed_factor": 0.5}, **BOX}],
    "plain": [],
}
SORTS = {
    f"{view}-{stage}{'' if method == 'exact' else '-whole'}": (stage, view, method)
    for method in ("exact", "velocity-verlet")
    for stage in STAGES
    for view in ("side", "top")
}
RAY, POSES, TRACE = "ray", "poses", "trace"
VERSIONS = {name: version(name) for name in ("numba", "llvmlite")}


def call_of(sort: str) -> KernelCall:
    """Return the kernel of a sort of level, with arguments."""
    if sort == RAY:
        return ray_caster(haptos.Level(pieces=[{"name": "floor", **BOX}])).still.call_of(None)
    if sort == POSES:
        caster = ray_caster(haptos.Level(pieces=STAGES["moving"]))
        assert caster.poses is not None
        return caster.poses
    if sort == TRACE:
        return pose_tables_of(haptos.Level(pieces=STAGES["moving"])).call_of([0], [0.0])
    stage, view, method = SORTS[sort]
    return Runner(compile_level(haptos.Level(world={"view": view, "method": method}, pieces=STAGES[stage]))).kernel_call


def make(sort: str) -> tuple[str, dict[str, bytes], float]:
    """Return the key of a sort's kernel, its machine code by platform, and the seconds that it took."""
    begin = time.perf_counter()
    call = call_of(sort)
    bitcode = build(call.function, tuple(call.arguments), entry_name(call.name))
    codes = {platform: machine_code.object_of(bitcode, platform) for platform in shipped.PLATFORMS}
    return call.key, codes, time.perf_counter() - begin


def main(sorts: list[str]) -> int:
    """Make kernels; return the exit code."""
    made: dict[str, dict[str, bytes]] = {platform: {} for platform in shipped.PLATFORMS}
    chosen = sorts or [*SORTS, RAY, POSES, TRACE]
    with ProcessPoolExecutor(min(os.cpu_count() or 1, len(chosen))) as pool:
        for sort, (key, codes, seconds) in zip(chosen, pool.map(make, chosen), strict=True):
            print(f"{sort}: {seconds:.1f} s, {len(codes[shipped.PLATFORMS[0]])} bytes", flush=True)
            for platform, code in codes.items():
                made[platform][key] = code
    if sorts:
        differ = [
            f"{platform}: {key}" for platform, codes in made.items() for key, code in codes.items()
            if shipped.shipped_code(key, platform) != code
        ]  # fmt: skip
        print("\n".join(f"differs from what ships: {name}" for name in differ) or "the same as what ships")
        return 1 if differ else 0
    archives = {platform: shipped.archive_of(codes) for platform, codes in made.items()}
    shipped.write_shipped(archives, VERSIONS)
    for platform, archive in archives.items():
        print(f"{shipped.FOLDER / platform}.tar.xz: {len(archive)} bytes")
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
