"""What is at stake in a picture: how far pickups reach, what hurts, where the player comes back, the finish."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from haptos.engine.build.compile_level import CompiledLevel, body_of
from haptos.geometry.polygons import body_polygon, shape_polygons
from haptos.views.palette import FAINT, INK, MISSED, PAPER, PLAYER

# Teeth of what hurts: so wide, as a share of the body's height, and so high for that.
TOOTH = 0.2
MOST_TEETH = 80
# Squares of the finish across a body's width.
CHEQUERS = 3


def draw_stakes(ax: Any, compiled: CompiledLevel, colours: dict[str, str], hidden: frozenset[int]) -> None:
    """Draw what can be taken, what hurts, what saves and what ends the level, over their shapes, but what is hidden."""
    stakes = compiled.tables.stakes
    if stakes is None:
        return
    pieces = compiled.resolved.pieces
    height = compiled.level.player.shape.size[1]
    shown = {index for index in range(len(pieces)) if index not in hidden}
    for row in stakes.pickups:
        if int(row["piece"]) in shown:
            _draw_reach(ax, row, compiled.origins[int(row["piece"])], colours[pieces[int(row["piece"])].layer])
    for row in stakes.harms:
        if int(row["piece"]) in shown:
            for shape in shape_polygons(compiled.placement.only(compiled.placement.piece == int(row["piece"]))):
                draw_teeth(ax, shape.exterior.coords, TOOTH * height)
    for row in stakes.checkpoints:
        if int(row["piece"]) in shown:
            _draw_return(ax, compiled, pieces[int(row["piece"])].at, float(row["x"]), float(row["y"]))
    for row in stakes.finishes:
        if int(row["piece"]) in shown:
            _draw_chequers(ax, compiled, int(row["piece"]))


def _draw_reach(ax: Any, row: Any, at: Any, colour: str) -> None:
    """Draw how far from the player's shape a pickup comes, and is taken: dotted, and drawn through."""
    from matplotlib.patches import Circle

    place = (float(at[0]), float(at[1]))
    if row["attract"] > 0:
        ax.add_artist(
            Circle(place, row["attract"], fill=False, edgecolor=colour, linestyle=":", linewidth=1.1, zorder=2.6)
        )
    if row["collect"] > 0:
        ax.add_artist(Circle(place, row["collect"], fill=False, edgecolor=INK, linewidth=0.9, zorder=2.7))


def draw_teeth(ax: Any, outline: Any, width: float) -> None:
    """Draw teeth along the outline of what hurts."""
    ring = shapely.LinearRing(outline)
    count = int(min(max(ring.length / width, 6), MOST_TEETH))
    step = ring.length / count
    corners = []
    for here in np.linspace(0.0, ring.length, count, endpoint=False):
        before, after = ring.interpolate(here), ring.interpolate((here + step) % ring.length)
        corners.append((before.x, before.y))
        along = np.array([after.x - before.x, after.y - before.y])
        out = np.array([along[1], -along[0]]) * (1.0 if ring.is_ccw else -1.0)
        corners.append(tuple(np.array([before.x, before.y]) + along / 2 + 0.6 * out))
    x, y = np.array([*corners, corners[0]]).T
    ax.plot(x, y, color=MISSED, linewidth=1.1, zorder=3.3, solid_joinstyle="miter")


def _draw_return(ax: Any, compiled: CompiledLevel, at: tuple[float, float], x: float, y: float) -> None:
    """Draw the body, dashed, where it comes back, and from which checkpoint."""
    outline = np.array(body_polygon(body_of(compiled.level), x, y).exterior.coords)
    ax.plot(outline[:, 0], outline[:, 1], color=PLAYER, linewidth=1.1, linestyle=(0, (3, 2)), zorder=3.2)
    if np.hypot(x - at[0], y - at[1]) > compiled.level.player.shape.size[0]:
        arrow = {"arrowstyle": "->", "color": FAINT, "linewidth": 1.0}
        ax.annotate("", xy=(x, y), xytext=at, arrowprops=arrow, zorder=3.1)


def _draw_chequers(ax: Any, compiled: CompiledLevel, index: int) -> None:
    """Draw a band of squares along the top of the finish."""
    from matplotlib.patches import Rectangle

    shapes = shape_polygons(compiled.placement.only(compiled.placement.piece == index))
    if not shapes:
        return
    low_x = min(shape.bounds[0] for shape in shapes)
    high_x, high_y = max(shape.bounds[2] for shape in shapes), max(shape.bounds[3] for shape in shapes)
    side = compiled.level.player.shape.size[0] / CHEQUERS
    columns = max(int(round((high_x - low_x) / side)), 2)
    side = (high_x - low_x) / columns
    for column in range(columns):
        for row in range(2):
            colour = INK if (column + row) % 2 == 0 else PAPER
            corner = (low_x + column * side, high_y - (row + 1) * side)
            ax.add_artist(Rectangle(corner, side, side, facecolor=colour, edgecolor="none", zorder=3.3))
