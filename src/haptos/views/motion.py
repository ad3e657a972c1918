"""How what moves looks in a picture: its route with its stops, and where it turns."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from haptos.engine.compile import CompiledLevel
from haptos.geometry.polygons import shape_polygons
from haptos.geometry.poses import posed
from haptos.level.routes import Route
from haptos.views.palette import INK

ROUTE = (0, (5, 3))
Box = tuple[float, float, float, float]


def at_time(compiled: CompiledLevel, t: float) -> CompiledLevel:
    """Return a compiled level, for drawing, whose shapes are placed where they are at a time."""
    return replace(compiled, placement=posed(compiled.resolved, compiled.placement, t))


def draw_routes(ax: Any, compiled: CompiledLevel, colours: dict[str, str]) -> None:
    """Draw the routes dashed through the middle of what moves on them, a dot at each stop, outlines at the stops."""
    from matplotlib.patches import Polygon

    for piece, route, polygons in _routes(compiled):
        box = _around(polygons)
        middle = np.array([(box[0] + box[2]) / 2, (box[1] + box[3]) / 2])
        stops = middle + np.array(route.stops)
        way = np.vstack((stops, stops[:1])) if route.mode == "loop" else stops
        ax.plot(way[:, 0], way[:, 1], color=INK, linewidth=0.9, linestyle=ROUTE, zorder=2.6)
        ax.scatter(stops[:, 0], stops[:, 1], s=9, color=INK, zorder=2.7, linewidths=0)
        for stop in route.stops:
            for polygon in polygons:
                corners = np.asarray(polygon.exterior.coords) + stop
                ax.add_patch(
                    Polygon(corners, closed=True, facecolor="none", edgecolor=colours[piece.layer], linewidth=0.8,
                            linestyle=(0, (2, 2)), zorder=1.8)
                )  # fmt: skip


def route_boxes(compiled: CompiledLevel) -> list[Box]:
    """Return what the pieces on routes cover at each of their stops."""
    boxes = []
    for _, route, polygons in _routes(compiled):
        x0, y0, x1, y1 = _around(polygons)
        boxes += [(x0 + x, y0 + y, x1 + x, y1 + y) for x, y in route.stops]
    return boxes


def _routes(compiled: CompiledLevel) -> list[tuple[Any, Route, list[Any]]]:
    found = []
    for index, piece in enumerate(compiled.resolved.pieces):
        route = piece.facet("route")
        if route is not None and piece.can_be_met:
            shapes = compiled.placement.only(compiled.placement.piece == index)
            found.append((piece, route, list(shape_polygons(shapes))))
    return found


def _around(polygons: list[Any]) -> Box:
    table = np.array([polygon.bounds for polygon in polygons])
    return (*table[:, :2].min(axis=0), *table[:, 2:].max(axis=0))
