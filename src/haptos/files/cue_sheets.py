"""Cue sheets written, so that a run can be played again."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

from haptos.errors import HaptosError
from haptos.level.cues import Cues
from haptos.level.expectations import Expectation
from haptos.writing import write_text

SUFFIXES = (".toml", ".txt")


def save_cues(cues: Cues, path: str | Path, title: str = "", level: str | Path | None = None) -> Path:
    """Write cues as a cue sheet, TOML, or as plain lines, TXT.

    Parameters
    ----------
    cues : Cues
    path : str or Path
    title : str
    level : str or Path, optional
        The level file that they are for; the sheet names it as seen from its own folder.

    Returns
    -------
    Path

    Raises
    ------
    HaptosError
        If the file can't be written.

    Examples
    --------
    >>> import tempfile
    >>> from haptos import load_cues
    >>> with tempfile.TemporaryDirectory() as folder:
    ...     load_cues(save_cues(Cues.from_held([2, 2, 0], 60), Path(folder, "steps.toml"))).steps[0].words
    'right 0.0333333333 s'
    """
    file = Path(path)
    if file.suffix.lower() not in SUFFIXES:
        raise HaptosError(f"{file}: expected a cue sheet ending in .toml or .txt")
    lines = "\n".join(step.words for step in cues.steps)
    if file.suffix.lower() == ".toml":
        stop = f"stop = {json.dumps(list(cues.stop))}\n" if cues.stop else ""
        whose = (
            f"level = {json.dumps(_seen_from(file, Path(level)), ensure_ascii=False)}\n" if level is not None else ""
        )
        head = f"haptos_cues = 1\ntitle = {json.dumps(title, ensure_ascii=False)}\n{whose}{stop}"
        lines = f'{head}{stop}cues = """\n{lines}\n"""' + "".join(_expect_text(one) for one in cues.expect)
    write_text(file, lines + "\n")
    return file


def _seen_from(file: Path, level: Path) -> str:
    """Return a level's path as a sheet names it."""
    return Path(os.path.relpath(level.resolve(), file.resolve().parent)).as_posix()


def _expect_text(one: Expectation) -> str:
    """Return an expectation as it is written in a sheet."""
    import tomlkit

    table = tomlkit.table()
    for key, value in one.model_dump(mode="json", exclude_defaults=True).items():
        table.add(key, [_plain(number) for number in value] if isinstance(value, list) else _plain(value))
    return f"\n\n[[expect]]\n{table.as_string().strip()}"


def _plain(value: Any) -> Any:
    """Return a number without an empty fraction."""
    return int(value) if isinstance(value, float) and value.is_integer() else value
