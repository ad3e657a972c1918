"""Whether what the `if` of a rule asks is so."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.poses import is_there, stand_of
from haptos.engine.compiling.contract import leaf
from haptos.engine.game.rule_matching import is_among
from haptos.engine.records.codes import (
    AT_LEAST,
    AT_MOST,
    BELOW,
    BOTH_HOLD,
    DOES_NOT_HOLD,
    EITHER_HOLDS,
    EQUAL,
    FIRST_FLOOR,
    FIRST_WALL,
    GROUND,
    NO_PIECE,
    NO_SUPPORT,
    OF_ACTIVE,
    OF_ANGLE,
    OF_FACING,
    OF_FACTOR,
    OF_HEALTH,
    OF_LEFT,
    OF_LIVES,
    OF_LOAD,
    OF_OWN_VY,
    OF_OWN_X,
    OF_OWN_Y,
    OF_SPEED,
    OF_STANCE,
    OF_SUPPORT,
    OF_UP_X,
    OF_UP_Y,
    OF_VALUE,
    OF_X,
    TAKEN_UP,
    UNEQUAL,
)


@leaf
def holds(core: Any, movers: Any, scene: Any, rule: Any) -> bool:
    """Whether what a rule's `if` asks is so; of places and speeds, at the end of the tick."""
    # The last bit is what the steps so far came to; the bits before it wait to be joined.
    so = 1
    for index in range(rule.first_step, rule.first_step + rule.steps):
        step = scene.rules.conditions[index]
        if step.asks == BOTH_HOLD:
            so = (so >> 1) & (so | -2)
        elif step.asks == EITHER_HOLDS:
            so = (so >> 1) | (so & 1)
        elif step.asks == DOES_NOT_HOLD:
            so ^= 1
        else:
            so = so << 1 | (1 if _compares(core, movers, scene, step) else 0)
    return so & 1 == 1


@leaf
def _compares(core: Any, movers: Any, scene: Any, step: Any) -> bool:
    """Whether a comparison holds."""
    value = _value_of(core, movers, scene, step)
    if step.compares == EQUAL:
        return value == step.number
    if step.compares == UNEQUAL:
        return value != step.number
    if step.compares == AT_MOST:
        return value <= step.number
    if step.compares == AT_LEAST:
        return value >= step.number
    if step.compares == BELOW:
        return value < step.number
    return value > step.number


@leaf
def _value_of(core: Any, movers: Any, scene: Any, step: Any) -> float:
    """Return what a comparison asks about; of a name, whether it is that."""
    value: float
    if step.asks == OF_SUPPORT:
        piece = _support_of(core)
        value = 1.0 if is_among(scene.rules.targets, step.first_target, step.targets, piece) else 0.0
    elif step.asks >= OF_OWN_X:
        value = _of_player(core.player, step.asks)
    elif step.asks == OF_ACTIVE:
        value = 1.0 if _is_active(movers, scene, step) else 0.0
    elif step.asks == OF_LEFT:
        value = scene.counts[step.subject].left
    elif step.asks == OF_VALUE:
        value = scene.counts[step.subject].value
    elif step.asks == OF_LOAD:
        value = load_on(core, scene.loads, step.piece)
    else:
        x, y, angle = _place_of(core.player, movers, scene, step)
        value = angle
        if step.asks != OF_ANGLE:
            value = x if step.asks == OF_X else y
    return value


@leaf
def _is_active(movers: Any, scene: Any, step: Any) -> bool:
    """Whether a piece is there, and what carries it: not switched off, broken, fallen out of the level or taken."""
    if movers is None:
        return True
    if step.pickup >= 0 and scene.taken[step.pickup].status == TAKEN_UP:
        return False
    number: int = step.subject
    while number >= 0:
        if not is_there(scene.moving[number]):
            return False
        number = movers.movers[number].parent
    return True


@leaf
def _support_of(core: Any) -> int:
    """Return the piece that the body stands on, NO_PIECE for none."""
    support = core.player.support
    if support == NO_SUPPORT:
        return NO_PIECE
    if support <= FIRST_FLOOR:
        floor: int = FIRST_FLOOR - support
        return floor
    if support < 0:
        side: int = FIRST_WALL - core.walls[-1 - support].side
        return side
    piece: int = core.solids.outlines[support].piece
    return piece


@leaf
def load_on(core: Any, loads: Any, piece: int) -> float:
    """Return the force that rests on a piece: of loose bodies, and of the player who stands on it."""
    player = core.player
    value = 0.0
    if loads.shape[0] > 0:
        value = loads[piece]
    if player.stance == GROUND:
        if _support_of(core) == piece:
            gx, gy = player.gravity_x, player.gravity_y
            value += core.body.mass * math.sqrt(gx * gx + gy * gy)
    return value


@leaf
def _of_player(player: Any, asks: int) -> float:
    """Return a number of the player, as in its track."""
    vx, vy = player.vx + player.frame_vx, player.vy + player.frame_vy
    value: float = vx
    if asks == OF_OWN_X:
        value = player.x
    elif asks == OF_OWN_Y:
        value = player.y
    elif asks == OF_OWN_VY:
        value = vy
    elif asks == OF_SPEED:
        value = math.sqrt(vx * vx + vy * vy)
    elif asks == OF_UP_X:
        value = player.up_x
    elif asks == OF_UP_Y:
        value = player.up_y
    elif asks == OF_FACING:
        value = player.facing
    elif asks == OF_HEALTH:
        value = player.health
    elif asks == OF_LIVES:
        value = player.lives
    elif asks == OF_FACTOR:
        value = player.speed_factor
    elif asks == OF_STANCE:
        value = float(player.stance)
    return value


@leaf
def _place_of(player: Any, movers: Any, scene: Any, step: Any) -> tuple[float, float, float]:
    """Return where the piece is that a rule asks about, and by how many degrees it has turned, from -180 to 180."""
    if movers is None:
        return step.at_x, step.at_y, 0.0
    if step.subject < 0:
        return step.at_x, step.at_y, 0.0
    t = player.tick * scene.world.dt
    stand, x, y = stand_of(movers, scene.world, scene.moving, step.subject, t)
    pose = scene.moving[stand]
    x += step.at_x * pose.cosine - step.at_y * pose.sine
    y += step.at_x * pose.sine + step.at_y * pose.cosine
    return x, y, math.atan2(pose.sine, pose.cosine) * (180.0 / math.pi)
