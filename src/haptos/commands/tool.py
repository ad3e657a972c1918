"""The tool itself: its name, its version, its exit codes."""

from __future__ import annotations

from typing import Annotated

import typer

# Done; the answer is no (findings, a difference, a failed expectation); the input can't be used.
DONE, ANSWER_IS_NO, UNUSABLE = 0, 1, 2
# As a shell says it of what was interrupted.
INTERRUPTED = 130

app = typer.Typer(
    name="haptos",
    help="Simulate how a player body moves and collides in a platforming level, and say what it did and why.",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
)


def _say_version(asked: bool) -> None:
    """Print the version and be done."""
    if asked:
        from haptos import __version__

        print(f"haptos {__version__}")
        raise typer.Exit(DONE)


@app.callback()
def options(
    version: Annotated[
        bool, typer.Option("--version", help="Print the version.", callback=_say_version, is_eager=True)
    ] = False,
) -> None:
    """Simulate how a player body moves and collides in a platforming level, and say what it did and why."""
