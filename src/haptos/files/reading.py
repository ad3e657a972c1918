"""Levels and cue sheets from files."""

from __future__ import annotations

import csv
import json
import tomllib
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any

from haptos.engine.build.whole_level import Level
from haptos.errors import CueError, HaptosError, LevelError
from haptos.files.lines import SourceLines
from haptos.files.syntax import json_slip, toml_slip
from haptos.level.cues import Cues, Part, Step, held_bits, parse_cues
from haptos.level.deeds import read_deed
from haptos.level.expectations import read_expectations
from haptos.level.level import Origin
from haptos.level.names import did_you_mean, short
from haptos.level.quantity import Units, shared_units

CUE_SHEET_VERSION = 1
CUE_SHEET_KEYS = ("haptos_cues", "level", "title", "cues", "stop", "expect")
CUE_COLUMNS = ("t", "held")


@dataclass(frozen=True)
class CueSheet:
    """A cue sheet file: its cues, and the level that it is for."""

    cues: Cues
    level: Path | None
    title: str


def load(path: str | Path) -> Level:
    """Read a level from a TOML or JSON file.

    Parameters
    ----------
    path : str or Path

    Returns
    -------
    Level

    Raises
    ------
    LevelError
        One sentence that names the file, the place, what was found and what is expected.

    Examples
    --------
    >>> import haptos
    >>> from haptos.demo import demo_file
    >>> haptos.load(demo_file("first-room.toml")).title
    'Observatory, first room'
    """
    file = Path(path)
    text = _text(file, LevelError)
    raw = _parse(file, text, LevelError)
    if not isinstance(raw, dict):
        raise LevelError("", f"found {type(raw).__name__} at the top, expected a table of sections", str(file))
    if "haptos_cues" in raw:
        raise LevelError("haptos_cues", "this is a cue sheet, expected a level", str(file))
    _find_images(raw, file.parent)
    origin = Origin(str(file), _Lines(text, file.suffix.lower() == ".json").of)
    try:
        level = Level(**{str(key): value for key, value in raw.items()})
    except LevelError as error:
        raise error.within(*origin) from None
    level.come_from(origin)
    return level


class _Lines:
    """The lines of a file, looked up only when somebody asks for one."""

    def __init__(self, text: str, is_json: bool) -> None:
        self.text, self.is_json = text, is_json

    def of(self, place: str) -> int | None:
        """Return the line of a place."""
        return self._lines.of(place)

    @cached_property
    def _lines(self) -> SourceLines:
        return SourceLines(self.text, self.is_json)


def _find_images(part: Any, folder: Path) -> None:
    """Make the images of looks, which are written relative to the level file, absolute."""
    for value in part.values() if isinstance(part, dict) else part if isinstance(part, list) else ():
        _find_images(value, folder)
    look = part.get("look") if isinstance(part, dict) else None
    if isinstance(look, dict) and isinstance(look.get("image"), str):
        look["image"] = str(folder / look["image"])


def load_cues(path: str | Path, units: Units | None = None) -> Cues:
    """Read cues from a cue sheet (TOML or JSON), a CSV of recorded controls, or a text file of cues.

    Parameters
    ----------
    path : str or Path
    units : Units, optional
        The level's, for units of its own.

    Returns
    -------
    Cues

    Raises
    ------
    CueError
        One sentence that names the file and the cue.

    Examples
    --------
    >>> import haptos
    >>> from haptos.demo import demo_file
    >>> haptos.load_cues(demo_file("gets-through.toml")).duration > 4
    True
    """
    return read_cue_sheet(path, units).cues


def read_cue_sheet(path: str | Path, units: Units | None = None) -> CueSheet:
    """Read a cue sheet file with what it says about itself; see `load_cues`."""
    file = Path(path)
    try:
        if file.suffix.lower() == ".csv":
            return CueSheet(_recorded(file, units), None, "")
        if file.suffix.lower() in (".toml", ".json"):
            return _sheet(file, units)
        return CueSheet(parse_cues(_text(file, CueError), units), None, "")
    except CueError as error:
        text = str(error)
        raise CueError(text if text.startswith(str(file)) else f"{file}: {text}") from None


def _sheet(file: Path, units: Units | None) -> CueSheet:
    text = _text(file, CueError)
    raw = _parse(file, text, CueError)
    if not isinstance(raw, dict):
        raise CueError(f"found {type(raw).__name__} at the top, expected a table with haptos_cues and cues")
    if "haptos" in raw and "haptos_cues" not in raw:
        raise CueError("this is a level, expected a cue sheet")
    for key in raw:
        if key not in CUE_SHEET_KEYS:
            raise CueError(f"unknown key '{key}'{did_you_mean(key, CUE_SHEET_KEYS)}")
    version = raw.get("haptos_cues")
    if isinstance(version, bool) or version != CUE_SHEET_VERSION:
        raise CueError(f"haptos_cues: found {short(version)}, expected {CUE_SHEET_VERSION}")
    for key in ("cues", "level", "title"):
        if not isinstance(raw.get(key, ""), str):
            raise CueError(f"{key}: found {short(raw[key])}, expected a string")
    if "cues" not in raw:
        raise CueError("cues: found none, expected cues such as 'right 1 s'")
    level = file.parent / raw["level"] if "level" in raw else None
    stop = raw.get("stop", [])
    if not isinstance(stop, list) or not all(isinstance(name, str) for name in stop):
        raise CueError(f"stop: found {short(stop)}, expected a list of events such as ['lost', 'hurt']")
    try:
        expect = read_expectations(raw.get("expect", []), units)
    except LevelError as error:
        placed = error.within(str(file), _Lines(text, file.suffix.lower() == ".json").of)
        raise CueError("\n".join(one.sentence for one in placed.all)) from None
    return CueSheet(parse_cues(raw["cues"], units, stop, expect), level, raw.get("title", ""))


def _recorded(file: Path, units: Units | None) -> Cues:
    rows = list(csv.DictReader(_text(file, CueError).splitlines()))
    if not rows or any(column not in rows[0] for column in CUE_COLUMNS):
        raise CueError("wanted the columns t and held, and at least one row")
    steps: list[Step] = []
    times: list[float] = []
    for number, row in enumerate(rows, start=2):
        try:
            t = float(row["t"] or "")
        except ValueError:
            raise CueError(f"line {number}: found t = '{row['t']}', expected seconds") from None
        if not 0 <= t < float("inf") or (times and t < times[-1]):
            raise CueError(f"line {number}: found t = {t:g}, expected a time not before the row above")
        times.append(t)
    for number, row in enumerate(rows[:-1]):
        where, lasts = f"line {number + 2}", times[number + 1] - times[number]
        words = (row["held"] or "").strip()
        bits = held_bits(words, where) if words and words != "wait" else 0
        parts, hand = [Part(bits, lasts)], (row.get("hand") or "").strip()
        if hand:
            deed = read_deed(f"hand {hand} in {lasts!r}", where, units or shared_units())
            parts.append(Part(0, 0.0, deed))
            words = f"{words or 'wait'} & hand {hand}"
        steps.append(Step(tuple(parts), words or "wait"))
    if times[0] > 0:
        steps.insert(0, Step((Part(0, times[0]),), "wait"))
    return Cues(tuple(steps))


def _parse(file: Path, text: str, error: type[LevelError] | type[CueError]) -> Any:
    try:
        if file.suffix.lower() == ".json":
            return json.loads(text)
        return tomllib.loads(text)
    except json.JSONDecodeError as problem:
        raise _failure(error, file, *json_slip(text, problem)) from None
    except tomllib.TOMLDecodeError as problem:
        raise _failure(error, file, *toml_slip(text, problem)) from None
    except RecursionError:
        raise _failure(error, file, None, "nested too deeply") from None


def _text(file: Path, error: type[LevelError] | type[CueError]) -> str:
    try:
        return file.read_text(encoding="utf-8")
    except FileNotFoundError:
        near = [item.name for item in file.parent.glob("*") if item.is_file()] if file.parent.is_dir() else []
        hint = did_you_mean(file.name, near, lists=False)
        raise _failure(error, file, None, f"no such file{hint}") from None
    except IsADirectoryError:
        raise _failure(error, file, None, "this is a folder, expected a file") from None
    except UnicodeDecodeError:
        raise _failure(error, file, None, "not UTF-8 text") from None
    except OSError as problem:
        raise _failure(error, file, None, f"can't be read: {problem.strerror}") from None


def _failure(error: type[LevelError] | type[CueError], file: Path, line: int | None, message: str) -> HaptosError:
    if error is LevelError:
        return LevelError("", message, str(file), line)
    return CueError(f"{file}{'' if line is None else f':{line}'}: {message}")
