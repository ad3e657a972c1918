"""Which face or corner of a grown outline is nearest to the body, and where on the piece the body touches it."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import constant, leaf

# What becomes of a foot as its piece turns: nothing; on a face the normal turns along, and the foot is under the middle
# of the body's side; on a round corner it turns along, and the same corner of the body touches it.
FIXED, TURNS, ROLLS = constant(0), constant(1), constant(2)
# A radius beyond the body's own of less than this share of its height is none.
SHARP = 1e-9


@leaf
def nearest_feature(outline: Any, faces: Any, x: float, y: float) -> tuple[float, int, float, float]:
    """Return the gap to the nearest face or corner, below zero inside; which (-1 - face for its corner); its normal."""
    deepest = -math.inf
    inner = outline.first
    is_inside = outline.count > 2
    best = math.inf
    feature, nx, ny = outline.first, 0.0, 1.0
    for f in range(outline.first, outline.first + outline.count):
        face = faces[f]
        dx, dy = x - face.x, y - face.y
        gap = face.nx * dx + face.ny * dy
        if face.length > 0.0 and gap > deepest:
            deepest, inner = gap, f
        is_inside = is_inside and gap <= 0.0
        along = dx * face.tx + dy * face.ty
        ex, ey = dx, dy
        if 0.0 < along < face.length:
            if gap < 0.0:
                # Another one is nearer; of the two of a line, the one on the other side.
                continue
            ex, ey = gap * face.nx, gap * face.ny
        elif along >= face.length > 0.0:
            # The next face begins there.
            continue
        distance = math.sqrt(ex * ex + ey * ey)
        if distance == 0.0:
            best = 0.0
        elif distance < best:
            best = distance
            if 0.0 < along < face.length:
                feature, nx, ny = f, face.nx, face.ny
            else:
                feature, nx, ny = -1 - f, dx / distance, dy / distance
    if is_inside or not best > 0.0:
        face = faces[inner]
        return deepest - outline.radius, inner, face.nx, face.ny
    return best - outline.radius, feature, nx, ny


@leaf
def feature_touched(outline: Any, faces: Any, x: float, y: float) -> tuple[float, int, float, float]:
    """Return the same of what is touched there: of a sharp corner, the face that looks the body's way.

    So near, the way from such a corner to the body is no more than rounding.
    """
    gap, feature, nx, ny = nearest_feature(outline, faces, x, y)
    if feature >= 0 or outline.radius > 0.0:
        return gap, feature, nx, ny
    following = -1 - feature
    before = outline.first + (following - outline.first - 1 + outline.count) % outline.count
    ahead, behind = faces[following], faces[before]
    if ahead.nx * nx + ahead.ny * ny > behind.nx * nx + behind.ny * ny:
        return gap, following, ahead.nx, ahead.ny
    return gap, before, behind.nx, behind.ny


@leaf
def foot_at(
    body: Any, player: Any, outline: Any, faces: Any, feature: int, nx: float, ny: float
) -> tuple[float, float, int]:
    """Return the way from the point of the piece that is touched to the body's centre, and whether the normal turns."""
    if feature < 0:
        round_piece = outline.radius - body.radius > SHARP * body.height
        x, y = _corner_of(body, player, nx, ny)
        return x + body.radius * nx, y + body.radius * ny, ROLLS if round_piece else FIXED
    x, y = foot_on_face(body, player, nx, ny)
    return x, y, faces[feature].turns


@leaf
def foot_on_face(body: Any, player: Any, nx: float, ny: float) -> tuple[float, float]:
    """Return the way from a surface with this normal to the centre of a body that stands on the middle of its side."""
    rise = nx * player.up_x + ny * player.up_y
    across = nx * player.up_y - ny * player.up_x
    height = body.half_width * abs(across) + body.half_height * abs(rise) + body.radius
    if rise != 0.0:
        tx, ty = -ny, nx
        sideways = math.copysign(body.half_height, rise) * (tx * player.up_x + ty * player.up_y)
        return height * nx + sideways * tx, height * ny + sideways * ty
    return height * nx, height * ny


@leaf
def _corner_of(body: Any, player: Any, nx: float, ny: float) -> tuple[float, float]:
    """Return the corner of the body's core that is farthest along a direction."""
    rise = nx * player.up_x + ny * player.up_y
    across = nx * player.up_y - ny * player.up_x
    up = math.copysign(body.half_height, rise) if rise != 0.0 else 0.0
    right = math.copysign(body.half_width, across) if across != 0.0 else 0.0
    return up * player.up_x + right * player.up_y, up * player.up_y - right * player.up_x


@leaf
def touched_point(
    movers: Any, body: Any, player: Any, number: int, outline: int, nx: float, ny: float, pose: Any
) -> tuple[float, float]:
    """Return the point of a mover's core at which the body touches an outline of it along a normal.

    Where both lie flat on each other, it is the end that comes at the body the fastest as the mover turns.
    """
    mover = movers.movers[number]
    x, y, tx, ty = mover.x + pose.x, mover.y + pose.y, ny, -nx
    level = SHARP * body.height
    top, low, high = -math.inf, math.inf, -math.inf
    for place in range(mover.solid, mover.zone):
        item = movers.items[place]
        if item.outline != outline:
            continue
        for index in range(item.first, item.first + item.count):
            corner = movers.corners[index]
            cx = x + pose.scale * (corner.x * pose.cosine - corner.y * pose.sine)
            cy = y + pose.scale * (corner.x * pose.sine + corner.y * pose.cosine)
            rise, along = nx * cx + ny * cy, tx * cx + ty * cy
            if rise > top + level:
                top, low, high = rise, along, along
            elif rise >= top - level:
                low, high = min(low, along), max(high, along)
    if top == -math.inf:
        return player.x, player.y
    # The side of the body's core that is turned to it.
    up, across = nx * player.up_x + ny * player.up_y, nx * player.up_y - ny * player.up_x
    middle, half = tx * player.x + ty * player.y, 0.0
    along_up, along_right = tx * player.up_x + ty * player.up_y, tx * player.up_y - ty * player.up_x
    if body.half_height > 0.0:
        if abs(up) * body.half_height <= level:
            half += abs(along_up) * body.half_height
        else:
            middle -= math.copysign(body.half_height, up) * along_up
    if body.half_width > 0.0:
        if abs(across) * body.half_width <= level:
            half += abs(along_right) * body.half_width
        else:
            middle -= math.copysign(body.half_width, across) * along_right
    low, high = max(low, middle - half), min(high, middle + half)
    along = 0.5 * (low + high)
    if low < high:
        along = high if pose.spin > 0.0 else low
    return top * nx + along * tx, top * ny + along * ty
