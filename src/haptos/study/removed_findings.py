"""Findings about rules for pieces that are no longer there when the rules can fire or act."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from haptos.engine.build.compile_level import CompiledLevel
from haptos.level.resolve import ResolvedLevel
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.rules import Action, Rule
from haptos.study.findings import Finding


def find_removed_targets(compiled: CompiledLevel) -> list[Finding]:
    """Rules about pieces that another rule has taken away before, and actions on what is gone by then."""
    resolved = compiled.cast.resolved
    found = (
        finding
        for title, rule in resolved.rules
        if resolved.heeds(rule)
        for finding in (
            _gone_from_the_start(resolved, rule, title),
            _never_returns(resolved, rule, title),
            _acts_on_removed(resolved, rule, title),
        )
    )
    return [finding for finding in found if finding is not None]


def _about(resolved: ResolvedLevel, rule: Rule) -> list[ResolvedPiece]:
    return [] if rule.piece is None else resolved.selected(rule.piece)


def _gone_from_the_start(resolved: ResolvedLevel, rule: Rule, title: str) -> Finding | None:
    """Return the finding that another rule takes away, as the run begins, all that a rule is about."""
    pieces = _about(resolved, rule)
    removed = [
        action.remove
        for _, other in resolved.rules
        for action in other.do
        if action.remove is not None and other.when == "start" and other.if_ is None and other.after == 0
    ]
    is_gone = all(any(resolved.answers(piece, name) for name in removed) for piece in pieces)
    if not pieces or rule.when == "vanish" or not is_gone:
        return None
    message = f"it can never fire: a rule takes '{pieces[0].name}' away as the run begins"
    return Finding("error", "rule-removed", title, message, pieces[0].at)


def _never_returns(resolved: ResolvedLevel, rule: Rule, title: str) -> Finding | None:
    """Return the finding that what a rule waits for to return is gone for good."""
    pieces = _about(resolved, rule)
    if rule.when != "return" or not pieces:
        return None
    for piece in pieces:
        crumble = piece.facet("crumble")
        if crumble is None or crumble.returns_after is not None or resolved.pieces.index(piece) in resolved.switched:
            return None
    message = f"it can never fire: '{pieces[0].name}' falls and is gone for good; give its crumble a returns_after"
    return Finding("error", "rule-never-returns", title, message, pieces[0].at)


def _acts_on_removed(resolved: ResolvedLevel, rule: Rule, title: str) -> Finding | None:
    """Return the finding that a rule acts on a piece which the same moment has taken away before."""
    gone = _gone_by_itself(resolved, rule)
    for other_title, other in resolved.rules:
        if other is rule:
            break
        if _comes_before(other, rule):
            gone |= dict.fromkeys(_removed_by(resolved, other.do), f"{other_title} has taken it away by then")
    for number, action in enumerate(rule.do):
        for piece in _acted_on(resolved, action):
            if piece.name in gone and action.remove is None:
                place = f"{title}, do[{number}]"
                message = f"it does nothing: it is about '{piece.name}', and {gone[piece.name]}"
                return Finding("error", "acts-on-removed", place, message, piece.at)
        gone |= dict.fromkeys(_removed_by(resolved, [action]), "an action before has taken it away")
    return None


def _comes_before(other: Rule, rule: Rule) -> bool:
    """Whether a rule, earlier in the file, acts whenever another one fires, and no later."""
    same = (other.when, other.piece, other.who) == (rule.when, rule.piece, rule.who)
    return same and other.if_ is None and other.after <= rule.after and (rule.once or not other.once)


def _gone_by_itself(resolved: ResolvedLevel, rule: Rule) -> dict[str, str]:
    """Return what is gone for good when a rule fires, and why: it is about what has just vanished or was taken."""
    why = {"vanish": "it has vanished", "collect": "it has been taken"}.get(rule.when)
    pieces = _about(resolved, rule)
    return {pieces[0].name: why} if why is not None and len(pieces) == 1 and not _is_made(resolved, pieces[0]) else {}


def _is_made(resolved: ResolvedLevel, piece: ResolvedPiece) -> bool:
    return resolved.pieces.index(piece) >= resolved.written


def _removed_by(resolved: ResolvedLevel, actions: Sequence[Action]) -> set[str]:
    """Return the names of the pieces that actions take away for good; others of what is made may come."""
    return {
        piece.name
        for action in actions
        if action.remove is not None
        for piece in resolved.selected(action.remove)
        if not _is_made(resolved, piece)
    }


def _acted_on(resolved: ResolvedLevel, action: Action) -> Iterator[ResolvedPiece]:
    """Yield the one piece that an action is about; one about several may still reach another."""
    names = [action.at, action.parent, action.spawn]
    if action.set is not None:
        ends = [number for number, sign in enumerate(action.set) if sign == "."]
        names += [action.set[:end] for end in ends]
    for name in names:
        if name in resolved.by_name and len(resolved.selected(name)) == 1:
            yield resolved.by_name[name]
