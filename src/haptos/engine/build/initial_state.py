"""The state at the start of a run."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.changeable import Cells
from haptos.engine.build.compile_level import compile_level
from haptos.engine.build.loose_state import loose_state
from haptos.engine.build.objective_tables import facing_code
from haptos.engine.build.obstacles import AROUND, NO_BOX
from haptos.engine.records import Records
from haptos.engine.records.codes import (
    GONE,
    NO_LADDER,
    NO_MOVER,
    NO_PIECE,
    NO_SUPPORT,
    OF_WORLD,
    SKIPS_NOTHING,
    STALE,
    WAITS_FOR_NOTHING,
)
from haptos.engine.records.motion_records import CORNER, FLYING, LINK, Movers
from haptos.engine.records.objective_records import COUNT, HURTING, TAKEN, Stakes
from haptos.engine.records.state import CONTACTS, MOST_WAITING, PLAYER, TOUCHED, State, World, in_one_block
from haptos.engine.records.state_records import (
    CONTACT,
    FIRING,
    HIT,
    PATH,
    POSE,
    RULE_STATE,
    SEGMENT,
    SPAWNING,
    TOUCH,
)
from haptos.engine.records.tables import FACE, Obstacles, Rules, Tables
from haptos.level.level import Level


def start_of(level: Level) -> World:
    """Return a world at the start of a level: the one that all worlds are copies of, which nobody may run."""
    return level.once(_new_world)


def _new_world(level: Level) -> World:
    compiled = compile_level(level)
    tables = compiled.tables
    zone_count = len(tables.zones.outlines) if tables.zones is not None else 0
    effect_count = len(tables.effects.outlines) if tables.effects is not None else 0
    field_count = 0 if tables.fields is None else len(tables.fields)
    launch_count = 0 if tables.launches is None else len(tables.launches)
    path = np.zeros(1, dtype=PATH)
    path["skip"] = SKIPS_NOTHING
    movers = tables.movers
    state = State(
        player=_player_at_start(level, tables),
        contacts=np.zeros(CONTACTS, dtype=CONTACT),
        touched=np.zeros(TOUCHED, dtype=TOUCH),
        segment=np.zeros(1, dtype=SEGMENT),
        path=path,
        probe=np.zeros(1, dtype=CONTACT),
        hit=np.zeros(1, dtype=HIT),
        inside=np.zeros(zone_count, dtype=np.uint8),
        seen=np.zeros(zone_count, dtype=np.int64),
        visits=np.zeros(len(compiled.cast.resolved.pieces), dtype=np.int64),
        rules=_ruled(tables.rules),
        firings=_firings(tables.rules),
        passing=np.zeros(len(tables.solids.outlines) + 1, dtype=np.uint8),
        within=np.zeros(effect_count, dtype=np.uint8),
        occupied=np.zeros(field_count, dtype=np.int64),
        ready=np.full(launch_count, -math.inf),
        moving=resting_poses(movers),
        near=np.zeros(0 if movers is None else len(movers.movers), dtype=np.int64),
        spawning=_spawning(movers),
        **_outlines_that_move(tables),
        near_solids=_nobody(tables.solids),
        near_zones=_nobody(tables.zones),
        near_effects=_nobody(tables.effects),
        around_solids=AROUND,
        around_zones=AROUND,
        around_effects=AROUND,
        box_solids=NO_BOX,
        box_zones=NO_BOX,
        box_effects=NO_BOX,
        flying=np.zeros(0, dtype=FLYING) if movers is None else movers.flying,
        links=np.zeros(0, dtype=LINK) if movers is None else movers.links,
        heads=np.zeros(0, dtype=np.int64) if movers is None else movers.heads,
        due=np.zeros(1 + (0 if movers is None else len(movers.flights)), dtype=np.int64),
        **_at_stake(tables.stakes),
        corners=_corners(tables),
        watching=_watching(tables.watches),
        cells=_cells(compiled.cells),
        **loose_state(tables, len(compiled.cast.resolved.pieces)),
    )
    return in_one_block(state)


def _player_at_start(level: Level, tables: Tables) -> Records:
    """Return the player where it begins, at rest, with nothing touched."""
    player = np.zeros(1, dtype=PLAYER)
    player["x"], player["y"] = level.player.at
    player["up_x"], player["up_y"] = level.world.up
    player["gravity_x"], player["gravity_y"] = level.world.gravity if level.world.view == "side" else (0.0, 0.0)
    player["handed"] = 1.0
    player["facing"] = facing_code(level, level.player.facing)
    player["stance"] = 1 if tables.floor is not None else 0
    player["support"] = player["ground"] = NO_SUPPORT
    player["ladder"], player["tuned"], player["grip"] = NO_LADDER, STALE, 1
    player["speed_factor"] = player["accel_factor"] = player["jump_factor"] = 1.0
    player["speed_limit"], player["friction"] = math.inf, -1.0
    player["frame"] = player["rides"] = player["boards"] = NO_MOVER
    player["carried_x"] = player["carried_y"] = math.nan
    player["jumps_left"] = level.player.jump.extra_jumps
    height = level.player.at[0] * level.world.up[0] + level.player.at[1] * level.world.up[1]
    player["peak"] = player["base"] = height
    player["home_x"], player["home_y"] = level.player.at
    player["home_facing"], player["saved_at"] = player["facing"], -1
    health = level.player.health
    player["wanted_x"], player["wanted_y"] = level.world.up
    player["terminal_factor"] = 1.0
    player["base_gravity"] = player["gravity_source"] = player["home_gravity"] = OF_WORLD
    player["health"], player["lives"] = health.points, math.inf if health.lives is None else health.lives
    player["mercy_until"] = -math.inf
    player["among"] = tables.loose is not None
    return player


def _outlines_that_move(tables: Tables) -> dict[str, Any]:
    """Return the outlines and faces of all obstacles, where they are at first; none where nothing moves."""
    found: dict[str, Any] = {}
    for prefix, rest in (("", tables.solids), ("zone_", tables.zones), ("effect_", tables.effects)):
        nothing = np.zeros(0, dtype=FACE)
        outlines, faces = nothing, nothing
        if tables.movers is not None and rest is not None:
            outlines, faces = rest.outlines, rest.faces
        found[f"{prefix}outlines"], found[f"{prefix}faces"] = outlines, faces
    return found


def _nobody(obstacles: Obstacles | None) -> NDArray[np.int64]:
    """Return room for the outlines of what moves, none of which is near yet."""
    count = 0 if obstacles is None else int((obstacles.outlines["mover"] >= 0).sum())
    return np.zeros(1 + count, dtype=np.int64)


def _corners(tables: Tables) -> Records:
    """Return the corners of what is grown anew by the body, which turns in each world by itself."""
    if tables.movers is None or not tables.world["turns"][0]:
        return np.zeros(0, dtype=CORNER)
    return tables.movers.corners


def _cells(cells: Cells | None) -> NDArray[np.float64]:
    """Return what rules can change, as it is at first."""
    if cells is None:
        return np.zeros(0)
    return cells.values


def _at_stake(stakes: Stakes | None) -> dict[str, NDArray[Any]]:
    """Return what is at stake before anything was taken."""

    def rows(count: int, layout: Any) -> NDArray[Any]:
        return np.zeros(count, dtype=layout)

    if stakes is None:
        layouts: dict[str, Any] = {
            "taken": TAKEN,
            "coming": np.int64,
            "hurting": HURTING,
            "counts": COUNT,
            "given": np.int64,
        }
        return {name: rows(0, layout) for name, layout in {**layouts, "saved": np.uint8}.items()}
    pickups, counters = len(stakes.pickups), len(stakes.counters)
    state = {
        "taken": rows(pickups, TAKEN),
        "coming": rows(pickups + 1, np.int64),
        "hurting": rows(len(stakes.harms), HURTING),
        "counts": rows(counters, COUNT),
        "given": rows(len(stakes.rewards), np.int64),
        "saved": rows(len(stakes.checkpoints), np.uint8),
    }
    state["taken"]["x"], state["taken"]["y"] = stakes.pickups["x"], stakes.pickups["y"]
    state["counts"]["value"], state["counts"]["left"] = stakes.counters["start"], stakes.counters["total"]
    return state


def resting_poses(movers: Movers | None) -> Records:
    """Return the poses of movers before anything has moved."""
    if movers is None:
        return np.zeros(0, dtype=POSE)
    # One more stands for all that stays.
    poses = np.zeros(len(movers.movers) + 1, dtype=POSE)
    poses["cosine"], poses["here"], poses["due"], poses["scale"] = 1.0, 1, math.inf, 1.0
    poses["dies"], poses["touches"] = math.inf, NO_PIECE
    flights = movers.flights
    for pose_name, name in (("fly_vx", "vx"), ("fly_vy", "vy"), ("fly_spin", "spin")):
        poses[pose_name][flights["mover"]] = flights[name]
    poses["phase"][flights["mover"][flights["made"] == 1]] = GONE
    poses["off"][: len(movers.movers)] = movers.movers["off"]
    waits = movers.movers["waits"] != WAITS_FOR_NOTHING
    poses["clock"][: len(waits)] = np.where(waits, math.inf, 0.0)
    return poses


def _ruled(rules: Rules | None) -> Records:
    """Return rules that have not fired; those of timers come when they are due first."""
    count = 0 if rules is None else len(rules.rules)
    states = np.zeros(count, dtype=RULE_STATE)
    if rules is not None:
        states["next"] = rules.rules["every"]
    return states


def _firings(rules: Rules | None) -> Records:
    """Return room for what waits for its delay."""
    return np.zeros((0 if rules is None else rules.queues, int(MOST_WAITING)), dtype=FIRING)


def _watching(watches: Records | None) -> NDArray[np.uint8]:
    """Return what was noticed before the run begins: nothing."""
    return np.zeros(0 if watches is None else len(watches), dtype=np.uint8)


def _spawning(movers: Movers | None) -> Records:
    """Return what is due first of each that makes pieces."""
    count = 0 if movers is None else len(movers.spawners)
    states = np.zeros(count, dtype=SPAWNING)
    if movers is not None:
        states["due"], states["last"] = movers.spawners["first"], -1
    return states
