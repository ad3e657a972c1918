"""What leaves hand on to one another together.

A bundle is made once for each world, of parts of the tables and of the state (`haptos.engine.bundling`). Nothing in it
is copied: to machine code it is one address, where the places of its parts are.
"""

from __future__ import annotations

from typing import Any, NamedTuple


class Core(NamedTuple):
    """What moves a body in every level: no part of it is ever None.

    Attributes
    ----------
    world, body : WORLD, BODY, one record each
    solids : Obstacles, where they are in this world
    walls : (k,) WALL
    edges : (1,) EDGES
    player, segment, path, hit : PLAYER, SEGMENT, PATH, HIT, one record each
    contacts : (CONTACTS,) CONTACT
    touched : (TOUCHED,) TOUCH
    passing : (solid outlines + 1,)
    probe : (1,) CONTACT
    journal : Journal
    """

    world: Any
    body: Any
    solids: Any
    walls: Any
    edges: Any
    player: Any
    contacts: Any
    touched: Any
    passing: Any
    segment: Any
    path: Any
    probe: Any
    hit: Any
    journal: Any


class Felt(NamedTuple):
    """What bears on the body where it is, or what it is inside of; a level of the plainest sort has none of it.

    A part that a leaf tests for None is handed to it as an argument of its own too: only that lets the compiler drop
    what stands below the test.

    Attributes
    ----------
    zones, effects : Obstacles, where they are in this world, or None
    pieces : (p,) PIECE, or None
    surfaces, fields, ladders, launches : (n,) SURFACE, FIELD, LADDER, LAUNCH, or None
    inside, seen : (zone outlines,)
    visits : (pieces,)
    within : (effect outlines,)
    occupied : (fields,)
    ready : (launches,)
    """

    zones: Any
    effects: Any
    pieces: Any
    surfaces: Any
    fields: Any
    ladders: Any
    launches: Any
    inside: Any
    seen: Any
    visits: Any
    within: Any
    occupied: Any
    ready: Any


class Played(NamedTuple):
    """What has become of all that is at stake.

    Attributes
    ----------
    taken : (pickups,) TAKEN
    coming : (1 + pickups,)
    counts : (counters,) COUNT
    given : (rewards,)
    hurting : (harms,) HURTING
    saved : (checkpoints,)
    """

    taken: Any
    coming: Any
    counts: Any
    given: Any
    hurting: Any
    saved: Any


class Scene(NamedTuple):
    """What rules look at and change, of one world; see `haptos.engine.records.tables` and `state`.

    Attributes
    ----------
    world, edges, rules, watches : as in the tables
    states, firings, watching, moving, spawning, cells, loads : as in the state; `states` are those of the rules
    visits, counts, taken, given : as in `Felt` and `Played`
    """

    world: Any
    edges: Any
    rules: Any
    states: Any
    firings: Any
    watches: Any
    watching: Any
    visits: Any
    moving: Any
    spawning: Any
    counts: Any
    taken: Any
    given: Any
    cells: Any
    loads: Any
