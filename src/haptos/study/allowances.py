"""What a level says that `check` is not to say, and what it says so in vain."""

from __future__ import annotations

from typing import Any

from haptos.engine.build.compile_level import CompiledLevel
from haptos.level.names import did_you_mean
from haptos.level.resolved_piece import ResolvedPiece
from haptos.study.explained import CODES
from haptos.study.findings import Finding

KIND = "kind "
# Where an allowance is written, and which code it allows.
Place = tuple[str, str]


def without_allowed(compiled: CompiledLevel, findings: list[Finding]) -> list[Finding]:
    """Return findings without those that are allowed, and one for each allowance that silences nothing.

    Parameters
    ----------
    compiled : CompiledLevel
    findings : list of Finding

    Returns
    -------
    list of Finding
    """
    everywhere = [("", code) for code in compiled.level.allow]
    by_piece = [(piece, _allowed_by(piece)) for piece in compiled.resolved.pieces]
    known = {*everywhere, *(place for _, places in by_piece for place in places)}
    used: set[Place] = set()
    left = []
    for finding in findings:
        places = [("", finding.code)] if ("", finding.code) in everywhere else []
        owner = max(
            (row for row in by_piece if _is_about(finding.place, row[0])),
            key=lambda row: len(row[0].place),
            default=None,
        )
        if owner is not None:
            places += [place for place in owner[1] if place[1] == finding.code]
        used.update(places)
        if not places:
            left.append(finding)
    return left + [_idle(*place) for place in sorted(known - used)]


def _allowed_by(piece: ResolvedPiece) -> list[Place]:
    """Return what a piece and its kinds allow: where it is written, and the code."""
    found = []
    for words, source in piece.sources:
        allowed: Any = getattr(source, "allow", {})
        where = f"kinds.{words.removeprefix(KIND)}" if words.startswith(KIND) else piece.place.partition(", copies")[0]
        found += [(where, code) for code in allowed]
    return found


def _is_about(place: str, piece: ResolvedPiece) -> bool:
    """Whether a finding's place is that of a piece, or of something in it."""
    return place == piece.place or place.startswith((f"{piece.place},", f"{piece.place}/", f"{piece.place}."))


def _idle(where: str, code: str) -> Finding:
    if code in CODES:
        said = f"nothing there is '{code}', so it silences nothing; take it away"
    else:
        said = f"check finds nothing that is called '{code}'{did_you_mean(code, CODES)}"
    return Finding("warning", "allowance-idle", f"{where}, allow.{code}" if where else f"allow.{code}", said)
