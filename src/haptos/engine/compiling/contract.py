"""How kernels are compiled and where their machine code is kept.

Numba's own cache key does not see a change in a called function of another file, so the folder's name is a hash of all
sources that kernels are made of. The setting is Numba-wide, so it is in force only while one of our kernels is being
decorated.
"""

from __future__ import annotations

import hashlib
import os
import shutil
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any, TypeVar

import numba
import numpy as np
import platformdirs
from numba.core import config

from haptos.engine.compiling.linking import KernelCompiler, LeafCompiler

Function = TypeVar("Function", bound=Callable[..., Any])

# Older folders of kernels are kept this long by count, so that two checkouts in turn don't compile again each time.
KEPT_FOLDERS = 4
# A source with one of these marks has kernels or leaves in it; the foundations have what those are compiled against.
MARKS = (b"\n@leaf", b"\n@kernel")
FOUNDATIONS = (
    "compiled.py", "ledger.py", "linking.py", "motion_tables.py", "records.py", "state.py", "state_records.py",
    "tables.py",
)  # fmt: skip


@cache
def cache_folder() -> Path | None:
    """Return the folder of compiled kernels, or None where none can be written."""
    digest = hashlib.sha256(f"{numba.__version__}".encode())
    for source in sorted(Path(__file__).parents[1].rglob("*.py")):
        text = source.read_bytes()
        if source.name in FOUNDATIONS or any(mark in text for mark in MARKS):
            digest.update(source.name.encode() + text)
    root = Path(os.environ.get("HAPTOS_CACHE_DIR") or platformdirs.user_cache_dir("haptos")) / "kernels"
    folder = root / digest.hexdigest()[:20]
    try:
        folder.mkdir(parents=True, exist_ok=True)
        probe = folder / f".probe-{os.getpid()}"
        probe.touch()
        probe.unlink()
        os.utime(folder)
    except OSError:
        return None
    _prune(root)
    return folder


def _prune(root: Path) -> None:
    try:
        folders = sorted((item for item in root.iterdir() if item.is_dir()), key=lambda item: -item.stat().st_mtime)
    except OSError:
        return
    for stale in folders[KEPT_FOLDERS:]:
        shutil.rmtree(stale, ignore_errors=True)


def constant(value: int) -> int:
    """Return an integer that kernels take as a value: Numba compiles a function again for every plain one."""
    code: Any = np.int64(value)
    return code


# Kernels allocate nothing: without Numba's reference counting they run several times faster. Leaves are never called
# from Python, so they need no wrappers for that.
COMMON = {"nogil": True, "error_model": "numpy", "_nrt": False, "no_cfunc_wrapper": True}
_njit: Any = numba.njit
_config: Any = config


def leaf(function: Function) -> Function:
    """Compile a function that only kernels call; it becomes part of their machine code."""
    compiled: Function = _njit(no_cpython_wrapper=True, pipeline_class=LeafCompiler, **COMMON)(function)
    return compiled


def kernel(function: Function) -> Function:
    """Compile a function that Python calls, and keep its machine code for the next process."""
    folder = cache_folder()
    if folder is None:
        uncached: Function = _njit(pipeline_class=KernelCompiler, **COMMON)(function)
        return uncached
    before = _config.CACHE_DIR
    _config.CACHE_DIR = str(folder)
    try:
        compiled: Function = _njit(cache=True, pipeline_class=KernelCompiler, **COMMON)(function)
    finally:
        _config.CACHE_DIR = before
    _save_alone(compiled, folder)
    return compiled


def _save_alone(compiled: Any, folder: Path) -> None:
    """Let one process at a time save machine code: Numba reads the index of a folder and writes it whole."""
    if not hasattr(compiled, "_cache"):
        # Where Numba is told not to compile, kernels are plain functions.
        return
    save = compiled._cache.save_overload

    def saved(signature: Any, data: Any) -> None:
        with _alone(folder / "saving"):
            save(signature, data)

    compiled._cache.save_overload = saved


@contextmanager
def _alone(path: Path) -> Iterator[None]:
    """Wait until no other process holds a file, where the system knows such locks."""
    try:
        import fcntl
    except ImportError:
        yield
        return
    with path.open("w") as file:
        fcntl.flock(file, fcntl.LOCK_EX)
        yield


def is_ready(capabilities: str) -> bool:
    """Whether the kernels for a set of capabilities were compiled before."""
    folder = cache_folder()
    return folder is not None and (folder / f"{capabilities}.ready").exists()


def mark_ready(capabilities: str) -> None:
    """Remember that the kernels for a set of capabilities are compiled."""
    folder = cache_folder()
    if folder is not None:
        try:
            (folder / f"{capabilities}.ready").touch()
        except OSError:
            return
