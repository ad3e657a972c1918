"""What a run did, written down as what is expected of it from now on."""

from __future__ import annotations

from haptos.engine.run import Run
from haptos.level.assemblies import PLAYER
from haptos.level.expectations import END, Expectation

# What a run is remembered by; the rest follows from it.
TELLING = ("land", "enter", "collect", "launch", "board", "checkpoint", "hurt", "lost", "finish")
# An event may come so much earlier or later (s), and the end be so far away (body heights).
LEEWAY, ROOM = 0.05, 0.25


def expectations_of(run: Run) -> tuple[Expectation, ...]:
    """Return what a run did as expectations: its landings, what it entered and collected, and its end.

    Parameters
    ----------
    run : Run

    Returns
    -------
    tuple of Expectation
        All of them hold of this run; each may be thinned out.

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -22]}])
    >>> [one.words for one in expectations_of(haptos.simulate(level, "jump 1 s"))][0]
    'land on floor after 0.52 s and before 0.62 s'
    """
    found = [
        Expectation(
            event=row.event, piece=row.piece or None,
            after=_rounded(row.t - LEEWAY) if row.t > LEEWAY else None, before=_rounded(row.t + LEEWAY),
        )
        for row in run.event_rows
        if row.event in TELLING and row.who == PLAYER
    ]  # fmt: skip
    rows = run.track_records
    room = _rounded(ROOM * run.level.player.shape.size[1])
    found.append(Expectation(near=(_rounded(rows["x"][-1]), _rounded(rows["y"][-1])), within=room, at=END))
    for name, value in run.summary()["counters"].items():
        if value:
            found.append(Expectation.model_validate({"that": f"{name} == {value:.9g}", "at": END}))
    return tuple(found)


def _rounded(value: float) -> float:
    """Return a number as one writes it: to hundredths."""
    return round(float(value), 2)
