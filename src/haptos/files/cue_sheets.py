"""Cue sheets written, so that a run can be played again."""

from __future__ import annotations

import json
from pathlib import Path

from haptos.errors import HaptosError
from haptos.level.cues import Cues
from haptos.writing import write_text

SUFFIXES = (".toml", ".txt")


def save_cues(cues: Cues, path: str | Path, title: str = "") -> Path:
    """Write cues as a cue sheet, TOML, or as plain lines, TXT.

    Parameters
    ----------
    cues : Cues
    path : str or Path
    title : str

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
        lines = f'haptos_cues = 1\ntitle = {json.dumps(title, ensure_ascii=False)}\n{stop}cues = """\n{lines}\n"""'
    write_text(file, lines + "\n")
    return file
