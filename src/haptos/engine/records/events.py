"""Events as kernels write them: a number for each name, and the numbers that say more about one.

What an event says to people stands in `haptos.engine.report.event_text`.
"""

from __future__ import annotations

from haptos.engine.compiling.contract import constant

EVENT_NAMES: list[str] = []


def _event(name: str) -> int:
    """Return the number of one more event."""
    EVENT_NAMES.append(name)
    return constant(len(EVENT_NAMES) - 1)


START = _event("start")
TOUCHES = _event("touch")
PARTS = _event("part")
LAND = _event("land")
JUMPS = _event("jump")
APEX = _event("apex")
ENTER = _event("enter")
LEAVE = _event("leave")
LOST = _event("lost")
RESPAWN = _event("respawn")
WRAP = _event("wrap")
PLACED = _event("place")
ACT = _event("act")
STALL = _event("stall")
SAY = _event("say")
INSIDE = _event("inside")
PASSES = _event("pass")
CLIMB = _event("climb")
LAUNCHED = _event("launch")
STEPPED = _event("step")
BOARD = _event("board")
ALIGHT = _event("alight")
CRUSH = _event("crush")
CRUMBLES = _event("crumble")
DROPS = _event("drop")
GOES = _event("gone")
RETURNS = _event("return")
SPAWNS = _event("spawn")
REFUSED = _event("spawn_refused")
VANISHES = _event("vanish")
FIRES = _event("fire")
REAIMS = _event("reaim")
ATTRACTS = _event("attract")
COLLECTS = _event("collect")
REWARDS = _event("reward")
HURTS = _event("hurt")
SAVES = _event("checkpoint")
FINISHES = _event("finish")
RESTARTS = _event("restart")
SETS = _event("set")
RELEASES = _event("release")
FLIPS = _event("flip")
TILTS = _event("tilt")
BLOCKED = _event("turn_blocked")
WAKES = _event("wake")
SLEEPS = _event("sleep")
HANDS = _event("hand")
SHOVES = _event("shove")
TOO_LATE = _event("too_late")
END = _event("end")

# Why a one-way piece is passed through, and what a hand on a ladder does.
DROPPED, CLIMBED, FROM_BEHIND, FROM_ASIDE = (float(code) for code in range(4))
TAKES_HOLD, AT_BOTTOM, ON_TOP, JUMPS_OFF, LETS_GO = (float(code) for code in range(5))
# The body is lost for this reason too, after the sides of the bounds and `lost_below`; and it was not hurt.
BY_HARM = 5.0
MERCY = -1.0
# What a hand does with a body.
TAKES, LET_GO, LOSES = (float(code) for code in range(3))
# What becomes of the rest of a tick that holds too much: of the player's, and of what flies or is loose.
ROUGHLY, STOOD_STILL = (float(code) for code in range(2))
# Why nothing was made, and why a piece vanished.
TOO_MANY, COOLING, NOT_THERE = (float(code) for code in range(3))
BROKE, TIMED_OUT, LEFT_BOUNDS, REMOVED = (float(code) for code in range(4))
