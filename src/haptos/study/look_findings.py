"""Findings about drawings: whether their opaque outlines fit the shapes that they stand for."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from haptos.engine.build.compile_level import CompiledLevel
from haptos.errors import HaptosError
from haptos.files.images import read_image
from haptos.geometry.placement import look_size, piece_box
from haptos.level.resolved_piece import ResolvedPiece
from haptos.study.findings import Finding

# A dot counts as drawn from this opacity on.
OPAQUE = 0.5
# Margins of more than this share of the shape's smaller side are likely not meant.
LOOSE = 0.1


class Margins(NamedTuple):
    """How far the drawing's opaque outline reaches beyond the shape on each side, in the piece's own frame."""

    left: float
    right: float
    below: float
    above: float


def look_margins(piece: ResolvedPiece) -> Margins | None:
    """Return the margins between a piece's drawing and its shape; None if nothing of the drawing is opaque.

    Raises
    ------
    HaptosError
        If the image can't be read.
    """
    look = piece.facet("look")
    pixels = read_image(look.image)
    opaque = pixels[..., 3] >= OPAQUE if pixels.shape[2] == 4 else np.ones(pixels.shape[:2], dtype=bool)
    if not opaque.any():
        return None
    rows, columns = np.flatnonzero(opaque.any(axis=1)), np.flatnonzero(opaque.any(axis=0))
    low, high = piece_box(piece)
    width, height = look_size(piece)
    dot_x, dot_y = width / pixels.shape[1], height / pixels.shape[0]
    left = look.offset[0] - width / 2 + columns[0] * dot_x
    right = look.offset[0] - width / 2 + (columns[-1] + 1) * dot_x
    above = look.offset[1] + height / 2 - rows[0] * dot_y
    below = look.offset[1] + height / 2 - (rows[-1] + 1) * dot_y
    return Margins(low[0] - left, right - high[0], low[1] - below, above - high[1])


def find_loose_looks(compiled: CompiledLevel) -> list[Finding]:
    """Drawings that reach beyond their shapes, or fall short of them, and images that can't be read."""
    findings = []
    for piece in compiled.resolved.pieces:
        if piece.facet("look") is None or not piece.can_be_met:
            continue
        try:
            margins = look_margins(piece)
        except HaptosError as error:
            findings.append(Finding("error", "look-missing", f"{piece.place}, look.image", str(error), piece.at))
            continue
        if margins is None:
            findings.append(
                Finding("error", "look-empty", f"{piece.place}, look.image", "nothing of the image is opaque", piece.at)
            )
            continue
        low, high = piece_box(piece)
        smaller = float(min(high - low))
        if max(map(abs, margins)) > LOOSE * smaller:
            sides = ", ".join(f"{side} {margin:+.4g}" for side, margin in margins._asdict().items())
            message = (
                f"the drawing's opaque outline and the shape differ ({sides}; + is drawing beyond the shape): what is "
                "seen is not what is met; fit one of them"
            )
            findings.append(Finding("warning", "look-loose", piece.place, message, piece.at))
    return findings
