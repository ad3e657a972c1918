"""What a piece resolved to, value by value, and where each value comes from."""

from __future__ import annotations

from typing import Any, NamedTuple

from haptos.level.assemblies import Source
from haptos.level.pieces import FACETS
from haptos.level.resolve import ResolvedLevel
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.routes import Route
from haptos.level.section import Section


class Value(NamedTuple):
    """One value of a piece and where it comes from."""

    key: str
    value: Any
    origin: str


def values_of(level: ResolvedLevel, name: str) -> list[Value]:
    """Return what a piece resolved to, value by value, with its origin.

    Parameters
    ----------
    level : ResolvedLevel
    name : str
        A piece's name; ``map/KIND`` for tiles.

    Raises
    ------
    KeyError
        If there is no such piece.

    Examples
    --------
    >>> from haptos import Level
    >>> level = Level(pieces=[{"name": "floor", "at": [0, -22], "shape": {"box": [400, 16]}}])
    >>> values_of(ResolvedLevel(level), "floor")[1]
    Value(key='at', value=[0.0, -22.0], origin='the piece itself')
    """
    piece = level.by_name[name]
    sources = list(piece.sources)
    here = "the map's signs" if piece.tiles else sources[0][0]
    first = piece.place.rpartition(", copies[")[0].rsplit("'", 2)[1] if piece.is_copy else name
    rows = [Value("name", name, f"a copy of '{first}'" if piece.is_copy else here)]
    if piece.parent is not None:
        rows.append(Value("parent", piece.parent, _parent_origin(piece)))
    if piece.kinds:
        rows.append(Value("kind", " ← ".join(piece.kinds), here))
    rows.append(Value("at", list(piece.at), _place_origin(piece, first)))
    rows.append(_layer(level, piece, sources))
    rows += [
        Value("marks", mark, next(origin for origin, source in sources if mark in source.marks)) for mark in piece.marks
    ]
    rows.append(_turn(level, piece, sources))
    for key in ("scale", "active", "solid_from", "never_meets"):
        origin = _origin(key, sources)
        if origin is not None:
            value = getattr(piece, key)
            rows.append(Value(key, list(value) if isinstance(value, tuple) else value, origin))
    rows += _shapes(level, piece, sources)
    for facet in FACETS:
        rows += _facet(level, piece, facet, sources)
    return rows


def _origin(key: str, sources: list[Source]) -> str | None:
    return next((origin for origin, source in sources if key in source.model_fields_set), None)


def _parent_origin(piece: ResolvedPiece) -> str:
    given = next((origin for origin, source in piece.sources if getattr(source, "parent", None) is not None), None)
    return given or "the piece that holds it"


def _place_origin(piece: ResolvedPiece, first: str) -> str:
    if len(piece.parts) == 1 and piece.parts[0].shape.corners is not None:
        origin = "shape.corners"
    elif piece.tiles:
        return "map.at, the lower left corner"
    else:
        origin = f"copies of '{first}'" if piece.is_copy else piece.sources[0][0]
    return f"{origin}, placed by '{piece.parent}'" if "/" in piece.name else origin


def _layer(level: ResolvedLevel, piece: ResolvedPiece, sources: list[Source]) -> Value:
    table = "the built-in contacts table" if level.contacts.built_in else "the contacts table"
    return Value("layer", piece.layer, _origin("layer", sources) or f"default, from {table}")


def _turn(level: ResolvedLevel, piece: ResolvedPiece, sources: list[Source]) -> Value:
    origin = _origin("turn", sources)
    if piece.tiles and level.level.tiles is not None and level.level.tiles.turn:
        return Value("turn", piece.turn, f"map.turn, and {origin}" if origin else "map.turn")
    return Value("turn", piece.turn, origin or "default")


def _shapes(level: ResolvedLevel, piece: ResolvedPiece, sources: list[Source]) -> list[Value]:
    if not piece.parts:
        if piece.fills_tile and level.level.tiles is not None:
            tile = level.level.tiles.tile
            return [Value("shape.box", [tile, tile], "default: a kind without a shape fills its tile")]
        return [Value("shape", "none", "nothing gives one")]
    origin = next(name for name, source in sources if source.parts is not None or source.shape is not None)
    rows = []
    for index, part in enumerate(piece.parts):
        prefix = "shape" if len(piece.parts) == 1 and part.at == (0.0, 0.0) else f"parts[{index}].shape"
        for form, given in part.shape.model_dump(exclude_none=True).items():
            if form != "turn" or "turn" in part.shape.model_fields_set:
                rows.append(Value(f"{prefix}.{form}", _plain(given), origin))
        if prefix != "shape":
            rows.append(Value(f"parts[{index}].at", list(part.at), origin))
    return rows


def _facet(level: ResolvedLevel, piece: ResolvedPiece, facet: str, sources: list[Source]) -> list[Value]:
    merged = piece.facet(facet)
    if merged is None:
        return []
    sections = [(name, getattr(source, facet)) for name, source in sources if getattr(source, facet) is not None]
    shared = level.level.routes
    sections = [
        (f"[routes.{section.shared}], named by {name}", shared[section.shared])
        if isinstance(section, Route) and section.shared is not None
        else (name, section)
        for name, section in sections
    ]
    rows = []
    for key, field in type(merged).model_fields.items():
        value = getattr(merged, key)
        origin = next((name for name, section in sections if key in section.model_fields_set), None)
        if isinstance(value, Section):
            # A section within one: what is said in it, line by line.
            for inner in type(value).model_fields:
                if inner in value.model_fields_set:
                    rows.append(Value(f"{facet}.{key}.{inner}", _plain(getattr(value, inner)), origin or "default"))
        elif origin is not None or value is not None:
            rows.append(Value(f"{facet}.{field.alias or key}", _plain(value), origin or "default"))
    return rows


def _plain(value: Any) -> Any:
    if isinstance(value, tuple | list):
        return [_plain(part) for part in value]
    return value
