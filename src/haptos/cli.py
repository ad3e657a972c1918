"""The command-line tool: thin, each command one question to the library."""

from __future__ import annotations

import os
import sys

import typer

from haptos.commands import (
    begin_level,
    check_level,
    compare_runs,
    draw_level,
    draw_timeline,
    list_contacts,
    print_schema,
    run_demo,
    run_level,
    show_piece,
    sweep_values,
    tell_moves,
    tell_why,
    verify_levels,
)
from haptos.commands.inputs import READ
from haptos.commands.tool import DONE, INTERRUPTED, UNUSABLE, app
from haptos.errors import HaptosError, LevelError
from haptos.usage import is_usage_error, shows_help, usage_sentence

# In the order in which the help lists them.
COMMANDS = (
    run_level, draw_level, check_level, tell_moves, tell_why, show_piece, compare_runs, verify_levels, sweep_values,
    draw_timeline, list_contacts, begin_level, print_schema, run_demo,
)  # fmt: skip
app.registered_commands.sort(
    key=lambda command: [module.__name__ for module in COMMANDS].index(getattr(command.callback, "__module__", ""))
)
# So many errors of a file are told at once.
MOST_TOLD = 20


def main() -> None:
    """Run the tool; what a user can cause ends in one sentence, never in a traceback."""
    try:
        sys.exit(app(standalone_mode=False) or DONE)
    except HaptosError as error:
        if isinstance(error, LevelError) and not error.file and READ:
            # Found only once the level was used, as what its rules do.
            error = error.within(str(READ[-1]))
        for line in _told(error):
            print(f"haptos: {line}", file=sys.stderr)
        sys.exit(UNUSABLE)
    except BrokenPipeError:
        sys.stderr.close()
        sys.exit(DONE)
    except (KeyboardInterrupt, typer.Abort):
        sys.exit(INTERRUPTED)
    except Exception as error:
        if not is_usage_error(error):
            if os.environ.get("HAPTOS_TRACE"):
                raise
            words = f"{type(error).__name__}: {error}".splitlines()[0]
            print(f"haptos: an error of haptos itself, not of your files: {words} (HAPTOS_TRACE=1 shows where)",
                  file=sys.stderr)  # fmt: skip
            sys.exit(UNUSABLE)
        if shows_help(error):
            print(error)
        else:
            print(usage_sentence(error), file=sys.stderr)
        sys.exit(UNUSABLE)


def _told(error: HaptosError) -> list[str]:
    """Return what to say of an error: a line for each thing that is wrong, as many as can be read."""
    if not isinstance(error, LevelError):
        return str(error).splitlines()
    lines = [one.sentence for one in error.all[:MOST_TOLD]]
    left = len(error.all) - MOST_TOLD
    return [*lines, f"and {left} more"] if left > 0 else lines


if __name__ == "__main__":
    main()
