"""A level with other values, by the paths of the file: ``player.jump.height``, ``pieces.lift.route.speed``."""

from __future__ import annotations

import re
import types
from collections.abc import Iterable, Mapping
from typing import Annotated, Any, Union, get_args, get_origin

from pydantic import BaseModel

from haptos.errors import LevelError
from haptos.level.level import Level
from haptos.level.names import did_you_mean, short
from haptos.level.section import fields_of

ENTRY = re.compile(r"\[?(\d+)\]?")


def as_written(level: Level) -> dict[str, Any]:
    """Return what a level says as plain values, without what has its default.

    Examples
    --------
    >>> as_written(Level(title="attic", player={"jump": {"height": "90 px"}}))
    {'title': 'attic', 'player': {'jump': {'height': 90.0}}}
    """
    written: dict[str, Any] = _plain(level.model_dump(exclude_unset=True, by_alias=True))
    return written


def with_changes(level: Level, changes: Mapping[str, Any]) -> dict[str, Any]:
    """Return what a level says with other values.

    Parameters
    ----------
    level : Level
    changes : mapping
        New values, with units if wanted, by path; entries of lists are named, ``pieces.lift``, or
        counted, ``rules[0]``.

    Raises
    ------
    LevelError
        If the level has no such path.
    """
    written = as_written(level)
    for path, value in changes.items():
        _put(written, type(level), path, value, path)
    return written


def _put(here: Any, section: Any, rest: str, value: Any, path: str) -> None:
    """Put a value where the rest of a path leads from here."""
    section = _bare(section)
    if isinstance(section, type) and issubclass(section, BaseModel):
        if not isinstance(here, dict):
            raise LevelError(path, f"found {short(here)} where '{rest}' is to be changed, expected a table")
        fields = fields_of(section)
        key, rest = _head(rest, fields, path, "key")
        if rest:
            here.setdefault(key, [] if _is_list(fields[key]) else {})
            _put(here[key], fields[key], rest, value, path)
        else:
            here[key] = value
    elif get_origin(section) is dict and isinstance(here, dict):
        name, rest = _head(rest, here, path, "name")
        if rest:
            _put(here[name], get_args(section)[1], rest, value, path)
        else:
            here[name] = value
    elif get_origin(section) in (tuple, list) and isinstance(here, list):
        number, rest = _entry(here, rest, path)
        if rest:
            _put(here[number], get_args(section)[0], rest, value, path)
        else:
            here[number] = value
    else:
        raise LevelError(path, f"found '{rest}' within a plain value, expected the path to end before it")


def _head(rest: str, known: Iterable[str], path: str, what: str) -> tuple[str, str]:
    """Return the name that a path goes on with, the longest that fits, and its rest."""
    names = [name for name in known if rest == name or rest.startswith((f"{name}.", f"{name}["))]
    name = max(names, key=len, default=None)
    if name is None:
        word = re.split(r"[.\[]", rest)[0]
        raise LevelError(path, f"unknown {what} '{word}'{did_you_mean(word, known)}")
    return name, rest[len(name) :].removeprefix(".")


def _entry(here: list[Any], rest: str, path: str) -> tuple[int, str]:
    """Return which entry of a list a path goes on with, by its name or number, and its rest."""
    names = {one["name"]: number for number, one in enumerate(here) if isinstance(one, dict) and "name" in one}
    counted = ENTRY.match(rest)
    if counted is not None and (counted.end() == len(rest) or rest[counted.end()] == "."):
        number = int(counted[1])
        if number >= len(here):
            raise LevelError(path, f"found entry {number}, expected one below {len(here)}")
        return number, rest[counted.end() :].removeprefix(".")
    name, rest = _head(rest, names, path, "name")
    return names[name], rest


def _is_list(annotation: Any) -> bool:
    return get_origin(_bare(annotation)) in (tuple, list)


def _bare(annotation: Any) -> Any:
    """Return a type without what it may be besides, and without what is noted about it."""
    if get_origin(annotation) is Annotated:
        return _bare(get_args(annotation)[0])
    if get_origin(annotation) in (Union, types.UnionType):
        arms = [_bare(arm) for arm in get_args(annotation)]
        return next((arm for arm in arms if arm not in (types.NoneType, str, float)), arms[0])
    return annotation


def _plain(value: Any) -> Any:
    """Return values as a file holds them: lists, tables, numbers, words."""
    if isinstance(value, dict):
        return {str(key): _plain(one) for key, one in value.items() if one is not None}
    if isinstance(value, tuple | list):
        return [_plain(one) for one in value]
    return value
