"""One body's motion during one tick: a chain of segments of constant acceleration.

A segment ends at a contact, a lost support, a speed reached, an apex, an edge of the world, an edge of something that
changes how the body moves, or the end of the tick. What is hit is answered in `strike`; the rest of the tick goes on
along it.
"""

from __future__ import annotations

from typing import Any

from haptos.engine.collision.impact import first_impact, set_path
from haptos.engine.collision.zones import sweep_zones
from haptos.engine.compiling.contract import leaf
from haptos.engine.pieces.crumbling import begin_crumbling
from haptos.engine.player.arcs import leave_corner, round_corner, step_corner
from haptos.engine.player.controls import (
    ARC_STEP,
    AT_APEX,
    EDGE,
    EFFECT_EDGE,
    END_OF_TICK,
    FACE_END,
    SPEED_REACHED,
    TERMINAL,
)
from haptos.engine.player.frames import enter_frame, frame_of, leave_frame, update_frame
from haptos.engine.player.gravity import update_gravity
from haptos.engine.player.ground import follow_face
from haptos.engine.player.kept_contacts import drop, find_support, mark_parted, say_parted, touch
from haptos.engine.player.ladders import plan_ladder
from haptos.engine.player.launches import limit_at_launcher
from haptos.engine.player.regions import cross_effect, limit_at_effects, survey_effects
from haptos.engine.player.response import MOST_STRIKES, strike
from haptos.engine.player.segment_plans import limit_at_face_ends, plan_side, plan_top
from haptos.engine.player.world_edges import cross_edge, limit_at_edges
from haptos.engine.records.codes import CLIMBING, GROUND, NO_PIECE
from haptos.engine.records.events import APEX, STALL
from haptos.engine.records.journal import write

# What is left of a tick after this many segments is dropped, with an event.
MOST_SEGMENTS = 32
# A kick of a whole-tick method is cut at this many speeds reached.
MOST_KICKS = 8


@leaf
def move(
    core: Any, felt: Any, floor: Any, launches: Any, movers: Any, is_played: Any, whole: Any, moving: Any, begin: float
) -> None:
    """Move the body through one tick that begins at the time `begin`."""
    effects, fields, ladders, within = felt.effects, felt.fields, felt.ladders, felt.within
    occupied = felt.occupied
    world, body, solids, player, contacts = core.world, core.body, core.solids, core.player, core.contacts
    touched, segment, path, hit, journal = core.touched, core.segment, core.path, core.hit, core.journal
    remaining = world.dt
    player.strikes = 0
    if whole is not None:
        kick(core, felt, floor, world.kick_before * world.dt, begin)
    for _ in range(MOST_SEGMENTS):
        now = begin + (world.dt - remaining)
        segment.limit = remaining
        plan(core, felt, floor, ladders, now)
        if update_frame(core, felt, movers, moving, now):
            # What was planned was planned in another frame.
            continue
        if whole is not None:
            if player.stance != CLIMBING:
                segment.limit, segment.reason = remaining, END_OF_TICK
            segment.ax, segment.ay = 0.0, 0.0
        if launches is not None:
            if segment.ground >= 0 and limit_at_launcher(core, launches, felt.pieces, felt.ready, now):
                continue
        mark_parted(contacts, touched, player, now)
        limit_at_edges(core.edges, player, segment)
        if player.contacts > 0:
            limit_at_face_ends(solids, player, contacts, segment)
        segment.path_vx, segment.path_vy = player.vx, player.vy
        segment.path_ax, segment.path_ay = segment.ax, segment.ay
        if segment.arc >= 0:
            step_corner(core, effects, within, body.height)
        else:
            limit_at_effects(effects, within, player, segment, body.height)
            set_path(path, player.x, player.y, player.vx, player.vy, segment.ax, segment.ay, segment.limit)
            first_impact(solids, core.passing, core.walls, contacts, player.contacts, body.height, path, hit)
        duration = min(segment.limit, hit.t)
        if duration > 0.0:
            say_parted(touched, player, journal)
            sweep_zones(core, felt, felt.zones, movers, moving, body.height, duration, now, remaining)
            _advance(solids, player, contacts, segment, hit, duration)
        remaining -= duration
        now = begin + (world.dt - remaining)
        if hit.t <= segment.limit:
            _meet(core, felt, movers, moving, floor, segment.ground >= 0, now)
        else:
            if segment.reason == END_OF_TICK:
                break
            _finish(world, body, solids, floor, player, contacts, segment, journal, now)
            if segment.reason == ARC_STEP and segment.which >= 0:
                leave_corner(solids, player, contacts, segment)
                touch(touched, player, journal, contacts[segment.arc].piece, now, 0.0)
            elif segment.reason == EFFECT_EDGE:
                cross_effect(core, felt, effects, ladders, launches, now)
                update_gravity(is_played, world, movers, fields, player, contacts, moving, occupied, journal, now)
            elif segment.reason == EDGE:
                cross_edge(core, felt, floor, now)
                survey_effects(effects, fields, player, within, occupied, body.height)
                update_gravity(is_played, world, movers, fields, player, contacts, moving, occupied, journal, now)
        if remaining <= 0.0 or player.over or (floor is not None and player.strikes > MOST_STRIKES):
            break
    else:
        write(journal, player, STALL, begin + (world.dt - remaining), NO_PIECE, remaining, 0.0)
    if whole is not None:
        kick(core, felt, floor, world.kick_after * world.dt, begin + world.dt)
    update_frame(core, felt, movers, moving, begin + world.dt)
    mark_parted(contacts, touched, player, begin + world.dt)
    if floor is None:
        find_support(world, body, solids, contacts, player)


@leaf
def _meet(core: Any, felt: Any, movers: Any, moving: Any, floor: Any, was_on_ground: bool, now: float) -> None:
    """Answer an impact in the frame of what is hit."""
    solids, player, hit = core.solids, core.player, core.hit
    vx, vy = 0.0, 0.0
    outline, nx, ny = hit.outline, hit.nx, hit.ny
    if movers is not None:
        vx, vy = enter_frame(movers, solids, moving, core.body, player, hit)
    strike(core, felt, floor, felt.ladders, felt.launches, was_on_ground, now)
    if movers is not None:
        leave_frame(player, vx, vy)
        number = frame_of(solids, outline)
        if number >= 0:
            piece = solids.outlines[outline].piece
            begin_crumbling(movers, moving, core.journal, player, number, nx, ny, piece, now)
    update_frame(core, felt, movers, moving, now)


@leaf
def plan(core: Any, felt: Any, floor: Any, ladders: Any, now: float) -> None:
    """Write the acceleration of the segment that begins now, and its latest end."""
    body, player, contacts, segment = core.body, core.player, core.contacts, core.segment
    segment.rest = segment.limit
    segment.reason = END_OF_TICK
    segment.arc = -1
    segment.flies = 0
    if floor is not None:
        plan_top(felt, core.world, body, player, contacts, segment)
        return
    if ladders is not None:
        if player.stance == CLIMBING and plan_ladder(
            ladders, body, player, contacts, core.passing, segment, core.journal, now
        ):
            return
    plan_side(core, felt.pieces, felt.surfaces, felt.fields, felt.effects, felt.within, felt.occupied, now)


@leaf
def kick(core: Any, felt: Any, floor: Any, duration: float, now: float) -> None:
    """Let the acceleration at this place act on the velocity for a time; wanted speeds and limits are met exactly."""
    player, segment = core.player, core.segment
    left = duration
    for _ in range(MOST_KICKS):
        if left <= 0.0 or player.stance == CLIMBING:
            return
        segment.limit = left
        plan(core, felt, floor, felt.ladders, now)
        step = min(segment.limit, left)
        player.vx += segment.ax * step
        player.vy += segment.ay * step
        if segment.reason == END_OF_TICK:
            return
        _finish(core.world, core.body, core.solids, floor, player, core.contacts, segment, core.journal, now)
        left -= step


@leaf
def _advance(solids: Any, player: Any, contacts: Any, segment: Any, hit: Any, duration: float) -> None:
    if segment.arc >= 0:
        round_corner(solids, player, contacts, segment, duration, hit.t <= segment.limit)
        return
    player.x += duration * (player.vx + 0.5 * segment.ax * duration)
    player.y += duration * (player.vy + 0.5 * segment.ay * duration)
    player.vx += segment.ax * duration
    player.vy += segment.ay * duration


@leaf
def _finish(
    world: Any, body: Any, solids: Any, floor: Any, player: Any, contacts: Any, segment: Any, journal: Any, now: float
) -> None:
    """Do what the end of a segment is about."""
    reason = segment.reason
    if reason == FACE_END:
        follows = segment.which == segment.ground and body.snap > 0.0 and player.stance == GROUND
        if not (follows and follow_face(world, solids, player, contacts, segment.which)):
            drop(contacts, player, segment.which)
    elif reason == SPEED_REACHED and floor is not None:
        if segment.arc < 0:
            player.vx, player.vy = segment.axis_x, segment.axis_y
    elif reason in (SPEED_REACHED, TERMINAL, AT_APEX):
        if segment.arc < 0:
            short = segment.value - (player.vx * segment.axis_x + player.vy * segment.axis_y)
            player.vx += short * segment.axis_x
            player.vy += short * segment.axis_y
        elif segment.ground < 0 and reason == AT_APEX:
            player.vx, player.vy = 0.0, 0.0
        elif segment.ground >= 0:
            # The way has turned with the corner.
            contact = contacts[segment.arc]
            player.vx = segment.value * player.handed * contact.ny
            player.vy = -segment.value * player.handed * contact.nx
        if reason == AT_APEX:
            height = player.x * player.up_x + player.y * player.up_y
            player.peak = max(player.peak, height)
            player.cut_armed = 0
            if player.hides_apex == 0:
                write(journal, player, APEX, now, NO_PIECE, height - player.base, 0.0)
                player.hides_apex = 1 if player.gravity_source >= 0 else 0
