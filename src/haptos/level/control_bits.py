"""The controls of a run, and the bit of each in the held ones of a tick."""

from __future__ import annotations

CONTROLS = {"left": 1, "right": 2, "up": 4, "down": 8, "jump": 16, "sprint": 32, "act": 64}
