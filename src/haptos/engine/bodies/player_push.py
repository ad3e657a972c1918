"""The player among the bodies: it pushes with a limited force, stands in the way, presses on what it stands on.

It takes part with the velocity that it wants, as something that nothing moves, but what it gives to a body that it
walks against is limited; afterwards its own motion is worked out against the bodies as they move.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.contact_rows import closing_at
from haptos.engine.bodies.pair_store import first_pair
from haptos.engine.bodies.resting import wake
from haptos.engine.collision.separation import gap_between
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.player.controls import approach, direction, gait, wish
from haptos.engine.player.kept_contacts import forget_touch, touch
from haptos.engine.records.codes import AIR, AWAY, GROUND, THE_PLAYER
from haptos.engine.records.events import JUMPS, LAND, PARTS
from haptos.engine.records.journal import sort_since, write
from haptos.engine.records.loose_records import PLAYER_ROW

NOBODY = constant(-1)
# So far from a body, in heights of its own, the player has parted from it.
PARTED = 0.01


@leaf
def place_player(stirred: Any, core: Any, floor: Any, time: float) -> None:
    """Write where the player is at the begin of a tick, and how fast it wants to be at its end."""
    laws, body, player = stirred.loose.laws[0], core.body, core.player
    row = stirred.partakers[stirred.loose.bodies.shape[0] + PLAYER_ROW]
    row.there = 0 if player.stance == AWAY else 1
    row.x, row.y, row.place_x, row.place_y = player.x, player.y, player.x, player.y
    row.cosine, row.sine, row.angle, row.scale, row.size = 1.0, 0.0, 0.0, 1.0, body.height
    row.reach, row.layer, row.pressed = laws.reach, laws.layer, 1
    vx, vy = player.vx, player.vy
    if floor is not None:
        vx, vy = _wanted_in_plane(body, player, time)
    else:
        vx, vy = _wanted(body, player, time)
    row.vx, row.vy, row.spin = vx + player.frame_vx, vy + player.frame_vy, 0.0
    row.awake = 1 if row.vx != 0.0 or row.vy != 0.0 else 0
    far_x, far_y = time * row.vx, time * row.vy
    row.x0, row.x1 = row.x - row.reach + min(far_x, 0.0), row.x + row.reach + max(far_x, 0.0)
    row.y0, row.y1 = row.y - row.reach + min(far_y, 0.0), row.y + row.reach + max(far_y, 0.0)


@leaf
def _wanted(body: Any, player: Any, time: float) -> tuple[float, float]:
    """Return the velocity that the player has after a time if nothing is in its way."""
    rx, ry = player.up_y * player.handed, -player.up_x * player.handed
    along = player.vx * rx + player.vy * ry
    target = direction(player.held) * gait(body, player)
    accelerate, brake = body.ground_accel * player.accel_factor, body.ground_brake * player.accel_factor
    fall = 0.0
    if player.stance == AIR:
        accelerate, brake = body.air_accel, body.air_brake
        fall = time
    rate, goal, until = approach(along, target, accelerate, brake, body.sprint)
    change = rate * time if until > time else goal - along
    vx = player.vx + change * rx + fall * player.gravity_x
    return vx, player.vy + change * ry + fall * player.gravity_y


@leaf
def _wanted_in_plane(body: Any, player: Any, time: float) -> tuple[float, float]:
    """Return the same in the top view."""
    wish_x, wish_y = wish(player.held)
    size = math.sqrt(wish_x * wish_x + wish_y * wish_y)
    speed = gait(body, player) / size if size > 0.0 else 0.0
    dx, dy = wish_x * speed - player.vx, wish_y * speed - player.vy
    change = math.sqrt(dx * dx + dy * dy)
    rate = (body.ground_accel if size > 0.0 else body.ground_brake) * player.accel_factor
    if change <= rate * time:
        return player.vx + dx, player.vy + dy
    return player.vx + dx * rate * time / change, player.vy + dy * rate * time / change


@leaf
def stir_near(stirred: Any) -> None:
    """Wake the bodies that the player comes to touch."""
    count = stirred.loose.bodies.shape[0]
    player = stirred.partakers[count + PLAYER_ROW]
    if not player.there or not player.awake:
        return
    for row in range(count):
        body = stirred.partakers[row]
        if body.there and not body.awake and row != stirred.tally[0].stood:
            far = body.reach
            if player.x0 <= body.x + far and player.x1 >= body.x - far:
                if player.y0 <= body.y + far and player.y1 >= body.y - far:
                    wake(stirred, row)


@leaf
def share_push(stirred: Any) -> None:
    """Say how hard the player can push each body that it touches: all of them together by its force."""
    laws, count = stirred.loose.laws[0], stirred.loose.bodies.shape[0]
    player_row = count + PLAYER_ROW
    player = stirred.partakers[player_row]
    begin = first_pair(stirred, stirred.tally[0].turn)
    pushes = 0
    for number in range(begin, begin + stirred.tally[0].pairs):
        pair = stirred.pairs[number]
        if pair.first != player_row or pair.points == 0:
            continue
        body = stirred.partakers[pair.second]
        leaves = closing_at(player, body, stirred.points[2 * number], pair.nx, pair.ny)
        own = player.vx * pair.nx + player.vy * pair.ny
        its = leaves + own
        rise = pair.nx * laws.up_x + pair.ny * laws.up_y
        if not laws.top and -rise >= laws.steepest:
            # It stands on that, or comes down on it: its foot presses on it, and nothing of this is looked at anew.
            pair.points, pair.cap = 0, 0.0
            continue
        if own <= 0.0 and its < -laws.bounce and body.light * laws.mass >= 1.0:
            # Who is lighter comes back off a player who does not come at it.
            continue
        pushes += 1
        pair.approach = max(own - its, 0.0)
        force = laws.force
        if not laws.top and rise >= laws.steepest:
            force += laws.weight
        # What comes at it is stopped by its own mass, too; what it pushes is not.
        comes = -its if its < -laws.bounce else 0.0
        pair.cap, pair.bonus = force * laws.step, laws.mass * comes
    for number in range(begin, begin + stirred.tally[0].pairs):
        pair = stirred.pairs[number]
        if pair.first == player_row and pair.points > 0 and pair.cap >= 0.0:
            pair.cap /= pushes


@leaf
def begin_foot(stirred: Any, core: Any) -> None:
    """Let the player begin a tick as fast as what it stands on."""
    row, tally = stirred.tally[0].stood, stirred.tally[0]
    if row < 0:
        tally.foot_impulse = 0.0
        return
    tally.foot_speed = _speed_at_foot(stirred.partakers[row], tally, core.player)


@leaf
def press_down(stirred: Any, laws: Any, core: Any) -> None:
    """Let the player's weight act on the body that it stands on, as that of a mass that lies there, through a step.

    It begins with what it pressed before, but by no more than its weight: what stopped it is not given again.
    """
    row = stirred.tally[0].stood
    if row < 0 or laws.top or core.player.stance != GROUND:
        return
    body, tally, player = stirred.partakers[row], stirred.tally[0], core.player
    if not body.awake:
        return
    pull = math.sqrt(player.gravity_x * player.gravity_x + player.gravity_y * player.gravity_y)
    tally.foot_impulse = min(tally.foot_impulse, laws.mass * pull * laws.step)
    tally.foot_speed += tally.foot_impulse / laws.mass - pull * laws.step
    x, y = -tally.foot_impulse * player.up_x, -tally.foot_impulse * player.up_y
    _give(body, tally.foot_x, tally.foot_y, x, y)


@leaf
def rest_on(stirred: Any, laws: Any, core: Any) -> None:
    """Keep the player from sinking into the body that it stands on: it presses on it by no more than that takes."""
    row = stirred.tally[0].stood
    if row < 0 or laws.top or core.player.stance != GROUND:
        return
    body, tally, player = stirred.partakers[row], stirred.tally[0], core.player
    if not body.awake:
        return
    arm = (tally.foot_x - body.x) * player.up_y - (tally.foot_y - body.y) * player.up_x
    lacking = tally.foot_speed - _speed_at_foot(body, tally, player)
    before = tally.foot_impulse
    tally.foot_impulse = max(before - lacking / (1.0 / laws.mass + body.light + body.nimble * arm * arm), 0.0)
    change = tally.foot_impulse - before
    tally.foot_speed += change / laws.mass
    _give(body, tally.foot_x, tally.foot_y, -change * player.up_x, -change * player.up_y)


@leaf
def _speed_at_foot(body: Any, tally: Any, player: Any) -> float:
    """Return how fast a body rises where the player stands on it."""
    vx = body.vx - body.spin * (tally.foot_y - body.y)
    vy = body.vy + body.spin * (tally.foot_x - body.x)
    return vx * player.up_x + vy * player.up_y


@leaf
def _give(body: Any, px: float, py: float, x: float, y: float) -> None:
    """Give an impulse to a body at a point of the world."""
    body.vx += body.light * x
    body.vy += body.light * y
    body.spin += body.nimble * ((px - body.x) * y - (py - body.y) * x)


@leaf
def body_under(stirred: Any, core: Any) -> int:
    """Return the body that the player stands on, or NOBODY; where its foot is, is noted."""
    body, player, tally = core.body, core.player, stirred.tally[0]
    if player.stance != GROUND or player.support < 0 or stirred.loose.laws[0].top:
        return NOBODY
    number = core.solids.outlines[player.support].mover
    if number < 0:
        return NOBODY
    tally.foot_x = player.x - (body.half_height + body.radius) * player.up_x
    tally.foot_y = player.y - (body.half_height + body.radius) * player.up_y
    row: int = stirred.movers.movers[number].loose - 1
    return row


@leaf
def answer_player(stirred: Any, core: Any, first: int) -> None:
    """Let bodies feel how the player has jumped off them, or landed on them, since an event."""
    if stirred is None:
        return
    loose, journal, tally = stirred.loose, core.journal, stirred.tally[0]
    was_on = tally.stood
    tally.stood = body_under(stirred, core)
    if tally.stood != was_on:
        tally.foot_impulse = 0.0
        for row in (was_on, tally.stood):
            if row >= 0:
                wake(stirred, row)
    _touch_bodies(stirred, core)
    _part_from_bodies(stirred, core)
    for index in range(first, min(journal.written[0], journal.rows.shape[0])):
        event = journal.rows[index]
        if event.who != THE_PLAYER:
            continue
        if event.kind == LAND and tally.stood >= 0:
            if loose.bodies[tally.stood].piece == event.piece:
                _recoil(stirred, core, tally.stood, event.x, event.y, event.more)
        elif event.kind == JUMPS and was_on >= 0:
            _recoil(stirred, core, was_on, event.x, event.y, event.amount)
    sort_since(journal, first)


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


@leaf
def _recoil(stirred: Any, core: Any, row: int, x: float, y: float, speed: float) -> None:
    """Give a body the impulse with which the player comes to rest on it, or leaves it."""
    laws, player = stirred.loose.laws[0], core.player
    body = stirred.partakers[row]
    if not body.there or not speed > 0.0:
        return
    dx, dy = x - body.x, y - body.y
    arm = dx * player.up_y - dy * player.up_x
    impulse = speed / (1.0 / laws.mass + body.light + body.nimble * arm * arm)
    wake(stirred, row)
    _give(body, x, y, -impulse * player.up_x, -impulse * player.up_y)
