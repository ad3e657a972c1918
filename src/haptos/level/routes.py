"""Routes: how a piece moves on its own, as legs between stops."""

from __future__ import annotations

import math
from typing import Any, Literal, NamedTuple

from pydantic import GetJsonSchemaHandler, model_validator
from pydantic_core import CoreSchema

from haptos.level.quantity import Duration, Length, Period, Speed
from haptos.level.section import Section

Mode = Literal["loop", "shuttle", "once"]


class Route(Section):
    """The way of a piece: `route = { stops, speed }`, or `route = "name"` of a shared one.

    Attributes
    ----------
    stops : places relative to the piece's `at`, along the level's own x and y
    speed, leg_times : one of them: the speed on every leg, or the time that each leg takes
    pause : time at each stop
    ease : whether each leg begins and ends at rest, by 3s² - 2s³ of its way; else the speed is the same all along
    mode : loop goes from the last stop to the first, shuttle goes back the same way, once ends at the last
    start : how far its clock is ahead at the start
    shared : the name of one of the level's routes
    """

    stops: tuple[tuple[Length, Length], ...] = ()
    speed: Speed | None = None
    leg_times: tuple[Period, ...] | None = None
    pause: Duration = 0.0
    ease: bool = False
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
            raise ValueError("found a shared route with other keys, wanted the route's name alone")
        return self

    @classmethod
    def __get_pydantic_json_schema__(cls, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        table = handler.resolve_ref_schema(handler(schema))
        table.get("properties", {}).pop("shared", None)
        return {"anyOf": [table, {"type": "string", "description": "name of one of [routes]"}]}

    def fault(self) -> str | None:
        """Return what keeps this from being a route, in one sentence; None if it is one."""
        if len(self.stops) < 2:
            return f"found {len(self.stops)} stops, wanted two or more"
        if (self.speed is None) == (self.leg_times is None):
            found = "neither speed nor" if self.speed is None else "both speed and"
            return f"found {found} leg_times, wanted one of them"
        wanted = len(self.stops) - (self.mode != "loop")
        if self.leg_times is not None and len(self.leg_times) != wanted:
            stops = f"{len(self.stops)} stops in mode {self.mode}"
            return f"found {len(self.leg_times)} leg_times, wanted {wanted} for {stops}"
        return None


class Leg(NamedTuple):
    """A pause at a stop and the way to the next one; times are of the route's clock."""

    x: float
    y: float
    dx: float
    dy: float
    begin: float
    pause: float
    duration: float


def legs_of(route: Route) -> list[Leg]:
    """Return the legs of one cycle; a shuttle's cycle is there and back.

    Parameters
    ----------
    route : Route
        Without fault, and not shared.

    Examples
    --------
    >>> there, back = legs_of(Route(stops=[[0, 0], [0, 200]], speed=80, pause=0.5))
    >>> there.duration, back.begin
    (2.5, 3.0)
    """
    stops = list(route.stops)
    times = route.leg_times
    order = list(range(len(stops) - 1))
    if route.mode == "loop":
        order.append(len(stops) - 1)
    ways = [(index, (index + 1) % len(stops), index) for index in order]
    if route.mode == "shuttle":
        ways += [(there, here, index) for here, there, index in reversed(ways)]
    legs = []
    clock = 0.0
    for here, there, index in ways:
        (x, y), (to_x, to_y) = stops[here], stops[there]
        length = math.hypot(to_x - x, to_y - y)
        if times is not None:
            duration = times[index]
        else:
            # At no speed, the first leg that goes anywhere never ends.
            duration = length / route.speed if route.speed else (math.inf if length > 0.0 else 0.0)
        legs.append(Leg(x, y, to_x - x, to_y - y, clock, route.pause, duration))
        clock += route.pause + duration
    return legs


def period_of(legs: list[Leg]) -> float:
    """Return how long a cycle takes."""
    return legs[-1].begin + legs[-1].pause + legs[-1].duration
