"""The numbers that decide a level."""

from __future__ import annotations

from typing import Annotated

import typer

from haptos.commands.inputs import AsJson, Changes, LevelFile, load_level
from haptos.commands.outputs import print_json, rows_of
from haptos.commands.tool import app


@app.command()
def moves(
    level: LevelFile,
    gaps: Annotated[bool, typer.Option("--gaps", help="The gaps between places to stand, instead.")] = False,
    changes: Changes = None,
    as_json: AsJson = False,
) -> None:
    """Print the numbers that decide a level: jumps, gaps, ledges, stops and falls, closed form beside simulated."""
    the_level = load_level(level, changes)
    from haptos.views import terminal

    if gaps:
        from haptos.study.gaps import gaps as find

        ways = find(the_level)
        if as_json:
            print_json({"title": the_level.title, "gaps": rows_of(ways)})
        else:
            terminal.terminal().print(terminal.gaps_table(ways, the_level.title, the_level.world.length_unit))
        return
    from haptos.study.moves import integrators
    from haptos.study.moves import moves as derive

    table = derive(the_level)
    methods = integrators(the_level)
    if as_json:
        rows = {"moves": table, "integrators": methods}
        plain = {name: rows_of(frame) for name, frame in rows.items()}
        print_json({"title": the_level.title, **plain})
        return
    console = terminal.terminal()
    console.print(terminal.moves_table(table, the_level.title))
    if len(methods):
        console.print()
        console.print(terminal.integrators_table(methods, the_level.world.tick_rate))
