"""Whether what the `if` of a rule asks is so."""

from __future__ import annotations

from typing import Any

from haptos.engine.collision.poses import stand_of
from haptos.engine.compiling.contract import leaf
from haptos.engine.records.codes import (
    AT_LEAST,
    AT_MOST,
    BELOW,
    EQUAL,
    NO_CONDITION,
    OF_ACTIVE,
    OF_HEALTH,
    OF_LEFT,
    OF_LIVES,
    OF_OWN_VX,
    OF_OWN_VY,
    OF_OWN_X,
    OF_OWN_Y,
    OF_VALUE,
    OF_X,
    UNEQUAL,
)


@leaf
def holds(player: Any, movers: Any, scene: Any, rule: Any) -> bool:
    """Whether what a rule's `if` asks is so; of places and speeds, at the end of the tick."""
    if rule.asks == NO_CONDITION:
        return True
    if rule.asks >= OF_OWN_X:
        value = _of_player(player, rule.asks)
    elif rule.asks == OF_ACTIVE:
        value = 0.0 if scene.moving[rule.subject].off else 1.0
    elif rule.asks == OF_LEFT:
        value = scene.counts[rule.subject].left
    elif rule.asks == OF_VALUE:
        value = scene.counts[rule.subject].value
    else:
        x, y = _place_of(player, movers, scene, rule)
        value = x if rule.asks == OF_X else y
    if rule.compares == EQUAL:
        return value == rule.number
    if rule.compares == UNEQUAL:
        return value != rule.number
    if rule.compares == AT_MOST:
        return value <= rule.number
    if rule.compares == AT_LEAST:
        return value >= rule.number
    if rule.compares == BELOW:
        return value < rule.number
    return value > rule.number


@leaf
def _of_player(player: Any, asks: int) -> float:
    """Return a number of the player, as in its track."""
    value: float = player.speed_factor
    if asks == OF_OWN_X:
        value = player.x
    elif asks == OF_OWN_Y:
        value = player.y
    elif asks == OF_OWN_VX:
        value = player.vx + player.frame_vx
    elif asks == OF_OWN_VY:
        value = player.vy + player.frame_vy
    elif asks == OF_HEALTH:
        value = player.health
    elif asks == OF_LIVES:
        value = player.lives
    return value


@leaf
def _place_of(player: Any, movers: Any, scene: Any, rule: Any) -> tuple[float, float]:
    """Return where the piece is that a rule asks about."""
    if movers is None:
        return rule.at_x, rule.at_y
    if rule.subject < 0:
        return rule.at_x, rule.at_y
    t = player.tick * scene.world.dt
    stand, x, y = stand_of(movers, scene.world, scene.moving, rule.subject, t)
    pose = scene.moving[stand]
    x += rule.at_x * pose.cosine - rule.at_y * pose.sine
    y += rule.at_x * pose.sine + rule.at_y * pose.cosine
    return x, y
