"""A body at rest that is moved: carried along, or pressed out of a mover's way, as far as there is room."""

from __future__ import annotations

from typing import Any

from haptos.engine.collision.features import nearest_feature
from haptos.engine.collision.impact import DEEP, LEAST_YIELD, first_impact, is_one_way, set_path
from haptos.engine.collision.zones import depth_in
from haptos.engine.compiling.contract import leaf
from haptos.engine.records.codes import SKIPS_NOTHING

# Overlaps that one mover can push a body out of, at most.
MOST_PUSHES = 4
# Who is this deep in a mover, in heights, has not been caught by it on the way: that was made, or put, where it is.
FAR_IN = 0.05
# Surfaces that a body slides along in one go, at most.
MOST_SLIDES = 4


@leaf
def go_on(core: Any, dx: float, dy: float) -> None:
    """Move the body, sliding along what is in the way."""
    hit = core.hit
    slides = 0
    while slides < MOST_SLIDES and _go(core, min(slides, 1), dx, dy):
        slides += 1
        into = dx * hit.nx + dy * hit.ny
        dx, dy = (1.0 - hit.t) * (dx - into * hit.nx), (1.0 - hit.t) * (dy - into * hit.ny)


@leaf
def press_aside(core: Any, skipped: int, nx: float, ny: float, depth: float) -> bool:
    """Move the body by a depth along a normal, along slopes that are in the way; return whether it could."""
    body, path, hit = core.body, core.path, core.hit
    path.skip = skipped
    dx, dy = depth * nx, depth * ny
    slides = 0
    while slides < MOST_SLIDES and _go(core, min(slides, 1), dx, dy):
        slides += 1
        depth -= hit.t * (dx * nx + dy * ny)
        # Along what is in the way, as far as it takes to make up the depth, but not farther than its height.
        tx, ty = -hit.ny, hit.nx
        ahead = tx * nx + ty * ny
        if depth <= DEEP * body.height or abs(ahead) < max(LEAST_YIELD, depth / body.height):
            break
        dx, dy = depth / ahead * tx, depth / ahead * ty
    path.skip = SKIPS_NOTHING
    return hit.t > 1.0 or depth <= DEEP * body.height


@leaf
def _go(core: Any, kept: int, dx: float, dy: float) -> bool:
    """Move the body up to what is in the way, which is noted as touched; return whether anything is."""
    body, player, path, probe, hit = core.body, core.player, core.path, core.probe, core.hit
    set_path(path, player.x, player.y, dx, dy, 0.0, 0.0, 1.0)
    first_impact(core.solids, core.passing, core.walls, probe, kept, body.height, path, hit)
    share = min(hit.t, 1.0)
    player.x += share * dx
    player.y += share * dy
    if hit.t > 1.0:
        return False
    probe[0].outline, probe[0].nx, probe[0].ny, probe[0].skipped = hit.outline, hit.nx, hit.ny, 1
    return True


@leaf
def make_room(core: Any, movers: Any, moving: Any, number: int) -> bool:
    """Press the body out of every part of a mover that it is in, by the nearest way; return whether it is out.

    Where there is no room the body stays, and passes through the mover until it is clear of it.
    """
    body, solids, player = core.body, core.solids, core.player
    if moving[number].passed or not moving[number].here:
        return True
    x, y = player.x, player.y
    for _ in range(MOST_PUSHES):
        over = overlap(movers, solids, body, player, number)
        if over < 0:
            return True
        gap, _, nx, ny = nearest_feature(solids.outlines[over], solids.faces, player.x, player.y)
        if not press_aside(core, movers.movers[number].assembly, nx, ny, -gap):
            break
    over = overlap(movers, solids, body, player, number)
    if over < 0:
        return True
    if depth_in(solids.outlines[over], solids.faces, player.x, player.y) > FAR_IN * body.height:
        player.x, player.y = x, y
        pass_through(core, movers, moving, number)
    return False


@leaf
def pass_through(core: Any, movers: Any, moving: Any, number: int) -> None:
    """Let the body through a mover, until it is clear of it."""
    moving[number].passed = 1
    for item in range(movers.movers[number].solid, movers.movers[number].zone):
        core.passing[movers.items[item].outline] = 1


@leaf
def overlap(movers: Any, solids: Any, body: Any, player: Any, number: int) -> int:
    """Return an outline of a mover that the body is in, -1 for none; one-way ones are passed through instead."""
    mover = movers.movers[number]
    for item in range(mover.solid, mover.zone):
        index = movers.items[item].outline
        outline = solids.outlines[index]
        if player.x < outline.x0 or player.x > outline.x1 or player.y < outline.y0 or player.y > outline.y1:
            continue
        if not is_one_way(outline):
            if depth_in(outline, solids.faces, player.x, player.y) > DEEP * body.height:
                return index
    return -1
