"""Everything that `check` looks for, in one list."""

from __future__ import annotations

from collections.abc import Callable

from haptos.engine.build.compile_level import CompiledLevel, compile_level
from haptos.level.level import Level
from haptos.study.allowances import without_allowed
from haptos.study.body_findings import find_body_faults
from haptos.study.facet_findings import find_idle_facets, find_unheard_zones
from haptos.study.findings import Finding, joined
from haptos.study.gravity_findings import find_gravity_faults
from haptos.study.hinge_findings import find_hinge_faults
from haptos.study.ladder_findings import find_blocked_ladders, find_cut_ladders
from haptos.study.leaks import find_leaks
from haptos.study.look_findings import find_loose_looks
from haptos.study.name_findings import find_filters_of_nobody, find_unclear_names
from haptos.study.passages import find_narrow_passages
from haptos.study.place_findings import find_far_lamps, find_odd_stops, find_out_of_bounds
from haptos.study.prize_findings import find_unearned_rewards, find_unreached_prizes
from haptos.study.proportion_findings import find_odd_numbers
from haptos.study.reach_findings import find_lost_ways, find_unreached_movers
from haptos.study.removed_findings import find_removed_targets
from haptos.study.route_findings import find_crossing_movers, find_idle_routes, find_squeezes, find_swept_solids
from haptos.study.rule_findings import find_dead_rules
from haptos.study.spawner_findings import find_spawner_faults, find_unbroken
from haptos.study.stake_findings import (
    find_finish_faults,
    find_harm_faults,
    find_pickup_faults,
    find_respawn_faults,
    find_unread_counters,
)
from haptos.study.start_findings import find_start_faults, find_unshaped_pieces, find_unused_layers
from haptos.study.surface_findings import (
    find_covered_zones,
    find_dead_sides,
    find_hanging_pieces,
    find_overlapping_solids,
    find_steep_paths,
)

CHECKS: tuple[Callable[[CompiledLevel], list[Finding]], ...] = (
    find_unshaped_pieces,
    find_start_faults,
    find_unused_layers,
    find_dead_rules,
    find_unclear_names,
    find_filters_of_nobody,
    find_idle_facets,
    find_unheard_zones,
    find_odd_numbers,
    find_out_of_bounds,
    find_odd_stops,
    find_far_lamps,
    find_unreached_prizes,
    find_unearned_rewards,
    find_removed_targets,
    find_leaks,
    find_narrow_passages,
    find_hanging_pieces,
    find_covered_zones,
    find_blocked_ladders,
    find_cut_ladders,
    find_dead_sides,
    find_steep_paths,
    find_overlapping_solids,
    find_loose_looks,
    find_idle_routes,
    find_swept_solids,
    find_squeezes,
    find_crossing_movers,
    find_unreached_movers,
    find_lost_ways,
    find_spawner_faults,
    find_unbroken,
    find_pickup_faults,
    find_harm_faults,
    find_respawn_faults,
    find_finish_faults,
    find_unread_counters,
    find_gravity_faults,
    find_body_faults,
    find_hinge_faults,
)
SEVERITIES = ("error", "warning", "note")


def check(level: Level) -> list[Finding]:
    """Return what is likely wrong in a level.

    Parameters
    ----------
    level : Level

    Returns
    -------
    list of Finding
        Errors first, then warnings, then notes; none if all is well.

    Raises
    ------
    LevelError
        If a piece can't be resolved.
    TypeError
        If it is no level.

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "floor", "at": [0, -22]}])
    >>> [finding.code for finding in haptos.check(level)]
    ['no-shape', 'start-above-nothing', 'endless-fall']
    """
    compiled = compile_level(level)
    findings = joined(without_allowed(compiled, [finding for look in CHECKS for finding in look(compiled)]))
    if level.origin is not None:
        findings = [finding._replace(line=level.origin.line_of(finding.place)) for finding in findings]
    return sorted(findings, key=lambda finding: SEVERITIES.index(finding.severity))


__all__ = ["Finding", "check"]
