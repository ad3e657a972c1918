"""Ladders: taking hold, climbing along the ladder's own up, and letting go.

A ladder is climbed between where the foot is at its bottom and where it is at its top.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import leaf
from haptos.engine.player.admissible import admit_velocity, approach_speed
from haptos.engine.player.controls import AT_THE_END, END_OF_TICK, LADDER_END, direction, gait, leave_support
from haptos.engine.records.codes import CLIMBING, DOWN, GROUND, JUMP, NO_LADDER, NO_SUPPORT, UP
from haptos.engine.records.events import AT_BOTTOM, CLIMB, JUMPS_OFF, LETS_GO, ON_TOP, TAKES_HOLD
from haptos.engine.records.journal import write

# The foot is at an end of the ladder within this share of the body's height.
AT_END = 1e-7


@leaf
def foot_on(ladder: Any, body: Any, player: Any) -> float:
    """Return how high the foot is over the ladder's middle, along it."""
    along = (player.x - ladder.x) * ladder.up_x + (player.y - ladder.y) * ladder.up_y
    return along - 0.5 * body.height


@leaf
def may_take_hold(ladder: Any, body: Any, player: Any) -> bool:
    """Whether up or down takes hold of a ladder that is in reach: there has to be some of it left that way."""
    if not player.grip or player.ladder != NO_LADDER:
        return False
    foot = foot_on(ladder, body, player)
    near = AT_END * body.height
    if player.held & UP and not player.held & DOWN:
        return foot < ladder.half_height - near
    if player.held & DOWN and not player.held & UP:
        # Standing on something solid, there is no way down; on a ladder's top or a one-way floor there is.
        return foot > -ladder.half_height + near and (player.stance != GROUND or player.on_ledge != 0)
    return False


@leaf
def take_hold(ladders: Any, row: int, player: Any, passing: Any, journal: Any, now: float) -> None:
    """Hold on to a ladder: gravity is off, and one-way pieces are climbed through."""
    player.ladder = row
    player.stance = CLIMBING
    player.support = NO_SUPPORT
    player.vx, player.vy = 0.0, 0.0
    player.coyote = 0
    player.cut_armed = 0
    player.press_armed = 0
    # What is held on to carries the body: contacts with what it stood on are over.
    player.contacts = 0
    passing[passing.shape[0] - 1] = 1
    write(journal, player, CLIMB, now, ladders[row].piece, math.nan, TAKES_HOLD)


@leaf
def let_go_of_ladder(player: Any, passing: Any, now: float) -> None:
    """Forget the ladder; the measure of a fall starts anew."""
    player.ladder = NO_LADDER
    passing[passing.shape[0] - 1] = 0
    leave_support(player, now)


@leaf
def jump_off(ladders: Any, body: Any, player: Any, passing: Any, journal: Any, held: int, now: float) -> None:
    """Let go with jump: to the side that is held at the gait's speed; with down, without a jump."""
    piece = ladders[player.ladder].piece
    let_go_of_ladder(player, passing, now)
    if held & DOWN:
        player.vx, player.vy = 0.0, 0.0
        player.held |= JUMP
        write(journal, player, CLIMB, now, piece, math.nan, LETS_GO)
        return
    write(journal, player, CLIMB, now, piece, math.nan, JUMPS_OFF)
    way = direction(held) * player.handed * gait(body, player)
    player.vx, player.vy = way * player.up_y, -way * player.up_x
    player.jumps_left = body.extra_jumps
    # The jump itself is the press's, which finds the body on the ground that the ladder was.
    player.stance = GROUND


@leaf
def leave_ladder(player: Any, passing: Any, journal: Any, now: float, piece: int) -> None:
    """Let go of a ladder that the body has been moved out of."""
    let_go_of_ladder(player, passing, now)
    write(journal, player, CLIMB, now, piece, math.nan, LETS_GO)


@leaf
def plan_ladder(
    ladders: Any, body: Any, player: Any, contacts: Any, passing: Any, segment: Any, journal: Any, now: float
) -> bool:
    """Plan a segment of climbing; return False if the ladder ends here and the body is let go."""
    ladder = ladders[player.ladder]
    remaining = segment.limit
    ux, uy = ladder.up_x, ladder.up_y
    near = AT_END * body.height
    climb = float((player.held & UP) // UP) - float((player.held & DOWN) // DOWN)
    speed = body.climb * ladder.speed_factor * player.speed_factor
    foot = foot_on(ladder, body, player)
    room = ladder.half_height - foot if climb > 0.0 else foot + ladder.half_height
    if climb != 0.0 and room <= near:
        if climb < 0.0 or ladder.top:
            if room >= -near:
                # Exactly to the end, so that what is there is met.
                player.x += climb * room * ux
                player.y += climb * room * uy
            player.vx, player.vy = 0.0, 0.0
            piece = ladder.piece
            let_go_of_ladder(player, passing, now)
            write(journal, player, CLIMB, now, piece, math.nan, AT_BOTTOM if climb < 0.0 else ON_TOP)
            return False
        climb = 0.0
    segment.ax, segment.ay = 0.0, 0.0
    segment.ground = -1
    segment.axis_x, segment.axis_y = 0.0, 0.0
    if climb != 0.0 and room <= speed * segment.limit * AT_THE_END:
        segment.limit, segment.reason = min(room / speed, segment.limit), LADDER_END
    aside, off = 0.0, 0.0
    if ladder.centres:
        off = (player.x - ladder.x) * uy - (player.y - ladder.y) * ux
        if abs(off) > near:
            aside = -speed if off > 0.0 else speed
    player.vx = climb * speed * ux + aside * uy
    player.vy = climb * speed * uy - aside * ux
    for index in range(player.contacts):
        contacts[index].held = 1 if approach_speed(player, contacts[index]) >= -segment.tiny_speed else 0
    admit_velocity(player, contacts, segment.tiny_speed)
    across = player.vx * uy - player.vy * ux
    if aside != 0.0 and across * off < 0.0 and abs(off) <= abs(across) * segment.limit * AT_THE_END:
        segment.limit, segment.reason = min(abs(off / across), segment.limit), LADDER_END
    elif ladder.centres and aside == 0.0 and abs(across) > segment.tiny_speed:
        _keep_to_middle(player, contacts, segment.tiny_speed, climb * speed, speed, ux, uy)
    if player.vx == 0.0 and player.vy == 0.0 and segment.reason == LADDER_END:
        segment.limit, segment.reason = remaining, END_OF_TICK
    height = player.x * player.up_x + player.y * player.up_y
    player.base = height
    player.peak = height
    player.air_since = now
    return True


@leaf
def _keep_to_middle(
    player: Any, contacts: Any, tiny: float, climb: float, speed: float, ux: float, uy: float
) -> None:  # fmt: skip
    """Hold a climber to the middle of its ladder who is pressed aside, as by a slanted ceiling, if its pull does that.

    In the middle the pull back may be anything up to its speed either way: the one holds that changes nothing.
    """
    vx, vy = player.vx, player.vy
    across = vx * uy - vy * ux
    aside = -speed if across > 0.0 else speed
    player.vx, player.vy = climb * ux + aside * uy, climb * uy - aside * ux
    admit_velocity(player, contacts, tiny)
    pulled = player.vx * uy - player.vy * ux
    if across * pulled <= 0.0:
        share = across / (across - pulled)
        player.vx, player.vy = vx + share * (player.vx - vx), vy + share * (player.vy - vy)
    else:
        player.vx, player.vy = vx, vy
