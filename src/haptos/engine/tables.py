"""Record layouts of everything that stays the same during a run."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

Records = NDArray[np.void]

WORLD = np.dtype(
    [
        ("dt", "f8"),
        ("tick_rate", "f8"),
        ("up_x", "f8"),
        ("up_y", "f8"),
        ("gravity_x", "f8"),
        ("gravity_y", "f8"),
        ("steepest", "f8"),  # cosine of the steepest slope that is ground
    ]
)

BODY = np.dtype(
    [
        ("start_x", "f8"),
        ("start_y", "f8"),
        ("start_facing", "f8"),  # +1 right, -1 left; degrees in the top view
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
    ]
)

OUTLINE = np.dtype(
    [
        ("piece", "i8"),
        ("first", "i8"),
        ("count", "i8"),
        ("radius", "f8"),
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
    ]
)

GRID = np.dtype([("x", "f8"), ("y", "f8"), ("size", "f8"), ("per_unit", "f8"), ("columns", "i8"), ("rows", "i8")])

# A wall of the bounds: the half plane n·p < offset is solid.
WALL = np.dtype([("nx", "f8"), ("ny", "f8"), ("offset", "f8"), ("side", "i8")])

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
        ("acts", "i8"),  # whether any of this is in use
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
    ]
)


class Obstacles(NamedTuple):
    """Grown outlines in a grid; solids and zones alike.

    Attributes
    ----------
    outlines : (n,) OUTLINE
    faces : (m,) FACE
    grid : (1,) GRID
    start, items : which outlines reach into which cell
    """

    outlines: Records
    faces: Records
    grid: Records
    start: NDArray[np.int64]
    items: NDArray[np.int64]


class Rules(NamedTuple):
    """The rules whose `who` means the player: (r,) RULE, the pieces that they are about, and how many are `inside`."""

    rules: Records
    targets: NDArray[np.int64]
    repeats: int


class Tables(NamedTuple):
    """The constants of a level. What the level has no use for is None and is never compiled.

    Attributes
    ----------
    world : (1,) WORLD
    body : (1,) BODY
    solids : Obstacles, what is solid to the player
    walls : (k,) WALL
    edges : (1,) EDGES
    zones : Obstacles, what only overlaps it, or None
    rules : Rules or None
    floor : True in the top view, None in the side view
    """

    world: Records
    body: Records
    solids: Obstacles
    walls: Records
    edges: Records
    zones: Obstacles | None
    rules: Rules | None
    floor: Any

    @property
    def capabilities(self) -> str:
        """A name for the set of things that this level's kernels can do."""
        view = "top" if self.floor is not None else "side"
        present = [name for name in ("zones", "rules") if getattr(self, name) is not None]
        return "-".join([view, *present])
