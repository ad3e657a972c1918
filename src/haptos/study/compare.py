"""What is different between two runs: events, the way, and the end."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.report.event_rows import Event
from haptos.engine.run import Run
from haptos.study.alignment import align

if TYPE_CHECKING:
    import pandas as pd

# Two numbers that differ by no more than this, relative, were worked out in another order.
ROUNDING = 1e-9
ONLY_ONE, ONLY_OTHER, MOVED, CHANGED = "gone", "new", "moved", "changed"
# Events that are told apart by what they say.
IN_WORDS = ("say", "set")
EVENT_COLUMNS = (
    "change", "event", "who", "piece", "t_one", "t_other", "later", "distance", "amount_one", "amount_other",
)  # fmt: skip


@dataclass(frozen=True)
class Difference:
    """An event that only one of two runs has, or that both have at other times or with other numbers.

    Attributes
    ----------
    change : gone (only the first has it), new (only the second), moved (in time), changed (its place or its number
        alone)
    one, other : the event in each run, or None
    """

    change: str
    one: Event | None
    other: Event | None

    @property
    def event(self) -> Event:
        """The event, as the run has it that has it."""
        event = self.one or self.other
        assert event is not None
        return event

    @property
    def shift(self) -> float:
        """How much later it is in the second run (s); nan if only one has it."""
        return math.nan if self.one is None or self.other is None else self.other.t - self.one.t

    @property
    def distance(self) -> float:
        """How far from its place in the first run it is in the second (length); nan if only one has it."""
        if self.one is None or self.other is None:
            return math.nan
        return math.hypot(self.other.x - self.one.x, self.other.y - self.one.y)


class Differences:
    """What is different between two runs.

    Attributes
    ----------
    one, other : Run
    same : whether nothing is
    parted : the time of the first tick at which the body is elsewhere (s), or None
    farthest : how far apart the two get, at one time (length), and when (s)
    events : DataFrame, a row for each event that differs: change, event, who, piece, t_one, t_other, later (s),
        distance, amount_one, amount_other
    ends : DataFrame, a row for each thing at the end: what, one, other, differs
    """

    def __init__(self, one: Run, other: Run) -> None:
        self.one, self.other = one, other

    @cached_property
    def differences(self) -> list[Difference]:
        """The events that differ, in order of time."""
        rows, others = self.one.event_rows, self.other.event_rows
        pairs = align(
            [_key(row) for row in rows], [_key(row) for row in others], [row.t for row in rows],
            [row.t for row in others],
        )  # fmt: skip
        found = []
        for i, j in pairs:
            one, other = rows[i], others[j]
            if not _agree(one.t, other.t):
                found.append(Difference(MOVED, one, other))
            elif not _agree(one.amount, other.amount) or not _agree(one.x, other.x) or not _agree(one.y, other.y):
                found.append(Difference(CHANGED, one, other))
        matched, others_matched = {i for i, _ in pairs}, {j for _, j in pairs}
        found += [Difference(ONLY_ONE, row, None) for i, row in enumerate(rows) if i not in matched]
        found += [Difference(ONLY_OTHER, None, row) for j, row in enumerate(others) if j not in others_matched]
        return sorted(found, key=lambda difference: difference.event.t)

    @cached_property
    def events(self) -> pd.DataFrame:
        """The events that differ, as a table."""
        import pandas as pd

        rows = []
        for one in self.differences:
            first, second = (
                (math.nan, math.nan) if event is None else (event.t, event.amount) for event in (one.one, one.other)
            )
            event = one.event
            rows.append(
                (
                    one.change, event.event, event.who, event.piece, first[0], second[0], one.shift, one.distance,
                    first[1], second[1],
                )
            )  # fmt: skip
        return pd.DataFrame(rows, columns=list(EVENT_COLUMNS))

    @cached_property
    def _apart(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Times at which both runs have a row, and how far apart the two bodies are then."""
        rate, other_rate = (run.level.world.tick_rate for run in (self.one, self.other))
        rows, others = self.one.track_records, self.other.track_records
        if rate == other_rate:
            count = min(len(rows), len(others))
            gaps = np.hypot(rows["x"][:count] - others["x"][:count], rows["y"][:count] - others["y"][:count])
            return np.arange(count) / rate, gaps
        # Sampled at other times: at those of the first run, between two rows of the second.
        t, u = np.arange(len(rows)) / rate, np.arange(len(others)) / other_rate
        t = t[t <= u[-1] + 0.5 / other_rate]
        x, y = (np.interp(t, u, others[name]) for name in ("x", "y"))
        return t, np.hypot(rows["x"][: len(t)] - x, rows["y"][: len(t)] - y)

    @property
    def parted(self) -> float | None:
        """The time of the first tick at which the body is elsewhere (s), or None."""
        times, gaps = self._apart
        size = max(self.one.level.player.shape.size)
        where = np.flatnonzero(gaps > ROUNDING * size)
        return float(times[where[0]]) if len(where) else None

    @property
    def farthest(self) -> tuple[float, float]:
        """How far apart the two get at one time (length), and when (s)."""
        times, gaps = self._apart
        last = int(np.argmax(gaps))
        return float(gaps[last]), float(times[last])

    @cached_property
    def ends(self) -> pd.DataFrame:
        """What there is at the end of each run, and whether that differs."""
        import pandas as pd

        one, other = (_end_of(run) for run in (self.one, self.other))
        rows = [
            (name, one.get(name), other.get(name), not _agree(one.get(name), other.get(name)))
            for name in [*one, *(name for name in other if name not in one)]
        ]
        return pd.DataFrame(rows, columns=["what", "one", "other", "differs"])

    @property
    def same(self) -> bool:
        """Whether the two runs differ in nothing."""
        return not self.differences and self.parted is None and not self.ends["differs"].any()

    def to_json(self) -> dict[str, Any]:
        """Return what differs as plain values; what is not a number is None."""
        gap, when = self.farthest
        return {
            "same": self.same,
            "parted": self.parted,
            "farthest": {"distance": gap, "t": when},
            "events": [
                {name: None if isinstance(value, float) and not math.isfinite(value) else value
                 for name, value in row.items()}
                for row in self.events.to_dict(orient="records")
            ],
            "ends": [
                {name: value for name, value in row.items() if name != "differs"}
                for row in self.ends[self.ends["differs"]].to_dict(orient="records")
            ],
        }  # fmt: skip

    def __repr__(self) -> str:
        if self.same:
            return "<no difference>"
        parted = "the paths are one" if self.parted is None else f"the paths part at {self.parted:.6g} s"
        return f"<{len(self.differences)} events differ, {parted}>"


def _key(event: Event) -> tuple[str, ...]:
    """Return what makes an event of one run the same as one of another: of what rules say and set, the words too."""
    return event.event, event.who, event.piece, event.detail if event.event in IN_WORDS else ""


def _agree(one: Any, other: Any) -> bool:
    """Whether two values are the same but for rounding; what is no number is."""
    if isinstance(one, float) and isinstance(other, float):
        if math.isnan(one) or math.isnan(other):
            return math.isnan(one) and math.isnan(other)
        return one == other or abs(one - other) <= ROUNDING * max(abs(one), abs(other), 1.0)
    return bool(one == other)


def _end_of(run: Run) -> dict[str, Any]:
    """Return what there is at the end of a run, by plain names."""
    facts = run.summary()
    end: dict[str, Any] = {
        "seconds": facts["seconds"], "x": facts["to"][0], "y": facts["to"][1], "stance": facts["stance"],
        "support": facts["ends_on"], "health": facts["health"], "lives": facts["lives"],
    }  # fmt: skip
    end |= {f"counter {name}": value for name, value in facts["counters"].items()}
    return end | {"finished": facts["finished"], "ended": run.why_ended}
