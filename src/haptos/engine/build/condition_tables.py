"""From the conditions of rules to tables."""

from __future__ import annotations

from typing import Any

from haptos.engine.build.filling import Row
from haptos.engine.build.mover_plans import Motions
from haptos.engine.build.named_pieces import numbers_named
from haptos.engine.records.codes import COMPARISONS, JOINTS, MEASURES, OWN_MEASURES, STANCE_NAMES
from haptos.engine.records.objective_records import Stakes
from haptos.errors import LevelError
from haptos.level.comparisons import PIECE_MEASURES, PLAYER, Comparison, meant
from haptos.level.names import did_you_mean


def step_of(
    motions: Motions, stakes: Stakes | None, step: Comparison | str, title: str
) -> tuple[Row, list[int]]:  # fmt: skip
    """Return a step of a rule's condition, and the pieces that it names."""
    row: dict[str, Any] = dict.fromkeys(("asks", "at_x", "at_y", "compares", "number"), 0)
    row["subject"] = row["pickup"] = row["piece"] = -1
    if isinstance(step, str):
        return {**row, "asks": int(JOINTS[step])}, []
    level = motions.resolved.level
    try:
        comparison = meant(step, level.counters, level.world.view)
    except ValueError as error:
        raise LevelError(f"{title}, if", str(error)) from None
    row["compares"] = COMPARISONS.index(comparison.comparison)
    if comparison.subject == PLAYER and comparison.measure in OWN_MEASURES:
        number, pieces = _own_number(motions, comparison, title)
        return {**row, "asks": int(OWN_MEASURES[comparison.measure]), "number": number}, pieces
    row |= {"asks": int(MEASURES[comparison.measure]), "number": comparison.value}
    if comparison.measure in ("value", "left"):
        return {**row, "subject": list(level.counters).index(comparison.subject)}, []
    return {**row, **_place_asked(motions, stakes, comparison, title)}, []


def _own_number(motions: Motions, comparison: Comparison, title: str) -> tuple[float, list[int]]:
    """Return the number that stands for what the player is asked to be, and the pieces that are meant."""
    value = comparison.value
    if not isinstance(value, str):
        return value, []
    if comparison.measure == "stance":
        return float(STANCE_NAMES.index(value)), []
    if comparison.measure == "facing":
        return -1.0 if value == "left" else 1.0, []
    try:
        return 1.0, numbers_named(motions.resolved, value)
    except ValueError as error:
        raise LevelError(f"{title}, if", str(error)) from None


def _place_asked(motions: Motions, stakes: Stakes | None, comparison: Comparison, title: str) -> Row:
    """Return which mover a comparison asks about, and where the piece is as seen from it."""
    resolved, name = motions.resolved, comparison.subject
    names = {piece.name: index for index, piece in enumerate(resolved.pieces)}
    if name not in names:
        raise LevelError(f"{title}, if", f"no piece '{name}'{did_you_mean(name, names)}")
    if name in resolved.hung_on_player and comparison.measure in PIECE_MEASURES:
        message = f"found '{comparison.words}' of a piece that hangs on the player, expected the player's x or y"
        raise LevelError(f"{title}, if", message)
    x, y = motions.seen_from_mover(names[name])
    pickups = [] if stakes is None else stakes.pickups["piece"].tolist()
    pickup = pickups.index(names[name]) if names[name] in pickups else -1
    return {
        "subject": int(motions.numbers[names[name]]), "pickup": pickup, "piece": names[name], "at_x": x, "at_y": y,
    }  # fmt: skip
