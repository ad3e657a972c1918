"""Record layouts of what changes during a run: contacts, paths, poses, rules; the player's own is in `state`."""

from __future__ import annotations

import numpy as np

CONTACT = np.dtype(
    [
        ("outline", "i8"),  # below zero: a wall of the bounds
        ("feature", "i8"),  # a face; -1 - face for the corner at its start
        ("nx", "f8"),
        ("ny", "f8"),
        ("radius", "f8"),  # of the corner; zero for a face
        ("piece", "i8"),
        ("sticks", "i8"),  # a corner that is kept though the body would fly off: the ground goes on behind it
        ("held", "i8"),  # it has been struck, or carries or stops the body
        ("pressed", "i8"),  # it holds the body back from what that wants
        ("ux", "f8"),  # the velocity of what is touched, there, in the body's frame
        ("uy", "f8"),
        ("active", "i8"),  # scratch: whether it is looked at, and what it allows
        ("bound", "f8"),
        ("skipped", "i8"),  # scratch: whether a look along a path leaves it out
    ]
)

# A piece that is touched: whether no contact is left, since when; and whether it is a loose body, of which that is said
# only once it is away.
TOUCH = np.dtype([("piece", "i8"), ("parted", "i8"), ("t", "f8"), ("loose", "i8")])

# The piece of one segment of constant acceleration that is being worked out.
SEGMENT = np.dtype(
    [
        ("ax", "f8"),
        ("ay", "f8"),
        ("tiny_speed", "f8"),  # what counts as nothing in this tick
        ("tiny_accel", "f8"),
        ("ended", "i8"),  # the face that ended at this instant, -1 for none
        ("aloft", "i8"),  # whether no ground holds at this instant
        ("limit", "f8"),  # when it ends at the latest
        ("reason", "i8"),
        ("which", "i8"),  # the contact, side or direction that the reason is about
        ("onto", "i8"),  # the outline of the face beyond a corner
        ("axis_x", "f8"),  # at the end, the velocity along this axis is exactly `value`
        ("axis_y", "f8"),
        ("value", "f8"),
        ("ground", "i8"),  # the contact that carries the body, -1 in the air
        ("arc", "i8"),  # the contact that is a corner being rounded, or -1
        ("path_vx", "f8"),  # the path as it is swept: a chord where a corner is rounded
        ("path_vy", "f8"),
        ("path_ax", "f8"),
        ("path_ay", "f8"),
        ("free_ax", "f8"),  # the acceleration of free flight, before anything is in the way
        ("free_ay", "f8"),
        ("rest", "f8"),  # what is left of the tick
        ("goal", "f8"),  # the speed that is wanted, to the right in the air, along the ground on it
        ("slip", "f8"),  # the friction of a ground that is slipped over, with the sign of what it does
        ("pull_x", "f8"),  # the force a corner is rounded under
        ("pull_y", "f8"),
        ("flies", "i8"),  # whether free flight was planned
        ("lone", "i8"),  # whether one contact at most guides it
        ("swings", "i8"),  # whether the corner is rounded under gravity, in the air
        ("carried_vx", "f8"),  # how fast the body's middle is carried
        ("carried_vy", "f8"),
        ("end_x", "f8"),
        ("end_y", "f8"),
        ("end_nx", "f8"),
        ("end_ny", "f8"),
        ("end_speed", "f8"),
    ]
)

# The parabola that is looked along, for how long, and what counts as nothing on it.
PATH = np.dtype(
    [
        ("x", "f8"),
        ("y", "f8"),
        ("vx", "f8"),
        ("vy", "f8"),
        ("ax", "f8"),
        ("ay", "f8"),
        ("horizon", "f8"),
        ("reach", "f8"),
        ("tiny_speed", "f8"),
        ("tiny_accel", "f8"),
        ("tie", "f8"),
        ("still", "i8"),  # whether what moves is left out
        ("skip", "i8"),  # the assembly whose outlines are not looked at
    ]
)

HIT = np.dtype([("t", "f8"), ("outline", "i8"), ("feature", "i8"), ("nx", "f8"), ("ny", "f8"), ("radius", "f8")])

# Where a mover is, relative to where it is placed, how it is turned, how fast, and the time of that; and what it is at.
POSE = np.dtype(
    [
        ("x", "f8"),
        ("y", "f8"),
        ("vx", "f8"),
        ("vy", "f8"),
        ("cosine", "f8"),
        ("sine", "f8"),
        ("spin", "f8"),
        ("t", "f8"),
        ("old_x", "f8"),  # the pose at the begin of the tick
        ("old_y", "f8"),
        ("old_cosine", "f8"),
        ("old_sine", "f8"),
        ("steady", "i8"),  # whether it goes straight on at this time, and until when that, or what it does, lasts
        ("until", "f8"),
        ("clock", "f8"),  # when its route began; infinite while that waits
        ("phase", "i8"),  # of giving way
        ("since", "f8"),  # when that phase began
        ("due", "f8"),  # when it ends
        ("here", "i8"),  # whether it, and all that carries it, is there
        ("from_x", "f8"),  # of what flies: where it is from, since when, and how it flies from there
        ("from_y", "f8"),
        ("from_angle", "f8"),
        ("from_t", "f8"),
        ("fly_vx", "f8"),
        ("fly_vy", "f8"),
        ("fly_spin", "f8"),
        ("scale", "f8"),
        ("listed", "i8"),  # whether it is among those that do so in this tick
        ("turns", "i8"),  # the tick in which it did so last, times the most turns of one, and how many it took
        ("leaves", "f8"),  # when it is out of the bounds
        ("dies", "f8"),  # when its time is up
        ("hits", "i8"),
        ("touches", "i8"),  # the piece that it touched last
        ("exits", "i8"),
        ("placed", "i8"),  # whether its outlines are in the world; see `AFAR` and those after it
        ("passed", "i8"),  # whether the body is let through until it is clear of it
        ("shape", "i8"),  # the turn of the body that its outlines were grown by last
        # The pose in which its outlines lie, and that turn of the body then; a cosine of zero: none.
        *((name, "f8") for name in ("put_x", "put_y", "put_cosine", "put_sine", "put_scale")),
        ("put_shape", "i8"),
        ("serial", "i8"),  # of what is made: the how-manieth of its kind it is
        ("off", "i8"),  # whether a rule has switched it off, or taken it away
        ("ran", "f8"),  # how long the clock of its route had run before it began last
    ]
)

# What a cue does before a tick: to the player, or to the body in a row.
# `onward` is whether a hand keeps hold at the end of its way, since it then goes another one with the same body.
DEED = np.dtype(
    [
        *((name, "i8") for name in ("tick", "what", "row", "onward")),
        *((name, "f8") for name in ("x", "y", "time")),
    ]
)

# Of what makes pieces: when it makes the next, how many times it was to, how many of its kind there were (noted with
# the first that makes this kind), and which slot it filled last.
SPAWNING = np.dtype([("due", "f8"), ("tries", "i8"), ("serial", "i8"), ("last", "i8")])

# How often a rule fired, and acted, which may be later, in all and in this tick; how many are inside, or whether its
# condition held; how many firings wait for its delay, and where the first of them is; when it acted first, and comes
# again.
RULE_STATE = np.dtype(
    [
        *((name, "i8") for name in ("fired", "acted", "burst", "inside", "waiting", "head")),
        *((name, "f8") for name in ("first", "next")),
    ]
)

# A firing that waits: until when, about which piece, whose moment it was, and where.
FIRING = np.dtype([("due", "f8"), ("piece", "i8"), ("who", "i8"), ("x", "f8"), ("y", "f8")])
