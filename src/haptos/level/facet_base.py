"""What every facet says about itself, beside its keys: all else that has to know facets asks here."""

from __future__ import annotations

from typing import Any, ClassVar

from haptos.level.section import Section

# Layers that facets give to a piece without one, first match first; `solid_from` comes before the zones.
DEFAULT_LAYERS = ("prop", "pickup", "shot", "hazard", "ledge", "zone")


class Facet(Section):
    """One optional section of a piece that gives it a capability.

    Attributes
    ----------
    layer : the layer of a piece that has it, unless the piece names one
    moves : whether it makes its piece move, or vanish
    changeable : keys that rules can change while the level runs
    absent : what stands in tables for a key that is None
    """

    layer: ClassVar[str | None] = None
    moves: ClassVar[bool] = False
    changeable: ClassVar[tuple[str, ...]] = ()
    absent: ClassVar[dict[str, float]] = {}

    @classmethod
    def part_of(cls, key: str) -> Any:
        """Return the field that a key of a part of it means, as `motor.speed`; most facets have no parts."""
        raise KeyError(key)

    @classmethod
    def number(cls, key: str, value: Any) -> float:
        """Return the number that stands for a key's value in tables."""
        return cls.absent[key] if value is None else float(value)
