"""The closed form of a jump: uniform acceleration, with one factor on gravity on the way up and another down.

Below the fall's limit the speed grows with the root of the drop; beyond it, it stays.
"""

from __future__ import annotations

import math

from haptos.level.level import Level
from haptos.level.player import DEFAULT_JUMP_HEIGHT
from haptos.level.shapes import half_extents

GAITS = ("walk", "sprint")


class Flight:
    """The closed form of a jump on level ground.

    Parameters
    ----------
    level : Level

    Examples
    --------
    >>> flight = Flight(Level())
    >>> flight.apex_height, round(flight.air_time, 9)
    (72.0, 0.565685425)
    """

    def __init__(self, level: Level) -> None:
        player = level.player
        self.gravity = math.hypot(*level.world.gravity)
        self.rising = self.gravity * player.fall.rising_factor
        self.falling = self.gravity * player.fall.falling_factor
        limit = player.fall.terminal_speed
        self.terminal = math.inf if limit is None else limit
        self.jump_speed = player.jump_speed(self.gravity)
        if player.jump.speed is None and self.gravity > 0.0:
            self.apex_height = player.jump.height or DEFAULT_JUMP_HEIGHT
        else:
            self.apex_height = self.jump_speed**2 / (2 * self.rising) if self.rising > 0 else math.inf
        self.apex_time = self.jump_speed / self.rising if self.rising > 0 else math.inf
        self.air_time = self.apex_time + self.fall_time(self.apex_height)

    def fall_time(self, drop: float) -> float:
        """Return the time that a drop from rest takes, seconds."""
        if self.falling == 0:
            return math.inf
        until_limit = self.terminal**2 / (2 * self.falling)
        if drop <= until_limit:
            return math.sqrt(2 * drop / self.falling)
        return self.terminal / self.falling + (drop - until_limit) / self.terminal

    def fall_speed(self, drop: float) -> float:
        """Return the speed after a drop from rest."""
        return min(math.sqrt(2 * self.falling * drop), self.terminal)


def gait_speed(level: Level, gait: str) -> float:
    """Return the speed of a gait."""
    return float(getattr(level.player.gaits, gait))


def corner_reach(level: Level) -> tuple[float, float]:
    """Return how far out and how far down the round foot still finds ground on a corner: R sin θ and R (1 - cos θ)."""
    _, _, radius = half_extents(level.player.shape)
    steepest = math.radians(level.player.ground.max_slope)
    return radius * math.sin(steepest), radius * (1 - math.cos(steepest))
