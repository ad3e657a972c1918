"""Why the body does what it does at one moment of a run: what carries it, stops it, slows it and draws it."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

import numpy as np

from haptos.engine.answer import Answer
from haptos.engine.bundling import tables_of
from haptos.engine.doing import deed_rows
from haptos.engine.records.codes import OF_WORLD, STANCE_NAMES
from haptos.engine.stepping import Runner
from haptos.errors import HaptosError
from haptos.level.assemblies import PLAYER
from haptos.level.control_bits import CONTROLS
from haptos.level.cues import controls_of

if TYPE_CHECKING:
    from haptos.engine.run import Run

# By which events a stance begins, the most telling first.
BEGINNINGS = {
    "ground": ("land", "respawn", "restart", "place", "climb", "step", "board", "touch"),
    "air": ("jump", "launch", "respawn", "restart", "place", "drop", "alight", "part"),
    "ladder": ("climb",),
    "gone": ("lost", "crush", "hurt"),
}
# What may happen to who is in the air already, and begins a flight of its own.
ANEW = ("launch", "jump", "respawn", "restart", "place")
WORDS = {"ground": "on the ground", "air": "in the air", "ladder": "on a ladder", "gone": "gone"}
# What a field may say that bears on the body.
FIELD_KEYS = (
    "speed_factor", "speed_limit", "accel_factor", "jump_factor", "gravity_factor", "push", "pull", "whirl", "drag",
    "carries",
)  # fmt: skip
SURFACE_KEYS = ("speed_factor", "accel_factor", "jump_factor", "friction", "conveyor", "restitution", "cushion")
# A normal this steep is below or above, not beside.
STEEP = math.cos(math.radians(45))


def why_at(run: Run, t: float) -> Answer:
    """Say why the body does what it does at a moment of a run; see `Run.why`."""
    if not 0 <= t <= run.duration + 0.5 / run.level.world.tick_rate:
        raise HaptosError(f"found {t:g} s, expected a time of the run: from 0 s to {run.duration:.6g} s")
    moment = _Moment(run, min(round(t * run.level.world.tick_rate), run.ticks))
    reasons = [
        *moment.support(), *moment.stops(), *moment.gait(), *moment.surface(), *moment.fields(), *moment.gravity(),
    ]  # fmt: skip
    return Answer(moment.stance, moment.sentence(), reasons)


class _Moment:
    """A run played up to the end of a tick."""

    def __init__(self, run: Run, tick: int) -> None:
        self.run, self.tick, self.compiled = run, tick, run.compiled
        self.t = tick / run.level.world.tick_rate
        schedule = run.plain_cues.schedule(run.level.world.tick_rate)
        self.held = int(schedule.held[tick - 1]) if tick else 0
        runner = Runner(run.compiled)
        deeds = [(when, deed) for when, deed in schedule.deeds if when < max(tick, 1)]
        runner.run(schedule.held[:tick], deed_rows(run.compiled, deeds))
        self.state, self.player = runner.world.state, runner.player[0]
        self.tables = tables_of(run.compiled, self.state)
        self.row = run.track_records[tick]
        self.stance = STANCE_NAMES[int(self.row["stance"])]

    def sentence(self) -> str:
        unit = self.run.level.world.length_unit
        return (
            f"at {self.t:.6g} s it is {WORDS[self.stance]} at ({self.row['x']:.6g}, {self.row['y']:.6g}), going "
            f"({self.row['vx']:.4g}, {self.row['vy']:.4g}) {unit}/s"
        )

    def ground(self) -> int:
        """Return the number of what it stands on: in the top view of the highest floor under its centre."""
        return self.compiled.support_piece(int(self.row["support"]))

    def support(self) -> list[str]:
        """Say what carries the body and since when; or how it came to be in the air."""
        number = self.ground()
        name = self.compiled.piece_name(number)
        began = self._began(name)
        since = "" if began is None else f" since {began.t:.6g} s: {began.detail}"
        if self.stance == "ground":
            words = f"stands on {self._told(number)}" if name else "stands on the floor"
            return [words + since]
        if self.stance == "ladder" and self.tables.ladders is not None and self.player["ladder"] >= 0:
            return [f"climbs {self._told(int(self.tables.ladders[int(self.player['ladder'])]['piece']))}{since}"]
        return [f"is {WORDS[self.stance]}{since}"]

    def _began(self, support: str) -> Any:
        """Return the event by which the present stance, on the present support, began; None if there is none."""
        rows = self.run.track_records["stance"][: self.tick + 1]
        names = self.run.names.of_supports(self.run.track_records["support"][: self.tick + 1])
        same = rows == rows[self.tick]
        if self.stance == "ground":
            same &= names == support
        first = int(np.flatnonzero(~same)[-1]) if not same.all() else 0
        own = [row for row in self.run.event_rows if row.who == PLAYER and first <= row.tick <= self.tick]
        if self.stance == "air":
            anew = [row for row in own if row.event in ANEW]
            if anew:
                return anew[-1]
        wanted = BEGINNINGS[self.stance]
        known = [row for row in own if row.event in wanted and (self.stance != "ground" or row.piece in (support, ""))]
        known = [row for row in known if row.tick <= first + 1 or row.event == wanted[0]]
        return min(known, key=lambda row: (wanted.index(row.event), -row.tick), default=None)

    def stops(self) -> list[str]:
        """Say what else is touched, and on which side."""
        up_x, up_y, handed = (float(self.player[name]) for name in ("up_x", "up_y", "handed"))
        is_side = self.run.level.world.view == "side"
        found: dict[tuple[int, str], None] = {}
        for index in range(int(self.player["contacts"])):
            contact = self.state.contacts[index]
            rise = float(contact["nx"] * up_x + contact["ny"] * up_y)
            across = float(contact["nx"] * up_y - contact["ny"] * up_x) * handed
            if not contact["held"]:
                continue
            if is_side and rise > STEEP:
                continue
            side = "above" if is_side and rise < -STEEP else "on its left" if across > 0 else "on its right"
            if not is_side:
                angle = math.degrees(math.atan2(-float(contact["ny"]), -float(contact["nx"])))
                side = f"at {angle:.0f}°"
            outline = int(contact["outline"])
            found[self.compiled.support_piece(outline), side] = None
        return [
            f"pushes {self._told(number)} {side}"
            if number >= 0 and self._piece(number).facet("body") is not None
            else f"is stopped {side} by {self._told(number)}"
            for number, side in found
        ]

    def gait(self) -> list[str]:
        """Say which controls are held, and what speed they ask for."""
        level = self.run.level
        words = controls_of(self.held)
        if words == "wait":
            return ["no control is held"]
        sideways = ("left", "right") if level.world.view == "side" else ("left", "right", "up", "down")
        ways = [name for name in sideways if self.held & CONTROLS[name]]
        if not ways or self.stance == "ladder":
            return [f"{words} is held"]
        if level.world.view == "side" and len(ways) == 2:
            return [f"{words} is held: left and right together ask for nothing"]
        gait = "sprint" if self.held & CONTROLS["sprint"] else "walk"
        speed = getattr(level.player.gaits, gait)
        factor, limit = float(self.player["speed_factor"]), float(self.player["speed_limit"])
        asked = min(speed * factor, limit)
        unit = f"{level.world.length_unit}/s"
        less = f" times {factor:g}" if factor != 1.0 else ""
        least = f", at most {limit:g}" if limit < speed * factor else ""
        return [f"{words} is held: {gait} at {speed:g} {unit}{less}{least} asks for {asked:.4g} {unit}"]

    def surface(self) -> list[str]:
        """Say what the ground does."""
        number = self.ground()
        if self.stance != "ground" or number < 0:
            return []
        return [
            f"{self._told(number, 'surface')} has {said}"
            for said in [_said(self._piece(number).facet("surface"), SURFACE_KEYS)]
            if said
        ]

    def fields(self) -> list[str]:
        """Say which fields it is in, and what they do."""
        fields = self.tables.fields
        if fields is None:
            return []
        reasons = []
        for row in range(len(fields)):
            if self.state.occupied[row] <= 0:
                continue
            number = int(fields[row]["piece"])
            facet = self._piece(number).facet("field")
            said = _said(facet, FIELD_KEYS)
            if facet is not None and facet.only_grounded and self.stance != "ground":
                said = f"{said}, only for who is grounded" if said else "nothing for who is not grounded"
            if said:
                reasons.append(f"is in {self._told(number, 'field')}: {said}")
        return reasons

    def gravity(self) -> list[str]:
        """Say which gravity holds, and from where."""
        if self.run.level.world.view == "top":
            return []
        unit = f"{self.run.level.world.length_unit}/s²"
        x, y = (float(self.player[name]) + 0.0 for name in ("gravity_x", "gravity_y"))
        pull = f"({x:.6g}, {y:.6g}) {unit}"
        source, fields = int(self.player["gravity_source"]), self.tables.fields
        if source == OF_WORLD or fields is None:
            return [f"gravity is the world's, {pull}"]
        number = int(fields[source]["piece"])
        lasts = "" if self.state.occupied[source] > 0 else ", which it has left: it lasts"
        return [f"gravity is that of {self._told(number, 'field')}, {pull}{lasts}"]

    def _piece(self, number: int) -> Any:
        return self.compiled.cast.resolved.pieces[number]

    def _told(self, number: int, facet: str = "") -> str:
        """Return the name of a piece with the line that says it, or says its facet."""
        name = self.compiled.piece_name(number)
        origin = self.run.level.origin
        if number < 0 or origin is None:
            return f"'{name}'"
        piece = self._piece(number)
        line = origin.line_of(f"{piece.place}, {facet}" if facet else piece.place)
        return f"'{name}'" if line is None else f"'{name}' ({origin.file}, line {line})"


def _said(facet: Any, keys: tuple[str, ...]) -> str:
    """Return what a facet says, of what is said in the file, in words."""
    if facet is None:
        return ""
    usual = type(facet).model_fields
    said = {key: getattr(facet, key) for key in keys if key in usual}
    return ", ".join(f"{key} {_value(value)}" for key, value in said.items() if value not in (None, usual[key].default))


def _value(value: Any) -> str:
    if isinstance(value, tuple | list):
        return f"({', '.join(_value(part) for part in value)})"
    if isinstance(value, bool):
        return "true" if value else "false"
    return f"{value:g}" if isinstance(value, float) else str(value)
