"""Files written whole or not at all."""

from __future__ import annotations

import json
import os
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from haptos.errors import HaptosError


def write_whole(path: Path, write: Callable[[Path], None]) -> None:
    """Let a function write a file beside its place, then put it there in one step.

    Parameters
    ----------
    path : Path
    write : function of the path to write to, which ends like `path`

    Raises
    ------
    HaptosError
        If the place can't be written.
    """
    try:
        handle, name = tempfile.mkstemp(prefix=".haptos-", suffix=path.suffix, dir=path.parent)
    except OSError as error:
        raise HaptosError(f"{path}: can't be written: {error.strerror}") from None
    os.close(handle)
    beside = Path(name)
    try:
        write(beside)
        beside.chmod(0o644)
        os.replace(beside, path)
    except OSError as error:
        raise HaptosError(f"{path}: can't be written: {error.strerror}") from None
    finally:
        beside.unlink(missing_ok=True)


def write_text(path: Path, text: str) -> None:
    """Write a text file whole or not at all."""
    write_whole(path, lambda beside: _put(beside, text))


def write_bytes(path: Path, content: bytes) -> None:
    """Write a binary file whole or not at all."""
    write_whole(path, lambda beside: _put_bytes(beside, content))


def _put_bytes(path: Path, content: bytes) -> None:
    path.write_bytes(content)


def _put(path: Path, text: str) -> None:
    path.write_text(text, encoding="utf-8")


def writable_folder(folder: str | Path) -> Path:
    """Return an output folder, made if it is missing.

    Raises
    ------
    HaptosError
        If it can't be made or written.
    """
    path = Path(folder)
    try:
        path.mkdir(parents=True, exist_ok=True)
        handle, probe = tempfile.mkstemp(prefix=".haptos-", dir=path)
        os.close(handle)
        os.unlink(probe)
    except FileExistsError:
        raise HaptosError(f"{path}: this is a file, expected a folder to write to") from None
    except OSError as error:
        raise HaptosError(f"{path}: can't be written: {error.strerror}") from None
    return path


def to_json_text(value: Any) -> str:
    """Return JSON for people and programs: indented, no NaN."""
    return json.dumps(value, indent=2, ensure_ascii=False, allow_nan=False) + "\n"
