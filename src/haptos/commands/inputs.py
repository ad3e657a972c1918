"""What commands take: a level, changed if wanted, and cues."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from haptos.errors import CueError, HaptosError

if TYPE_CHECKING:
    from haptos.engine.build.whole_level import Level
    from haptos.engine.run import Run
    from haptos.level.cues import Cues

# The level files that this call reads, for messages.
READ: list[Path] = []

LevelFile = Annotated[Path, typer.Argument(help="A level file, TOML or JSON.", show_default=False)]
CueWords = Annotated[str, typer.Argument(help="Cues, or a cue sheet file (TOML, JSON, CSV, TXT).")]
AsJson = Annotated[bool, typer.Option("--json", help="Print JSON for programs.")]
Changes = Annotated[
    list[str] | None,
    typer.Option("--set", help="A value for this call: player.jump.height=80; may be given again.", show_default=False),
]


def load_level(file: Path, changes: list[str] | None = None) -> Level:
    """Read a level, with other values where `--set` says so."""
    from haptos.files.reading import load

    announce_compiles()
    READ.append(file)
    level = load(file)
    return level.changed(changes_of(changes)) if changes else level


def changes_of(words: list[str]) -> dict[str, Any]:
    """Return new values by path: a TOML value, or words as they stand, as ``80 px``."""
    import tomllib

    changes: dict[str, Any] = {}
    for one in words:
        path, sign, value = one.partition("=")
        path, value = path.strip(), value.strip()
        if not sign or not path or not value:
            raise HaptosError(f"--set: found '{one}', expected PATH=VALUE, as player.jump.height=80")
        try:
            changes[path] = tomllib.loads(f"value = {value}")["value"]
        except tomllib.TOMLDecodeError:
            changes[path] = value
    return changes


def read_cues(words: str, level: Level) -> Cues:
    """Read cues: those of a sheet, or the words themselves."""
    from haptos.files.reading import load_cues
    from haptos.level.cues import parse_cues

    if is_file(words):
        return load_cues(words, level.unit_table())
    try:
        return parse_cues(words, level.unit_table())
    except CueError as error:
        if Path(words).suffix.lower() in (".toml", ".json", ".csv", ".txt"):
            raise CueError(f"{words}: no such cue sheet") from None
        raise CueError(f"cues: {error}") from None


def is_file(words: str) -> bool:
    """Whether words are the name of a file."""
    try:
        return Path(words).is_file()
    except OSError:
        return False


def simulate_level(level: Level, cues: Cues) -> Run:
    """Run a level with cues."""
    from haptos.engine.simulation import simulate

    return simulate(level, cues)


def announce_compiles() -> None:
    """Let it be said on standard error when a kernel has to be compiled."""
    from haptos.engine.compiling.kernels import Announcer

    Announcer.around = staticmethod(_announced)


@contextmanager
def _announced(text: str) -> Iterator[None]:
    """Say that a kernel is being compiled, and show that it goes on."""
    from rich.console import Console

    console = Console(stderr=True, highlight=False)
    console.print(f"haptos: {text}", soft_wrap=True)
    with console.status("compiling"):
        yield
