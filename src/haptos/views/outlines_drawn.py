"""The outlines of pieces, and the edges of the world."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from haptos.engine.build.compile_level import CompiledLevel
from haptos.geometry.polygons import shape_polygons
from haptos.level.level import Level
from haptos.views.palette import INK, PLAYER, layer_colours
from haptos.views.signs import hatch_of


def draw_pieces(ax: Any, compiled: CompiledLevel) -> None:
    """Draw every piece: what is solid filled, what is felt hatched by what it does, what is ignored dotted."""
    from matplotlib.patches import PathPatch
    from matplotlib.path import Path as Outline

    resolved = compiled.resolved
    colours = layer_colours(resolved.contacts.layers, resolved.player_layer)
    by_piece: dict[int, list[Any]] = {}
    for number, polygon in zip(compiled.placement.piece, shape_polygons(compiled.placement), strict=True):
        by_piece.setdefault(int(number), []).append(polygon)
    for number, parts in by_piece.items():
        piece = resolved.pieces[number]
        colour = colours[piece.layer]
        parts = [part for part in parts if part.area > 0]
        if not parts:
            # Lines are drawn by their live edges.
            continue
        shape = shapely.union_all(parts) if len(parts) > 1 else parts[0]
        outline = Outline.make_compound_path(
            *(
                Outline(np.asarray(ring.coords), closed=True)
                for polygon in getattr(shape, "geoms", [shape])
                for ring in (polygon.exterior, *polygon.interiors)
            )
        )
        meeting = resolved.meeting(piece)
        style: dict[str, Any] = {"edgecolor": colour, "linewidth": 1.0}
        if meeting == "solid":
            style |= {"facecolor": colour, "alpha": 0.85 if piece.facet("look") is None else 0.35, "zorder": 2}
        elif meeting == "overlap":
            style |= {"facecolor": colour + "22", "hatch": hatch_of(piece), "zorder": 1}
        else:
            style |= {"facecolor": "none", "linestyle": ":", "zorder": 1}
        ax.add_artist(PathPatch(outline, **style))


def draw_bounds(ax: Any, level: Level) -> None:
    """Draw the sides of the bounds by what they do, and the height below which bodies are lost."""
    bounds = level.world.bounds
    if bounds is not None:
        x0, y0, x1, y1 = bounds.corners
        sides = {
            "left": ((x0, x0), (y0, y1)),
            "right": ((x1, x1), (y0, y1)),
            "bottom": ((x0, x1), (y0, y0)),
            "top": ((x0, x1), (y1, y1)),
        }
        styles = {"wall": "-", "open": (0, (1, 3)), "wrap": "-.", "lost": (0, (4, 2))}
        for side, (xs, ys) in sides.items():
            kind = getattr(bounds, side)
            ax.plot(xs, ys, color=PLAYER if kind == "lost" else INK, linestyle=styles[kind], linewidth=1.4, zorder=3)
    if level.world.lost_below is not None:
        ux, uy = level.world.up
        foot = (ux * level.world.lost_below, uy * level.world.lost_below)
        ax.axline(
            foot, (foot[0] + uy, foot[1] - ux), color=PLAYER, linewidth=0.9, linestyle=(0, (4, 2)), zorder=1, alpha=0.7
        )
