"""The sections of a level, checked for names that do not exist."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple, TypeVar

from pydantic import Field, PrivateAttr, ValidationError

from haptos.errors import Faults, LevelError
from haptos.level.contacts import Contacts, ContactTable
from haptos.level.names import did_you_mean, short
from haptos.level.pieces import Kind, Piece, TileMap
from haptos.level.player import Player
from haptos.level.quantity import Units, shared_units, units_of
from haptos.level.reports import level_error
from haptos.level.routes import Route
from haptos.level.rules import Rule
from haptos.level.section import Allowances, Frozen, FrozenDict, Section
from haptos.level.stakes import Counter
from haptos.level.world import World

FORMAT_VERSION = 1
Result = TypeVar("Result")


class Origin(NamedTuple):
    """The file that a level was read from, and on which line a place in the words of messages stands."""

    file: str
    line_of: Callable[[str], int | None]


class Made(dict[Callable[..., Any], Any]):
    """What was made of a level, and where it comes from; it says nothing about it, and is not copied or pickled."""

    origin: Origin | None = None

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Made)

    __hash__ = None

    def __deepcopy__(self, memo: Any) -> Made:
        return Made()

    def __reduce__(self) -> tuple[type[Made], tuple[()]]:
        return Made, ()


class Level(Section):
    """Everything the designer wrote, with the same names as in the file, one section after another.

    What the sections say of each other is looked at where the level is compiled: `haptos.Level` does both.

    Raises
    ------
    LevelError
        One sentence about each thing that can't be used.

    Examples
    --------
    >>> level = Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -8]}])
    >>> level.player.gaits.walk
    150.0
    """

    haptos: int = FORMAT_VERSION
    title: str = ""
    world: World = World()
    units: Frozen[str] = Field(default_factory=FrozenDict)
    contacts: Contacts | None = None
    player: Player = Player()
    counters: Frozen[Counter] = Field(default_factory=FrozenDict)
    routes: Frozen[Route] = Field(default_factory=FrozenDict)
    kinds: Frozen[Kind] = Field(default_factory=FrozenDict)
    pieces: tuple[Piece, ...] = ()
    tiles: TileMap | None = Field(default=None, alias="map")
    rules: tuple[Rule, ...] = ()
    allow: Allowances = Field(default_factory=FrozenDict)
    _made: Made = PrivateAttr(default_factory=lambda: Made())

    def __init__(self, /, **data: Any) -> None:
        _require_version(data)
        try:
            self.__pydantic_validator__.validate_python(data, self_instance=self, context=units_of(data))
        except ValidationError as error:
            raise level_error(error, type(self), data) from None
        _check_names(self)

    def once(self, work: Callable[[Level], Result]) -> Result:
        """Return what a function makes of this level; it is worked out once, since a level never changes."""
        if work not in self._made:
            self._made[work] = work(self)
        made: Result = self._made[work]
        return made

    @property
    def origin(self) -> Origin | None:
        """The file that it was read from, None if it was made in code."""
        return self._made.origin

    def come_from(self, origin: Origin) -> None:
        """Remember the file that it was read from."""
        self._made.origin = origin

    def unit_table(self) -> Units:
        """Return the level's units, for cues."""
        return shared_units(self.world.length_unit, self.world.frame_rate, tuple(self.units.items()))

    def contact_table(self) -> ContactTable:
        """Return the contacts table, the built-in one if the level has none."""
        return ContactTable(self.contacts)


def _require_version(data: dict[str, Any]) -> None:
    version = data.get("haptos", FORMAT_VERSION)
    if isinstance(version, bool) or version != FORMAT_VERSION:
        raise LevelError("haptos", f"found format version {short(version)}, expected {FORMAT_VERSION}")


def _check_names(level: Level) -> None:
    faults = Faults()
    table = level.contact_table()
    for check in (_check_player, _check_routes, _check_kinds, _check_pieces, _check_tiles):
        check(level, table, faults)
    faults.raise_any()


def _check_player(level: Level, table: ContactTable, faults: Faults) -> None:
    if level.world.is_weightless and level.player.jump.height is not None:
        message = f"found {level.player.jump.height:g} in a world without gravity, expected jump.speed"
        faults.add(LevelError("player.jump.height", message))
    if level.player.layer is not None:
        with faults.gathered():
            table.require(level.player.layer, "player.layer")
    elif not table.built_in:
        faults.add(LevelError("player.layer", f"found none, expected one of {', '.join(table.layers)}"))
    for index, piece in enumerate(level.player.pieces):
        _check_piece(level, table, piece, f"player.pieces[{index}] '{piece.name}'", faults)


def _check_routes(level: Level, table: ContactTable, faults: Faults) -> None:
    for name, route in level.routes.items():
        fault = "found the name of another route, expected stops" if route.shared is not None else route.fault()
        if fault is not None:
            faults.add(LevelError(f"routes.{name}", fault))


def _check_kinds(level: Level, table: ContactTable, faults: Faults) -> None:
    for name, kind in level.kinds.items():
        with faults.gathered():
            if kind.layer is not None:
                table.require(kind.layer, f"kinds.{name}.layer")
        with faults.gathered():
            _require_ancestors(level, name)
        for index, child in enumerate(kind.pieces):
            _check_piece(level, table, child, f"kinds.{name}, pieces[{index}] '{child.name}'", faults)


def _check_pieces(level: Level, table: ContactTable, faults: Faults) -> None:
    seen: dict[str, int] = {}
    for index, piece in enumerate(level.pieces):
        place = f"pieces[{index}] '{piece.name}'"
        if piece.name in seen:
            message = f"found the name a second time, expected another than pieces[{seen[piece.name]}]'s"
            faults.add(LevelError(place, message))
        seen.setdefault(piece.name, index)
        _check_piece(level, table, piece, place, faults)


def _check_piece(level: Level, table: ContactTable, piece: Piece, place: str, faults: Faults) -> None:
    """Note where a piece, or one that it holds, names a kind or layer that does not exist."""
    if piece.kind is not None and piece.kind not in level.kinds:
        message = f"no kind '{piece.kind}'{did_you_mean(piece.kind, level.kinds)}"
        faults.add(LevelError(f"{place}, kind", message))
    if piece.layer is not None:
        with faults.gathered():
            table.require(piece.layer, f"{place}, layer")
    for index, child in enumerate(piece.pieces):
        _check_piece(level, table, child, f"{place}, pieces[{index}] '{child.name}'", faults)


def _check_tiles(level: Level, table: ContactTable, faults: Faults) -> None:
    for sign, name in level.tiles.signs.items() if level.tiles is not None else ():
        if name not in level.kinds:
            faults.add(LevelError(f"map.signs.{sign}", f"no kind '{name}'{did_you_mean(name, level.kinds)}"))


def _require_ancestors(level: Level, name: str) -> None:
    chain = [name]
    parent = level.kinds[name].based_on
    while parent is not None:
        if parent not in level.kinds:
            raise LevelError(f"kinds.{chain[-1]}.based_on", f"no kind '{parent}'{did_you_mean(parent, level.kinds)}")
        if parent in chain and name != min(chain[chain.index(parent) :]):
            # It is told once, of the first of those that go round.
            return
        if parent in chain:
            loop = " → ".join([*chain[chain.index(parent) :], parent])
            raise LevelError(f"kinds.{name}.based_on", f"found the loop {loop}, expected a kind not based on itself")
        chain.append(parent)
        parent = level.kinds[parent].based_on
