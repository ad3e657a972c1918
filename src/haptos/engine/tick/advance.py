"""The kernel: one world goes through some ticks."""

from __future__ import annotations

from typing import Any

from haptos.engine.bodies.hands import handle
from haptos.engine.bodies.partaking import record_bodies
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.game.counters import record_counts
from haptos.engine.pieces.flight import record_flights
from haptos.engine.records.bundles import Core, Felt, Played
from haptos.engine.records.codes import PLACES_PLAYER
from haptos.engine.records.journal import Journal, record
from haptos.engine.records.loose_records import Stirred
from haptos.engine.records.tables import Obstacles
from haptos.engine.tick.start import place, start
from haptos.engine.tick.tick import tick

# Makes an integer of the kind that kernels use out of the byte of controls.
NO_CONTROLS = constant(0)


@leaf
def here(movers: Any, rest: Any, outlines: Any, faces: Any, near: Any, around: Any, box: Any) -> Any:
    """Return obstacles where they are in one world; they are at rest where nothing moves."""
    if rest is None:
        return None
    if movers is None:
        return Obstacles(rest.outlines, rest.faces, rest.grid, rest.start, rest.items, near, around, box)
    return Obstacles(outlines, faces, rest.grid, rest.start, rest.items, near, around, box)


@leaf
def stirred_in(loose: Any, movers: Any, state: Any) -> Any:
    """Return the loose bodies of one world, None where a level has none."""
    if loose is None:
        return None
    return Stirred(
        loose, movers, state.partakers, state.pairs, state.points, state.heads_of_pairs, state.pinned, state.order,
        state.loads, state.hand, state.tally, state.patch, state.spots,
    )  # fmt: skip


@leaf
def perform(core: Any, felt: Any, played: Any, stirred: Any, tables: Any, state: Any, deed: Any) -> None:
    """Do what a cue does at the begin of a tick."""
    if deed.what == PLACES_PLAYER:
        place(core, felt, played, tables, state, deed.x, deed.y)
    else:
        handle(stirred, core, state.moving, deed)


@leaf
def advance(
    tables: Any,
    state: Any,
    held: Any,
    deeds: Any,
    track: Any,
    scores: Any,
    events: Any,
    flights: Any,
    written: Any,
    flown: Any,
) -> None:
    """Run one world through the given ticks, up to where the level ends or begins again.

    Parameters
    ----------
    tables : Tables
    state : State
        Of one world, with `player`, `segment`, `path` and `hit` as records.
    held : (n,) uint8
        Controls of each tick.
    deeds : (k,) DEED
        What is done before which of these ticks.
    track : (n + 1,) TRACK
        Row 0 is the state before; it is written where the level begins.
    scores : (n + 1, counters)
        The same of what is counted.
    events, flights : (m,) EVENT, (p,) FLOWN
        Room for what happens, and for how what flies does.
    written, flown : (1,), (1,)
        How many of them there were; more than there is room for mean that the caller has to run this again with more.
    """
    movers = tables.movers
    solids = here(
        movers, tables.solids, state.outlines, state.faces, state.near_solids, state.around_solids, state.box_solids
    )
    zones = here(
        movers, tables.zones, state.zone_outlines, state.zone_faces, state.near_zones, state.around_zones,
        state.box_zones,
    )  # fmt: skip
    effects = here(
        movers, tables.effects, state.effect_outlines, state.effect_faces, state.near_effects, state.around_effects,
        state.box_effects,
    )  # fmt: skip
    core = Core(
        tables.world[0], tables.body[0], solids, tables.walls, tables.edges, state.player, state.contacts,
        state.touched, state.passing, state.segment, state.path, state.probe, state.hit, Journal(events, written),
    )  # fmt: skip
    felt = Felt(
        zones, effects, tables.pieces, tables.surfaces, tables.fields, tables.ladders, tables.launches, state.inside,
        state.seen, state.visits, state.within, state.occupied, state.ready,
    )  # fmt: skip
    played = Played(state.taken, state.coming, state.counts, state.given, state.hurting, state.saved)
    stirred = stirred_in(tables.loose, tables.movers, state)
    player = core.player
    done = 0
    begins = player.started == 0
    if begins:
        start(core, felt, played, tables, state)
    for index in range(held.shape[0]):
        while done < deeds.shape[0] and deeds[done].tick <= index:
            perform(core, felt, played, stirred, tables, state, deeds[done])
            done += 1
        if index == 0 and begins:
            record(core.body, player, track[0])
            record_counts(tables.stakes, state.counts, scores[0])
        tick(core, felt, played, stirred, tables, state, held[index] + NO_CONTROLS)
        record(core.body, player, track[index + 1])
        record_counts(tables.stakes, state.counts, scores[index + 1])
        record_flights(tables.movers, core.world, state.moving, player, flights, flown)
        record_bodies(stirred, core.world, state.moving, player, flights, flown)
        if player.over or player.looping:
            return
    while done < deeds.shape[0]:
        perform(core, felt, played, stirred, tables, state, deeds[done])
        done += 1
    if held.shape[0] == 0 and begins:
        record(core.body, player, track[0])
        record_counts(tables.stakes, state.counts, scores[0])
