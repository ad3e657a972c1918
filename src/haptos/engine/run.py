"""A run: what the body did, as tables."""

from __future__ import annotations

import math
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.answer import Answer
from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.following import Followed, Remark
from haptos.engine.moment_why import why_at
from haptos.engine.records import Records
from haptos.engine.records.codes import POSE_NAMES, STANCE_NAMES
from haptos.engine.records.events import APEX, EVENT_NAMES, LAND, PLACED, SAY
from haptos.engine.records.recording import Ticks
from haptos.engine.report.event_rows import Event, event_row
from haptos.engine.report.replay import piece_motions
from haptos.engine.report.run_records import Recorded
from haptos.level.cues import Cues
from haptos.writing import to_json_text, writable_folder, write_text, write_whole

if TYPE_CHECKING:
    import pandas as pd


PIECE_COLUMNS = ("tick", "t", "piece", "x", "y", "angle", "vx", "vy", "spin", "state")


# So many events, the last ones, are shown in a notebook.
HTML_EVENTS = 12
WHERE = {"air": "in the air", "ground": "on the ground", "ladder": "on a ladder", "gone": "gone"}


class Run(Recorded):
    """What a simulation gives back.

    Attributes
    ----------
    level : the level
    cues : the cues
    plain_cues : the same with plain times, of those that wait those that they came to; they give the same run
    track : DataFrame, a row a tick, row 0 before the first
    events : DataFrame, a row an event
    pieces : DataFrame, a row a tick and piece that moves
    """

    def __init__(self, compiled: CompiledLevel, cues: Cues, ticks: Ticks, followed: Followed | None = None) -> None:
        super().__init__(compiled, ticks)
        self.cues = cues
        self._followed = followed or Followed(cues, np.zeros(min(len(cues.steps), 1), dtype=np.int64))

    @property
    def plain_cues(self) -> Cues:
        """The cues with plain times; of those that wait, the times that they came to."""
        return self._followed.plain

    @property
    def ticks(self) -> int:
        """How many ticks were run."""
        return len(self.track_records) - 1

    @property
    def duration(self) -> float:
        """Seconds of play."""
        return self.ticks / self.level.world.tick_rate

    @cached_property
    def track(self) -> pd.DataFrame:
        """A row a tick.

        tick, t (s), x, y (length), vx, vy (length/s), up_x, up_y, stance (ground, air, ladder, gone), pose (idle, walk,
        sprint, rise, fall, climb), support (a piece's name, in the top view of the floor under the centre; empty in the
        air and on a ladder), facing (right, left; degrees in the top view), flipped (whether a drawing is to be
        mirrored, as on a ceiling), speed_factor (what ground and fields make of the gaits), health, lives (infinite
        without a limit), and a column for each counter.
        """
        import pandas as pd

        rows = self.track_records
        tick = np.arange(len(rows))
        columns: dict[str, Any] = {"tick": tick, "t": tick / self.level.world.tick_rate}
        for name in ("x", "y", "vx", "vy", "up_x", "up_y"):
            columns[name] = rows[name]
        columns["stance"] = np.array(STANCE_NAMES, dtype=object)[rows["stance"]]
        columns["pose"] = np.array(POSE_NAMES, dtype=object)[rows["pose"]]
        columns["support"] = self.names.of_supports(rows["support"])
        if self.level.world.view == "top":
            columns["facing"] = rows["facing"]
        else:
            columns["facing"] = np.where(rows["facing"] < 0, "left", "right")
        columns["flipped"] = rows["flipped"] != 0
        for name in ("speed_factor", "health", "lives"):
            columns[name] = rows[name]
        for number, name in enumerate(self.level.counters):
            columns[name] = self.scores[:, number]
        return pd.DataFrame(columns)

    @cached_property
    def event_rows(self) -> list[Event]:
        """The events as plain rows, which need no pandas."""
        return [
            event_row(self.compiled, row, names, int(cue), self._remarks)
            for row, names, cue in zip(self.event_records, self.names.of_events, self._cues_of_events(), strict=True)
        ]

    @cached_property
    def _remarks(self) -> tuple[str, ...]:
        """What events say that are no kernel's: of what was waited for in vain, how near the body came to it."""
        return tuple(remark.words + self._how_near(remark) for remark in self._followed.remarks)

    def _how_near(self, remark: Remark) -> str:
        known = [index for index in remark.pieces if index < len(self.compiled.origins)]
        if not known:
            return ""
        from haptos.engine.nearness import nearest

        measured = [(*nearest(self, index, remark.first, remark.last), index) for index in known]
        gaps = [(gap, tick, index) for gap, tick, index in measured if gap is not None]
        if not gaps:
            return ""
        gap, tick, index = min(gaps)
        name, world = self.compiled.resolved.pieces[index].name, self.level.world
        words = (
            f"the body came as near as {gap:.4g} {world.length_unit} to '{name}'" if gap else f"it overlapped '{name}'"
        )
        return f"; {words}, at {tick / world.tick_rate:.4g} s"

    def _cues_of_events(self) -> NDArray[np.int64]:
        """Return the number of the cue during which each event fell, from 1; an event is at the end of its tick."""
        # But for who is put somewhere, which is before the next one.
        ticks = np.maximum(self.event_records["tick"] - (self.event_records["kind"] != PLACED), 0)
        return np.searchsorted(self._followed.begins, ticks, side="right")

    @cached_property
    def events(self) -> pd.DataFrame:
        """A row an event: tick, t (exact, s), event, who, piece, x, y, amount, detail, cue (its number, from 1)."""
        import pandas as pd

        return pd.DataFrame(self.event_rows, columns=list(Event._fields))

    @cached_property
    def pieces(self) -> pd.DataFrame:
        """A row a tick and piece that moves.

        tick, t (s), piece, x, y (its place), angle (degrees that it has turned, unwrapped), vx, vy, spin (degrees/s),
        state (moves, rests; shakes, falls or gone of what gives way; comes, gone of what is taken); where a level has
        hinges, the torque that the motor of each gives, too. Poses are closed forms of the time, but for loose bodies;
        they are worked out when they are asked for.
        """
        import pandas as pd

        columns = piece_motions(self)
        return pd.DataFrame(columns, columns=[*PIECE_COLUMNS, *(name for name in columns if name not in PIECE_COLUMNS)])

    def why(self, t: float) -> Answer:
        """Say why the body does what it does at a moment.

        Parameters
        ----------
        t : float
            Seconds from the start; the tick that ends nearest to it is looked at.

        Returns
        -------
        Answer
            The stance, a sentence, and the reasons: what carries it and since when, what stops it, which controls,
            surface, fields and gravity hold, each with its line of the file.

        Raises
        ------
        HaptosError
            If the run was not that long.

        Examples
        --------
        >>> import haptos
        >>> level = haptos.Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -22]}])
        >>> for reason in haptos.simulate(level, "jump 0.2 s, right 0.4 s").why(0.4).reasons:
        ...     print(reason)
        is in the air since 0 s: leaves at 509.1 px/s
        right is held: walk at 150 px/s asks for 150 px/s
        gravity is the world's, (0, -1800) px/s²
        """
        return why_at(self, t)

    def save(self, folder: str | Path) -> dict[str, Path]:
        """Write track, events and moving pieces, if there are any, as CSV, and the summary as JSON.

        Parameters
        ----------
        folder : str or Path
            Made if it is missing.

        Returns
        -------
        dict
            The paths by what they hold: track, events, pieces, summary.

        Raises
        ------
        HaptosError
            If something can't be written.
        """
        place = writable_folder(folder)
        tables = {"track": self.track, "events": self.events, "pieces": self.pieces}
        paths: dict[str, Path] = {}
        for name, table in tables.items():
            if name == "pieces" and table.empty:
                continue
            paths[name] = place / f"{name}.csv"
            write_whole(paths[name], partial(table.to_csv, index=False))
        paths["summary"] = place / "run.json"
        write_text(paths["summary"], to_json_text(self.to_json()))
        return paths

    def says(self) -> list[str]:
        """Return what the rules said, in order."""
        rows = self.event_records
        return [self.compiled.sayings[int(row["more"])] for row in rows[rows["kind"] == SAY]]

    def __repr__(self) -> str:
        rows = self.track_records
        x, y, stance = float(rows["x"][-1]), float(rows["y"][-1]), STANCE_NAMES[int(rows["stance"][-1])]
        support = self.names.of_supports(rows["support"])[-1]
        where = f"on {support}" if support else WHERE[stance]
        return (
            f"<Run of '{self.level.title or 'untitled'}': {self.duration:.6g} s, {self.ticks} ticks, "
            f"{len(self.event_records)} events; ended {where} at ({x:.6g}, {y:.6g}): {self.why_ended}>"
        )

    def _repr_html_(self) -> str:
        import html

        return f"<div>{html.escape(repr(self)[1:-1])}{self.events.tail(HTML_EVENTS).to_html(index=False)}</div>"

    @property
    def why_ended(self) -> str:
        """Why the run ended: the cues are over, the level is, or an event at which the cues stop."""
        return self._followed.remarks[-1].words if self._followed.remarks else "the cues are over"

    def summary(self) -> dict[str, Any]:
        """Return the few numbers that say how it went, by plain names."""
        rows = self.track_records
        speed = np.hypot(rows["vx"], rows["vy"])
        count = {
            name: int(np.sum(self.event_records["kind"] == EVENT_NAMES.index(name)))
            for name in ("jump", "land", "lost", "say", "finish")
        }
        lands = self.event_records[self.event_records["kind"] == LAND]
        return {
            "seconds": self.duration,
            "ticks": self.ticks,
            "from": (float(rows["x"][0]), float(rows["y"][0])),
            "to": (float(rows["x"][-1]), float(rows["y"][-1])),
            "fastest": float(speed.max()),
            # Against the world's own gravity, whichever the body felt.
            "highest": max(self._highest(rows), self._highest(self.event_records[self.event_records["kind"] == APEX])),
            "deepest_drop": float(lands["amount"].max()) if len(lands) else 0.0,
            "jumps": count["jump"],
            "lost": count["lost"],
            "health": float(rows["health"][-1]),
            "lives": None if math.isinf(rows["lives"][-1]) else int(rows["lives"][-1]),
            "counters": dict(zip(self.level.counters, map(float, self.scores[-1]), strict=True)),
            "totals": self._totals(),
            "finished": count["finish"] > 0,
            "says": self.says(),
            "ends_on": self.names.of_supports(rows["support"])[-1],
            "stance": STANCE_NAMES[int(rows["stance"][-1])],
        }

    def _highest(self, rows: Records) -> float:
        """Return the greatest height among rows; minus infinity if there are none."""
        up_x, up_y = self.level.world.up
        return float((rows["x"] * up_x + rows["y"] * up_y).max()) if len(rows) else -math.inf

    def _totals(self) -> dict[str, float]:
        """Return how much there is to take for each counter in the level."""
        stakes = self.compiled.tables.stakes
        totals = [] if stakes is None else map(float, stakes.counters["total"])
        return dict(zip(self.level.counters, totals, strict=False))

    def to_json(self) -> dict[str, Any]:
        """Return summary and events as plain values; what is not a number is None."""
        records = [row._asdict() for row in self.event_rows]
        for record in records:
            if not math.isfinite(record["amount"]):
                record["amount"] = None
        return {"title": self.level.title, "summary": self.summary(), "events": records}
