"""What the body meets first on a segment: what stays, and what moves straight on, each as it is seen from there."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.impact import first_impact, look_on, meet_outlines, set_path
from haptos.engine.compiling.contract import leaf


@leaf
def find_impact(core: Any, movers: Any, moving: Any, near: Any) -> None:
    """Write to `hit` what is met first on the path of a segment, whose velocity is seen from the body's frame."""
    player, segment, path, hit, contacts = core.player, core.segment, core.path, core.hit, core.contacts
    vx, vy, ax, ay = segment.path_vx, segment.path_vy, segment.path_ax, segment.path_ay
    height, limit = core.body.height, segment.limit
    if movers is None:
        set_path(path, player.x, player.y, vx, vy, ax, ay, limit)
        first_impact(core.solids, core.passing, core.walls, contacts, player.contacts, height, path, hit)
        return
    hit.t = math.inf
    steady = True
    if player.frame >= 0:
        steady = moving[player.frame].steady != 0
        vx, vy = vx + player.frame_vx, vy + player.frame_vy
        _find_on_frame(core, movers, moving)
    if not steady:
        # What does not go straight on is stepped to: see `limit_at_nearing`.
        return
    path.still = 1
    set_path(path, player.x, player.y, vx, vy, ax, ay, min(limit, hit.t))
    look_on(core.solids, core.passing, core.walls, contacts, player.contacts, height, path, hit)
    path.still = 0
    for place in range(player.near):
        number = near[place]
        mover, pose = movers.movers[number], moving[number]
        if number == player.frame:
            continue
        if not pose.steady or not pose.here:
            continue
        set_path(path, player.x, player.y, vx - pose.vx, vy - pose.vy, ax, ay, limit)
        meet_outlines(
            core.solids, core.passing, movers.items, mover.solid, mover.zone, contacts, player.contacts, height, path,
            hit,
        )  # fmt: skip


@leaf
def _find_on_frame(core: Any, movers: Any, moving: Any) -> None:
    """Write what is met first of what carries the body, seen from which its path is the plan, however that moves."""
    player, segment, path, contacts = core.player, core.segment, core.path, core.contacts
    mover, pose = movers.movers[player.frame], moving[player.frame]
    if mover.revolves or not pose.here:
        return
    set_path(
        path, player.x, player.y, segment.path_vx, segment.path_vy, segment.path_ax, segment.path_ay, segment.limit
    )
    meet_outlines(
        core.solids, core.passing, movers.items, mover.solid, mover.zone, contacts, player.contacts, core.body.height,
        path, core.hit,
    )  # fmt: skip
