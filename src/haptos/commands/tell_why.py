"""Why two things meet or don't, and why a rule did or did not fire."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

import typer

from haptos.commands.inputs import AsJson, Changes, LevelFile, load_level, read_cues, simulate_level
from haptos.commands.outputs import print_json
from haptos.commands.tool import app
from haptos.errors import HaptosError

if TYPE_CHECKING:
    from haptos.engine.answer import Answer
    from haptos.engine.run import Run


@app.command()
def why(
    level: LevelFile,
    one: Annotated[str | None, typer.Argument(help="A piece, or player.", show_default=False)] = None,
    other: Annotated[str | None, typer.Argument(help="Another piece, or player.", show_default=False)] = None,
    rule: Annotated[str | None, typer.Option("--rule", help="A rule: why it did or did not fire.")] = None,
    at: Annotated[float | None, typer.Option("--at", help="A moment (s): what holds there.")] = None,
    cues: Annotated[str, typer.Option("--cues", help="Cues, or a cue sheet, of the run that is asked about.")] = "",
    changes: Changes = None,
    as_json: AsJson = False,
) -> None:
    """Say why two things meet or don't; with --cues, what came of them, of a rule, or at a moment of that run."""
    pair = one is not None and other is not None
    if [pair, rule is not None, at is not None].count(True) != 1 or (one is not None and other is None):
        raise HaptosError(
            "expected two names, as in why LEVEL player floor, or with --cues one of --rule NAME and --at SECONDS"
        )
    if not cues and not pair:
        asked = "--rule" if rule is not None else "--at"
        raise HaptosError(f"found {asked} without --cues, expected the cues of the run that it is about")
    the_level = load_level(level, changes)
    from haptos.study.why import why as ask

    if not cues:
        answer = ask(the_level, str(one), str(other))
    else:
        run = simulate_level(the_level, read_cues(cues, the_level))
        answer = _of_run(run, rule, at, str(one), str(other))
    if as_json:
        print_json(answer.to_json())
        return
    from haptos.views import terminal

    terminal.terminal().print(terminal.answer_text(answer))


def _of_run(run: Run, rule: str | None, at: float | None, one: str, other: str) -> Answer:
    """Answer what is asked about a run."""
    from haptos.study.pair_why import why_pair
    from haptos.study.rule_why import why_rule

    if rule is not None:
        return why_rule(run, rule)
    return run.why(at) if at is not None else why_pair(run, one, other)
