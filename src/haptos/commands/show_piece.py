"""What a piece resolved to."""

from __future__ import annotations

from typing import Annotated

import typer

from haptos.commands.inputs import AsJson, Changes, LevelFile, load_level
from haptos.commands.outputs import print_json, rows_of
from haptos.commands.tool import app


@app.command()
def show(
    level: LevelFile,
    name: Annotated[
        str, typer.Argument(help="A piece (map/KIND for tiles), player, a kind, or bounds/left.", show_default=False)
    ],
    changes: Changes = None,
    as_json: AsJson = False,
) -> None:
    """Print what a piece, the player or a kind resolved to, value by value, and where each comes from."""
    the_level = load_level(level, changes)
    from haptos.study.shown import show as look

    rows = look(the_level, name)
    if as_json:
        print_json({"name": name, "values": rows_of(rows)})
        return
    from haptos.views import terminal

    terminal.terminal().print(terminal.values_table(rows))
