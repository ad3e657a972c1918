"""Why two things meet or don't, and why a rule did or did not fire."""

from __future__ import annotations

from typing import Annotated

import typer

from haptos.commands.inputs import AsJson, Changes, LevelFile, load_level, read_cues, simulate_level
from haptos.commands.outputs import print_json
from haptos.commands.tool import app
from haptos.errors import HaptosError


@app.command()
def why(
    level: LevelFile,
    one: Annotated[str | None, typer.Argument(help="A piece, or player.", show_default=False)] = None,
    other: Annotated[str | None, typer.Argument(help="Another piece, or player.", show_default=False)] = None,
    rule: Annotated[str | None, typer.Option("--rule", help="A rule: why it did or did not fire.")] = None,
    cues: Annotated[str, typer.Option("--cues", help="Cues, or a cue sheet, of the run that --rule asks about.")] = "",
    changes: Changes = None,
    as_json: AsJson = False,
) -> None:
    """Say whether two things meet, and what decides; or with --rule and --cues, why a rule did or did not fire."""
    if (rule is None) == (one is None or other is None):
        raise HaptosError("expected two names, as in why LEVEL player floor, or --rule NAME with --cues, and not both")
    if rule is not None and not cues:
        raise HaptosError("found --rule without --cues, expected the cues of the run that it is about")
    the_level = load_level(level, changes)
    from haptos.study.rule_why import why_rule
    from haptos.study.why import why as ask

    if rule is not None:
        answer = why_rule(simulate_level(the_level, read_cues(cues, the_level)), rule)
    else:
        answer = ask(the_level, str(one), str(other))
    if as_json:
        print_json(answer.to_json())
        return
    from haptos.views import terminal

    terminal.terminal().print(terminal.answer_text(answer))
