"""Where the body's centre can be: the world without the outlines that the body grows.

The free space is cut out exactly, as polygons; the part around the start is what the body can fill, gravity left aside.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from haptos.engine.build.compile_level import CompiledLevel, body_of
from haptos.engine.build.obstacles import repeated
from haptos.geometry.outlines import Body, Outlines, grow_outlines
from haptos.geometry.polygons import outline_polygons
from haptos.level.world import SIDES
from haptos.study.solids import solid_shapes

# Gaps that are as wide as the body are passable; this share of its height is given for rounding.
GIVE = 1e-6


@dataclass(frozen=True)
class FreeSpace:
    """The free space of a body in a window.

    Attributes
    ----------
    window : (x0, y0, x1, y1), the bounds, or a box around everything
    sides : what each side of the window does, by name
    rooms : the connected parts of the free space
    filled : which of them the body can be in, from its start
    """

    window: tuple[float, float, float, float]
    sides: dict[str, str]
    rooms: list[Any]
    filled: list[int]

    @property
    def reached(self) -> Any:
        """The union of what the body can fill."""
        return shapely.union_all([self.rooms[index] for index in self.filled])

    def side_line(self, side: str) -> Any:
        """Return a side of the window as a line."""
        x0, y0, x1, y1 = self.window
        ends = {
            "left": [(x0, y0), (x0, y1)],
            "right": [(x1, y0), (x1, y1)],
            "bottom": [(x0, y0), (x1, y0)],
            "top": [(x0, y1), (x1, y1)],
        }
        return shapely.LineString(ends[side])


def fill_from_start(compiled: CompiledLevel, body: Body | None = None) -> FreeSpace:
    """Fill the free space from the player's start.

    Parameters
    ----------
    compiled : CompiledLevel
    body : Body, optional
        The player's own if not given; a point fills what a point can.
    """
    level = compiled.level
    body = body_of(level) if body is None else body
    outlines = solid_outlines(compiled, body)
    give = GIVE * level.player.shape.size[1]
    bounds = level.world.bounds
    if bounds is not None:
        window = bounds.corners
        sides = {side: getattr(bounds, side) for side in SIDES}
    else:
        window = _around(outlines, level.player.at, max(level.player.shape.size))
        sides = dict.fromkeys(SIDES, "open")
    x0, y0, x1, y1 = window
    reach = _reach(body)
    inset = {side: reach[side] - give if sides[side] == "wall" else 0.0 for side in SIDES}
    room = shapely.box(x0 + inset["left"], y0 + inset["bottom"], x1 - inset["right"], y1 - inset["top"])
    solids = shapely.union_all(outline_polygons(outlines, shrink=give))
    free = room.difference(solids)
    rooms = [part for part in getattr(free, "geoms", [free]) if part.area > 0]
    filled = _connected(rooms, window, sides, shapely.Point(level.player.at))
    return FreeSpace(window, sides, rooms, filled)


def solid_outlines(compiled: CompiledLevel, body: Body) -> Outlines:
    """Return the outlines of all that is solid to the player, grown by a body, with copies beyond wrapped edges.

    Pieces that are solid from one side alone are left out: the body gets past them.
    """
    return repeated(compiled.level, grow_outlines(solid_shapes(compiled, one_way=False), body))


def _reach(body: Body) -> dict[str, float]:
    cosine, sine = abs(np.cos(body.angle)), abs(np.sin(body.angle))
    across = float(body.half_width * cosine + body.half_height * sine + body.radius)
    along = float(body.half_width * sine + body.half_height * cosine + body.radius)
    return {"left": across, "right": across, "bottom": along, "top": along}


def _around(outlines: Outlines, start: tuple[float, float], size: float) -> tuple[float, float, float, float]:
    boxes = np.vstack([outlines.box, [[*start, *start]]])
    low, high = boxes[:, :2].min(axis=0) - size, boxes[:, 2:].max(axis=0) + size
    return (float(low[0]), float(low[1]), float(high[0]), float(high[1]))


def _connected(rooms: list[Any], window: Any, sides: dict[str, str], start: Any) -> list[int]:
    """Return the rooms that the start's room is connected with, through wrapped edges."""
    found = [index for index, room in enumerate(rooms) if room.intersects(start)]
    if not found and rooms:
        # A start inside something solid: the body is let out to the nearest room.
        found = [int(np.argmin([room.distance(start) for room in rooms]))]
    links = _wrap_links(rooms, window, sides)
    waiting = list(found)
    while waiting:
        here = waiting.pop()
        for one, other in links:
            for near, far in ((one, other), (other, one)):
                if near == here and far not in found:
                    found.append(far)
                    waiting.append(far)
    return sorted(found)


def _wrap_links(rooms: list[Any], window: Any, sides: dict[str, str]) -> list[tuple[int, int]]:
    x0, y0, x1, y1 = window
    links = []
    for side, dx, dy in (("left", x1 - x0, 0.0), ("bottom", 0.0, y1 - y0)):
        if sides[side] != "wrap":
            continue
        line = shapely.LineString([(x0, y0), (x0, y1)] if side == "left" else [(x0, y0), (x1, y0)])
        opposite = shapely.transform(line, lambda points, dx=dx, dy=dy: points + np.array([dx, dy]))
        near = [(index, room.intersection(line)) for index, room in enumerate(rooms)]
        far = [(index, room.intersection(opposite)) for index, room in enumerate(rooms)]
        for one, edge in near:
            if edge.length == 0:
                continue
            moved = shapely.transform(edge, lambda points, dx=dx, dy=dy: points + np.array([dx, dy]))
            links += [
                (one, other) for other, facing in far if facing.length > 0 and moved.intersection(facing).length > 0
            ]
    return links
