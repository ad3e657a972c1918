"""How a run begins, and how the body is put somewhere: what it stands on and overlaps there is felt at once."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import first_impact, set_path
from haptos.engine.collision.moving_outlines import begin_movers
from haptos.engine.collision.zones import survey_zones
from haptos.engine.compiling.contract import leaf
from haptos.engine.game.sensors import watch_pieces
from haptos.engine.pieces.crumbling import feel_weight
from haptos.engine.player.frames import settle_frame
from haptos.engine.player.gravity import feel_gravity
from haptos.engine.player.kept_contacts import find_support, say_parted
from haptos.engine.player.regions import survey_effects
from haptos.engine.player.response import strike
from haptos.engine.player.world_edges import put
from haptos.engine.records.journal import NO_PIECE, PLACED, START, write
from haptos.engine.tick.tick import follow_rules, settle


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
    watch_pieces(
        tables.watches, tables.movers, world, body, state.moving, state.watching, player, journal, 0.0, 0.0
    )  # fmt: skip
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
