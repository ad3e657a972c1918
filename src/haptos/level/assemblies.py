"""Pieces that hold pieces, made one flat list: each with its place in the world and what says something about it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, TypeVar

from haptos.errors import LevelError
from haptos.level.comparisons import Comparison
from haptos.level.level import Level
from haptos.level.pieces import Piece, Template
from haptos.level.rules import Rule
from haptos.level.section import Section

PLAYER = "player"
# In place of the number of what carries a piece.
NO_PARENT, ON_PLAYER = -1, -2
SELF = "self"
# In the words for where something is said: of a child.
CHILD = ", its piece "
# Keys of an action that name pieces.
NAMING = ("set", "remove", "spawn", "at", "parent")
Source = tuple[str, Template]
Named = TypeVar("Named", bound=Section)


@dataclass(frozen=True)
class Frame:
    """What places and turns are relative to: a point, degrees, a factor."""

    x: float = 0.0
    y: float = 0.0
    turn: float = 0.0
    scale: float = 1.0

    def place(self, at: tuple[float, float]) -> tuple[float, float]:
        """Return a place in the world.

        Examples
        --------
        >>> Frame(10, 0, turn=90, scale=2).place((3, 0))
        (10.0, 6.0)
        """
        x, y = self.vector(at)
        return (self.x + x, self.y + y)

    def vector(self, way: tuple[float, float]) -> tuple[float, float]:
        """Return a vector in the world."""
        if self.turn == 0.0 and self.scale == 1.0:
            return way
        angle = math.radians(self.turn)
        cosine, sine = round(math.cos(angle), 15), round(math.sin(angle), 15)
        x, y = way
        return (self.scale * (x * cosine - y * sine), self.scale * (x * sine + y * cosine))


WORLD = Frame()


@dataclass(frozen=True)
class Placed:
    """One piece of the flat list.

    Attributes
    ----------
    name : its name, ``holder/child`` of a child, with a number for copies
    sources : what says something about it, nearest first, with the words for where
    kinds : its kind and what that is based on, nearest first
    at : where it is put in the frame of its holder; None if only its shape says it
    frame : that frame
    parent : the name of the piece that carries it, or ``player``; None if nothing does
    place : where it is written, for messages
    is_copy : whether it is one of the `copies`
    """

    name: str
    sources: tuple[Source, ...]
    kinds: tuple[str, ...]
    at: tuple[float, float] | None
    frame: Frame
    parent: str | None
    place: str
    is_copy: bool = False


def placed_pieces(level: Level) -> list[Placed]:
    """Return every piece of a level but the tiles of its map, holders before what they hold.

    Raises
    ------
    LevelError
        If a kind holds itself, or a parent does not exist or descends from its own child.
    """
    found: list[Placed] = []
    for index, piece in enumerate(level.pieces):
        sources: list[Source] = [("the piece itself", piece)]
        _place(level, piece.name, sources, WORLD, piece.parent, f"pieces[{index}] '{piece.name}'", (), found)
    own = Frame(*level.player.at)
    for index, piece in enumerate(level.player.pieces):
        place = f"player.pieces[{index}] '{piece.name}'"
        _place(level, f"{PLAYER}/{piece.name}", [("the piece itself", piece)], own, PLAYER, place, (), found)
    return found


def placed_kind(
    level: Level, name: str, kind: str, place: str, frame: Frame = WORLD, parent: str | None = None
) -> list[Placed]:  # fmt: skip
    """Return a piece made of a kind alone, at a frame's place, with all that it holds."""
    found: list[Placed] = []
    sources: list[Source] = [("what makes it", Piece(name=kind, kind=kind, at=(0.0, 0.0)))]
    _place(level, name, sources, frame, parent, place, (), found)
    return found


def chain_of(level: Level, kind: str | None) -> tuple[str, ...]:
    """Return a kind and what it is based on, nearest first."""
    chain: list[str] = []
    while kind is not None:
        chain.append(kind)
        kind = level.kinds[kind].based_on
    return tuple(chain)


def rules_of(level: Level, placed: list[Placed]) -> list[tuple[str, Rule]]:
    """Return every rule with its title: the level's own, then those of kinds, once for each piece made from them.

    Examples
    --------
    >>> door = {"shape": {"box": [8, 40]}, "rules": [{"when": "touch", "piece": "self", "do": [{"say": "knock"}]}]}
    >>> level = Level(kinds={"door": door}, pieces=[{"name": "east", "kind": "door", "at": [0, 0]}])
    >>> [(title, rule.piece) for title, rule in rules_of(level, placed_pieces(level))]
    [("kinds.door.rules[0] of 'east'", 'east')]
    """
    rules = [(rule_title(rule, f"rules[{index}]"), rule) for index, rule in enumerate(level.rules)]
    for piece in placed:
        for kind in reversed(piece.kinds):
            for index, rule in enumerate(level.kinds[kind].rules):
                title = rule_title(rule, f"kinds.{kind}.rules[{index}]") + f" of '{piece.name}'"
                rules.append((title, _rule_from(rule, piece.name)))
    return rules


def _rule_from(rule: Rule, name: str) -> Rule:
    """Return a kind's rule as the rule of one piece: `self` is that, and it is called after it, as children are."""
    actions = tuple(_renamed(action, NAMING, name) for action in rule.do)
    said: dict[str, Any] = {"do": actions}
    if rule.name:
        said["name"] = f"{name}/{rule.name}"
    if rule.if_ is not None and SELF in rule.if_.words:
        said["if_"] = rule.if_.changed(lambda one: _comparison_from(one, name))
    return _renamed(rule, ("piece",), name).model_copy(update=said)


def _comparison_from(comparison: Comparison, name: str) -> Comparison:
    """Return what a kind's rule compares as it is meant for one piece."""
    value = comparison.value
    if comparison.measure == "support" or comparison.subject == "support":
        value = str(_named_from(str(value), name))
    return comparison._replace(subject=str(_named_from(comparison.subject, name)), value=value)


def _renamed(section: Named, keys: tuple[str, ...], name: str) -> Named:
    """Return a section in which what some keys say of `self` is said of a piece."""
    said = [key for key in keys if key in section.model_fields_set]
    return section.model_copy(update={key: _named_from(getattr(section, key), name) for key in said})


def rule_title(rule: Rule, place: str) -> str:
    """Return what a rule is called in messages: ``rules[0] 'greeting'``."""
    return f"{place} '{rule.name}'" if rule.name else place


def rule_of(name: str, sources: tuple[Source, ...], waits_for: str) -> str:
    """Return which rule a piece's route waits for: of `self/RULE`, the one that was placed with what says so."""
    if not waits_for.startswith(f"{SELF}/"):
        return waits_for
    origin = next(origin for origin, source in sources if source.route is not None)
    holder = name.rsplit("/", 1)[0] if CHILD in origin else name
    return holder + waits_for[len(SELF) :]


def _named_from(selector: str | None, name: str) -> str | None:
    """Return what a selector of a kind's rule or child means for one piece."""
    if selector == SELF:
        return name
    if selector is not None and selector.startswith((SELF + "/", SELF + ".")):
        return name + selector[len(SELF) :]
    return selector


def _place(
    level: Level, name: str, own: list[Source], frame: Frame, parent: str | None, place: str,
    held_by: tuple[str, ...], found: list[Placed],
) -> None:  # fmt: skip
    """Add a piece with its copies and, after each, what it holds."""
    sections = [source for _, source in own if isinstance(source, Piece)]
    kind = next((piece.kind for piece in sections if piece.kind is not None), None)
    kinds = chain_of(level, kind)
    again = next((one for one in kinds if one in held_by), None)
    if again is not None:
        raise LevelError(f"kinds.{again}.pieces", f"found {place}, which holds '{again}' in itself without end")
    sources = (*own, *((f"kind {one}", level.kinds[one]) for one in kinds))
    at = next((piece.at for piece in sections if piece.at is not None), None)
    copies = next((piece.copies for piece in sections if piece.copies), ())
    for number, where in enumerate([at, *copies], start=1):
        one, written = name, place
        if number > 1:
            one = f"{name} {number}"
            written = f"{place}, copies[{number - 2}] '{one}'"
        found.append(Placed(one, sources, kinds, where, frame, parent, written, number > 1))
        _place_children(level, found[-1], (*held_by, *kinds), found)


def _corners_middle(holder: Placed) -> tuple[float, float] | None:
    """Return where a piece is whose shape says it."""
    shape = next((source.shape for _, source in holder.sources if source.shape is not None), None)
    return None if shape is None or shape.corners is None else middle(shape.corners)


def middle(corners: tuple[float, float, float, float]) -> tuple[float, float]:
    """Return the centre of a box given by two corners."""
    x0, y0, x1, y1 = corners
    return ((x0 + x1) / 2, (y0 + y1) / 2)


def _place_children(level: Level, holder: Placed, held_by: tuple[str, ...], found: list[Placed]) -> None:
    """Add what a piece holds; of children of one name, what is nearer goes before what a kind says."""
    children: dict[str, list[Source]] = {}
    for origin, source in reversed(holder.sources):
        for child in source.pieces:
            children.setdefault(child.name, []).insert(0, (f"{origin}{CHILD}'{child.name}'", child))
    if not children:
        return
    turn = next((source.turn for _, source in holder.sources if "turn" in source.model_fields_set), 0.0)
    scale = next((source.scale for _, source in holder.sources if "scale" in source.model_fields_set), 1.0)
    x, y = holder.frame.place(holder.at or _corners_middle(holder) or (0.0, 0.0))
    frame = Frame(x, y, holder.frame.turn + turn, holder.frame.scale * scale)
    for name, own in children.items():
        wanted = next((child.parent for _, child in own if isinstance(child, Piece) and child.parent), None)
        parent = _named_from(wanted, holder.name) or holder.name
        _place(level, f"{holder.name}/{name}", own, frame, parent, f"{holder.place}/{name}", held_by, found)
