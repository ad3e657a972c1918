"""The order of one tick, and the kernel that runs many of them."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiled import constant, kernel, leaf
from haptos.engine.contacts import find_support, say_parted
from haptos.engine.edges import put
from haptos.engine.impact import first_impact
from haptos.engine.intent import press, turn
from haptos.engine.journal import NO_PIECE, PLACED, START, Journal, record, write
from haptos.engine.rules import apply_rules
from haptos.engine.slide import move, strike
from haptos.engine.state import State
from haptos.engine.zones import survey_zones

# Makes an integer of the kind that kernels use out of the byte of controls.
NO_CONTROLS = constant(0)


@leaf
def tick(tables: Any, state: Any, held: int, journal: Any) -> None:
    """Step one world, whose part of the state this is, by one tick."""
    world, body = tables.world[0], tables.body[0]
    player = state.player
    contacts, touched = state.contacts, state.touched
    inside, visits = state.inside, state.visits
    begin = player.tick * world.dt
    player.tick += 1
    first = journal.written[0]

    # Controls, and the jumps that begin or end with them.
    control(tables.floor, body, player, journal, held, begin)
    # The player's own motion; zones, lost and respawn happen inside it, at their exact times.
    move(
        world, body, tables.solids, tables.walls, tables.zones, tables.edges, tables.floor,
        player, contacts, touched, inside, state.seen, visits,
        state.segment, state.hit, journal, begin,
    )  # fmt: skip
    # Rules, by event time, then in file order.
    apply_rules(tables.rules, state.rules, visits, player, journal, first, world.dt, begin + world.dt)


@leaf
def control(floor: Any, body: Any, player: Any, journal: Any, held: int, now: float) -> None:
    """Take the controls of a tick."""
    if floor is None:
        press(body, player, journal, held, now)
    else:
        turn(player, journal, held, now)


@leaf
def start(tables: Any, state: Any, journal: Any) -> None:
    """Begin a run: feel what the body already stands on and overlaps."""
    world, body = tables.world[0], tables.body[0]
    player = state.player
    player.started = 1
    first = journal.written[0]
    write(journal, player, START, 0.0, NO_PIECE, math.nan, 0.0)
    feel_ground(
        world, body, tables.solids, tables.walls, tables.floor, player,
        state.contacts, state.touched, state.hit, journal,
    )  # fmt: skip
    visits = state.visits
    survey_zones(tables.zones, state.inside, visits, player, journal, body.height, 0.0)
    apply_rules(tables.rules, state.rules, visits, player, journal, first, world.dt, 0.0)


@leaf
def feel_ground(
    world: Any, body: Any, solids: Any, walls: Any, floor: Any, player: Any,
    contacts: Any, touched: Any, hit: Any, journal: Any,
) -> None:  # fmt: skip
    """Find the support of a body that starts standing."""
    if floor is None:
        first_impact(
            solids, walls, contacts, player.contacts, body.height, player.x, player.y,
            0.0, 0.0, player.gravity_x, player.gravity_y, 0.0, hit,
        )  # fmt: skip
        if hit.t == 0.0:
            strike(
                world,
                body,
                solids,
                walls,
                floor,
                player,
                contacts,
                touched,
                hit,
                journal,
                player.contacts > 0,
                0.0,
            )
            find_support(world, body, solids, contacts, player)


@leaf
def place(tables: Any, state: Any, x: float, y: float, journal: Any) -> None:
    """Put the player somewhere at the start of the coming tick."""
    world, body = tables.world[0], tables.body[0]
    player = state.player
    touched, visits = state.touched, state.visits
    now = player.tick * world.dt
    first = journal.written[0]
    put(body, tables.floor, player, state.contacts, touched, x, y, now)
    write(journal, player, PLACED, now, NO_PIECE, math.nan, 0.0)
    say_parted(touched, player, journal)
    survey_zones(tables.zones, state.inside, visits, player, journal, body.height, now)
    apply_rules(tables.rules, state.rules, visits, player, journal, first, world.dt, now)


@kernel
def advance(
    tables: Any, state: Any, world_index: int, held: Any, place_tick: Any, place_at: Any, track: Any,
    events: Any, count: Any,
) -> None:  # fmt: skip
    """Run one world through the given ticks.

    Parameters
    ----------
    tables : Tables
    state : State
    world_index : which world of the state
    held : (n,) uint8, controls of each tick
    place_tick, place_at : (k,), (k, 2): before which of these ticks the player is put where
    track : (n + 1,) TRACK, row 0 is the state before
    events : (m,) EVENT
    count : (1,) how many events there were; more than m means that the caller has to run this again with more room
    """
    journal = Journal(events, count)
    own: Any = State(
        state.player[world_index],
        state.contacts[world_index],
        state.touched[world_index],
        state.segment[world_index],
        state.hit[world_index],
        state.inside[world_index],
        state.seen[world_index],
        state.visits[world_index],
        state.rules[world_index],
    )
    player = own.player
    body = tables.body[0]
    placed = 0
    if player.started == 0:
        start(tables, own, journal)
    for index in range(held.shape[0]):
        while placed < place_tick.shape[0] and place_tick[placed] <= index:
            place(tables, own, place_at[placed, 0], place_at[placed, 1], journal)
            placed += 1
        if index == 0:
            record(body, player, track[0])
        tick(tables, own, held[index] + NO_CONTROLS, journal)
        record(body, player, track[index + 1])
    while placed < place_tick.shape[0]:
        place(tables, own, place_at[placed, 0], place_at[placed, 1], journal)
        placed += 1
    if held.shape[0] == 0:
        record(body, player, track[0])
