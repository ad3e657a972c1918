"""How a run begins, and how the body is put somewhere: what it stands on and overlaps there is felt at once."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.moving_outlines import begin_movers
from haptos.engine.collision.zones import survey_zones
from haptos.engine.compiling.contract import leaf
from haptos.engine.game.objectives import resolve_objectives
from haptos.engine.game.sensors import watch_pieces
from haptos.engine.pieces.crumbling import update_weight
from haptos.engine.pieces.flight import begin_flights
from haptos.engine.player.frames import measure_contacts, name_floor, say_boarded, update_frame
from haptos.engine.player.gravity import update_gravity
from haptos.engine.player.kept_contacts import find_support, is_ground, say_parted
from haptos.engine.player.regions import survey_effects
from haptos.engine.player.response import answer_contacts
from haptos.engine.player.slide import note_scale
from haptos.engine.player.touching import find_contacts
from haptos.engine.player.world_edges import teleport
from haptos.engine.records.codes import NO_PIECE
from haptos.engine.records.events import PLACED, RESTARTS, START
from haptos.engine.records.journal import write
from haptos.engine.tick.tick import follow_rules


@leaf
def start(core: Any, felt: Any, played: Any, scene: Any, tables: Any, state: Any) -> None:
    """Begin a run: feel what the body already stands on and overlaps."""
    world, body, player, journal = core.world, core.body, core.player, core.journal
    movers, moving, stakes, floor = tables.movers, state.moving, tables.stakes, tables.floor
    player.started = 1
    first = journal.written[0]
    write(journal, player, START, 0.0, NO_PIECE, math.nan, 0.0)
    if player.era > 0:
        write(journal, player, RESTARTS, 0.0, NO_PIECE, math.nan, 0.0)
    begin_movers(movers, world, core.solids, felt.zones, felt.effects, moving, state.near, player, 0.0)
    begin_flights(movers, moving)
    find_ground(core, felt, floor, movers, moving)
    update_weight(movers, core.solids, moving, player, core.contacts, core.touched, journal, 0.0)
    survey_zones(felt, felt.zones, player, journal, body.height, 0.0)
    survey_effects(felt.effects, felt.fields, player, felt.within, felt.occupied, body.height)
    if floor is not None:
        name_floor(felt.effects, felt.surfaces, felt.within, player)
    update_gravity(stakes, world, movers, felt.fields, player, core.contacts, moving, felt.occupied, journal, 0.0)
    update_frame(core, felt, movers, moving, 0.0)
    say_boarded(movers, moving, player, journal)
    # Who starts on a mover rests on it.
    player.vx, player.vy = 0.0, 0.0
    watch_pieces(core, tables.watches, movers, moving, state.watching, 0.0, 0.0)
    resolve_objectives(core, felt, played, stakes, movers, floor, moving, first, player.x, player.y, 0.0, 0.0)
    follow_rules(core, felt, scene, tables, first, 0.0)


@leaf
def find_ground(core: Any, felt: Any, floor: Any, movers: Any, moving: Any) -> None:
    """Find the support of a body that starts standing."""
    if floor is None:
        note_scale(core)
        find_contacts(core, movers, moving)
        measure_contacts(core, movers, moving)
        _go_with_ground(core)
        answer_contacts(core, felt, floor, felt.ladders, felt.launches, movers, moving, 0.0)
        find_support(core.world, core.body, core.solids, core.contacts, core.player)


@leaf
def _go_with_ground(core: Any) -> None:
    """Let the body go as fast as what it starts on."""
    player = core.player
    for index in range(player.contacts):
        contact = core.contacts[index]
        if is_ground(core.world, player, contact.nx, contact.ny):
            player.vx, player.vy = contact.ux, contact.uy
            return


@leaf
def place(core: Any, felt: Any, scene: Any, tables: Any, state: Any, x: float, y: float) -> None:
    """Put the player somewhere at the start of the coming tick."""
    world, body, player, journal = core.world, core.body, core.player, core.journal
    now = player.tick * world.dt
    if player.over:
        return
    first = journal.written[0]
    begin_movers(tables.movers, world, core.solids, felt.zones, felt.effects, state.moving, state.near, player, now)
    teleport(body, tables.floor, player, core.contacts, core.touched, core.passing, x, y, now)
    write(journal, player, PLACED, now, NO_PIECE, math.nan, 0.0)
    say_parted(core.touched, player, journal)
    survey_zones(felt, felt.zones, player, journal, body.height, now)
    survey_effects(felt.effects, felt.fields, player, felt.within, felt.occupied, body.height)
    update_gravity(
        tables.stakes, world, tables.movers, felt.fields, player, core.contacts, state.moving, felt.occupied, journal,
        now,
    )  # fmt: skip
    follow_rules(core, felt, scene, tables, first, now)
