"""In which unit the number at a path of the level file is, where it is written without one."""

from __future__ import annotations

import re
import types
from typing import Annotated, Any, Union, get_args, get_origin

from pydantic import BaseModel, WithJsonSchema

from haptos.level.level import Level
from haptos.level.quantity import DIMENSIONS

# The words of a quantity's description, before "with its unit".
NAMED = {words: dimension for dimension, (words, _) in DIMENSIONS.items()}


def unit_of(level: Level, path: str) -> str:
    """Return the unit of a plain number at a path; nothing for what has none, or is not known.

    Examples
    --------
    >>> unit_of(Level(), "player.gaits.walk"), unit_of(Level(), "player.ground.max_slope")
    ('px/s', '°')
    """
    length = level.world.length_unit
    units = {
        "length": length, "speed": f"{length}/s", "acceleration": f"{length}/s²", "time": "s", "angle": "°",
        "turning": "°/s", "mass": "kg", "area": f"{length}²", "force": f"kg {length}/s²", "torque": f"kg {length}²/s²",
        "impulse": f"kg {length}/s", "density": f"kg/{length}²",
    }  # fmt: skip
    return units.get(_dimension(type(level), path), "")


def _dimension(section: Any, rest: str) -> str:
    """Return which sort of quantity stands where the rest of a path leads; nothing if none does."""
    for arm in _arms(section):
        if isinstance(arm, type) and issubclass(arm, BaseModel):
            for name, field in arm.model_fields.items():
                key = field.alias or name
                if rest == key or rest.startswith((f"{key}.", f"{key}[")):
                    here: Any = field.annotation
                    if field.metadata:
                        here = Annotated[(here, *field.metadata)]
                    left = rest[len(key) :].removeprefix(".")
                    found = _quantity(here) if not left else _dimension(here, left)
                    if found:
                        return found
        elif get_origin(arm) in (tuple, list, dict):
            # Entries are named or counted, by words that may hold points.
            inner = get_args(arm)[-1 if get_origin(arm) is dict else 0]
            parts = re.split(r"[.\]]", rest)
            for count in range(1, len(parts) + 1):
                left = ".".join(parts[count:]).lstrip(".")
                found = _quantity(inner) if not left else _dimension(inner, left)
                if found:
                    return found
    return ""


def _arms(annotation: Any) -> list[Any]:
    """Return what a type may be, without what is noted about it."""
    if get_origin(annotation) is Annotated:
        return _arms(get_args(annotation)[0])
    if get_origin(annotation) in (Union, types.UnionType):
        return [arm for one in get_args(annotation) for arm in _arms(one)]
    return [annotation]


def _quantity(annotation: Any) -> str:
    """Return which sort of quantity a type is."""
    if get_origin(annotation) in (Union, types.UnionType):
        return next((found for one in get_args(annotation) if (found := _quantity(one))), "")
    if get_origin(annotation) is not Annotated:
        return ""
    for note in get_args(annotation)[1:]:
        if isinstance(note, WithJsonSchema):
            for arm in (note.json_schema or {}).get("anyOf", []):
                words = str(arm.get("description", "")).removesuffix(" with its unit")
                if words in NAMED:
                    return NAMED[words]
    return _quantity(get_args(annotation)[0])
