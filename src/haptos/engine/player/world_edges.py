"""The edges of the world that are crossed: where a body is lost, and where it comes back on the other side."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.roots import falls_at, falls_within
from haptos.engine.collision.zones import survey_zones
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.player.controls import EDGE
from haptos.engine.player.kept_contacts import let_go
from haptos.engine.records.codes import (
    AIR,
    AWAY,
    BEGINS_AGAIN,
    COMES_BACK,
    ENDED,
    LOST_EDGE,
    NO_LADDER,
    NO_MOVER,
    NO_PIECE,
    NO_SUPPORT,
    OPEN_EDGE,
    RESTARTING,
    STALE,
    WRAP_EDGE,
)
from haptos.engine.records.events import LOST, RESPAWN, WRAP
from haptos.engine.records.journal import write

# The sides in the order of level.world.SIDES, and the height below which a body is lost.
LEFT_SIDE, RIGHT_SIDE, BOTTOM_SIDE, TOP_SIDE, DEPTHS = (constant(side) for side in range(5))


@leaf
def limit_at_edges(edges: Any, player: Any, segment: Any) -> None:
    """End the segment where the body's centre crosses an edge that does something."""
    edge = edges[0]
    if not edge.acts:
        return
    # What carries the body takes it over an edge, too.
    vx, vy, ax, ay = player.vx + player.frame_vx, player.vy + player.frame_vy, segment.ax, segment.ay
    if edge.left != OPEN_EDGE:
        _limit(player.x - edge.x0, vx, ax, LEFT_SIDE, edge.left == LOST_EDGE, segment)
    if edge.right != OPEN_EDGE:
        _limit(edge.x1 - player.x, -vx, -ax, RIGHT_SIDE, edge.right == LOST_EDGE, segment)
    if edge.bottom != OPEN_EDGE:
        _limit(player.y - edge.y0, vy, ay, BOTTOM_SIDE, edge.bottom == LOST_EDGE, segment)
    if edge.top != OPEN_EDGE:
        _limit(edge.y1 - player.y, -vy, -ay, TOP_SIDE, edge.top == LOST_EDGE, segment)
    if edge.lost_below > -math.inf:
        # Below is where the world's own gravity points, whatever the body feels.
        height = player.x * edge.up_x + player.y * edge.up_y - edge.lost_below
        rising = vx * edge.up_x + vy * edge.up_y
        _limit(height, rising, ax * edge.up_x + ay * edge.up_y, DEPTHS, edge.lost_below > -math.inf, segment)


@leaf
def _limit(room: float, speed: float, pull: float, side: int, loses: bool, segment: Any) -> None:
    if room > 0.0:
        t = falls_within(room, speed, pull, segment.limit)
    elif speed < 0.0 or (speed == 0.0 and pull < 0.0) or (loses and room < 0.0):
        # On the edge and going on, or put beyond it.
        t = 0.0
    else:
        t = falls_at(0.0, speed, pull)
    if 0.0 <= t < segment.limit:
        segment.limit = t
        segment.reason = EDGE
        segment.which = side


@leaf
def cross_edge(core: Any, felt: Any, floor: Any, now: float) -> None:
    """Come back at the opposite edge, or be lost and begin again at the start."""
    body, edges, player, segment, journal = core.body, core.edges, core.player, core.segment, core.journal
    edge = edges[0]
    side = segment.which
    wraps = False
    if side == LEFT_SIDE and edge.left == WRAP_EDGE:
        player.x += edge.x1 - edge.x0
        wraps = True
    elif side == RIGHT_SIDE and edge.right == WRAP_EDGE:
        player.x -= edge.x1 - edge.x0
        wraps = True
    elif side == BOTTOM_SIDE and edge.bottom == WRAP_EDGE:
        player.y += edge.y1 - edge.y0
        wraps = True
    elif side == TOP_SIDE and edge.top == WRAP_EDGE:
        player.y -= edge.y1 - edge.y0
        wraps = True
    let_go(player)
    if wraps:
        if side >= BOTTOM_SIDE:
            # The measure of a fall goes on across the edge.
            shift = (edge.y1 - edge.y0) * (1.0 if side == BOTTOM_SIDE else -1.0) * player.up_y
        else:
            shift = (edge.x1 - edge.x0) * (1.0 if side == LEFT_SIDE else -1.0) * player.up_x
        player.peak += shift
        player.base += shift
        write(journal, player, WRAP, now, NO_PIECE, math.nan, float(side))
    else:
        write(journal, player, LOST, now, NO_PIECE, math.nan, float(side))
        begin_again(core, felt, floor, now)
        return
    survey_zones(felt, felt.zones, player, journal, body.height, now)


@leaf
def begin_again(core: Any, felt: Any, floor: Any, now: float) -> None:
    """Put the body back to its start, or where it was saved, if it has a life left and its level goes on."""
    body, player = core.body, core.player
    player.lives -= 1.0
    if player.lives <= 0.0 or body.on_death != COMES_BACK:
        teleport(body, floor, player, core.contacts, core.touched, core.passing, player.x, player.y, now)
        player.stance = AWAY
        player.over = RESTARTING if player.lives > 0.0 and body.on_death == BEGINS_AGAIN else ENDED
        survey_zones(felt, felt.zones, player, core.journal, body.height, now)
        return
    player.health = body.health
    come_back(core, felt, floor, now)


@leaf
def come_back(core: Any, felt: Any, floor: Any, now: float) -> None:
    """Put the body where it was saved, or to its start."""
    body, player, journal = core.body, core.player, core.journal
    teleport(body, floor, player, core.contacts, core.touched, core.passing, player.home_x, player.home_y, now)
    player.facing = player.home_facing
    player.base_gravity = player.home_gravity
    write(journal, player, RESPAWN, now, NO_PIECE, math.nan, 0.0)
    survey_zones(felt, felt.zones, player, journal, body.height, now)


@leaf
def teleport(
    body: Any, floor: Any, player: Any, contacts: Any, touched: Any, passing: Any, x: float, y: float, now: float
) -> None:
    """Put the body somewhere, at rest and touching nothing yet."""
    player.x = x
    player.y = y
    player.vx = 0.0
    player.vy = 0.0
    let_go(player)
    for index in range(player.touched):
        touched[index].parted = 1
        touched[index].t = now
    player.stance = AIR if floor is None else 1
    player.support = NO_SUPPORT
    player.ground = NO_SUPPORT
    player.ladder = NO_LADDER
    player.frame = NO_MOVER
    player.frame_vx, player.frame_vy = 0.0, 0.0
    player.tuned = STALE
    for index in range(passing.shape[0]):
        passing[index] = 0
    player.dropping = 0
    player.air_since = now
    player.coyote = 0
    player.cut_armed = 0
    player.press_armed = 0
    player.jumps_left = body.extra_jumps
    height = x * player.up_x + y * player.up_y
    player.peak = height
    player.base = height
