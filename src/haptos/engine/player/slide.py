"""One body's motion during one tick: a chain of segments of constant acceleration.

A segment ends at a contact, a lost support, a speed reached, an apex, an edge of the world, an edge of something that
changes how the body moves, or the end of the tick. What is hit is answered where the next segment begins.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import SLIDING, TOUCHING, is_one_way
from haptos.engine.collision.zones import depth_in, survey_zones, sweep_zones
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.movers.displacement import go_on, pass_through
from haptos.engine.movers.on_the_clock import bring_movers, limit_at_knots
from haptos.engine.player.admissible import approach_speed
from haptos.engine.player.arcs import plan_round_corner, step_corner
from haptos.engine.player.controls import (
    ARC_STEP,
    AT_APEX,
    EDGE,
    EFFECT_EDGE,
    END_OF_TICK,
    FACE_END,
    KNOT,
    NEARING,
    SPEED_REACHED,
    TERMINAL,
)
from haptos.engine.player.corner_ends import end_on_corner, leave_corner, limit_at_corner_ends
from haptos.engine.player.frames import follow_frame, frame_of, measure_contacts, say_boarded, update_frame
from haptos.engine.player.gravity import update_gravity
from haptos.engine.player.ground import follow_face
from haptos.engine.player.impacts import find_impact
from haptos.engine.player.kept_contacts import add_contact, find_support, mark_parted, say_parted, take_off, touch
from haptos.engine.player.ladders import plan_ladder
from haptos.engine.player.launches import limit_at_launcher
from haptos.engine.player.nearing import SHORTEST, limit_at_nearing
from haptos.engine.player.regions import cross_effect, follow_effects, limit_at_effects, survey_effects
from haptos.engine.player.response import AT_ONCE, answer_contacts
from haptos.engine.player.riding import carried_to, follow_held, note_place, stay_on_ride, turn_with
from haptos.engine.player.segment_plans import limit_at_face_ends, plan_side, plan_top
from haptos.engine.player.settling import way_to
from haptos.engine.player.touching import find_contacts, is_found, note_found
from haptos.engine.player.world_edges import begin_again, cross_edge, limit_at_edges
from haptos.engine.records.codes import AIR, CLIMBING, GROUND, NO_PIECE
from haptos.engine.records.events import APEX, CRUSH, STALL
from haptos.engine.records.journal import write

# After so many segments what is left of a tick is gone through in one go, with an event.
MOST_SEGMENTS = 1024
UNTIL_KNOT = constant(KNOT)
# So often the ground can change at one instant.
MOST_CHANGES = 4
# A kick of a whole-tick method is cut at this many speeds reached.
MOST_KICKS = 8
# A loose body may come so deep into the player, in heights, before that is squeezed: it is light enough to be stopped.
GIVES = 0.02


@leaf
def move(
    core: Any, felt: Any, floor: Any, launches: Any, movers: Any, is_played: Any, whole: Any, moving: Any, near: Any,
    begin: float,
) -> None:  # fmt: skip
    """Move the body through one tick that begins at the time `begin`, and all that is near along with it."""
    effects, fields, ladders = felt.effects, felt.fields, felt.ladders
    world, body, solids, player, contacts = core.world, core.body, core.solids, core.player, core.contacts
    touched, segment, hit, journal = core.touched, core.segment, core.hit, core.journal
    occupied = felt.occupied
    remaining = world.dt
    changes = 0
    note_scale(core)
    if whole is not None:
        kick(core, felt, floor, world.kick_before * world.dt, begin)
    for _ in range(MOST_SEGMENTS):
        now = begin + (world.dt - remaining)
        if movers is not None:
            follow_effects(core, felt, effects, movers, near)
        if not is_found(player):
            find_contacts(core, movers, moving)
        player.found_x = math.nan
        follow_frame(core, movers, moving)
        measure_contacts(core, movers, moving)
        stay_on_ride(core, movers)
        if answer_contacts(core, felt, floor, ladders, felt.launches, movers, moving, now):
            be_crushed(core, felt, floor, movers, moving, now, remaining)
            if player.over:
                break
            continue
        segment.limit = remaining
        for index in range(player.contacts):
            contacts[index].pressed = 0
        plan(core, felt, floor, ladders, now)
        if update_frame(core, felt, movers, moving, now):
            # What was planned was planned in another frame. Between two that close on it, it stands on neither.
            changes += 1
            if changes > MOST_CHANGES:
                segment.aloft = 1
                player.stance = AIR
            continue
        if whole is not None:
            if player.stance != CLIMBING:
                segment.limit, segment.reason = remaining, END_OF_TICK
            segment.ax, segment.ay = 0.0, 0.0
        if launches is not None:
            if segment.ground >= 0 and limit_at_launcher(core, launches, felt.pieces, felt.ready, now):
                continue
        mark_parted(contacts, touched, player, now)
        limit_at_knots(movers, moving, near, player, segment, now, UNTIL_KNOT)
        limit_at_edges(core.edges, player, segment)
        if player.contacts > 0:
            limit_at_face_ends(solids, player, contacts, segment)
            skip_touched(player, contacts, segment, body.height, SHORTEST * world.dt)
            limit_at_corner_ends(solids, player, contacts, segment, SHORTEST * world.dt)
        segment.path_vx, segment.path_vy = player.vx, player.vy
        segment.path_ax, segment.path_ay = segment.ax, segment.ay
        limit_at_nearing(core, movers, moving, near)
        if segment.arc >= 0:
            step_corner(core, felt, effects, movers, moving, near, body.height)
        else:
            limit_at_effects(effects, felt.within, movers, moving, player, segment, body.height)
            find_impact(core, movers, moving, near)
        duration = min(segment.limit, hit.t)
        if duration > 0.0:
            if duration > AT_ONCE * world.dt:
                changes, segment.aloft, segment.ended = 0, 0, -1
            say_boarded(movers, moving, player, journal)
            say_parted(touched, player, journal)
            _advance(core, felt, effects, movers, moving, near, duration, now, remaining - duration)
        remaining -= duration
        now = begin + (world.dt - remaining)
        if hit.t <= segment.limit:
            which = add_contact(core, hit.outline, hit.feature, hit.nx, hit.ny, hit.radius)
            if duration <= 0.0:
                cling_to(player, contacts, which)
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
                survey_effects(effects, fields, player, felt.within, occupied, body.height)
                update_gravity(is_played, world, movers, fields, player, contacts, moving, occupied, journal, now)
        if remaining <= 0.0 or player.over:
            break
    else:
        write(journal, player, STALL, begin + (world.dt - remaining), NO_PIECE, remaining, 0.0)
        bring_movers(core, felt, felt.zones, effects, movers, moving, near, begin + world.dt)
        go_on(core, remaining * (player.vx + player.frame_vx), remaining * (player.vy + player.frame_vy))
        # What it went through on the way is not told; where it is now, and what it has left, is.
        survey_zones(felt, felt.zones, player, journal, body.height, begin + world.dt)
        survey_effects(effects, fields, player, felt.within, occupied, body.height)
        update_gravity(is_played, world, movers, fields, player, contacts, moving, occupied, journal, begin + world.dt)
    if whole is not None:
        kick(core, felt, floor, world.kick_after * world.dt, begin + world.dt)
    find_contacts(core, movers, moving)
    update_frame(core, felt, movers, moving, begin + world.dt)
    say_boarded(movers, moving, player, journal)
    mark_parted(contacts, touched, player, begin + world.dt)
    if player.near == 0 and player.frame < 0:
        note_found(player)
    if floor is None:
        find_support(world, body, solids, contacts, player)


@leaf
def _advance(
    core: Any, felt: Any, effects: Any, movers: Any, moving: Any, near: Any, duration: float, now: float, left: float
) -> None:
    """Bring the body, and all that is near, to the end of a segment, after which so much of the tick is left."""
    solids, player, contacts, segment, hit = core.solids, core.player, core.contacts, core.segment, core.hit
    is_hit = hit.t <= segment.limit
    frame_vx, frame_vy = player.frame_vx, player.frame_vy
    # To the end of a tick, exactly, so that nobody has to bring what moves there again.
    end = (
        player.tick * core.world.dt if left <= 0.0 or (segment.reason == END_OF_TICK and not is_hit) else now + duration
    )
    dx = duration * (player.vx + 0.5 * segment.ax * duration)
    dy = duration * (player.vy + 0.5 * segment.ay * duration)
    if segment.arc >= 0:
        plan_round_corner(solids, player, contacts, segment, duration)
        dx, dy = duration * segment.path_vx, duration * segment.path_vy
    else:
        player.vx += segment.ax * duration
        player.vy += segment.ay * duration
    if movers is None:
        x, y = player.x + dx, player.y + dy
    else:
        note_place(movers, moving, player)
        steady = player.frame < 0
        if not steady:
            steady = moving[player.frame].steady != 0
        bring_movers(core, felt, felt.zones, effects, movers, moving, near, end)
        if segment.arc >= 0:
            turn_with(movers, moving, player, segment)
        x, y = carried_to(core, movers, moving, dx, dy)
        segment.path_vx, segment.path_vy = segment.path_vx + frame_vx, segment.path_vy + frame_vy
        if not steady:
            segment.path_vx, segment.path_vy = (x - player.x) / duration, (y - player.y) / duration
            segment.path_ax, segment.path_ay = 0.0, 0.0
    sweep_zones(core, felt, felt.zones, movers, moving, core.body.height, duration, now)
    player.x, player.y = x, y
    if segment.arc >= 0:
        end_on_corner(core, is_hit)
    if movers is not None:
        follow_held(core, movers, moving, duration)


@leaf
def cling_to(player: Any, contacts: Any, which: int) -> None:
    """Stay with what is left so slowly that it is met again at once, and on the ground."""
    contact = contacts[which]
    apart = -approach_speed(player, contact)
    if apart > 0.0:
        way_x, way_y = way_to(player, contacts, which)
        player.vx -= apart * way_x
        player.vy -= apart * way_y
    contact.held = 1


@leaf
def be_crushed(core: Any, felt: Any, floor: Any, movers: Any, moving: Any, now: float, left: float) -> None:
    """Be squeezed by what comes at the body: it starts again, or passes through that, as the level says.

    A loose body that comes no deeper in the rest of the tick is stopped, and pressed back in the next one.
    """
    player, contacts, solids = core.player, core.contacts, core.solids
    if movers is None:
        player.vx, player.vy = 0.0, 0.0
        return
    for index in range(player.contacts):
        outline = contacts[index].outline
        if outline >= 0 and is_one_way(solids.outlines[outline]) and not core.passing[outline]:
            if solids.outlines[outline].mover >= 0:
                # There is no room over it: it is passed through.
                core.passing[outline] = 1
                player.dropping += 1
                take_off(contacts, player, index)
                return
    fastest, which = -math.inf, -1
    for index in range(player.contacts):
        contact = contacts[index]
        number = frame_of(solids, contact.outline)
        comes = (contact.ux + player.frame_vx) * contact.nx + (contact.uy + player.frame_vy) * contact.ny
        if number >= 0 and comes > fastest:
            fastest, which = comes, index
    if which < 0:
        player.vx, player.vy = 0.0, 0.0
        return
    piece, number = contacts[which].piece, solids.outlines[contacts[which].outline].mover
    gives = False
    if movers.movers[number].loose:
        outline = solids.outlines[contacts[which].outline]
        deep = depth_in(outline, solids.faces, player.x, player.y) + left * fastest
        gives = deep <= GIVES * core.body.height
    if not gives:
        write(core.journal, player, CRUSH, now, piece, math.nan, 0.0)
    if not gives and not core.body.survives and player.crushed != player.tick:
        player.crushed = player.tick
        begin_again(core, felt, floor, now)
        return
    pass_through(core, movers, moving, number)
    index = 0
    while index < player.contacts:
        if frame_of(solids, contacts[index].outline) == number:
            take_off(contacts, player, index)
        else:
            index += 1


@leaf
def note_scale(core: Any) -> None:
    """Note which speeds and accelerations count as nothing in this tick, at whose begin nothing has happened yet."""
    world, body, player, segment = core.world, core.body, core.player, core.segment
    segment.aloft, segment.ended = 0, -1
    speed = abs(player.vx) + abs(player.vy) + abs(player.frame_vx) + abs(player.frame_vy)
    segment.tiny_speed = SLIDING * (speed + body.sprint + world.weight * world.dt)
    segment.tiny_accel = SLIDING * (world.weight + body.ground_accel + body.air_accel)


@leaf
def skip_touched(player: Any, contacts: Any, segment: Any, height: float, shortest: float) -> None:
    """Leave out what is touched and not left, or not come back to: the plan does not go into it.

    What is left so slowly that it is still touched after the shortest step is left out for that step, so that nothing
    rattles between two sides that are as far apart as the body is wide.
    """
    for index in range(player.contacts):
        contact = contacts[index]
        apart = -approach_speed(player, contact)
        pull = segment.ax * contact.nx + segment.ay * contact.ny
        contact.skipped = 1 if apart <= segment.tiny_speed or pull >= -segment.tiny_accel else 0
        if not contact.skipped and apart * shortest <= TOUCHING * height:
            contact.skipped = 1
            if shortest < segment.limit:
                segment.limit, segment.reason = shortest, NEARING


@leaf
def plan(core: Any, felt: Any, floor: Any, ladders: Any, now: float) -> None:
    """Write the acceleration of the segment that begins now, and its latest end."""
    body, player, contacts, segment = core.body, core.player, core.contacts, core.segment
    segment.rest = segment.limit
    segment.reason = END_OF_TICK
    segment.arc = -1
    segment.flies = 0
    if floor is not None:
        plan_top(core, felt, now)
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
def _finish(
    world: Any, body: Any, solids: Any, floor: Any, player: Any, contacts: Any, segment: Any, journal: Any, now: float
) -> None:
    """Do what the end of a segment is about."""
    reason = segment.reason
    if reason == FACE_END:
        follows = segment.which == segment.ground and body.snap > 0.0 and player.stance == GROUND
        if not follow_face(world, solids, player, contacts, segment.which, follows):
            segment.ended = contacts[segment.which].feature
            take_off(contacts, player, segment.which)
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
