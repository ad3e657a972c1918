"""The order of one tick."""

from __future__ import annotations

from typing import Any

from haptos.engine.collision.zones import end_drops
from haptos.engine.compiling.contract import leaf
from haptos.engine.game.objectives import grant, settle_stakes
from haptos.engine.game.rule_engine import Scene, apply_rules
from haptos.engine.game.sensors import watch_pieces
from haptos.engine.movers.carry import advance_movers, leave_movers
from haptos.engine.pieces.crumbling import feel_weight
from haptos.engine.pieces.flight import advance_flights, follow_player, go_with_player
from haptos.engine.pieces.flight_contacts import break_on_player
from haptos.engine.pieces.spawning import make_pieces
from haptos.engine.player.controls import ACTING, JUMP, press
from haptos.engine.player.frames import settle_frame
from haptos.engine.player.gravity import correct_flight, feel_gravity, lose_to_drag
from haptos.engine.player.ladders import jump_off, take_hold
from haptos.engine.player.one_way import drop_through
from haptos.engine.player.orientation import turn_upright
from haptos.engine.player.regions import ladder_in_reach
from haptos.engine.player.slide import move
from haptos.engine.player.top_view import turn
from haptos.engine.records.state import AIR, CLIMBING


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
    follow_player(tables.movers, player, state.moving, begin)
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
    go_with_player(tables.movers, player, state.moving, journal, first, from_x, from_y, begin, end)
    break_on_player(tables.movers, world, state.moving, player, journal, first)
    watch_pieces(
        tables.watches, tables.movers, world, body, state.moving, state.watching, player, journal, begin, end
    )  # fmt: skip
    # What was taken, what hurt, what saved.
    settle(tables, zones, state, journal, first, from_x, from_y, begin, end)
    # Rules, by event time, then in file order.
    follow_rules(tables, zones, state, journal, first, end)
    follow_player(tables.movers, player, state.moving, end)


@leaf
def follow_rules(tables: Any, zones: Any, state: Any, journal: Any, first: int, end: float) -> None:
    """Let the rules answer what has happened since an event, and grant what they wish."""
    scene = Scene(
        tables.world[0], tables.edges, tables.rules, state.rules, state.firings, tables.watches, state.watching,
        state.visits, state.moving, state.spawning, state.counts, state.given, state.cells,
    )  # fmt: skip
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
