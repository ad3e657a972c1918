"""The order of one tick, and the kernel that runs many of them."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiled import kernel, leaf
from haptos.engine.contacts import find_support, say_parted
from haptos.engine.edges import put
from haptos.engine.impact import first_impact
from haptos.engine.intent import face_way, press
from haptos.engine.journal import NO_PIECE, PLACED, START, Journal, record, write
from haptos.engine.rules import apply_rules
from haptos.engine.slide import move, strike
from haptos.engine.zones import survey_zones


@leaf
def tick(tables: Any, state: Any, world_index: int, held: int, journal: Any) -> None:
    """Step one world by one tick."""
    world, body = tables.world[0], tables.body[0]
    player = state.player[world_index]
    contacts, touched = state.contacts[world_index], state.touched[world_index]
    inside, visits = state.inside[world_index], state.visits[world_index]
    begin = player.tick * world.dt
    player.tick += 1
    first = journal.count[0]

    # Controls, and the jumps that begin or end with them.
    if tables.floor is None:
        press(body, player, journal, held, begin)
    else:
        player.held = held
        face_way(player, held)
    # The player's own motion; zones, lost and respawn happen inside it, at their exact times.
    move(
        world, body, tables.solids, tables.walls, tables.zones, tables.edges, tables.floor,
        player, contacts, touched, inside, visits, state.segment[world_index], state.hit[world_index], journal, begin,
    )  # fmt: skip
    # Rules, by event time, then in file order.
    if tables.rules is not None:
        apply_rules(
            tables.rules, state.rules[world_index], visits, player, journal, first, world.dt, begin + world.dt
        )


@leaf
def start(tables: Any, state: Any, world_index: int, journal: Any) -> None:
    """Begin a run: feel what the body already stands on and overlaps."""
    world, body = tables.world[0], tables.body[0]
    player = state.player[world_index]
    hit = state.hit[world_index]
    player.started = 1
    first = journal.count[0]
    write(journal, player, START, 0.0, NO_PIECE, math.nan, 0.0)
    if tables.floor is None:
        first_impact(
            tables.solids, tables.walls, state.contacts[world_index], 0, body.height, player.x, player.y,
            0.0, 0.0, player.gravity_x, player.gravity_y, 0.0, hit,
        )  # fmt: skip
        if hit.t == 0.0:
            strike(
                world, body, tables.solids, tables.walls, tables.floor, player,
                state.contacts[world_index], state.touched[world_index], hit, journal, False, 0.0,
            )  # fmt: skip
            find_support(world, body, tables.solids, state.contacts[world_index], player)
    if tables.zones is not None:
        survey_zones(
            tables.zones, state.inside[world_index], state.visits[world_index], player, journal, body.height, 0.0
        )
    if tables.rules is not None:
        apply_rules(
            tables.rules, state.rules[world_index], state.visits[world_index], player, journal, first, world.dt, 0.0
        )


@leaf
def place(tables: Any, state: Any, world_index: int, x: float, y: float, journal: Any) -> None:
    """Put the player somewhere at the start of the coming tick."""
    world, body = tables.world[0], tables.body[0]
    player = state.player[world_index]
    now = player.tick * world.dt
    first = journal.count[0]
    put(body, tables.floor, player, state.contacts[world_index], state.touched[world_index], x, y, now)
    write(journal, player, PLACED, now, NO_PIECE, math.nan, 0.0)
    say_parted(state.touched[world_index], player, journal)
    if tables.zones is not None:
        survey_zones(
            tables.zones, state.inside[world_index], state.visits[world_index], player, journal, body.height, now
        )
    if tables.rules is not None:
        apply_rules(
            tables.rules, state.rules[world_index], state.visits[world_index], player, journal, first, world.dt, now
        )


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
    player = state.player[world_index]
    body = tables.body[0]
    placed = 0
    if player.started == 0:
        start(tables, state, world_index, journal)
    for index in range(held.shape[0]):
        while placed < place_tick.shape[0] and place_tick[placed] <= index:
            place(tables, state, world_index, place_at[placed, 0], place_at[placed, 1], journal)
            placed += 1
        if index == 0:
            record(body, player, track[0])
        tick(tables, state, world_index, held[index], journal)
        record(body, player, track[index + 1])
    while placed < place_tick.shape[0]:
        place(tables, state, world_index, place_at[placed, 0], place_at[placed, 1], journal)
        placed += 1
    if held.shape[0] == 0:
        record(body, player, track[0])
