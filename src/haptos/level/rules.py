"""Rules: what is done when something happens."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from haptos.level.conditions import Asked
from haptos.level.flying import DEFAULT_LIMIT
from haptos.level.quantity import Duration, Extent, Impulse, Length, Number, Period
from haptos.level.section import Section, Truth

When = Literal[
    "start",
    "enter",
    "leave",
    "inside",
    "occupied",
    "empty",
    "touch",
    "part",
    "land",
    "pass",
    "climb",
    "launch",
    "step",
    "board",
    "alight",
    "crush",
    "crumble",
    "drop",
    "gone",
    "return",
    "spawn",
    "vanish",
    "fire",
    "jump",
    "apex",
    "lost",
    "respawn",
    "act",
    "attract",
    "collect",
    "release",
    "reward",
    "hurt",
    "checkpoint",
    "finish",
    "restart",
    "flip",
    "tilt",
    "turn_blocked",
    "wrap",
    "reaim",
    "spawn_refused",
    "place",
    "say",
    "wake",
    "sleep",
    "hand",
    "shove",
    "timer",
    "counter",
]
ZONE_MOMENTS = ("enter", "leave", "inside", "occupied", "empty")
SOLID_MOMENTS = ("touch", "part", "land")


# Moments that happen to the player alone, or to nobody: they have no piece.
PIECELESS = ("start", "jump", "apex", "lost", "respawn", "act", "reward", "restart", "timer", "counter")
# Moments that are a piece's own; `who` can be one there, and `piece` is then the other party.
OWN_MOMENTS = (
    "drop", "gone", "return", "vanish", "spawn", "spawn_refused", "collect", "wrap", "reaim", "touch", "part", "land",
    "board", "alight", "launch", "lost", "wake", "sleep", "hand", "shove",
)  # fmt: skip
ACTIONS = ("say", "set", "add", "spawn", "kick", "remove", "respawn", "restart", "finish")
# Keys that say more about some of them.
MORE_ABOUT = {
    "amount": ("add",), "radius": ("kick",), "at": ("kick", "spawn"), "parent": ("spawn",), "offset": ("spawn",),
    "lasts": ("spawn",), "limit": ("spawn",),
}  # fmt: skip


class Action(Section):
    """One thing that a rule does.

    Attributes
    ----------
    say : puts a text among the events
    set, to : gives what can change while the level runs a new value: ``gate.active``, ``lift.route.running``,
        ``tar.field.speed_factor``, ``player.gaits.walk``
    add, amount : adds to a counter
    spawn : makes a piece of a kind, or lets spawners make one now: a piece, a kind, ``#mark`` or a layer
    at, offset : where a kind's is made: so far from a piece (the rule's own if None), ``player``, or ``other``: where
        whoever fires the rule is
    parent : what carries it from then on, and where it is made; a piece, or ``player``
    lasts, limit : how long it is there, and how many of them are at once at most
    kick, radius, at : throws the player and what drifts with a mass away from a piece (the rule's own if None), by an
        impulse that falls off to nothing at the radius
    remove : takes pieces away for good: a piece, a kind, ``#mark`` or a layer; ``other``: the piece that fires the rule
    respawn, restart, finish : puts the player back, begins the level again, ends it
    """

    say: str | None = None
    set: str | None = None
    to: Any = None
    add: str | None = None
    amount: Number = 1.0
    spawn: str | None = None
    parent: str | None = None
    offset: tuple[Length, Length] = (0.0, 0.0)
    lasts: Period | None = None
    limit: Annotated[int, Field(ge=1, le=4096)] = DEFAULT_LIMIT
    kick: Impulse | None = None
    radius: Extent = 100.0
    at: str | None = None
    remove: str | None = None
    respawn: Truth = False
    restart: Truth = False
    finish: Truth = False

    @model_validator(mode="after")
    def _one(self) -> Action:
        given = [name for name in ACTIONS if getattr(self, name) not in (None, False)]
        if len(given) != 1:
            found = " and ".join(given) or "nothing to do"
            raise ValueError(f"found {found}, expected one of {', '.join(ACTIONS)}")
        if (self.set is not None) != (self.to is not None):
            raise ValueError("found one of set and to, expected both: set = 'gate.active', to = false")
        for key, verbs in MORE_ABOUT.items():
            if key in self.model_fields_set and self.verb not in verbs:
                raise ValueError(f"found {key} with {self.verb}, expected it with {' or '.join(verbs)} alone")
        if self.parent is not None and self.at is not None:
            raise ValueError("found both parent and at, expected one: it is made at its parent")
        return self

    @property
    def verb(self) -> str:
        """Which of the actions it is."""
        return next(name for name in ACTIONS if getattr(self, name) not in (None, False))


class Rule(Section):
    """When something happens, to whom and where, and what is done then.

    Attributes
    ----------
    name : what the rule is called in messages
    when : the moment; ``timer`` comes `every` so often, ``counter`` when its `if` becomes true
    piece : where: a piece, a kind (and what is based on it), ``#mark`` or a layer
    who : whose moment it is: ``player``, a ``#mark`` or layer of the player, or ``other``: whoever meets the piece; of
        zones and of what pieces do, also the piece, kind, ``#mark`` or layer that does it
    once : only the first time
    after : the actions follow so much later
    every : for ``inside`` and ``timer``, seconds between two firings
    if_ : only if this holds then: ``oil >= 10``, ``oil.left == 0``, ``x > 236 and stance == ground``, ``lift.y < 40``,
        ``not gate.active``
    do : the actions, in order
    """

    name: str = ""
    when: When
    piece: str | None = None
    who: str = "player"
    once: Truth = False
    after: Duration = 0.0
    every: Period | None = None
    if_: Asked | None = Field(default=None, alias="if")
    do: tuple[Action, ...] = Field(min_length=1)

    @model_validator(mode="after")
    def _sound(self) -> Rule:
        if self.every is not None and self.when not in ("inside", "timer"):
            raise ValueError(f"found every with when = '{self.when}', expected it with 'inside' or 'timer' alone")
        if self.every is None and self.when == "timer":
            raise ValueError("found when = 'timer' without every, expected a time between two firings")
        if self.if_ is None and self.when == "counter":
            raise ValueError("found when = 'counter' without if, expected one such as 'oil >= 10'")
        if self.piece is None and self.when in ZONE_MOMENTS:
            raise ValueError(f"found when = '{self.when}' without a piece, expected the zone it is about")
        if self.piece is not None and self.when in PIECELESS:
            raise ValueError(f"found a piece with when = '{self.when}', expected none: it happens to the player alone")
        return self

    def is_called(self, name: str) -> bool:
        """Whether a name means it: its own, or, of a kind's rule, that without the piece that it was placed with."""
        return bool(self.name) and name in (self.name, self.name.rpartition("/")[2])
