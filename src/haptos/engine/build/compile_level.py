"""From a level to tables."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.changeable import Cells, cells_of
from haptos.engine.build.facet_tables import Powers, compile_powers, ladder_tops
from haptos.engine.build.filling import filled
from haptos.engine.build.loose_tables import compile_loose
from haptos.engine.build.mover_plans import Motions
from haptos.engine.build.mover_tables import Grown, compile_movers
from haptos.engine.build.objective_tables import compile_stakes, has_stakes
from haptos.engine.build.obstacles import as_obstacles, is_sided, repeated
from haptos.engine.build.rule_tables import Ruled, acts, compile_rules
from haptos.engine.build.sensor_tables import compile_watches
from haptos.engine.records import Records
from haptos.engine.records.codes import DEATHS, EDGES_DO, FIRST_FLOOR, FIRST_WALL, MEETS_PLAYER, NO_PIECE, NO_SUPPORT
from haptos.engine.records.loose_records import Loose
from haptos.engine.records.objective_records import Stakes
from haptos.engine.records.tables import BODY, EDGES, FIELD, LAUNCH, SURFACE, WALL, WORLD, Obstacles, Tables
from haptos.geometry.outlines import Body, grow_outlines, joined_outlines, picked
from haptos.geometry.placement import Placement, joined, place_shapes
from haptos.geometry.rest import drop_to_rest
from haptos.level.assemblies import PLAYER as PLAYER_NAME
from haptos.level.casting import Cast, cast_of
from haptos.level.level import Level
from haptos.level.resolve import ResolvedLevel
from haptos.level.shapes import half_extents
from haptos.level.world import BOUNDS, SIDES

# Tables that a view has no use for have no rows where rules could change them.
LAYOUTS = {
    name: np.zeros(0, dtype=layout) for name, layout in (("surfaces", SURFACE), ("fields", FIELD), ("launches", LAUNCH))
}
# Shares of a tick by which acceleration acts before and after the motion: semi-implicit Euler kicks, then drifts;
# velocity Verlet kicks by half, drifts, and kicks by half again.
KICKS = {"exact": (0.0, 0.0), "semi-implicit-euler": (1.0, 0.0), "velocity-verlet": (0.5, 0.5)}
INWARD = {"left": (1.0, 0.0), "right": (-1.0, 0.0), "bottom": (0.0, 1.0), "top": (0.0, -1.0)}


@dataclass(frozen=True)
class CompiledLevel:
    """A level ready to run.

    Attributes
    ----------
    resolved : the level with its pieces resolved
    placement : every shape of the level
    origins : where each piece is, after what rest did
    tables : the constants
    ruled : the rules
    cells : the numbers that rules can change, None where no rule changes anything
    hanging : names of pieces that were to rest on something, with nothing below
    cast, shapes, places : the pieces, their shapes and where they are, with those that are made while the level runs
    """

    resolved: ResolvedLevel
    placement: Placement
    origins: NDArray[np.float64]
    tables: Tables
    ruled: Ruled
    cells: Cells | None
    hanging: tuple[str, ...]
    cast: Cast
    shapes: Placement
    places: NDArray[np.float64]

    @property
    def sayings(self) -> tuple[str, ...]:
        """What each action of the rules says, or does, in words."""
        return self.ruled.sayings

    @property
    def level(self) -> Level:
        """The level as it was written."""
        return self.resolved.level

    def piece_name(self, piece: int) -> str:
        """Return the name behind a piece's number, or a side of the bounds."""
        if MEETS_PLAYER < piece <= FIRST_WALL:
            return BOUNDS[FIRST_WALL - piece]
        if piece == MEETS_PLAYER:
            return PLAYER_NAME
        return self.cast.resolved.pieces[piece].name if piece >= 0 else ""

    def is_cushioned(self, piece: int) -> bool:
        """Whether a landing on a piece does no harm."""
        if piece < 0:
            return False
        surface = self.cast.resolved.pieces[piece].facet("surface")
        return surface is not None and surface.cushion

    def support_piece(self, outline: int) -> int:
        """Return the number of the piece, or side of the bounds, that a support outline, or a floor, belongs to."""
        if outline == NO_SUPPORT:
            return NO_PIECE
        if outline <= FIRST_FLOOR:
            return FIRST_FLOOR - outline
        if outline < 0:
            return FIRST_WALL - int(self.tables.walls[-1 - outline]["side"])
        return int(self.tables.solids.outlines[outline]["piece"])

    def support_name(self, outline: int) -> str:
        """Return the name of the piece that a support outline belongs to."""
        return self.piece_name(self.support_piece(outline))


def body_of(level: Level) -> Body:
    """Return the player's shape, standing along its up."""
    up_x, up_y = level.world.up
    return Body(*half_extents(level.player.shape), angle=math.atan2(-up_x, up_y))


def compile_level(level: Level) -> CompiledLevel:
    """Turn a level into tables, once: a level keeps what it was compiled to.

    Parameters
    ----------
    level : Level

    Returns
    -------
    CompiledLevel

    Raises
    ------
    LevelError
        If a piece can't be resolved.
    TypeError
        If it is no level.
    """
    if not isinstance(level, Level):
        raise TypeError(f"found {level!r:.60}, expected a Level: haptos.load reads one from a file")
    return level.once(_compile)


def _compile(level: Level) -> CompiledLevel:
    authored = level.once(ResolvedLevel)
    placement, origins, hanging = drop_to_rest(authored, place_shapes(authored))
    cast = cast_of(authored, origins.tolist())
    resolved = cast.resolved
    made = resolved.pieces[len(authored.pieces) :]
    shapes = joined([placement, place_shapes(resolved, len(authored.pieces))])
    places = np.vstack((origins, np.array([piece.at for piece in made]).reshape(-1, 2)))
    motions = Motions(cast, places)
    body = body_of(level)
    meetings = np.array([resolved.meeting(piece) for piece in resolved.pieces] or [""])
    meets = meetings[shapes.piece]
    solid = joined([shapes.only(meets == "solid"), ladder_tops(resolved, shapes)])
    solids = _obstacles(motions, solid, body)
    # What can be taken is not a zone: it is met by its distances.
    taken = np.array(["pickup" in piece.facets for piece in resolved.pieces] or [False])
    felt = shapes.only((meets == "overlap") & ~taken[shapes.piece])
    # Capabilities come in sorts, plain, full, moving, played: every further one would have to be compiled for itself.
    whole = level.world.method != "exact"
    one_way = bool(np.any(is_sided(solids)))
    # Rules that change something can change what is at stake too.
    is_loose = any(piece.facet("body") is not None for piece in resolved.pieces)
    played = has_stakes(motions) or acts(motions) or resolved.turns_gravity or is_loose
    is_felt = len(felt.piece) > 0 or len(resolved.rules) > 0
    powers = compile_powers(motions, shapes, body, is_felt or one_way or bool(motions.leaders) or played)
    is_full = powers.tables["effects"] is not None
    zones = _zones(motions, felt, solids, solid, body) if is_full else None
    felt_shapes = joined([felt, solid])
    movers, solids, zones, powers.tables["effects"] = compile_movers(
        motions,
        body,
        shapes,
        Grown(solids, solid, np.arange(len(solids.outlines))),
        None if zones is None else Grown(zones, felt_shapes, _behind(zones, len(felt.piece))),
        None if not is_full else Grown(powers.tables["effects"], powers.shapes, powers.source),
        played,
    )
    loose = None
    if is_loose and movers is not None:
        loose, movers = compile_loose(motions, shapes, movers, powers, body)
    walls = _walls(level, body)
    stakes = compile_stakes(motions, shapes, body) if played else None
    cells = None if stakes is None else _cells(level, walls, powers, stakes, loose)
    ruled = compile_rules(motions, cells, stakes)
    watches = None if movers is None or not played else compile_watches(motions, movers)
    tables = Tables(
        world=_world(resolved),
        body=_body(level),
        solids=solids,
        walls=walls,
        zones=zones,
        edges=_edges(level),
        rules=ruled.rules if is_full else None,
        floor=True if level.world.view == "top" else None,
        ledges=True if is_full else None,
        movers=movers,
        stakes=stakes,
        watches=watches,
        whole=True if whole else None,
        loose=loose,
        **powers.tables,
    )
    _freeze(tables)
    return CompiledLevel(authored, placement, origins, tables, ruled, cells, hanging, cast, shapes, places)


def _freeze(table: Any) -> None:
    """Let nobody change what all runs of a level share."""
    if isinstance(table, np.ndarray):
        table.flags.writeable = False
    elif isinstance(table, tuple):
        for part in table:
            _freeze(part)


def _cells(level: Level, walls: Records, powers: Powers, stakes: Stakes, loose: Loose | None) -> Cells:
    """Return the numbers that rules can change."""
    names = ("surfaces", "fields", "launches")
    tables = {name: LAYOUTS[name] if powers.tables[name] is None else powers.tables[name] for name in names}
    owners = {**powers.owners, "pickups": stakes.pickups["piece"], "harms": stakes.harms["piece"]}
    tables |= {"body": _body(level), "walls": walls, "pickups": stakes.pickups, "harms": stakes.harms}
    if loose is not None:
        tables |= {"bodies": loose.bodies, "hinges": loose.hinges}
        owners |= {"bodies": loose.bodies["piece"], "hinges": loose.hinges["piece"]}
    return cells_of(tables, owners)


def _behind(zones: Obstacles, felt: int) -> NDArray[np.int64]:
    """Return which shape is behind each zone outline: what is felt comes first, one-way ones have their twin's."""
    twins = zones.outlines["twin"]
    return np.where(twins < 0, np.arange(len(twins)), felt + twins)


def _zones(motions: Motions, felt: Placement, solids: Obstacles, solid: Placement, body: Body) -> Obstacles:
    """Return what is felt, and after it what is solid from one side alone: it is passed through from the others."""
    level = motions.resolved.level
    ledges = np.flatnonzero(is_sided(solids))
    outlines = repeated(level, grow_outlines(felt, body), motions.turns)
    sided = picked(repeated(level, grow_outlines(solid, body), motions.turns), ledges)
    both = joined_outlines(outlines, sided)
    obstacles = as_obstacles(both, max(level.player.shape.size), motions.numbers[both.piece] >= 0, motions.room(body))
    obstacles.outlines["twin"][len(outlines.piece) :] = ledges
    obstacles.outlines["side_x"][: len(outlines.piece)] = 0.0
    obstacles.outlines["side_y"][: len(outlines.piece)] = 0.0
    return obstacles


def _obstacles(motions: Motions, placement: Placement, body: Body) -> Obstacles:
    level = motions.resolved.level
    outlines = repeated(level, grow_outlines(placement, body), motions.turns)
    moves = motions.numbers[outlines.piece] >= 0
    return as_obstacles(outlines, max(level.player.shape.size), moves, motions.room(body))


def _world(resolved: ResolvedLevel) -> Records:
    level = resolved.level
    world = level.world
    row = np.zeros(1, dtype=WORLD)
    layers = level.contact_table().layers
    row["dt"] = 1.0 / world.tick_rate
    row["tick_rate"] = world.tick_rate
    row["up_x"], row["up_y"] = world.up
    row["gravity_x"], row["gravity_y"] = world.gravity if world.view == "side" else (0.0, 0.0)
    row["weight"] = math.hypot(*world.gravity)
    row["kick_before"], row["kick_after"] = KICKS[world.method]
    row["seed"] = world.seed
    row["turns"] = resolved.turns_gravity
    row["layer"] = layers.index(level.player.layer or "body")
    row["steepest"] = math.cos(math.radians(level.player.ground.max_slope))
    return row


def _body(level: Level) -> Records:
    player = level.player
    row = np.zeros(1, dtype=BODY)
    half_width, _, _ = half_extents(player.shape)
    row["height"] = player.shape.size[1]
    row["half_foot"] = half_width
    row["walk"], row["sprint"] = player.gaits.walk, player.gaits.sprint
    for name in ("ground_accel", "ground_brake", "air_accel", "air_brake"):
        row[name] = getattr(player.run, name)
    row["jump_speed"] = player.jump_speed(math.hypot(*level.world.gravity)) if level.world.view == "side" else 0.0
    for name in ("coyote_time", "buffer_time", "release_cut", "extra_jumps"):
        row[name] = getattr(player.jump, name)
    row["step_height"], row["snap"] = player.step_height, player.snap
    row["climb"] = player.climb.speed
    row["keep_momentum"] = player.keep_momentum
    row["steers_afloat"] = player.steers_afloat or not level.world.is_weightless
    row["half_width"], row["half_height"], row["radius"] = half_extents(player.shape)
    row["survives"], row["on_death"] = not player.crush.lethal, DEATHS.index(player.on_death)
    row["turn_rate"] = math.inf if player.turn_rate == "none" else math.radians(player.turn_rate)
    row["health"], row["attract_bonus"] = player.health.points, player.attract_bonus
    row["mass"] = player.mass
    row["terminal_speed"] = math.inf if player.fall.terminal_speed is None else player.fall.terminal_speed
    row["rising_factor"], row["falling_factor"] = player.fall.rising_factor, player.fall.falling_factor
    return row


def _walls(level: Level, body: Body) -> Records:
    bounds = level.world.bounds
    if bounds is None:
        return np.zeros(0, dtype=WALL)
    x0, y0, x1, y1 = bounds.corners
    line = {"left": x0, "right": -x1, "bottom": y0, "top": -y1}
    rows = []
    for number, side in enumerate(SIDES):
        if getattr(bounds, side) == "wall":
            nx, ny = INWARD[side]
            reach = float((body.corners @ np.array([nx, ny])).max()) + body.radius
            edge = line[side]
            rows.append({"nx": nx, "ny": ny, "offset": edge + reach, "side": number, "edge": edge})
    return filled(WALL, rows)


def _edges(level: Level) -> Records:
    world = level.world
    bounds = world.bounds
    row = np.zeros(1, dtype=EDGES)
    row["lost_below"] = -math.inf if world.lost_below is None else world.lost_below
    row["up_x"], row["up_y"] = world.up
    if bounds is not None:
        row["x0"], row["y0"], row["x1"], row["y1"] = bounds.corners
        for side in SIDES:
            row[side] = EDGES_DO[getattr(bounds, side)]
    row["acts"] = world.lost_below is not None or any(row[side][0] for side in SIDES)
    return row
