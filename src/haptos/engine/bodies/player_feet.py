"""The player's feet on a body: its weight lies there as a mass, which the body carries and grips.

The foot is a mass of its own with the velocity that the body has where it is touched. Through each short step gravity
pulls it, and one row across what it stands on and one along it keep it there, as between any two bodies.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.resting import wake
from haptos.engine.collision.features import foot_at
from haptos.engine.compiling.contract import constant, leaf
from haptos.engine.player.kept_contacts import place_of
from haptos.engine.records.codes import GROUND

NOBODY = constant(-1)
# The feet of who can stand on anything grip as those of who can stand on a slope with this cosine.
STEEPEST = 0.01


@leaf
def begin_foot(stirred: Any) -> None:
    """Let the player begin a tick as fast as what it stands on."""
    row, tally = stirred.tally[0].stood, stirred.tally[0]
    if row < 0:
        tally.foot_normal, tally.foot_rubs = 0.0, 0.0
        return
    tally.foot_vx, tally.foot_vy = velocity_at_foot(stirred.partakers[row], tally)


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
    normal = min(tally.foot_normal, laws.mass * pull * laws.step)
    rubs = _gripped(laws, normal, tally.foot_rubs)
    tally.foot_normal, tally.foot_rubs = 0.0, 0.0
    tally.foot_vx += player.gravity_x * laws.step
    tally.foot_vy += player.gravity_y * laws.step
    _press_foot(body, tally, laws, normal, rubs)


@leaf
def rest_on(stirred: Any, laws: Any, core: Any) -> None:
    """Keep the player from sinking into the body that it stands on, and from sliding on it as long as its feet grip."""
    row = stirred.tally[0].stood
    if row < 0 or laws.top or core.player.stance != GROUND:
        return
    body, tally = stirred.partakers[row], stirred.tally[0]
    if not body.awake:
        return
    nx, ny = tally.foot_nx, tally.foot_ny
    vx, vy = velocity_at_foot(body, tally)
    sinks = (vx - tally.foot_vx) * nx + (vy - tally.foot_vy) * ny
    change = max(sinks / _yields(body, tally, laws, nx, ny), -tally.foot_normal)
    _press_foot(body, tally, laws, change, 0.0)
    vx, vy = velocity_at_foot(body, tally)
    slides = (vy - tally.foot_vy) * nx - (vx - tally.foot_vx) * ny
    rubs = _gripped(laws, tally.foot_normal, tally.foot_rubs + slides / _yields(body, tally, laws, -ny, nx))
    _press_foot(body, tally, laws, 0.0, rubs - tally.foot_rubs)


@leaf
def _gripped(laws: Any, normal: float, rubs: float) -> float:
    """Return what of an impulse along the ground the feet take: they hold on what they can stand on."""
    most = normal * math.sqrt(max(1.0 - laws.steepest * laws.steepest, 0.0)) / max(laws.steepest, STEEPEST)
    return max(min(rubs, most), -most)


@leaf
def _press_foot(body: Any, tally: Any, laws: Any, normal: float, rubs: float) -> None:
    """Give the player an impulse across and along what it stands on, and that its opposite."""
    x, y = normal * tally.foot_nx - rubs * tally.foot_ny, normal * tally.foot_ny + rubs * tally.foot_nx
    tally.foot_normal += normal
    tally.foot_rubs += rubs
    tally.foot_vx += x / laws.mass
    tally.foot_vy += y / laws.mass
    give(body, tally.foot_x, tally.foot_y, -x, -y)


@leaf
def _yields(body: Any, tally: Any, laws: Any, x: float, y: float) -> float:
    """Return how much faster the player and what it stands on part for a unit of impulse along a direction."""
    arm = (tally.foot_x - body.x) * y - (tally.foot_y - body.y) * x
    across: float = 1.0 / laws.mass + body.light + body.nimble * arm * arm
    return across


@leaf
def velocity_at_foot(body: Any, tally: Any) -> tuple[float, float]:
    """Return how fast a body goes where the player stands on it."""
    return body.vx - body.spin * (tally.foot_y - body.y), body.vy + body.spin * (tally.foot_x - body.x)


@leaf
def give(body: Any, px: float, py: float, x: float, y: float) -> None:
    """Give an impulse to a body at a point of the world."""
    body.vx += body.light * x
    body.vy += body.light * y
    body.spin += body.nimble * ((px - body.x) * y - (py - body.y) * x)


@leaf
def body_under(stirred: Any, core: Any) -> int:
    """Return the body that the player stands on, or NOBODY; where it touches that, and the normal there, is noted."""
    body, player, tally = core.body, core.player, stirred.tally[0]
    if player.stance != GROUND or player.support < 0 or stirred.loose.laws[0].top:
        return NOBODY
    outline = core.solids.outlines[player.support]
    place = place_of(player, core.contacts, player.support)
    if outline.mover < 0 or place < 0:
        return NOBODY
    contact = core.contacts[place]
    tally.foot_nx, tally.foot_ny = contact.nx, contact.ny
    x, y, _ = foot_at(body, player, outline, core.solids.faces, contact.feature, contact.nx, contact.ny)
    tally.foot_x, tally.foot_y = player.x - x, player.y - y
    row: int = stirred.movers.movers[outline.mover].loose - 1
    return row


@leaf
def come_onto(stirred: Any, laws: Any, row: int, vx: float, vy: float) -> None:
    """Give a body the impulse with which the player, as fast as that, comes to stand on it without a landing."""
    body, tally = stirred.partakers[row], stirred.tally[0]
    tally.foot_vx, tally.foot_vy = vx, vy
    nx, ny = tally.foot_nx, tally.foot_ny
    its_vx, its_vy = velocity_at_foot(body, tally)
    comes = (its_vx - vx) * nx + (its_vy - vy) * ny
    if body.there and comes > 0.0:
        wake(stirred, row)
        impulse = comes / _yields(body, tally, laws, nx, ny)
        give(body, tally.foot_x, tally.foot_y, -impulse * nx, -impulse * ny)


@leaf
def recoil(stirred: Any, core: Any, row: int, x: float, y: float, speed: float) -> None:
    """Give a body the impulse with which the player comes to rest on it, or leaves it."""
    laws, player = stirred.loose.laws[0], core.player
    body = stirred.partakers[row]
    if not body.there or not speed > 0.0:
        return
    dx, dy = x - body.x, y - body.y
    arm = dx * player.up_y - dy * player.up_x
    impulse = speed / (1.0 / laws.mass + body.light + body.nimble * arm * arm)
    wake(stirred, row)
    give(body, x, y, -impulse * player.up_x, -impulse * player.up_y)
