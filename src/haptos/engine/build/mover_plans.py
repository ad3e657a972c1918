"""What moves in a level, as which it moves together, and the bounds of it: how far, how fast, how much it turns."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.route_bounds import fastest_on, hardest_on, turnable_way
from haptos.engine.records import Records
from haptos.geometry.outlines import Body
from haptos.geometry.placement import Placement, spin_pivot
from haptos.geometry.ways import Way, way_of
from haptos.level.assemblies import ON_PLAYER, PLAYER
from haptos.level.casting import Cast
from haptos.level.facets import Crumble
from haptos.level.resolved_piece import ResolvedPiece
from haptos.level.routes import Route

Floats = NDArray[np.float64]
Integers = NDArray[np.int64]
STAYS = -1
# Spin of what is made, though it may not turn.
STILL = 1e-300
# Of what moves where the body turns, if it does not turn itself.
UPRIGHT = 1e-301


@dataclass(frozen=True)
class Plan:
    """What one mover does, and the bounds of it: of its place in the world, its speed, and its spin.

    Attributes
    ----------
    index : the piece that moves, with the children that are fixed to it
    parent : the number of the mover that carries it
    way : its route's, or None
    low, high : corners of a box that its place stays in
    speed, turning : the greatest of both; a place that never turns has zero
    accel : the greatest acceleration of its place
    """

    index: int
    parent: int
    assembly: int
    way: Way | None
    low: Floats
    high: Floats
    speed: float
    turning: float
    accel: float


class Motions:
    """The movers of a level: pieces that move by themselves, each with the children that are fixed to it.

    Parameters
    ----------
    cast : Cast
    origins : (p, 2) ndarray
        Where each piece is at rest.
    """

    def __init__(self, cast: Cast, origins: Floats) -> None:
        self.cast = cast
        self.resolved = cast.resolved
        self.origins = origins

    @cached_property
    def leaders(self) -> list[int]:
        """The pieces that move by themselves, where the player can meet them or what they carry."""
        pieces = self.resolved.pieces
        made = self.cast.made
        own = [self.resolved.changes(index) for index in range(len(pieces))]
        if not made and not any(own):
            return []
        flies = {
            index
            for index, piece in enumerate(pieces)
            if any(name in piece.facets for name in ("drift", "fragile", "spawner", "body"))
        }
        met = {index for index, piece in enumerate(pieces) if self.resolved.meeting(piece) != "nothing"}
        watched = {index for pair in self.resolved.noticed for index in pair}
        met |= set(watched | self.resolved.asked_where)
        chains = (one for index in met | made | flies for one in (index, *self.resolved.carriers(index)))
        hung = {index for index, piece in enumerate(pieces) if piece.name in self.resolved.hung_on_player}
        # What is noticed by itself moves by itself, though it may go with what carries it.
        noticed = {who for who, _ in self.resolved.noticed}
        found = {one for one in chains if own[one] or one in made} | self.resolved.switched | noticed
        return sorted(found | hung if self.meets_hung else found - hung)

    @cached_property
    def meets_hung(self) -> bool:
        """Whether anything that flies, is taken or is noticed may meet what hangs on the player."""
        pieces = self.resolved.pieces
        if not self.resolved.hung_on_player:
            return False
        others_take = any(set(piece.facet("pickup").by) != {PLAYER} for piece in pieces if piece.facet("pickup"))
        flies = any(name in piece.facets for piece in pieces for name in ("drift", "fragile", "body"))
        return bool(self.cast.made) or others_take or flies or bool(self.resolved.noticed)

    @property
    def player(self) -> int:
        """The number of the mover that stands for the player, for what hangs on it; STAYS if nothing has to."""
        return len(self.leaders) + len(self.still) if self.meets_hung else STAYS

    def shape_rows(self, shapes: Placement) -> Integers:
        """Return which shapes can be met by others than the player, those of one mover one after another.

        What hangs on the player is met by nobody where it does not matter.
        """
        mover = self.numbers[shapes.piece]
        order = np.argsort(mover, kind="stable")
        hung = np.array([piece.name in self.resolved.hung_on_player for piece in self.resolved.pieces] or [False])
        return order[~hung[shapes.piece[order]] | (mover[order] >= 0)]

    @cached_property
    def numbers(self) -> Integers:
        """For each piece the number of the mover that it belongs to, STAYS if to none."""
        number = {leader: place for place, leader in enumerate(self.leaders)}
        found = np.full(len(self.resolved.pieces), STAYS, dtype=np.int64)
        if number:
            for index in range(len(found)):
                chain = (index, *self.resolved.carriers(index))
                found[index] = next((number[one] for one in chain if one in number), STAYS)
        return found

    def seen_from_mover(self, index: int) -> tuple[float, float]:
        """Return where a piece is placed, as seen from the place of the mover that it belongs to, if to any."""
        x, y = map(float, self.origins[index])
        number = int(self.numbers[index])
        if number < 0:
            return x, y
        at_x, at_y = map(float, self.origins[self.leaders[number]])
        return x - at_x, y - at_y

    @cached_property
    def still(self) -> list[int]:
        """The pieces that stay, where the body turns: each is grown by it anew."""
        resolved = self.resolved
        if not resolved.turns_body:
            return []
        return [
            index
            for index, piece in enumerate(resolved.pieces)
            if self.numbers[index] < 0
            and resolved.meeting(piece) != "nothing"
            and piece.name not in resolved.hung_on_player
        ]

    @cached_property
    def plans(self) -> list[Plan]:
        """What each mover does."""
        made: dict[int, Plan] = {}
        for number in range(len(self.leaders)):
            self._make(number, made)
        return [made[number] for number in range(len(self.leaders))]

    @cached_property
    def spins(self) -> dict[int, float]:
        """How fast each piece turns that flies; what is made is grown anew, as if it turned, even where it does not."""
        spins = {}
        for index, piece in enumerate(self.resolved.pieces):
            drift = piece.facet("drift")
            if drift is not None:
                spins[index] = math.radians(abs(drift.spin))
            if piece.facet("body") is not None:
                spins[index] = max(spins.get(index, 0.0), STILL if piece.facet("body").turns else 0.0)
        for index in self.cast.made:
            spins[index] = max(spins.get(index, 0.0), STILL)
        return spins

    @property
    def flies(self) -> frozenset[int]:
        """The pieces that fly by themselves."""
        return frozenset(self.spins)

    @property
    def turns(self) -> NDArray[np.bool_]:
        """For each piece whether it ever turns."""
        turning = np.array([plan.turning > UPRIGHT for plan in self.plans] + [False])
        return turning[self.numbers]

    def pace(self, number: int, reach: float) -> float:
        """Return a speed that no point so far from a mover's place exceeds, but for how that flies."""
        if number == STAYS:
            return 0.0
        plan = self.plans[number]
        return plan.speed + plan.turning * reach

    def _make(self, number: int, made: dict[int, Plan]) -> Plan:
        if number in made:
            return made[number]
        index = self.leaders[number]
        carrier = self.resolved.parents[index]
        parent = int(self.numbers[carrier]) if carrier >= 0 else self.player if carrier == ON_PLAYER else STAYS
        held_by = self._make(parent, made) if carrier >= 0 and parent >= 0 else None
        made[number] = self._plan(index, number, parent, held_by)
        return made[number]

    def _plan(self, index: int, number: int, parent: int, held_by: Plan | None) -> Plan:
        piece, origin = self.resolved.pieces[index], self.origins[index]
        route, spin = piece.facet("route"), piece.facet("spin")
        way = None if route is None else self.way(piece, route)
        low, high, far, speed, turning, accel = np.zeros(2), np.zeros(2), 0.0, 0.0, 0.0, 0.0
        if route is not None and way is not None:
            corners = np.vstack((np.array(route.stops), way.knots[:, :2]))
            low, high, far = corners.min(axis=0), corners.max(axis=0), float(np.hypot(*corners.T).max())
            speed, turning = fastest_on(way, route.ease, route.turns)
            accel = hardest_on(way, route.ease)
        if spin is not None:
            arm = float(np.hypot(*spin_pivot(piece)))
            low, high, far = low - 2.0 * arm, high + 2.0 * arm, far + 2.0 * arm
            speed += (2.0 * turning + math.radians(abs(spin.speed))) * arm
            turning += math.radians(abs(spin.speed))
            accel += 2.0 * turning**2 * arm
        if held_by is None:
            low, high = origin + low, origin + high
        elif held_by.turning > 0.0:
            arm = float(np.hypot(*(origin - self.origins[held_by.index]))) + far
            low, high = held_by.low - arm, held_by.high + arm
            accel += held_by.accel + 2.0 * held_by.turning * speed + 2.0 * held_by.turning**2 * arm
            speed, turning = speed + held_by.speed + held_by.turning * arm, turning + held_by.turning
        else:
            rest = self.origins[held_by.index]
            low, high = origin + low + held_by.low - rest, origin + high + held_by.high - rest
            speed += held_by.speed
            accel += held_by.accel
        if index in self.flies or parent == self.player != STAYS:
            low, high = np.full(2, -math.inf), np.full(2, math.inf)
            turning += self.spins.get(index, 0.0)
        crumble = piece.facet("crumble")
        if crumble is not None:
            depth, fall_speed = self.deepest_fall(crumble)
            speed += fall_speed
            accel += self.fall_accel(crumble)
            way_down = -depth * np.array(self.resolved.level.world.up)
            low, high = np.minimum(low, low + way_down), np.maximum(high, high + way_down)
        if self.resolved.turns_body:
            # It is grown anew by a body that turns, though it does not turn itself.
            turning = max(turning, UPRIGHT)
        assembly = number if held_by is None else held_by.assembly
        return Plan(index, parent, assembly, way, low, high, speed, turning, accel)

    def way(self, piece: ResolvedPiece, route: Route) -> Way:
        """Return the way of a route that the player can meet."""
        return turnable_way(piece, route)

    def deepest_fall(self, crumble: Crumble) -> tuple[float, float]:
        """Return how far a piece falls at most until it is gone, and how fast."""
        accel = self.fall_accel(crumble)
        speed = min(accel * crumble.gone_after, crumble.fall_speed or math.inf)
        return min(0.5 * accel * crumble.gone_after, speed) * crumble.gone_after, speed

    def fall_accel(self, crumble: Crumble) -> float:
        """Return the acceleration that a piece falls with; there is no fall in the top view."""
        world = self.resolved.level.world
        if world.view == "top":
            return 0.0
        return math.hypot(*world.gravity) if crumble.fall_accel is None else crumble.fall_accel

    def reach(self, pieces: Integers, boxes: Floats, body: Body) -> Floats:
        """Return how far outlines of these pieces move from where they are placed: left, down, right, up."""
        reach = np.zeros((len(pieces), 4))
        numbers = self.numbers[pieces]
        for row in np.flatnonzero(numbers >= 0):
            plan = self.plans[numbers[row]]
            origin = self.origins[plan.index]
            if plan.turning > 0.0:
                radius = _box_radius(boxes[row], origin, body)
                reach[row] = np.concatenate((plan.low - radius, plan.high + radius)) - boxes[row]
            else:
                reach[row] = *(plan.low - origin), *(plan.high - origin)
        return reach + self.room(body) * np.array([-1.0, -1.0, 1.0, 1.0])

    def room(self, body: Body) -> float:
        """Return how much farther outlines come to reach where the body turns."""
        return 2.0 * math.hypot(body.half_width, body.half_height) if self.resolved.turns_body else 0.0


class EveryMotion(Motions):
    """The same with all that moves, whether or not anything can meet it, for those who ask where it is."""

    @cached_property
    def leaders(self) -> list[int]:
        """The pieces that move by themselves, and all that hang on the player."""
        pieces = self.resolved.pieces
        own = {index for index in range(len(pieces)) if self.resolved.changes(index)}
        return sorted(own | self.cast.made | self.hung)

    @cached_property
    def still(self) -> list[int]:
        """The pieces that stay: of no concern to those who ask where what moves is."""
        return []

    @cached_property
    def hung(self) -> set[int]:
        """The pieces that hang on the player."""
        return {index for index, piece in enumerate(self.resolved.pieces) if piece.name in self.resolved.hung_on_player}

    @cached_property
    def meets_hung(self) -> bool:
        """Whether anything hangs on the player."""
        return bool(self.hung)

    def way(self, piece: ResolvedPiece, route: Route) -> Way:
        """Return the way of a route; what nothing meets may turn however it likes."""
        return way_of(route)


def radius_of(faces: Records, rounding: float, origin: Floats, body: Body) -> float:
    """Return how far a grown outline reaches from a place that it turns about, however that is turned."""
    return float(np.hypot(faces["x"] - origin[0], faces["y"] - origin[1]).max()) + rounding + _spare(body)


def _box_radius(box: Floats, origin: Floats, body: Body) -> float:
    """Return no less than that, of an outline within a box."""
    far = np.maximum(np.abs(box[:2] - origin), np.abs(box[2:] - origin))
    return float(np.hypot(*far)) + _spare(body)


def _spare(body: Body) -> float:
    """Return by how much more an outline can be grown as it turns."""
    return 2.0 * (math.hypot(body.half_width, body.half_height) + body.radius)
