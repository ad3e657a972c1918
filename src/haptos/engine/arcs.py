"""Rounded corners: a body that stays on one moves along an arc, in chords.

Along a corner the arc length obeys the same constant acceleration as along a face, so the ends of every chord lie
exactly on the arc; only what happens on the way, contacts and zones, sees the chord.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiled import leaf
from haptos.engine.impact import SLIDING, first_impact
from haptos.engine.intent import ARC_STEP
from haptos.engine.roots import falls_at

# Radians of a corner in one chord: its sag, R (1 - cos 1.5°), is 3e-4 R.
CHORD = math.radians(3.0)
# A chord on which something is hit is shortened to this before the hit counts.
SHORT_CHORD = math.radians(0.05)


@leaf
def is_flung_off(player: Any, contact: Any, segment: Any, strength: float) -> bool:
    """Whether the body leaves a corner because nothing pulls it hard enough to turn: a·n + v²/R > 0."""
    if contact.radius <= 0.0:
        return False
    sideways = player.vx * contact.ny - player.vy * contact.nx
    pull = segment.ax * contact.nx + segment.ay * contact.ny
    return pull + sideways * sideways / contact.radius > strength


@leaf
def step_corner(
    world: Any, solids: Any, walls: Any, player: Any, contacts: Any, segment: Any, hit: Any, height: float
) -> None:
    """Plan the next chord along the corner in `segment.arc`, and look for what is hit on it."""
    contact = contacts[segment.arc]
    outline = solids.outlines[contact.outline]
    tx, ty = contact.ny, -contact.nx
    speed = player.vx * tx + player.vy * ty
    rate = segment.ax * tx + segment.ay * ty
    way = 1.0 if speed > 0.0 else -1.0
    if abs(speed) <= SLIDING * abs(rate) * segment.limit:
        way = 1.0 if rate > 0.0 else -1.0
    angle, following = _to_sector_end(outline, solids.faces, contact, way)
    angle_limit = min(angle, CHORD)
    if segment.ground >= 0:
        angle_limit = min(angle_limit, _to_steepest(world, player, contact, tx * way, ty * way))
    t = _covers_at(outline.radius * angle_limit, speed * way, rate * way)
    if t < segment.limit:
        segment.limit = t
        segment.reason = ARC_STEP
        segment.which = following if angle_limit == angle else -1
    for _ in range(16):
        turned = _place_on_arc(outline, solids.faces, contact, player, segment, speed, rate, segment.limit)
        if segment.limit > 0.0:
            segment.path_vx = (segment.end_x - player.x) / segment.limit
            segment.path_vy = (segment.end_y - player.y) / segment.limit
        segment.path_ax, segment.path_ay = 0.0, 0.0
        first_impact(
            solids, walls, contacts, player.contacts, height, player.x, player.y,
            segment.path_vx, segment.path_vy, 0.0, 0.0, segment.limit, hit,
        )  # fmt: skip
        if hit.t >= segment.limit or turned <= SHORT_CHORD:
            return
        segment.limit = max(hit.t, 0.5 * SHORT_CHORD / turned * segment.limit)
        segment.reason = ARC_STEP
        segment.which = -1


@leaf
def _place_on_arc(
    outline: Any, faces: Any, contact: Any, player: Any, segment: Any, speed: float, rate: float, t: float
) -> float:
    """Write where on the arc the body is after a time; return the angle it turned by."""
    corner = faces[-1 - contact.feature]
    moved = t * (speed + 0.5 * rate * t)
    # Along +t the normal turns clockwise.
    angle = -moved / outline.radius
    cosine, sine = math.cos(angle), math.sin(angle)
    segment.end_nx = contact.nx * cosine - contact.ny * sine
    segment.end_ny = contact.nx * sine + contact.ny * cosine
    segment.end_x = corner.x + outline.radius * segment.end_nx
    segment.end_y = corner.y + outline.radius * segment.end_ny
    segment.end_speed = speed + rate * t
    return abs(angle)


@leaf
def round_corner(solids: Any, player: Any, contacts: Any, segment: Any, duration: float, is_hit: bool) -> None:
    """Move along the planned chord; if nothing was hit, to its end on the arc."""
    contact = contacts[segment.arc]
    outline = solids.outlines[contact.outline]
    tx, ty = contact.ny, -contact.nx
    speed = player.vx * tx + player.vy * ty
    rate = segment.ax * tx + segment.ay * ty
    _place_on_arc(outline, solids.faces, contact, player, segment, speed, rate, duration)
    if is_hit:
        # On the chord, not on the arc: the corner's normal is the one of that place.
        player.x += segment.path_vx * duration
        player.y += segment.path_vy * duration
        corner = solids.faces[-1 - contact.feature]
        dx, dy = player.x - corner.x, player.y - corner.y
        distance = math.sqrt(dx * dx + dy * dy)
        segment.end_nx, segment.end_ny = dx / distance, dy / distance
    else:
        player.x, player.y = segment.end_x, segment.end_y
    player.vx = segment.end_speed * segment.end_ny
    player.vy = -segment.end_speed * segment.end_nx
    contact.nx, contact.ny = segment.end_nx, segment.end_ny


@leaf
def leave_corner(solids: Any, player: Any, contacts: Any, segment: Any) -> None:
    """Let the face beyond a rounded corner take over, exactly."""
    contact = contacts[segment.arc]
    face = solids.faces[segment.which]
    contact.feature = segment.which
    contact.radius = 0.0
    contact.nx, contact.ny = face.nx, face.ny
    radius = solids.outlines[contact.outline].radius
    gap = face.nx * (player.x - face.x) + face.ny * (player.y - face.y) - radius
    player.x -= gap * face.nx
    player.y -= gap * face.ny
    into = player.vx * face.nx + player.vy * face.ny
    player.vx -= into * face.nx
    player.vy -= into * face.ny


@leaf
def _to_sector_end(outline: Any, faces: Any, contact: Any, way: float) -> tuple[float, int]:
    """Return the angle to the end of the corner in a direction, and the face that begins there."""
    f = -1 - contact.feature
    if outline.count == 1:
        return math.inf, -1
    following = f
    if way > 0.0:
        following = outline.first + (f - outline.first - 1 + outline.count) % outline.count
    face = faces[following]
    cosine = contact.nx * face.nx + contact.ny * face.ny
    sine = contact.nx * face.ny - contact.ny * face.nx
    angle = math.atan2(-way * sine, cosine)
    if angle < -1.0:
        # Half a turn, as at the end of a capsule, comes out with either sign.
        angle += 2.0 * math.pi
    return max(angle, 0.0), following


@leaf
def _to_steepest(world: Any, player: Any, contact: Any, wx: float, wy: float) -> float:
    """Return the angle to where the corner becomes too steep to stand on, if the motion goes downhill."""
    uphill = contact.nx * player.up_x + contact.ny * player.up_y
    if wx * player.up_x + wy * player.up_y >= 0.0:
        return math.inf
    # A little beyond, so that the next segment sees it as too steep.
    return max(math.acos(world.steepest) - math.acos(min(uphill, 1.0)), 0.0) + 1e-6


@leaf
def _covers_at(distance: float, speed: float, rate: float) -> float:
    """Return when a distance is covered; infinite if the motion stops before."""
    return falls_at(distance, -speed, -rate)
