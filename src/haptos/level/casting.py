"""What can be made while the level runs: by spawners, by the player's shot, and by rules that name a kind."""

from __future__ import annotations

import copy
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from haptos.errors import LevelError
from haptos.level.assemblies import NO_PARENT, ON_PLAYER, PLAYER, WORLD, Frame, placed_kind
from haptos.level.flying import Spawner
from haptos.level.names import did_you_mean
from haptos.level.resolve import ResolvedLevel
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.roster import OTHER
from haptos.level.rules import Action, Rule
from haptos.level.soundness import require_makeable

# Keys of a rule's spawn that say how pieces of a kind are made; a spawner says so itself.
OF_KINDS = {"parent", "at", "offset", "lasts", "limit"}


class Maker(NamedTuple):
    """What makes pieces of one kind.

    Attributes
    ----------
    piece : the number of the piece where it makes them; ON_PLAYER, or NO_PARENT where the rule fires
    place : where it is written, for messages
    spawner : how it makes them; of the player's shot, and of a rule, what that says
    parent : the number of the piece that carries what is made; NO_PARENT, or ON_PLAYER
    offset : from the place of `piece`, in the world's directions
    is_shot : whether `act` makes it
    action : the title and the number of the action that does; None if it is no rule's
    slots : the numbers of the pieces that it can make
    """

    piece: int
    place: str
    spawner: Spawner
    parent: int = NO_PARENT
    offset: tuple[float, float] = (0.0, 0.0)
    is_shot: bool = False
    action: tuple[str, int] | None = None
    slots: tuple[int, ...] = ()

    @property
    def is_spawner(self) -> bool:
        """Whether it is a piece that makes others."""
        return not self.is_shot and self.action is None


@dataclass(frozen=True)
class Cast:
    """A level with what can be made in it."""

    resolved: ResolvedLevel
    makers: tuple[Maker, ...]

    @cached_property
    def made(self) -> frozenset[int]:
        """The numbers of the pieces that are made, without what they hold."""
        return frozenset(index for maker in self.makers for index in maker.slots)

    def slot_of(self, index: int) -> int | None:
        """Return the number of the piece that is made which a piece is, or is held by; None if it is of the level."""
        return next((one for one in (index, *self.resolved.carriers(index)) if one in self.made), None)


def cast_of(resolved: ResolvedLevel, origins: Sequence[Sequence[float]]) -> Cast:
    """Return a level with the pieces that can be made while it runs, as many as can be there at once.

    Parameters
    ----------
    resolved : ResolvedLevel
    origins : (p, 2)
        Where each piece is at rest.

    Raises
    ------
    LevelError
        If what is made makes something itself, or a rule's action names what is not there.
    """
    cast = copy.copy(resolved)
    for name in dir(type(resolved)):
        if isinstance(getattr(type(resolved), name), cached_property):
            vars(cast).pop(name, None)
    pieces = list(resolved.pieces)
    makers = []
    makeable: list[ResolvedPiece] = []
    for maker in _makers(resolved):
        made: list[int] = []
        kind, place = maker.spawner.kind, maker.place
        frame, parent = _stand_of(resolved, maker, origins)
        for number in range(maker.spawner.limit):
            placed = placed_kind(resolved.level, f"{kind} {number + 1} of {place}", kind, place, frame, parent)
            made.append(len(pieces))
            pieces += map(resolved.resolve, placed)
            if number == 0:
                _require_makeable(maker, pieces[made[0] :])
                makeable += pieces[made[0] :]
        makers.append(maker._replace(slots=tuple(made)))
    cast.pieces = tuple(pieces)
    require_makeable(cast, makeable)
    return Cast(cast, tuple(makers))


def makes_kind(resolved: ResolvedLevel, action: Action) -> bool:
    """Whether a rule's spawn makes pieces of a kind by itself; else it lets spawners make them."""
    name = action.spawn
    spawners = (piece for piece in resolved.pieces[: resolved.written] if "spawner" in piece.facets)
    return name in resolved.level.kinds and not any(resolved.answers(piece, str(name)) for piece in spawners)


def _makers(resolved: ResolvedLevel) -> list[Maker]:
    """Return all that makes something."""
    makers = [
        Maker(index, f"{piece.place}, spawner", piece.facet("spawner"))
        for index, piece in enumerate(resolved.pieces)
        if piece.facet("spawner") is not None
    ]
    shot = resolved.level.player.shot
    if shot is not None:
        spawner = Spawner(kind=shot.kind, lasts=shot.lasts, limit=shot.limit)
        makers.append(Maker(ON_PLAYER, "player.shot", spawner, offset=shot.offset, is_shot=True))
    for title, rule in resolved.rules:
        for number, action in enumerate(rule.do):
            if action.spawn is not None:
                place = f"{title}, do[{number}].spawn"
                if makes_kind(resolved, action):
                    makers.append(_of_rule(resolved, rule, action, place, (title, number)))
                elif OF_KINDS & action.model_fields_set and resolved.answering(action.spawn):
                    found = " and ".join(sorted(OF_KINDS & action.model_fields_set))
                    message = (
                        f"found {found} with '{action.spawn}', which is no kind, expected a kind, or a spawner alone"
                    )
                    raise LevelError(place, message)
    return makers


def _of_rule(resolved: ResolvedLevel, rule: Rule, action: Action, place: str, number: tuple[str, int]) -> Maker:
    """Return what a rule makes by itself, and where."""
    spawner = Spawner(kind=str(action.spawn), lasts=action.lasts, limit=action.limit)
    if action.parent is not None:
        carrier = _found(resolved, action.parent, f"{place}, parent")
        return Maker(carrier, place, spawner, carrier, action.offset, action=number)
    about = [] if rule.piece is None else resolved.selected(rule.piece)
    if action.at is not None and action.at != OTHER:
        where = _found(resolved, action.at, f"{place}, at")
    elif action.at is None and len(about) == 1:
        where = resolved.pieces.index(about[0])
    else:
        where = NO_PARENT
    return Maker(where, place, spawner, NO_PARENT, action.offset, action=number)


def _found(resolved: ResolvedLevel, name: str, place: str) -> int:
    """Return the number of a piece, ON_PLAYER for the player."""
    if name == PLAYER:
        return ON_PLAYER
    names = {piece.name: index for index, piece in enumerate(resolved.pieces) if not piece.tiles}
    if name not in names:
        raise LevelError(place, f"no piece '{name}'{did_you_mean(name, [*names, PLAYER])}")
    return names[name]


def _stand_of(resolved: ResolvedLevel, maker: Maker, origins: Sequence[Sequence[float]]) -> tuple[Frame, str | None]:
    """Return where what is carried is placed, turned and grown as its carrier, and the name of that."""
    if maker.parent == NO_PARENT:
        return WORLD, None
    if maker.parent == ON_PLAYER:
        (x, y), turn, scale, name = resolved.level.player.at, 0.0, 1.0, PLAYER
    else:
        piece = resolved.pieces[maker.parent]
        (x, y), turn, scale, name = origins[maker.parent], piece.turn, piece.scale, piece.name
    x, y = Frame(x, y, turn, scale).place(maker.offset)
    return Frame(x, y, turn, scale), name


def _require_makeable(maker: Maker, pieces: list[ResolvedPiece]) -> None:
    kind = maker.spawner.kind
    if any("spawner" in piece.facets for piece in pieces):
        raise LevelError(maker.place, f"found the kind '{kind}', which holds a spawner itself, expected one without")
    drift = pieces[0].facet("drift")
    if maker.parent != NO_PARENT and drift is not None and drift.on_exit is not None:
        message = (
            f"found a parent for the kind '{kind}', which does something on_exit, expected one that goes where it goes"
        )
        raise LevelError(maker.place, message)
