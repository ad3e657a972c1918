"""Pieces, and the kinds that they are made from."""

from __future__ import annotations

from typing import Annotated, Any, get_args

from pydantic import BeforeValidator, Field, model_validator

from haptos.level.facet_base import Facet
from haptos.level.facets import Crumble, FieldEffect, Ladder, Launch, Look, Rest, Side, Surface
from haptos.level.flying import Drift, Fragile, Spawner
from haptos.level.loose import Body, Hinge
from haptos.level.names import short
from haptos.level.quantity import Angle, Extent, Length, Scale
from haptos.level.routes import Route, Spin
from haptos.level.rules import Rule
from haptos.level.section import Allowances, Frozen, FrozenDict, Section, Truth
from haptos.level.shapes import Shape
from haptos.level.stakes import Checkpoint, Finish, Harm, Pickup


class Part(Section):
    """One of several shapes of a piece, and where its centre is, relative to the piece."""

    shape: Shape
    at: tuple[Length, Length] = (0.0, 0.0)

    @model_validator(mode="after")
    def _sound(self) -> Part:
        if self.shape.corners is not None and self.at != (0.0, 0.0):
            raise ValueError("found both at and shape.corners, expected one: the corners say where it is")
        return self


class Template(Section):
    """What a kind and a piece can both say."""

    layer: str | None = None
    marks: tuple[str, ...] = ()
    turn: Angle = 0.0
    scale: Scale = 1.0
    shape: Shape | None = None
    parts: tuple[Part, ...] | None = Field(default=None, min_length=1)
    never_meets: tuple[str, ...] = ()
    allow: Allowances = Field(default_factory=FrozenDict)
    active: Truth = True
    rest: Rest | None = None
    look: Look | None = None
    solid_from: Side | None = None
    surface: Surface | None = None
    field: FieldEffect | None = None
    ladder: Ladder | None = None
    launch: Launch | None = None
    route: Route | None = None
    spin: Spin | None = None
    crumble: Crumble | None = None
    drift: Drift | None = None
    body: Body | None = None
    hinge: Hinge | None = None
    spawner: Spawner | None = None
    fragile: Fragile | None = None
    pickup: Pickup | None = None
    harm: Harm | None = None
    checkpoint: Checkpoint | None = None
    finish: Finish | None = None
    pieces: tuple[Piece, ...] = ()  # children, placed relative to it and fixed to it

    @model_validator(mode="after")
    def _one_body(self) -> Template:
        if self.shape is not None and self.parts is not None:
            raise ValueError("found both shape and parts, expected one of them")
        return self


class Kind(Template):
    """A named template for pieces; what it does not say comes from the kind that it is based on.

    Attributes
    ----------
    rules : rules of every piece made from it, in which ``self`` is that piece and ``self/leaf`` its child
    """

    based_on: str | None = None
    rules: tuple[Rule, ...] = ()


class Piece(Template):
    """One thing placed in the level; `copies` are places of more of the same.

    A child's `at`, `turn` and `scale` are relative to the piece that holds it; it is named ``holder/child``.

    Attributes
    ----------
    parent : the piece that carries it, or ``player``; of a child, its holder unless it says otherwise
    """

    name: str
    kind: str | None = None
    parent: str | None = None
    at: tuple[Length, Length] | None = None
    copies: tuple[tuple[Length, Length], ...] = ()

    @model_validator(mode="after")
    def _named(self) -> Piece:
        if not self.name.strip() or self.name in RESERVED_NAMES or self.name.startswith("#") or "/" in self.name:
            raise ValueError(f"found the name '{self.name}', expected one that is not empty, not {RESERVED_WORDS}")
        return self


RESERVED_NAMES = ("player", "self", "other", "map", "bounds")
RESERVED_WORDS = "player, self, other, map or bounds, without '#' in front and without '/'"


class TileMap(Section):
    """A grid of tiles: rows of signs, the first row on top.

    Attributes
    ----------
    tile : side of a tile
    at : lower left corner
    turn : degrees, about that corner
    rows : the drawing, one text or a list of its rows; ``.`` and blanks are empty
    signs : which kind each sign stands for
    """

    tile: Extent = 16.0
    at: tuple[Length, Length] = (0.0, 0.0)
    turn: Angle = 0.0
    rows: Annotated[str, BeforeValidator(lambda rows: _joined(rows))]
    signs: Frozen[str]

    @model_validator(mode="after")
    def _sound(self) -> TileMap:
        for sign in self.signs:
            if len(sign) != 1 or sign in EMPTY_SIGNS:
                raise ValueError(f"found the sign '{sign}', expected one character other than '.' and blank")
        lines = self.lines
        if not lines:
            raise ValueError("found no rows, expected at least one")
        for number, line in enumerate(lines):
            if len(line) != len(lines[0]):
                raise ValueError(
                    f"found rows[{number}] of {len(line)} tiles, expected {len(lines[0])} as in the first row"
                )
        unknown = sorted(set(self.rows) - set(self.signs) - set(EMPTY_SIGNS) - {"\n"})
        if unknown:
            number = next(index for index, line in enumerate(lines) if unknown[0] in line)
            known = ", ".join(f"'{sign}'" for sign in self.signs)
            raise ValueError(f"found '{unknown[0]}' in rows[{number}], expected a sign of the table ({known}) or '.'")
        return self

    @property
    def lines(self) -> list[str]:
        """The rows from top to bottom, without the line ends around them."""
        return [line.rstrip("\r") for line in self.rows.strip("\r\n").split("\n")] if self.rows.strip("\r\n") else []


def _joined(rows: Any) -> Any:
    """Return rows that are a list of strings as one text."""
    if isinstance(rows, list | tuple) and all(isinstance(row, str) for row in rows):
        return "\n".join(rows)
    if not isinstance(rows, str):
        raise ValueError(f"found {short(rows)}, expected a string, or a list of strings")
    return rows


EMPTY_SIGNS = (".", " ")
for _holder in (Template, Kind, Piece):
    # A piece holds pieces: what they are is known only now.
    _holder.model_rebuild()
# The sections of all facets, by their keys.
FACETS: dict[str, type[Facet]] = {
    name: section
    for name, field in Template.model_fields.items()
    for section in get_args(field.annotation)
    if isinstance(section, type) and issubclass(section, Facet)
}
