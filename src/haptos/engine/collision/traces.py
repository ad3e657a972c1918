"""Where places on movers are at several times; a kernel of its own, for those who ask when a run is over."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.poses import point_velocity, pose_at
from haptos.engine.compiling.contract import leaf


@leaf
def trace(movers: Any, world: Any, moving: Any, changes: Any, riders: Any, times: Any, places: Any) -> None:
    """Write where places on movers are at some times.

    Parameters
    ----------
    movers : Movers
    world : (1,) WORLD
    moving : (m,) POSE
        What the movers are at before the first change; it is changed.
    changes : (c,) CHANGE
        In the order of their moments.
    riders : (r,) RIDER
    times : (n,)
        Since the level began.
    places : (n * r,) PLACE
        Those of one time after another.
    """
    made = 0
    for moment in range(times.shape[0]):
        while made < changes.shape[0] and changes[made].moment <= moment:
            _change(moving, changes[made])
            made += 1
        for index in range(riders.shape[0]):
            rider, place = riders[index], places[moment * riders.shape[0] + index]
            mover, pose = movers.movers[rider.mover], moving[rider.mover]
            pose_at(movers, world[0], moving, rider.mover, times[moment])
            dx, dy = pose.scale * (rider.x - mover.x), pose.scale * (rider.y - mover.y)
            place.x = mover.x + pose.x + dx * pose.cosine - dy * pose.sine
            place.y = mover.y + pose.y + dx * pose.sine + dy * pose.cosine
            place.vx, place.vy = point_velocity(mover, pose, place.x, place.y)
            place.angle, place.spin = math.atan2(pose.sine, pose.cosine), pose.spin


@leaf
def _change(moving: Any, change: Any) -> None:
    """Let a mover be at something else."""
    pose = moving[change.mover]
    pose.phase, pose.since, pose.clock, pose.ran = change.phase, change.since, change.clock, change.ran
    pose.scale, pose.from_x, pose.from_y = change.scale, change.from_x, change.from_y
    pose.from_angle, pose.from_t = change.from_angle, change.from_t
    pose.fly_vx, pose.fly_vy, pose.fly_spin = change.fly_vx, change.fly_vy, change.fly_spin
