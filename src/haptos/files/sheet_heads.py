"""Which files are cue sheets, and of which level: read without the level's units."""

from __future__ import annotations

import json
import tomllib
from pathlib import Path
from typing import Any, NamedTuple

SHEET_KEY = "haptos_cues"
ENDINGS = (".toml", ".json")


class SheetHead(NamedTuple):
    """What a cue sheet says about itself: its level, and what its expectations are called, or are about."""

    level: Path | None
    expects: tuple[str, ...]


def read_head(file: Path) -> SheetHead | None:
    """Return what a file says about itself as a cue sheet; None if it is none, or can't be read as one."""
    try:
        text = file.read_text(encoding="utf-8")
        if file.suffix.lower() not in ENDINGS or SHEET_KEY not in text:
            return None
        raw = json.loads(text) if file.suffix.lower() == ".json" else tomllib.loads(text)
    except (OSError, ValueError, RecursionError):
        return None
    if not isinstance(raw, dict) or SHEET_KEY not in raw:
        return None
    level = raw.get("level")
    return SheetHead(file.parent / level if isinstance(level, str) else None, _names(raw.get("expect")))


def _names(expect: Any) -> tuple[str, ...]:
    """Return what expectations are called: by their name, or by what is written in them."""
    if not isinstance(expect, list):
        return ("expect",) if expect else ()
    return tuple(
        str(one.get("name") or ", ".join(f"{key} = {value}" for key, value in one.items()))
        if isinstance(one, dict)
        else str(one)
        for one in expect
    )


def says_it_is_a_sheet(file: Path) -> bool:
    """Whether a file that may be broken is meant as a cue sheet."""
    try:
        text = file.read_text(encoding="utf-8", errors="replace")
    except OSError:
        return False
    return any(line.lstrip(' {"').startswith(SHEET_KEY) for line in text.splitlines())


def find_sheets(folder: Path) -> list[Path]:
    """Return the files below a folder that are meant as cue sheets, in order of their names; hidden ones are not.

    Parameters
    ----------
    folder : Path
    """
    found = []
    for ending in ENDINGS:
        for file in folder.rglob(f"*{ending}"):
            hidden = any(part.startswith(".") for part in file.relative_to(folder).parts)
            if not hidden and file.is_file() and says_it_is_a_sheet(file):
                found.append(file)
    return sorted(found)
