"""What has to hold among the pieces of a level: parents, rules that are waited for, kinds that are made, layers."""

from __future__ import annotations

import math
from collections.abc import Iterator

from haptos.errors import Faults, LevelError
from haptos.level.assemblies import PLAYER
from haptos.level.names import did_you_mean
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


def require_sound(resolved: Roster) -> None:
    """Raise LevelError about all pieces that ask for something that is not there."""
    faults = Faults()
    for require in (
        _require_parents, _require_names, _require_rules_waited_for, _require_flying, _require_counted,
        _require_gravity, _require_upward, _require_loose,
    ):  # fmt: skip
        for error in require(resolved):
            faults.add(error)
    faults.raise_any()


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


def _require_rules_waited_for(resolved: Roster) -> Iterator[LevelError]:
    names = [rule.name for _, rule in resolved.rules if rule.name]
    for piece in resolved.pieces:
        route = piece.facet("route")
        waits_for = None if route is None else route.waits_for
        if waits_for not in (None, RIDDEN) and not any(rule.is_called(waits_for) for _, rule in resolved.rules):
            hint = did_you_mean(waits_for, [RIDDEN, *names])
            yield LevelError(f"{piece.place}, route.waits_for", f"no rule '{waits_for}'{hint}")


def _require_flying(resolved: Roster) -> Iterator[LevelError]:
    """Yield an error where something is to be made of a kind, or to break on a layer, that does not exist."""
    shot = resolved.level.player.shot
    if shot is not None and shot.kind not in resolved.level.kinds:
        yield LevelError("player.shot.kind", f"no kind '{shot.kind}'{did_you_mean(shot.kind, resolved.level.kinds)}")
    bounds = resolved.level.world.bounds
    for piece in resolved.pieces:
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
            yield LevelError(
                f"{piece.place}, {what}", "found something about the bounds, expected world.bounds as well"
            )


def _require_layer(resolved: Roster, layer: str, place: str) -> Iterator[LevelError]:
    try:
        resolved.contacts.require(layer, place)
    except LevelError as error:
        yield error


def _require_counted(resolved: Roster) -> Iterator[LevelError]:
    """Yield an error where what is counted has no counter, or a counter has another column's name."""
    counters = resolved.level.counters
    for name in counters:
        if name in TRACK_COLUMNS or not name.strip():
            yield LevelError(f"counters.{name}", f"found '{name}', expected a name that the track has no column of")
    for piece in resolved.pieces:
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


def _require_gravity(resolved: Roster) -> Iterator[LevelError]:
    """Yield an error where a body would have to turn in a world whose edges wrap."""
    bounds = resolved.level.world.bounds
    if bounds is None or "wrap" not in (bounds.left, bounds.bottom) or not resolved.turns_body:
        return
    for piece in resolved.pieces:
        field = piece.facet("field")
        if field is not None and field.gravity is not None and not field.gravity.flip:
            message = (
                "found a gravity that turns the body in a world that wraps, expected flip, a round body, or no wrap"
            )
            yield LevelError(f"{piece.place}, field.gravity", message)


def _require_loose(resolved: Roster) -> Iterator[LevelError]:
    """Yield an error where a loose body moves by something else too, or a hinge has none."""
    for piece in resolved.pieces:
        if "body" not in piece.facets:
            if "hinge" in piece.facets:
                yield LevelError(
                    f"{piece.place}, hinge", "found a hinge without body, expected a loose body that it pins"
                )
            continue
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


def _require_upward(resolved: Roster) -> Iterator[LevelError]:
    """Yield an error where a launch is to reach a height and does not go up, if up is always the same."""
    world = resolved.level.world
    if world.view == "top" or resolved.turns_gravity:
        return
    for piece in resolved.pieces:
        launch = piece.facet("launch")
        if launch is None or launch.height is None:
            continue
        angle = math.radians(piece.turn + launch.angle)
        if math.cos(angle) * world.up[0] + math.sin(angle) * world.up[1] <= LEAST_RISE:
            message = "found a height with a direction that does not go up, expected a speed"
            yield LevelError(f"{piece.place}, launch", message)
