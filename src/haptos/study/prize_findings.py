"""Findings about what there is to win: pickups and a finish that nobody gets to, rewards that nobody can earn."""

from __future__ import annotations

from haptos.engine.build.compile_level import CompiledLevel
from haptos.geometry.polygons import shape_polygons
from haptos.level.roster import GRAVITY_KEYS
from haptos.study.findings import Finding
from haptos.study.reach import Reach


def find_unreached_prizes(compiled: CompiledLevel) -> list[Finding]:
    """Pickups and finishes that no jump from anywhere in reach gets to."""
    resolved = compiled.resolved
    fields = (piece.facet("field") for piece in resolved.pieces)
    lifts = any(
        field is not None and any(getattr(field, name) != usual for name, usual in GRAVITY_KEYS.items())
        for field in fields
    )
    launches = any("launch" in piece.facets and resolved.meeting(piece) == "overlap" for piece in resolved.pieces)
    moved = any(
        action.kick or (action.set or "").startswith("player.") for _, rule in resolved.rules for action in rule.do
    )
    # What lifts the body otherwise than by jumps from what is stood on is nothing that closed forms can rule out.
    if compiled.level.world.view == "top" or compiled.level.world.is_weightless or lifts or launches or moved:
        return []
    reach = Reach(compiled)
    reached = reach.pieces()
    findings = []
    for index, piece in enumerate(resolved.pieces):
        facet = next((name for name in ("finish", "pickup") if piece.facet(name) is not None), None)
        if facet is None or resolved.meeting(piece) != "overlap" or not piece.active:
            continue
        if index in resolved.moving or piece.name in resolved.hung_on_player:
            continue
        shapes = shape_polygons(compiled.placement.only(compiled.placement.piece == index))
        around = 0.0
        if facet == "pickup":
            pickup = piece.facet("pickup")
            around = piece.scale * max(pickup.collect_within or 0.0, pickup.attract_within or 0.0)
            around += compiled.level.player.attract_bonus
            if pickup.by != ("player",):
                continue
        if not reach.meets(reached, shapes, compiled.origins[index], around):
            what = "the level can't be finished by it" if facet == "finish" else "it can't be taken"
            message = f"{what}: no jump from anywhere in reach gets to it; bring it nearer, or build a way there"
            findings.append(Finding("warning", f"{facet}-out-of-reach", f"{piece.place}, {facet}", message, piece.at))
    return findings


def find_unearned_rewards(compiled: CompiledLevel) -> list[Finding]:
    """Rewards for more than there is to take in the level."""
    stakes = compiled.tables.stakes
    if stakes is None:
        return []
    resolved = compiled.cast.resolved
    findings = []
    for number, (name, counter) in enumerate(compiled.level.counters.items()):
        total = float(stakes.counters["total"][number]) + counter.start
        added = any(action.add == name for _, rule in resolved.rules for action in rule.do)
        makes = any(
            piece.facet("pickup") is not None and piece.facet("pickup").counter == name
            for piece in resolved.pieces[len(compiled.resolved.pieces) :]
        )
        if added or makes:
            continue
        for index, reward in enumerate(counter.rewards):
            if reward.every > total:
                message = f"it is given for each {reward.every:g}, but there are only {total:g} to be had in the level"
                findings.append(Finding("warning", "reward-unearned", f"counters.{name}.rewards[{index}]", message))
    return findings
