"""Findings about passages that are too narrow for the body."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from haptos.engine.build.compile_level import CompiledLevel, body_of
from haptos.geometry.outlines import Body
from haptos.geometry.polygons import body_polygon, outline_polygons, shape_polygons
from haptos.level.world import SIDES
from haptos.study.findings import Finding
from haptos.study.free_space import GIVE, FreeSpace, fill_from_start, solid_outlines
from haptos.study.solids import solid_shapes, walls_of

# Passages shorter than this share of the body's height are joints of a drawing, not ways through.
LEAST_GAP = 1e-3
# What the body covers is drawn coarsely, and grown by this share of its height to make up for that.
SLACK = 0.01
COARSE = 8
# A room behind a passage is one in which the body has more than this share of its height, squared, to move in.
ROOM = 0.01
# How closely the width of a passage is found, as a share of the body's height.
CLOSELY = 1e-4


def find_narrow_passages(compiled: CompiledLevel) -> list[Finding]:
    """Free space that a point gets through and the body does not, on the way to a room, or between two places."""
    space = fill_from_start(compiled)
    if not space.filled:
        return []
    size = compiled.level.player.shape.size[1]
    bare = fill_from_start(compiled, Body())
    covered = _swept([space.rooms[index] for index in space.filled], body_of(compiled.level), size)
    uncovered = bare.reached.difference(covered.buffer(SLACK * size, quad_segs=2))
    behind = [
        room for index, room in enumerate(space.rooms) if index not in space.filled and room.area > ROOM * size * size
    ]
    findings = []
    for part in getattr(uncovered, "geoms", [uncovered]):
        if part.area <= (LEAST_GAP * size) ** 2:
            continue
        rooms = [room for room in behind if part.intersects(room)]
        if rooms:
            findings += [one for room in rooms for one in _cut_off(compiled, bare.reached, covered, room)]
        else:
            findings += _slit(compiled, space, part)
    return findings


def _cut_off(compiled: CompiledLevel, bare: Any, covered: Any, room: Any) -> list[Finding]:
    """Return the finding that a room is behind a passage: how wide that is, where, and between what."""
    size = compiled.level.player.shape.size[1]
    start, goal = covered.representative_point(), room.representative_point()

    def parts_of(wear: float) -> tuple[Any, Any]:
        worn = bare.buffer(-wear, quad_segs=4)
        parts = [part for part in getattr(worn, "geoms", [worn]) if not part.is_empty]
        if not parts:
            return None, None
        return min(parts, key=start.distance), min(parts, key=goal.distance)

    low, high = 0.0, max(compiled.level.player.shape.size)
    while high - low > CLOSELY * size:
        middle = 0.5 * (low + high)
        here, there = parts_of(middle)
        low, high = (middle, high) if here is not None and here is there else (low, middle)
    if 2.0 * high <= 2.0 * LEAST_GAP * size:
        return []
    here, there = parts_of(high)
    place = (
        goal if here is None or here is there else shapely.shortest_line(here, there).interpolate(0.5, normalized=True)
    )
    return [_finding(compiled, "warning", place, 2.0 * low, "a room lies behind it; widen it, or close it")]


def _slit(compiled: CompiledLevel, space: FreeSpace, part: Any) -> list[Finding]:
    """Return the note that a passage leads from one place that the body gets to to another one."""
    size = compiled.level.player.shape.size[1]
    solids = shapely.union_all(outline_polygons(solid_outlines(compiled, Body())))
    lines = [space.side_line(side) for side in SIDES if space.sides[side] == "wall"]
    segments = _segments([*lines, *([solids.boundary] if not solids.is_empty else [])])
    found = shapely.STRtree(segments).query(part, predicate="dwithin", distance=GIVE * size * 100)
    rim = shapely.union_all(segments[found]).buffer(GIVE * size * 100)
    sides = _lines(part.boundary.intersection(rim), size)
    mouths = _lines(part.boundary.difference(rim), size)
    if len(sides) < 2 or len(mouths) < 2:
        return []
    gap = min(one.distance(other) for index, one in enumerate(sides) for other in sides[index + 1 :])
    if gap <= LEAST_GAP * size:
        return []
    return [
        _finding(compiled, "note", part.representative_point(), gap, "nothing lies behind it but where one gets to")
    ]


def _lines(line: Any, size: float) -> list[Any]:
    merged = shapely.line_merge(line) if line.geom_type == "MultiLineString" else line
    return [one for one in getattr(merged, "geoms", [merged]) if one.length > LEAST_GAP * size]


def _finding(compiled: CompiledLevel, severity: Any, place: Any, gap: float, then: str) -> Finding:
    width, height = compiled.level.player.shape.size
    names = _beside(compiled, place)
    between = f" between '{names[0]}' and '{names[1]}'" if len(names) > 1 else f" in '{names[0]}'" if names else ""
    message = (
        f"a passage {gap:.4g} wide at ({place.x:.4g}, {place.y:.4g}){between} is too narrow for the body ({width:g} by "
        f"{height:g}): {then}"
    )
    where = next((piece.place for piece in compiled.resolved.pieces if piece.name in names), "world.bounds")
    return Finding(severity, "narrow-passage", where, message, (place.x, place.y))


def _beside(compiled: CompiledLevel, place: Any) -> list[str]:
    """Return the names of the two pieces, or sides of the bounds, that are nearest to a place."""
    solids = solid_shapes(compiled, one_way=False)
    away: dict[str, float] = {side: wall.distance(place) for side, wall in walls_of(compiled).items()}
    for index, shape in zip(solids.piece, shape_polygons(solids), strict=True):
        name = compiled.resolved.pieces[index].name
        away[name] = min(shape.distance(place), away.get(name, np.inf))
    return sorted(away, key=lambda name: away[name])[:2]


def _swept(rooms: list[Any], body: Body, size: float) -> Any:
    """Return what the body covers when its centre is everywhere in the free space.

    The sum of a polygon and a box is the union of the sums of its edges and the box, and of itself moved to a corner.
    """
    shape = np.asarray(body_polygon(body, quarter=COARSE).exterior.coords)
    rims = [room.boundary.simplify(SLACK * size / 4) for room in rooms]
    edges = shapely.get_coordinates(_segments(rims)).reshape(-1, 2, 1, 2)
    swept = (edges + shape[None, None, :, :]).reshape(len(edges), -1, 2)
    return shapely.union_all([*rooms, *shapely.convex_hull(shapely.multipoints(swept))])


def _segments(lines: list[Any]) -> Any:
    """Return the straight pieces of lines, as an array of lines of two points."""
    pieces = []
    for line in lines:
        for part in getattr(line, "geoms", [line]):
            points = shapely.get_coordinates(part)
            pieces.append(np.stack((points[:-1], points[1:]), axis=1))
    return shapely.linestrings(np.concatenate(pieces)) if pieces else np.array([], dtype=object)
