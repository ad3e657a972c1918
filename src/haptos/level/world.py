"""The world: its view, clock, gravity and edges."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from haptos.level.quantity import Acceleration, Frequency, Length
from haptos.level.section import Section

Side = Literal["wall", "open", "wrap", "lost"]
SIDES = ("left", "right", "bottom", "top")
# What the sides are called where they are walls.
BOUNDS = tuple(f"bounds/{side}" for side in SIDES)


class Bounds(Section):
    """The edges of the world and what each of them does.

    A ``wall`` is solid; an ``open`` edge does nothing; a body whose centre crosses a ``wrap`` edge comes back at the
    opposite one, and one that crosses a ``lost`` edge is lost.
    """

    corners: tuple[Length, Length, Length, Length]
    left: Side = "open"
    right: Side = "open"
    top: Side = "open"
    bottom: Side = "open"

    @model_validator(mode="after")
    def _sound(self) -> Bounds:
        x0, y0, x1, y1 = self.corners
        if not (x0 < x1 and y0 < y1):
            raise ValueError(f"found corners {list(self.corners)}, expected [left, bottom, right, top]")
        for one, other in (("left", "right"), ("bottom", "top")):
            if (getattr(self, one) == "wrap") != (getattr(self, other) == "wrap"):
                raise ValueError(f"found wrap on one of {one} and {other}, expected it on both or neither")
        return self


class World(Section):
    """What holds everywhere.

    Attributes
    ----------
    view : ``side`` looks from the side, ``top`` down on the floor (no gravity, no jump)
    length_unit : name of the unit of plain lengths
    tick_rate : ticks a second
    frame_rate : frames a second, for the unit ``frame``
    gravity : acceleration (x, y); none, as among round worlds in space, is [0, 0]
    lost_below : height, measured against gravity, below which a body's centre is lost
    bounds : the world's edges
    method : how motion is integrated
    seed : start of every random number
    """

    view: Literal["side", "top"] = "side"
    length_unit: str = "px"
    tick_rate: Frequency = 60.0
    frame_rate: Frequency = 60.0
    gravity: tuple[Acceleration, Acceleration] = (0.0, -1800.0)
    lost_below: Length | None = None
    bounds: Bounds | None = None
    method: Literal["exact", "semi-implicit-euler", "velocity-verlet"] = "exact"
    seed: int = Field(default=0, ge=0, strict=True)

    @model_validator(mode="after")
    def _top_has_no_height(self) -> World:
        if self.view == "top" and self.lost_below is not None:
            raise ValueError("found lost_below in the top view, which has no height; expected a bounds side of 'lost'")
        return self

    @property
    def is_weightless(self) -> bool:
        """Whether a world seen from the side has no gravity but that of fields."""
        return self.view == "side" and self.gravity == (0.0, 0.0)

    @property
    def up(self) -> tuple[float, float]:
        """Unit vector against gravity; +y in the top view, and where there is no gravity."""
        if self.view == "top" or self.is_weightless:
            return (0.0, 1.0)
        x, y = self.gravity
        size = (x * x + y * y) ** 0.5
        return (-x / size + 0.0, -y / size + 0.0)
