"""Haptos simulates how a player body moves and collides in a platforming level, and says what it did and why.

>>> import haptos
>>> level = haptos.Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -22]}])
>>> run = haptos.simulate(level, "right 1 s")
>>> run.track.pose.iloc[-1]
'walk'
"""

from __future__ import annotations

import importlib
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from haptos.engine.build.whole_level import Level as Level
    from haptos.engine.ray import Hit as Hit
    from haptos.engine.ray import first_hit as first_hit
    from haptos.engine.run import Run as Run
    from haptos.engine.simulation import Simulation as Simulation
    from haptos.engine.simulation import simulate as simulate
    from haptos.engine.simulation import simulate_many as simulate_many
    from haptos.engine.snapshot import Snapshot as Snapshot
    from haptos.errors import CueError as CueError
    from haptos.errors import HaptosError as HaptosError
    from haptos.errors import LevelError as LevelError
    from haptos.files.cue_sheets import save_cues as save_cues
    from haptos.files.reading import load as load
    from haptos.files.reading import load_cues as load_cues
    from haptos.level.cues import Cues as Cues
    from haptos.study.check import Finding as Finding
    from haptos.study.check import check as check
    from haptos.study.gaps import gaps as gaps
    from haptos.study.layer_pairs import contacts as contacts
    from haptos.study.moves import integrators as integrators
    from haptos.study.moves import moves as moves
    from haptos.study.outcomes import Outcome as Outcome
    from haptos.study.pair_why import why_pair as why_pair
    from haptos.study.rule_why import why_rule as why_rule
    from haptos.study.shown import show as show
    from haptos.study.sweep import sweep as sweep
    from haptos.study.verify import verify as verify
    from haptos.study.why import why as why
    from haptos.views.compared import compare as compare
    from haptos.views.picture import draw as draw
    from haptos.views.timeline_drawn import timeline as timeline

__version__ = "0.1.0"

# Where each public name lives; it is imported when it is first asked for, so that `import haptos` stays light.
_HOMES = {
    "CueError": "haptos.errors",
    "Cues": "haptos.level.cues",
    "Finding": "haptos.study.check",
    "HaptosError": "haptos.errors",
    "Hit": "haptos.engine.ray",
    "Level": "haptos.engine.build.whole_level",
    "LevelError": "haptos.errors",
    "Outcome": "haptos.study.outcomes",
    "Run": "haptos.engine.run",
    "Simulation": "haptos.engine.simulation",
    "Snapshot": "haptos.engine.snapshot",
    "check": "haptos.study.check",
    "compare": "haptos.views.compared",
    "contacts": "haptos.study.layer_pairs",
    "draw": "haptos.views.picture",
    "first_hit": "haptos.engine.ray",
    "gaps": "haptos.study.gaps",
    "integrators": "haptos.study.moves",
    "load": "haptos.files.reading",
    "load_cues": "haptos.files.reading",
    "moves": "haptos.study.moves",
    "save_cues": "haptos.files.cue_sheets",
    "show": "haptos.study.shown",
    "simulate": "haptos.engine.simulation",
    "simulate_many": "haptos.engine.simulation",
    "sweep": "haptos.study.sweep",
    "timeline": "haptos.views.timeline_drawn",
    "verify": "haptos.study.verify",
    "why": "haptos.study.why",
    "why_pair": "haptos.study.pair_why",
    "why_rule": "haptos.study.rule_why",
}
__all__ = sorted(_HOMES)


def __getattr__(name: str) -> Any:
    if name not in _HOMES:
        raise AttributeError(f"module 'haptos' has no attribute '{name}'")
    value = getattr(importlib.import_module(_HOMES[name]), name)
    globals()[name] = value
    return value


def __dir__() -> list[str]:
    return sorted([*globals(), *_HOMES])
