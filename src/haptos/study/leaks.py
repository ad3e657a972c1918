"""Findings about the walls: holes that the body can leave by, and blocked wraps."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import shapely

from haptos.engine.build.compile_level import CompiledLevel, body_of
from haptos.geometry.outlines import Body
from haptos.geometry.polygons import outline_polygons
from haptos.level.world import SIDES
from haptos.study.findings import Finding
from haptos.study.free_space import GIVE, FreeSpace, fill_from_start
from haptos.study.solids import OPPOSITE, side_above

# A side that is open along more of its length than this is left open on purpose, above in the side view.
WIDE_OPEN = 0.5


def find_leaks(compiled: CompiledLevel) -> list[Finding]:
    """Holes in the outer wall, and wraps whose other side is blocked."""
    space = fill_from_start(compiled)
    if not space.filled:
        return []
    return [*_holes(compiled, space), *_blocked_wraps(compiled, space)]


def _holes(compiled: CompiledLevel, space: FreeSpace) -> list[Finding]:
    level = compiled.level
    findings: list[Finding] = []
    if level.world.is_weightless:
        # Every open side is a way out; that is said once, of gravity.
        return findings
    above = side_above(level)
    reached = space.reached
    width, height = level.player.shape.size
    ways: dict[tuple[float, float, float], list[str]] = {}
    for side in SIDES:
        if space.sides[side] != "open" or _is_caught(compiled, side):
            continue
        line = space.side_line(side)
        way_out = reached.intersection(line)
        if way_out.length == 0:
            continue
        is_sky = level.world.view == "side" and side == above
        share = way_out.length / line.length
        if is_sky and (share > WIDE_OPEN or level.world.bounds is None):
            if level.world.bounds is not None:
                message = (
                    f"the sky is open: nothing covers {share:.0%} of the {side} side; gravity brings the body back"
                )
                findings.append(Finding("note", "open-sky", f"world.bounds.{side}", message))
            continue
        if level.world.view == "side" and level.world.bounds is None:
            # Without bounds the sides of a side view lie wherever the drawing happens to end; below is a fall.
            if side == OPPOSITE[above]:
                findings.append(_endless_fall(way_out))
            continue
        place, gap = _narrowest(compiled, space, side)
        known = next(
            (key for key in ways if math.hypot(key[0] - place.x, key[1] - place.y) < height), (place.x, place.y, gap)
        )
        ways.setdefault(known, []).append(side)
    for (x, y, gap), sides in ways.items():
        message = (
            f"a leak: the body ({width:g} by {height:g}) gets from its start out of the open {', '.join(sides)} side, "
            f"through a hole {gap:.4g} wide at ({x:.4g}, {y:.4g}); close it, or make the side a wall"
        )
        where = f"world.bounds.{sides[0]}" if level.world.bounds is not None else "world"
        findings.append(Finding("warning", "leak", where, message, (x, y)))
    return findings


def _endless_fall(way_out: Any) -> Finding:
    edge = max(getattr(way_out, "geoms", [way_out]), key=lambda part: part.length).interpolate(0.5, normalized=True)
    message = (
        f"the body can fall for ever, as at ({edge.x:.4g}, {edge.y:.4g}): nothing is below and nothing loses it; "
        "set world.lost_below"
    )
    return Finding("warning", "endless-fall", "world.lost_below", message, (edge.x, edge.y))


def _is_caught(compiled: CompiledLevel, side: str) -> bool:
    """Whether what falls out of a side is lost before it gets there, as is meant."""
    world = compiled.level.world
    if world.lost_below is None:
        return False
    ux, uy = world.up
    if side != OPPOSITE[side_above(compiled.level)]:
        return False
    bounds = world.bounds
    if bounds is None:
        return True
    x0, y0, x1, y1 = bounds.corners
    line = {"bottom": y0 * uy, "top": y1 * uy, "left": x0 * ux, "right": x1 * ux}[side]
    return world.lost_below >= line


def _narrowest(compiled: CompiledLevel, space: FreeSpace, side: str) -> tuple[Any, float]:
    """Return the narrowest place between the start and the outside of a side, and how wide the gap there is.

    The free space, with a broad strip outside the side, is worn away from all sides at once; the place where it falls
    apart is the hole.
    """
    start = shapely.Point(compiled.level.player.at)
    x0, y0, x1, y1 = space.window
    broad = max(x1 - x0, y1 - y0)
    strip = {
        "left": shapely.box(x0 - broad, y0, x0, y1),
        "right": shapely.box(x1, y0, x1 + broad, y1),
        "bottom": shapely.box(x0, y0 - broad, x1, y0),
        "top": shapely.box(x0, y1, x1, y1 + broad),
    }[side]
    outside = strip.centroid
    room = space.reached.union(strip)
    hair = 1e-6 * broad
    around = room.buffer(hair)

    def parts_of(wear: float) -> tuple[Any, Any]:
        """Return what is left around the start and around the outside, the same part while they are joined."""
        worn = room.buffer(-wear, quad_segs=4)
        parts = [part for part in getattr(worn, "geoms", [worn]) if not part.is_empty]
        # In a corner the worn space begins the diagonal of the wear away; farther off, or beyond a wall, it is another
        # room's.
        near = [
            part
            for part in parts
            if part.distance(start) <= 1.5 * wear + hair and around.covers(shapely.shortest_line(start, part))
        ]
        here = min(near, key=start.distance) if near else None
        return here, min(parts, key=outside.distance) if parts else None

    low, high = 0.0, broad / 2
    for _ in range(24):
        middle = 0.5 * (low + high)
        here, there = parts_of(middle)
        low, high = (middle, high) if here is not None and here is there else (low, middle)
    here, there = parts_of(high)
    if here is None:
        # The start's own room is the narrowest place of all.
        here = start
    if there is None or here is there:
        return outside, 2 * low
    one, other = shapely.shortest_line(here, there).boundary.geoms
    neck = shapely.Point((one.x + other.x) / 2, (one.y + other.y) / 2)
    wall = shapely.shortest_line(neck, room.boundary)
    (_, _), (wall_x, wall_y) = wall.coords
    return neck, 2 * (wall.length + _half_extent(body_of(compiled.level), wall_x - neck.x, wall_y - neck.y))


def _half_extent(body: Body, dx: float, dy: float) -> float:
    """Return how far a body reaches from its centre in a direction."""
    size = math.hypot(dx, dy) or 1.0
    cosine, sine = math.cos(body.angle), math.sin(body.angle)
    across, along = (dx * cosine + dy * sine) / size, (dy * cosine - dx * sine) / size
    return abs(across) * body.half_width + abs(along) * body.half_height + body.radius


def _blocked_wraps(compiled: CompiledLevel, space: FreeSpace) -> list[Finding]:
    findings = []
    x0, y0, x1, y1 = space.window
    own = outline_polygons(_unrepeated(compiled), GIVE * compiled.level.player.shape.size[1])
    solids = shapely.union_all(own)
    for side, dx, dy in (
        ("left", x1 - x0, 0.0),
        ("right", x0 - x1, 0.0),
        ("bottom", 0.0, y1 - y0),
        ("top", 0.0, y0 - y1),
    ):
        if space.sides[side] != "wrap":
            continue
        here = space.side_line(side).difference(solids)
        there = shapely.transform(here, lambda points, dx=dx, dy=dy: points + np.array([dx, dy]))
        blocked = there.intersection(solids)
        if blocked.length > GIVE * compiled.level.player.shape.size[1]:
            part = max(getattr(blocked, "geoms", [blocked]), key=lambda piece: piece.length)
            middle = part.interpolate(0.5, normalized=True)
            message = (
                f"the body can reach the {side} edge at ({middle.x - dx:.4g}, {middle.y - dy:.4g}), but where it would "
                f"come back, at ({middle.x:.4g}, {middle.y:.4g}), something solid stands: the edge is a wall there"
            )
            place = (middle.x - dx, middle.y - dy)
            findings.append(Finding("warning", "wrap-blocked", f"world.bounds.{side}", message, place))
    return findings


def _unrepeated(compiled: CompiledLevel) -> Any:
    """Return the grown outlines without the copies beyond wrapped edges."""
    from haptos.geometry.outlines import grow_outlines

    resolved = compiled.resolved
    solid = np.array([resolved.meeting(piece) == "solid" for piece in resolved.pieces] or [False])
    return grow_outlines(compiled.placement.only(solid[compiled.placement.piece]), body_of(compiled.level))
