"""Counters, and what they give."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import leaf
from haptos.engine.records.codes import NO_PIECE, TOO_MANY_REWARDS
from haptos.engine.records.events import REWARDS
from haptos.engine.records.journal import write

# A counter that is short of a threshold by less than this share has reached it.
COUNT_ROUNDING = 1e-9
# So often one counter is rewarded at once, at most.
MOST_REWARDS = 1000


@leaf
def count(
    stakes: Any, player: Any, counts: Any, given: Any, journal: Any, counter: int, amount: float, t: float
) -> None:
    """Add to a counter, and give what that is rewarded with."""
    state = counts[counter]
    state.value += amount
    for index in range(stakes.rewards.shape[0]):
        reward = stakes.rewards[index]
        if reward.counter != counter:
            continue
        reached = math.floor(state.value / reward.every + COUNT_ROUNDING)
        if not reward.spend:
            # What was given once is not given again when the counter falls and grows anew.
            reached -= given[index]
        if reached > MOST_REWARDS:
            player.halted = TOO_MANY_REWARDS
            return
        while reached >= 1.0:
            reached -= 1.0
            given[index] += 1
            if reward.spend:
                state.value -= reward.every
            player.lives += reward.lives
            player.health += reward.health
            write(journal, player, REWARDS, t, NO_PIECE, float(given[index]), float(index))


@leaf
def record_counts(stakes: Any, counts: Any, row: Any) -> None:
    """Write what is counted at the end of a tick."""
    if stakes is None:
        return
    for index in range(stakes.counters.shape[0]):
        row[index] = counts[index].value
