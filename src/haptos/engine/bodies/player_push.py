"""The player among the bodies: it pushes with a limited force, stands in the way, presses on what it stands on.

It takes part with the velocity that it wants, as something that nothing moves, but what it gives to a body that it
walks against is limited. Where its feet slip it is a mass among the others, which they drive by no more than they hold:
what it gives to a body is missing for itself. Afterwards its own motion is worked out against the bodies as they move.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.contact_rows import closing_at
from haptos.engine.bodies.pair_store import first_pair
from haptos.engine.bodies.resting import wake
from haptos.engine.compiling.contract import leaf
from haptos.engine.player.controls import approach, direction, gait, wish
from haptos.engine.player.frames import frame_of
from haptos.engine.records.codes import AIR, AWAY
from haptos.engine.records.loose_records import PLAYER_ROW


@leaf
def place_player(stirred: Any, core: Any, floor: Any, time: float) -> None:
    """Write where the player is at the begin of a tick, and how fast it wants to be at its end."""
    laws, body, player = stirred.loose.laws[0], core.body, core.player
    row = stirred.partakers[stirred.loose.bodies.shape[0] + PLAYER_ROW]
    row.there = 0 if player.stance == AWAY else 1
    row.x, row.y, row.place_x, row.place_y = player.x, player.y, player.x, player.y
    row.cosine, row.sine, row.angle, row.scale, row.size = 1.0, 0.0, 0.0, 1.0, body.height
    row.reach, row.layer, row.pressed = laws.reach, laws.layer, 1
    slips = laws.force > 0.0 and _grip(core) < math.inf
    row.light = 1.0 / laws.mass if slips else 0.0
    vx, vy = player.vx, player.vy
    if floor is not None:
        vx, vy = _wanted_in_plane(body, player, _grip(core), time)
    else:
        vx, vy = _wanted(body, player, _grip(core), time)
    row.vx, row.vy, row.spin = vx + player.frame_vx, vy + player.frame_vy, 0.0
    row.awake = 1 if row.vx != 0.0 or row.vy != 0.0 or slips else 0
    far_x, far_y = time * row.vx, time * row.vy
    row.x0, row.x1 = row.x - row.reach + min(far_x, 0.0), row.x + row.reach + max(far_x, 0.0)
    row.y0, row.y1 = row.y - row.reach + min(far_y, 0.0), row.y + row.reach + max(far_y, 0.0)


@leaf
def _grip(core: Any) -> float:
    """Return the greatest acceleration that the ground gives to the player: without end where it has no friction."""
    player, weight = core.player, core.world.weight
    if player.stance == AIR or player.friction < 0.0:
        return math.inf
    if player.gravity_x != 0.0 or player.gravity_y != 0.0:
        weight = math.sqrt(player.gravity_x * player.gravity_x + player.gravity_y * player.gravity_y)
    grip: float = player.friction * weight
    return grip


@leaf
def _wanted(body: Any, player: Any, grip: float, time: float) -> tuple[float, float]:
    """Return the velocity that the player has after a time if nothing is in its way."""
    rx, ry = player.up_y * player.handed, -player.up_x * player.handed
    along = player.vx * rx + player.vy * ry
    target = direction(player.held) * gait(body, player)
    accelerate, brake = body.ground_accel * player.accel_factor, body.ground_brake * player.accel_factor
    fall = 0.0
    if player.stance == AIR:
        accelerate, brake = body.air_accel, body.air_brake
        fall = time
    rate, goal, _ = approach(along, target, accelerate, brake, body.sprint)
    change = max(min(rate, grip), -grip) * time
    if abs(change) > abs(goal - along):
        change = goal - along
    vx = player.vx + change * rx + fall * player.gravity_x
    return vx, player.vy + change * ry + fall * player.gravity_y


@leaf
def _wanted_in_plane(body: Any, player: Any, grip: float, time: float) -> tuple[float, float]:
    """Return the same in the top view."""
    wish_x, wish_y = wish(player.held)
    size = math.sqrt(wish_x * wish_x + wish_y * wish_y)
    speed = gait(body, player) / size if size > 0.0 else 0.0
    dx, dy = wish_x * speed - player.vx, wish_y * speed - player.vy
    change = math.sqrt(dx * dx + dy * dy)
    rate = min((body.ground_accel if size > 0.0 else body.ground_brake) * player.accel_factor, grip)
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
def share_push(stirred: Any, core: Any) -> None:
    """Say how hard the player can push each body that it touches: all by one force, as far as its feet hold."""
    laws, count = stirred.loose.laws[0], stirred.loose.bodies.shape[0]
    player_row = count + PLAYER_ROW
    player = stirred.partakers[player_row]
    begin = first_pair(stirred, stirred.tally[0].turn)
    pushes = 0
    hold = min(laws.force, laws.mass * _grip(core))
    stirred.tally[0].driven_vx, stirred.tally[0].driven_vy = player.vx, player.vy
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
        force = hold
        if not laws.top and rise >= laws.steepest:
            force += laws.weight
        # What comes at it is stopped by its own mass, too; what it pushes is not.
        pair.cap = force * laws.step
    for number in range(begin, begin + stirred.tally[0].pairs):
        pair = stirred.pairs[number]
        if pair.first == player_row and pair.points > 0 and pair.cap >= 0.0:
            # Who slips gives of its own momentum, and that is all that limits it.
            pair.cap = pair.cap / pushes if player.light == 0.0 else math.inf
    stirred.tally[0].pushes = pushes
    _begin_to_drive(stirred, core, hold / laws.mass if pushes > 0 else _grip(core))


@leaf
def _begin_to_drive(stirred: Any, core: Any, hold: float) -> None:
    """Let who slips begin a tick with its own velocity: its feet bring it toward what it wants, as far as they hold."""
    tally, player = stirred.tally[0], core.player
    row = stirred.partakers[stirred.loose.bodies.shape[0] + PLAYER_ROW]
    if row.light == 0.0:
        return
    tally.wanted_vx, tally.wanted_vy, tally.drive = row.vx, row.vy, hold * stirred.loose.laws[0].step
    row.vx, row.vy = player.vx + player.frame_vx, player.vy + player.frame_vy


@leaf
def drive_feet(stirred: Any) -> None:
    """Let the feet of who slips drive it, through a step."""
    tally, row = stirred.tally[0], stirred.partakers[stirred.loose.bodies.shape[0] + PLAYER_ROW]
    if row.light == 0.0:
        return
    dx, dy = tally.wanted_vx - row.vx, tally.wanted_vy - row.vy
    change = math.sqrt(dx * dx + dy * dy)
    share = min(tally.drive / change, 1.0) if change > 0.0 else 0.0
    row.vx += share * dx
    row.vy += share * dy


@leaf
def stay_before_walls(core: Any, vx: float, vy: float) -> tuple[float, float]:
    """Return what is left of a velocity of the player before all that stays and that it touches."""
    for index in range(core.player.contacts):
        contact = core.contacts[index]
        if contact.held and frame_of(core.solids, contact.outline) < 0:
            into = min(vx * contact.nx + vy * contact.ny, 0.0)
            vx -= into * contact.nx
            vy -= into * contact.ny
    return vx, vy


@leaf
def brace(stirred: Any, laws: Any, pair: Any) -> None:
    """Say what impulse the player has for what it pushes in a step: of its force, and of its own mass.

    By its mass it stops what comes at it as in an inelastic impact, in which it gives way.
    """
    body, tally, nx, ny = stirred.partakers[pair.second], stirred.tally[0], pair.nx, pair.ny
    comes = (body.spin * pair.second_y - body.vx) * nx - (body.vy + body.spin * pair.second_x) * ny
    comes += min(tally.driven_vx * nx + tally.driven_vy * ny, 0.0)
    pair.left = pair.cap
    if comes > 0.0:
        arm = pair.second_x * ny - pair.second_y * nx
        pair.left += comes / (body.light + body.nimble * arm * arm + 1.0 / laws.mass)


@leaf
def give_way(stirred: Any, laws: Any, core: Any, pair: Any, pressed: float) -> None:
    """Let what was beyond the player's force in a step drive it back, as far as nothing that stays is behind it."""
    tally, row = stirred.tally[0], stirred.partakers[pair.first]
    if row.light > 0.0:
        row.vx, row.vy = stay_before_walls(core, row.vx, row.vy)
        return
    over = max(pressed - pair.cap, 0.0) / laws.mass
    if over > 0.0:
        vx, vy = tally.driven_vx - over * pair.nx, tally.driven_vy - over * pair.ny
        tally.driven_vx, tally.driven_vy = stay_before_walls(core, vx, vy)
