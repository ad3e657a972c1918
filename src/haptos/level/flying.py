"""Facets of what flies, is made while the level runs, and breaks on what it touches."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import BeforeValidator, Field, model_validator

from haptos.level.facet_base import Facet
from haptos.level.quantity import (
    Angle,
    AngularVelocity,
    Duration,
    Factor,
    Length,
    Mass,
    Period,
    Scale,
    Size,
    TopSpeed,
    Velocity,
)
from haptos.level.section import Section

DEFAULT_LIMIT = 64


def _both(value: Any) -> Any:
    """Make a single value the lower and the upper end of a range."""
    return value if isinstance(value, list | tuple) else (value, value)


Times = Annotated[tuple[Period, Period] | None, BeforeValidator(lambda value: None if value is None else _both(value))]
Speeds = Annotated[tuple[TopSpeed, TopSpeed], BeforeValidator(_both)]
Scales = Annotated[tuple[Scale, Scale], BeforeValidator(_both)]
Angles = Annotated[tuple[Angle, Angle], BeforeValidator(_both)]
Box = tuple[Size, Size]


class Drift(Facet):
    """A piece that flies on its own, straight on at an even speed.

    Attributes
    ----------
    velocity : (x, y)
    spin : how fast it turns, about its place
    on_exit : what happens once the whole piece has left the bounds, having been inside: it vanishes, comes in again
        opposite, or turns to a random place in `box` around the middle of the bounds; nothing if None
    box : (width, height) of that box; the middle itself if None
    mass : what kicks act on; nothing kicks it if None
    restitution : share of the speed with which it comes back off what its layer is solid to; it passes through if None
    """

    moves: ClassVar = True

    velocity: tuple[Velocity, Velocity] = (0.0, 0.0)
    spin: AngularVelocity = 0.0
    mass: Mass | None = None
    on_exit: Literal["vanish", "wrap", "reaim"] | None = None
    box: Box | None = None
    restitution: Factor | None = None

    @model_validator(mode="after")
    def _sound(self) -> Drift:
        if self.restitution is not None and self.restitution > 1:
            raise ValueError(f"found restitution {self.restitution:g}, expected 0 to 1")
        if self.box is not None and self.on_exit != "reaim":
            raise ValueError("found a box without on_exit = 'reaim', expected both or neither")
        return self


class Aim(Section):
    """Where what is made flies to: `at` the player, or a random place in a box around the middle of the bounds."""

    at: Literal["player"] | None = None
    box: Box | None = None
    speed: Speeds

    @model_validator(mode="after")
    def _sound(self) -> Aim:
        if (self.at is None) == (self.box is None):
            raise ValueError("expected one of at = 'player' and box = [width, height]")
        return self


class Spawner(Facet):
    """What makes pieces of a kind while the level runs; two numbers are a range, taken from evenly at random.

    Attributes
    ----------
    kind : of what it makes
    first : the time of the first; at once, but never without `every`
    every : the time between two; without, only rules make it make one
    area : where they come: a box around the spawner's place, anywhere inside the bounds, or just outside of them; the
        place itself if None
    limit : so many are there at once at most; one more is refused
    velocity, aim : how they fly; as their kind drifts if neither is given
    lasts : how long each is there
    scale, turn : of each
    """

    layer: ClassVar = "zone"

    kind: str
    first: Duration | None = None
    every: Times = None
    area: Literal["inside", "outside"] | Box | None = None
    limit: Annotated[int, Field(ge=1, le=4096)] = DEFAULT_LIMIT
    velocity: tuple[Velocity, Velocity] | None = None
    aim: Aim | None = None
    lasts: Period | None = None
    scale: Scales = (1.0, 1.0)
    turn: Angles = (0.0, 0.0)

    @model_validator(mode="after")
    def _sound(self) -> Spawner:
        if self.velocity is not None and self.aim is not None:
            raise ValueError("found both velocity and aim, expected one of them")
        for name in ("every", "scale", "turn"):
            low, high = getattr(self, name) or (0.0, 0.0)
            if low > high:
                raise ValueError(f"found {name} = [{low:g}, {high:g}], expected the lower number first")
        return self


class Fragile(Facet):
    """A piece that vanishes on touching pieces, or the player, on some layers, after so many hits."""

    layer: ClassVar = "shot"
    moves: ClassVar = True

    on: tuple[str, ...] = Field(min_length=1)
    hits: Annotated[int, Field(ge=1)] = 1


class Shot(Section):
    """What `act` fires, from the body's front in the direction that it faces."""

    kind: str
    speed: TopSpeed
    cooldown: Duration = 0.0
    lasts: Period | None = None
    offset: tuple[Length, Length] = (0.0, 0.0)
    limit: Annotated[int, Field(ge=1, le=4096)] = DEFAULT_LIMIT
