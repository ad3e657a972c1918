"""One piece with everything filled in."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from haptos.level.facets import Side
from haptos.level.pieces import Part
from haptos.level.selectors import MARK, OF_KIND, OF_LAYER, OF_PIECE


@dataclass(frozen=True)
class ResolvedPiece:
    """One piece with everything filled in.

    Attributes
    ----------
    name : the piece's name, with a number for copies; ``map/KIND`` for the tiles of one kind
    kinds : its kind and the kinds that one is based on, nearest first
    layer, marks, turn, scale, never_meets, solid_from : its values
    parts : its shapes, each with its offset; none if nothing gives one
    at : its place, (x, y)
    place : where it is written, for messages
    parent : the name of the piece that carries it, or ``player``; None if nothing does
    sources : what says something about it, nearest first, with the words for where
    is_copy : whether it is one of the `copies`
    facets : its facets by name, merged key by key
    active : whether it is there from the start
    tiles : for tiles of the map, the (column, row) of each, row 0 at the bottom
    """

    name: str
    kinds: tuple[str, ...]
    layer: str
    marks: tuple[str, ...]
    turn: float
    scale: float
    parts: tuple[Part, ...]
    at: tuple[float, float]
    place: str
    parent: str | None = None
    sources: tuple[Any, ...] = field(default=(), repr=False, hash=False)
    is_copy: bool = False
    never_meets: tuple[str, ...] = ()
    solid_from: Side | None = None
    facets: dict[str, Any] = field(default_factory=dict, hash=False)
    tiles: tuple[tuple[int, int], ...] = field(default=(), repr=False)
    active: bool = True

    @property
    def can_be_met(self) -> bool:
        """Whether it has any shape with an area, or a line."""
        return any(part.shape.can_be_met for part in self.parts)

    @property
    def flies(self) -> bool:
        """Whether it moves by itself where nobody knows beforehand: it drifts, or is a loose body."""
        return "drift" in self.facets or "body" in self.facets

    @property
    def fills_tile(self) -> bool:
        """Whether it is the tiles of a kind without a shape of its own, so that they can be merged."""
        return bool(self.tiles) and self.parts == ()

    def facet(self, name: str) -> Any:
        """Return a facet, or None."""
        return self.facets.get(name)

    @property
    def selectors(self) -> set[str]:
        """All that means it outright."""
        kinds, marks = (OF_KIND + kind for kind in self.kinds), (MARK + mark for mark in self.marks)
        return {OF_PIECE + self.name, *kinds, OF_LAYER + self.layer, *marks}
