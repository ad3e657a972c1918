"""When a point that moves on a parabola first meets a grown outline, and on which face or corner."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiled import leaf
from haptos.engine.roots import NEVER, falls_at, quartic_falls_at

# Tolerances are fractions of the body's height.
TOUCHING = 1e-9  # so near counts as touching
HAIR = 1e-12  # so near is nothing
SHALLOW = 1e-6  # so deep is still outside; deeper starts inside and is let out
SEAM = 1e-7  # so far past a face's end it still blocks; so uneven a joint is level
# Speeds and accelerations are compared with this share of the largest in play.
SLIDING = 1e-9
# Two normals whose cosine is above this are one surface.
LEVEL = 1.0 - 1e-9
# A path is looked up in the grid in pieces of about this many cells.
CELLS_A_PIECE = 4.0


@leaf
def is_kept(contacts: Any, count: Any, outline: int) -> bool:
    """Whether an outline is among the contacts.

    The motion has been projected onto them, and outlines are convex: such a motion meets no other part of one.
    """
    for index in range(count):
        if contacts[index].outline == outline:
            return True
    return False


@leaf
def is_level_with(contacts: Any, count: int, nx: float, ny: float) -> bool:
    """Whether one of the contacts has this normal."""
    for index in range(count):
        if contacts[index].nx * nx + contacts[index].ny * ny > LEVEL:
            return True
    return False


@leaf
def first_impact(
    solids: Any,
    walls: Any,
    contacts: Any,
    count: int,
    height: float,
    x: float,
    y: float,
    vx: float,
    vy: float,
    ax: float,
    ay: float,
    horizon: float,
    hit: Any,
) -> None:
    """Find the first impact on the way and write it to `hit`; `hit.t` stays infinite if there is none."""
    hit.t = NEVER
    tiny_speed = SLIDING * (math.sqrt(vx * vx + vy * vy) + math.sqrt(ax * ax + ay * ay) * horizon)
    tiny_accel = SLIDING * math.sqrt(ax * ax + ay * ay)
    for index in range(walls.shape[0]):
        _meet_wall(
            walls[index],
            index,
            contacts,
            count,
            height,
            x,
            y,
            vx,
            vy,
            ax,
            ay,
            tiny_speed,
            tiny_accel,
            horizon,
            hit,
        )
    grid = solids.grid[0]
    margin = SEAM * height
    # No point of the path is farther away than this.
    reach = horizon * (math.sqrt(vx * vx + vy * vy) + 0.5 * horizon * math.sqrt(ax * ax + ay * ay))
    parts = 1 + int(min(reach / (CELLS_A_PIECE * grid.size), 1e6))
    for part in range(parts):
        begin = horizon * part / parts
        if hit.t < begin:
            break
        end = horizon * (part + 1) / parts
        x0, x1 = span(x, vx, ax, begin, end)
        y0, y1 = span(y, vy, ay, begin, end)
        x0, x1, y0, y1 = x0 - margin, x1 + margin, y0 - margin, y1 + margin
        first_column = max(0, int(math.floor((x0 - grid.x) * grid.per_unit)))
        last_column = min(grid.columns - 1, int(math.floor((x1 - grid.x) * grid.per_unit)))
        first_row = max(0, int(math.floor((y0 - grid.y) * grid.per_unit)))
        last_row = min(grid.rows - 1, int(math.floor((y1 - grid.y) * grid.per_unit)))
        for row in range(first_row, last_row + 1):
            for column in range(first_column, last_column + 1):
                cell = row * grid.columns + column
                for item in range(solids.start[cell], solids.start[cell + 1]):
                    index = solids.items[item]
                    outline = solids.outlines[index]
                    if outline.x0 > x1 or outline.x1 < x0 or outline.y0 > y1 or outline.y1 < y0:
                        continue
                    if is_kept(contacts, count, index):
                        continue
                    _meet(
                        outline, index, solids.faces, contacts, count, height,
                        x, y, vx, vy, ax, ay, tiny_speed, tiny_accel, horizon, reach, hit,
                    )  # fmt: skip


@leaf
def span(x: float, v: float, a: float, begin: float, end: float) -> tuple[float, float]:
    """Return the least and greatest of x + v t + a t²/2 between two times."""
    one = x + begin * (v + 0.5 * a * begin)
    other = x + end * (v + 0.5 * a * end)
    low, high = min(one, other), max(one, other)
    if a != 0.0:
        turn = -v / a
        if begin < turn < end:
            extreme = x + 0.5 * v * turn
            low, high = min(low, extreme), max(high, extreme)
    return low, high


@leaf
def _meet_wall(
    wall: Any, index: int, contacts: Any, count: int, height: float,
    x: float, y: float, vx: float, vy: float, ax: float, ay: float,
    tiny_speed: float, tiny_accel: float, horizon: float, hit: Any,
) -> None:  # fmt: skip
    gap = wall.nx * x + wall.ny * y - wall.offset
    speed = wall.nx * vx + wall.ny * vy
    acceleration = wall.nx * ax + wall.ny * ay
    if gap > horizon * (abs(speed) + 0.5 * abs(acceleration) * horizon) + TOUCHING * height:
        return
    if is_kept(contacts, count, -1 - index):
        return
    t = _meets_at(gap, speed, acceleration, height, tiny_speed, tiny_accel)
    if 0.0 <= t <= horizon and t < hit.t:
        hit.t = t
        hit.outline = -1 - index
        hit.feature = 0
        hit.nx = wall.nx
        hit.ny = wall.ny
        hit.radius = 0.0


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
def _meet(
    outline: Any, index: int, faces: Any, contacts: Any, count: int, height: float,
    x: float, y: float, vx: float, vy: float, ax: float, ay: float,
    tiny_speed: float, tiny_accel: float, horizon: float, reach: float, hit: Any,
) -> None:  # fmt: skip
    first, last = outline.first, outline.first + outline.count
    touching = TOUCHING * height
    for f in range(first, last):
        face = faces[f]
        dx, dy = x - face.x, y - face.y
        if face.length > 0.0:
            gap = face.nx * dx + face.ny * dy - outline.radius
            speed = face.nx * vx + face.ny * vy
            acceleration = face.nx * ax + face.ny * ay
            # Faces that are only moved away from, or not reached by the end of a path that bends away from them.
            if speed > 0.0 and acceleration >= 0.0:
                continue
            if acceleration <= 0.0 and gap > touching and gap + horizon * (speed + 0.5 * acceleration * horizon) > 0.0:
                continue
            _meet_face(
                outline, index, faces, f, contacts, count, height, dx, dy, vx, vy, ax, ay,
                gap, speed, acceleration, tiny_speed, tiny_accel, horizon, hit,
            )  # fmt: skip
    if outline.radius > 0.0:
        for f in range(first, last):
            _meet_corner(
                outline.radius, index, faces[f], f, contacts, count, height,
                x, y, vx, vy, ax, ay, tiny_speed, tiny_accel, horizon, reach, hit,
            )  # fmt: skip


@leaf
def _meet_face(
    outline: Any, index: int, faces: Any, f: int, contacts: Any, count: int, height: float,
    dx: float, dy: float, vx: float, vy: float, ax: float, ay: float,
    gap: float, speed: float, acceleration: float,
    tiny_speed: float, tiny_accel: float, horizon: float, hit: Any,
) -> None:  # fmt: skip
    t = _meets_at(gap, speed, acceleration, height, tiny_speed, tiny_accel)
    if not 0.0 <= t <= horizon or t >= hit.t:
        return
    face = faces[f]
    seam = SEAM * height
    along = (dx + t * (vx + 0.5 * ax * t)) * face.tx + (dy + t * (vy + 0.5 * ay * t)) * face.ty
    if along < -seam or along > face.length + seam:
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
        if passing >= -tiny_speed and not rests:
            feature, nx, ny = other, neighbour.nx, neighbour.ny
    hit.t = t
    hit.outline = index
    hit.feature = feature
    hit.nx = nx
    hit.ny = ny
    hit.radius = 0.0


@leaf
def _goes(speed: float, pull: float, tiny_speed: float, tiny_accel: float) -> bool:
    """Whether a motion goes forward, or begins to."""
    return speed > tiny_speed or (speed >= -tiny_speed and pull > tiny_accel)


@leaf
def _meet_corner(
    radius: float, index: int, face: Any, f: int, contacts: Any, count: int, height: float,
    x: float, y: float, vx: float, vy: float, ax: float, ay: float,
    tiny_speed: float, tiny_accel: float, horizon: float, reach: float, hit: Any,
) -> None:  # fmt: skip
    dx, dy = x - face.x, y - face.y
    near = radius + reach + TOUCHING * height
    if dx * dx + dy * dy > near * near:
        return
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
    if touches and (speed < -tiny_speed or (speed <= tiny_speed and pulled < -tiny_accel)):
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
    if not t < hit.t or t > horizon:
        return
    nx, ny = dx + t * (vx + 0.5 * ax * t), dy + t * (vy + 0.5 * ay * t)
    distance = math.sqrt(nx * nx + ny * ny)
    nx, ny = nx / distance, ny / distance
    if is_level_with(contacts, count, nx, ny):
        return
    hit.t = t
    hit.outline = index
    hit.feature = -1 - f
    hit.nx = nx
    hit.ny = ny
    hit.radius = radius
