"""Check a level for what is likely wrong."""

from __future__ import annotations

import typer

from haptos.commands.inputs import AsJson, Changes, LevelFile, load_level
from haptos.commands.outputs import print_json
from haptos.commands.tool import ANSWER_IS_NO, app


@app.command()
def check(level: LevelFile, changes: Changes = None, as_json: AsJson = False) -> None:
    """Look for what is likely wrong; exit code 1 if there are errors or warnings."""
    the_level = load_level(level, changes)
    from haptos.study.check import check as look

    findings = look(the_level)
    if as_json:
        print_json({"title": the_level.title, "findings": [finding.to_json() for finding in findings]})
    else:
        from haptos.views import terminal

        terminal.terminal().print(terminal.findings_table(findings, str(level)))
    if any(finding.severity != "note" for finding in findings):
        raise typer.Exit(ANSWER_IS_NO)
