"""The kernel: one world goes through some ticks."""

from __future__ import annotations

from typing import Any

from haptos.engine.compiling.contract import constant, kernel, leaf
from haptos.engine.compiling.rows import rows_of
from haptos.engine.game.counters import record_counts
from haptos.engine.pieces.flight import record_flights
from haptos.engine.records.journal import Journal, record
from haptos.engine.records.state import RESTARTING, State
from haptos.engine.records.tables import Obstacles
from haptos.engine.tick.start import place, start
from haptos.engine.tick.tick import tick

# Makes an integer of the kind that kernels use out of the byte of controls.
NO_CONTROLS = constant(0)


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
    constants, journal = rows_of(tables), rows_of(Journal(events, count))
    own: Any = rows_of(
        State(
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
            state.firings[world_index],
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
            state.watching[world_index],
            state.cells[world_index],
        )
    )
    solids = here(constants.movers, constants.solids, own.outlines, own.faces)
    zones = here(constants.movers, constants.zones, own.zone_outlines, own.zone_faces)
    effects = here(constants.movers, constants.effects, own.effect_outlines, own.effect_faces)
    player = own.player
    body = constants.body[0]
    placed = 0
    if player.started == 0:
        start(constants, solids, zones, effects, own, journal)
    for index in range(held.shape[0]):
        while placed < place_tick.shape[0] and place_tick[placed] <= index:
            place(constants, solids, zones, effects, own, place_at[placed, 0], place_at[placed, 1], journal)
            placed += 1
        if index == 0:
            record(body, player, track[0])
            record_counts(constants.stakes, own.counts, scores[0])
        tick(constants, solids, zones, effects, own, held[index] + NO_CONTROLS, journal)
        record(body, player, track[index + 1])
        record_counts(constants.stakes, own.counts, scores[index + 1])
        record_flights(constants.movers, constants.world[0], own.moving, player, flights, flight_count)
        if player.over == RESTARTING or player.looping:
            return
    while placed < place_tick.shape[0]:
        place(constants, solids, zones, effects, own, place_at[placed, 0], place_at[placed, 1], journal)
        placed += 1
    if held.shape[0] == 0:
        record(body, player, track[0])
        record_counts(constants.stakes, own.counts, scores[0])
