"""What comes out when numbers are others: a run for each of them, and what is measured of it."""

from __future__ import annotations

import itertools
import os
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from haptos.engine.build.whole_level import Level
from haptos.engine.simulation import simulate
from haptos.errors import HaptosError
from haptos.files.reading import read_cue_sheet
from haptos.level.cues import Cues, parse_cues
from haptos.level.path_units import unit_of
from haptos.study.dask_workers import on_dask
from haptos.study.measures import Measure, Value
from haptos.study.worker_processes import as_done

if TYPE_CHECKING:
    import pandas as pd

# Points that a process gets at a time: few enough to see how far it is, many enough to be worth the way.
CHUNK = 8
# To begin another process takes about as long as that many points.
WORTH_A_PROCESS = 24
MOST_POINTS = 1_000_000

Row = tuple[Value, ...]
Chunk = tuple[int, list[dict[str, Any]]]
Results = Iterator[tuple[int, list[Row]]]


def sweep(
    level: Level,
    cues: str | Path | Cues,
    values: Mapping[str, Iterable[Any]],
    measure: Sequence[str],
    *,
    dask: str = "",
    progress: Callable[[int, int], None] | None = None,
) -> pd.DataFrame:
    """Run a level with every combination of other values, and measure each run.

    Parameters
    ----------
    level : Level
    cues : str, path or Cues
        Cues, or a cue sheet file.
    values : mapping
        The values of each path, as ``{"player.jump.height": [60, 70, 80]}``.
    measure : sequence of str
        What is measured: ``end x``, ``most y``, ``event land gallery``, ``count jump``, ``that oil >= 3``, ``seconds``,
        ``expect``.
    dask : str, optional
        The address of a Dask cluster that does the work; all cores of this machine if it is not given.
    progress : function of how many are done, and how many there are, optional

    Returns
    -------
    DataFrame
        A row a combination, the last path changing fastest; a column a path and a column a measure, named as they were
        given; ``attrs`` has their ``units``. Interrupted (Ctrl-C), the rows that are done, and ``attrs`` says so.

    Raises
    ------
    LevelError, CueError, HaptosError
        If a path, a value, the cues, a measure or the cluster can't be used.

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "floor", "shape": {"box": [900, 16]}, "at": [0, -22]}])
    >>> haptos.sweep(level, "jump 1 s", {"player.jump.height": [60, 80]}, ["most y", "event apex"]).round(3)
       player.jump.height  most y  event apex
    0                  60  59.940       0.258
    1                  80  79.997       0.298
    """
    import pandas as pd

    table = {path: list(some) for path, some in values.items()}
    _require_points(table, measure)
    points = [dict(zip(table, one, strict=True)) for one in itertools.product(*table.values())]
    sheet = _read(cues, level)
    units = {path: unit_of(level, path) for path in table} | {words: Measure(words).unit(level) for words in measure}
    chunks = [(begin, points[begin : begin + CHUNK]) for begin in range(0, len(points), CHUNK)]
    rows: dict[int, Row] = {}
    interrupted = False
    results = (
        on_dask(dask, measure_chunk, chunks, level, sheet, measure) if dask else _here(level, sheet, measure, chunks)
    )
    try:
        for begin, some in results:
            rows.update(enumerate(some, begin))
            if progress is not None:
                progress(len(rows), len(points))
    except KeyboardInterrupt:
        interrupted = True
    frame = pd.DataFrame(
        [(*points[index].values(), *rows[index]) for index in sorted(rows)], columns=[*table, *measure]
    )
    frame.attrs.update(interrupted=interrupted, units=units)
    return frame


def measure_chunk(level: Level, cues: Cues, measure: Sequence[str], chunk: Chunk) -> tuple[int, list[Row]]:
    """Run some points, and measure them: the number of the first, and a row for each."""
    begin, points = chunk
    measures = [Measure(words) for words in measure]
    rows = []
    for changes in points:
        run = simulate(level.changed(changes), cues)
        rows.append(tuple(one.of(run) for one in measures))
    return begin, rows


def _here(level: Level, cues: Cues, measure: Sequence[str], chunks: list[Chunk]) -> Results:
    """Run chunks on this machine, as they get done."""
    many = min(os.cpu_count() or 1, max(CHUNK * len(chunks) // WORTH_A_PROCESS, 1))
    # What is wrong with a path or a measure shows in the first, before anything is begun.
    yield measure_chunk(level, cues, measure, chunks[0])
    yield from as_done(partial(measure_chunk, level, cues, measure), chunks[1:], many)


def _require_points(table: Mapping[str, list[Any]], measure: Sequence[str]) -> None:
    if not table:
        raise HaptosError("found no values, expected those of one path or more, as {'player.jump.height': [60, 80]}")
    count = 1
    for path, some in table.items():
        if not some:
            raise HaptosError(f"{path}: found no values, expected one or more")
        count *= len(some)
    if count > MOST_POINTS:
        raise HaptosError(f"found {count} combinations, expected {MOST_POINTS} at most")
    if isinstance(measure, str) or not measure:
        raise HaptosError(f"measure: found {measure!r:.60}, expected a list such as ['end x', 'event land']")
    twice = {one for one in measure if list(measure).count(one) > 1}
    if twice:
        raise HaptosError(f"measure: found '{twice.pop()}' twice, expected each once")


def _read(cues: str | Path | Cues, level: Level) -> Cues:
    """Return cues: those of a sheet, or the words themselves."""
    if isinstance(cues, Cues):
        return cues
    units = level.unit_table()
    if isinstance(cues, Path) or Path(cues).suffix.lower() in (".toml", ".json", ".csv", ".txt"):
        return read_cue_sheet(cues, units).cues
    return parse_cues(cues, units)
