"""How what moves looks in a picture: its route with its stops, what it turns about, and ghosts of where it will be."""

from __future__ import annotations

import copy
from dataclasses import replace
from typing import Any

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.report.piece_poses import Motion, pose_tables_of
from haptos.engine.report.replay import GONE, piece_motions, placement_at
from haptos.engine.run import Run
from haptos.geometry.placement import spin_pivot
from haptos.geometry.polygons import shape_polygons
from haptos.geometry.ways import way_of
from haptos.level.resolve import ResolvedLevel
from haptos.level.roster import MOTIONS
from haptos.views.objective_marks import TOOTH, draw_teeth
from haptos.views.palette import INK, PAPER

ROUTE = (0, (5, 3))
GHOST = (0, (2, 2))
# A piece that turns about a point is shown so many times around it.
TURNS = 8
# The arrow that says which way it turns goes round so many degrees.
ARROW = 40.0
# And at this share of how far the piece reaches from the point.
HANDLE = 0.45
# The teeth of the crack in what gives way, along its length.
TEETH = 9
Box = tuple[float, float, float, float]


def at_time(
    compiled: CompiledLevel, t: float, run: Run | None = None
) -> tuple[CompiledLevel, frozenset[int]]:  # fmt: skip
    """Return a compiled level, for drawing, whose pieces are where they are at a time, in a run if there is one.

    What is gone then has no shape; its number is among those that are returned besides.
    """
    resolved, origins = compiled.resolved, compiled.origins.copy()
    gone: set[int] = set()
    if run is not None:
        placement, angles = placement_at(run, t)
        tick = min(round(t * run.level.world.tick_rate), len(run.track_records) - 1)
        rows = piece_motions(run, tick, tick + 1)
        numbers = {piece.name: index for index, piece in enumerate(resolved.pieces)}
        for name, x, y, state in zip(rows["piece"], rows["x"], rows["y"], rows["state"], strict=True):
            index = numbers.get(name, -1)
            if index < 0:
                continue
            if state == GONE:
                gone.add(index)
                placement = placement.only(placement.piece != index)
            elif index not in resolved.moving:
                # A pickup that comes; all others are there already.
                placement = placement.carried(index, origins[index], np.array([x, y]) - origins[index], 0.0)
            origins[index] = x, y
    else:
        placement, angles = compiled.placement, {}
        for index, motion in pose_tables_of(compiled.level).motions(range(len(origins)), [t]).items():
            angles[index] = float(motion.angle[0])
            placement = placement.carried(index, compiled.origins[index], motion.offset[0], angles[index])
            origins[index] = compiled.origins[index] + motion.offset[0]
    pieces = list(resolved.pieces)
    for index, angle in angles.items():
        pieces[index] = replace(pieces[index], turn=pieces[index].turn + float(np.degrees(angle)))
    turned = copy.copy(resolved)
    turned.pieces = tuple(pieces)
    return replace(compiled, placement=placement, resolved=turned, origins=origins), frozenset(gone)


def draw_motions(ax: Any, compiled: CompiledLevel, colours: dict[str, str], hidden: frozenset[int]) -> None:
    """Draw the ways of what moves and is not hidden, with ghosts of it, and what it turns about."""
    from matplotlib.patches import Polygon

    for index, piece in enumerate(compiled.resolved.pieces):
        if index in hidden or not any(name in piece.facets for name in ("route", "spin")):
            continue
        origin = compiled.origins[index]
        if piece.facet("route") is not None:
            _draw_way(ax, piece.facet("route"), origin)
        if piece.facet("spin") is not None:
            _draw_pivot(ax, compiled, index)
        for number, corners in _ghosts(compiled, index):
            colour = colours[compiled.resolved.pieces[number].layer]
            ax.add_artist(
                Polygon(corners, closed=True, facecolor="none", edgecolor=colour, linewidth=0.8, linestyle=GHOST,
                        zorder=1.8)
            )  # fmt: skip


def draw_flights(ax: Any, run: Run, colours: dict[str, str], at: float | None, last: int | None = None) -> None:
    """Draw the ways of what flew, and what was made where it is at a time, or, without one, where it was last."""
    from matplotlib.collections import LineCollection
    from matplotlib.patches import Polygon

    compiled, rows = run.compiled, run.flight_records
    rows = rows if last is None else rows[rows["tick"] < last]
    movers = compiled.tables.movers
    if movers is None or not len(rows):
        return
    resolved = compiled.cast.resolved
    tick = None if at is None else min(round(at * run.level.world.tick_rate), len(run.track_records) - 1)
    authored = len(compiled.resolved.pieces)
    for mover in np.unique(rows["mover"]):
        own = rows[rows["mover"] == mover]
        piece = int(movers.movers["piece"][mover])
        colour = colours[resolved.pieces[piece].layer]
        points = np.column_stack((own["x"], own["y"]))
        steps = np.stack((points[:-1], points[1:]), axis=1)
        # Where it was gone in between, or came in again opposite, there is no line.
        usual = 2.0 * np.hypot(own["vx"], own["vy"])[:-1] / run.level.world.tick_rate
        whole = (np.diff(own["tick"]) == 1) & (np.hypot(*(points[1:] - points[:-1]).T) <= usual)
        ax.add_collection(LineCollection(list(steps[whole]), colors=colour, linewidths=0.7, alpha=0.55, zorder=1.7))
        if piece < authored:
            continue
        ends = np.append(np.diff(own["tick"]) > 1, True)
        shown = own[ends] if tick is None else own[own["tick"] == tick]
        look = {"color": colour, "linewidth": 0.8, "alpha": 0.8, "zorder": 2.1}
        look |= {"fill": tick is not None, "linestyle": "-" if tick is not None else GHOST}
        for row in shown:
            for number, corners in _made_at(compiled, piece, row):
                ax.add_artist(Polygon(corners, closed=True, **look))
                if resolved.pieces[number].facet("harm") is not None:
                    draw_teeth(ax, corners, TOOTH * run.level.player.shape.size[1])


def _made_at(compiled: CompiledLevel, piece: int, row: Any) -> list[tuple[int, Any]]:
    """Return the outlines of something that was made, with the piece of each, where a row of the record says."""
    found = []
    offset = np.array([row["x"], row["y"]])
    for number in (piece, *_fixed_to(compiled.cast.resolved, piece)):
        shapes = compiled.shapes.only(compiled.shapes.piece == number)
        grown = shapes._replace(points=row["scale"] * shapes.points, radius=row["scale"] * shapes.radius)
        placed = grown.carried(number, np.zeros(2), offset, float(row["angle"]))
        found += [(number, np.asarray(polygon.exterior.coords)) for polygon in shape_polygons(placed)]
    return found


def draw_cracks(ax: Any, compiled: CompiledLevel) -> None:
    """Draw a crack across every piece that gives way."""
    for index, piece in enumerate(compiled.resolved.pieces):
        if piece.facet("crumble") is None or not piece.can_be_met:
            continue
        for polygon in shape_polygons(compiled.placement.only(compiled.placement.piece == index)):
            x0, y0, x1, y1 = polygon.bounds
            along = np.linspace(x0, x1, TEETH + 2)[1:-1]
            across = (y0 + y1) / 2 + (y1 - y0) * np.where(np.arange(TEETH) % 2, 0.3, -0.3)
            ax.plot(along, across, color=PAPER, linewidth=1.4, zorder=2.9)


def motion_boxes(compiled: CompiledLevel) -> list[Box]:
    """Return what the pieces that move cover at their stops and turns."""
    boxes = []
    for index, piece in enumerate(compiled.resolved.pieces):
        if any(name in piece.facets for name in ("route", "spin")):
            boxes += [(*corners.min(axis=0), *corners.max(axis=0)) for _, corners in _ghosts(compiled, index)]
    return boxes


def _draw_way(ax: Any, route: Any, origin: Any) -> None:
    way = way_of(route)
    stops = origin + np.array(route.stops)
    line = np.vstack((stops, stops[:1])) if route.mode == "loop" else stops
    if len(way.knots):
        line = origin + way.knots[:, :2]
    ax.plot(line[:, 0], line[:, 1], color=INK, linewidth=0.9, linestyle=ROUTE, zorder=2.6)
    ax.scatter(stops[:, 0], stops[:, 1], s=9, color=INK, zorder=2.7, linewidths=0)


def _draw_pivot(ax: Any, compiled: CompiledLevel, index: int) -> None:
    """Draw the point that a piece turns about, and an arrow round it."""
    from matplotlib.patches import Arc

    piece = compiled.resolved.pieces[index]
    x, y = compiled.origins[index] + spin_pivot(piece)
    ax.scatter([x], [y], s=16, facecolor=PAPER, edgecolor=INK, zorder=3.8, linewidths=1.2)
    shapes = shape_polygons(compiled.placement.only(compiled.placement.piece == index))
    corners = np.concatenate([np.asarray(polygon.exterior.coords) for polygon in shapes] or [np.array([[x, y]])])
    size = max(HANDLE * float(np.hypot(*(corners - (x, y)).T).max()), 0.6 * max(compiled.level.player.shape.size))
    ax.add_artist(Arc((x, y), 2 * size, 2 * size, theta1=20, theta2=160, color=INK, linewidth=1.1, zorder=3.8))
    end = 160.0 if piece.facet("spin").speed > 0 else 20.0
    before = end - ARROW / 4 if piece.facet("spin").speed > 0 else end + ARROW / 4
    tip, tail = ((x + size * np.cos(np.radians(a)), y + size * np.sin(np.radians(a))) for a in (end, before))
    ax.annotate("", xy=tip, xytext=tail, arrowprops={"arrowstyle": "-|>", "color": INK, "linewidth": 1.1}, zorder=3.8)


def _ghosts(compiled: CompiledLevel, index: int) -> list[tuple[int, Any]]:
    """Return outlines, with the piece of each, of what one piece moves, at its stops or around its pivot."""
    piece = compiled.resolved.pieces[index]
    route, spin = piece.facet("route"), piece.facet("spin")
    moved = [index, *_fixed_to(compiled.resolved, index)]
    if route is not None:
        legs = way_of(route).legs
        times = [leg.begin - route.start for leg in legs]
        if route.mode == "once":
            times.append(legs[-1].begin + legs[-1].pause + legs[-1].duration - route.start)
    elif spin is not None and spin.speed:
        times = np.arange(TURNS) * 360.0 / TURNS / abs(spin.speed)
    else:
        return []
    motion = pose_tables_of(compiled.level).own_motion(index, times)
    return [
        (number, np.asarray(polygon.exterior.coords))
        for moment in range(len(motion.angle))
        for number in moved
        for polygon in _placed(compiled, number, index, motion, moment)
    ]


def _fixed_to(resolved: ResolvedLevel, index: int) -> list[int]:
    """Return what a piece carries that does not move by itself."""
    found: list[int] = []
    for number, parent in enumerate(resolved.parents):
        if parent == index and not any(name in resolved.pieces[number].facets for name in MOTIONS):
            found += [number, *_fixed_to(resolved, number)]
    return found


def _placed(compiled: CompiledLevel, number: int, leader: int, motion: Motion, moment: int) -> list[Any]:
    shapes = compiled.placement.only(compiled.placement.piece == number)
    origin = compiled.origins[leader]
    return list(shape_polygons(shapes.carried(number, origin, motion.offset[moment], float(motion.angle[moment]))))
