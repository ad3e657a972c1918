"""Why two things meet, or don't."""

from __future__ import annotations

from haptos.engine.answer import Answer
from haptos.engine.build.compile_level import CompiledLevel, body_of, compile_level
from haptos.errors import LevelError
from haptos.geometry.polygons import body_polygon, shape_polygons
from haptos.level.assemblies import PLAYER
from haptos.level.level import Level
from haptos.level.names import did_you_mean
from haptos.level.origins import values_of
from haptos.level.resolve import ResolvedLevel
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.rules import SOLID_MOMENTS, ZONE_MOMENTS
from haptos.level.selectors import in_words
from haptos.level.world import BOUNDS

MEANINGS = {
    "solid": "they are solid to each other",
    "overlap": "they only feel each other: they overlap, and neither is stopped",
    "nothing": "they ignore each other",
}


def why(level: Level, one: str, other: str) -> Answer:
    """Say what the contacts table says for two pieces, or the player and a piece, and what else decides.

    Parameters
    ----------
    level : Level
    one, other : str
        Pieces, ``player``, kinds, marks or layers (their first piece stands for them), or a side of the bounds.

    Returns
    -------
    Answer
        Its meeting (solid, overlap or nothing), a sentence, and the reasons.

    Raises
    ------
    LevelError
        If there is no such piece.
    TypeError
        If it is no level.

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -22]}])
    >>> why(level, "player", "floor").meeting
    'solid'
    """
    compiled = compile_level(level)
    resolved = compiled.resolved
    for name, another in ((one, other), (other, one)):
        if name in BOUNDS:
            return _with_bounds(level, name, another)
    one, other, reasons = _stand_ins(compiled, one, other)
    first, second = _layer_of(resolved, one), _layer_of(resolved, other)
    pair = resolved.contacts.between(first, second)
    reasons += [
        _layer_reason(resolved, one),
        _layer_reason(resolved, other),
        _table_reason(resolved, first, second),
    ]
    for name in (one, other):
        piece = resolved.by_name.get(name)
        if piece is not None and (not piece.can_be_met and not piece.fills_tile):
            reasons.append(f"'{name}' has no shape with an area, so nothing meets it, whatever the table says")
    meeting: str = pair.meeting
    if "player" not in (one, other):
        reasons.append("both stand still: only the player moves, so they never come to meet")
    elif one != other:
        piece = resolved.by_name[other if one == "player" else one]
        meeting = resolved.meeting(piece)
        if resolved.is_switched_off(piece):
            reasons.append("never_meets switches the pair off, whatever the table says")
        elif meeting == "solid" and piece.solid_from is not None:
            reasons.append(
                f"it is solid from {piece.solid_from} alone, in its own frame; from elsewhere one passes through"
            )
        reasons += _rule_reasons(resolved, piece, meeting)
        distance = _distance(compiled, piece)
        if distance is not None:
            reasons.append(distance)
    return Answer(meeting, f"'{one}' and '{other}': {MEANINGS[meeting]}", reasons)


def _stand_ins(compiled: CompiledLevel, *names: str) -> tuple[str, str, list[str]]:
    """Return the pieces that names mean, the first of several, and the words for those that stand for others."""
    resolved, found, reasons = compiled.resolved, [], []
    for name in names:
        pieces = [] if name == PLAYER or name in resolved.by_name else resolved.selected(name)
        if pieces:
            words = in_words(resolved.exactly(name))
            count = "one piece is" if len(pieces) == 1 else f"{len(pieces)} pieces are"
            reasons.append(f"{count} {words}; '{pieces[0].name}' stands for it")
        found.append(pieces[0].name if pieces else name)
    return found[0], found[1], reasons


def _with_bounds(level: Level, side: str, name: str) -> Answer:
    """Say what a side of the bounds does to the player, or to a piece."""
    bounds = level.world.bounds
    kind = "open" if bounds is None else getattr(bounds, side.removeprefix("bounds/"))
    where = "the world has no bounds" if bounds is None else f"world.{side.replace('/', '.')} is '{kind}'"
    if name != PLAYER and name not in BOUNDS:
        find_piece(compile_level(level).resolved, name)
        sentence = f"'{side}' and '{name}': {MEANINGS['nothing']}"
        return Answer("nothing", sentence, [where, "the bounds are the player's; of pieces, drift.on_exit heeds them"])
    meeting = "solid" if kind == "wall" else "nothing"
    does = {
        "wall": "a wall stops the body, whatever its layer", "open": "the body goes through",
        "lost": "whose centre crosses it is lost", "wrap": "who crosses it comes back on the other side",
    }  # fmt: skip
    return Answer(meeting, f"'{side}' and '{name}': {MEANINGS[meeting]}", [where, does[kind]])


def find_piece(resolved: ResolvedLevel, name: str) -> ResolvedPiece:
    """Return a piece by name.

    Raises
    ------
    LevelError
        With a "did you mean", if there is none.
    """
    if name not in resolved.by_name:
        known = list(resolved.by_name)
        hint = did_you_mean(name, ["player", *known])
        raise LevelError("", f"no piece is called '{name}'{hint}")
    return resolved.by_name[name]


def _layer_of(resolved: ResolvedLevel, name: str) -> str:
    return resolved.player_layer if name == "player" else find_piece(resolved, name).layer


def _layer_reason(resolved: ResolvedLevel, name: str) -> str:
    if name == "player":
        origin = "player.layer" if resolved.level.player.layer is not None else "default"
        return f"the player is on the layer '{resolved.player_layer}' ({origin})"
    value = next(row for row in values_of(resolved, name) if row.key == "layer")
    return f"'{name}' is on the layer '{value.value}' ({value.origin})"


def _table_reason(resolved: ResolvedLevel, first: str, second: str) -> str:
    pair = resolved.contacts.between(first, second)
    if resolved.contacts.built_in:
        said = f"says {pair.meeting}" if pair.row else "says nothing, so they ignore each other"
        return f"the level has no [contacts]; the built-in table {said} for '{first}' and '{second}'"
    if pair.row is None:
        at = _line_of(resolved.level, "contacts", "from line")
        return f"no line of [contacts]{at} pairs '{first}' with '{second}', so they ignore each other"
    meeting, row = pair.row
    at = _line_of(resolved.level, f"contacts.{meeting}.{row}", "line")
    partner = second if row == first else first
    return f"[contacts.{meeting}] {row} names '{partner}'{at}: {pair.meeting}"


def _line_of(level: Level, place: str, words: str) -> str:
    """Return where a place is written, in brackets; nothing for a level that was made in code."""
    line = None if level.origin is None else level.origin.line_of(place)
    return f" ({level.origin.file}, {words} {line})" if level.origin is not None and line is not None else ""


def _rule_reasons(resolved: ResolvedLevel, piece: ResolvedPiece, meeting: str) -> list[str]:
    reasons = []
    for title, rule in resolved.rules:
        if rule.piece is None or not resolved.answers(piece, rule.piece):
            continue
        if not resolved.means_player(rule.who):
            reasons.append(f"{title} waits for '{rule.when}', but its who = '{rule.who}' is not the player")
        elif rule.when in ZONE_MOMENTS and meeting != "overlap":
            reasons.append(f"{title} waits for '{rule.when}', which needs an overlap: it can't fire here")
        elif rule.when in SOLID_MOMENTS and meeting != "solid":
            reasons.append(f"{title} waits for '{rule.when}', which needs a solid piece: it can't fire here")
        else:
            often = ", the first time only" if rule.once else ""
            reasons.append(f"{title} fires on '{rule.when}' of '{piece.name}'{often}")
    return reasons


def _distance(compiled: CompiledLevel, piece: ResolvedPiece) -> str | None:
    number = compiled.resolved.pieces.index(piece)
    shapes = shape_polygons(compiled.placement.only(compiled.placement.piece == number))
    if not shapes:
        return None
    level = compiled.level
    body = body_polygon(body_of(level), *level.player.at)
    distance = min(shape.distance(body) for shape in shapes)
    unit = level.world.length_unit
    if distance == 0:
        return f"at the start the player touches or overlaps '{piece.name}'"
    return f"at the start '{piece.name}' is {distance:.4g} {unit} away from the player"
