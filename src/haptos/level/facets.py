"""Facets: the optional sections of a piece that give it a capability. They combine freely."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from pydantic import Field, model_validator

from haptos.level.facet_base import Facet
from haptos.level.quantity import (
    Acceleration,
    Angle,
    Duration,
    Extent,
    Factor,
    Impulse,
    Length,
    Period,
    Rate,
    Size,
    Speed,
    TopSpeed,
    Velocity,
)
from haptos.level.section import Section, Truth

Side = Literal["above", "below", "left", "right"]
# Degrees of the sides' directions in a piece's own frame; what works from any side throws up.
SIDE_ANGLES = {"above": 90.0, "below": 270.0, "left": 180.0, "right": 0.0, "any": 90.0}


class Surface(Facet):
    """What holds while the player stands on a piece; in the top view, while its centre is over it.

    Attributes
    ----------
    speed_factor, accel_factor, jump_factor : factors on the gaits, on speeding up and braking, on the jump's speed
    friction : traction and braking are at most this times the weight on the surface; grip follows `max_slope` if None
    conveyor : speed of a belt, along the piece's own right
    restitution : share of the speed into the piece that comes back; 0 is no bounce
    cushion : whether a landing here does no harm
    rank : in the top view, of several surfaces the highest holds
    """

    changeable: ClassVar = ("speed_factor", "accel_factor", "jump_factor", "restitution", "friction")
    # Below zero, grip follows the slope alone.
    absent: ClassVar = {"friction": -1.0}

    speed_factor: Factor = 1.0
    accel_factor: Factor = 1.0
    jump_factor: Factor = 1.0
    friction: Factor | None = None
    conveyor: Velocity = 0.0
    restitution: Factor = 0.0
    cushion: Truth = False
    rank: int = 0

    @model_validator(mode="after")
    def _sound(self) -> Surface:
        if self.restitution > 1:
            raise ValueError(f"found restitution {self.restitution:g}, expected 0 to 1")
        return self


class Gravity(Section):
    """What a field makes of gravity: one of flip, vector and toward.

    Attributes
    ----------
    flip : the world's gravity turned over; left and right stay what they are
    vector : this acceleration
    toward : toward the middle of the piece, as on a round world; a negative strength is away from it
    strength : the acceleration, at the distance `reference` where it falls off; the world's if None
    falloff : none, linear (half at twice the distance) or inverse_square (a quarter)
    reference : the distance at which the strength holds
    core : nearer than this, it is as at this distance
    lasts : while the body is inside; after it has entered; or by each entry in turn with the world's
    """

    flip: Truth = False
    vector: tuple[Acceleration, Acceleration] | None = None
    toward: Truth = False
    strength: Acceleration | None = None
    falloff: Literal["none", "linear", "inverse_square"] = "none"
    reference: Extent | None = None
    core: Size = 0.0
    lasts: Literal["inside", "after", "toggle"] = "inside"

    @model_validator(mode="after")
    def _sound(self) -> Gravity:
        given = [name for name in ("flip", "vector", "toward") if getattr(self, name) not in (None, False)]
        if len(given) != 1:
            raise ValueError(f"found {' and '.join(given) or 'none'} of flip, vector and toward, expected one of them")
        toward_only = [name for name in ("strength", "falloff", "reference", "core") if name in self.model_fields_set]
        if toward_only and not self.toward:
            raise ValueError(f"found {toward_only[0]} with {given[0]}, expected it with toward alone")
        if self.falloff != "none" and self.reference is None:
            raise ValueError(f"found falloff '{self.falloff}' without reference, expected the distance of the strength")
        if self.vector == (0.0, 0.0):
            raise ValueError("found vector [0, 0], expected some, or gravity_factor = 0 for no weight")
        return self


class FieldEffect(Facet):
    """What holds while the player is inside a zone.

    Attributes
    ----------
    speed_factor, accel_factor, jump_factor : as of a surface
    speed_limit : the gaits are at most this
    gravity, gravity_factor : what gravity it makes, and a factor on the one that holds
    push : an acceleration (x, y), as of wind, in flight
    pull, whirl : accelerations toward the middle of the piece, and round it counter-clockwise, in flight; the body
        stands as before
    drag : in flight it loses this share of its speed a second, e^(-drag t) of it is left
    terminal_factor : on the fastest fall
    rank : of several gravities the highest holds, then the one that was entered last
    carries : whether it takes along what is inside, as a cabin does, where its piece moves
    only_grounded : holds only while the player stands
    stacks : multiplies with the others; without it the strongest slowing wins
    """

    layer: ClassVar = "zone"
    changeable: ClassVar = (
        "speed_factor", "speed_limit", "accel_factor", "jump_factor", "only_grounded", "stacks", "gravity_factor",
        "pull", "whirl", "drag", "terminal_factor",
    )  # fmt: skip
    absent: ClassVar = {"speed_limit": math.inf}

    speed_factor: Factor = 1.0
    speed_limit: Speed | None = None
    accel_factor: Factor = 1.0
    jump_factor: Factor = 1.0
    gravity: Gravity | None = None
    gravity_factor: Factor = 1.0
    push: tuple[Acceleration, Acceleration] = (0.0, 0.0)
    pull: Acceleration = 0.0
    whirl: Acceleration = 0.0
    drag: Factor = 0.0
    terminal_factor: Factor = 1.0
    rank: int = 0
    carries: Truth = False
    only_grounded: Truth = False
    stacks: Truth = False


class Ladder(Facet):
    """A zone that is climbed along the piece's own up.

    Attributes
    ----------
    speed_factor : factor on the player's climb.speed
    top : whether the top can be stood on
    centres : whether holding on draws the body to the middle line
    """

    layer: ClassVar = "zone"

    speed_factor: Factor = 1.0
    top: Truth = True
    centres: Truth = True


class Launch(Facet):
    """A trampoline: the velocity along its direction is set.

    Attributes
    ----------
    speed, height, impulse : one of them: the speed, the height reached under the gravity there, or mass times speed
    from_ : from which side of the piece it works; `any` too
    direction : degrees in the piece's own frame; the side's own direction if None
    keep : share of the velocity across the direction that is kept
    cooldown : time after a launch in which it does nothing
    jump_factor : factor on the launch's speed while jump is held
    """

    changeable: ClassVar = ("speed", "height", "keep", "cooldown", "jump_factor")
    absent: ClassVar = {"speed": 0.0, "height": 0.0}

    speed: TopSpeed | None = None
    height: Extent | None = None
    impulse: Impulse | None = None
    from_: Side | Literal["any"] = Field(default="above", alias="from")
    direction: Angle | None = None
    keep: Factor = 1.0
    cooldown: Duration = 0.0
    jump_factor: Factor = 1.0

    @property
    def angle(self) -> float:
        """Degrees of its direction in the piece's own frame."""
        return SIDE_ANGLES[self.from_] if self.direction is None else self.direction


class Crumble(Facet):
    """A piece that gives way: touched, it waits, then falls along gravity, is gone, and may return.

    Attributes
    ----------
    delay : from the touch until it falls
    shake : how far it shakes to and fro meanwhile, for the eye alone
    from_ : from which side of the piece it has to be touched; `any` too
    latched : whether it goes on once touched; without, it recovers when the player leaves it before it falls
    fall_accel : the world's gravity if None; in the top view it does not fall, it is gone
    fall_speed : the fastest fall; no limit if None
    gone_after : from the fall until it is gone, sooner where its place sinks below `world.lost_below`
    returns_after : from then until it is back, once nobody stands where it would be; never if None
    """

    moves: ClassVar = True

    delay: Duration = 0.5
    shake: Size = 0.5
    from_: Side | Literal["any"] = Field(default="above", alias="from")
    latched: Truth = True
    fall_accel: Rate | None = None
    fall_speed: TopSpeed | None = None
    gone_after: Period = 1.0
    returns_after: Duration | None = None


class Rest(Facet):
    """At load the piece is moved along gravity onto the first surface of `on`, and stays `gap` above it."""

    on: str
    gap: Size = 0.0


class Look(Facet):
    """The drawing of a piece: an image, its size (the shape's own if None) and the offset of its centre."""

    image: str
    size: tuple[Extent, Extent] | None = None
    offset: tuple[Length, Length] = (0.0, 0.0)


# A launch is measured in one of these ways; a piece's own way takes the place of its kind's.
LAUNCH_MEASURES = ("speed", "height", "impulse")
