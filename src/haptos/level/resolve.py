"""What a piece comes to: its own values over those of its kind, over those of the kind that is based on."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, NamedTuple

from haptos.errors import LevelError
from haptos.level.level import Level
from haptos.level.pieces import EMPTY_SIGNS, Template
from haptos.level.rules import SOLID_MOMENTS, ZONE_MOMENTS, Rule
from haptos.level.shapes import Shape

MAP_PREFIX = "map/"
TEMPLATE_KEYS = ("layer", "marks", "turn", "shape")


@dataclass(frozen=True)
class ResolvedPiece:
    """One piece with everything filled in.

    Attributes
    ----------
    name : the piece's name; ``map/KIND`` for the tiles of one kind
    kinds : its kind and the kinds that one is based on, nearest first
    layer, marks, turn, shape : its values; `shape` is None if nothing gives one
    at : centre of its shape, (x, y)
    place : where it is written, for messages
    tiles : for tiles of the map, the (column, row) of each, row 0 at the bottom
    """

    name: str
    kinds: tuple[str, ...]
    layer: str
    marks: tuple[str, ...]
    turn: float
    shape: Shape | None
    at: tuple[float, float]
    place: str
    tiles: tuple[tuple[int, int], ...] = field(default=(), repr=False)

    @property
    def angle(self) -> float:
        """Degrees by which the shape is turned altogether."""
        return self.turn + (self.shape.turn if self.shape is not None else 0.0)

    def answers_to(self, selector: str) -> bool:
        """Whether a rule's name, kind, ``#mark`` or layer means this piece."""
        if selector.startswith("#"):
            return selector[1:] in self.marks
        return selector == self.name or selector in self.kinds or selector == self.layer


class Value(NamedTuple):
    """One value of a piece and where it comes from."""

    key: str
    value: Any
    origin: str


class ResolvedLevel:
    """A level with its pieces resolved.

    Parameters
    ----------
    level : Level

    Raises
    ------
    LevelError
        If a piece has no place, or no layer that the level's own contacts table knows.
    """

    def __init__(self, level: Level) -> None:
        self.level = level
        self.contacts = level.contact_table()
        self._chains: dict[str, tuple[str, ...]] = {}
        self.player_layer = level.player.layer or "body"
        self.pieces: tuple[ResolvedPiece, ...] = (*self._placed_pieces(), *self._map_pieces())

    @cached_property
    def by_name(self) -> dict[str, ResolvedPiece]:
        """The pieces by name."""
        return {piece.name: piece for piece in self.pieces}

    def meeting(self, piece: ResolvedPiece) -> str:
        """What the player and a piece do when they meet: solid, overlap or nothing."""
        return self.contacts.between(self.player_layer, piece.layer).meeting

    def selected(self, selector: str) -> list[ResolvedPiece]:
        """Return the pieces that a rule's selector means, in file order."""
        return [piece for piece in self.pieces if piece.answers_to(selector)]

    def means_player(self, selector: str) -> bool:
        """Whether a rule's `who` means the player."""
        if selector.startswith("#"):
            return selector[1:] in self.level.player.marks
        return selector in ("player", self.player_layer)

    def chain(self, kind: str | None) -> tuple[str, ...]:
        """Return a kind and what it is based on, nearest first."""
        if kind is None:
            return ()
        if kind not in self._chains:
            self._chains[kind] = (kind, *self.chain(self.level.kinds[kind].based_on))
        return self._chains[kind]

    def _sources(self, piece: Template | None, kind: str | None) -> list[tuple[str, Template]]:
        sources: list[tuple[str, Template]] = [] if piece is None else [("the piece itself", piece)]
        return sources + [(f"kind {name}", self.level.kinds[name]) for name in self.chain(kind)]

    def _placed_pieces(self) -> list[ResolvedPiece]:
        return [
            self._resolve(piece.name, piece, piece.kind, piece.at, f"pieces[{index}] '{piece.name}'")
            for index, piece in enumerate(self.level.pieces)
        ]

    def _map_pieces(self) -> list[ResolvedPiece]:
        tiles = self.level.tiles
        if tiles is None:
            return []
        where: dict[str, list[tuple[int, int]]] = {kind: [] for kind in tiles.signs.values()}
        lines = tiles.lines
        for row, line in enumerate(reversed(lines)):
            for column, sign in enumerate(line):
                if sign not in EMPTY_SIGNS:
                    where[tiles.signs[sign]].append((column, row))
        return [
            self._resolve(MAP_PREFIX + kind, None, kind, tiles.at, f"map.signs, kind '{kind}'", tuple(cells))
            for kind, cells in where.items()
            if cells
        ]

    def _resolve(
        self,
        name: str,
        piece: Template | None,
        kind: str | None,
        at: tuple[float, float] | None,
        place: str,
        tiles: tuple[tuple[int, int], ...] = (),
    ) -> ResolvedPiece:
        sources = self._sources(piece, kind)
        found: dict[str, Any] = {}
        marks: list[str] = []
        for _, source in sources:
            marks += [mark for mark in source.marks if mark not in marks]
            for key in source.model_fields_set:
                found.setdefault(key, getattr(source, key))
        shape: Shape | None = found.get("shape")
        turn = float(found.get("turn", 0.0))
        if tiles:
            assert self.level.tiles is not None
            turn += self.level.tiles.turn
            if shape is None:
                shape = Shape(box=(self.level.tiles.tile, self.level.tiles.tile))
        centre = self._centre(shape, at, place)
        kinds = self.chain(kind)
        layer = found.get("layer") or self._default_layer(name, kinds, marks, place)
        return ResolvedPiece(name, kinds, layer, tuple(marks), turn, shape, centre, place, tiles)

    def _centre(self, shape: Shape | None, at: tuple[float, float] | None, place: str) -> tuple[float, float]:
        if shape is not None and shape.corners is not None:
            if at is not None:
                raise LevelError(place, "found both at and shape.corners, wanted one: the corners say where it is")
            x0, y0, x1, y1 = shape.corners
            return ((x0 + x1) / 2, (y0 + y1) / 2)
        if at is None:
            raise LevelError(f"{place}, at", "missing, wanted the centre as [x, y]")
        return at

    def _default_layer(self, name: str, kinds: tuple[str, ...], marks: list[str], place: str) -> str:
        moments = self._moments(name, kinds, marks)
        felt = bool(moments) and not moments & set(SOLID_MOMENTS)
        layer = "zone" if felt else "terrain"
        if layer not in self.contacts.layers:
            wanted = ", ".join(self.contacts.layers)
            raise LevelError(f"{place}, layer", f"missing, wanted one of {wanted}")
        return layer

    @cached_property
    def _rules_by_selector(self) -> dict[str, set[str]]:
        moments: dict[str, set[str]] = {}
        for rule in self.level.rules:
            if rule.piece is not None and rule.when in ZONE_MOMENTS + SOLID_MOMENTS:
                moments.setdefault(rule.piece, set()).add(rule.when)
        return moments

    def _moments(self, name: str, kinds: tuple[str, ...], marks: list[str]) -> set[str]:
        rules = self._rules_by_selector
        found: set[str] = set()
        for selector in (name, *kinds, *(f"#{mark}" for mark in marks)):
            found |= rules.get(selector, set())
        return found

    def values(self, name: str) -> list[Value]:
        """Return what a piece resolved to, value by value, with its origin.

        Parameters
        ----------
        name : str
            A piece's name; ``map/KIND`` for tiles.

        Raises
        ------
        KeyError
            If there is no such piece.
        """
        resolved = self.by_name[name]
        own = next((piece for piece in self.level.pieces if piece.name == name), None)
        sources = self._sources(own, resolved.kinds[0] if resolved.kinds else None)
        rows = [Value("name", name, "the piece itself" if own else "the map's signs")]
        if resolved.kinds:
            rows.append(Value("kind", " ← ".join(resolved.kinds), "the piece itself" if own else "the map's signs"))
        corners = resolved.shape is not None and resolved.shape.corners is not None
        at_origin = "shape.corners" if corners else "the piece itself" if own else "map.at, the lower left corner"
        rows.append(Value("at", list(resolved.at), at_origin))
        for key in TEMPLATE_KEYS:
            rows += self._value_rows(key, resolved, sources)
        return rows

    def _value_rows(self, key: str, resolved: ResolvedPiece, sources: list[tuple[str, Template]]) -> list[Value]:
        if key == "marks":
            return [
                Value("marks", mark, next(origin for origin, source in sources if mark in source.marks))
                for mark in resolved.marks
            ]
        origin = next((origin for origin, source in sources if key in source.model_fields_set), None)
        value = getattr(resolved, key)
        if key == "layer":
            table = "the built-in contacts table" if self.contacts.built_in else "the contacts table"
            return [Value("layer", value, origin or f"default, from {table}")]
        if key == "turn":
            if resolved.tiles and self.level.tiles is not None and self.level.tiles.turn:
                return [Value("turn", value, f"map.turn, and {origin}" if origin else "map.turn")]
            return [Value("turn", value, origin or "default")]
        if value is None:
            return [Value("shape", "none", "nothing gives one")]
        form = value.model_dump(exclude_none=True)
        where = origin or "default: a kind without a shape fills its tile"
        return [
            Value(f"shape.{part}", list(given) if isinstance(given, tuple) else given, where)
            for part, given in form.items()
            if part != "turn" or "turn" in value.model_fields_set
        ]


def rule_title(rule: Rule, index: int) -> str:
    """Return what a rule is called in messages: ``rules[0] 'greeting'``."""
    return f"rules[{index}] '{rule.name}'" if rule.name else f"rules[{index}]"
