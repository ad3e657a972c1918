"""What becomes of bodies at the edges of the world: walls hold them, other edges lose them or let them in opposite."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.bodies.story import forget_touches, say_of
from haptos.engine.bodies.sweeping import turn
from haptos.engine.compiling.contract import leaf
from haptos.engine.pieces.outlook import stir
from haptos.engine.records.codes import GONE, LOST_EDGE, NO_PIECE, WRAP_EDGE
from haptos.engine.records.events import LOST, WRAP


@leaf
def heed_edges(stirred: Any, core: Any, moving: Any, end: float) -> None:
    """Lose the bodies whose centre is beyond an edge that loses; let in opposite who leaves by one that wraps."""
    edge = core.edges[0]
    if not edge.acts:
        return
    for row in range(stirred.loose.bodies.shape[0]):
        body = stirred.partakers[row]
        if not body.there or not body.awake:
            continue
        side, acts = -1, 0
        if body.x < edge.x0:
            side, acts = 0, edge.left
        elif body.x > edge.x1:
            side, acts = 1, edge.right
        elif body.y < edge.y0:
            side, acts = 2, edge.bottom
        elif body.y > edge.y1:
            side, acts = 3, edge.top
        if edge.x0 == edge.x1:
            side, acts = -1, 0
        if body.x * edge.up_x + body.y * edge.up_y < edge.lost_below:
            side, acts = 4, LOST_EDGE
        if side < 0 or acts == 0:
            continue
        if acts == WRAP_EDGE:
            width, height = edge.x1 - edge.x0, edge.y1 - edge.y0
            body.x += width if side == 0 else -width if side == 1 else 0.0
            body.y += height if side == 2 else -height if side == 3 else 0.0
            forget_touches(stirred, row)
            turn(body)
            body.wrapped = 1
            say_of(stirred, core.journal, core.player, WRAP, end, row, NO_PIECE, math.nan, float(side))
        else:
            _lose(stirred, core, moving, row, side, end)


@leaf
def _lose(stirred: Any, core: Any, moving: Any, row: int, side: int, end: float) -> None:
    """Let a body be gone for good; of what can be made, another may be made in its stead."""
    movers = stirred.movers
    body, number = stirred.partakers[row], stirred.loose.bodies[row].mover
    say_of(stirred, core.journal, core.player, LOST, end, row, NO_PIECE, math.nan, float(side))
    pose = moving[number]
    pose.phase, pose.since, pose.due, pose.t = GONE, end, math.inf, math.nan
    body.there, body.awake = 0, 0
    forget_touches(stirred, row)
    for index in range(stirred.hinges.shape[0]):
        hinge = stirred.loose.hinges[index]
        if hinge.first == row or hinge.second == row:
            stirred.hinges[index].there = 0
    stir(movers, moving, number)
