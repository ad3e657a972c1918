"""What is solid to the player, and which side of the bounds is up: shared by the questions about walls and ground."""

from __future__ import annotations

from typing import Any

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel
from haptos.geometry.placement import Placement
from haptos.geometry.polygons import shape_polygons
from haptos.level.level import Level

OPPOSITE = {"left": "right", "right": "left", "bottom": "top", "top": "bottom"}


def solid_shapes(compiled: CompiledLevel, one_way: bool = True) -> Placement:
    """Return the shapes that are solid to the player, with or without those that are solid from one side alone.

    Loose bodies are no walls, and no ground that stays.
    """
    resolved = compiled.resolved
    wanted = np.array(
        [
            resolved.meeting(piece) == "solid" and (one_way or piece.solid_from is None) and piece.facet("body") is None
            for piece in resolved.pieces
        ]
        or [False]
    )
    return compiled.placement.only(wanted[compiled.placement.piece])


def walls_of(compiled: CompiledLevel) -> dict[str, Any]:
    """Return the sides of the bounds that are walls, by name, as slabs outside of them."""
    import shapely

    bounds = compiled.level.world.bounds
    if bounds is None:
        return {}
    x0, y0, x1, y1 = bounds.corners
    thick = max(x1 - x0, y1 - y0)
    slabs = {
        "left": (x0 - thick, y0, x0, y1), "right": (x1, y0, x1 + thick, y1),
        "bottom": (x0, y0 - thick, x1, y0), "top": (x0, y1, x1, y1 + thick),
    }  # fmt: skip
    return {f"bounds/{side}": shapely.box(*slab) for side, slab in slabs.items() if getattr(bounds, side) == "wall"}


def other_gravity(compiled: CompiledLevel) -> Any:
    """Return where gravity is, or may be, another one than the world's: there, slopes are not what they seem."""
    import shapely

    zones = []
    for index, piece in enumerate(compiled.resolved.pieces):
        field = piece.facet("field")
        if field is not None and field.gravity is not None:
            zones += shape_polygons(compiled.placement.only(compiled.placement.piece == index))
    return shapely.union_all(zones) if zones else shapely.Polygon()


def side_above(level: Level) -> str:
    """Return the side of the bounds that is most nearly against gravity."""
    ux, uy = level.world.up
    return "top" if uy > abs(ux) else "bottom" if -uy > abs(ux) else "right" if ux > 0 else "left"
