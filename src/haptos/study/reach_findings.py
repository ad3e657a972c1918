"""What the body can't get to, or not a second time."""

from __future__ import annotations

from haptos.engine.build.compile_level import CompiledLevel
from haptos.level.resolved_piece import ResolvedPiece
from haptos.study.findings import Finding
from haptos.study.reach import Reach


def find_unreached_movers(compiled: CompiledLevel) -> list[Finding]:
    """Platforms that the player can't board, where they start if they wait for it, or anywhere on their way."""
    resolved = compiled.resolved
    if compiled.level.world.view == "top" or not resolved.moving:
        return []
    reach = Reach(compiled)
    reached = reach.pieces()
    findings = []
    for index in sorted({stand.piece for stand in reach.stands} & resolved.moving - reached):
        piece = resolved.pieces[index]
        root = resolved.pieces[resolved.root(index)]
        route = root.facet("route")
        if route is not None and route.waits_for == "ridden":
            message = (
                "it waits to be ridden where the player can't board it: no jump from anywhere in reach gets to where "
                "it starts; move it, or let it go by itself"
            )
            findings.append(Finding("error", "never-boarded", piece.place, message, piece.at))
        elif route is not None and not reached & {index, *resolved.descendants(resolved.root(index))}:
            message = "the player can't board it anywhere on its way: no jump from anywhere in reach gets to it"
            findings.append(Finding("note", "out-of-reach", piece.place, message, piece.at))
    return findings


def find_lost_ways(compiled: CompiledLevel) -> list[Finding]:
    """Pieces that give way for good, without which something can't be reached any more."""
    resolved = compiled.resolved
    if compiled.level.world.view == "top":
        return []
    gone = [
        index
        for index, piece in enumerate(resolved.pieces)
        if piece.facet("crumble") is not None and piece.facet("crumble").returns_after is None
    ]
    if not gone:
        return []
    reach = Reach(compiled)
    before = reach.pieces()
    alone = {index: _lost(resolved.pieces, before, reach.pieces(frozenset({index})), {index}) for index in gone}
    findings = [_lost_way(resolved.pieces[index], lost) for index, lost in alone.items() if lost]
    together = _lost(resolved.pieces, before, reach.pieces(frozenset(gone)), set(gone))
    if together and not findings:
        findings.append(_lost_way(resolved.pieces[gone[0]], together, len(gone)))
    return findings


def _lost(
    pieces: tuple[ResolvedPiece, ...], before: set[int], after: set[int], gone: set[int]
) -> list[str]:  # fmt: skip
    return [pieces[index].name for index in sorted(before - after - gone)]


def _lost_way(piece: ResolvedPiece, lost: list[str], together: int = 1) -> Finding:
    names = ", ".join(f"'{name}'" for name in lost[:3]) + (f" and {len(lost) - 3} more" if len(lost) > 3 else "")
    subject = "once it is gone" if together == 1 else f"once it and the {together - 1} others like it are gone"
    message = (
        f"{subject}, there is no way to {names}, and it never returns; give it returns_after, or another way there"
    )
    return Finding("warning", "lost-way", f"{piece.place}, crumble", message, piece.at)
