"""Layers, and what each pair of them does when it meets."""

from __future__ import annotations

from typing import Literal, NamedTuple

from pydantic import Field, model_validator

from haptos.errors import LevelError
from haptos.level.names import did_you_mean
from haptos.level.section import Frozen, FrozenDict, Section

Meeting = Literal["solid", "overlap", "nothing"]

BUILT_IN_LAYERS = ("body", "terrain", "ledge", "prop", "zone", "pickup", "hazard", "shot")
BUILT_IN_SOLID: dict[str, tuple[str, ...]] = {
    "body": ("terrain", "ledge", "prop"),
    "prop": ("terrain", "ledge", "prop"),
}
BUILT_IN_OVERLAP: dict[str, tuple[str, ...]] = {
    "body": ("zone", "pickup", "hazard"),
    "prop": ("zone",),
    "shot": ("terrain", "ledge", "prop", "hazard"),
}

# Layers are bits of one integer wherever it matters which of them meet, and the walls of the world are one more.
MOST_LAYERS = 62


class Contacts(Section):
    """The contacts table as it is written: a pair is written once and holds both ways."""

    layers: tuple[str, ...]
    solid: Frozen[tuple[str, ...]] = Field(default_factory=FrozenDict)
    overlap: Frozen[tuple[str, ...]] = Field(default_factory=FrozenDict)

    @model_validator(mode="after")
    def _no_layer_twice(self) -> Contacts:
        for index, layer in enumerate(self.layers):
            if layer in self.layers[:index]:
                raise ValueError(f"found layer '{layer}' twice in layers, expected each once")
        if len(self.layers) > MOST_LAYERS:
            raise ValueError(f"found {len(self.layers)} layers, expected at most {MOST_LAYERS}")
        return self


class Pair(NamedTuple):
    """What the table says for two layers, and the row that says so (None: nobody does)."""

    meeting: Meeting
    row: tuple[str, str] | None


class ContactTable:
    """Answers what a pair of layers does.

    Parameters
    ----------
    contacts : Contacts or None
        The level's own table; the built-in one if None.

    Examples
    --------
    >>> ContactTable(None).between("terrain", "body")
    Pair(meeting='solid', row=('solid', 'body'))
    """

    def __init__(self, contacts: Contacts | None) -> None:
        self.built_in = contacts is None
        self.layers = tuple(BUILT_IN_LAYERS if contacts is None else contacts.layers)
        self._pairs: dict[frozenset[str], Pair] = {}
        solid = BUILT_IN_SOLID if contacts is None else contacts.solid
        overlap = BUILT_IN_OVERLAP if contacts is None else contacts.overlap
        self._read("solid", solid)
        self._read("overlap", overlap)

    def _read(self, meeting: Meeting, table: dict[str, tuple[str, ...]] | dict[str, list[str]]) -> None:
        for row, partners in table.items():
            self.require(row, f"contacts.{meeting}")
            for partner in partners:
                self.require(partner, f"contacts.{meeting}.{row}")
                pair = frozenset((row, partner))
                before = self._pairs.get(pair)
                if before is not None and before.meeting != meeting:
                    raise LevelError(
                        f"contacts.{meeting}.{row}",
                        f"found the pair {row} and {partner} both solid and overlap, expected one of them",
                    )
                if before is None:
                    self._pairs[pair] = Pair(meeting, (meeting, row))

    def require(self, layer: str, place: str) -> None:
        """Raise LevelError if a layer is not declared."""
        if layer not in self.layers:
            raise LevelError(place, f"found layer '{layer}', which is not declared{did_you_mean(layer, self.layers)}")

    def between(self, one: str, other: str) -> Pair:
        """Return what the table says for two layers."""
        return self._pairs.get(frozenset((one, other)), Pair("nothing", None))
