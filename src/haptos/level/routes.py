"""Routes and spins: how a piece moves on its own."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from pydantic import GetJsonSchemaHandler, SerializerFunctionWrapHandler, model_serializer, model_validator
from pydantic_core import CoreSchema

from haptos.level.facet_base import Facet
from haptos.level.quantity import AngularVelocity, Duration, Length, Period, Speed
from haptos.level.section import Truth

Mode = Literal["loop", "shuttle", "once"]
# What a route waits for unless it names a rule: that the player boards the piece.
RIDDEN = "ridden"


class Spin(Facet):
    """A piece that turns about a point.

    Attributes
    ----------
    speed : how fast, counter-clockwise
    pivot : the point, relative to the piece's `at`, in its own frame: it turns and grows with the piece
    """

    moves: ClassVar = True

    speed: AngularVelocity
    pivot: tuple[Length, Length] = (0.0, 0.0)


class Route(Facet):
    """The way of a piece: `route = { stops, speed }`, or `route = "name"` of a shared one.

    Attributes
    ----------
    stops : places relative to the piece's `at`, along the level's own x and y; of a child, along its parent's
    speed, leg_times : one of them: the speed on every leg, or the time that each leg takes
    pause : time at each stop
    ease : whether each leg begins and ends at rest, by 3s² - 2s³ of its way; else the speed is the same all along
    curve : straight from stop to stop, or one smooth curve through all of them, gone along at an even speed
    turns : whether the piece turns along its way; at the corners of a straight one, in the pause there
    waits_for : ``ridden``, or the name of a rule: its clock stands still until the player boards it, or the rule fires
    mode : loop goes from the last stop to the first, shuttle goes back the same way, once ends at the last
    start : how far its clock is ahead at the start
    shared : the name of one of the level's routes
    """

    moves: ClassVar = True

    stops: tuple[tuple[Length, Length], ...] = ()
    speed: Speed | None = None
    leg_times: tuple[Period, ...] | None = None
    pause: Duration = 0.0
    ease: Truth = False
    curve: Literal["straight", "smooth"] = "straight"
    turns: Truth = False
    waits_for: str | None = None
    mode: Mode = "shuttle"
    start: Duration = 0.0
    shared: str | None = None

    @model_validator(mode="before")
    @classmethod
    def _by_name(cls, data: Any) -> Any:
        return {"shared": data} if isinstance(data, str) else data

    @model_validator(mode="after")
    def _alone(self) -> Route:
        if self.shared is not None and self.model_fields_set != {"shared"}:
            raise ValueError("found a shared route with other keys, expected the route's name alone")
        return self

    @model_serializer(mode="wrap")
    def _as_written(self, handler: SerializerFunctionWrapHandler) -> Any:
        return self.shared if self.shared is not None else handler(self)

    @classmethod
    def __get_pydantic_json_schema__(cls, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        table = handler.resolve_ref_schema(handler(schema))
        table.get("properties", {}).pop("shared", None)
        return {"anyOf": [table, {"type": "string", "description": "name of one of [routes]"}]}

    def fault(self) -> str | None:
        """Return what keeps this from being a route, in one sentence; None if it is one."""
        if len(self.stops) < 2:
            return f"found {len(self.stops)} stops, expected two or more"
        if (self.speed is None) == (self.leg_times is None):
            found = "neither speed nor" if self.speed is None else "both speed and"
            return f"found {found} leg_times, expected one of them"
        wanted = len(self.stops) - (self.mode != "loop")
        if self.leg_times is not None and len(self.leg_times) != wanted:
            stops = f"{len(self.stops)} stops in mode {self.mode}"
            return f"found {len(self.leg_times)} leg_times, expected {wanted} for {stops}"
        return None
