"""Findings about names: those that mean several things, and filters that mean nobody."""

from __future__ import annotations

from collections.abc import Iterator

from haptos.engine.build.compile_level import CompiledLevel
from haptos.level.resolve import ResolvedLevel
from haptos.level.roster import OTHER, PLAYER
from haptos.level.selectors import MARK, in_words, senses
from haptos.study.findings import Finding


def find_unclear_names(compiled: CompiledLevel) -> list[Finding]:
    """Names that mean a piece, a kind and a layer at once, where that makes a difference."""
    resolved = compiled.cast.resolved
    findings = []
    seen = set()
    for place, name in _named(resolved):
        if name in (PLAYER, OTHER) or (place, name) in seen:
            continue
        seen.add((place, name))
        possible = senses(name, resolved.by_name, resolved.level.kinds, resolved.contacts.layers)
        meant = [set(resolved.answering(one)) for one in possible]
        others = [one for one, pieces in zip(possible[1:], meant[1:], strict=True) if pieces != meant[0]]
        if others:
            have = "has" if len(others) == 1 else "have"
            message = (
                f"'{name}' means {in_words(possible[0])} here, but {' and '.join(map(in_words, others))} "
                f"{have} that name too; write {' or '.join(repr(one) for one in (possible[0], others[0]))}"
            )
            findings.append(Finding("warning", "name-unclear", place, message))
    return findings


def find_filters_of_nobody(compiled: CompiledLevel) -> list[Finding]:
    """Filters of a `never_meets` that nothing in the level answers to."""
    resolved = compiled.cast.resolved
    findings = []
    said = [("player", name) for name in resolved.level.player.never_meets]
    said += [(piece.place, name) for piece in resolved.pieces for name in piece.never_meets]
    for place, name in dict.fromkeys(said):
        if not resolved.answering(name) and not (resolved.means_player(name) and place != "player"):
            nobody = f"no piece bears the mark '{name}'" if name.startswith(MARK) else f"no piece is '{name}'"
            findings.append(Finding("warning", "never-meets-nobody", f"{place}, never_meets", nobody))
    return findings


def _named(resolved: ResolvedLevel) -> Iterator[tuple[str, str]]:
    """Yield each name that a rule or a filter asks for, and where it does."""
    for title, rule in resolved.rules:
        if rule.piece is not None:
            yield f"{title}, piece", rule.piece
        yield f"{title}, who", rule.who
        for number, action in enumerate(rule.do):
            if action.remove is not None:
                yield f"{title}, do[{number}].remove", action.remove
    for name in resolved.level.player.never_meets:
        yield "player.never_meets", name
    for piece in resolved.pieces:
        for name in piece.never_meets:
            yield f"{piece.place}, never_meets", name
        pickup, rest = piece.facet("pickup"), piece.facet("rest")
        for name in () if pickup is None else pickup.by:
            yield f"{piece.place}, pickup.by", name
        if rest is not None:
            yield f"{piece.place}, rest.on", rest.on
