"""The order of one tick."""

from __future__ import annotations

from typing import Any

from haptos.engine.bodies.player_answer import answer_player
from haptos.engine.bodies.step_bodies import step_bodies
from haptos.engine.compiling.contract import leaf
from haptos.engine.game.objectives import apply_requests, resolve_objectives
from haptos.engine.game.rule_engine import apply_rules
from haptos.engine.game.sensors import watch_pieces
from haptos.engine.movers.on_the_clock import gather_movers, leave_movers
from haptos.engine.pieces.crumbling import update_weight
from haptos.engine.pieces.flight import advance_flights, follow_player, go_with_player
from haptos.engine.pieces.flight_contacts import break_on_player
from haptos.engine.pieces.spawning import make_pieces
from haptos.engine.player.controls import press
from haptos.engine.player.frames import update_frame
from haptos.engine.player.gravity import correct_flight, lose_to_drag, update_gravity
from haptos.engine.player.kept_contacts import piece_underfoot
from haptos.engine.player.ladders import jump_off, take_hold
from haptos.engine.player.one_way import drop_through, end_drops
from haptos.engine.player.orientation import turn_upright
from haptos.engine.player.regions import ladder_in_reach, update_factors
from haptos.engine.player.slide import move
from haptos.engine.player.top_view import turn
from haptos.engine.records.codes import ACTING, AIR, CLIMBING, ENDLESS, JUMP

# So often rules can ask for something at the end of one tick.
MOST_ANSWERS = 16


@leaf
def tick(
    core: Any, felt: Any, played: Any, stirred: Any, scene: Any, tables: Any, state: Any, held: int
) -> None:  # fmt: skip
    """Step one world, whose part of the state this is, by one tick."""
    world, player, journal = core.world, core.player, core.journal
    begin = player.tick * world.dt
    player.tick += 1
    if player.over:
        return
    first = journal.written[0]
    from_x, from_y = player.x, player.y

    acts = (held & ~player.held & ACTING) != 0
    floor, movers, stakes = tables.floor, tables.movers, tables.stakes
    moving = state.moving
    # Controls: what begins with a press, as jumps, drops through a floor and holds on a ladder do.
    control(core, felt, floor, tables.ledges, felt.ladders, held, begin)
    update_frame(core, felt, movers, moving, begin)
    # Timers and spawners; what flies.
    end = player.tick * world.dt
    follow_player(movers, player, moving, begin)
    make_pieces(core, movers, moving, state.spawning, acts, floor, begin, end)
    # Loose bodies, which then fly on through the tick for everybody else.
    step_bodies(core, felt, felt.launches, stirred, floor, moving, begin, end)
    advance_flights(core, movers, moving, state.due, begin, end)
    # What moves and is near.
    gather_movers(core, felt, movers, moving, state.near, state.rules, begin, end)
    # Gravity and fields; the body stands up after them.
    update_gravity(stakes, world, movers, felt.fields, player, core.contacts, moving, felt.occupied, journal, begin)
    turn_upright(core, stakes, movers, felt.fields, felt.zones, felt.effects, moving, begin)
    lose_to_drag(stakes, player, world.dt)
    pulled_x, pulled_y, flies = player.x, player.y, player.stance == AIR
    # The player and all that moves, on one clock: it rides, is pushed, lands, parts, enters and leaves, is lost and
    # comes back, each at its exact time.
    move(core, felt, floor, felt.launches, movers, stakes, tables.whole, moving, state.near, begin)
    correct_flight(stakes, world, movers, felt.fields, player, moving, pulled_x, pulled_y, flies, world.dt)
    leave_movers(core, movers, moving, state.near, end)
    answer_player(stirred, core, first)
    end_drops(felt.zones, felt.inside, core.passing, player)
    update_weight(movers, core.solids, moving, player, core.contacts, core.touched, journal, begin)
    go_with_player(movers, player, moving, journal, first, from_x, from_y, begin, end)
    break_on_player(movers, world, moving, player, journal, first)
    watch_pieces(core, tables.watches, movers, moving, state.watching, begin, end)
    # What was taken, what hurt, what saved.
    resolve_objectives(core, felt, played, stakes, movers, floor, moving, first, from_x, from_y, begin, end)
    # Rules, by event time, then in file order.
    follow_rules(core, felt, scene, tables, first, end)
    follow_player(movers, player, moving, end)


@leaf
def follow_rules(core: Any, felt: Any, scene: Any, tables: Any, first: int, end: float) -> None:
    """Let the rules answer what has happened since an event, do what they ask for, and let them answer that."""
    for _ in range(MOST_ANSWERS):
        apply_rules(core, tables.rules, scene, tables.stakes, tables.movers, first, core.world.dt, end)
        first = core.journal.written[0]
        apply_requests(core, felt, tables.stakes, tables.floor, end)
        if core.journal.written[0] == first:
            return
    if core.player.halted == 0:
        core.player.halted = ENDLESS


@leaf
def control(core: Any, felt: Any, floor: Any, ledges: Any, ladders: Any, held: int, now: float) -> None:
    """Take the controls of a tick."""
    body, player, contacts, passing, journal = core.body, core.player, core.contacts, core.passing, core.journal
    if floor is not None:
        turn(player, journal, held, now)
        return
    # Where it has just come to be, a field holds already.
    update_factors(
        felt.effects, felt.fields, felt.pieces, felt.surfaces, player, felt.within, felt.occupied, piece_underfoot(core)
    )
    drops = False
    if ledges is not None:
        drops = drop_through(felt.zones, passing, body, player, contacts, held, now)
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
            row = ladder_in_reach(felt.effects, ladders, body, player, felt.within)
            if row >= 0:
                take_hold(ladders, row, player, passing, journal, now)
