"""Pieces that give way: touched, they shake, fall, are gone, and return.

Each phase has its exact time. What is due in a tick happens at its begin, and the pose at its end is that of the new
phase: the motion over the tick is swept as any other.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import SHALLOW, is_on_side
from haptos.engine.collision.moving_outlines import bring_solids
from haptos.engine.collision.poses import is_carried_by, pose_at
from haptos.engine.collision.zones import depth_in
from haptos.engine.compiling.contract import leaf
from haptos.engine.records.codes import FALLS, GONE, NO_PIECE, SHAKES, THE_PLAYER, WHOLE
from haptos.engine.records.events import CRUMBLES, DROPS, GOES, RETURNS
from haptos.engine.records.journal import write_of

# So near the end of a tick, as a share of it, is the end.
AT_THE_END = 1e-9


@leaf
def is_due(due: float, end: float, dt: float) -> bool:
    """Whether something is due in the tick that ends then; what is due at that end belongs to the next one."""
    return due < end - AT_THE_END * dt


@leaf
def begin_crumbling(
    movers: Any, moving: Any, journal: Any, player: Any, number: int, nx: float, ny: float, piece: int, now: float
) -> None:
    """Let a mover that is touched from its side begin to shake; one that shakes already goes on."""
    mover, pose = movers.movers[number], moving[number]
    if mover.crumble < 0 or pose.phase != WHOLE or piece != mover.piece:
        return
    crumble = movers.crumbles[mover.crumble]
    side_x = crumble.side_x * pose.cosine - crumble.side_y * pose.sine
    side_y = crumble.side_x * pose.sine + crumble.side_y * pose.cosine
    if not is_on_side(nx, ny, side_x, side_y):
        return
    pose.phase, pose.since, pose.due = SHAKES, now, now + crumble.delay
    _say(movers, moving, journal, player, number, CRUMBLES, now)


@leaf
def update_weight(
    movers: Any, solids: Any, moving: Any, player: Any, contacts: Any, touched: Any, journal: Any, begin: float
) -> None:
    """Let what the body has come to rest on in the tick that began then give way.

    What shakes, and is not latched, recovers when the body has left it.
    """
    if movers is None:
        return
    if movers.crumbles.shape[0] == 0:
        return
    for index in range(player.contacts):
        contact = contacts[index]
        if contact.outline >= 0 and solids.outlines[contact.outline].mover >= 0:
            for place in range(player.touched):
                if touched[place].piece == contact.piece:
                    begin_crumbling(
                        movers,
                        moving,
                        journal,
                        player,
                        solids.outlines[contact.outline].mover,
                        contact.nx,
                        contact.ny,
                        contact.piece,
                        max(touched[place].t, begin),
                    )
    for number in range(movers.movers.shape[0]):
        mover, pose = movers.movers[number], moving[number]
        if pose.phase == SHAKES and not movers.crumbles[mover.crumble].latched:
            held = False
            for index in range(player.contacts):
                if contacts[index].piece == mover.piece:
                    held = True
            if not held:
                pose.phase, pose.due = WHOLE, math.inf


@leaf
def pass_time(
    movers: Any, world: Any, solids: Any, body: Any, player: Any, moving: Any, journal: Any, number: int, end: float
) -> None:
    """Do what is due for one mover until the end of a tick."""
    mover, pose = movers.movers[number], moving[number]
    crumble = movers.crumbles[mover.crumble]
    while is_due(pose.due, end, world.dt):
        now = pose.due
        if pose.phase == SHAKES:
            pose.phase, pose.since = FALLS, now
            pose.due = now + _time_of_fall(mover, crumble, world, pose)
            _say(movers, moving, journal, player, number, DROPS, now)
        elif pose.phase == FALLS:
            pose_at(movers, world, moving, number, now)
            _say(movers, moving, journal, player, number, GOES, now)
            pose.phase, pose.since, pose.due = GONE, now, now + crumble.returns_after
            _show(movers, world, solids, moving, number, end)
        else:
            pose.phase = WHOLE
            _show(movers, world, solids, moving, number, end)
            if _is_in_the_way(movers, solids, body, player, number):
                # Somebody stands where it would be: the next tick may do.
                pose.phase, pose.due = GONE, end
                _show(movers, world, solids, moving, number, end)
                return
            pose.since, pose.due = now, math.inf
            _say(movers, moving, journal, player, number, RETURNS, max(now, end - world.dt))


@leaf
def _time_of_fall(mover: Any, crumble: Any, world: Any, pose: Any) -> float:
    """Return how long it falls: until it is gone by itself, or its place sinks below where things are lost."""
    height = (mover.x + pose.x) * world.up_x + (mover.y + pose.y) * world.up_y - crumble.lost_below
    if crumble.accel <= 0.0:
        return 0.0
    if height <= 0.0 or height == math.inf:
        return crumble.gone_after
    rise = crumble.top_speed / crumble.accel
    time = math.sqrt(2.0 * height / crumble.accel)
    if time > rise:
        time = height / crumble.top_speed + 0.5 * rise
    return min(time, crumble.gone_after)


@leaf
def _show(movers: Any, world: Any, solids: Any, moving: Any, number: int, t: float) -> None:
    """Bring a mover, and what it carries, where it is or out of the world."""
    for other in range(movers.movers.shape[0]):
        if other == number or is_carried_by(movers, other, number):
            pose_at(movers, world, moving, other, t)
            bring_solids(movers, moving, other, solids)
            # Where it is swept from, should the body meet it, is worked out anew.
            moving[other].t = math.nan


@leaf
def _is_in_the_way(movers: Any, solids: Any, body: Any, player: Any, number: int) -> bool:
    """Whether the body is where a mover, or what it carries, would be."""
    for index in range(solids.outlines.shape[0]):
        outline = solids.outlines[index]
        carrier = outline.mover
        while carrier >= 0 and carrier != number:
            carrier = movers.movers[carrier].parent
        if carrier == number and carrier >= 0:
            if depth_in(outline, solids.faces, player.x, player.y) > SHALLOW * body.height:
                return True
    return False


@leaf
def _say(movers: Any, moving: Any, journal: Any, player: Any, number: int, kind: int, now: float) -> None:
    """Say what a piece does, or that the player has set it off."""
    mover, pose = movers.movers[number], moving[number]
    who, piece = mover.piece, NO_PIECE
    if kind == CRUMBLES:
        who, piece = THE_PLAYER, mover.piece
    write_of(journal, player, kind, now, who, piece, mover.x + pose.x, mover.y + pose.y, math.nan, 0.0)
