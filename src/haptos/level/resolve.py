"""What a piece comes to: its own values over those of its kind, over those of the kind that is based on."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from haptos.errors import LevelError
from haptos.level.facets import LAUNCH_MEASURES, FieldEffect, Ladder, Launch, Look, Rest, Side, Surface
from haptos.level.level import Level
from haptos.level.names import did_you_mean
from haptos.level.pieces import EMPTY_SIGNS, FACETS, ZONE_FACETS, Part, Piece, Template
from haptos.level.routes import Route
from haptos.level.rules import SOLID_MOMENTS, ZONE_MOMENTS, Rule
from haptos.level.section import Section

MAP_PREFIX = "map/"
# A launch whose direction rises by less than this share of it goes sideways.
LEAST_RISE = 1e-9
FACET_SECTIONS: dict[str, type[Section]] = {
    "rest": Rest,
    "look": Look,
    "surface": Surface,
    "field": FieldEffect,
    "ladder": Ladder,
    "launch": Launch,
    "route": Route,
}
Source = tuple[str, Template]


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
    facets : its facets by name, merged key by key
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
    never_meets: tuple[str, ...] = ()
    solid_from: Side | None = None
    facets: dict[str, Any] = field(default_factory=dict, hash=False)
    tiles: tuple[tuple[int, int], ...] = field(default=(), repr=False)

    @property
    def can_be_met(self) -> bool:
        """Whether it has any shape with an area, or a line."""
        return any(part.shape.can_be_met for part in self.parts)

    @property
    def fills_tile(self) -> bool:
        """Whether it is the tiles of a kind without a shape of its own, so that they can be merged."""
        return bool(self.tiles) and self.parts == ()

    def facet(self, name: str) -> Any:
        """Return a facet, or None."""
        return self.facets.get(name)

    def answers_to(self, selector: str) -> bool:
        """Whether a rule's name, kind, ``#mark`` or layer means this piece."""
        if selector.startswith("#"):
            return selector[1:] in self.marks
        return selector == self.name or selector in self.kinds or selector == self.layer


class ResolvedLevel:
    """A level with its pieces resolved.

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
        self._chains: dict[str, tuple[str, ...]] = {}
        self.player_layer = level.player.layer or "body"
        self.pieces: tuple[ResolvedPiece, ...] = (*self._placed_pieces(), *self._map_pieces())
        self._require_distinct_names()

    @cached_property
    def by_name(self) -> dict[str, ResolvedPiece]:
        """The pieces by name."""
        return {piece.name: piece for piece in self.pieces}

    def meeting(self, piece: ResolvedPiece) -> str:
        """What the player and a piece do when they meet: solid, overlap or nothing."""
        if self.is_switched_off(piece):
            return "nothing"
        return self.contacts.between(self.player_layer, piece.layer).meeting

    def is_switched_off(self, piece: ResolvedPiece) -> bool:
        """Whether a `never_meets` of the piece or the player names the other."""
        names = {"player", *(f"#{mark}" for mark in self.level.player.marks)}
        if names & set(piece.never_meets):
            return True
        return any(piece.answers_to(selector) for selector in self.level.player.never_meets)

    def selected(self, selector: str) -> list[ResolvedPiece]:
        """Return the pieces that a selector means, in file order."""
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

    def sources(self, piece: Template | None, kind: str | None) -> list[Source]:
        """Return what says something about a piece, nearest first, with the words for where."""
        sources: list[Source] = [] if piece is None else [("the piece itself", piece)]
        return sources + [(f"kind {name}", self.level.kinds[name]) for name in self.chain(kind)]

    def _placed_pieces(self) -> list[ResolvedPiece]:
        resolved = []
        for index, piece in enumerate(self.level.pieces):
            place = f"pieces[{index}] '{piece.name}'"
            first = self._resolve(piece.name, piece, piece.kind, piece.at, place)
            resolved.append(first)
            resolved += [self._copy(piece, first, number, at) for number, at in enumerate(piece.copies, start=2)]
        return resolved

    def _copy(self, piece: Piece, first: ResolvedPiece, number: int, at: tuple[float, float]) -> ResolvedPiece:
        if piece.at is None:
            raise LevelError(f"{first.place}, copies", "found copies of a shape.corners, wanted a shape placed by at")
        return ResolvedPiece(**{**vars(first), "name": f"{first.name} {number}", "at": at})

    def _require_distinct_names(self) -> None:
        seen: set[str] = set()
        for piece in self.pieces:
            if piece.name in seen:
                raise LevelError(piece.place, f"found the name '{piece.name}' a second time, wanted another")
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
        sources = [source for _, source in self.sources(piece, kind)]
        found: dict[str, Any] = {}
        marks: list[str] = []
        for source in sources:
            marks += [mark for mark in source.marks if mark not in marks]
            for key in source.model_fields_set:
                found.setdefault(key, getattr(source, key))
        facets = {facet: self._facet(facet, sources, place) for facet in FACETS}
        facets = {facet: section for facet, section in facets.items() if section is not None}
        turn = float(found.get("turn", 0.0))
        if tiles and self.level.tiles is not None:
            turn += self.level.tiles.turn
        parts = _parts(sources)
        centre = _centre(parts, at, place)
        kinds = self.chain(kind)
        solid_from = found.get("solid_from")
        layer = found.get("layer") or self._default_layer(name, kinds, marks, place, solid_from, facets)
        if "launch" in facets:
            self._require_upward(facets["launch"], turn, place)
        self._require_movable(facets, bool(tiles), place)
        if tiles and "rest" in facets:
            raise LevelError(f"kinds.{kind}.rest", "found rest on tiles of the map, wanted it on pieces")
        return ResolvedPiece(
            name, kinds, layer, tuple(marks), turn, float(found.get("scale", 1.0)), parts, centre, place,
            tuple(found.get("never_meets", ())), solid_from, facets, tiles,
        )  # fmt: skip

    def _require_upward(self, launch: Any, turn: float, place: str) -> None:
        """Raise if a launch is to reach a height in a direction that does not go up."""
        if launch.height is None or self.level.world.view == "top":
            return
        angle = math.radians(turn + launch.angle)
        up_x, up_y = self.level.world.up
        if math.cos(angle) * up_x + math.sin(angle) * up_y <= LEAST_RISE:
            message = "found a height with a direction that does not go up, wanted a speed"
            raise LevelError(f"{place}, launch", message)

    def _facet(self, name: str, sources: list[Template], place: str) -> Section | None:
        """Merge a facet key by key, the nearest source first."""
        values: dict[str, Any] = {}
        for source in sources:
            section: Section | None = getattr(source, name)
            if section is None:
                continue
            if isinstance(section, Route) and section.shared is not None:
                section = self._shared_route(section.shared, place)
            given = {key: getattr(section, key) for key in section.model_fields_set}
            measures = [key for key in LAUNCH_MEASURES if key in given]
            if name == "launch" and any(key in values for key in LAUNCH_MEASURES):
                given = {key: value for key, value in given.items() if key not in measures}
            elif name == "launch" and len(measures) > 1:
                raise LevelError(f"{place}, launch", f"found {' and '.join(measures)}, wanted one of them")
            values = given | values
        if not values and all(getattr(source, name) is None for source in sources):
            return None
        if name == "launch" and not any(key in values for key in LAUNCH_MEASURES):
            raise LevelError(f"{place}, launch", f"missing its measure, wanted one of {', '.join(LAUNCH_MEASURES)}")
        made = FACET_SECTIONS[name].model_construct(**_with_defaults(FACET_SECTIONS[name], values))
        if isinstance(made, Route):
            fault = made.fault()
            if fault is not None:
                raise LevelError(f"{place}, route", fault)
        return made

    def _shared_route(self, name: str, place: str) -> Route:
        if name not in self.level.routes:
            raise LevelError(f"{place}, route", f"no route '{name}'{did_you_mean(name, self.level.routes)}")
        return self.level.routes[name]

    def _require_movable(self, facets: dict[str, Any], is_tiles: bool, place: str) -> None:
        """Raise where a route is asked of something that can't move yet."""
        if "route" not in facets:
            return
        held = [facet for facet in ("ladder", "field") if facet in facets]
        if is_tiles:
            raise LevelError(f"{place}, route", "found a route on tiles of the map, wanted it on pieces")
        if held:
            message = f"found a route with a {held[0]}, wanted one of them: a {held[0]} stays in its place"
            raise LevelError(f"{place}, route", message)

    def _default_layer(
        self,
        name: str,
        kinds: tuple[str, ...],
        marks: list[str],
        place: str,
        solid_from: Side | None,
        facets: dict[str, Any],
    ) -> str:
        moments = self._moments(name, kinds, marks)
        if solid_from is not None:
            layer = "ledge"
        elif any(facet in facets for facet in ZONE_FACETS) or (self.level.world.view == "top" and "surface" in facets):
            layer = "zone"
        else:
            layer = "zone" if moments and not moments & set(SOLID_MOMENTS) else "terrain"
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


def _parts(sources: list[Template]) -> tuple[Part, ...]:
    for source in sources:
        if source.parts is not None:
            return tuple(source.parts)
        if source.shape is not None:
            return (Part(shape=source.shape),)
    return ()


def _centre(parts: tuple[Part, ...], at: tuple[float, float] | None, place: str) -> tuple[float, float]:
    corners = parts[0].shape.corners if len(parts) == 1 else None
    if corners is not None:
        if at is not None:
            raise LevelError(place, "found both at and shape.corners, wanted one: the corners say where it is")
        return middle(corners)
    if at is None:
        raise LevelError(f"{place}, at", "missing, wanted the centre as [x, y]")
    return at


def middle(corners: tuple[float, float, float, float]) -> tuple[float, float]:
    """Return the centre of a box given by two corners."""
    x0, y0, x1, y1 = corners
    return ((x0 + x1) / 2, (y0 + y1) / 2)


def _with_defaults(section: type[Section], values: dict[str, Any]) -> dict[str, Any]:
    return {name: values.get(name, field.default) for name, field in section.model_fields.items()}


def rule_title(rule: Rule, index: int) -> str:
    """Return what a rule is called in messages: ``rules[0] 'greeting'``."""
    return f"rules[{index}] '{rule.name}'" if rule.name else f"rules[{index}]"
