"""The numbers that stand for words: what tables, state and events say, and leaves compare.

A word of the level file stands beside its number, so that nobody has to pair them by their order elsewhere.
"""

from __future__ import annotations

from haptos.engine.compiling.contract import constant
from haptos.level.control_bits import CONTROLS

LEFT, RIGHT, UP, DOWN, JUMP, SPRINT, ACTING = CONTROLS.values()

# Stances of the body.
STANCE_NAMES = ("air", "ground", "ladder", "gone")
AIR, GROUND, CLIMBING, AWAY = range(len(STANCE_NAMES))
POSE_NAMES = ("idle", "walk", "sprint", "rise", "fall", "climb")
IDLE, WALK, SPRINTS, RISE, FALL, CLIMBS = range(len(POSE_NAMES))
# Why a run does not go on: the level was finished, the body is gone for good, or the level begins again; and why it
# can't: rules fire each other without end, or more firings of one wait than there is room for.
FINISHED, ENDED, RESTARTING = 1, 2, 3
ENDLESS, CROWDED, TOO_MANY_REWARDS, SHORT_OF_PAIRS, SHORT_OF_CONTACTS, SHORT_OF_TOUCHES = range(1, 7)

# Where there is none of them.
NO_SUPPORT, NO_LADDER, NO_MOVER = -1000, -1, -1
# Who is on a floor of the top view has, for a support, this less the number of the piece.
FIRST_FLOOR = constant(-1001)
# No mover has this number; what stays has -1.
SKIPS_NOTHING = constant(-2)
# No ground: the factors hold for the air; and the word for factors that have to be worked out again.
IN_AIR, STALE = constant(-1), constant(-3)
NO_PIECE = constant(-1)
# Whose event it is if it is the player's own; and the player as what somebody else meets.
THE_PLAYER, MEETS_PLAYER = constant(-1), constant(-10)
# The sides of the bounds are -2, -3, -4, -5, in the order of `haptos.level.world.SIDES`.
FIRST_WALL = -2

# What happens at an edge of the world, and what becomes of who dies.
EDGES_DO = {"open": 0, "wall": 0, "lost": 1, "wrap": 2}
OPEN_EDGE, LOST_EDGE, WRAP_EDGE = 0, 1, 2
DEATHS = ("respawn", "restart", "end")
COMES_BACK, BEGINS_AGAIN = constant(0), constant(1)
# How the points of a deep drop are rounded.
ROUNDINGS = ("none", "down", "up", "nearest")
EXACT, ROUND_DOWN, ROUND_UP, NEAREST = (constant(way) for way in range(len(ROUNDINGS)))

# What an outline does to the body's motion while it is inside.
FIELD_ROLE, LADDER_ROLE, LAUNCH_ROLE, FLOOR_ROLE = constant(0), constant(1), constant(2), constant(3)
# What a gravity is, how it falls off, and how long it lasts.
NO_GRAVITY, TURNS_OVER, POINTS, ATTRACTS_TO = (constant(kind) for kind in range(4))
FALLOFFS = ("none", "linear", "inverse_square")
EVEN, WITH_DISTANCE, WITH_SQUARE = (constant(falloff) for falloff in range(len(FALLOFFS)))
LASTS = ("inside", "after", "toggle")
INSIDE_ONLY, AFTERWARDS, TOGGLES = (constant(lasts) for lasts in range(len(LASTS)))
# The gravity's source: no field, but the world.
OF_WORLD = constant(-1)

# What a route waits for.
WAITS_FOR_NOTHING, WAITS_TO_BE_RIDDEN, WAITS_FOR_A_RULE = (constant(what) for what in range(3))
# The phases of what gives way.
WHOLE, SHAKES, FALLS, GONE = (constant(phase) for phase in range(4))
# Whether the outlines of what moves are in the world: not, near the body, or left behind by it in the tick before.
AFAR, NEARBY, LEFT_BEHIND = (constant(place) for place in range(3))
# Whether where something flies is recorded at the end of a tick: not, since that changes, or at the end of each.
UNTOLD, CHANGES, EVERY_TICK = (constant(tell) for tell in range(3))
# What a record of it holds for: it is gone from then on, it goes on like that, or it says no more than that.
IS_GONE, GOES_ON, THIS_TICK = (constant(lasts) for lasts in range(3))
# What becomes of what flies out of the bounds.
EXITS = {None: 0, "vanish": 1, "wrap": 2, "reaim": 3}
NOTHING_THERE, VANISHES_THERE, WRAPS_THERE, REAIMS_THERE = (constant(way) for way in EXITS.values())
# What pieces are made at: a piece (its turned offset goes with it), the carrier of what is made, the player, or the
# place of the event that a rule answers. Where about that they are made, and what they are aimed at.
ON_PIECE, ON_CARRIER, WITH_PLAYER, WHERE_FIRED = (constant(stand) for stand in range(4))
HERE, AROUND, INSIDE_BOUNDS, OUTSIDE_BOUNDS = (constant(area) for area in range(4))
UNAIMED, AT_PLAYER, AT_BOX = (constant(aim) for aim in range(3))
# What has become of a pickup.
WAITS, COMES, TAKEN_UP = (constant(status) for status in range(3))

# What a cue does.
DEEDS = {what: constant(code) for code, what in enumerate(("place", "shove", "hand"))}
PLACES_PLAYER, SHOVES_BODY, TAKES_BODY = DEEDS.values()

# Moments that no event stands for: a timer's, and a counter's condition that becomes true.
MOMENTS = {"timer": constant(-2), "counter": constant(-3)}
TIMER, COUNTER = MOMENTS.values()
# What an `if` asks about, and how it compares.
MEASURES = {name: constant(code) for code, name in enumerate(("value", "left", "active", "x", "y", "angle", "load"), 1)}
OF_VALUE, OF_LEFT, OF_ACTIVE, OF_X, OF_Y, OF_ANGLE, OF_LOAD = MEASURES.values()
# The same of the player.
OWN_MEASURES = {
    name: constant(code)
    for code, name in enumerate(
        (
            "x", "y", "vx", "vy", "speed", "up_x", "up_y", "facing", "health", "lives", "speed_factor", "stance",
            "support",
        ),
        11,
    )
}  # fmt: skip
(
    OF_OWN_X, OF_OWN_Y, OF_OWN_VX, OF_OWN_VY, OF_SPEED, OF_UP_X, OF_UP_Y, OF_FACING, OF_HEALTH, OF_LIVES, OF_FACTOR,
    OF_STANCE, OF_SUPPORT,
) = OWN_MEASURES.values()  # fmt: skip
COMPARISONS = ("==", "!=", "<=", ">=", "<", ">")
# What joins comparisons.
JOINTS = {"and": constant(-1), "or": constant(-2), "not": constant(-3)}
BOTH_HOLD, EITHER_HOLDS, DOES_NOT_HOLD = JOINTS.values()
EQUAL, UNEQUAL, AT_MOST, AT_LEAST, BELOW, ABOVE = (constant(code) for code in range(len(COMPARISONS)))
# Whom a rule means.
ANY_PIECE = -1
OTHERS = constant(-100)
# In place of a mover: that of whoever met the piece.
WHOEVER = constant(-2)
# What an action does, and what it asks for at the end of the tick.
SAYS, SETS_CELL, ADDS, SWITCHES, RUNS, REMOVES, ASKS, MAKES, KICKS = (constant(verb) for verb in range(9))
NO_WISH = constant(0)
WISHES = {"respawn": constant(1), "restart": constant(2), "finish": constant(3)}
TO_RESPAWN, TO_RESTART, TO_FINISH = WISHES.values()
