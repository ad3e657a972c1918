"""What is wrong with a file that is no TOML or JSON, in one sentence with the line that can't be read."""

from __future__ import annotations

import json
import re
import tomllib

from haptos.files.lines import SourceLines

LINE = re.compile(r"\(at line (\d+), column \d+\)")
TWICE = re.compile(r"twice|overwrite|mutate|Duplicate")
# What the most frequent slips are, by what stands in the report or in the line.
UNENDED = re.compile(r"Unterminated|end of (a|the) string|Unclosed|Illegal character '\\n'")
LONGEST = 60


def toml_slip(text: str, problem: tomllib.TOMLDecodeError) -> tuple[int, str]:
    """Return the line on which a TOML file can't be read, and what is wrong there.

    Examples
    --------
    >>> try:
    ...     tomllib.loads("[pieces]\\n[pieces]\\n")
    ... except tomllib.TOMLDecodeError as problem:
    ...     toml_slip("[pieces]\\n[pieces]\\n", problem)
    (2, "found '[pieces]' a second time, expected each name once; of several entries each is [[pieces]]")
    """
    report = str(problem)
    placed = LINE.search(report)
    number = int(placed[1]) if placed else None
    # What never ends was begun by the last key that can be read.
    return number or SourceLines(text, False).last, _slip(text, number, report)


def json_slip(text: str, problem: json.JSONDecodeError) -> tuple[int, str]:
    """Return the line on which a JSON file can't be read, and what is wrong there."""
    return problem.lineno, f"not JSON: {_found(text, problem.lineno)}, expected a key, a value or a bracket"


def _slip(text: str, number: int | None, report: str) -> str:
    if number is None:
        number = SourceLines(text, False).last
        return f"not TOML: {_found(text, number)}, expected the end of a string, a list or a table"
    line = _line(text, number)
    header = re.match(r"\[+\s*([^\]]+?)\s*\]+", line)
    if TWICE.search(report):
        if header and not line.startswith("[["):
            name = header[1]
            return f"found '{line}' a second time, expected each name once; of several entries each is [[{name}]]"
        return f"found '{line.split('=')[0].strip()}' a second time, expected each key once"
    if UNENDED.search(report):
        return f"not TOML: {_found(text, number)}, expected the end of a string, a list or a table"
    if "=" not in line and not header:
        return f"not TOML: {_found(text, number)}, expected KEY = VALUE"
    if "value" in report.lower():
        return f"not TOML: {_found(text, number)}, expected a value such as 3, 'word', true or [0, 0]"
    return f"not TOML: {_found(text, number)}"


def _found(text: str, number: int) -> str:
    line = _line(text, number)
    return f"found '{line}'" if line else "found an empty line"


def _line(text: str, number: int) -> str:
    lines = text.split("\n")
    line = lines[number - 1].strip() if number <= len(lines) else ""
    return line if len(line) <= LONGEST else line[: LONGEST - 3] + "..."
