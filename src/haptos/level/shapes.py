"""The shapes of pieces and of the player."""

from __future__ import annotations

import math
from collections.abc import Sequence

from pydantic import model_validator

from haptos.level.quantity import Angle, Length, Size
from haptos.level.section import Section

FORMS = ("box", "corners", "circle", "capsule", "polygon", "line")
Point = tuple[float, float]


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
    polygon : [(x, y), …]
        Three corners or more, relative to `at`, convex or not.
    line : [(x, y), …]
        An open polyline that blocks what comes from its left.
    turn : float
        Degrees, counter-clockwise, about the shape's centre.
    """

    box: tuple[Size, Size] | None = None
    corners: tuple[Length, Length, Length, Length] | None = None
    circle: Size | None = None
    capsule: tuple[Size, Size] | None = None
    polygon: tuple[tuple[Length, Length], ...] | None = None
    line: tuple[tuple[Length, Length], ...] | None = None
    turn: Angle = 0.0

    @model_validator(mode="after")
    def _one_form(self) -> Shape:
        given = [form for form in FORMS if getattr(self, form) is not None]
        if len(given) != 1:
            found = " and ".join(given) if given else "none"
            raise ValueError(f"found {found}, expected exactly one of {', '.join(FORMS)}")
        if self.polygon is not None:
            _require_points("polygon", self.polygon, 3, closed=True)
            _require_simple(self.polygon)
        if self.line is not None:
            _require_points("line", self.line, 2, closed=False)
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
        if self.corners is not None:
            x0, y0, x1, y1 = self.corners
            return (abs(x1 - x0), abs(y1 - y0))
        points = self.polygon or self.line or ()
        xs, ys = [x for x, _ in points], [y for _, y in points]
        return (max(xs) - min(xs), max(ys) - min(ys))

    @property
    def can_be_met(self) -> bool:
        """Whether there is anything to touch: an area, or the length of a line."""
        if self.polygon is not None or self.line is not None:
            return True
        width, height = self.size
        return width > 0 and height > 0


def half_extents(shape: Shape) -> tuple[float, float, float]:
    """Return a box, circle or capsule as a core box with rounding: half width, half height and radius.

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


def _require_points(form: str, points: Sequence[Point], least: int, closed: bool) -> None:
    if len(points) < least:
        raise ValueError(f"found {form} with {len(points)} points, expected at least {least}")
    for index, point in enumerate(points):
        if (index > 0 or closed) and point == points[index - 1]:
            raise ValueError(f"found {form}[{index}] = [{point[0]:g}, {point[1]:g}] twice in a row, expected it once")


def _require_simple(points: Sequence[Point]) -> None:
    """Raise if a polygon has no area, or if two of its sides cross; touching is allowed."""
    count = len(points)
    for i in range(count):
        for j in range(i + 2, count):
            if i == 0 and j == count - 1:
                continue
            where = _crossing(points[i], points[(i + 1) % count], points[j], points[(j + 1) % count])
            if where is not None:
                raise ValueError(
                    f"found a polygon that crosses itself at ({where[0]:.4g}, {where[1]:.4g}), between the sides from "
                    f"corners {i} and {j}; expected an outline that does not"
                )
    scale = max(abs(value) for point in points for value in point)
    if abs(_area(points)) <= 1e-12 * scale * scale:
        raise ValueError("found a polygon without area, expected corners that do not lie on one line")


def _area(points: Sequence[Point]) -> float:
    return 0.5 * math.fsum(
        x0 * y1 - x1 * y0 for (x0, y0), (x1, y1) in zip(points, [*points[1:], points[0]], strict=True)
    )


def _crossing(a: Point, b: Point, c: Point, d: Point) -> Point | None:
    """Return where two sides cross in the inside of both, or None."""

    def side(p: Point, q: Point, r: Point) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    one, other, three, four = side(a, b, c), side(a, b, d), side(c, d, a), side(c, d, b)
    if one * other >= 0 or three * four >= 0:
        return None
    share = three / (three - four)
    return (a[0] + share * (b[0] - a[0]), a[1] + share * (b[1] - a[1]))
