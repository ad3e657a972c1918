"""What is at stake: what can be taken, what hurts, what saves, what ends the level, and what is counted."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

from pydantic import Field, model_validator

from haptos.level.facet_base import Facet
from haptos.level.quantity import Duration, Factor, Length, Number, Period, Size, Speed, TopSpeed
from haptos.level.section import Section, Truth

Count = Annotated[int, Field(ge=1, strict=True)]


class Pickup(Facet):
    """A piece that is taken by coming near it, and may come by itself; both distances are from the player's shape.

    Attributes
    ----------
    worth : what it adds to its counter
    counter : which one; none if None
    collect_within : so near to its middle it is taken; half of its shape's smaller side if None
    attract_within : so near it comes, 0 for never; the player's `attract_bonus` is added
    motion : ``steady`` comes at `speed`; ``ease`` comes the faster the farther it is, by `rate` of the way a second
    speed, rate : of these
    latched : whether it goes on coming once it has begun; without, it stays where it is when it is too far away
    by : who takes it: ``player``, and pieces that move, by name, kind, ``#mark`` or layer; it comes to the player alone
    blocked_by : layers whose pieces, where they stay, keep it from beginning to come while they are in between
    """

    layer: ClassVar = "pickup"
    changeable: ClassVar = ("worth", "speed", "rate", "latched")

    worth: Number = 1.0
    counter: str | None = None
    collect_within: Size | None = None
    attract_within: Size = 0.0
    motion: Literal["steady", "ease"] = "steady"
    speed: TopSpeed = 400.0
    rate: Factor = 6.0
    latched: Truth = True
    by: tuple[str, ...] = Field(default=("player",), min_length=1)
    blocked_by: tuple[str, ...] = ()

    @model_validator(mode="after")
    def _sound(self) -> Pickup:
        given = self.model_fields_set
        if self.motion == "steady" and "rate" in given:
            raise ValueError("found a rate with motion = 'steady', expected a speed, or motion = 'ease'")
        if self.motion == "ease" and "speed" in given:
            raise ValueError("found a speed with motion = 'ease', expected a rate, or motion = 'steady'")
        if self.motion == "ease" and self.rate == 0:
            raise ValueError("found rate 0, expected one above 0")
        return self


class Harm(Facet):
    """What hurts who touches or overlaps the piece.

    Attributes
    ----------
    points : of health that are lost
    every : hurts again after so long a contact; once the mercy time is over if None
    knock : speed at which the body is thrown away from the piece's middle
    lethal : whether it takes all health, mercy time or not
    """

    layer: ClassVar = "hazard"
    changeable: ClassVar = ("points", "every", "knock", "lethal")
    absent: ClassVar = {"every": math.inf}

    points: Number = 1.0
    every: Period | None = None
    knock: Speed = 0.0
    lethal: Truth = False

    @model_validator(mode="after")
    def _sound(self) -> Harm:
        if self.points < 0:
            raise ValueError(f"found points {self.points:g}, expected 0 or more")
        return self


class Checkpoint(Facet):
    """Where the player comes back, once it has been there.

    Attributes
    ----------
    respawn_at : the place, relative to the piece; the piece's own place if None
    facing : as it faces there; as the player starts if None
    once : whether it saves but the first time
    """

    layer: ClassVar = "zone"

    respawn_at: tuple[Length, Length] | None = None
    facing: Literal["right", "left", "up", "down"] | None = None
    once: Truth = False


class Finish(Facet):
    """The end of the level; `needs` is a counter of which nothing must be left to take."""

    layer: ClassVar = "zone"

    needs: str | None = None


class Reward(Section):
    """What a counter gives each time that it has grown by `every` more.

    Attributes
    ----------
    every : the threshold
    lives, health : what is given
    spend : whether the counter goes down by `every` each time
    """

    every: Annotated[float, Field(gt=0)]
    lives: int = Field(default=0, ge=0, strict=True)
    health: Number = 0.0
    spend: Truth = False


class Counter(Section):
    """A number that is counted; pickups and rules add to it."""

    start: Number = 0.0
    rewards: tuple[Reward, ...] = ()


class Health(Section):
    """What the body can bear.

    Attributes
    ----------
    points : of health, at the start and after a respawn
    mercy_time : after being hurt, nothing hurts for so long
    lives : so many deaths, and the run is over; no limit if None
    """

    points: Annotated[float, Field(gt=0)] = 3.0
    mercy_time: Duration = 1.0
    lives: Count | None = None
