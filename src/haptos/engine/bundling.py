"""What the leaves of one world hand on to one another: its bundles, made of the level's tables and its own state."""

from __future__ import annotations

from typing import Any, NamedTuple

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.compiling.packing import Record
from haptos.engine.records.bundles import Core, Felt, Played, Scene
from haptos.engine.records.journal import Journal
from haptos.engine.records.loose_records import Stirred
from haptos.engine.records.state import State
from haptos.engine.records.tables import Obstacles, Tables

# Of these the state has one record each.
SINGLE = ("player", "segment", "path", "hit")
# Where the state has the outlines and the faces of obstacles that move.
OWN_OUTLINES = {
    "solids": ("outlines", "faces"),
    "zones": ("zone_outlines", "zone_faces"),
    "effects": ("effect_outlines", "effect_faces"),
}


class Bundles(NamedTuple):
    """The first arguments of the kernel.

    Attributes
    ----------
    core, felt, played, scene : Core, Felt, Played, Scene
    stirred : Stirred, or None where a level has no loose bodies
    tables, state : Tables, State
        Their parts that belong to no bundle are found there.
    """

    core: Core
    felt: Felt
    played: Played
    stirred: Stirred | None
    scene: Scene
    tables: Tables
    state: State


def bundles_of(tables: Tables, state: State, journal: Journal) -> Bundles:
    """Return the bundles of one world.

    Parameters
    ----------
    tables : Tables
        As `tables_of` returns them.
    state : State
    journal : Journal
        Where its events are written.
    """
    singles: Any = {name: Record(getattr(state, name)) for name in SINGLE}
    own = state._replace(**singles)
    world: Any = Record(tables.world)
    core = Core(
        world=world, body=Record(tables.body), solids=_here(tables, state, "solids"), walls=tables.walls,
        edges=tables.edges, contacts=state.contacts, touched=state.touched, passing=state.passing, probe=state.probe,
        journal=journal, **singles,
    )  # fmt: skip
    felt = Felt(
        zones=_here(tables, state, "zones"), effects=_here(tables, state, "effects"), pieces=tables.pieces,
        surfaces=tables.surfaces, fields=tables.fields, ladders=tables.ladders, launches=tables.launches,
        inside=state.inside, seen=state.seen, visits=state.visits, within=state.within, occupied=state.occupied,
        ready=state.ready,
    )  # fmt: skip
    played = Played(
        taken=state.taken, coming=state.coming, counts=state.counts, given=state.given, hurting=state.hurting,
        saved=state.saved,
    )  # fmt: skip
    stirred = None
    if tables.loose is not None:
        stirred = Stirred(
            loose=tables.loose, movers=tables.movers, partakers=state.partakers, pairs=state.pairs, points=state.points,
            heads=state.heads_of_pairs, hinges=state.pinned, order=state.order, loads=state.loads,
            immersed=state.immersed, hand=state.hand, tally=state.tally, patch=state.patch, spots=state.spots,
        )  # fmt: skip
    scene = Scene(
        world=world, edges=tables.edges, rules=tables.rules, states=state.rules, firings=state.firings,
        watches=tables.watches, watching=state.watching, visits=state.visits, moving=state.moving,
        spawning=state.spawning, counts=state.counts, taken=state.taken, given=state.given, cells=state.cells,
        loads=state.loads,
    )  # fmt: skip
    return Bundles(core, felt, played, stirred, scene, tables, own)


def _here(tables: Tables, state: State, name: str) -> Obstacles | None:
    """Return obstacles where they are in one world; they are at rest where nothing moves."""
    rest: Obstacles | None = getattr(tables, name)
    if rest is None:
        return None
    near, around, box = (getattr(state, f"{part}_{name}") for part in ("near", "around", "box"))
    rest = rest._replace(near=near, around=around, box=box)
    if tables.movers is None:
        return rest
    outlines, faces = OWN_OUTLINES[name]
    return rest._replace(outlines=getattr(state, outlines), faces=getattr(state, faces))


def tables_of(compiled: CompiledLevel, state: State) -> Tables:
    """Return the tables of a level; what rules may change in them is this world's own."""
    tables = compiled.tables
    if compiled.cells is not None:
        tables = compiled.cells.tables_of(tables, state.cells)
    if tables.movers is None:
        return tables
    corners = state.corners if len(state.corners) > 0 else tables.movers.corners
    own = tables.movers._replace(corners=corners, flying=state.flying, links=state.links, heads=state.heads)
    if tables.loose is not None:
        own = own._replace(movers=state.led)
    return tables._replace(movers=own)
