"""Level files, cue sheets and arguments with random damage, from a seed."""

from __future__ import annotations

import random
import re
import string
from pathlib import Path

import haptos
from haptos.demo import demo_file

LEVELS = (
    "first-room", "stair-hall", "orrery-hall", "orrery-loft", "lift-shaft", "ember-gallery", "lantern-way",
)  # fmt: skip
VALUES = (
    "0", "-1", "3", "1e308", "-1e300", "nan", "inf", "1e-300", "true", "''", "'x'", "'3 px/frame'", "'4,5 px'", "[]",
    "[0, 0]", "[[0, 0], [0, 0]]", "{}", "{ x = 1 }", "'player'", "'self'", "'#lit'", "'none'", "[nan, 0]", "99999999",
    "2000-01-01", "[[[]]]", "{ box = [0, 0] }", "{ box = [1e9, 1e-9] }", "['stone']", "'\\u0000'", "'kind:stone'",
)  # fmt: skip
VALUE = re.compile(r"\[[^\[\]\n]*\]|-?\b\d+\.?\d*\b|\"[^\"\n]*\"")
NUMBER = re.compile(r"-?\b\d+\.?\d*\b")
KEY = re.compile(r"\b[a-z_]+\b(?=\s*=)")
CUES = "right 0.3 s, right+jump 0.2 s, left until ledge within 0.2 s, wait until x > 90 and stance == air within 0.1 s"
ARGUMENTS = (
    "run", "draw", "check", "moves", "why", "show", "schema", "--json", "--cues", "--rule", "--gaps", "--out", "--at",
    "player", "floor", "kind:stone", "bounds/left", "right 0.2 s", "wait until", "nan", "", "--help", "--only", "hurt",
    "--all", "-x", "--set", "\u2028", "[bold]", "0", "--", "#lit",
)  # fmt: skip
# What a message may not hold: the wording of a library, or a trace of the code.
FOREIGN = re.compile(r"(?i)input should be|literal\[|traceback|validat|pydantic|<class|object at 0x|NoneType|subscript")


def damaged_level(seed: int) -> str:
    """Return the text of a level of the demo with a few things wrong in it."""
    chance = random.Random(seed)
    text = demo_file(f"{chance.choice(LEVELS)}.toml").read_text(encoding="utf-8")
    for _ in range(chance.choice((1, 1, 1, 2, 4))):
        text = chance.choice((_number, _number, _number, _number, _value, _key, _line, _bytes, _swap))(text, chance)
    return text


def damaged_cues(seed: int) -> str:
    """Return cues with a few characters or words changed."""
    chance = random.Random(seed)
    words = CUES
    for _ in range(chance.choice((1, 2, 3))):
        words = chance.choice((_bytes, _word))(words, chance)
    return words


def random_arguments(seed: int, level: Path) -> list[str]:
    """Return arguments of the tool, most of which can't be used."""
    chance = random.Random(seed)
    words = [chance.choice(ARGUMENTS) for _ in range(chance.randrange(5))]
    return [chance.choice(ARGUMENTS[:7]), *(words if chance.random() < 0.2 else [str(level), *words])]


def outcome(text: str, cues: str, file: Path) -> str:
    """Return ``ran``, or the sentence with which a level or its cues were refused."""
    file.write_text(text, encoding="utf-8", errors="surrogateescape")
    try:
        level = haptos.load(file)
        haptos.simulate(level, cues)
    except haptos.HaptosError as error:
        return str(error)
    return "ran"


def _value(text: str, chance: random.Random) -> str:
    found = list(VALUE.finditer(text))
    one = chance.choice(found)
    return f"{text[: one.start()]} {chance.choice(VALUES)}{text[one.end() :]}"


def _number(text: str, chance: random.Random) -> str:
    found = list(NUMBER.finditer(text))
    one = chance.choice(found)
    size = chance.choice((0, -1, 0.01, 0.5, 0.999, 1.001, 2, 100, 1e6, 1e-6, 1e12))
    return f"{text[: one.start()]}{float(one[0]) * size:g}{text[one.end() :]}"


def _key(text: str, chance: random.Random) -> str:
    found = list(KEY.finditer(text))
    one, other = chance.choice(found), chance.choice(found)
    return text[: one.start()] + other[0] + text[one.end() :]


def _line(text: str, chance: random.Random) -> str:
    lines = text.split("\n")
    number = chance.randrange(len(lines))
    lines[number : number + 1] = [lines[number]] * chance.choice((0, 0, 2))
    return "\n".join(lines)


def _swap(text: str, chance: random.Random) -> str:
    lines = text.split("\n")
    one, other = chance.randrange(len(lines)), chance.randrange(len(lines))
    lines[one], lines[other] = lines[other], lines[one]
    return "\n".join(lines)


def _bytes(text: str, chance: random.Random) -> str:
    at = chance.randrange(len(text) + 1)
    return text[:at] + chance.choice(string.printable) + text[at + chance.randrange(3) :]


def _word(text: str, chance: random.Random) -> str:
    words = text.split(" ")
    words[chance.randrange(len(words))] = chance.choice(
        ("", "nan", "until", "-1", "1e9 s", "x", "and", "(", "within", "&")
    )
    return " ".join(words)
