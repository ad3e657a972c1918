"""What a piece does, told by a hatch and a small sign as well as by its colour."""

from __future__ import annotations

from typing import Any, NamedTuple

import shapely

from haptos.engine.build.compile_level import CompiledLevel
from haptos.geometry.polygons import shape_polygons
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.roster import GRAVITY_KEYS
from haptos.views.palette import INK, PAPER

# A sign smaller pieces than this, dots, would be covered by.
ROOM = 13.0


class Sign(NamedTuple):
    """How what a piece does looks: the hatch of what is felt, the sign, and the words of the legend."""

    hatch: str
    sign: str
    words: str


SIGNS = {
    "harm": Sign("xxx", "▲", "it hurts"),
    "ladder": Sign("---", "☰", "it is climbed"),
    "gravity": Sign("\\\\\\", "⇅", "gravity is another one there"),
    "checkpoint": Sign("++", "⚑", "it saves"),
    "finish": Sign("", "▩", "the finish"),
    "launch": Sign("|||", "⇧", "it throws"),
    "slow": Sign("...", "≋", "one is slower there"),
    "push": Sign("\\\\", "⇉", "it pushes or pulls"),
}
FELT = "///"


def role_of(piece: ResolvedPiece) -> str | None:
    """Return what a piece does, the first of `SIGNS` that it has; None for no more than being there."""
    field, surface = piece.facet("field"), piece.facet("surface")
    for facet in ("harm", "ladder", "checkpoint", "finish", "launch"):
        if piece.facet(facet) is not None:
            return facet
    if field is not None and field.gravity is not None:
        return "gravity"
    factors = [section.speed_factor for section in (field, surface) if section is not None]
    if any(factor < 1.0 for factor in factors) or (field is not None and field.speed_limit is not None):
        return "slow"
    if field is not None and any(getattr(field, name) != usual for name, usual in GRAVITY_KEYS.items()):
        return "push"
    return None


def hatch_of(piece: ResolvedPiece) -> str:
    """Return the hatch of a piece that is only felt."""
    role = role_of(piece)
    return FELT if role is None else SIGNS[role].hatch


def draw_signs(ax: Any, then: CompiledLevel, hidden: frozenset[int]) -> list[tuple[float, float, float, float]]:
    """Draw the sign of each piece that does something, and return their boxes, in dots."""
    boxes = []
    for index, piece in enumerate(then.resolved.pieces):
        role = role_of(piece)
        if role is None or index in hidden or then.resolved.meeting(piece) == "nothing":
            continue
        shapes = shape_polygons(then.placement.only(then.placement.piece == index))
        for shape in shapes[:1]:
            low = ax.transData.transform(shape.bounds[:2])
            high = ax.transData.transform(shape.bounds[2:])
            if min(high - low) < ROOM:
                continue
            x, y = low[0] + 8.0, high[1] - 8.0
            back = ax.transData.inverted().transform
            if not shape.contains(shapely.Point(back((x, y)))):
                # Of what is round, the middle of its top.
                x, y = (low[0] + high[0]) / 2, high[1] - 9.0
            at = back((x, y))
            ax.text(
                *at, SIGNS[role].sign, fontsize=7.5, ha="center", va="center", color=INK, zorder=4.2, clip_on=True,
                bbox={"boxstyle": "round,pad=0.12", "facecolor": PAPER, "edgecolor": "none", "alpha": 0.8},
            )  # fmt: skip
            boxes.append((x - 7.0, y - 7.0, x + 7.0, y + 7.0))
    return boxes


def sign_handles(compiled: CompiledLevel) -> list[Any]:
    """Return the lines of the legend for what the pieces of a level do."""
    from matplotlib.patches import Patch

    resolved = compiled.cast.resolved
    roles = {role_of(piece) for piece in resolved.pieces if resolved.meeting(piece) != "nothing"}
    return [
        Patch(facecolor="none", edgecolor=INK, linewidth=0.6, hatch=sign.hatch, label=f"{sign.sign}  {sign.words}")
        for role, sign in SIGNS.items()
        if role in roles
    ]
