"""Where each convex shape of a level stands, as arrays: core polygons with rounding, in world coordinates."""

from __future__ import annotations

from functools import lru_cache
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.errors import LevelError
from haptos.geometry.convex import Core, convex_cores, turned
from haptos.geometry.tiles import merge_tiles
from haptos.level.assemblies import middle
from haptos.level.pieces import Part
from haptos.level.resolve import ResolvedLevel
from haptos.level.resolved_piece import ResolvedPiece

Floats = NDArray[np.float64]
Integers = NDArray[np.int64]

# The direction from which a one-way piece is solid, in its own frame.
SIDE_DIRECTIONS = {"above": (0.0, 1.0), "below": (0.0, -1.0), "left": (-1.0, 0.0), "right": (1.0, 0.0)}


class Placement(NamedTuple):
    """n convex shapes in world coordinates.

    Attributes
    ----------
    piece : (n,) index of the piece that the shape belongs to
    first, sides : (n,) the core's corners within `points`
    radius : (n,) how far the shape reaches beyond its core
    side : (n, 2) the direction from which it is solid; zero if from everywhere
    points : (m, 2) corners of the cores, counter-clockwise; two of a line, one of a circle
    """

    piece: Integers
    first: Integers
    sides: Integers
    radius: Floats
    side: Floats
    points: Floats

    def only(self, which: NDArray[np.bool_]) -> Placement:
        """Return some of the shapes."""
        return self._picked(np.flatnonzero(which))

    def moved(self, which: NDArray[np.bool_], dx: float, dy: float) -> Placement:
        """Return the placement with some of the shapes moved."""
        points = self.points.copy()
        points[np.repeat(which, self.sides)] += np.array([dx, dy])
        return self._replace(points=points)

    def turned(self, which: NDArray[np.bool_], about: Floats, angle: float) -> Placement:
        """Return the placement with some of the shapes turned about a point, radians."""
        rows = np.repeat(which, self.sides)
        points, side = self.points.copy(), self.side.copy()
        points[rows] = turned(points[rows] - about, angle) + about
        side[which] = turned(side[which], angle)
        return self._replace(points=points, side=side)

    def carried(self, index: int, origin: Floats, offset: Floats, angle: float) -> Placement:
        """Return the placement with one piece turned about its place, radians, and moved."""
        which = self.piece == index
        turned_there = self if angle == 0.0 else self.turned(which, origin, angle)
        return turned_there.moved(which, float(offset[0]), float(offset[1]))

    def corners(self, index: int) -> Floats:
        """Return the core of one shape."""
        return self.points[self.first[index] : self.first[index] + self.sides[index]]

    def _picked(self, which: Integers) -> Placement:
        sides = self.sides[which]
        rows = np.repeat(self.first[which], sides) + ramps(sides)
        return Placement(
            self.piece[which], starts(sides), sides, self.radius[which], self.side[which], self.points[rows]
        )


def spin_pivot(piece: ResolvedPiece) -> Floats:
    """Return where a spin's pivot is from the piece's place, in the world's directions."""
    return turned(piece.scale * np.array(piece.facet("spin").pivot), np.deg2rad(piece.turn))


def starts(counts: Integers) -> Integers:
    """Return where each of several runs of so many items begins."""
    return np.concatenate((np.zeros(1, dtype=np.int64), np.cumsum(counts)))[: len(counts)].astype(np.int64)


def ramps(count: Integers) -> Integers:
    """Return 0, 1, …, count - 1 for every count, one after another."""
    ends = np.cumsum(count)
    return np.arange(int(ends[-1]) if len(ends) else 0) - np.repeat(ends - count, count)


def place_shapes(resolved: ResolvedLevel, first: int = 0) -> Placement:
    """Return every shape of a level that can be met, in file order.

    Parameters
    ----------
    resolved : ResolvedLevel
    first : int
        The first piece whose shapes are wanted.
    """
    blocks = []
    for index, piece in enumerate(resolved.pieces[first:], start=first):
        if piece.fills_tile:
            blocks.append(_tile_block(resolved, piece, index))
        elif piece.can_be_met:
            blocks.append(_piece_block(resolved, piece, index))
    placement = joined(blocks)
    _require_corners(resolved, placement)
    return placement


def _require_corners(resolved: ResolvedLevel, placement: Placement) -> None:
    """Raise where corners of a shape fall together: it is too small for a place so far from the origin."""
    count = np.maximum(placement.sides, 1)
    following = np.arange(len(placement.points)) + 1
    following[np.cumsum(count) - 1] = placement.first
    together = (placement.points == placement.points[following]).all(axis=1) & (np.repeat(count, count) > 1)
    if together.any():
        shape = int(np.searchsorted(np.cumsum(count), np.flatnonzero(together)[0], side="right"))
        piece = resolved.pieces[int(placement.piece[shape])]
        raise LevelError(
            f"{piece.place}, shape", "found corners that fall together so far from the origin, expected a larger shape"
        )


def joined(blocks: list[Placement]) -> Placement:
    """Return the shapes of several placements, one after another."""
    if not blocks:
        nothing = np.zeros(0, dtype=np.int64)
        return Placement(nothing, nothing, nothing, np.zeros(0), np.zeros((0, 2)), np.zeros((0, 2)))
    sides = np.concatenate([block.sides for block in blocks])
    columns: Any = (np.concatenate(column) for column in zip(*blocks, strict=True))
    return Placement(*columns)._replace(first=starts(sides))


def piece_cores(piece: ResolvedPiece) -> tuple[Core, ...]:
    """Return the convex cores of a piece about its own place, scaled but not turned; nobody may change them."""
    return _cores_of(piece.parts, piece.scale)


@lru_cache(maxsize=4096)
def _cores_of(parts: tuple[Part, ...], scale: float) -> tuple[Core, ...]:
    """Return the cores of shapes: of levels that differ in numbers alone, they are the same again and again."""
    cores = []
    for part in parts:
        if not part.shape.can_be_met:
            continue
        corners = part.shape.corners
        offset = np.array(part.at)
        if corners is not None and len(parts) > 1:
            offset = np.array(middle(corners))
        for core in convex_cores(part.shape):
            points = (turned(core.points, np.deg2rad(part.shape.turn)) + offset) * scale
            points.flags.writeable = False
            cores.append(Core(points, core.radius * scale, core.from_left))
    return tuple(cores)


def piece_box(piece: ResolvedPiece) -> tuple[Floats, Floats]:
    """Return the lower left and upper right corner of a piece's shapes about its place, before it is turned."""
    cores = piece_cores(piece)
    low = np.min([core.points.min(axis=0) - core.radius for core in cores], axis=0)
    high = np.max([core.points.max(axis=0) + core.radius for core in cores], axis=0)
    return low, high


def piece_places(piece: ResolvedPiece, shapes: Placement) -> list[Floats]:
    """Return where a piece stands, after what rest did; for tiles, each of them.

    Parameters
    ----------
    piece : ResolvedPiece
    shapes : Placement
        Its shapes alone.
    """
    if not piece.can_be_met:
        return []
    cores = piece_cores(piece)
    first = turned(cores[0].points, np.deg2rad(piece.turn))[0]
    return [shapes.corners(index)[0] - first for index in range(0, len(shapes.piece), len(cores))]


def look_size(piece: ResolvedPiece) -> tuple[float, float]:
    """Return the size of a piece's drawing: its own, scaled, or the shape's."""
    look = piece.facet("look")
    if look.size is not None:
        return (look.size[0] * piece.scale, look.size[1] * piece.scale)
    low, high = piece_box(piece)
    return (float(high[0] - low[0]), float(high[1] - low[1]))


def side_direction(piece: ResolvedPiece) -> Floats:
    """Return the direction in the world from which a piece is solid; zero if from everywhere."""
    if piece.solid_from is None:
        return np.zeros(2)
    return turned(np.array(SIDE_DIRECTIONS[piece.solid_from]), np.deg2rad(piece.turn))


def launch_direction(piece: ResolvedPiece) -> Floats:
    """Return the direction in the world in which a launcher throws."""
    return turned(np.array([1.0, 0.0]), np.deg2rad(piece.turn + piece.facet("launch").angle))


def _piece_block(resolved: ResolvedLevel, piece: ResolvedPiece, index: int) -> Placement:
    cores = piece_cores(piece)
    angle = np.deg2rad(piece.turn)
    points = [turned(core.points, angle) for core in cores]
    side = np.array([_core_side(core, corners, piece) for core, corners in zip(cores, points, strict=True)])
    centres = _tile_centres(resolved, piece) if piece.tiles else np.array([piece.at])
    count = len(centres)
    sides = np.tile([len(corners) for corners in points], count).astype(np.int64)
    block = np.concatenate([corners + centre for centre in centres for corners in points])
    return Placement(
        np.full(len(sides), index, dtype=np.int64),
        starts(sides),
        sides,
        np.tile([core.radius for core in cores], count),
        np.tile(side, (count, 1)),
        block,
    )


def _core_side(core: Core, corners: Floats, piece: ResolvedPiece) -> Floats:
    if not core.from_left:
        return side_direction(piece)
    # What comes from the left of a line meets its left normal.
    along = corners[1] - corners[0]
    return np.array([-along[1], along[0]]) / np.hypot(*along)


def _tile_centres(resolved: ResolvedLevel, piece: ResolvedPiece) -> Floats:
    tiles = resolved.level.tiles
    assert tiles is not None
    local = (np.array(piece.tiles, dtype=np.float64) + 0.5) * tiles.tile
    return turned(local, np.deg2rad(tiles.turn)) + np.array(tiles.at)


def _tile_block(resolved: ResolvedLevel, piece: ResolvedPiece, index: int) -> Placement:
    """Return the tiles of a kind that fills them, merged into few boxes."""
    tiles = resolved.level.tiles
    assert tiles is not None
    own_turn = np.deg2rad(piece.turn - tiles.turn)
    cells = np.array(piece.tiles, dtype=np.int64)
    if own_turn == 0 and piece.scale == 1:
        rectangles = merge_tiles(cells).astype(np.float64)
    else:
        rectangles = np.column_stack((cells, np.ones_like(cells))).astype(np.float64)
    low, size = rectangles[:, None, :2], rectangles[:, None, 2:]
    unit = np.array([[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]]) - 0.5
    corners = turned(unit * size * piece.scale * tiles.tile, own_turn) + (low + size / 2) * tiles.tile
    points = turned(corners, np.deg2rad(tiles.turn)) + np.array(tiles.at)
    sides = np.full(len(rectangles), 4, dtype=np.int64)
    return Placement(
        np.full(len(rectangles), index, dtype=np.int64),
        starts(sides),
        sides,
        np.zeros(len(rectangles)),
        np.tile(side_direction(piece), (len(rectangles), 1)),
        points.reshape(-1, 2),
    )
