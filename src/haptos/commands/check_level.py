"""Check a level for what is likely wrong."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from haptos.commands.inputs import AsJson, Changes, load_level
from haptos.commands.outputs import print_json
from haptos.commands.tool import ANSWER_IS_NO, DONE, app
from haptos.errors import HaptosError

FORMATS = ("text", "json", "github")


@app.command()
def check(
    level: Annotated[Path | None, typer.Argument(help="A level file, TOML or JSON.", show_default=False)] = None,
    explained: Annotated[str | None, typer.Option("--explain", help="What a finding means, by its code.")] = None,
    form: Annotated[
        str, typer.Option("--format", help="text, json, or github: notes on the lines of a change.")
    ] = "text",
    changes: Changes = None,
    as_json: AsJson = False,
) -> None:
    """Look for what is likely wrong; exit code 1 if there are errors or warnings."""
    if explained is not None:
        _explain(explained, as_json)
        raise typer.Exit(DONE)
    if level is None:
        raise HaptosError("found no level, expected one, as in check LEVEL, or --explain CODE")
    if form not in FORMATS:
        raise HaptosError(f"--format: found '{form}', expected one of {', '.join(FORMATS)}")
    the_level = load_level(level, changes)
    from haptos.study.check import check as look

    findings = look(the_level)
    if as_json or form == "json":
        print_json({"title": the_level.title, "findings": [finding.to_json() for finding in findings]})
    elif form == "github":
        from haptos.views.annotations import annotation

        for finding in findings:
            print(annotation(finding, str(level)))
    else:
        from haptos.views import terminal

        terminal.terminal().print(terminal.findings_table(findings, str(level)))
    if any(finding.severity != "note" for finding in findings):
        raise typer.Exit(ANSWER_IS_NO)


def _explain(code: str, as_json: bool) -> None:
    """Print what a finding means."""
    from haptos.study.explained import explain

    found = explain(code)
    if as_json:
        print_json(found._asdict())
        return
    from haptos.views import terminal

    terminal.terminal().print(terminal.explained_text(found))
