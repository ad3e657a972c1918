"""What a world that is stepped by hand is at, read from its state without building a table."""

from __future__ import annotations

import math
from functools import cached_property
from typing import Any, NamedTuple

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.records import Records
from haptos.engine.records.codes import POSE_NAMES, STANCE_NAMES
from haptos.engine.records.events import START
from haptos.engine.report.event_rows import Event, event_row
from haptos.engine.report.piece_names import BEFORE_ALL, Serials
from haptos.engine.report.present_places import PieceNow, PresentPlaces
from haptos.engine.stepping import NO_CONTROLS, Runner
from haptos.errors import HaptosError
from haptos.level.level import Level
from haptos.level.names import did_you_mean


class Gravity(NamedTuple):
    """The pull that the body feels, length units a second squared."""

    x: float
    y: float


class Present:
    """The present of one world: the base of `Simulation`.

    Attributes
    ----------
    level : Level
    compiled : CompiledLevel
    """

    level: Level
    compiled: CompiledLevel
    _runner: Runner
    _seen: int

    @property
    def _player(self) -> Records:
        return self._runner.player

    def _value(self, name: str) -> Any:
        return self._player[name][0]

    def _row(self) -> Any:
        """Return the last row of the track."""
        if not self._player["started"][0]:
            self._runner.run(NO_CONTROLS)
        return self._runner.recording.track[self._runner.recording.ticks]

    @property
    def t(self) -> float:
        """Seconds since the start."""
        return float(self._value("era") + self._value("tick")) / self.level.world.tick_rate

    @property
    def x(self) -> float:
        """The centre of the body, from the left."""
        return float(self._value("x"))

    @property
    def y(self) -> float:
        """The centre of the body, upward."""
        return float(self._value("y"))

    @property
    def vx(self) -> float:
        """Velocity to the right, with that of what carries the body."""
        return float(self._value("vx") + self._value("frame_vx"))

    @property
    def vy(self) -> float:
        """Velocity upward, with that of what carries the body."""
        return float(self._value("vy") + self._value("frame_vy"))

    @property
    def up(self) -> tuple[float, float]:
        """Which way is up for the body, a unit vector."""
        return float(self._value("up_x")), float(self._value("up_y"))

    @property
    def stance(self) -> str:
        """On what it is: ground, air, ladder, or gone."""
        return STANCE_NAMES[int(self._row()["stance"])]

    @property
    def pose(self) -> str:
        """What it does: idle, walk, sprint, rise, fall or climb, as after the last step."""
        return POSE_NAMES[int(self._row()["pose"])]

    @property
    def support(self) -> str:
        """The piece that it stands on; nothing in the air and on a ladder."""
        piece = self.compiled.support_piece(int(self._row()["support"]))
        if piece < len(self.compiled.resolved.pieces):
            return self.compiled.piece_name(piece)
        now = Serials(self.compiled, self._runner.recording.events[:0], self._runner.world.state.moving["serial"])
        return now.name(piece, BEFORE_ALL)

    @property
    def facing(self) -> str | float:
        """Which way it faces: right or left; in the top view degrees."""
        facing = float(self._value("facing"))
        if self.level.world.view == "top":
            return facing
        return "left" if facing < 0 else "right"

    @property
    def health(self) -> float:
        """What is left of the health."""
        return float(self._value("health"))

    @property
    def lives(self) -> float:
        """How many lives are left; infinite without a limit."""
        return float(self._value("lives"))

    @property
    def counters(self) -> dict[str, float]:
        """What each counter is at."""
        return dict(zip(self.level.counters, self._runner.world.state.counts["value"].tolist(), strict=False))

    @property
    def gravity(self) -> Gravity:
        """The pull that the body feels here."""
        return Gravity(float(self._value("gravity_x")), float(self._value("gravity_y")))

    @property
    def over(self) -> str:
        """Why nothing goes on any longer, in words; nothing while it does."""
        return self._runner.why_over()

    @property
    def events(self) -> list[Event]:
        """What happened in the last step."""
        recording = self._runner.recording
        happened = recording.events[: recording.event_count]
        first = min(self._seen, len(happened))
        if first == len(happened):
            return []
        names = Serials(self.compiled, happened, self._runner.serials)
        return [
            event_row(self.compiled, happened[index], names.pair(index))
            for index in range(first, len(happened))
            if happened[index]["kind"] != START
        ]

    def piece(self, name: str) -> PieceNow:
        """Return where a piece of the level is and what it is at; those that are made are in `run.pieces`.

        Parameters
        ----------
        name : str

        Returns
        -------
        PieceNow
            name, x, y, angle (degrees that it has turned), vx, vy, state (rests, moves, comes, shakes,
            falls, gone).

        Raises
        ------
        HaptosError
            If no piece is called that.

        Examples
        --------
        >>> import haptos
        >>> route = {"stops": [[0, 0], [0, 90]], "speed": 60}
        >>> lift = {"name": "lift", "at": [0, -40], "shape": {"box": [40, 8]}, "route": route}
        >>> simulation = haptos.Simulation(haptos.Level(pieces=[lift]))
        >>> simulation.step(ticks=30)
        >>> simulation.piece("lift").y
        -10.0
        """
        if name not in self._numbers:
            raise HaptosError(f"no piece is called '{name}'{did_you_mean(name, self._numbers)}")
        since = float(self._value("tick")) / self.level.world.tick_rate
        return self._places.now(self._numbers[name], self._runner.world.state, since)

    @property
    def pieces(self) -> dict[str, PieceNow]:
        """The pieces of the level that can move, by name, as `piece` gives them."""
        resolved = self.compiled.resolved
        return {
            piece.name: self.piece(piece.name)
            for index, piece in enumerate(resolved.pieces)
            if index in resolved.moving
        }

    @cached_property
    def _numbers(self) -> dict[str, int]:
        return {piece.name: index for index, piece in enumerate(self.compiled.resolved.pieces)}

    @cached_property
    def _places(self) -> PresentPlaces:
        return PresentPlaces(self.compiled)

    def __repr__(self) -> str:
        stands = f" on {self.support}" if self.support else ""
        ended = f", {self.over}" if self.over else ""
        speed = math.hypot(self.vx, self.vy)
        title = self.level.title or "untitled level"
        return (
            f"<Simulation of '{title}' at {self.t:.4g} s: {self.stance}{stands}, at ({self.x:.6g}, {self.y:.6g}), "
            f"{speed:.4g} {self.level.world.length_unit}/s{ended}>"
        )

    def _repr_html_(self) -> str:
        import html

        facts = {
            "at": f"({self.x:.6g}, {self.y:.6g})", "velocity": f"({self.vx:.6g}, {self.vy:.6g})",
            "stance": self.stance, "pose": self.pose, "support": self.support, "facing": self.facing,
            "health": f"{self.health:g}", "lives": f"{self.lives:g}",
            **{name: f"{value:g}" for name, value in self.counters.items()},
        }  # fmt: skip
        rows = "".join(
            f"<tr><th>{html.escape(name)}</th><td>{html.escape(str(value))}</td></tr>" for name, value in facts.items()
        )
        return f"<div>{html.escape(repr(self)[1:-1])}<table>{rows}</table></div>"
