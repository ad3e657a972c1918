"""A level with its pieces resolved: who can be meant by its rules, who moves, and who may not be there."""

from __future__ import annotations

from functools import cached_property

from haptos.level.assemblies import PLAYER
from haptos.level.comparisons import PIECE_MEASURES, Comparison
from haptos.level.level import Level
from haptos.level.noticing import noticed_pairs
from haptos.level.roster import OTHER, Roster
from haptos.level.rules import OWN_MOMENTS, ZONE_MOMENTS, Rule
from haptos.level.soundness import require_sound

# The end of a path that switches a piece.
ACTIVE = ".active"


class ResolvedLevel(Roster):
    """A level with its pieces resolved.

    Parameters
    ----------
    level : Level

    Raises
    ------
    LevelError
        If a piece can't be resolved, or what pieces and rules say of each other does not hold.
    """

    def __init__(self, level: Level) -> None:
        super().__init__(level)
        require_sound(self)

    @cached_property
    def asked(self) -> tuple[Comparison, ...]:
        """What the rules' conditions compare."""
        return tuple(one for _, rule in self.rules if rule.if_ is not None for one in rule.if_.comparisons)

    @cached_property
    def switched(self) -> frozenset[int]:
        """The numbers of the pieces that are not there from the start, that rules switch or take away, or ask about."""
        selectors = {one.subject for one in self.asked if one.measure == "active"}
        for _, rule in self.rules:
            for action in rule.do:
                if action.remove == OTHER:
                    selectors |= {self.pieces[index].name for index in self.doers(rule)}
                elif action.remove is not None:
                    selectors.add(action.remove)
                elif action.set is not None and action.set.endswith(ACTIVE):
                    selectors.add(action.set.removesuffix(ACTIVE))
        return frozenset(
            index
            for index, piece in enumerate(self.pieces)
            if not piece.active or any(self.answers(piece, selector) for selector in selectors)
        )

    @cached_property
    def asked_where(self) -> frozenset[int]:
        """The numbers of the pieces whose place rules ask about."""
        names = {one.subject for one in self.asked if one.measure in PIECE_MEASURES}
        return frozenset(index for index, piece in enumerate(self.pieces) if piece.name in names)

    @cached_property
    def moving(self) -> frozenset[int]:
        """The numbers of the pieces that move, by themselves or with what carries them."""
        own = [self.changes(index) for index in range(len(self.pieces))]
        return frozenset(
            index
            for index, piece in enumerate(self.pieces)
            if piece.name in self.hung_on_player or any(own[one] for one in (index, *self.carriers(index)))
        )

    def changes(self, index: int) -> bool:
        """Whether a piece moves by itself, or may not be there."""
        return index in self.switched or self.moves(index)

    @cached_property
    def noticed(self) -> tuple[tuple[int, int], ...]:
        """Which pieces rules notice in which zones: the numbers of both, each pair once."""
        return tuple(sorted({pair for _, rule in self.rules for pair in self.noticed_by(rule)}))

    def noticed_by(self, rule: Rule) -> list[tuple[int, int]]:
        """Return which pieces one of the level's rules notices in which zones."""
        return self._noticed[id(rule)]

    @cached_property
    def _noticed(self) -> dict[int, list[tuple[int, int]]]:
        return {id(rule): noticed_pairs(self, rule) for _, rule in self.rules}

    def heeds(self, rule: Rule) -> bool:
        """Whether anything in the level can do what a rule is about: the player, or a piece that it names."""
        return self.means_player(rule.who) or bool(self.doers(rule))

    def doers(self, rule: Rule) -> list[int]:
        """Return the numbers of the pieces whose moment a rule's may be."""
        if rule.when in ZONE_MOMENTS:
            return sorted({who for who, _ in self.noticed_by(rule)})
        if rule.when not in OWN_MOMENTS or rule.who in (PLAYER, OTHER):
            return []
        return self.answering(rule.who)
