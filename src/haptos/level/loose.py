"""Loose bodies: pieces that fall, turn, slide, roll and stack, and the hinges that pin them."""

from __future__ import annotations

import math
from typing import Any, ClassVar

from pydantic import model_validator

from haptos.level.facet_base import Facet
from haptos.level.quantity import (
    Angle,
    AngularVelocity,
    Density,
    Factor,
    Force,
    Length,
    Mass,
    Torque,
    Velocity,
)
from haptos.level.section import Section, Truth

# Without a mass a body is so dense, as a share of the player's own density: it can be pushed.
LIGHTER = 0.5


class Body(Facet):
    """A loose rigid body: a crate, a ball, the leaf of a door.

    Attributes
    ----------
    mass, density : one of them, of the whole piece or of its area; half as dense as the player if neither is given
    friction : Coulomb's; two that touch have the geometric mean of theirs, or the one that says some
    restitution : share of the speed that comes back; of two that touch, the greater one holds
    gravity_factor : on the gravity that acts on it
    drag, spin_drag : it loses this share of its speed, or of its spin, a second
    turns : whether it turns at all
    sleeps : whether it comes to rest for good until something stirs it
    velocity, spin : with which it starts
    """

    layer: ClassVar = "prop"
    moves: ClassVar = True
    changeable: ClassVar = ("friction", "restitution", "gravity_factor", "drag", "spin_drag")

    mass: Mass | None = None
    density: Density | None = None
    friction: Factor = 0.5
    restitution: Factor = 0.0
    gravity_factor: Factor = 1.0
    drag: Factor = 0.0
    spin_drag: Factor = 0.0
    turns: Truth = True
    sleeps: Truth = True
    velocity: tuple[Velocity, Velocity] = (0.0, 0.0)
    spin: AngularVelocity = 0.0

    @model_validator(mode="after")
    def _sound(self) -> Body:
        if self.mass is not None and self.density is not None:
            raise ValueError("found both mass and density, expected one of them")
        if self.restitution > 1:
            raise ValueError(f"found restitution {self.restitution:g}, expected 0 to 1")
        return self


class Motor(Section):
    """What turns a hinge: it brings the body to a speed, by a torque of at most `max_torque`.

    With a speed of 0 it is a brake.
    """

    speed: AngularVelocity = 0.0
    max_torque: Torque


class Hold(Section):
    """What draws a hinge to an angle, as a spring with a damper does.

    Attributes
    ----------
    angle : from where the body starts
    stiffness : torque for each radian from there
    damping : torque for each radian a second
    """

    angle: Angle = 0.0
    stiffness: Torque
    damping: Torque = 0.0


class Hinge(Facet):
    """What pins a loose body at a point, about which it turns.

    Attributes
    ----------
    at : the point, from the piece's place, in its own frame
    to : the piece that it is pinned to; the world if None
    motor : what turns it; free if None
    limits : (least, greatest) angle from where it starts; none if None
    hold : what draws it to an angle
    """

    moves: ClassVar = True
    changeable: ClassVar = (
        "motor.speed", "motor.max_torque", "hold.angle", "hold.stiffness", "hold.damping", "limits.low", "limits.high",
    )  # fmt: skip

    at: tuple[Length, Length] = (0.0, 0.0)
    to: str | None = None
    motor: Motor | None = None
    limits: tuple[Angle, Angle] | None = None
    hold: Hold | None = None

    @classmethod
    def part_of(cls, key: str) -> Any:
        """Return the field that a key of a part of it means; a limit is an angle."""
        part, _, name = key.partition(".")
        if part == "limits":
            return Hold.model_fields["angle"]
        sections: dict[str, type[Section]] = {"motor": Motor, "hold": Hold}
        return sections[part].model_fields[name]

    @classmethod
    def number(cls, key: str, value: Any) -> float:
        """Return the number that stands for a key's value in tables: angles are radians there."""
        return math.radians(value) if key not in ("motor.max_torque", "hold.stiffness", "hold.damping") else value

    @model_validator(mode="after")
    def _sound(self) -> Hinge:
        if self.limits is not None and self.limits[0] > self.limits[1]:
            low, high = self.limits
            raise ValueError(f"found limits = [{low:g}, {high:g}], expected the lower angle first")
        return self


class Push(Section):
    """How hard the player pushes loose bodies; with a force of 0 it is a wall to them, and they are to it.

    Attributes
    ----------
    force : at most; the player's own weight if None
    """

    force: Force | None = None
