"""The shapes of pieces and of the player."""

from __future__ import annotations

from pydantic import model_validator

from haptos.level.quantity import Angle, Length, Size
from haptos.level.section import Section

FORMS = ("box", "corners", "circle", "capsule")


class Shape(Section):
    """One shape, centred on the piece's `at`; exactly one of its forms is given.

    Attributes
    ----------
    box : (width, height)
    corners : (x0, y0, x1, y1)
        A box by two opposite corners; the piece then needs no `at`.
    circle : radius
    capsule : (width, height)
        A box whose shorter sides are half circles.
    turn : float
        Degrees, counter-clockwise, about the shape's centre.
    """

    box: tuple[Size, Size] | None = None
    corners: tuple[Length, Length, Length, Length] | None = None
    circle: Size | None = None
    capsule: tuple[Size, Size] | None = None
    turn: Angle = 0.0

    @model_validator(mode="after")
    def _one_form(self) -> Shape:
        given = [form for form in FORMS if getattr(self, form) is not None]
        if len(given) != 1:
            found = " and ".join(given) if given else "none"
            raise ValueError(f"found {found}, wanted exactly one of {', '.join(FORMS)}")
        return self

    @property
    def size(self) -> tuple[float, float]:
        """Width and height before any turn."""
        if self.box is not None:
            return self.box
        if self.capsule is not None:
            return self.capsule
        if self.circle is not None:
            return (2 * self.circle, 2 * self.circle)
        assert self.corners is not None
        x0, y0, x1, y1 = self.corners
        return (abs(x1 - x0), abs(y1 - y0))

    @property
    def has_area(self) -> bool:
        """Whether there is anything to touch."""
        width, height = self.size
        return width > 0 and height > 0


def half_extents(shape: Shape) -> tuple[float, float, float]:
    """Return a shape as a core box with rounding: half width, half height and radius.

    A box has no radius, a circle no core, a capsule a core that is a line.

    Examples
    --------
    >>> half_extents(Shape(capsule=(14, 28)))
    (0.0, 7.0, 7.0)
    """
    width, height = shape.size
    if shape.circle is not None or shape.capsule is not None:
        radius = min(width, height) / 2
        return (width / 2 - radius, height / 2 - radius, radius)
    return (width / 2, height / 2, 0.0)
