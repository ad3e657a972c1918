"""What commands give back: JSON, and files."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from haptos.errors import HaptosError

if TYPE_CHECKING:
    import pandas as pd

    from haptos.engine.run import Run

OutFolder = Annotated[Path | None, typer.Option("--out", help="A folder for files; made if it is missing.")]


def out_folder(out: Path | None) -> Path | None:
    """Make a folder that files can be written to."""
    if out is None:
        return None
    from haptos.writing import writable_folder

    return writable_folder(out)


def picture_file(path: Path) -> Path:
    """Return the path of a picture, if that is one that can be written."""
    if path.suffix.lower() not in (".png", ".svg", ".pdf"):
        raise HaptosError(f"{path}: expected a picture ending in .png, .svg or .pdf")
    return path


def write_run(result: Run, folder: Path) -> dict[str, Path]:
    """Write the tables of a run, and its picture."""
    from haptos.views.picture import save_picture

    paths = result.save(folder)
    paths["picture"] = folder / "picture.png"
    save_picture(result.level, result, paths["picture"])
    return paths


def rows_of(frame: pd.DataFrame) -> list[dict[str, Any]]:
    """Return the rows of a table as plain values; what is no finite number is None."""
    rows: list[dict[str, Any]] = json.loads(frame.to_json(orient="records", double_precision=15))
    return rows


@contextmanager
def progress_bar(what: str, count: int) -> Iterator[Callable[[int, int], None]]:
    """Show on standard error how far it is, where somebody looks: give a function of how many are done, of how many."""
    from rich.console import Console
    from rich.progress import Progress

    console = Console(stderr=True)
    with Progress(console=console, transient=True, disable=not console.is_terminal) as progress:
        task = progress.add_task(what, total=count)
        yield lambda done, whole: progress.update(task, completed=done, total=whole)


def print_json(value: Any) -> None:
    """Print a value as JSON."""
    print(json.dumps(value, indent=2, ensure_ascii=False, allow_nan=False))
