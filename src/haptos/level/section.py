"""The base of every section of a level file, and the one sentence that a bad value gives."""

from __future__ import annotations

import types
from typing import Annotated, Any, NoReturn, Self, TypeVar, Union, get_args, get_origin

from pydantic import AfterValidator, BaseModel, ConfigDict, ValidationError

from haptos.errors import LevelError
from haptos.level.names import did_you_mean

Value = TypeVar("Value")


class FrozenDict(dict[str, Value]):
    """A table that stays as it was read."""

    def __hash__(self) -> int:  # type: ignore[override]
        return hash(frozenset(self.items()))

    def _refuse(self, *_: Any, **__: Any) -> NoReturn:
        raise TypeError("found a change of a level's table, which stays as it was read")

    __setitem__ = __delitem__ = __ior__ = _refuse
    clear = pop = popitem = setdefault = update = _refuse

    def __reduce__(self) -> tuple[type[FrozenDict[Value]], tuple[dict[str, Value]]]:
        # By itself a dictionary is pickled empty and filled afterwards.
        return FrozenDict, (dict(self),)


Frozen = Annotated[dict[str, Value], AfterValidator(FrozenDict)]


class Section(BaseModel):
    """A part of the level file; keys that it does not know are errors, and nothing in it can be changed."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)

    def model_copy(self, *, update: Any = None, deep: bool = False) -> Self:
        """Return a copy with other values, which are checked as those of a file are."""
        if not update:
            return super().model_copy(deep=deep)
        own = {name: getattr(self, name) for name in self.model_fields_set}
        return type(self)(**{**own, **update})


def fields_of(model: type[BaseModel]) -> dict[str, Any]:
    """Return the keys of a section as they are written in the file, with their types."""
    return {field.alias or name: field.annotation for name, field in model.model_fields.items()}


def level_error(error: ValidationError, root: type[BaseModel], raw: Any) -> LevelError:
    """Turn Pydantic's report into one sentence about the first thing that is wrong.

    Parameters
    ----------
    error : pydantic.ValidationError
        What validation said.
    root : type
        The model that was validated.
    raw : object
        What was validated, for the names of pieces and rules.
    """
    reports = error.errors(include_url=False)
    first = reports[0]
    message = _sentence(first, root)
    if len(reports) > 1:
        message += f" (and {len(reports) - 1} more)"
    return LevelError(place_of(first["loc"], raw), message)


def place_of(location: tuple[int | str, ...], raw: Any) -> str:
    """Return a location in the words of the file: ``pieces[2] 'door', shape.box``."""
    words: list[str] = []
    path = ""
    here = raw
    for step in location:
        if isinstance(step, int):
            path += f"[{step}]"
            here = here[step] if isinstance(here, list | tuple) and step < len(here) else None
            name = here.get("name") if isinstance(here, dict) else getattr(here, "name", None)
            if isinstance(name, str):
                words.append(f"{path} '{name}'")
                path = ""
        else:
            path = f"{path}.{step}" if path else str(step)
            here = here.get(step) if isinstance(here, dict) else None
    return ", ".join([*words, path] if path else words)


def _sentence(report: Any, root: type[BaseModel]) -> str:
    kind, found = report["type"], report["input"]
    if kind == "extra_forbidden":
        model = _model_at(root, report["loc"][:-1])
        known = fields_of(model) if model is not None else {}
        return f"unknown key '{report['loc'][-1]}'{did_you_mean(str(report['loc'][-1]), known)}"
    if kind == "missing":
        return f"missing, and '{report['loc'][-1]}' has no default"
    if kind == "value_error":
        return str(report["ctx"]["error"])
    if kind == "literal_error":
        wanted = report["ctx"]["expected"]
        hint = did_you_mean(found, [word.strip("'") for word in wanted.replace(" or ", ", ").split(", ")])
        return f"found {found!r}, expected {wanted}{hint if 'mean' in hint else ''}"
    if kind in ("tuple_type", "list_type"):
        return f"found {_short(found)}, expected a list such as [0, 0]"
    if kind == "model_type":
        return f"found {_short(found)}, expected a table such as {{ key = value }}"
    wanted = report["msg"][0].lower() + report["msg"][1:]
    return f"found {_short(found)}: {wanted}"


def _short(value: Any) -> str:
    text = repr(value)
    return text if len(text) <= 60 else text[:57] + "..."


def _model_at(root: type[BaseModel], location: tuple[int | str, ...]) -> type[BaseModel] | None:
    here: Any = root
    for step in location:
        here = _inside(here)
        if isinstance(here, type) and issubclass(here, BaseModel):
            here = fields_of(here).get(str(step))
        elif get_origin(here) in (dict, list, tuple):
            here = get_args(here)[-1 if get_origin(here) is dict else 0]
        if here is None:
            return None
    here = _inside(here)
    return here if isinstance(here, type) and issubclass(here, BaseModel) else None


def _inside(annotation: Any) -> Any:
    """Look through optional types to the one that matters."""
    if get_origin(annotation) in (Union, types.UnionType):
        return next((arm for arm in get_args(annotation) if arm is not type(None)), None)
    return annotation
