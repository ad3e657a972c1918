"""The order of one tick, and the kernel that runs many of them."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bringing import begin_movers
from haptos.engine.carry import advance_movers, leave_movers
from haptos.engine.compiled import constant, kernel, leaf
from haptos.engine.contacts import find_support, say_parted
from haptos.engine.counting import record_counts
from haptos.engine.crumbling import feel_weight
from haptos.engine.edges import put
from haptos.engine.effects import ladder_in_reach, survey_effects
from haptos.engine.flight import advance_flights, break_on_player, record_flights
from haptos.engine.floor import turn
from haptos.engine.frames import settle_frame
from haptos.engine.gravity import correct_flight, feel_gravity, lose_to_drag
from haptos.engine.impact import first_impact, set_path
from haptos.engine.intent import ACTING, JUMP, press
from haptos.engine.journal import NO_PIECE, PLACED, START, Journal, record, write
from haptos.engine.ladders import jump_off, take_hold
from haptos.engine.ledges import drop_through
from haptos.engine.rules import Scene, apply_rules
from haptos.engine.settling import grant, settle_stakes
from haptos.engine.slide import move
from haptos.engine.spawning import make_pieces
from haptos.engine.state import AIR, CLIMBING, RESTARTING, State
from haptos.engine.strike import strike
from haptos.engine.tables import Obstacles
from haptos.engine.upright import turn_upright
from haptos.engine.zones import end_drops, survey_zones

# Makes an integer of the kind that kernels use out of the byte of controls.
NO_CONTROLS = constant(0)


@leaf
def tick(tables: Any, solids: Any, zones: Any, effects: Any, state: Any, held: int, journal: Any) -> None:
    """Step one world, whose part of the state this is, by one tick."""
    world, body = tables.world[0], tables.body[0]
    player = state.player
    contacts, inside, passing = state.contacts, state.inside, state.passing
    begin = player.tick * world.dt
    player.tick += 1
    if player.over:
        return
    first = journal.written[0]
    from_x, from_y = player.x, player.y

    acts = (held & ~player.held & ACTING) != 0
    # Controls: what begins with a press, as jumps, drops through a floor and holds on a ladder do.
    control(
        tables.floor, tables.ledges, zones, effects, tables.ladders, body, player, contacts, passing,
        state.within, journal, held, begin,
    )  # fmt: skip
    settle_frame(
        tables.movers, solids, zones, inside, effects, tables.surfaces, state.within, state.moving, body, player,
        contacts, journal, begin,
    )  # fmt: skip
    # Timers and spawners; what flies.
    end = player.tick * world.dt
    make_pieces(
        tables.movers, world, tables.edges, body, player, state.moving, state.spawning, journal, acts, tables.floor,
        begin, end,
    )  # fmt: skip
    advance_flights(tables.movers, world, tables.edges, body, player, state.moving, journal, begin, end)
    # Movers go to their new pose; what stands on one is carried, what is in the way is pushed.
    advance_movers(
        tables.movers, tables.fields, tables.walls, tables.floor, body, solids, zones, effects, passing, world, player,
        contacts, state.touched, state.moving, state.near, inside, state.visits, state.within, state.occupied,
        state.rules, state.probe, state.path, state.hit, journal, begin, player.tick * world.dt,
    )  # fmt: skip
    settle_frame(
        tables.movers, solids, zones, inside, effects, tables.surfaces, state.within, state.moving, body, player,
        contacts, journal, max(begin, player.met_at),
    )  # fmt: skip
    # Gravity and fields; the body stands up after them.
    feel_gravity(
        tables.stakes, world, tables.movers, tables.fields, player, contacts, state.moving, state.occupied, journal,
        begin,
    )  # fmt: skip
    turn_upright(
        tables.stakes, tables.movers, world, body, tables.fields, solids, zones, effects, tables.walls, player,
        contacts, state.moving, journal, begin,
    )  # fmt: skip
    lose_to_drag(tables.stakes, player, world.dt)
    pulled_x, pulled_y, flies = player.x, player.y, player.stance == AIR
    # The player's own motion; zones, lost and respawn happen inside it, at their exact times.
    move(
        world, body, solids, tables.walls, zones, tables.edges, tables.floor, effects,
        tables.pieces, tables.surfaces, tables.fields, tables.ladders, tables.launches, tables.movers,
        tables.stakes, tables.whole,
        state.moving, player, contacts, state.touched, inside, state.seen, state.visits, passing, state.within,
        state.occupied, state.ready, state.segment, state.path, state.probe, state.hit, journal, begin,
    )  # fmt: skip
    correct_flight(
        tables.stakes, world, tables.movers, tables.fields, player, state.moving, pulled_x, pulled_y, flies, world.dt
    )  # fmt: skip
    leave_movers(
        tables.movers, solids, tables.walls, passing, body, player, state.moving, state.near, state.probe, state.path,
        state.hit, end,
    )  # fmt: skip
    end_drops(zones, inside, passing, player)
    feel_weight(tables.movers, solids, state.moving, player, contacts, state.touched, journal)
    break_on_player(tables.movers, state.moving, world.layer, player, journal, first)
    # What was taken, what hurt, what saved.
    settle(tables, zones, state, journal, first, from_x, from_y, begin, end)
    # Rules, by event time, then in file order.
    follow_rules(tables, zones, state, journal, first, end)


@leaf
def follow_rules(tables: Any, zones: Any, state: Any, journal: Any, first: int, end: float) -> None:
    """Let the rules answer what has happened since an event, and grant what they wish."""
    scene = Scene(
        tables.rules, state.rules, state.visits, state.moving, state.spawning, state.counts, state.given, state.cells
    )
    apply_rules(
        tables.rules, scene, tables.stakes, tables.movers, state.player, journal, first, tables.world[0].dt, end
    )  # fmt: skip
    grant(
        tables.stakes, tables.body[0], zones, tables.floor, state.player, state.contacts, state.touched, state.inside,
        state.visits, state.passing, journal, end,
    )  # fmt: skip


@leaf
def settle(
    tables: Any, zones: Any, state: Any, journal: Any, first: int, from_x: float, from_y: float, begin: float,
    end: float,
) -> None:  # fmt: skip
    """Answer what the body has met on its way from a place."""
    settle_stakes(
        tables.stakes, tables.movers, tables.world[0], tables.body[0], zones, tables.floor, state.player,
        state.contacts, state.touched, state.inside, state.visits, state.passing, state.moving, state.taken,
        state.coming, state.counts, state.given, state.hurting, state.saved, journal, first, from_x, from_y, begin, end,
    )  # fmt: skip


@leaf
def control(
    floor: Any, ledges: Any, zones: Any, effects: Any, ladders: Any, body: Any, player: Any, contacts: Any,
    passing: Any, within: Any, journal: Any, held: int, now: float,
) -> None:  # fmt: skip
    """Take the controls of a tick."""
    if floor is not None:
        turn(player, journal, held, now)
        return
    drops = False
    if ledges is not None:
        drops = drop_through(zones, passing, body, player, contacts, held, now)
    jumps = (held & ~player.held & JUMP) != 0 and not drops
    let_go = jumps and player.stance == CLIMBING
    if ladders is not None:
        if let_go:
            jump_off(ladders, body, player, passing, journal, held, now)
    press(body, player, journal, held, now, drops)
    if ladders is not None:
        if let_go:
            # Up or down has to be pressed anew to take hold again.
            player.grip = 0
        if not jumps and player.stance != CLIMBING:
            row = ladder_in_reach(effects, ladders, body, player, within)
            if row >= 0:
                take_hold(ladders, body, row, player, contacts, passing, journal, now)


@leaf
def start(tables: Any, solids: Any, zones: Any, effects: Any, state: Any, journal: Any) -> None:
    """Begin a run: feel what the body already stands on and overlaps."""
    world, body = tables.world[0], tables.body[0]
    player = state.player
    player.started = 1
    first = journal.written[0]
    write(journal, player, START, 0.0, NO_PIECE, math.nan, 0.0)
    begin_movers(tables.movers, world, solids, zones, effects, state.moving, 0.0)
    feel_ground(
        world, body, solids, tables.walls, tables.floor, tables.pieces, tables.surfaces, tables.ladders,
        tables.launches, player, state.contacts, state.touched, state.passing, state.probe, state.path, state.hit,
        state.ready, journal,
    )  # fmt: skip
    feel_weight(tables.movers, solids, state.moving, player, state.contacts, state.touched, journal)
    survey_zones(zones, state.inside, state.visits, player, journal, body.height, 0.0)
    survey_effects(effects, tables.fields, player, state.within, state.occupied, body.height)
    feel_gravity(
        tables.stakes, world, tables.movers, tables.fields, player, state.contacts, state.moving, state.occupied,
        journal, 0.0,
    )  # fmt: skip
    settle_frame(
        tables.movers, solids, zones, state.inside, effects, tables.surfaces, state.within, state.moving, body, player,
        state.contacts, journal, 0.0,
    )  # fmt: skip
    # Who starts on a mover rests on it.
    player.vx, player.vy = 0.0, 0.0
    settle(tables, zones, state, journal, first, player.x, player.y, 0.0, 0.0)
    follow_rules(tables, zones, state, journal, first, 0.0)


@leaf
def feel_ground(
    world: Any, body: Any, solids: Any, walls: Any, floor: Any, pieces: Any, surfaces: Any, ladders: Any,
    launches: Any, player: Any, contacts: Any, touched: Any, passing: Any, probe: Any, path: Any, hit: Any,
    ready: Any, journal: Any,
) -> None:  # fmt: skip
    """Find the support of a body that starts standing."""
    if floor is None:
        set_path(path, player.x, player.y, 0.0, 0.0, player.gravity_x, player.gravity_y, 0.0)
        first_impact(solids, passing, walls, contacts, player.contacts, body.height, path, hit)
        if hit.t == 0.0:
            strike(
                world, body, solids, passing, walls, floor, pieces, surfaces, ladders, launches, player, contacts,
                touched, ready, probe, path, hit, journal, player.contacts > 0, 0.0,
            )  # fmt: skip
            find_support(world, body, solids, contacts, player)


@leaf
def place(tables: Any, solids: Any, zones: Any, effects: Any, state: Any, x: float, y: float, journal: Any) -> None:
    """Put the player somewhere at the start of the coming tick."""
    world, body = tables.world[0], tables.body[0]
    player = state.player
    now = player.tick * world.dt
    if player.over:
        return
    first = journal.written[0]
    begin_movers(tables.movers, world, solids, zones, effects, state.moving, now)
    put(body, tables.floor, player, state.contacts, state.touched, state.passing, x, y, now)
    write(journal, player, PLACED, now, NO_PIECE, math.nan, 0.0)
    say_parted(state.touched, player, journal)
    survey_zones(zones, state.inside, state.visits, player, journal, body.height, now)
    survey_effects(effects, tables.fields, player, state.within, state.occupied, body.height)
    feel_gravity(
        tables.stakes, world, tables.movers, tables.fields, player, state.contacts, state.moving, state.occupied,
        journal, now,
    )  # fmt: skip
    follow_rules(tables, zones, state, journal, first, now)


@leaf
def here(movers: Any, rest: Any, outlines: Any, faces: Any) -> Any:
    """Return obstacles where they are in one world; they are at rest where nothing moves."""
    if movers is None:
        return rest
    return Obstacles(outlines, faces, rest.grid, rest.start, rest.items)


@kernel
def advance(
    tables: Any, state: Any, world_index: int, held: Any, place_tick: Any, place_at: Any, track: Any,
    scores: Any, events: Any, count: Any, flights: Any, flight_count: Any,
) -> None:  # fmt: skip
    """Run one world through the given ticks, up to where the level begins again.

    Parameters
    ----------
    tables : Tables
    state : State
    world_index : which world of the state
    held : (n,) uint8, controls of each tick
    place_tick, place_at : (k,), (k, 2): before which of these ticks the player is put where
    track : (n + 1,) TRACK, row 0 is the state before
    scores : (n + 1, k) the same of what is counted
    events : (m,) EVENT
    count : (1,) how many events there were; more than m means that the caller has to run this again with more room
    flights, flight_count : (p,) PIECE_TRACK, (1,) the same of what flies
    """
    journal = Journal(events, count)
    own: Any = State(
        state.player[world_index],
        state.contacts[world_index],
        state.touched[world_index],
        state.segment[world_index],
        state.path[world_index],
        state.probe[world_index],
        state.hit[world_index],
        state.inside[world_index],
        state.seen[world_index],
        state.visits[world_index],
        state.rules[world_index],
        state.passing[world_index],
        state.within[world_index],
        state.occupied[world_index],
        state.ready[world_index],
        state.moving[world_index],
        state.near[world_index],
        state.outlines[world_index],
        state.faces[world_index],
        state.zone_outlines[world_index],
        state.zone_faces[world_index],
        state.effect_outlines[world_index],
        state.effect_faces[world_index],
        state.spawning[world_index],
        state.taken[world_index],
        state.coming[world_index],
        state.hurting[world_index],
        state.counts[world_index],
        state.given[world_index],
        state.saved[world_index],
        state.corners[world_index],
        state.cells[world_index],
    )
    solids = here(tables.movers, tables.solids, own.outlines, own.faces)
    zones = here(tables.movers, tables.zones, own.zone_outlines, own.zone_faces)
    effects = here(tables.movers, tables.effects, own.effect_outlines, own.effect_faces)
    player = own.player
    body = tables.body[0]
    placed = 0
    if player.started == 0:
        start(tables, solids, zones, effects, own, journal)
    for index in range(held.shape[0]):
        while placed < place_tick.shape[0] and place_tick[placed] <= index:
            place(tables, solids, zones, effects, own, place_at[placed, 0], place_at[placed, 1], journal)
            placed += 1
        if index == 0:
            record(body, player, track[0])
            record_counts(tables.stakes, own.counts, scores[0])
        tick(tables, solids, zones, effects, own, held[index] + NO_CONTROLS, journal)
        record(body, player, track[index + 1])
        record_counts(tables.stakes, own.counts, scores[index + 1])
        record_flights(tables.movers, tables.world[0], own.moving, player, flights, flight_count)
        if player.over == RESTARTING or player.looping:
            return
    while placed < place_tick.shape[0]:
        place(tables, solids, zones, effects, own, place_at[placed, 0], place_at[placed, 1], journal)
        placed += 1
    if held.shape[0] == 0:
        record(body, player, track[0])
        record_counts(tables.stakes, own.counts, scores[0])
