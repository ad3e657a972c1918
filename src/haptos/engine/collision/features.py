"""Which face or corner of a grown outline is nearest to the body, and where on the piece the body touches it."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import constant, leaf

# A foot that stands on a face, or on a corner of its own piece that is round: the normal turns with the piece.
FIXED, TURNS = constant(0), constant(1)
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
            ex, ey = gap * face.nx, gap * face.ny
        elif along >= face.length > 0.0:
            # The next face begins there.
            continue
        distance = math.sqrt(ex * ex + ey * ey)
        if distance < best:
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
def foot_at(
    body: Any, player: Any, outline: Any, faces: Any, feature: int, nx: float, ny: float
) -> tuple[float, float, int]:
    """Return the way from the point of the piece that is touched to the body's centre, and whether the normal turns."""
    if feature < 0:
        round_piece = outline.radius - body.radius > SHARP * body.height
        x, y = _corner_of(body, player, nx, ny)
        return x + body.radius * nx, y + body.radius * ny, TURNS if round_piece else FIXED
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
