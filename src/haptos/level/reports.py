"""What is wrong with the values of a level: each in one sentence, with its place in the words of the file."""

from __future__ import annotations

import types
from collections.abc import Callable
from typing import Any, Union, get_args, get_origin

from pydantic import BaseModel, ValidationError

from haptos.errors import LevelError
from haptos.level.names import did_you_mean, short
from haptos.level.section import fields_of

LIST, TABLE = "a list such as [0, 0]", "a table such as { key = value }"
# What is expected, by the type of a report; of the others nothing is known but that it is something else.
EXPECTED: dict[str, Callable[[dict[str, Any]], str]] = {
    "string_type": lambda context: "a string",
    "bool_type": lambda context: "true or false",
    "bool_parsing": lambda context: "true or false",
    "int_type": lambda context: "a whole number",
    "int_parsing": lambda context: "a whole number",
    "int_from_float": lambda context: "a whole number",
    "int_parsing_size": lambda context: "a smaller number",
    "float_type": lambda context: "a number",
    "tuple_type": lambda context: LIST,
    "list_type": lambda context: LIST,
    "dict_type": lambda context: TABLE,
    "model_type": lambda context: TABLE,
    "model_attributes_type": lambda context: TABLE,
    "too_short": lambda context: f"{context['min_length']} or more entries",
    "too_long": lambda context: f"{context['max_length']} entries at most",
    "string_too_short": lambda context: "a word",
    "greater_than": lambda context: f"a number above {context['gt']:g}",
    "greater_than_equal": lambda context: f"a number of {context['ge']:g} or more",
    "less_than": lambda context: f"a number below {context['lt']:g}",
    "less_than_equal": lambda context: f"a number of {context['le']:g} or less",
    "literal_error": lambda context: str(context["expected"]),
    "none_required": lambda context: "",
}  # fmt: skip
FOUND, THEN = "found ", ", expected "
LISTS = ("tuple_type", "list_type")
# So many words to choose from are told one by one, where one of them is near.
MOST_WORDS = 8


def level_error(error: ValidationError, root: type[BaseModel], raw: Any) -> LevelError:
    """Turn Pydantic's report into one sentence about each thing that is wrong.

    Parameters
    ----------
    error : pydantic.ValidationError
        What validation said.
    root : type
        The model that was validated.
    raw : object
        What was validated, for the names of pieces and rules.
    """
    # A value that fits none of several types is reported for each of them: it is one matter.
    matters: dict[tuple[int | str, ...], list[Any]] = {}
    for report in error.errors(include_url=False):
        matters.setdefault(_path_of(report["loc"], raw, report["type"]), []).append(report)
    first, *others = (LevelError(place_of(path, raw), _sentence(reports, root)) for path, reports in matters.items())
    return LevelError(first.place, first.message, others=others)


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


def _path_of(location: tuple[int | str, ...], raw: Any, kind: str) -> tuple[int | str, ...]:
    """Return a location without the types that were tried: what is written, and the missing or unknown key."""
    path: list[int | str] = []
    here = raw
    for number, step in enumerate(location):
        is_last = number == len(location) - 1
        is_written = (isinstance(here, dict) and step in here) or (
            isinstance(here, list | tuple) and isinstance(step, int) and step < len(here)
        )
        if is_written:
            here = here[step]
        elif isinstance(here, BaseModel) and isinstance(step, str):
            here = getattr(here, step, None)
        elif not (is_last and kind == "missing" and isinstance(step, str)):
            continue
        path.append(step)
    return tuple(path)


def _sentence(reports: list[Any], root: type[BaseModel]) -> str:
    """Return one sentence about what all reports of one matter say."""
    first = reports[0]
    kind, key = first["type"], str(first["loc"][-1])
    if kind == "extra_forbidden":
        model = _model_at(root, first["loc"][:-1])
        return f"unknown key '{key}'{did_you_mean(key, {} if model is None else fields_of(model))}"
    if kind == "missing" and key.isdigit():
        return f"found {short(first['input'])}, expected {len(first['input']) + len(reports)} entries"
    if kind == "missing":
        return f"found no {key}, expected one: it has no default"
    if kind in LISTS and isinstance(first["input"], dict) and len(first["loc"]) == 1:
        return f"found one table [{key}], expected a list of them: [[{key}]]"
    said = [str(report["ctx"]["error"]) for report in reports if report["type"] == "value_error"]
    if len(said) == len(reports) == 1:
        return said[0]
    found = f"{FOUND}{short(first['input'])}"
    expected: list[str] = []
    for report in reports:
        if report["type"] == "value_error":
            words = str(report["ctx"]["error"]).partition(THEN)[2] or "a number with its unit"
        else:
            words = EXPECTED.get(report["type"], lambda context: "something else")(report.get("ctx", {}))
        if words and words not in expected:
            expected.append(words)
    hint = _hint(reports)
    if hint and len(expected) == 1 and expected[0].count(",") > MOST_WORDS:
        return f"{found}, which is none of the words that can stand here{hint}"
    return f"{found}{THEN}{' or '.join(expected)}{hint}"


def _hint(reports: list[Any]) -> str:
    """Return which of the words that are expected is near to what was found."""
    for report in reports:
        if report["type"] == "literal_error" and isinstance(report["input"], str):
            words = str(report["ctx"]["expected"]).replace(" or ", ", ").split(", ")
            hint = did_you_mean(report["input"], [word.strip("'") for word in words], lists=False)
            if hint:
                return hint
    return ""


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
