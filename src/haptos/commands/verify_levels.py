"""Does what worked yesterday still work?"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from haptos.commands.inputs import AsJson, Changes, announce_compiles, changes_of
from haptos.commands.outputs import print_json, progress_bar
from haptos.commands.tool import ANSWER_IS_NO, UNUSABLE, app
from haptos.errors import HaptosError

if TYPE_CHECKING:
    from haptos.study.verify_sheets import Verified


@app.command()
def verify(
    paths: Annotated[list[Path], typer.Argument(help="Cue sheets, and folders of them.", show_default=False)],
    changes: Changes = None,
    junit: Annotated[Path | None, typer.Option("--junit", help="A report for build servers (.xml).")] = None,
    fail_fast: Annotated[bool, typer.Option("--fail-fast", help="Stop at the first sheet that fails.")] = False,
    every: Annotated[bool, typer.Option("--all", help="What held, too.")] = False,
    as_json: AsJson = False,
) -> None:
    """Run every cue sheet that names its level and expects something; exit code 1 if something does not hold."""
    announce_compiles()
    from haptos.study.verify_sheets import sheets_under, verify_sheets

    sheets = sheets_under(paths)
    if not sheets:
        where = ", ".join(str(path) for path in paths)
        raise HaptosError(f"{where}: found no cue sheet that names its level and has [[expect]] tables")
    found: list[Verified] = []
    for one in _watched(verify_sheets(sheets, changes_of(changes or [])), len(sheets)):
        found.append(one)
        if fail_fast and not one.held:
            break
    found.sort(key=lambda one: sheets.index(one.sheet))
    if junit is not None:
        from haptos.views.junit import save_junit

        save_junit(found, junit)
    if as_json:
        print_json([one.to_json() for one in found])
    else:
        from haptos.views import terminal
        from haptos.views.verified_text import verified_text

        terminal.terminal().print(verified_text(found, len(sheets), every))
        if junit is not None:
            print(f"\nreport: {junit}")
    if any(one.error for one in found):
        raise typer.Exit(UNUSABLE)
    if not all(one.held for one in found):
        raise typer.Exit(ANSWER_IS_NO)


def _watched(results: Iterator[Verified], count: int) -> Iterator[Verified]:
    """Show how far it is."""
    with progress_bar("verifying", count) as tell:
        for number, one in enumerate(results, 1):
            tell(number, count)
            yield one
