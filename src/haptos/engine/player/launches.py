"""Trampolines: the velocity along the launch direction is set, not added to."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import is_on_side
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.controls import TIME_ROUNDING, TIMER, leave_support
from haptos.engine.records.codes import JUMP
from haptos.engine.records.events import LAUNCHED
from haptos.engine.records.journal import write

# Seconds in which a launcher throws once at most.
LEAST_COOLDOWN = 1e-3


@leaf
def launch(core: Any, launches: Any, row: int, ready: Any, nx: float, ny: float, now: float) -> bool:
    """Throw the body, if the surface with this normal is on the launcher's side and it works again.

    With a height h, the speed along d is s = (√(2 g h) − v·u) / (d·u), v being the velocity that is kept across d.
    """
    body, player = core.body, core.player
    thrower = launches[row]
    if not is_on_side(nx, ny, thrower.side_x, thrower.side_y) or now < ready[row] - TIME_ROUNDING:
        return False
    dx, dy = thrower.x, thrower.y
    along = player.vx * dx + player.vy * dy
    kept_x, kept_y = thrower.keep * (player.vx - along * dx), thrower.keep * (player.vy - along * dy)
    speed = thrower.speed
    upward = dx * player.up_x + dy * player.up_y
    if thrower.height > 0.0:
        if upward <= 0.0:
            return False
        gravity = math.sqrt(player.gravity_x * player.gravity_x + player.gravity_y * player.gravity_y)
        wanted = math.sqrt(2.0 * gravity * body.rising_factor * thrower.height)
        speed = (wanted - (kept_x * player.up_x + kept_y * player.up_y)) / upward
    if player.held & JUMP:
        speed *= thrower.jump_factor
    player.vx, player.vy = kept_x + speed * dx, kept_y + speed * dy
    player.jumps_left = body.extra_jumps
    leave_support(player, now)
    player.contacts = 0
    player.press_armed = 0
    # Not again at once from the same touch, or, under a low ceiling, without end.
    ready[row] = now + max(thrower.cooldown, LEAST_COOLDOWN)
    write(core.journal, player, LAUNCHED, now, thrower.piece, speed, 0.0)
    return True


@leaf
def limit_at_launcher(core: Any, launches: Any, pieces: Any, ready: Any, now: float) -> bool:
    """Throw a body that stands on a launcher which works again, or end the segment when it will."""
    contacts, segment = core.contacts, core.segment
    contact = contacts[segment.ground]
    if contact.piece < 0:
        return False
    row = pieces[contact.piece].launch
    if row < 0:
        return False
    thrower = launches[row]
    if not is_on_side(contact.nx, contact.ny, thrower.side_x, thrower.side_y):
        return False
    wait = ready[row] - now
    if wait <= TIME_ROUNDING:
        return launch(core, launches, row, ready, contact.nx, contact.ny, now)
    if wait < segment.limit:
        segment.limit, segment.reason = wait, TIMER
    return False


@leaf
def outward_normal(outline: Any, faces: Any, x: float, y: float) -> tuple[float, float]:
    """Return the outward direction of the boundary place of an outline that is nearest to a point."""
    best = -math.inf
    nx, ny = 0.0, 1.0
    for f in range(outline.first, outline.first + outline.count):
        face = faces[f]
        dx, dy = x - face.x, y - face.y
        along = dx * face.tx + dy * face.ty
        gap = face.nx * dx + face.ny * dy - outline.radius
        if 0.0 <= along <= face.length and face.length > 0.0 and gap > best:
            best, nx, ny = gap, face.nx, face.ny
        distance = math.sqrt(dx * dx + dy * dy)
        is_beyond = (face.length == 0.0 or along < 0.0) and distance > 0.0
        if is_beyond and outline.radius > 0.0:
            before = faces[outline.first + (f - outline.first - 1 + outline.count) % outline.count]
            past = dx * before.tx + dy * before.ty
            if (face.length == 0.0 or past >= 0.0) and distance - outline.radius > best:
                best, nx, ny = distance - outline.radius, dx / distance, dy / distance
    return nx, ny
