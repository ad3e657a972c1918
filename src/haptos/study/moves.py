"""The numbers that decide a level: how high, how far, how long; closed form beside simulated.

The closed forms are those of uniform acceleration, with another factor on gravity on the way up than on the way down,
and a limit on the fall. Simulated numbers come from the engine itself, in small levels made for the purpose with the
same player; what can only succeed or fail, such as a gap, is found by halving.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, NamedTuple

from haptos.engine.build.compile_level import compile_level
from haptos.engine.simulation import Simulation
from haptos.errors import LevelError
from haptos.level.level import Level
from haptos.level.shapes import half_extents
from haptos.study.ballistics import GAITS, Flight, corner_reach, gait_speed

if TYPE_CHECKING:
    import pandas as pd

# Gaps and ledges are found to this share of the body's height.
# A ledge that is higher by this share than a foot gets that is not lifted is one to which it is.
LIFTED = 1e-4
HALVINGS = 34
# Falls are shown for these multiples of the body's height.
DROPS = (1, 2, 5, 10)
METHODS = ("exact", "semi-implicit-euler", "velocity-verlet")
# How far the made levels reach, in body heights: farther than any jump or stop.
FAR = 1000.0


class Move(NamedTuple):
    """One number: what it is, for which gait, in closed form and simulated, and its unit."""

    quantity: str
    gait: str
    closed_form: float
    simulated: float
    unit: str


def moves(level: Level) -> pd.DataFrame:
    """Return the movement numbers of a level's player.

    Parameters
    ----------
    level : Level

    Returns
    -------
    DataFrame
        A row a number: quantity, gait, closed_form, simulated, unit.

    Raises
    ------
    LevelError
        If a piece can't be resolved, or the world has no gravity.
    TypeError
        If it is no level.

    Notes
    -----
    The highest ledge in closed form is the apex and what a round foot still finds ground on. At speed a round foot that
    meets the corner early is lifted by it: that has no closed form, and is simulated alone.

    Examples
    --------
    >>> import haptos
    >>> table = haptos.moves(haptos.Level())
    >>> table.query("quantity == 'apex height'").closed_form.item()
    72.0
    """
    import pandas as pd

    compile_level(level)
    _require_gravity(level)
    rows = _side_moves(level) if level.world.view == "side" else _top_moves(level)
    return pd.DataFrame(rows, columns=list(Move._fields))


def integrators(level: Level) -> pd.DataFrame:
    """Return how far each method of integration is from the closed form of a jump, at the level's tick rate.

    Parameters
    ----------
    level : Level

    Returns
    -------
    DataFrame
        A row a number: quantity, closed_form, one column a method, unit. Empty in the top view, which has no jump.

    Raises
    ------
    TypeError
        If it is no level.

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -22]}])
    >>> haptos.integrators(level).columns[1:3].tolist()
    ['closed_form', 'exact']
    """
    import pandas as pd

    compile_level(level)
    flight = Flight(level)
    columns = ["quantity", "closed_form", *METHODS, "unit"]
    if level.world.view == "top" or not math.isfinite(flight.air_time):
        return pd.DataFrame([], columns=columns)
    jumps = [_simulated_jump(level, flight, "walk", method) for method in METHODS]
    unit, walk = level.world.length_unit, gait_speed(level, "walk")
    numbers = (
        ("apex height", "apex", flight.apex_height, unit),
        ("air time", "air_time", flight.air_time, "s"),
        ("flat jump distance", "distance", flight.air_time * walk, unit),
    )
    rows = [(name, exact, *(jump[key] for jump in jumps), unit) for name, key, exact, unit in numbers]
    return pd.DataFrame(rows, columns=columns)


def _require_gravity(level: Level) -> None:
    """Raise in a world without gravity, where jumps and falls are as its fields have them."""
    if level.world.is_weightless:
        message = (
            "found [0, 0], expected some: without gravity no jump comes down; to measure those in a field, give a copy "
            "of the level the gravity of that field"
        )
        raise LevelError("world.gravity", message)


def _side_moves(level: Level) -> list[Move]:
    unit = level.world.length_unit
    flight = Flight(level)
    rows: list[Move] = []
    if math.isfinite(flight.air_time):
        jump = _simulated_jump(level, flight, "walk")
        rows.append(Move("apex height", "", flight.apex_height, jump["apex"], unit))
        rows.append(Move("apex time", "", flight.apex_time, jump["apex_time"], "s"))
        rows.append(Move("air time", "", flight.air_time, jump["air_time"], "s"))
        for gait in GAITS:
            distance = _simulated_jump(level, flight, gait)["distance"]
            rows.append(Move("flat jump distance", gait, flight.air_time * gait_speed(level, gait), distance, unit))
        for gait in GAITS:
            rows.append(Move("widest gap", gait, _gap(level, flight, gait), _simulated_gap(level, flight, gait), unit))
        for gait in GAITS:
            ledge = _simulated_ledge(level, flight, gait)
            closed = flight.apex_height + corner_reach(level)[1]
            is_lifted = ledge > closed * (1.0 + LIFTED)
            rows.append(Move("highest ledge", gait, math.nan if is_lifted else closed, ledge, unit))
    rows += [_stop(level, gait) for gait in GAITS]
    height = level.player.shape.size[1]
    for drop in (height * times for times in DROPS):
        speed = _simulated_fall(level, flight, drop)
        rows.append(Move(f"fall speed after {drop:g} {unit}", "", flight.fall_speed(drop), speed, f"{unit}/s"))
    return rows


def _top_moves(level: Level) -> list[Move]:
    rows = [_stop(level, gait) for gait in GAITS]
    for gait in GAITS:
        speed, rate = gait_speed(level, gait), level.player.run.ground_accel
        distance = speed**2 / (2 * rate) if rate > 0 else math.inf
        rows.append(
            Move("run-up to full speed", gait, distance, _simulated_run_up(level, gait), level.world.length_unit)
        )
    return rows


def _held(gait: str, *controls: str) -> str:
    return "+".join([*controls, "sprint"] if gait == "sprint" else controls)


def _foot(level: Level) -> float:
    return half_extents(level.player.shape)[0]


def _gap(level: Level, flight: Flight, gait: str) -> float:
    """Closed form: from where the near edge lets go to where the far corner is just not too steep."""
    out, down = corner_reach(level)
    time = flight.apex_time + flight.fall_time(flight.apex_height + down)
    return gait_speed(level, gait) * time + out + 2 * _foot(level)


class _Ground(NamedTuple):
    """A made level: the player's own body and world, on pieces given by their corners along right and up."""

    level: Level
    method: str = ""

    def simulation(self, pieces: dict[str, tuple[float, float, float, float]]) -> Simulation:
        world = self.level.world
        data: dict[str, Any] = {
            "world": {
                "view": world.view,
                "tick_rate": world.tick_rate,
                "method": self.method or world.method,
                "gravity": [0.0, -math.hypot(*world.gravity)] if world.view == "side" else list(world.gravity),
            },
            "player": self.level.player.model_dump(
                exclude={"at", "layer", "marks", "pieces", "shot"}, exclude_none=True
            )
            | {"shape": self.level.player.shape.model_dump(exclude_none=True, exclude={"turn"})},
            "pieces": [{"name": name, "shape": {"corners": list(box)}} for name, box in pieces.items()],
        }
        return Simulation(Level(**data))

    @property
    def standing(self) -> float:
        """Height of the body's centre on ground at height zero."""
        return self.level.player.shape.size[1] / 2

    @property
    def far(self) -> float:
        return FAR * self.level.player.shape.size[1]


def _jump_from(simulation: Simulation, level: Level, x: float, y: float, gait: str, seconds: float) -> None:
    """Put the body on the ground at full speed and let it jump at once, all controls held for the whole flight."""
    simulation.place(x, y, vx=gait_speed(level, gait))
    simulation.step(_held(gait, "right", "jump"), ticks=max(2, math.ceil(seconds * level.world.tick_rate)))


def _simulated_jump(level: Level, flight: Flight, gait: str, method: str = "") -> dict[str, float]:
    ground = _Ground(level, method)
    simulation = ground.simulation({"floor": (-ground.far, -ground.standing, ground.far, 0.0)})
    # A tick on the ground first, so that the jump leaves at a tick's begin under every method.
    simulation.place(0.0, ground.standing, vx=gait_speed(level, gait))
    simulation.step(_held(gait, "right"))
    simulation.step(_held(gait, "right", "jump"), ticks=math.ceil(flight.air_time * level.world.tick_rate) + 4)
    events = simulation.run.events
    start = events[events.event == "jump"].iloc[0]
    end = events[(events.event == "land") & (events.t > start.t)].iloc[0]
    apex = events[events.event == "apex"].iloc[0]
    return {
        "apex": float(apex.amount),
        "apex_time": float(apex.t - start.t),
        "air_time": float(end.t - start.t),
        "distance": float(end.x - start.x),
    }


def _largest(works: Callable[[float], bool], low: float, high: float) -> float:
    """Return the largest number that works, by halving; NaN if none does."""
    if not works(low):
        return math.nan
    for _ in range(HALVINGS):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if works(middle) else (low, middle)
    return low


def _simulated_gap(level: Level, flight: Flight, gait: str) -> float:
    ground = _Ground(level)
    foot, wide = _foot(level), _gap(level, flight, gait)

    def lands(gap: float) -> bool:
        simulation = ground.simulation(
            {
                "near": (-ground.far, -ground.standing, 0.0, 0.0),
                "far": (gap, -ground.standing, gap + ground.far, 0.0),
            }
        )
        # A hair before the very end of the ground.
        edge = foot - 1e-6 * level.player.shape.size[1]
        _jump_from(simulation, level, edge, ground.standing, gait, 1.5 * flight.air_time)
        events = simulation.run.events
        return bool(((events.event == "land") & (events.piece == "far")).any())

    return _largest(lands, 1e-6 * wide, 2 * wide)


def _simulated_ledge(level: Level, flight: Flight, gait: str) -> float:
    ground = _Ground(level)
    out, down = corner_reach(level)
    foot, speed = _foot(level), gait_speed(level, gait)
    high = flight.apex_height + down

    def lands(height: float) -> bool:
        simulation = ground.simulation(
            {"floor": (-ground.far, -ground.standing, ground.far, 0.0), "ledge": (0.0, 0.0, ground.far, height)}
        )
        # At the best moment: the corner is met at the apex.
        x = -foot - out - speed * flight.apex_time
        _jump_from(simulation, level, x, ground.standing, gait, 1.5 * flight.air_time)
        events = simulation.run.events
        return bool(((events.event == "land") & (events.piece == "ledge")).any())

    return _largest(lands, 1e-3 * high, 2 * high)


def _stop(level: Level, gait: str) -> Move:
    speed, rate = gait_speed(level, gait), level.player.run.ground_brake
    distance = speed**2 / (2 * rate) if rate > 0 else math.inf
    simulated = math.inf
    if rate > 0:
        simulation = _floor(level)
        simulation.place(0.0, _Ground(level).standing, vx=speed)
        simulation.step("", ticks=math.ceil(speed / rate * level.world.tick_rate) + 1)
        simulated = simulation.x
    return Move("stopping distance", gait, distance, simulated, level.world.length_unit)


def _simulated_run_up(level: Level, gait: str) -> float:
    rate, speed = level.player.run.ground_accel, gait_speed(level, gait)
    if rate == 0:
        return math.inf
    simulation = _floor(level)
    ticks = math.ceil(speed / rate * level.world.tick_rate)
    simulation.step(_held(gait, "right"), ticks=ticks)
    # At full speed from then on: what was run since is taken off.
    return simulation.x - speed * (ticks / level.world.tick_rate - speed / rate)


def _floor(level: Level) -> Simulation:
    ground = _Ground(level)
    pieces = {"floor": (-ground.far, -ground.standing, ground.far, 0.0)} if level.world.view == "side" else {}
    return ground.simulation(pieces)


def _simulated_fall(level: Level, flight: Flight, drop: float) -> float:
    ground = _Ground(level)
    simulation = ground.simulation({"floor": (-ground.far, -ground.standing, ground.far, 0.0)})
    simulation.place(0.0, ground.standing + drop)
    seconds = flight.fall_time(drop)
    if not math.isfinite(seconds):
        return 0.0
    simulation.step("", ticks=math.ceil(seconds * level.world.tick_rate) + 1)
    records = simulation.run.event_records
    landing = simulation.run.events.event == "land"
    return float(records["more"][landing.to_numpy()][0])
