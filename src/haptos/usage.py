"""The arguments of the tool: those that are lists, and in one sentence what is wrong with any."""

from __future__ import annotations

import math
import re
from typing import Any

from haptos.errors import HaptosError
from haptos.level.names import did_you_mean, short

TOO_MANY = re.compile(r"unexpected extra arguments? ?\(?s?\)? ?\((.*)\)", re.DOTALL)
NEEDS_VALUE = re.compile(r"requires an argument")
# What is expected, by a word of the parser's report.
KINDS = {"integer": "a whole number", "float": "a number", "number": "a number"}


def is_usage_error(error: BaseException) -> bool:
    """Whether an error says that arguments can't be used; the class is the parser's own, wherever it keeps it."""
    return any(one.__name__ == "UsageError" for one in type(error).__mro__)


def shows_help(error: BaseException) -> bool:
    """Whether there was nothing to do, so that the help is shown."""
    return any(one.__name__ == "NoArgsIsHelpError" for one in type(error).__mro__)


def usage_sentence(error: Any) -> str:
    """Return what is wrong with the arguments, and what was expected."""
    context = getattr(error, "ctx", None)
    command = "haptos" if context is None else str(context.command_path)
    call = command if context is None else _call(context)
    kind, text = type(error).__name__, str(getattr(error, "message", error))
    if kind == "NoSuchOption":
        known = [name for one in _parameters(context) for name in one.opts if name.startswith("-")]
        return f"{command}: unknown option '{error.option_name}'{did_you_mean(error.option_name, known)}"
    if kind == "MissingParameter" and getattr(error, "param", None) is not None:
        return f"{command}: found no {error.param.name.upper()}, expected {call}"
    if kind == "NoSuchCommand" or "No such command" in text:
        name = text.split("'")[1] if "'" in text else text
        commands = list(getattr(context.command, "commands", {})) if context is not None else []
        return f"haptos: unknown command '{name}'{did_you_mean(name, commands, lists=False)}; haptos --help lists them"
    many = TOO_MANY.search(text)
    if many is not None:
        return f"{command}: found '{many[1]}' besides, expected {call}"
    if NEEDS_VALUE.search(text):
        option = getattr(error, "option_name", None) or text.split("'")[1]
        return f"{command}: found {option} without a value, expected one after it"
    parameter = getattr(error, "param", None)
    if parameter is not None:
        expected = next((words for word, words in KINDS.items() if word in text), "another value")
        return f"{command}: {parameter.opts[0]}: found {_found(error, text)}, expected {expected}"
    return f"{command}: expected {call}"


def _found(error: Any, text: str) -> str:
    """Return what was given for a parameter, as far as the parser still knows."""
    cause: Any = getattr(error, "__cause__", None)
    if hasattr(cause, "errors"):
        return short(cause.errors()[0]["input"])
    quoted = re.search(r"'([^']*)'", text)
    return f"'{quoted[1]}'" if quoted else "a value"


def _call(context: Any) -> str:
    """Return how a command is called: its arguments in order, those that may be left out in brackets."""
    words = [str(context.command_path)]
    for one in _parameters(context):
        if getattr(one, "param_type_name", "") == "argument":
            words.append(one.name.upper() if one.required else f"[{one.name.upper()}]")
    return " ".join(words)


def _parameters(context: Any) -> list[Any]:
    return [] if context is None else list(context.command.params)


def event_names(only: str) -> tuple[str, ...]:
    """Return the names in a list of events."""
    from haptos.engine.records.events import EVENT_NAMES

    names = tuple(name.strip() for name in only.split(",") if name.strip())
    for name in names:
        if name not in EVENT_NAMES:
            raise HaptosError(f"--only: '{name}' is not an event{did_you_mean(name, EVENT_NAMES)}")
    return names


def numbers_of(option: str, text: str, sign: str, example: str) -> tuple[float, ...]:
    """Return the numbers of an option, as many as its example has."""
    parts = text.split(sign)
    try:
        numbers = tuple(float(part) for part in parts)
    except ValueError:
        numbers = ()
    if len(numbers) != len(example.split(sign)) or not all(math.isfinite(number) for number in numbers):
        raise HaptosError(f"{option}: found '{text}', expected {example}")
    return numbers
