"""Who meets whom, layer by layer."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from haptos.commands.inputs import AsJson, Changes, LevelFile, load_level
from haptos.commands.outputs import picture_file, print_json, rows_of
from haptos.commands.tool import app


@app.command()
def contacts(
    level: LevelFile,
    out: Annotated[Path | None, typer.Option("--out", help="A picture: .png, .svg or .pdf.")] = None,
    changes: Changes = None,
    as_json: AsJson = False,
) -> None:
    """Print who is solid to whom, who only overlaps, and how many pairs of pieces that concerns."""
    if out is not None:
        picture_file(out)
    the_level = load_level(level, changes)
    from haptos.study.layer_pairs import contacts as find
    from haptos.study.layer_pairs import unused_layers

    table, unused = find(the_level), unused_layers(the_level)
    if out is not None:
        from haptos.views.contacts_drawn import save_contacts

        save_contacts(table, unused, the_level.title, out)
    if as_json:
        print_json({"title": the_level.title, "contacts": rows_of(table), "unused": list(unused)})
        return
    from haptos.views import terminal
    from haptos.views.contacts_drawn import contacts_text

    terminal.terminal().print(contacts_text(table, unused))
    if out is not None:
        print(f"\npicture: {out}")
