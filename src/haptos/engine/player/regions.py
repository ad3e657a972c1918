"""What changes how the body moves while it is inside: fields, ladders, launchers, and floors of the top view.

A segment ends where the body enters or leaves one of them, so what it wants changes at that instant.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.grid import span, visit_cells, visit_near
from haptos.engine.collision.poses import point_velocity
from haptos.engine.collision.zones import next_change
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.controls import EFFECT_EDGE
from haptos.engine.player.frames import floor_under
from haptos.engine.player.gravity import enter_gravity
from haptos.engine.player.ladders import leave_ladder, may_take_hold, take_hold
from haptos.engine.player.launches import launch, outward_normal
from haptos.engine.records.codes import FIELD_ROLE, IN_AIR, LADDER_ROLE, LAUNCH_ROLE, NO_LADDER, STALE

# A chord round a corner is cut again until an edge met on it is this near its end, as a share.
NEAR_END = 1e-6


@leaf
def limit_at_effects(
    effects: Any, within: Any, movers: Any, moving: Any, player: Any, segment: Any, height: float
) -> None:
    """End the segment where the body enters or leaves something that changes how it moves."""
    if effects is None:
        return
    vx, vy = segment.path_vx, segment.path_vy
    if movers is not None:
        vx, vy = vx + player.frame_vx, vy + player.frame_vy
    x0, x1 = span(player.x, vx, segment.path_ax, 0.0, segment.limit)
    y0, y1 = span(player.y, vy, segment.path_ay, 0.0, segment.limit)
    scene = (effects, within, movers, moving, player, segment, height, vx, vy, x0, x1, y0, y1)
    visit_cells(effects, x0, x1, y0, y1, _limit_at, scene)
    if movers is not None:
        visit_near(effects, _limit_at_moving, scene)


@leaf
def _limit_at(scene: Any, index: int) -> None:
    """End the segment where the body enters or leaves one that stays."""
    effects, within, _, _, player, segment, height, vx, vy, _, _, _, _ = scene
    _limit_by(effects, within, player, segment, height, index, vx, vy)


@leaf
def _limit_at_moving(scene: Any, index: int) -> None:
    """End the segment where the body enters or leaves one that moves."""
    effects, within, movers, moving, player, segment, height, vx, vy, x0, x1, y0, y1 = scene
    outline = effects.outlines[index]
    ux, uy = point_velocity(movers.movers[outline.mover], moving[outline.mover], player.x, player.y)
    far_x, far_y = segment.limit * abs(ux), segment.limit * abs(uy)
    if outline.x0 > x1 + far_x or outline.x1 < x0 - far_x or outline.y0 > y1 + far_y or outline.y1 < y0 - far_y:
        return
    _limit_by(effects, within, player, segment, height, index, vx - ux, vy - uy)


@leaf
def _limit_by(
    effects: Any, within: Any, player: Any, segment: Any, height: float, index: int, vx: float, vy: float
) -> None:
    t = next_change(
        effects.outlines[index], effects.faces, player.x, player.y, vx, vy, segment.path_ax, segment.path_ay, 0.0,
        segment.limit, height, within[index] != 0,
    )  # fmt: skip
    if t < segment.limit:
        segment.limit, segment.reason, segment.which = t, EFFECT_EDGE, index


@leaf
def follow_effects(core: Any, felt: Any, effects: Any, movers: Any, near: Any) -> None:
    """Enter or leave what has come over the body, or gone from it, while neither knew the other's way exactly."""
    if movers is None or effects is None:
        return
    for place in range(core.player.near):
        mover = movers.movers[near[place]]
        for item in range(mover.effect, mover.end):
            index = movers.items[item].outline
            survey_effect(
                effects, felt.fields, core.player, felt.within, felt.occupied, core.body.height, index
            )  # fmt: skip


@leaf
def cross_effect(core: Any, felt: Any, effects: Any, ladders: Any, launches: Any, now: float) -> None:
    """Enter or leave what the segment ended at."""
    within = felt.within
    body, player, passing, segment, journal = core.body, core.player, core.passing, core.segment, core.journal
    if effects is None:
        return
    index = segment.which
    outline = effects.outlines[index]
    enters = within[index] == 0
    set_within(effects, felt.fields, player, within, felt.occupied, index, enters)
    if ladders is not None:
        if outline.role == LADDER_ROLE:
            ladder = ladders[outline.row]
            if enters:
                player.grip = 1
            if enters and may_take_hold(ladder, body, player):
                take_hold(ladders, outline.row, player, passing, journal, now)
            elif not enters and player.ladder == outline.row:
                leave_ladder(player, passing, journal, now, ladder.piece)
    if launches is not None:
        if outline.role == LAUNCH_ROLE and enters:
            nx, ny = outward_normal(outline, effects.faces, player.x, player.y)
            launch(core, launches, outline.row, felt.ready, nx, ny, now)


@leaf
def set_within(effects: Any, fields: Any, player: Any, within: Any, occupied: Any, index: int, enters: bool) -> None:
    """Note that an effect's outline is entered or left."""
    within[index] = 1 if enters else 0
    player.tuned = STALE
    if fields is not None:
        outline = effects.outlines[index]
        if outline.role == FIELD_ROLE:
            occupied[outline.row] += 1 if enters else -1
            if enters and occupied[outline.row] == 1:
                enter_gravity(fields, player, outline.row)


@leaf
def survey_effects(effects: Any, fields: Any, player: Any, within: Any, occupied: Any, height: float) -> None:
    """Compare with where the body is now, after it was put somewhere."""
    if effects is None:
        return
    for index in range(effects.outlines.shape[0]):
        survey_effect(effects, fields, player, within, occupied, height, index)


@leaf
def survey_effect(
    effects: Any, fields: Any, player: Any, within: Any, occupied: Any, height: float, index: int
) -> None:
    """Enter or leave one effect's outline, if that has changed without the body's own motion."""
    outline = effects.outlines[index]
    is_gone = outline.x0 > outline.x1
    t = 0.0 if is_gone and within[index] else math.inf
    if not is_gone:
        t = next_change(
            outline, effects.faces, player.x, player.y, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, height, within[index] != 0
        )
    if t == 0.0:
        set_within(effects, fields, player, within, occupied, index, within[index] == 0)


@leaf
def ladder_in_reach(effects: Any, ladders: Any, body: Any, player: Any, within: Any) -> int:
    """Return the row of a ladder that the body takes hold of now, or NO_LADDER."""
    for index in range(effects.outlines.shape[0]):
        outline = effects.outlines[index]
        if within[index] and outline.role == LADDER_ROLE and may_take_hold(ladders[outline.row], body, player):
            return outline.row
    return NO_LADDER


@leaf
def update_factors(
    effects: Any, fields: Any, pieces: Any, surfaces: Any, player: Any, within: Any, occupied: Any, ground: int
) -> None:
    """Work out the factors that hold on a ground (a piece), or in the air, once for each change.

    Of several fields the strongest slowing wins, or the strongest speeding up where none slows; those that stack
    multiply with the rest, and so does the surface.
    """
    if player.tuned == ground:
        return
    player.tuned = ground
    player.speed_factor, player.accel_factor, player.jump_factor = 1.0, 1.0, 1.0
    player.speed_limit = math.inf
    player.friction = -1.0
    player.conveyor = 0.0
    player.belt_x, player.belt_y = 0.0, 0.0
    if fields is not None:
        _add_fields(fields, player, occupied, ground != IN_AIR)
    if surfaces is not None:
        row = -1
        if effects is not None:
            floor = floor_under(effects, surfaces, within)
            if floor >= 0:
                row = effects.outlines[floor].row
        if pieces is not None:
            if ground >= 0:
                row = pieces[ground].surface
        if row >= 0:
            surface = surfaces[row]
            player.speed_factor *= surface.speed_factor
            player.accel_factor *= surface.accel_factor
            player.jump_factor *= surface.jump_factor
            player.friction = surface.friction
            player.conveyor = surface.conveyor
            player.belt_x, player.belt_y = surface.belt_x, surface.belt_y


@leaf
def _add_fields(fields: Any, player: Any, occupied: Any, is_grounded: bool) -> None:
    speed, acceleration, leap = 1.0, 1.0, 1.0
    for row in range(fields.shape[0]):
        field = fields[row]
        if occupied[row] <= 0 or (field.only_grounded and not is_grounded):
            continue
        player.speed_limit = min(player.speed_limit, field.speed_limit)
        if field.stacks:
            player.speed_factor *= field.speed_factor
            player.accel_factor *= field.accel_factor
            player.jump_factor *= field.jump_factor
        else:
            speed = _stronger(speed, field.speed_factor)
            acceleration = _stronger(acceleration, field.accel_factor)
            leap = _stronger(leap, field.jump_factor)
    player.speed_factor *= speed
    player.accel_factor *= acceleration
    player.jump_factor *= leap


@leaf
def _stronger(one: float, other: float) -> float:
    """Return the factor that slows more, or, if neither slows, speeds up more."""
    return min(one, other) if min(one, other) < 1.0 else max(one, other)
