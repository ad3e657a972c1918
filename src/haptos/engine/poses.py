"""Where movers are, in closed form, and their outlines brought there."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiled import leaf


@leaf
def pose_at(mover: Any, legs: Any, t: float, pose: Any) -> None:
    """Write where a mover is at a time, relative to where it is placed, and its velocity."""
    clock = t + mover.start
    if mover.period < math.inf:
        clock %= mover.period
    last = mover.first_leg + mover.legs - 1
    index = mover.first_leg
    while index < last and legs[index + 1].begin <= clock:
        index += 1
    leg = legs[index]
    going = clock - leg.begin - leg.pause
    share, rate = 0.0, 0.0
    if going >= leg.duration:
        share = 1.0
    elif going >= 0.0:
        share, rate = going / leg.duration, 1.0 / leg.duration
        if mover.ease:
            rate *= 6.0 * share * (1.0 - share)
            share *= share * (3.0 - 2.0 * share)
    pose.x, pose.y = leg.x + share * leg.dx, leg.y + share * leg.dy
    pose.vx, pose.vy = rate * leg.dx, rate * leg.dy
    pose.t = t


@leaf
def bring(obstacles: Any, rest: Any, start: Any, items: Any, number: int, x: float, y: float) -> None:
    """Put the outlines of one mover where they are at an offset from rest."""
    for item in range(start[number], start[number + 1]):
        outline = obstacles.outlines[items[item]]
        placed = rest.outlines[items[item]]
        outline.x0, outline.x1 = placed.x0 + x, placed.x1 + x
        outline.y0, outline.y1 = placed.y0 + y, placed.y1 + y
        for f in range(outline.first, outline.first + outline.count):
            obstacles.faces[f].x = rest.faces[f].x + x
            obstacles.faces[f].y = rest.faces[f].y + y


@leaf
def begin_movers(movers: Any, rest: Any, solids: Any, rest_zones: Any, zones: Any, moving: Any, now: float) -> None:
    """Put every mover where it is at a time, as when the run begins or the body is put somewhere."""
    if movers is None:
        return
    for number in range(movers.movers.shape[0]):
        pose = moving[number]
        pose_at(movers.movers[number], movers.legs, now, pose)
        bring(solids, rest, movers.solid_start, movers.solid_items, number, pose.x, pose.y)
        bring(zones, rest_zones, movers.zone_start, movers.zone_items, number, pose.x, pose.y)
