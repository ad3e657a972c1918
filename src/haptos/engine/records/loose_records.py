"""Record layouts of loose bodies: their constants, their state, what touches what, and their hinges."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.compiling.contract import constant
from haptos.engine.records import Records

# The rows of what takes part, behind the bodies: all that stays, and the player; then each mover that is no body.
STAYS_ROW, PLAYER_ROW, OTHER_ROWS = constant(0), constant(1), constant(2)
# Whom a hinge is pinned to.
TO_WORLD = constant(-1)
# What of a contact is fixed: a side of the first shape, a side of the second, or a corner of each.
FIRST_SIDE, SECOND_SIDE, CORNERS = (constant(kind) for kind in range(3))

# A loose body, as it is without a scale.
LOOSE = np.dtype(
    [
        *((name, "i8") for name in ("mover", "flight", "piece", "layer")),
        ("first_part", "i8"),  # which of the shapes are its own solid ones, among the parts
        ("parts", "i8"),
        ("first_apart", "i8"),  # the pieces that it never meets
        ("aparts", "i8"),
        *((name, "f8") for name in ("mass", "inertia", "friction", "restitution", "gravity_factor")),
        *((name, "f8") for name in ("drag", "spin_drag", "vx", "vy", "spin")),
        ("turns", "i8"),
        ("sleeps", "i8"),
        ("pinned", "i8"),  # how many hinges it has
        ("heeds", "i8"),  # whether it, or what it meets, breaks or bounces off: it looks out as what flies does
        ("centre_x", "f8"),  # of its mass, from the place of its mover
        ("centre_y", "f8"),
        ("reach", "f8"),  # no point of it is farther from there
        ("size", "f8"),  # a typical length of it: the root of its area
        ("ground", "f8"),  # touches from below this steep are support: the cosine
    ]
)

# What all bodies have in common.
LAWS = np.dtype(
    [
        ("substeps", "i8"),
        ("step", "f8"),  # seconds
        ("soft", "f8"),  # of a contact that gives way a little: its share of the gap that is closed, and its softness
        ("give", "f8"),
        ("bounce", "f8"),  # slower than this nothing bounces
        ("gravity_x", "f8"),
        ("gravity_y", "f8"),
        ("up_x", "f8"),
        ("up_y", "f8"),
        ("force", "f8"),  # that the player pushes with at most
        ("mass", "f8"),  # of the player
        ("weight", "f8"),
        ("layer", "i8"),  # the player's
        ("steepest", "f8"),
        ("top", "i8"),  # whether it is seen from above
        ("wraps_x", "f8"),  # the width and height of a world that wraps, or zero
        ("wraps_y", "f8"),
        ("reach", "f8"),  # of the player's shape
        ("stair", "f8"),  # heights are counted in such steps where bodies are sorted
    ]
)

# What takes part in the motion of bodies: a body, what stays, the player, a mover. `x`, `y` is the centre of its mass,
# `place_x`, `place_y` where its shapes are placed.
PARTAKER = np.dtype(
    [
        # What the rows for the impulses read and write lies close together. `light` and `nimble` are one over the mass
        # and the inertia, zero if nothing moves it; `mid_vx`, `mid_vy` is the velocity that it goes on with.
        *((name, "f8") for name in ("vx", "vy", "spin", "light", "nimble", "size")),
        *((name, "f8") for name in ("x", "y", "cosine", "sine", "angle", "mid_vx", "mid_vy", "place_x", "place_y")),
        *((name, "i8") for name in ("awake", "there", "pressed", "jointed")),
        *((name, "f8") for name in ("centre_x", "centre_y", "scale")),
        *((name, "f8") for name in ("ax", "ay", "slows", "unwinds")),  # what acts on it in this tick
        *((name, "f8") for name in ("told_vx", "told_vy", "told_spin", "told_t")),  # what its flight was told
        *((name, "f8") for name in ("mark_x", "mark_y", "mark_angle", "still")),  # since when it rests, and where
        ("woke", "f8"),  # when it was woken
        *((name, "f8") for name in ("x0", "y0", "x1", "y1")),  # the box of where it comes to be in this tick
        *((name, "f8") for name in ("reach", "peak", "fell", "landed", "land_x", "land_y", "level")),
        *((name, "i8") for name in ("row", "mover", "layer", "island", "touched", "grounded")),
        *((name, "i8") for name in ("base_gravity", "rides", "stirred")),
        *((name, "i8") for name in ("contacts", "swept", "placed", "wrapped")),
    ]
)

# Two shapes that touch, or may within the tick.
PAIR = np.dtype(
    [
        *((name, "i8") for name in ("active", "points", "eager", "first", "second")),
        *((name, "f8") for name in ("cap", "nx", "ny")),  # the most impulse a substep; from the first to the second
        *((name, "f8") for name in ("mutual", "left", "friction", "belt", "along", "rubs")),
        # Of friction: where it acts.
        *((name, "f8") for name in ("first_x", "first_y", "second_x", "second_y")),
        *((name, "f8") for name in ("impulse", "gap")),
        ("kind", "i8"),
        *((name, "f8") for name in ("side_x", "side_y")),  # the normal in the frame of whose side it is
        *((name, "f8") for name in ("first_radius", "second_radius", "restitution")),
        *((name, "f8") for name in ("approach", "since", "when", "spent")),
        *((name, "f8") for name in ("met_x", "met_y", "its_x", "its_y")),  # where the second, and the first, touched
        *((name, "i8") for name in ("first_shape", "second_shape", "touches", "told", "passed", "after", "stuck")),
        ("struck", "i8"),  # how often in this tick
    ]
)

POINT = np.dtype(
    [
        *((name, "f8") for name in ("first_x", "first_y", "second_x", "second_y")),  # the arms
        *((name, "f8") for name in ("normal", "across", "gap", "closing")),
        *((name, "f8") for name in ("side_x", "side_y")),  # a point of the side or corner, in its own frame
        *((name, "f8") for name in ("tip_x", "tip_y")),  # what comes to it, in its own
        ("mark", "i8"),
        ("waits", "i8"),
    ]
)

# Scratch: how two shapes touch.
PATCH = np.dtype(
    [
        *((name, "i8") for name in ("kind", "points", "mark", "other_mark")),
        *((name, "f8") for name in ("gap", "nx", "ny", "side_x", "side_y", "x", "y", "other_x", "other_y")),
        *((name, "f8") for name in ("tip_gap", "other_gap")),
    ]
)

HINGE = np.dtype(
    [
        *((name, "i8") for name in ("piece", "first", "second", "first_mover")),  # rows; `second` is the body's
        *((name, "f8") for name in ("first_x", "first_y", "second_x", "second_y")),  # the pin, from both centres
        *((name, "f8") for name in ("speed", "torque", "low", "high", "angle", "stiffness", "damping")),
    ]
)

PINNED = np.dtype(
    [
        *((name, "f8") for name in ("x", "y")),  # the impulses of the pin, of the motor, of the limits
        *((name, "f8") for name in ("motor", "limit", "held", "told")),
        *((name, "f8") for name in ("first_x", "first_y", "second_x", "second_y")),  # arms in the world
        *((name, "f8") for name in ("axial", "k11", "k12", "k22", "lever", "lean")),
        *((name, "f8") for name in ("reference", "turned", "spin", "torque", "anchor_x", "anchor_y")),
        ("there", "i8"),
        ("active", "i8"),  # whether any of its two is awake
        ("soft", "i8"),
    ]
)

# What carries a body along a way: the hand of a cue.
HAND = np.dtype(
    [
        *((name, "i8") for name in ("body", "acts", "onward")),
        *((name, "f8") for name in ("from_x", "from_y", "to_x", "to_y", "begin", "end", "px", "py")),
    ]
)

# How many there are of what, and what has changed.
TALLY = np.dtype(
    [
        *((name, "i8") for name in ("begun", "awake", "pairs", "before", "turn", "known")),
        *((name, "i8") for name in ("lost", "anew", "woken", "told", "pushes")),
        *((name, "f8") for name in ("begin", "time")),  # of the tick, and in it
        ("stalled", "f8"),  # for how long some stood still at most, since there were too many impacts
        *((name, "f8") for name in ("foot_x", "foot_y", "foot_nx", "foot_ny")),  # where the player stands
        # How fast it goes there, and how hard it presses across and along.
        *((name, "f8") for name in ("foot_vx", "foot_vy", "foot_normal", "foot_rubs")),
        *((name, "f8") for name in ("driven_vx", "driven_vy")),  # of the player, as what comes at it drives it back
        # Where its feet slip: the velocity that it wants, and by how much they change it in a step at most.
        *((name, "f8") for name in ("wanted_vx", "wanted_vy", "drive")),
        ("stood", "i8"),  # the body that it stands on, or -1
    ]
)

# A zone that acts on bodies: its shape, its field's row, the layers of bodies that it overlaps.
ACTS_ON = np.dtype([("shape", "i8"), ("field", "i8"), ("layers", "i8")])


def lists_of_pairs(room: int) -> int:
    """Return how many lists there are for so many pairs of shapes in a tick, and in the one before."""
    return 1 << (2 * room).bit_length()


class Loose(NamedTuple):
    """The constants of loose bodies.

    Attributes
    ----------
    bodies : (b,) LOOSE
    laws : (1,) LAWS
    shapes : (s + 1,) SHAPE
        As among the movers, and the player's behind them.
    parts : rows of the shapes that are the bodies' own
    solid_to : (layers,) the layers that each is solid to (bits)
    covered : (corners,) whether the side that begins at a corner lies all along another solid
    grid, start, items : cells of the shapes that stay, by row
    others : (k,) movers that bodies can meet
    other_shapes, other_of : rows of the shapes of those, and which of the others each belongs to
    aparts : pieces that bodies never meet, run after run
    row_of : (pieces,) the body that each piece leads, or -1
    zones : (z,) ACTS_ON
    hinges : (h,) HINGE
    """

    bodies: Records
    laws: Records
    shapes: Records
    parts: NDArray[np.int64]
    solid_to: NDArray[np.int64]
    covered: NDArray[np.int64]
    grid: Records
    start: NDArray[np.int64]
    items: NDArray[np.int64]
    others: NDArray[np.int64]
    other_shapes: NDArray[np.int64]
    other_of: NDArray[np.int64]
    aparts: NDArray[np.int64]
    row_of: NDArray[np.int64]
    zones: Records
    hinges: Records


class Stirred(NamedTuple):
    """What of the bodies changes: a bundle of the state, and the constants that go with it.

    Attributes
    ----------
    loose : Loose
    movers : Movers
    partakers : (b + 2 + k,) PARTAKER
    pairs, points : (2 m,), (4 m,) PAIR, POINT
        Two rows of pairs in turn: those of this tick and those of the one before.
    heads : (n,) the first pair of each list, by the shapes of both
    hinges : (h,) PINNED
    order : (b,) the bodies from the bottom up
    loads : (pieces,) the force that rests on each
    immersed : (b z,) for each body, whether it is inside of each of the zones that act on bodies
    hand : (1,) HAND
    tally : (1,) TALLY
    patch : (1,) PATCH, scratch
    spots : (corners,) CORNER, where the corners of the shapes were when they were looked at last
    """

    loose: Any
    movers: Any
    partakers: Any
    pairs: Any
    points: Any
    heads: Any
    hinges: Any
    order: Any
    loads: Any
    immersed: Any
    hand: Any
    tally: Any
    patch: Any
    spots: Any
