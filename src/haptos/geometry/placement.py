"""Where each convex shape of a level stands, as arrays: core boxes with rounding."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.geometry.tiles import merge_tiles
from haptos.level.resolve import ResolvedLevel, ResolvedPiece
from haptos.level.shapes import half_extents

Floats = NDArray[np.float64]


class Placement(NamedTuple):
    """Convex shapes in world coordinates, all arrays of one length.

    Attributes
    ----------
    piece : index of the piece that the shape belongs to
    x, y : centre
    half_width, half_height : half extents of the core box, before it is turned
    radius : how far the shape reaches beyond its core
    angle : turn of the core, radians
    """

    piece: NDArray[np.int64]
    x: Floats
    y: Floats
    half_width: Floats
    half_height: Floats
    radius: Floats
    angle: Floats

    def only(self, which: NDArray[np.bool_]) -> Placement:
        """Return some of the shapes."""
        columns: Any = (column[which] for column in self)
        return Placement(*columns)


def place_shapes(resolved: ResolvedLevel) -> Placement:
    """Return every shape with area of a level, in file order.

    Parameters
    ----------
    resolved : ResolvedLevel
    """
    rows: list[tuple[float, ...]] = []
    blocks: list[Floats] = []
    for index, piece in enumerate(resolved.pieces):
        if piece.shape is None or not piece.shape.has_area:
            continue
        if piece.tiles:
            if rows:
                blocks.append(np.array(rows, dtype=np.float64))
                rows = []
            blocks.append(_tile_block(resolved, piece, index))
        else:
            rows.append((index, *piece.at, *half_extents(piece.shape), np.deg2rad(piece.angle)))
    if rows:
        blocks.append(np.array(rows, dtype=np.float64))
    table = np.concatenate(blocks) if blocks else np.zeros((0, 7))
    columns = [np.ascontiguousarray(table[:, column]) for column in range(7)]
    return Placement(columns[0].astype(np.int64), *columns[1:])


def _tile_block(resolved: ResolvedLevel, piece: ResolvedPiece, index: int) -> Floats:
    tiles = resolved.level.tiles
    assert tiles is not None
    assert piece.shape is not None
    cells = np.array(piece.tiles, dtype=np.int64)
    own_turn = piece.angle - tiles.turn
    fills = piece.shape.box == (tiles.tile, tiles.tile) and own_turn == 0
    if fills:
        rectangles = merge_tiles(cells).astype(np.float64)
    else:
        rectangles = np.column_stack((cells, np.ones_like(cells))).astype(np.float64)
    block = np.empty((len(rectangles), 7))
    block[:, 0] = index
    local = (rectangles[:, :2] + rectangles[:, 2:] / 2) * tiles.tile
    turn = np.deg2rad(tiles.turn)
    cosine, sine = (np.cos(turn), np.sin(turn)) if tiles.turn else (1.0, 0.0)
    block[:, 1] = tiles.at[0] + cosine * local[:, 0] - sine * local[:, 1]
    block[:, 2] = tiles.at[1] + sine * local[:, 0] + cosine * local[:, 1]
    if fills:
        block[:, 3:5] = rectangles[:, 2:] * tiles.tile / 2
        block[:, 5] = 0.0
    else:
        block[:, 3:6] = half_extents(piece.shape)
    block[:, 6] = np.deg2rad(piece.angle)
    return block
