"""When a point that moves on a parabola first meets a grown outline, and on which face or corner."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.grid import span, visit_outlines
from haptos.engine.collision.roots import NEVER, falls_at, quartic_falls_at
from haptos.engine.compiling.contract import leaf

# Tolerances are fractions of the body's height.
TOUCHING = 1e-9  # so near counts as touching
HAIR = 1e-12  # so near is nothing
SHALLOW = 1e-6  # so deep is still outside; deeper starts inside and is let out
DEEP = 1e-4  # so deep in what it touches, the body is put back onto it
SEAM = 1e-7  # so far past a face's end it still blocks; so uneven a joint is level
# Impacts within the time that this takes are at one instant: which is first must not be left to rounding.
SAME_INSTANT = 1e-11
# Speeds and accelerations are compared with this share of the largest in play.
SLIDING = 1e-9
# Nobody is pushed aside along what gives way less than this share of the push: between two such it is squeezed.
LEAST_YIELD = 0.1
# Two normals whose cosine is above this are one surface.
LEVEL = 1.0 - 1e-9
# A path is looked up in the grid in pieces of about this many cells.
CELLS_A_PIECE = 4.0
# A surface of a one-way piece, or of a launcher, is on its side if their directions are within 60 degrees.
SIDE_CONE = 0.5 - 1e-9


@leaf
def set_path(path: Any, x: float, y: float, vx: float, vy: float, ax: float, ay: float, horizon: float) -> None:
    """Write the parabola that is looked along, and for how long."""
    path.x, path.y = x, y
    path.vx, path.vy = vx, vy
    path.ax, path.ay = ax, ay
    path.horizon = horizon


@leaf
def is_kept(contacts: Any, count: Any, outline: int) -> bool:
    """Whether a look along a path leaves an outline out.

    Outlines are convex: a motion that does not go into what is touched of one meets no other part of it.
    """
    for index in range(count):
        if contacts[index].skipped and contacts[index].outline == outline:
            return True
    return False


@leaf
def is_level_with(contacts: Any, count: int, nx: float, ny: float) -> bool:
    """Whether one of the contacts that are left out has this normal."""
    for index in range(count):
        if contacts[index].skipped and contacts[index].nx * nx + contacts[index].ny * ny > LEVEL:
            return True
    return False


@leaf
def is_one_way(outline: Any) -> bool:
    """Whether an outline is solid from one side alone."""
    return outline.side_x != 0.0 or outline.side_y != 0.0


@leaf
def is_passed(passing: Any, outline: Any, index: int) -> bool:
    """Whether an outline lets the body through: it was opened, or is solid from one side alone and all those are."""
    if passing is None:
        return False
    if passing[index]:
        return True
    return is_one_way(outline) and passing[passing.shape[0] - 1] != 0


@leaf
def is_on_side(nx: float, ny: float, side_x: float, side_y: float) -> bool:
    """Whether a surface with this normal is on a side; every surface is on the side of no direction."""
    return (side_x == 0.0 and side_y == 0.0) or nx * side_x + ny * side_y >= SIDE_CONE


@leaf
def first_impact(
    solids: Any, passing: Any, walls: Any, contacts: Any, count: int, height: float, path: Any, hit: Any
) -> None:
    """Find the first impact on a path and write it to `hit`; `hit.t` stays infinite if there is none.

    `passing` says which one-way outlines are passed through, the last of its entries whether all are.
    """
    hit.t = NEVER
    look_on(solids, passing, walls, contacts, count, height, path, hit)


@leaf
def look_on(
    solids: Any, passing: Any, walls: Any, contacts: Any, count: int, height: float, path: Any, hit: Any
) -> None:
    """Find an earlier impact than that in `hit` on a path, and write it there."""
    measure_path(height, path)
    x, y, vx, vy, ax, ay, horizon = path.x, path.y, path.vx, path.vy, path.ax, path.ay, path.horizon
    reach = path.reach
    for index in range(walls.shape[0]):
        _meet_wall(walls[index], index, contacts, count, height, path, hit)
    scene = (solids, passing, contacts, count, height, path, hit)
    margin = SEAM * height
    parts = 1 + int(min(reach / (CELLS_A_PIECE * solids.grid[0].size), 1e6))
    for part in range(parts):
        begin = horizon * part / parts
        if hit.t < begin:
            break
        end = horizon * (part + 1) / parts
        x0, x1 = span(x, vx, ax, begin, end)
        y0, y1 = span(y, vy, ay, begin, end)
        x0, x1, y0, y1 = x0 - margin, x1 + margin, y0 - margin, y1 + margin
        visit_outlines(solids, x0, x1, y0, y1, _look_at, scene)


@leaf
def _look_at(scene: Any, index: int) -> None:
    """Find an impact on one of the outlines near a path."""
    solids, passing, contacts, count, height, path, hit = scene
    outline = solids.outlines[index]
    if outline.assembly == path.skip or is_kept(contacts, count, index):
        return
    if (path.still and outline.mover >= 0) or is_passed(passing, outline, index):
        return
    _meet(outline, index, solids.faces, contacts, count, height, path, hit)


@leaf
def meet_outlines(
    solids: Any, passing: Any, items: Any, first: int, last: int, contacts: Any, count: int, height: float, path: Any,
    hit: Any,
) -> None:  # fmt: skip
    """Find an earlier impact than that in `hit` among the outlines of `items` from `first` to before `last`."""
    measure_path(height, path)
    for item in range(first, last):
        index = items[item].outline
        outline = solids.outlines[index]
        if is_kept(contacts, count, index) or outline.x0 > outline.x1:
            continue
        if is_passed(passing, outline, index):
            continue
        _meet(outline, index, solids.faces, contacts, count, height, path, hit)


@leaf
def measure_path(height: float, path: Any) -> None:
    """Measure a path before it is looked along: its reach, and what counts as nothing on it."""
    vx, vy, ax, ay, horizon = path.vx, path.vy, path.ax, path.ay, path.horizon
    # No less than the lengths of both, and quicker than their roots.
    speed, pull = abs(vx) + abs(vy), abs(ax) + abs(ay)
    fastest = speed + pull * horizon
    path.tiny_speed = SLIDING * fastest
    path.tiny_accel = SLIDING * pull
    path.tie = SAME_INSTANT * height / fastest if fastest > 0.0 else 0.0
    # No point of the path is farther away than this.
    path.reach = horizon * (speed + 0.5 * horizon * pull)


@leaf
def _meet_wall(wall: Any, index: int, contacts: Any, count: int, height: float, path: Any, hit: Any) -> None:
    gap = wall.nx * path.x + wall.ny * path.y - wall.offset
    if gap > path.reach + TOUCHING * height:
        return
    speed = wall.nx * path.vx + wall.ny * path.vy
    acceleration = wall.nx * path.ax + wall.ny * path.ay
    horizon = path.horizon
    if gap > horizon * (abs(speed) + 0.5 * abs(acceleration) * horizon) + TOUCHING * height:
        return
    if is_kept(contacts, count, -1 - index):
        return
    t = _meets_at(gap, speed, acceleration, height, path.tiny_speed, path.tiny_accel)
    if 0.0 <= t <= horizon and t < hit.t + path.tie:
        _note(path, hit, t, -1 - index, 0, wall.nx, wall.ny, 0.0)


@leaf
def _note(path: Any, hit: Any, t: float, outline: int, feature: int, nx: float, ny: float, radius: float) -> None:
    """Take an impact for the first one; of two at one instant, the one that is met more head-on."""
    if t >= hit.t - path.tie and hit.t < NEVER:
        vx, vy = path.vx + path.ax * t, path.vy + path.ay * t
        if nx * vx + ny * vy >= hit.nx * vx + hit.ny * vy - path.tiny_speed:
            return
    hit.t = t
    hit.outline = outline
    hit.feature = feature
    hit.nx = nx
    hit.ny = ny
    hit.radius = radius


@leaf
def _meets_at(
    gap: float, speed: float, acceleration: float, height: float, tiny_speed: float, tiny_accel: float
) -> float:
    """Return when a gap closes; zero if it is closed and would be entered at once; negative if it is none."""
    if -SHALLOW * height <= gap <= TOUCHING * height and speed <= tiny_speed:
        if speed < -tiny_speed:
            return max(falls_at(gap, speed, acceleration), 0.0)
        if acceleration < -tiny_accel:
            return 0.0
        return NEVER
    return falls_at(gap, speed, acceleration)


@leaf
def _meet(outline: Any, index: int, faces: Any, contacts: Any, count: int, height: float, path: Any, hit: Any) -> None:
    first, last = outline.first, outline.first + outline.count
    touching = TOUCHING * height
    x, y, vx, vy, ax, ay, horizon = path.x, path.y, path.vx, path.vy, path.ax, path.ay, path.horizon
    for f in range(first, last):
        face = faces[f]
        if face.length > 0.0:
            gap = face.nx * (x - face.x) + face.ny * (y - face.y) - outline.radius
            speed = face.nx * vx + face.ny * vy
            acceleration = face.nx * ax + face.ny * ay
            # Faces that are only moved away from, or not reached by the end of a path that bends away from them.
            if speed > 0.0 and acceleration >= 0.0:
                continue
            if acceleration <= 0.0 and gap > touching and gap + horizon * (speed + 0.5 * acceleration * horizon) > 0.0:
                continue
            _meet_face(outline, index, faces, f, height, gap, speed, acceleration, path, hit)
    if outline.radius > 0.0:
        for f in range(first, last):
            _meet_corner(outline, index, faces, f, contacts, count, height, path, hit)


@leaf
def _comes_from_side(outline: Any, nx: float, ny: float, path: Any, t: float) -> bool:
    """Whether a one-way outline is met on its side, by a motion that does not come out of it."""
    if not is_one_way(outline):
        return True
    if not is_on_side(nx, ny, outline.side_x, outline.side_y):
        return False
    out = (path.vx + path.ax * t) * outline.side_x + (path.vy + path.ay * t) * outline.side_y
    return out <= path.tiny_speed


@leaf
def _meet_face(
    outline: Any,
    index: int,
    faces: Any,
    f: int,
    height: float,
    gap: float,
    speed: float,
    acceleration: float,
    path: Any,
    hit: Any,
) -> None:
    tiny_speed, tiny_accel = path.tiny_speed, path.tiny_accel
    t = _meets_at(gap, speed, acceleration, height, tiny_speed, tiny_accel)
    if not 0.0 <= t <= path.horizon or t > hit.t + path.tie:
        return
    face = faces[f]
    seam = SEAM * height
    vx, vy, ax, ay = path.vx, path.vy, path.ax, path.ay
    dx, dy = path.x - face.x, path.y - face.y
    along = (dx + t * (vx + 0.5 * ax * t)) * face.tx + (dy + t * (vy + 0.5 * ay * t)) * face.ty
    # Past the end of a rounded outline's face begins its corner; a sharp one blocks a little farther, for joints.
    past = seam if outline.radius == 0.0 else 0.0
    if along < -past or along > face.length + past:
        return
    feature, nx, ny = f, face.nx, face.ny
    rests = speed + acceleration * t >= -tiny_speed
    if outline.radius > 0.0 and rests:
        # Sliding off a face's end: what follows is the rounded corner's affair.
        onward = (vx + ax * t) * face.tx + (vy + ay * t) * face.ty
        pulled = ax * face.tx + ay * face.ty
        near = TOUCHING * height
        if along > face.length - near and _goes(onward, pulled, tiny_speed, tiny_accel):
            return
        if along < near and _goes(-onward, -pulled, tiny_speed, tiny_accel):
            return
    if outline.radius == 0.0 and (along < seam or along > face.length - seam):
        # A sharp corner is entered only between both of its faces; along the other one it is a joint, not a catch.
        step = -1 if along < seam else 1
        other = outline.first + (f - outline.first + step + outline.count) % outline.count
        neighbour = faces[other]
        passing = neighbour.nx * (vx + ax * t) + neighbour.ny * (vy + ay * t)
        pulled = neighbour.nx * ax + neighbour.ny * ay
        if _goes(passing, pulled, tiny_speed, tiny_accel):
            return
        # Met exactly between them, it is the face that stands less in the way, whichever was looked at first.
        if not rests and passing > speed + acceleration * t + tiny_speed:
            feature, nx, ny = other, neighbour.nx, neighbour.ny
    if _comes_from_side(outline, nx, ny, path, t):
        _note(path, hit, t, index, feature, nx, ny, 0.0)


@leaf
def _goes(speed: float, pull: float, tiny_speed: float, tiny_accel: float) -> bool:
    """Whether a motion goes forward, or begins to."""
    return speed > tiny_speed or (speed >= -tiny_speed and pull > tiny_accel)


@leaf
def is_in_sector(outline: Any, faces: Any, f: int, nx: float, ny: float) -> bool:
    """Whether a direction lies between the normals of the faces that meet in the corner at the start of a face."""
    before = faces[outline.first + (f - outline.first - 1 + outline.count) % outline.count]
    return nx * before.tx + ny * before.ty >= -SEAM and nx * faces[f].tx + ny * faces[f].ty <= SEAM


@leaf
def _meet_corner(
    outline: Any, index: int, faces: Any, f: int, contacts: Any, count: int, height: float, path: Any, hit: Any
) -> None:
    radius = outline.radius
    face = faces[f]
    dx, dy = path.x - face.x, path.y - face.y
    near = radius + path.reach + TOUCHING * height
    if dx * dx + dy * dy > near * near:
        return
    vx, vy, ax, ay, horizon = path.vx, path.vy, path.ax, path.ay, path.horizon
    tiny_speed = path.tiny_speed
    distance = math.sqrt(dx * dx + dy * dy)
    gap = distance - radius
    if gap < -SHALLOW * height:
        return
    nx, ny = dx / distance, dy / distance
    speed = vx * nx + vy * ny
    sideways = vy * nx - vx * ny
    # The surface curves away: the body stays on it only if it is pulled harder than it has to turn.
    pulled = ax * nx + ay * ny + sideways * sideways / radius
    touches = gap <= TOUCHING * height
    if touches and (speed < -tiny_speed or (speed <= tiny_speed and pulled < -path.tiny_accel)):
        t = 0.0
    else:
        c1 = 2.0 * (dx * vx + dy * vy)
        if touches:
            # It leaves now, and may come back: a hair of room keeps the present touch from counting as that.
            gap, c1 = HAIR * height, max(c1, 0.0)
        c2 = vx * vx + vy * vy + dx * ax + dy * ay
        c3 = vx * ax + vy * ay
        c4 = 0.25 * (ax * ax + ay * ay)
        t = quartic_falls_at(gap * (distance + radius), c1, c2, c3, c4, horizon)
    if not t <= hit.t + path.tie or t > horizon:
        return
    nx, ny = dx + t * (vx + 0.5 * ax * t), dy + t * (vy + 0.5 * ay * t)
    distance = math.sqrt(nx * nx + ny * ny)
    nx, ny = nx / distance, ny / distance
    if is_level_with(contacts, count, nx, ny):
        return
    if outline.count > 1 and not is_in_sector(outline, faces, f, nx, ny):
        # From within a piece, its corners are no boundary.
        return
    if _comes_from_side(outline, nx, ny, path, t):
        _note(path, hit, t, index, -1 - f, nx, ny, radius)
