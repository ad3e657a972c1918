"""The bodies' part of a tick, in its order.

A tick is a few short steps, each with one soft pass and one that takes out again what softness gave [1]_. What meets
faster than it may comes to an impact at its time.

References
----------
.. [1] M. Macklin et al., "Small steps in physics simulation", SCA (2019); E. Catto, "Soft constraints" (2011).
"""

from __future__ import annotations

from typing import Any

from haptos.engine.bodies.body_pulls import pull_bodies
from haptos.engine.bodies.contact_rows import HARD, SLOP, SOFT, forget_impulses, place_rows, press_rows, warm_up
from haptos.engine.bodies.hands import draw_in_hand, end_hand
from haptos.engine.bodies.hinge_rows import begin_hinges, draw_hinges, note_torques, settle_hinges
from haptos.engine.bodies.pair_store import begin_pairs, first_pair, keep_asleep
from haptos.engine.bodies.pairing import find_pairs, sort_bodies
from haptos.engine.bodies.partaking import adopt_bodies, place_others, tell_flights, write_boxes
from haptos.engine.bodies.patches import MARGIN
from haptos.engine.bodies.player_feet import begin_foot, press_down, rest_on
from haptos.engine.bodies.player_push import brace, drive_feet, give_way, place_player, share_push, stir_near
from haptos.engine.bodies.resting import UNTOLD_YET, fall_asleep, say_woken, wake, wake_touching
from haptos.engine.bodies.rousing import wake_moved
from haptos.engine.bodies.story import say_stalled, tell_lost_pairs, tell_pairs, tell_supports
from haptos.engine.bodies.strikes import find_eager, go_through_step, look_at_fast
from haptos.engine.bodies.throwing import throw_bodies
from haptos.engine.bodies.world_limits import heed_edges
from haptos.engine.compiling.contract import leaf
from haptos.engine.records.codes import SHORT_OF_PAIRS


@leaf
def step_bodies(
    core: Any, felt: Any, launches: Any, stirred: Any, floor: Any, moving: Any, begin: float, end: float
) -> None:
    """Let all loose bodies go through a tick."""
    if stirred is None:
        return
    world, player, journal = core.world, core.player, core.journal
    loose, tally = stirred.loose, stirred.tally[0]
    laws = loose.laws[0]
    tally.time, tally.begin, tally.stalled = 0.0, begin, 0.0
    slept = tally.begun != 0 and tally.awake == 0 and tally.known == player.stirs
    if not slept:
        adopt_bodies(stirred, moving, begin)
    place_others(stirred, world, moving, begin, end)
    place_player(stirred, core, floor, end - begin)
    stir_near(stirred)
    _heed_changes(stirred, player.stirs)
    tally.told = player.tick
    if slept and tally.woken == 0:
        tally.told = -1
        # All sleep, and nothing has happened.
        return
    tally.woken = 0
    wake_touching(stirred)
    tally.awake = _count_awake(stirred)
    if tally.awake == 0:
        return
    time = end - begin
    pull_bodies(stirred, felt, world, moving, begin, time)
    write_boxes(stirred, time, MARGIN)
    sort_bodies(stirred)
    begin_pairs(stirred)
    keep_asleep(stirred)
    find_pairs(stirred, felt, time)
    _wake_met(stirred, time)
    share_push(stirred, core)
    _begin_loads(stirred)
    begin_foot(stirred)
    for _ in range(laws.substeps):
        _go_through(stirred, laws, core, felt, begin)
    _weigh(stirred, laws)
    note_torques(stirred, time)
    heed_edges(stirred, core, moving, end)
    if tally.stalled > 0.0:
        say_stalled(stirred, journal, player, end)
    tell_pairs(stirred, journal, player, begin, end)
    tell_lost_pairs(stirred, journal, player, end)
    tell_supports(stirred, journal, player, begin, end)
    throw_bodies(stirred, core, felt, launches, end)
    end_hand(stirred, journal, player, end)
    wake_moved(stirred)
    say_woken(stirred, journal, player)
    fall_asleep(stirred, journal, player, time, end)
    tell_flights(stirred, moving, begin, end)
    tally.begun = 1
    if tally.lost:
        # The caller makes more room, and lets this tick run again.
        player.halted = SHORT_OF_PAIRS


@leaf
def _go_through(stirred: Any, laws: Any, core: Any, felt: Any, begin: float) -> None:
    """Let the bodies go through one short step."""
    tally, count = stirred.tally[0], stirred.loose.bodies.shape[0]
    step = laws.step
    now, rest = begin + tally.time, laws.substeps * step - tally.time
    first = first_pair(stirred, tally.turn)
    last = first + tally.pairs
    # What the player pushes is solved before the rest; mostly it pushes nothing.
    begins = 0 if tally.pushes > 0 else 1
    if tally.pushes > 0:
        for number in range(first, last):
            if stirred.pairs[number].cap >= 0.0:
                brace(stirred, laws, stirred.pairs[number])
    for row in range(count):
        body = stirred.partakers[row]
        if body.awake:
            body.vx += step * body.ax
            body.vy += step * body.ay
            body.pressed, body.swept = 1 if body.jointed else 0, 0
    drive_feet(stirred)
    draw_in_hand(stirred, laws, step, now)
    begin_hinges(stirred, step)
    look_at_fast(stirred, felt, step, rest)
    find_eager(stirred, laws)
    last = first + tally.pairs
    for number in range(first, last):
        pair = stirred.pairs[number]
        if _takes_part(pair):
            if pair.cap >= 0.0:
                forget_impulses(stirred, number)
            else:
                warm_up(stirred, number)
        elif pair.eager:
            # An impact begins from nothing: what was given in the step before is not given again.
            forget_impulses(stirred, number)
    # What the player presses on, and what it pushes, comes before what holds that.
    press_down(stirred, laws, core)
    rest_on(stirred, laws, core)
    draw_hinges(stirred, laws, step)
    for turn_of in range(begins, 2):
        for number in range(first, last):
            pair = stirred.pairs[number]
            if _takes_part(pair) and (pair.cap >= 0.0) == (turn_of == 0):
                press_rows(stirred, laws, number, SOFT)
                _note_pressed(stirred, number)
    go_through_step(stirred, felt, laws, step, rest - step)
    last = first + tally.pairs
    for number in range(first, last):
        pair = stirred.pairs[number]
        if pair.active and pair.points > 0:
            place_rows(stirred, number)
    rest_on(stirred, laws, core)
    settle_hinges(stirred, laws, step)
    for turn_of in range(begins, 2):
        for number in range(first, last):
            pair = stirred.pairs[number]
            if pair.active and pair.points > 0 and not pair.eager and (pair.cap >= 0.0) == (turn_of == 0):
                press_rows(stirred, laws, number, HARD)
    _note_impulses(stirred, laws, core, first, last)


@leaf
def _takes_part(pair: Any) -> bool:
    """Whether a pair is solved before the bodies move on."""
    return pair.active != 0 and pair.points > 0 and not pair.eager


@leaf
def _note_pressed(stirred: Any, number: int) -> None:
    """Note that bodies are held by what they touch: they do not fly."""
    pair = stirred.pairs[number]
    for place in range(pair.points):
        if stirred.points[2 * number + place].normal > 0.0:
            stirred.partakers[pair.first].pressed = 1
            stirred.partakers[pair.second].pressed = 1


@leaf
def _note_impulses(stirred: Any, laws: Any, core: Any, first: int, last: int) -> None:
    """Add the impulses of a step to those of the tick."""
    for number in range(first, last):
        pair = stirred.pairs[number]
        if pair.active:
            pressed = 0.0
            for place in range(pair.points):
                pressed += stirred.points[2 * number + place].normal
            pair.impulse += pressed
            if pair.cap >= 0.0:
                give_way(stirred, laws, core, pair, pressed)


@leaf
def _count_awake(stirred: Any) -> int:
    """Return how many bodies are awake."""
    awake = 0
    for row in range(stirred.loose.bodies.shape[0]):
        awake += stirred.partakers[row].awake
    return awake


@leaf
def _heed_changes(stirred: Any, changes: int) -> None:
    """Wake everybody where a rule has changed something, or a hand takes hold."""
    tally = stirred.tally[0]
    if tally.known == changes:
        return
    tally.known = changes
    for row in range(stirred.loose.bodies.shape[0]):
        body = stirred.partakers[row]
        if body.there:
            slept = body.awake == 0
            wake(stirred, row)
            if slept:
                # That is told only if it moves.
                body.stirred = UNTOLD_YET


@leaf
def _wake_met(stirred: Any, time: float) -> None:
    """Wake those that are asleep and come to be touched; say which pairs are to be solved."""
    tally, count = stirred.tally[0], stirred.loose.bodies.shape[0]
    first = first_pair(stirred, tally.turn)
    for number in range(first, first + tally.pairs):
        pair = stirred.pairs[number]
        if pair.first < count and pair.points > 0:
            a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
            if a.awake != b.awake and pair.gap <= SLOP * min(a.size, b.size):
                wake(stirred, pair.first)
                wake(stirred, pair.second)
    wake_touching(stirred)
    for number in range(first, first + tally.pairs):
        pair = stirred.pairs[number]
        a, b = stirred.partakers[pair.first], stirred.partakers[pair.second]
        pair.active = 1 if b.awake or (pair.first < count and a.awake) else 0
        if pair.points > 0 and pair.active:
            place_rows(stirred, number)


@leaf
def _begin_loads(stirred: Any) -> None:
    for index in range(stirred.loads.shape[0]):
        stirred.loads[index] = 0.0


@leaf
def _weigh(stirred: Any, laws: Any) -> None:
    """Write the force that rests on each piece, of bodies that lie on it."""
    tally, loose = stirred.tally[0], stirred.loose
    first = first_pair(stirred, tally.turn)
    time = laws.step * laws.substeps
    for number in range(first, first + tally.pairs):
        pair = stirred.pairs[number]
        rise = pair.nx * laws.up_x + pair.ny * laws.up_y
        if pair.passed or pair.points == 0:
            continue
        impulse = pair.impulse
        if not pair.active:
            # What sleeps lies as it has lain.
            for place in range(pair.points):
                impulse += laws.substeps * stirred.points[2 * number + place].normal
        first_piece, second_piece = loose.shapes[pair.first_shape].piece, loose.shapes[pair.second_shape].piece
        if rise > 0.0 and first_piece >= 0:
            stirred.loads[first_piece] += rise * impulse / time
        elif rise < 0.0 and pair.first < loose.bodies.shape[0]:
            stirred.loads[second_piece] -= rise * impulse / time
