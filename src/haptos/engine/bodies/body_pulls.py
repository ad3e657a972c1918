"""What acts on bodies from afar: gravity, and the fields that their centres are inside of."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.poses import stand_of
from haptos.engine.collision.separation import distance_to
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.gravity import centre_of, pull_at
from haptos.engine.records.codes import AFTERWARDS, INSIDE_ONLY, NO_GRAVITY, OF_WORLD, TOGGLES, TURNS_OVER


@leaf
def pull_bodies(stirred: Any, felt: Any, world: Any, moving: Any, now: float, dt: float) -> None:
    """Write what acts on each body that is awake in a tick."""
    loose = stirred.loose
    for row in range(loose.bodies.shape[0]):
        body = stirred.partakers[row]
        if body.there and body.awake:
            _pull(stirred, felt, world, moving, row, now)
            slows, unwinds = loose.bodies[row].drag + body.slows, loose.bodies[row].spin_drag
            # Drag has its exponential solution, tick by tick.
            if slows > 0.0:
                kept = math.exp(-slows * dt)
                body.vx, body.vy = kept * body.vx, kept * body.vy
            if unwinds > 0.0:
                body.spin *= math.exp(-unwinds * dt)


@leaf
def _pull(stirred: Any, felt: Any, world: Any, moving: Any, row: int, now: float) -> None:
    """Write the acceleration of one body, and what its fields take of its speed."""
    loose, movers, body = stirred.loose, stirred.movers, stirred.partakers[row]
    laws, fields = loose.laws[0], felt.fields
    best, factor, found = body.base_gravity, 1.0, False
    push_x, push_y, drag = 0.0, 0.0, 0.0
    for index in range(loose.zones.shape[0]):
        zone = loose.zones[index]
        if not (zone.layers >> loose.bodies[row].layer) & 1:
            continue
        shape, field = loose.shapes[zone.shape], fields[zone.field]
        stand, x, y = stand_of(movers, world, moving, shape.mover, now)
        inside = moving[stand].here != 0
        if inside:
            inside = distance_to(movers.corners, shape, moving[stand], x, y, body.x, body.y) < 0.0
        place = row * loose.zones.shape[0] + index
        if inside and not stirred.immersed[place] and field.gravity != NO_GRAVITY:
            _enter(fields, body, zone.field)
            best = body.base_gravity if not found else best
        stirred.immersed[place] = 1 if inside else 0
        if not inside:
            continue
        factor *= field.gravity_factor
        drag += field.drag
        push_x, push_y = push_x + field.push_x, push_y + field.push_y
        if field.pull != 0.0 or field.whirl != 0.0:
            cx, cy = centre_of(movers, moving, field)
            dx, dy = cx - body.x, cy - body.y
            distance = math.sqrt(dx * dx + dy * dy)
            if distance > 0.0:
                push_x += (field.pull * dx + field.whirl * dy) / distance
                push_y += (field.pull * dy - field.whirl * dx) / distance
        if field.gravity != NO_GRAVITY and field.lasts == INSIDE_ONLY:
            if not found or field.rank >= fields[best].rank:
                best, found = zone.field, True
    ax, ay = 0.0, 0.0
    if not laws.top:
        ax, ay = pull_at(world, movers, fields, moving, best, body.x, body.y)
    factor *= loose.bodies[row].gravity_factor
    body.ax, body.ay, body.slows = factor * ax + push_x, factor * ay + push_y, drag


@leaf
def _enter(fields: Any, body: Any, row: int) -> None:
    """Let a gravity that lasts replace a body's own, or take turns with the world's."""
    field, base = fields[row], body.base_gravity
    if field.lasts == AFTERWARDS:
        body.base_gravity = row
    elif field.lasts == TOGGLES:
        turned = base == row
        if base >= 0:
            turned = turned or (field.gravity == TURNS_OVER and fields[base].gravity == TURNS_OVER)
        body.base_gravity = OF_WORLD if turned else row
