"""The command-line tool: thin, each command one question to the library."""

from __future__ import annotations

import json
import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from haptos.errors import CueError, HaptosError, LevelError
from haptos.usage import event_names, is_usage_error, numbers_of, shows_help, usage_sentence

if TYPE_CHECKING:
    import pandas as pd

    from haptos.engine.run import Run
    from haptos.level.cues import Cues
    from haptos.level.level import Level

# What leads through the level that `new` writes, to its lamp.
STARTER_CUES = (
    'right until x > 140, right+jump until land shelf, right until ledge, right+jump until land "far shelf", wait 0.3 s'
)
DONE, ANSWER_IS_NO, UNUSABLE = 0, 1, 2
# As a shell says it of what was interrupted.
INTERRUPTED = 130
# So many errors of a file are told at once.
MOST_TOLD = 20
# The level files that this call reads, for messages.
READ: list[Path] = []

app = typer.Typer(
    name="haptos",
    help="Simulate how a player body moves and collides in a platforming level, and say what it did and why.",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
)

LevelFile = Annotated[Path, typer.Argument(help="A level file, TOML or JSON.", show_default=False)]
AsJson = Annotated[bool, typer.Option("--json", help="Print JSON for programs.")]
OutFolder = Annotated[Path | None, typer.Option("--out", help="A folder for files; made if it is missing.")]


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
        return [str(error)]
    lines = [one.sentence for one in error.all[:MOST_TOLD]]
    left = len(error.all) - MOST_TOLD
    return [*lines, f"and {left} more"] if left > 0 else lines


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


@app.command()
def run(
    level: LevelFile,
    cues: Annotated[str, typer.Argument(help="Cues, or a cue sheet file (TOML, JSON, CSV, TXT).")] = "wait 1 s",
    out: OutFolder = None,
    cues_out: Annotated[
        Path | None, typer.Option("--cues-out", help="A cue sheet (.toml) with the plain times that the cues came to.")
    ] = None,
    only: Annotated[str, typer.Option("--only", help="Only these events: land,hurt.", show_default=False)] = "",
    every: Annotated[bool, typer.Option("--all", help="All events, however many there are.")] = False,
    as_json: AsJson = False,
) -> None:
    """Run a level with cues: a summary, the events, and files on demand."""
    the_level = _load(level)
    the_cues = _read_cues(cues, the_level)
    folder = _out_folder(out)
    chosen = event_names(only)
    result = _simulate(the_level, the_cues)
    paths = _write_run(result, folder) if folder else {}
    if cues_out is not None:
        from haptos.files.cue_sheets import save_cues

        save_cues(result.plain_cues, cues_out, title=the_level.title)
        paths["cues"] = cues_out
    if as_json:
        _print_json(result.to_json() | {"files": {name: str(path) for name, path in paths.items()}})
        return
    from haptos.views import terminal

    console = terminal.terminal()
    console.print(terminal.summary_table(result))
    console.print()
    console.print(terminal.events_table(result, chosen, None if every else terminal.MOST_EVENTS))
    if paths:
        console.print()
        console.print(terminal.written_text(paths))


@app.command()
def draw(
    level: LevelFile,
    cues: Annotated[
        str | None, typer.Argument(help="Cues or a cue sheet, to draw the path.", show_default=False)
    ] = None,
    out: Annotated[Path | None, typer.Option("--out", help="The picture: .png, .svg or .pdf.")] = None,
    gaps: Annotated[bool, typer.Option("--gaps", help="Draw the jumps across gaps as arcs.")] = False,
    at: Annotated[float | None, typer.Option("--at", help="The world and all that has happened then (s).")] = None,
    begin: Annotated[float | None, typer.Option("--from", help="Show the run from this time on (s).")] = None,
    end: Annotated[float | None, typer.Option("--to", help="Show the run until this time (s).")] = None,
    around: Annotated[str | None, typer.Option("--around", help="A piece, player, or x,y: what is around it.")] = None,
    window: Annotated[str | None, typer.Option("--window", help="A part of the level: left,bottom,right,top.")] = None,
    layers: Annotated[str | None, typer.Option("--layers", help="Only pieces on these layers: stone,oil.")] = None,
    names: Annotated[str, typer.Option("--names", help="Names of pieces: all, some or none.")] = "some",
    size: Annotated[str, typer.Option("--size", help="The sheet in dots: 1280x800.")] = "1280x800",
    theme: Annotated[str, typer.Option("--theme", help="light or dark.")] = "light",
) -> None:
    """Draw a level, and the body's path if there are cues."""
    the_level = _load(level)
    path = out or Path(f"{level.stem}.png")
    if path.suffix.lower() not in (".png", ".svg", ".pdf"):
        raise HaptosError(f"{path}: expected a picture ending in .png, .svg or .pdf")
    result = _simulate(the_level, _read_cues(cues, the_level)) if cues is not None else None
    from haptos.views.picture import save_picture

    marks = save_picture(
        the_level, result, path, at=at, begin=begin, end=end, around=around, gaps=gaps, names=names, theme=theme,
        window=None if window is None else numbers_of("--window", window, ",", "left,bottom,right,top"),
        layers=None if layers is None else tuple(name.strip() for name in layers.split(",")),
        size=tuple(int(dots) for dots in numbers_of("--size", size.lower(), "x", "1280x800")),
    )  # fmt: skip
    for number, text in marks:
        print(f"{number:>3}  {text}")
    print(f"picture: {path}")


@app.command()
def check(level: LevelFile, as_json: AsJson = False) -> None:
    """Look for what is likely wrong; exit code 1 if there are errors or warnings."""
    the_level = _load(level)
    from haptos.study.check import check as look

    findings = look(the_level)
    if as_json:
        _print_json({"title": the_level.title, "findings": [finding.to_json() for finding in findings]})
    else:
        from haptos.views import terminal

        terminal.terminal().print(terminal.findings_table(findings, str(level)))
    if any(finding.severity != "note" for finding in findings):
        raise typer.Exit(ANSWER_IS_NO)


@app.command()
def moves(
    level: LevelFile,
    gaps: Annotated[bool, typer.Option("--gaps", help="The gaps between places to stand, instead.")] = False,
    as_json: AsJson = False,
) -> None:
    """Print the numbers that decide a level: jumps, gaps, ledges, stops and falls, closed form beside simulated."""
    the_level = _load(level)
    from haptos.views import terminal

    if gaps:
        from haptos.study.gaps import gaps as find

        ways = find(the_level)
        if as_json:
            _print_json({"title": the_level.title, "gaps": _rows(ways)})
        else:
            terminal.terminal().print(terminal.gaps_table(ways, the_level.title, the_level.world.length_unit))
        return
    from haptos.study.moves import integrators
    from haptos.study.moves import moves as derive

    table = derive(the_level)
    methods = integrators(the_level)
    if as_json:
        rows = {"moves": table, "integrators": methods}
        plain = {name: _rows(frame) for name, frame in rows.items()}
        _print_json({"title": the_level.title, **plain})
        return
    console = terminal.terminal()
    console.print(terminal.moves_table(table, the_level.title))
    if len(methods):
        console.print()
        console.print(terminal.integrators_table(methods, the_level.world.tick_rate))


@app.command()
def why(
    level: LevelFile,
    one: Annotated[str | None, typer.Argument(help="A piece, or player.", show_default=False)] = None,
    other: Annotated[str | None, typer.Argument(help="Another piece, or player.", show_default=False)] = None,
    rule: Annotated[str | None, typer.Option("--rule", help="A rule: why it did or did not fire.")] = None,
    cues: Annotated[str, typer.Option("--cues", help="Cues, or a cue sheet, of the run that --rule asks about.")] = "",
    as_json: AsJson = False,
) -> None:
    """Say whether two things meet, and what decides; or with --rule and --cues, why a rule did or did not fire."""
    if (rule is None) == (one is None or other is None):
        raise HaptosError("expected two names, as in why LEVEL player floor, or --rule NAME with --cues, and not both")
    if rule is not None and not cues:
        raise HaptosError("found --rule without --cues, expected the cues of the run that it is about")
    the_level = _load(level)
    from haptos.study.rule_why import why_rule
    from haptos.study.why import why as ask

    if rule is not None:
        answer = why_rule(_simulate(the_level, _read_cues(cues, the_level)), rule)
    else:
        answer = ask(the_level, str(one), str(other))
    if as_json:
        _print_json(answer.to_json())
        return
    from haptos.views import terminal

    terminal.terminal().print(terminal.answer_text(answer))


@app.command()
def show(
    level: LevelFile,
    name: Annotated[
        str, typer.Argument(help="A piece (map/KIND for tiles), player, a kind, or bounds/left.", show_default=False)
    ],
    as_json: AsJson = False,
) -> None:
    """Print what a piece, the player or a kind resolved to, value by value, and where each comes from."""
    the_level = _load(level)
    from haptos.study.shown import show as look

    rows = look(the_level, name)
    if as_json:
        _print_json({"name": name, "values": _rows(rows)})
        return
    from haptos.views import terminal

    terminal.terminal().print(terminal.values_table(rows))


@app.command()
def new(file: Annotated[Path, typer.Argument(help="The level file to write, .toml.", show_default=False)]) -> None:
    """Write a commented starter level that runs."""
    from importlib.resources import files

    from haptos.writing import write_text

    if file.suffix.lower() != ".toml":
        raise HaptosError(f"{file}: expected a file ending in .toml")
    if file.exists():
        raise HaptosError(f"{file}: exists already, and is left as it is; expected a new name")
    write_text(file, (files("haptos.files") / "starter.toml").read_text(encoding="utf-8"))
    print(f"level: {file}")
    print(f"next:  haptos run {file} '{STARTER_CUES}'")


@app.command()
def schema() -> None:
    """Print the JSON Schema of level files."""
    from haptos.level.level import Level

    _print_json(Level.model_json_schema())


@app.command()
def demo(
    room: Annotated[str | None, typer.Argument(help="One room, shown in full.", show_default=False)] = None,
    out: Annotated[Path, typer.Option("--out", help="A folder for the files.")] = Path("haptos-demo"),
) -> None:
    """Run the whole example: check the observatory, run its cue sheets, write pictures and tables."""
    from haptos.demo import DEMO_SHEETS, demo_file
    from haptos.demo.tour import tour
    from haptos.views import terminal
    from haptos.writing import writable_folder

    folder = writable_folder(out)
    console = terminal.terminal()
    _announce_compiles()
    paths = tour(folder, console, room)
    if room is not None:
        console.rule("written", align="left", style="dim")
        console.print(terminal.written_text(paths))
        return
    first = next(iter(DEMO_SHEETS))
    level, sheet = demo_file(f"{first}.toml"), demo_file(f"{DEMO_SHEETS[first][0]}.toml")
    print(f"\npictures: {folder}/CUE SHEET/picture.png, tables beside them ({len(paths)} files)")
    print("next:     haptos demo " + first)
    print(f"          haptos run {level} {sheet}")
    print(f'          haptos draw {level} "right until ledge, right+jump 1 s" --out picture.png')
    print("          haptos new my-level.toml")


def _load(file: Path) -> Level:
    from haptos.files.reading import load

    _announce_compiles()
    READ.append(file)
    return load(file)


def _read_cues(words: str, level: Level) -> Cues:
    from haptos.files.reading import load_cues
    from haptos.level.cues import parse_cues

    if _is_file(words):
        return load_cues(words, level.unit_table())
    try:
        return parse_cues(words, level.unit_table())
    except CueError as error:
        if Path(words).suffix.lower() in (".toml", ".json", ".csv", ".txt"):
            raise CueError(f"{words}: no such cue sheet") from None
        raise CueError(f"cues: {error}") from None


def _is_file(words: str) -> bool:
    try:
        return Path(words).is_file()
    except OSError:
        return False


def _out_folder(out: Path | None) -> Path | None:
    if out is None:
        return None
    from haptos.writing import writable_folder

    return writable_folder(out)


def _simulate(level: Level, cues: Cues) -> Run:
    from haptos.engine.simulation import simulate

    return simulate(level, cues)


def _announce_compiles() -> None:
    from haptos.engine.compiling.kernels import Announcer

    Announcer.around = staticmethod(_announced)


@contextmanager
def _announced(text: str) -> Iterator[None]:
    """Say that a kernel is being compiled, and show that it goes on."""
    from rich.console import Console

    console = Console(stderr=True, highlight=False)
    console.print(f"haptos: {text}", soft_wrap=True)
    with console.status("compiling"):
        yield


def _write_run(result: Run, folder: Path) -> dict[str, Path]:
    from haptos.views.picture import save_picture

    paths = result.save(folder)
    paths["picture"] = folder / "picture.png"
    save_picture(result.level, result, paths["picture"])
    return paths


def _rows(frame: pd.DataFrame) -> list[dict[str, Any]]:
    """Return the rows of a table as plain values; what is no finite number is None."""
    rows: list[dict[str, Any]] = json.loads(frame.to_json(orient="records", double_precision=15))
    return rows


def _print_json(value: Any) -> None:
    print(json.dumps(value, indent=2, ensure_ascii=False, allow_nan=False))


if __name__ == "__main__":
    main()
