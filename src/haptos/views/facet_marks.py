"""How facets look in a picture: the live edge of one-way pieces, rungs, arrows of launchers and belts, drawings."""

from __future__ import annotations

from typing import Any

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel
from haptos.errors import HaptosError
from haptos.files.images import read_image
from haptos.geometry.convex import turned
from haptos.geometry.outlines import Body, grow_outlines
from haptos.geometry.placement import launch_direction, look_size, piece_box, piece_places
from haptos.geometry.rails import Rails, rails_of
from haptos.level.resolved_piece import ResolvedPiece
from haptos.views.palette import INK, PAPER

# A face belongs to a one-way piece's side within 60 degrees, as in the simulation.
SIDE = 0.5
LIVE_WIDTH = 3.2
# Rungs are this far apart, as a share of the ladder's width, and at most so many.
RUNG = 0.75
MOST_RUNGS = 60
# Arrows round a middle that draws everything to it.
INWARD = 6


def draw_facets(ax: Any, compiled: CompiledLevel, colours: dict[str, str], hidden: frozenset[int]) -> None:
    """Draw what the facets of a level's pieces look like, over their shapes, but those of what is hidden."""
    _draw_live_edges(ax, compiled, colours)
    size = max(compiled.level.player.shape.size)
    for index, piece in enumerate(compiled.resolved.pieces):
        if index in hidden or compiled.resolved.meeting(piece) == "nothing":
            continue
        shapes = compiled.placement.only(compiled.placement.piece == index)
        if piece.facet("ladder") is not None:
            _draw_rungs(ax, piece, rails_of(compiled.resolved, piece, shapes), colours[piece.layer])
        if not piece.can_be_met:
            continue
        arrow = launch_direction(piece) if piece.facet("launch") is not None else None
        surface = piece.facet("surface")
        if arrow is None and surface is not None and surface.conveyor != 0:
            arrow = turned(np.array([np.sign(surface.conveyor), 0.0]), np.deg2rad(piece.turn))
        if piece.facet("field") is not None:
            _draw_gravity(ax, compiled, index, size)
        if arrow is not None:
            for place in piece_places(piece, shapes):
                _draw_arrow(ax, piece, place, arrow, size)


def draw_looks(ax: Any, compiled: CompiledLevel) -> None:
    """Draw the images of pieces under their shapes; images that can't be read are left to `check`."""
    from matplotlib.transforms import Affine2D

    for index, piece in enumerate(compiled.resolved.pieces):
        look = piece.facet("look")
        if look is None or not piece.can_be_met:
            continue
        try:
            pixels = read_image(look.image)
        except HaptosError:
            continue
        width, height = look_size(piece)
        x, y = look.offset
        for place in piece_places(piece, compiled.placement.only(compiled.placement.piece == index)):
            turn = Affine2D().rotate_deg(piece.turn).translate(*place) + ax.transData
            extent = (x - width / 2, x + width / 2, y - height / 2, y + height / 2)
            ax.imshow(pixels, extent=extent, transform=turn, zorder=1.5, interpolation="nearest")
    ax.set_aspect("equal")


def _draw_live_edges(ax: Any, compiled: CompiledLevel, colours: dict[str, str]) -> None:
    placement = compiled.placement
    sided = placement.only((placement.side != 0).any(axis=1))
    outlines = grow_outlines(sided, Body())
    for number in range(len(outlines.piece)):
        piece = compiled.resolved.pieces[outlines.piece[number]]
        if compiled.resolved.meeting(piece) != "solid":
            continue
        rows = outlines.faces[outlines.first[number] : outlines.first[number] + outlines.sides[number]]
        for row in rows:
            if float(row[5:7] @ outlines.side[number]) < SIDE:
                continue
            ends = np.array([row[:2], row[:2] + row[4] * row[2:4]]) + outlines.radius[number] * row[5:7]
            ax.plot(ends[:, 0], ends[:, 1], color=INK, linewidth=LIVE_WIDTH, zorder=3.4, solid_capstyle="butt")
            ax.plot(
                ends[:, 0], ends[:, 1], color=colours[piece.layer], linewidth=LIVE_WIDTH - 1.4, zorder=3.5,
                solid_capstyle="butt",
            )  # fmt: skip


def _draw_rungs(ax: Any, piece: ResolvedPiece, ladders: list[Rails], colour: str) -> None:
    for low, high, place in ladders:
        width = high[0] - low[0]
        count = int(min(max((high[1] - low[1]) / (RUNG * width), 1), MOST_RUNGS))
        heights = np.linspace(low[1], high[1], count + 2)[1:-1]
        for height in heights:
            ends = turned(np.array([[low[0], height], [high[0], height]]), np.deg2rad(piece.turn)) + place
            ax.plot(ends[:, 0], ends[:, 1], color=colour, linewidth=1.6, zorder=2.4)


def _draw_gravity(ax: Any, compiled: CompiledLevel, index: int, size: float) -> None:
    """Draw where the gravity of a field points, and where its wind blows."""
    piece = compiled.resolved.pieces[index]
    field = piece.facet("field")
    here = compiled.origins[index]
    ways = [np.array(field.push)] if field.push != (0.0, 0.0) else []
    gravity = field.gravity
    if gravity is not None and gravity.flip:
        ways.append(np.array(compiled.level.world.up))
    elif gravity is not None and gravity.vector is not None:
        ways.append(np.array(gravity.vector))
    elif gravity is not None:
        low, high = piece_box(piece)
        reach = float((high - low).min()) / 2
        sign = -1.0 if gravity.strength is not None and gravity.strength < 0.0 else 1.0
        for angle in np.linspace(0.0, 2.0 * np.pi, INWARD, endpoint=False):
            out = np.array([np.cos(angle), np.sin(angle)])
            _arrow(ax, here + 0.85 * reach * out, -sign * min(size, 0.3 * reach) * out)
    for way in ways:
        _arrow(ax, here, size * way / np.hypot(*way))


def _arrow(ax: Any, begin: Any, way: Any) -> None:
    arrow = {"arrowstyle": "-|>", "color": INK, "linewidth": 1.1, "shrinkA": 0, "shrinkB": 0}
    ax.annotate("", xy=begin + way, xytext=begin, arrowprops=arrow, zorder=3.7)


def _draw_arrow(ax: Any, piece: ResolvedPiece, place: Any, direction: Any, size: float) -> None:
    low, high = piece_box(piece)
    middle = turned((low + high) / 2, np.deg2rad(piece.turn)) + place
    end = middle + direction * size
    arrow = {"arrowstyle": "-|>", "color": INK, "linewidth": 1.3, "shrinkA": 0, "shrinkB": 0}
    ax.annotate("", xy=end, xytext=middle, arrowprops=arrow | {"linewidth": 3.2, "color": PAPER}, zorder=3.6)
    ax.annotate("", xy=end, xytext=middle, arrowprops=arrow, zorder=3.7)
