"""What the player's own motion through a tick means to the bodies: landings, jumps, kicks, and who has parted."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.pair_store import first_pair
from haptos.engine.bodies.player_feet import NOBODY, body_under, come_onto, recoil
from haptos.engine.bodies.player_push import stay_before_walls
from haptos.engine.bodies.resting import wake
from haptos.engine.collision.separation import gap_between
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.kept_contacts import forget_touch, touch
from haptos.engine.records.codes import AIR, GROUND, THE_PLAYER
from haptos.engine.records.events import JUMPS, LAND, LAUNCHED, PARTS
from haptos.engine.records.journal import sort_since, write
from haptos.engine.records.loose_records import PLAYER_ROW

# So far from a body, in heights of its own, the player has parted from it.
PARTED = 0.01
# Who pushes with a normal whose part along the ground is less than this does not push along it.
LEVEL = 0.1


@leaf
def answer_player(stirred: Any, core: Any, first: int) -> None:
    """Let bodies feel how the player has jumped off them, or landed on them, since an event."""
    if stirred is None:
        return
    loose, journal, tally = stirred.loose, core.journal, stirred.tally[0]
    laws = loose.laws[0]
    was_on = tally.stood
    tally.stood = body_under(stirred, core)
    if tally.stood != was_on:
        tally.foot_normal, tally.foot_rubs = 0.0, 0.0
        for row in (was_on, tally.stood):
            if row >= 0:
                wake(stirred, row)
    _touch_bodies(stirred, core)
    _part_from_bodies(stirred, core)
    landed, thrown = False, False
    for index in range(first, min(journal.written[0], journal.rows.shape[0])):
        event = journal.rows[index]
        if event.who != THE_PLAYER:
            continue
        if event.kind == LAND and tally.stood >= 0:
            if loose.bodies[tally.stood].piece == event.piece:
                landed = True
                recoil(stirred, core, tally.stood, event.x, event.y, event.more)
        elif event.kind == JUMPS:
            thrown = True
            if was_on >= 0:
                recoil(stirred, core, was_on, event.x, event.y, event.amount)
        elif event.kind == LAUNCHED:
            thrown = True
    itself = stirred.partakers[loose.bodies.shape[0] + PLAYER_ROW]
    if tally.stood >= 0 and tally.stood != was_on and not landed:
        # It has come under the player.
        come_onto(stirred, laws, tally.stood, itself.vx, itself.vy)
    if not thrown:
        _leave_no_faster(stirred, core)
    sort_since(journal, first)


@leaf
def _leave_no_faster(stirred: Any, core: Any) -> None:
    """Let no bodies that press on the player make it faster than they are at the end of the tick.

    Through the tick it goes with them at their mean speed. On the ground none drives it away faster than it comes, and
    whose feet slip goes on as fast as what it pushes; in the air a wedge of two gives it no more than the fastest has.
    """
    tally, count, player = stirred.tally[0], stirred.loose.bodies.shape[0], core.player
    if player.frame >= 0 or tally.told != player.tick:
        return
    itself = stirred.partakers[count + PLAYER_ROW]
    fastest, met = math.sqrt(itself.vx * itself.vx + itself.vy * itself.vy), False
    begin = first_pair(stirred, tally.turn)
    for number in range(begin, begin + tally.pairs):
        pair = stirred.pairs[number]
        if pair.first != count + PLAYER_ROW:
            continue
        body = stirred.partakers[pair.second]
        met = True
        fastest = max(fastest, math.sqrt(body.vx * body.vx + body.vy * body.vy) + abs(body.spin) * body.reach)
        if player.stance != GROUND or pair.impulse == 0.0:
            continue
        if itself.light > 0.0:
            _go_on_with(stirred.loose.laws[0], core, pair, itself)
        else:
            its = (body.vx - body.spin * pair.second_y) * pair.nx + (body.vy + body.spin * pair.second_x) * pair.ny
            least = min(its, itself.vx * pair.nx + itself.vy * pair.ny, 0.0)
            goes = player.vx * pair.nx + player.vy * pair.ny
            if goes < least and stirred.loose.laws[0].top:
                player.vx += (least - goes) * pair.nx
                player.vy += (least - goes) * pair.ny
            elif goes < least:
                # It goes along the ground, and does not leave it.
                player.vx *= least / goes
                player.vy *= least / goes
    speed = math.sqrt(player.vx * player.vx + player.vy * player.vy)
    if met and player.stance == AIR and speed > fastest:
        player.vx *= fastest / speed
        player.vy *= fastest / speed


@leaf
def _go_on_with(laws: Any, core: Any, pair: Any, itself: Any) -> None:
    """Let the player leave a tick with the speed that it and what it pushes have come to."""
    player = core.player
    lacks = (itself.vx - player.vx) * pair.nx + (itself.vy - player.vy) * pair.ny
    x, y = pair.nx, pair.ny
    if not laws.top:
        # It goes along the ground, and does not leave it.
        x, y = player.up_y, -player.up_x
    along = x * pair.nx + y * pair.ny
    if abs(along) > LEVEL:
        vx, vy = player.vx + lacks / along * x, player.vy + lacks / along * y
        player.vx, player.vy = stay_before_walls(core, vx, vy)


@leaf
def _touch_bodies(stirred: Any, core: Any) -> None:
    """Say which bodies the player has kicked that were gone before its own motion came to them."""
    player, tally = core.player, stirred.tally[0]
    if tally.told != player.tick:
        return
    row, begin = stirred.loose.bodies.shape[0] + PLAYER_ROW, first_pair(stirred, tally.turn)
    for number in range(begin, begin + tally.pairs):
        pair = stirred.pairs[number]
        if pair.first == row and pair.points > 0 and pair.impulse > 0.0:
            piece = stirred.loose.bodies[pair.second].piece
            touch(core.touched, player, core.journal, piece, player.tick * core.world.dt, pair.approach)


@leaf
def _part_from_bodies(stirred: Any, core: Any) -> None:
    """Say which bodies the player has parted from: a body that is pushed hardly leaves it, and is met again at once."""
    player, touched = core.player, core.touched
    index = 0
    while index < player.touched:
        row = _row_of(stirred, touched[index].piece)
        touched[index].loose = 1 if row >= 0 else 0
        if touched[index].parted:
            if row < 0 or _gap_to(stirred, core, row) > PARTED * core.body.height:
                # It is said once it is sure, and not before what was said already.
                t = max(touched[index].t, (player.tick - 1) * core.world.dt)
                write(core.journal, player, PARTS, t, touched[index].piece, math.nan, 0.0)
                forget_touch(touched, player, index)
                continue
        index += 1


@leaf
def _row_of(stirred: Any, piece: int) -> int:
    """Return the body that a piece leads, or NOBODY."""
    if piece < 0:
        return NOBODY
    row: int = stirred.loose.row_of[piece]
    return row


@leaf
def _gap_to(stirred: Any, core: Any, row: int) -> float:
    """Return how far the player is from a body; infinite if that is gone."""
    loose, count = stirred.loose, stirred.loose.bodies.shape[0]
    body, itself = stirred.partakers[row], stirred.partakers[count + PLAYER_ROW]
    gap, own = math.inf, loose.shapes[loose.shapes.shape[0] - 1]
    if not body.there:
        return gap
    for place in range(loose.bodies[row].first_part, loose.bodies[row].first_part + loose.bodies[row].parts):
        apart, _, _ = gap_between(
            stirred.movers.corners, own, itself, core.player.x, core.player.y, loose.shapes[loose.parts[place]], body,
            body.place_x, body.place_y,
        )  # fmt: skip
        gap = min(gap, apart)
    return gap
