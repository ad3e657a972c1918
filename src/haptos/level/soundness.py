"""What has to hold among the pieces of a level: parents, rules that are waited for, kinds that are made, layers."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator

from haptos.errors import Faults, LevelError
from haptos.level.assemblies import PLAYER
from haptos.level.level import Level
from haptos.level.names import did_you_mean
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.roster import Roster
from haptos.level.routes import RIDDEN
from haptos.level.world import BOUNDS

# A launch whose direction rises by less than this share of it goes sideways.
LEAST_RISE = 1e-9
# Facets that move a piece by themselves: what has one is no loose body.
NOT_LOOSE = ("route", "spin", "crumble", "spawner", "pickup")
TRACK_COLUMNS = (
    "tick", "t", "x", "y", "vx", "vy", "up_x", "up_y", "stance", "pose", "support", "facing", "flipped",
    "speed_factor", "health", "lives",
)  # fmt: skip


# So often one thing may come again within a tick: a spawner, a timer, what hurts.
MOST_A_TICK = 1000


def too_often(level: Level, every: float) -> str | None:
    """Return what is wrong with a time between two of something, None if it is long enough for the level's ticks.

    Examples
    --------
    >>> too_often(Level(), 1e-9)
    'found 1e-09 s, expected at least 1.66667e-05 s, since a tick holds 1000 of them'
    """
    least = 1.0 / (MOST_A_TICK * level.world.tick_rate)
    # A time that was worked out from the tick rate may be short by its last digit.
    if every >= least * (1.0 - 1e-9):
        return None
    return f"found {every:g} s, expected at least {least:g} s, since a tick holds {MOST_A_TICK} of them"


def require_sound(resolved: Roster) -> None:
    """Raise LevelError about all pieces that ask for something that is not there."""
    faults = Faults()
    for require in (_require_parents, _require_names, _require_counters, _require_shot, _require_timers):
        for error in require(resolved):
            faults.add(error)
    _add_faults_of(resolved, resolved.pieces, faults)
    faults.raise_any()


def require_makeable(resolved: Roster, pieces: Iterable[ResolvedPiece]) -> None:
    """Raise the same about pieces that are made while the level runs."""
    faults = Faults()
    _add_faults_of(resolved, pieces, faults)
    faults.raise_any()


def _add_faults_of(resolved: Roster, pieces: Iterable[ResolvedPiece], faults: Faults) -> None:
    """Add what each piece asks for by itself that is not there."""
    for piece in pieces:
        for require in (
            _require_rule_waited_for, _require_flying, _require_counted, _require_gravity, _require_upward,
            _require_loose, _require_times,
        ):  # fmt: skip
            for error in require(resolved, piece):
                faults.add(error)


def _require_parents(resolved: Roster) -> Iterator[LevelError]:
    """Yield an error where a parent does not exist, or descends from its own child."""
    for piece in resolved.pieces:
        chain = [piece.name]
        here = piece
        while here.parent not in (None, PLAYER):
            if here.parent not in resolved.by_name:
                hint = did_you_mean(str(here.parent), [*resolved.by_name, PLAYER])
                yield LevelError(f"{here.place}, parent", f"no piece '{here.parent}'{hint}")
                break
            chain.append(str(here.parent))
            if here.parent in chain[:-1]:
                loop = " → ".join(chain)
                yield LevelError(
                    f"{piece.place}, parent", f"found the loop {loop}, expected one that does not descend from it"
                )
                break
            here = resolved.by_name[str(here.parent)]


def _require_names(resolved: Roster) -> Iterator[LevelError]:
    """Yield an error where a rule or a `never_meets` names what there is not; marks may be borne later."""
    said = [("player.never_meets", name) for name in resolved.level.player.never_meets]
    said += [(f"{piece.place}, never_meets", name) for piece in resolved.pieces for name in piece.never_meets]
    for title, rule in resolved.rules:
        said += [(f"{title}, piece", rule.piece)] if rule.piece is not None and rule.piece not in BOUNDS else []
        said.append((f"{title}, who", rule.who))
    for place, name in said:
        if not resolved.is_known(name):
            known = [PLAYER, *resolved.by_name, *resolved.level.kinds, *resolved.contacts.layers]
            hint = did_you_mean(name, known, lists=False)
            yield LevelError(place, f"no piece, kind, mark or layer is called '{name}'{hint}")


def _require_counters(resolved: Roster) -> Iterator[LevelError]:
    """Yield an error where a counter has the name of another column of the track."""
    for name in resolved.level.counters:
        if name in TRACK_COLUMNS or not name.strip():
            yield LevelError(f"counters.{name}", f"found '{name}', expected a name that the track has no column of")


def _require_shot(resolved: Roster) -> Iterator[LevelError]:
    """Yield an error where the player fires a kind that does not exist."""
    shot = resolved.level.player.shot
    if shot is not None and shot.kind not in resolved.level.kinds:
        yield LevelError("player.shot.kind", f"no kind '{shot.kind}'{did_you_mean(shot.kind, resolved.level.kinds)}")


def _require_timers(resolved: Roster) -> Iterator[LevelError]:
    """Yield an error where a rule would come again more often than a tick can hold."""
    for title, rule in resolved.rules:
        message = None if rule.every is None else too_often(resolved.level, rule.every)
        if message is not None:
            yield LevelError(f"{title}, every", message)


def _require_times(resolved: Roster, piece: ResolvedPiece) -> Iterator[LevelError]:
    """Yield an error where a piece would make others, or hurt, more often than a tick can hold."""
    spawner, harm = piece.facet("spawner"), piece.facet("harm")
    said = {
        "spawner": None if spawner is None or spawner.every is None else spawner.every[0],
        "harm": None if harm is None else harm.every,
    }
    for facet, every in said.items():
        message = None if every is None else too_often(resolved.level, every)
        if message is not None:
            yield LevelError(f"{piece.place}, {facet}.every", message)


def _require_rule_waited_for(resolved: Roster, piece: ResolvedPiece) -> Iterator[LevelError]:
    """Yield an error where a route waits for a rule that does not exist."""
    route = piece.facet("route")
    waits_for = None if route is None else route.waits_for
    if waits_for not in (None, RIDDEN) and not any(rule.is_called(waits_for) for _, rule in resolved.rules):
        names = [rule.name for _, rule in resolved.rules if rule.name]
        hint = did_you_mean(waits_for, [RIDDEN, *names])
        yield LevelError(f"{piece.place}, route.waits_for", f"no rule '{waits_for}'{hint}")


def _require_flying(resolved: Roster, piece: ResolvedPiece) -> Iterator[LevelError]:
    """Yield an error where something is to be made of a kind, or to break on a layer, that does not exist."""
    bounds = resolved.level.world.bounds
    spawner, drift, fragile = (piece.facet(name) for name in ("spawner", "drift", "fragile"))
    if spawner is not None and spawner.kind not in resolved.level.kinds:
        hint = did_you_mean(spawner.kind, resolved.level.kinds)
        yield LevelError(f"{piece.place}, spawner.kind", f"no kind '{spawner.kind}'{hint}")
    for layer in fragile.on if fragile is not None else ():
        yield from _require_layer(resolved, layer, f"{piece.place}, fragile.on")
    wants = spawner is not None and (
        spawner.area in ("inside", "outside") or (spawner.aim is not None and spawner.aim.box is not None)
    )
    if bounds is None and (wants or (drift is not None and drift.on_exit is not None)):
        what = "spawner" if wants else "drift"
        message = "found something about the bounds, expected world.bounds as well"
        yield LevelError(f"{piece.place}, {what}", message)


def _require_layer(resolved: Roster, layer: str, place: str) -> Iterator[LevelError]:
    try:
        resolved.contacts.require(layer, place)
    except LevelError as error:
        yield error


def _require_counted(resolved: Roster, piece: ResolvedPiece) -> Iterator[LevelError]:
    """Yield an error where what is counted has no counter."""
    counters = resolved.level.counters
    pickup, finish = piece.facet("pickup"), piece.facet("finish")
    asked = {
        "pickup.counter": None if pickup is None else pickup.counter,
        "finish.needs": None if finish is None else finish.needs,
    }
    for key, counter in asked.items():
        if counter is not None and counter not in counters:
            hint = did_you_mean(counter, counters) if counters else ", the level has no [counters]"
            yield LevelError(f"{piece.place}, {key}", f"no counter '{counter}'{hint}")
    for layer in () if pickup is None else pickup.blocked_by:
        yield from _require_layer(resolved, layer, f"{piece.place}, pickup.blocked_by")


def _require_gravity(resolved: Roster, piece: ResolvedPiece) -> Iterator[LevelError]:
    """Yield an error where a body would have to turn in a world whose edges wrap."""
    field, bounds = piece.facet("field"), resolved.level.world.bounds
    if field is None or field.gravity is None or field.gravity.flip:
        return
    if bounds is not None and "wrap" in (bounds.left, bounds.bottom) and resolved.turns_body:
        message = "found a gravity that turns the body in a world that wraps, expected flip, a round body, or no wrap"
        yield LevelError(f"{piece.place}, field.gravity", message)


def _require_loose(resolved: Roster, piece: ResolvedPiece) -> Iterator[LevelError]:
    """Yield an error where a loose body moves by something else too, or a hinge has none."""
    if "body" not in piece.facets:
        if "hinge" in piece.facets:
            message = "found a hinge without body, expected a loose body that it pins"
            yield LevelError(f"{piece.place}, hinge", message)
        return
    for other in NOT_LOOSE:
        if other in piece.facets:
            message = f"found both body and {other}, expected one: a loose body moves by what acts on it"
            yield LevelError(f"{piece.place}, body", message)
    if piece.parent is not None:
        message = f"found it on a piece that '{piece.parent}' carries, expected a body that stands for itself"
        yield LevelError(f"{piece.place}, body", message)
    if not piece.can_be_met:
        yield LevelError(f"{piece.place}, body", "found a body without a shape, expected one such as a box")
    hinge = piece.facets.get("hinge")
    if hinge is not None and hinge.to is not None and not resolved.is_known(hinge.to):
        hint = did_you_mean(hinge.to, resolved.by_name)
        yield LevelError(f"{piece.place}, hinge.to", f"no piece '{hinge.to}'{hint}")


def _require_upward(resolved: Roster, piece: ResolvedPiece) -> Iterator[LevelError]:
    """Yield an error where a launch is to reach a height and does not go up, if up is always the same."""
    launch, world = piece.facet("launch"), resolved.level.world
    if launch is None or launch.height is None or world.view == "top" or resolved.turns_gravity:
        return
    angle = math.radians(piece.turn + launch.angle)
    if math.cos(angle) * world.up[0] + math.sin(angle) * world.up[1] <= LEAST_RISE:
        message = "found a height with a direction that does not go up, expected a speed"
        yield LevelError(f"{piece.place}, launch", message)
