"""Rules: what is said when something happens to a piece."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from haptos.level.quantity import Period
from haptos.level.section import Section

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
]
ZONE_MOMENTS = ("enter", "leave", "inside", "occupied", "empty")
SOLID_MOMENTS = ("touch", "part", "land")


class Action(Section):
    """One thing that a rule does: `say` puts its text among the events."""

    say: str


class Rule(Section):
    """When something happens, to whom and where, and what is done then.

    Attributes
    ----------
    name : what the rule is called in messages
    when : the moment
    piece : where: a piece, a kind (and what is based on it), ``#mark`` or a layer
    who : whose moment it is: ``player``, a ``#mark`` or layer of the player, or ``other``: whoever meets the piece
    once : only the first time
    every : for ``inside``, seconds between two firings
    do : the actions, in order
    """

    name: str = ""
    when: When
    piece: str | None = None
    who: str = "player"
    once: bool = False
    every: Period | None = None
    do: list[Action] = Field(min_length=1)

    @model_validator(mode="after")
    def _sound(self) -> Rule:
        if self.every is not None and self.when != "inside":
            raise ValueError(f"found every with when = '{self.when}', wanted it with 'inside' alone")
        if self.piece is None and self.when in ZONE_MOMENTS:
            raise ValueError(f"found when = '{self.when}' without a piece, wanted the zone it is about")
        if self.piece is not None and self.when in ("start", "jump", "apex", "lost", "respawn", "act"):
            raise ValueError(f"found a piece with when = '{self.when}', wanted none: it happens to the player alone")
        return self
