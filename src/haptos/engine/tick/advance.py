"""The kernel: one world goes through some ticks."""

from __future__ import annotations

from typing import Any

from haptos.engine.bodies.hands import handle
from haptos.engine.bodies.partaking import record_bodies
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.game.counters import record_counts
from haptos.engine.pieces.flight import record_flights
from haptos.engine.records.codes import PLACES_PLAYER
from haptos.engine.records.journal import record
from haptos.engine.tick.start import place, start
from haptos.engine.tick.tick import tick

# Makes an integer of the kind that kernels use out of the byte of controls.
NO_CONTROLS = constant(0)


@leaf
def perform(core: Any, felt: Any, stirred: Any, scene: Any, tables: Any, state: Any, deed: Any) -> None:
    """Do what a cue does at the begin of a tick."""
    if deed.what == PLACES_PLAYER:
        place(core, felt, scene, tables, state, deed.x, deed.y)
    else:
        handle(stirred, core, state.moving, deed)


@leaf
def advance(
    core: Any, felt: Any, played: Any, stirred: Any, scene: Any, tables: Any, state: Any,
    held: Any, deeds: Any, track: Any, scores: Any, flights: Any, flown: Any,
) -> None:  # fmt: skip
    """Run one world through the given ticks, up to where the level ends or begins again.

    Parameters
    ----------
    core, felt, played, stirred, scene : Core, Felt, Played, Stirred or None, Scene
    tables, state : Tables, State
        Of one world, with `player`, `segment`, `path` and `hit` as records.
    held : (n,) uint8
        Controls of each tick.
    deeds : (k,) DEED
        What is done before which of these ticks.
    track : (n + 1,) TRACK
        Row 0 is the state before; it is written where the level begins.
    scores : (n + 1, counters)
        The same of what is counted.
    flights : (p,) FLOWN
        Room for how what flies does, as there is room in the journal for what happens.
    flown : (1,)
        How many of them there were; more than there is room for mean that the caller has to run this again with more.
    """
    player = core.player
    done = 0
    begins = player.started == 0
    if begins:
        start(core, felt, played, scene, tables, state)
    for index in range(held.shape[0]):
        while done < deeds.shape[0] and deeds[done].tick <= index:
            perform(core, felt, stirred, scene, tables, state, deeds[done])
            done += 1
        if index == 0 and begins:
            record(core.body, player, track[0])
            record_counts(tables.stakes, state.counts, scores[0])
        tick(core, felt, played, stirred, scene, tables, state, held[index] + NO_CONTROLS)
        record(core.body, player, track[index + 1])
        record_counts(tables.stakes, state.counts, scores[index + 1])
        record_flights(tables.movers, core.world, state.moving, player, flights, flown)
        record_bodies(stirred, core.world, state.moving, player, flights, flown)
        if player.over or player.halted:
            return
    while done < deeds.shape[0]:
        perform(core, felt, stirred, scene, tables, state, deeds[done])
        done += 1
    if held.shape[0] == 0 and begins:
        record(core.body, player, track[0])
        record_counts(tables.stakes, state.counts, scores[0])
