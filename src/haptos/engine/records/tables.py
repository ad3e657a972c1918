"""Record layouts of everything that stays the same during a run."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.records import Records
from haptos.engine.records.motion_records import Movers

WORLD = np.dtype(
    [
        ("dt", "f8"),
        ("tick_rate", "f8"),
        ("up_x", "f8"),
        ("up_y", "f8"),
        ("gravity_x", "f8"),
        ("gravity_y", "f8"),
        ("steepest", "f8"),  # cosine of the steepest slope that is ground
        ("weight", "f8"),  # gravity's size, in the top view too, where it presses on the floor
        ("kick_before", "f8"),  # whole-tick methods: the shares of a tick's acceleration before and after its motion
        ("kick_after", "f8"),
        ("seed", "i8"),
        ("layer", "i8"),  # the player's
        ("turns", "i8"),  # whether gravity is ever another one than this
    ]
)

BODY = np.dtype(
    [
        ("height", "f8"),  # the measure of every length tolerance
        ("half_foot", "f8"),  # half of the flat part of the foot
        ("walk", "f8"),
        ("sprint", "f8"),
        ("ground_accel", "f8"),
        ("ground_brake", "f8"),
        ("air_accel", "f8"),
        ("air_brake", "f8"),
        ("jump_speed", "f8"),
        ("coyote_time", "f8"),
        ("buffer_time", "f8"),
        ("release_cut", "f8"),
        ("extra_jumps", "i8"),
        ("terminal_speed", "f8"),
        ("rising_factor", "f8"),
        ("falling_factor", "f8"),
        ("step_height", "f8"),
        ("snap", "f8"),
        ("climb", "f8"),
        ("keep_momentum", "i8"),
        ("steers_afloat", "i8"),  # whether it can steer where there is no gravity
        ("half_width", "f8"),  # of the core, across its up
        ("half_height", "f8"),  # of the core, along its up
        ("radius", "f8"),
        ("survives", "i8"),  # a crush: the mover is passed through then
        ("on_death", "i8"),  # 0 comes back, 1 the level begins again, 2 the run is over
        ("health", "f8"),  # after a respawn
        ("attract_bonus", "f8"),
        ("turn_rate", "f8"),  # radians a second, of its up
        ("mass", "f8"),
    ]
)

OUTLINE = np.dtype(
    [
        ("piece", "i8"),
        ("first", "i8"),
        ("count", "i8"),
        ("radius", "f8"),
        ("side_x", "f8"),  # the direction from which a one-way piece is solid, or zero
        ("side_y", "f8"),
        ("mover", "i8"),  # which one it belongs to; -1 for what stays
        ("assembly", "i8"),  # the mover that carries that one, at the root of all; -1 for what stays
        ("twin", "i8"),  # of a one-way outline among the zones: the same one among the solids; else -1
        ("role", "i8"),  # among the effects: what it does, and which row of that sort's table says how
        ("row", "i8"),
        ("x0", "f8"),
        ("y0", "f8"),
        ("x1", "f8"),
        ("y1", "f8"),
    ]
)

FACE = np.dtype(
    [
        ("x", "f8"),
        ("y", "f8"),
        ("tx", "f8"),
        ("ty", "f8"),
        ("length", "f8"),
        ("nx", "f8"),
        ("ny", "f8"),
        ("turns", "i8"),  # whether its normal turns with the piece; else it is one of the body's own sides
    ]
)

GRID = np.dtype([("x", "f8"), ("y", "f8"), ("size", "f8"), ("per_unit", "f8"), ("columns", "i8"), ("rows", "i8")])

# A wall of the bounds: the half plane n·p < offset is solid to the body's middle, n·p < edge is the wall itself.
WALL = np.dtype([("nx", "f8"), ("ny", "f8"), ("offset", "f8"), ("side", "i8"), ("edge", "f8")])

# Edges that are crossed, not touched: 0 nothing, 1 lost, 2 wrap, in the order of level.world.SIDES.
EDGES = np.dtype(
    [
        ("x0", "f8"),
        ("y0", "f8"),
        ("x1", "f8"),
        ("y1", "f8"),
        ("left", "i8"),
        ("right", "i8"),
        ("bottom", "i8"),
        ("top", "i8"),
        ("lost_below", "f8"),
        ("up_x", "f8"),
        ("up_y", "f8"),
        ("acts", "i8"),  # whether any of this is in use
    ]
)

# What stands on a piece, or is launched by it: rows of the tables below, -1 for none.
PIECE = np.dtype([("surface", "i8"), ("launch", "i8")])

SURFACE = np.dtype(
    [
        ("speed_factor", "f8"),
        ("accel_factor", "f8"),
        ("jump_factor", "f8"),
        ("friction", "f8"),  # below zero: grip follows the slope alone
        ("conveyor", "f8"),  # speed of the belt, clockwise round the piece
        ("belt_x", "f8"),  # its velocity, for floors of the top view
        ("belt_y", "f8"),
        ("restitution", "f8"),
        ("cushion", "i8"),
        ("rank", "i8"),
    ]
)

FIELD = np.dtype(
    [
        ("speed_factor", "f8"),
        ("speed_limit", "f8"),
        ("accel_factor", "f8"),
        ("jump_factor", "f8"),
        ("only_grounded", "i8"),
        ("stacks", "i8"),
        ("gravity", "i8"),  # what it makes of gravity; see `haptos.engine.records.codes`
        ("lasts", "i8"),
        ("falloff", "i8"),
        ("rank", "i8"),
        ("piece", "i8"),
        ("mover", "i8"),  # of its piece, or -1
        ("x", "f8"),  # the centre, at rest
        ("y", "f8"),
        ("gravity_x", "f8"),
        ("gravity_y", "f8"),
        ("strength", "f8"),
        ("reference", "f8"),
        ("core", "f8"),
        ("gravity_factor", "f8"),
        ("push_x", "f8"),
        ("push_y", "f8"),
        ("pull", "f8"),
        ("whirl", "f8"),
        ("drag", "f8"),
        ("terminal_factor", "f8"),
        ("entered", "f8"),  # the number of the entry, of those that turn gravity: each world has its own
    ]
)

LADDER = np.dtype(
    [
        ("piece", "i8"),
        ("x", "f8"),  # its middle
        ("y", "f8"),
        ("up_x", "f8"),  # the direction that it is climbed in
        ("up_y", "f8"),
        ("half_height", "f8"),
        ("speed_factor", "f8"),
        ("top", "i8"),
        ("centres", "i8"),
    ]
)

LAUNCH = np.dtype(
    [
        ("piece", "i8"),
        ("side_x", "f8"),  # the side that it works from; zero for any
        ("side_y", "f8"),
        ("x", "f8"),  # the direction of the launch
        ("y", "f8"),
        ("speed", "f8"),
        ("height", "f8"),  # above zero: reached under the gravity there, in place of the speed
        ("keep", "f8"),
        ("cooldown", "f8"),
        ("jump_factor", "f8"),
    ]
)

RULE = np.dtype(
    [
        ("moment", "i8"),
        ("first_target", "i8"),
        ("targets", "i8"),  # -1: any piece or none
        ("first_action", "i8"),
        ("actions", "i8"),
        ("once", "i8"),
        ("every", "f8"),
        ("after", "f8"),
        ("first_step", "i8"),  # of what its `if` asks
        ("steps", "i8"),
        ("players", "i8"),  # whether the moment may be the player's
        ("first_who", "i8"),  # pieces whose moment it may be, among the targets
        ("whos", "i8"),
        ("crowd", "i8"),  # of a zone: whether it is the first one in, or the last one out, that counts
        ("queue", "i8"),  # the row of what waits for its delay, or -1
    ]
)

# A step of what an `if` asks: a comparison, or what joins the results of the steps before it.
CONDITION = np.dtype(
    [
        ("asks", "i8"),  # what it is about: a counter, a mover or the player; or and, or, not
        ("subject", "i8"),
        ("pickup", "i8"),  # which pickup a piece is, -1 if none
        ("piece", "i8"),  # the piece that it asks about
        ("at_x", "f8"),  # where the piece that it asks about is, as seen from its mover at rest; or for good
        ("at_y", "f8"),
        ("compares", "i8"),
        ("number", "f8"),
        ("first_target", "i8"),  # the pieces that are meant, among the targets
        ("targets", "i8"),
    ]
)

# What a rule does; `counter` is the wish of one that asks for something; a kick has its speed as amount, and a place.
ACTION = np.dtype(
    [
        *((name, "i8") for name in ("verb", "counter", "first_target", "targets", "mover")),
        *((name, "f8") for name in ("amount", "x", "y", "radius")),
    ]
)

# A cell of the state that gets a value, or a mover that is switched: below zero, that of whoever met the piece.
CHANGE = np.dtype([("place", "i8"), ("value", "f8")])


class Obstacles(NamedTuple):
    """Grown outlines in a grid; solids and zones alike.

    Attributes
    ----------
    outlines : (n,) OUTLINE
    faces : (m,) FACE
    grid : (1,) GRID
    start, items : which outlines that stay reach into which cell
    near : how many outlines of what moves the body can meet in this tick, and which
    around : how many of those that stay are in a box that was looked for last, and which
    box : (4,) that box, left, right, bottom and top; none where the left is infinite
    """

    outlines: Records
    faces: Records
    grid: Records
    start: NDArray[np.int64]
    items: NDArray[np.int64]
    near: NDArray[np.int64]
    around: NDArray[np.int64]
    box: NDArray[np.float64]


class Rules(NamedTuple):
    """The rules that somebody can fire.

    Attributes
    ----------
    rules : (r,) RULE
    conditions : (k,) CONDITION
    targets : the pieces that they are about
    actions : (n,) ACTION
    changes : (m,) CHANGE
    repeats : how many have to be looked at in every tick
    queues : how many have a delay
    """

    rules: Records
    conditions: Records
    targets: NDArray[np.int64]
    actions: Records
    changes: Records
    repeats: int
    queues: int


class Tables(NamedTuple):
    """The constants of a level. What the level has no use for is None and is never compiled.

    Attributes
    ----------
    world : (1,) WORLD
    body : (1,) BODY
    solids : Obstacles, what is solid to the player
    walls : (k,) WALL
    edges : (1,) EDGES
    zones : Obstacles, what only overlaps it and what is passed through from the wrong side, or None
    rules : Rules or None
    floor : True in the top view, None in the side view
    ledges : True where something is solid from one side alone, or None
    effects : Obstacles, what changes how the body moves while it is inside, or None
    pieces : (p,) PIECE, or None where no piece has a surface or a launch
    surfaces, fields, ladders, launches : (n,) SURFACE, FIELD, LADDER, LAUNCH, or None
    movers : Movers, or None; `solids` and `zones` are at rest then, and the state has them where they are
    stakes : haptos.engine.records.objective_records.Stakes, or None
    watches : (n,) WATCH, which pieces are noticed in which zones, or None
    whole : True for methods of whole ticks, None for the exact one
    loose : haptos.engine.records.loose_records.Loose, or None where no piece is a loose body
    """

    world: Records
    body: Records
    solids: Obstacles
    walls: Records
    edges: Records
    zones: Obstacles | None
    rules: Rules | None
    floor: Any
    ledges: Any
    effects: Obstacles | None
    pieces: Records | None
    surfaces: Records | None
    fields: Records | None
    ladders: Records | None
    launches: Records | None
    movers: Movers | None
    stakes: Any
    watches: Records | None
    whole: Any
    loose: Any = None

    @property
    def capabilities(self) -> str:
        """A name for the set of things that this level's kernels can do."""
        view = "top" if self.floor is not None else "side"
        sorts = {"loose": self.loose, "played": self.stakes, "moving": self.movers, "full": self.effects}
        sort = next((sort for sort, table in sorts.items() if table is not None), "plain")
        return f"{view}-{sort}" + ("-whole" if self.whole is not None else "")
