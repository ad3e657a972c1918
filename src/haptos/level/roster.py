"""The pieces of a level: each one's own values over those of its kind, over those of the kind that is based on."""

from __future__ import annotations

from collections.abc import Collection
from functools import cached_property
from typing import Any

from haptos.errors import Faults, LevelError
from haptos.level.assemblies import (
    NO_PARENT,
    ON_PLAYER,
    PLAYER,
    Frame,
    Placed,
    chain_of,
    middle,
    placed_pieces,
    rule_of,
    rules_of,
)
from haptos.level.facet_base import DEFAULT_LAYERS
from haptos.level.facets import Side
from haptos.level.level import Level
from haptos.level.merging import merged_facets, merged_parts
from haptos.level.pieces import EMPTY_SIGNS, FACETS, Part
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.rules import SOLID_MOMENTS, ZONE_MOMENTS, Rule
from haptos.level.selectors import MARK, OF_KIND, OF_LAYER, OF_PIECE, OUTRIGHT, exactly

# In rules, whoever meets the piece that the rule is about.
OTHER = "other"
MAP_PREFIX = "map/"
# Keys of a field that change what the body feels of gravity, or add to it, and their values where they don't.
GRAVITY_KEYS: dict[str, Any] = {
    "gravity": None, "gravity_factor": 1.0, "push": (0.0, 0.0), "pull": 0.0, "whirl": 0.0, "drag": 0.0,
    "terminal_factor": 1.0,
}  # fmt: skip
# Facets that move a piece.
MOTIONS = tuple(name for name, section in FACETS.items() if section.moves)


class Roster:
    """The pieces of a level, each with everything filled in, and what can be asked about them without the rules.

    Parameters
    ----------
    level : Level

    Raises
    ------
    LevelError
        If a piece has no place, no layer that the level's own contacts table knows, or facets that contradict.
    """

    def __init__(self, level: Level) -> None:
        self.level = level
        self.contacts = level.contact_table()
        self.player_layer = level.player.layer or "body"
        placed = placed_pieces(level)
        self._placed_names = {one.name for one in placed}
        self.rules: list[tuple[str, Rule]] = rules_of(level, placed)
        faults = Faults()
        pieces: list[ResolvedPiece] = []
        for one in placed:
            with faults.gathered():
                pieces.append(self.resolve(one))
        with faults.gathered():
            pieces += self._map_pieces()
        faults.raise_any()
        self.pieces: tuple[ResolvedPiece, ...] = tuple(pieces)
        # How many pieces there are before those that are made.
        self.written = len(self.pieces)
        self._require_distinct_names()

    @cached_property
    def by_name(self) -> dict[str, ResolvedPiece]:
        """The pieces by name."""
        return {piece.name: piece for piece in self.pieces}

    @cached_property
    def parents(self) -> tuple[int, ...]:
        """For each piece the number of the one that carries it; NO_PARENT, or ON_PLAYER."""
        numbers = {piece.name: index for index, piece in enumerate(self.pieces)}
        special = {None: NO_PARENT, PLAYER: ON_PLAYER}
        return tuple(special.get(piece.parent, numbers.get(str(piece.parent), NO_PARENT)) for piece in self.pieces)

    def descendants(self, index: int) -> list[int]:
        """Return the numbers of what a piece carries, and of what that carries."""
        found: list[int] = []
        for number in self._children.get(index, ()):
            found += [number, *self.descendants(number)]
        return found

    @cached_property
    def _children(self) -> dict[int, list[int]]:
        children: dict[int, list[int]] = {}
        for number, parent in enumerate(self.parents):
            if parent != NO_PARENT:
                children.setdefault(parent, []).append(number)
        return children

    def carriers(self, index: int) -> list[int]:
        """Return the numbers of what carries a piece, the nearest first; the player is not among them."""
        found = []
        while self.parents[index] >= 0:
            index = self.parents[index]
            found.append(index)
        return found

    @cached_property
    def turns_gravity(self) -> bool:
        """Whether any field makes gravity another one, or adds to it."""
        if self.level.world.view == "top":
            return False
        fields = [piece.facet("field") for piece in self.pieces]
        return any(
            field is not None and any(getattr(field, name) != usual for name, usual in GRAVITY_KEYS.items())
            for field in fields
        )

    @cached_property
    def turns_body(self) -> bool:
        """Whether the body ever stands another way than it starts, or on its head."""
        fields = [piece.facet("field") for piece in self.pieces]
        tilts = any(field is not None and field.gravity is not None and not field.gravity.flip for field in fields)
        return self.turns_gravity and tilts and self.level.player.shape.circle is None

    def moves(self, index: int) -> bool:
        """Whether a piece moves by itself."""
        return any(name in self.pieces[index].facets for name in MOTIONS)

    def root(self, index: int) -> int:
        """Return the number of the piece at the root of all that carry a piece; its own if nothing does."""
        return (index, *self.carriers(index))[-1]

    @cached_property
    def hung_on_player(self) -> frozenset[str]:
        """The names of what the player carries, which it never meets."""
        return frozenset(self.pieces[held].name for held in self.descendants(ON_PLAYER))

    def meeting(self, piece: ResolvedPiece) -> str:
        """What the player and a piece do when they meet: solid, overlap or nothing."""
        if self.is_switched_off(piece) or piece.name in self.hung_on_player:
            return "nothing"
        return self.contacts.between(self.player_layer, piece.layer).meeting

    def is_switched_off(self, piece: ResolvedPiece) -> bool:
        """Whether a `never_meets` of the piece or the player names the other."""
        if any(self.means_player(selector) for selector in piece.never_meets):
            return True
        return any(self.answers(piece, selector) for selector in self.level.player.never_meets)

    def selected(self, selector: str) -> list[ResolvedPiece]:
        """Return the pieces that a selector means, in file order."""
        return [self.pieces[index] for index in self.answering(selector)]

    def answering(self, selector: str) -> list[int]:
        """Return the numbers of the pieces that a selector means, in file order."""
        return self._answering.get(self.exactly(selector), [])

    def answers(self, piece: ResolvedPiece, selector: str) -> bool:
        """Whether a selector means a piece."""
        return self.exactly(selector) in piece.selectors

    def exactly(self, selector: str) -> str:
        """Return a selector that says outright what it means."""
        return exactly(selector, self.by_name, self.level.kinds)

    def is_known(self, selector: str) -> bool:
        """Whether there is a piece, kind or layer that a selector means; a mark may be borne later."""
        exact = self.exactly(selector)
        prefix = next(one for one in OUTRIGHT if exact.startswith(one))
        known: dict[str, Collection[str]] = {
            OF_PIECE: self.by_name,
            OF_KIND: self.level.kinds,
            OF_LAYER: self.contacts.layers,
        }
        return selector in (PLAYER, OTHER) or prefix == MARK or exact.removeprefix(prefix) in known[prefix]

    @cached_property
    def _answering(self) -> dict[str, list[int]]:
        found: dict[str, list[int]] = {}
        for index, piece in enumerate(self.pieces):
            for selector in piece.selectors:
                found.setdefault(selector, []).append(index)
        return found

    def means_player(self, selector: str) -> bool:
        """Whether a rule's `who` means the player."""
        if selector in (PLAYER, OTHER):
            return True
        ours = {OF_LAYER + self.player_layer, *(MARK + mark for mark in self.level.player.marks)}
        return self.exactly(selector) in ours

    @cached_property
    def on_layers(self) -> dict[str, list[int]]:
        """The numbers of the pieces that can be met, by layer."""
        found: dict[str, list[int]] = {}
        for index, piece in enumerate(self.pieces):
            if piece.can_be_met:
                found.setdefault(piece.layer, []).append(index)
        return found

    def _require_distinct_names(self) -> None:
        seen: set[str] = set()
        for piece in self.pieces:
            if piece.name in seen:
                raise LevelError(piece.place, f"found the name '{piece.name}' a second time, expected another")
            seen.add(piece.name)

    def _map_pieces(self) -> list[ResolvedPiece]:
        tiles = self.level.tiles
        if tiles is None:
            return []
        where: dict[str, list[tuple[int, int]]] = {kind: [] for kind in tiles.signs.values()}
        for row, line in enumerate(reversed(tiles.lines)):
            for column, sign in enumerate(line):
                if sign not in EMPTY_SIGNS:
                    where[tiles.signs[sign]].append((column, row))
        frame = Frame(turn=tiles.turn)
        pieces = []
        for kind, cells in where.items():
            kinds = chain_of(self.level, kind)
            sources = tuple((f"kind {one}", self.level.kinds[one]) for one in kinds)
            place = f"map.signs, kind '{kind}'"
            placed = Placed(MAP_PREFIX + kind, sources, kinds, tiles.at, frame, None, place)
            if cells:
                pieces.append(self.resolve(placed, tuple(cells)))
        return pieces

    def resolve(self, placed: Placed, tiles: tuple[tuple[int, int], ...] = ()) -> ResolvedPiece:
        """Return a placed piece, or the tiles of a kind, with everything filled in."""
        place, frame, kinds = placed.place, placed.frame, placed.kinds
        sources = [source for _, source in placed.sources]
        found: dict[str, Any] = {}
        marks: list[str] = []
        for source in sources:
            marks += [mark for mark in source.marks if mark not in marks]
            for key in source.model_fields_set:
                found.setdefault(key, getattr(source, key))
        facets = merged_facets(self.level, sources, frame, place)
        route = facets.get("route")
        if route is not None and route.waits_for is not None:
            waits_for = rule_of(placed.name, placed.sources, route.waits_for)
            facets["route"] = route.model_copy(update={"waits_for": waits_for})
        turn = float(found.get("turn", 0.0)) + frame.turn
        parts = merged_parts(sources)
        centre = placed.at if tiles else _centre(parts, placed)
        assert centre is not None
        solid_from = found.get("solid_from")
        layer = found.get("layer") or self._default_layer(placed.name, kinds, marks, place, solid_from, facets)
        self._require_movable(placed, facets, bool(tiles))
        if tiles and "rest" in facets:
            raise LevelError(f"kinds.{kinds[0]}.rest", "found rest on tiles of the map, expected it on pieces")
        return ResolvedPiece(
            placed.name, kinds, layer, tuple(marks), turn, float(found.get("scale", 1.0)) * frame.scale, parts, centre,
            place, placed.parent, placed.sources, placed.is_copy, tuple(found.get("never_meets", ())), solid_from,
            facets, tiles, bool(found.get("active", True)),
        )  # fmt: skip

    def _require_movable(self, placed: Placed, facets: dict[str, Any], is_tiles: bool) -> None:
        """Raise where motion is asked of something that can't move."""
        moves = [facet for facet in MOTIONS if facet in facets]
        if is_tiles and moves:
            raise LevelError(
                f"{placed.place}, {moves[0]}", f"found a {moves[0]} on tiles of the map, expected it on pieces"
            )
        if is_tiles and any(source.pieces for _, source in placed.sources):
            raise LevelError(f"{placed.place}, pieces", "found children of tiles of the map, expected them on pieces")

    def _default_layer(
        self,
        name: str,
        kinds: tuple[str, ...],
        marks: list[str],
        place: str,
        solid_from: Side | None,
        facets: dict[str, Any],
    ) -> str:
        given = {FACETS[facet].layer for facet in facets}
        if solid_from is not None:
            given.add("ledge")
        moments = self._moments(name, kinds, marks)
        is_floor = self.level.world.view == "top" and "surface" in facets
        if is_floor or (moments and not moments & set(SOLID_MOMENTS)):
            given.add("zone")
        layer = next((layer for layer in DEFAULT_LAYERS if layer in given), "terrain")
        if layer not in self.contacts.layers:
            wanted = ", ".join(self.contacts.layers)
            raise LevelError(f"{place}, layer", f"found none, expected one of {wanted}")
        return layer

    @cached_property
    def _rules_by_selector(self) -> dict[str, set[str]]:
        moments: dict[str, set[str]] = {}
        for _, rule in self.rules:
            if rule.piece is not None and rule.when in ZONE_MOMENTS + SOLID_MOMENTS:
                selector = exactly(rule.piece, self._placed_names, self.level.kinds)
                moments.setdefault(selector, set()).add(rule.when)
        return moments

    def _moments(self, name: str, kinds: tuple[str, ...], marks: list[str]) -> set[str]:
        rules = self._rules_by_selector
        found: set[str] = set()
        for selector in (OF_PIECE + name, *(OF_KIND + kind for kind in kinds), *(MARK + mark for mark in marks)):
            found |= rules.get(selector, set())
        return found


def _centre(parts: tuple[Part, ...], placed: Placed) -> tuple[float, float]:
    corners = parts[0].shape.corners if len(parts) == 1 else None
    at = placed.at
    if corners is not None:
        if placed.is_copy:
            raise LevelError(
                f"{placed.place}, copies", "found copies of a shape.corners, expected a shape placed by at"
            )
        if at is not None:
            message = "found both at and shape.corners, expected one: the corners say where it is"
            raise LevelError(placed.place, message)
        return placed.frame.place(middle(corners))
    if at is None and placed.parent is None:
        raise LevelError(f"{placed.place}, at", "found none, expected the centre as [x, y]")
    return placed.frame.place(at or (0.0, 0.0))
