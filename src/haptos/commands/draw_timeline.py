"""A run over time."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from haptos.commands.inputs import Changes, LevelFile, load_level, read_cues, simulate_level
from haptos.commands.outputs import picture_file
from haptos.commands.tool import app
from haptos.errors import HaptosError


@app.command()
def timeline(
    level: LevelFile,
    cues: Annotated[str, typer.Argument(help="Cues, or a cue sheet file.", show_default=False)],
    out: Annotated[Path | None, typer.Option("--out", help="The picture: .png, .svg or .pdf.")] = None,
    changes: Changes = None,
    compared: Annotated[bool, typer.Option("--compare", help="Beside the run without what --set changes.")] = False,
    with_cues: Annotated[str | None, typer.Option("--with-cues", help="Beside the run with these cues.")] = None,
) -> None:
    """Draw a run over time: height, speed, stance, support, controls, health and counters, and what happened."""
    path = picture_file(out or Path(f"{level.stem}-timeline.png"))
    if compared and not changes:
        raise HaptosError("found --compare without --set, expected what is to be compared: --set PATH=VALUE")
    the_level = load_level(level, changes)
    run = simulate_level(the_level, read_cues(cues, the_level))
    from haptos.views.timeline_drawn import save_timeline

    if with_cues is not None:
        other = simulate_level(the_level, read_cues(with_cues, the_level))
        save_timeline(run, path, other, ("the cues", "--with-cues"))
    elif compared:
        plain = load_level(level)
        save_timeline(simulate_level(plain, read_cues(cues, plain)), path, run, ("as it is", "with --set"))
    else:
        save_timeline(run, path)
    print(f"picture: {path}")
