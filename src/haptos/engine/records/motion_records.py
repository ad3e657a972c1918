"""Record layouts of what moves, flies and is made, that stay the same during a run."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.records import Records

# What moves as one: a piece with the children that are fixed to it.
MOVER = np.dtype(
    [
        ("x0", "f8"),  # where the centre of a body is that it can meet, anywhere on its way
        ("y0", "f8"),
        ("x1", "f8"),
        ("y1", "f8"),
        ("piece", "i8"),
        ("parent", "i8"),  # the mover that carries it, or -1
        ("assembly", "i8"),  # the one at the root of all that carry it; itself if none does
        ("x", "f8"),  # its place at rest
        ("y", "f8"),
        ("first_leg", "i8"),
        ("legs", "i8"),  # none without a route
        ("period", "f8"),  # of a cycle, infinite if the route is gone through once
        ("start", "f8"),
        ("ease", "i8"),
        ("curved", "i8"),
        ("turns", "i8"),  # along its way
        ("heading", "f8"),  # of its way at rest
        ("waits", "i8"),  # for what its route waits
        ("rule", "i8"),  # the rule that it waits for, or -1
        ("off", "i8"),  # whether it is not there from the start
        ("spin", "f8"),  # radians a second
        ("pivot_x", "f8"),  # from its place, at rest
        ("pivot_y", "f8"),
        ("still", "i8"),  # whether it stays, and is here to be grown by a body that turns
        ("turning", "i8"),  # whether it ever turns, by itself or with what carries it
        ("revolves", "i8"),  # the same, but for what is grown anew only because the body turns
        ("accel", "f8"),  # no point of its grown outlines has a greater acceleration, but where a leg ends
        ("fastest", "f8"),  # no point of its grown outlines is faster; infinite where that is not known
        ("radius", "f8"),  # no point of its grown outlines is farther from its place, at a scale of 1
        ("crumble", "i8"),  # the row that says how it gives way, or -1
        ("flight", "i8"),  # the row that says how it flies, or -1
        ("loose", "i8"),  # of a loose body: its row, counted from one; else 0
        ("solid", "i8"),  # where its items begin: solids, zones, effects, and where they end
        ("zone", "i8"),
        ("effect", "i8"),
        ("end", "i8"),
        ("body_corners", "i8"),  # how many the body's core has, and its radius
        ("body_radius", "f8"),
    ]
)

# A pause at a stop, then the way to the next one.
LEG = np.dtype(
    [
        *((name, "f8") for name in ("x", "y", "dx", "dy", "begin", "pause", "duration", "length")),
        *((name, "f8") for name in ("heading", "turn", "sense")),
        ("first_knot", "i8"),
        ("knots", "i8"),
    ]
)

# A point of a curve, and the tangent over one of the pieces that its leg is cut into, all of them equally long.
KNOT = np.dtype([(name, "f8") for name in ("x", "y", "dx", "dy")])

# A piece that gives way: `side` is the side that has to be touched, zero for any.
CRUMBLE = np.dtype(
    [
        *((name, "f8") for name in ("delay", "side_x", "side_y", "accel", "top_speed", "gone_after", "returns_after")),
        ("lost_below", "f8"),
        ("latched", "i8"),
    ]
)

# What flies by itself, or breaks: how, by which radius it leaves the bounds, and which layers it meets (bits).
FLIGHT = np.dtype(
    [
        ("mover", "i8"),
        ("flies", "i8"),  # whether it ever does
        ("made", "i8"),  # whether it is there only once it has been made
        ("free", "i8"),  # whether nothing but its flight moves it
        ("carries", "i8"),  # whether anything else that moves by itself goes with it
        ("hangs", "i8"),  # whether it hangs on the player
        *((name, "f8") for name in ("vx", "vy", "spin", "radius")),
        ("on_exit", "i8"),
        *((name, "f8") for name in ("box_x", "box_y", "restitution")),  # below zero: it passes through
        ("pace", "f8"),  # the greatest of its shapes
        ("mass", "f8"),  # as a share of the player's; infinite if nothing kicks it
        ("hits", "i8"),  # it survives one less; 0 if it does not break
        ("breaks_on", "i8"),
        ("bounces_off", "i8"),
        ("layer", "i8"),
        ("first", "i8"),  # its own shapes
        ("last", "i8"),
    ]
)

# A shape as it is, for what flies: its core's corners (of a mover, about its place), a circle around it, and a box.
SHAPE = np.dtype(
    [
        *((name, "i8") for name in ("piece", "mover", "layer", "breaks_on", "bounces_off", "hangs", "first", "count")),
        *((name, "f8") for name in ("radius", "x", "y", "reach", "side_x", "side_y")),
        *((name, "f8") for name in ("x0", "y0", "x1", "y1")),  # of what stays
        ("pace", "f8"),  # no point of it is faster, but for how its mover and what carries that fly
    ]
)

# What is free to fly where it likes, as far as others have to know: a place that it would have had at the time zero if
# it had always flown as it does, its velocity, a circle about that, the same grown by the body; when it has to look out
# for what it meets; the bits of its layer and of those that it breaks on or bounces off, none while it is not there.
FLYING = np.dtype(
    [
        *((name, "f8") for name in ("x", "y", "vx", "vy", "reach", "room", "next")),
        *((name, "i8") for name in ("layer", "meets", "mover")),
        ("tell", "i8"),  # whether it is to be recorded; see `UNTOLD` and those after it
    ]
)

# A place in the list of a cell: of which one, and who stands before and after it.
LINK = np.dtype([("list", "i8"), ("before", "i8"), ("after", "i8")])

# What makes pieces while the level runs.
SPAWNER = np.dtype(
    [
        *((name, "i8") for name in ("piece", "mover", "first_slot", "slots", "stands", "area", "aim")),
        *((name, "i8") for name in ("is_shot", "kind")),
        *((name, "f8") for name in ("x", "y", "first", "every_low", "every_high", "width", "height", "vx", "vy")),
        *((name, "f8") for name in ("aim_x", "aim_y", "speed_low", "speed_high", "lasts")),
        *((name, "f8") for name in ("scale_low", "scale_high", "turn_low", "turn_high", "cooldown")),
    ]
)

# An outline of a mover, at rest. Of one that turns, the corners of its core about the mover's place (a sharp one is
# felt by the body's centre alone); of one that does not, the places of its faces. Its box, and its solid side.
ITEM = np.dtype(
    [
        ("outline", "i8"),
        ("first", "i8"),
        ("count", "i8"),
        ("sharp", "i8"),
        *((name, "f8") for name in ("x0", "y0", "x1", "y1", "side_x", "side_y", "radius")),
    ]
)

CORNER = np.dtype([("x", "f8"), ("y", "f8")])

# A piece that rules notice in a zone: both pieces, their movers (-1 for what stays), which rows of the shapes are
# theirs, and a speed that no point of the one exceeds as seen from the other, but for how they fly.
WATCH = np.dtype(
    [
        *((name, "i8") for name in ("who", "zone", "mover", "zone_mover")),
        *((name, "i8") for name in ("first", "last", "zone_first", "zone_last")),
        ("pace", "f8"),
    ]
)


# What is asked for where a mover is: a place on it, as it is at rest; and the answer, at one time.
RIDER = np.dtype([("mover", "i8"), ("x", "f8"), ("y", "f8")])
PLACE = np.dtype([(name, "f8") for name in ("x", "y", "angle", "vx", "vy", "spin")])

# What a mover is at from one of several moments on: the fields of its pose that events set.
CHANGE = np.dtype(
    [
        *((name, "i8") for name in ("moment", "mover", "phase")),
        *((name, "f8") for name in ("since", "clock", "ran", "scale")),
        *((name, "f8") for name in ("from_x", "from_y", "from_angle", "from_t", "fly_vx", "fly_vy", "fly_spin")),
    ]
)


class Movers(NamedTuple):
    """What moves, and which outlines belong to what.

    Attributes
    ----------
    movers, legs, knots, crumbles : (k,) MOVER, (l,) LEG, (m,) KNOT, (c,) CRUMBLE
    items : (i,) ITEM
        For each mover its outlines among the solids, the zones and the effects, run after run.
    corners : (p,) CORNER
        The body's own core first, counter-clockwise from the lowest, and after it a point.
    flights, shapes, spawners, slots : (f,) FLIGHT, (s,) SHAPE, (n,) SPAWNER, (m,) rows of `flights`
    others : rows of `shapes` that are not of what is free to fly
    flying : (f,) FLYING, of one world
    links, heads, cell : (4 f,) LINK, (n,) the first place of each list, the width of a cell
        Of that world; see `haptos.engine.pieces.neighbours`.
    tied : movers that neither stay nor are free to fly
    timed : movers for which something can be due
    carrying : zone outlines that take along what is inside
    player : the mover that stands for the player, -1 if nothing hangs on it
    sides : corners of the body's core, the first among the corners
    fastest : in a tick the body goes no farther than at its own speed and this together
    ticks : how many there are in a second
    """

    movers: Records
    legs: Records
    knots: Records
    crumbles: Records
    items: Records
    corners: Records
    flights: Records
    shapes: Records
    spawners: Records
    slots: NDArray[np.int64]
    others: NDArray[np.int64]
    flying: Records
    links: Records
    heads: NDArray[np.int64]
    cell: float
    tied: NDArray[np.int64]
    timed: NDArray[np.int64]
    carrying: NDArray[np.int64]
    player: int
    sides: int
    fastest: float
    ticks: float
