"""What flies by itself: straight on, until it meets something, leaves the bounds, or its time is up.

Each of these happens at its exact time; between them the place is a closed form of the time.
"""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.collision.poses import flown_to, pose_at
from haptos.engine.compiling.arithmetic import square
from haptos.engine.compiling.contract import leaf
from haptos.engine.pieces.flight_contacts import rebase, touch
from haptos.engine.pieces.outlook import bring_forward, heed_player, look_out, note_flight, stir
from haptos.engine.pieces.rng import chance
from haptos.engine.pieces.spawning import vanish
from haptos.engine.records.codes import (
    EVERY_TICK,
    GOES_ON,
    IS_GONE,
    NO_PIECE,
    NOTHING_THERE,
    THIS_TICK,
    UNTOLD,
    VANISHES_THERE,
    WRAPS_THERE,
)
from haptos.engine.records.events import LEFT_BOUNDS, REAIMS, STALL, STOOD_STILL, TIMED_OUT, WRAP
from haptos.engine.records.journal import was_put, write_of

# Streams of random numbers for what is aimed anew; those of what is made come before.
EXIT_STREAM = 1 << 20
# Things that can happen to one piece in one tick.
MOST_TURNS = 16
# The next tick begins within this share of one.
LEAST = 1e-9
# Within this share of a tick, things happen in the order of the file.
TOGETHER = 1e-6


@leaf
def follow_player(movers: Any, player: Any, moving: Any, now: float) -> None:
    """Let what hangs on the player go on from where it is, as fast as it is."""
    if movers is None:
        return
    if movers.player < 0:
        return
    mover, pose = movers.movers[movers.player], moving[movers.player]
    pose.from_x, pose.from_y, pose.from_t = player.x - mover.x, player.y - mover.y, now
    pose.fly_vx, pose.fly_vy = player.vx + player.frame_vx, player.vy + player.frame_vy


@leaf
def go_with_player(
    movers: Any,
    player: Any,
    moving: Any,
    journal: Any,
    first: int,
    from_x: float,
    from_y: float,
    begin: float,
    end: float,
) -> None:
    """Let what hangs on the player have gone straight from where that was to where it is, unless it was put there."""
    if movers is None:
        return
    if movers.player < 0:
        return
    mover, pose = movers.movers[movers.player], moving[movers.player]
    if was_put(journal, first):
        from_x, from_y = player.x, player.y
    pose.from_x, pose.from_y, pose.from_t = from_x - mover.x, from_y - mover.y, begin
    pose.fly_vx, pose.fly_vy = (player.x - from_x) / (end - begin), (player.y - from_y) / (end - begin)


@leaf
def advance_flights(core: Any, movers: Any, moving: Any, due: Any, begin: float, end: float) -> None:
    """Let everything that flies go on to the end of a tick, but for its pose, event by event.

    Only those are looked at whose time has come: `due` lists them.
    """
    if movers is None:
        return
    _list_due(movers, moving, due, end)
    if movers.player >= 0:
        heed_player(core, movers, moving, due, begin, end)
    while due[0] > 0:
        place = _earliest(movers, moving, due, TOGETHER * core.world.dt)
        row = due[place]
        flying = movers.flying[row]
        pose = moving[flying.mover]
        # So often it has turned in this tick.
        pose.turns = max(pose.turns, MOST_TURNS * core.player.tick)
        if flying.next > end or pose.turns >= MOST_TURNS * (core.player.tick + 1):
            now = max(max(flying.next, pose.from_t), begin)
            if now < end:
                # It stands still to the end of the tick, and goes on from there: it passes nothing.
                rebase(pose, now)
                pose.from_t = end
                stir(movers, moving, flying.mover)
                piece = movers.movers[flying.mover].piece
                x, y = flown_to(movers, core.world, moving, flying.mover, end)
                write_of(core.journal, core.player, STALL, now, piece, NO_PIECE, x, y, end - now, STOOD_STILL)
            pose.listed = 0
            due[place] = due[due[0]]
            due[0] -= 1
            continue
        pose.turns += 1
        _go_on(core, movers, moving, due, row, max(max(flying.next, pose.from_t), begin), end)
        if movers.flights[row].carries:
            # All may have been stirred.
            _list_due(movers, moving, due, end)


@leaf
def _list_due(movers: Any, moving: Any, due: Any, end: float) -> None:
    """List what has to look out by the end of a tick."""
    for row in range(movers.flights.shape[0]):
        if movers.flying[row].next <= end:
            bring_forward(movers, moving, due, row, end, end)


@leaf
def _earliest(movers: Any, moving: Any, due: Any, together: float) -> int:
    """Return the place in the list of what looks out first; of several, which do so together, the first in the file."""
    best, first, which = 1, math.inf, movers.flights.shape[0]
    for place in range(1, due[0] + 1):
        flying = movers.flying[due[place]]
        when = max(flying.next, moving[flying.mover].from_t)
        if when < first - together or (when <= first + together and due[place] < which):
            best, first, which = place, when, due[place]
    return best


@leaf
def _go_on(core: Any, movers: Any, moving: Any, due: Any, row: int, t: float, end: float) -> None:
    """Look out from a time on, and do what happens next, if that is before the end of the tick."""
    world, edges, player, journal = core.world, core.edges, core.player, core.journal
    flight = movers.flights[row]
    number = flight.mover
    pose = moving[number]
    dies = pose.dies
    if dies <= t:
        # Had it met anything before, it would have looked out then.
        vanish(movers, world, moving, journal, player, number, NO_PIECE, TIMED_OUT, t)
        return
    if movers.flying[row].next == -math.inf or not flight.free:
        # From here on it flies like that.
        pose.leaves = (
            math.inf if flight.on_exit == NOTHING_THERE else _leaves_at(edges[0], movers, world, moving, row, t)
        )
    leaves = pose.leaves
    met, shape, nx, ny, again = look_out(core, movers, moving, due, row, t, min(end, min(dies, leaves)), end)
    if met <= end:
        movers.flying[row].next = met
        touch(movers, world, moving, journal, player, row, shape, nx, ny, met)
    elif leaves <= min(dies, end):
        movers.flying[row].next = leaves
        _leave(movers, world, edges[0], moving, journal, player, row, leaves)
    elif dies <= end:
        vanish(movers, world, moving, journal, player, number, NO_PIECE, TIMED_OUT, dies)
    else:
        if not flight.free and flight.on_exit != NOTHING_THERE:
            again = end
        # What is close is looked at tick by tick.
        movers.flying[row].next = max(min(again, min(dies, leaves)), end + LEAST * world.dt)


@leaf
def _leaves_at(edge: Any, movers: Any, world: Any, moving: Any, row: int, t: float) -> float:
    """Return when the whole piece is out of the bounds, having been inside; infinite if it never is."""
    flight = movers.flights[row]
    pose = moving[flight.mover]
    reach = flight.radius * pose.scale
    x, y = flown_to(movers, world, moving, flight.mover, t)
    enters, leaves = -math.inf, math.inf
    for axis in range(2):
        place, speed = (x, pose.fly_vx) if axis == 0 else (y, pose.fly_vy)
        low, high = (edge.x0 - reach, edge.x1 + reach) if axis == 0 else (edge.y0 - reach, edge.y1 + reach)
        if speed == 0.0:
            if place < low or place > high:
                return math.inf
            continue
        one, other = (low - place) / speed, (high - place) / speed
        enters, leaves = max(enters, min(one, other)), min(leaves, max(one, other))
    if leaves <= 0.0 or leaves <= enters or leaves == math.inf:
        return math.inf
    return t + leaves


@leaf
def _leave(movers: Any, world: Any, edge: Any, moving: Any, journal: Any, player: Any, row: int, now: float) -> None:
    """Vanish, come in again opposite, or turn back, as the piece does at the bounds."""
    flight = movers.flights[row]
    mover, pose = movers.movers[flight.mover], moving[flight.mover]
    if flight.on_exit == VANISHES_THERE:
        vanish(movers, world, moving, journal, player, flight.mover, NO_PIECE, LEFT_BOUNDS, now)
        return
    rebase(pose, now)
    pose.touches = NO_PIECE
    x, y = mover.x + pose.from_x, mover.y + pose.from_y
    reach = flight.radius * pose.scale
    kind, side = REAIMS, 0.0
    if flight.on_exit == WRAPS_THERE:
        kind = WRAP
        if x >= edge.x1 + reach * (1.0 - 1e-9) and pose.fly_vx > 0.0:
            x, side = edge.x0 - reach, 1.0
        elif x <= edge.x0 - reach * (1.0 - 1e-9) and pose.fly_vx < 0.0:
            x = edge.x1 + reach
        elif pose.fly_vy > 0.0:
            y, side = edge.y0 - reach, 3.0
        else:
            y, side = edge.y1 + reach, 2.0
        pose.from_x, pose.from_y = x - mover.x, y - mover.y
    else:
        pose.exits += 1
        stream = EXIT_STREAM + 2 * row
        to_x = 0.5 * (edge.x0 + edge.x1) + chance(world.seed, stream, pose.exits, -flight.box_x, flight.box_x)
        to_y = 0.5 * (edge.y0 + edge.y1) + chance(world.seed, stream + 1, pose.exits, -flight.box_y, flight.box_y)
        speed = math.sqrt(pose.fly_vx * pose.fly_vx + pose.fly_vy * pose.fly_vy)
        away = math.sqrt(square(to_x - x) + square(to_y - y))
        pose.fly_vx, pose.fly_vy = speed * (to_x - x) / away, speed * (to_y - y) / away
    stir(movers, moving, flight.mover)
    write_of(journal, player, kind, now, mover.piece, NO_PIECE, x, y, math.nan, side)


@leaf
def begin_flights(movers: Any, moving: Any) -> None:
    """Let everything that flies when the level begins look out."""
    if movers is None:
        return
    for row in range(movers.flights.shape[0]):
        note_flight(movers, moving, row)


@leaf
def record_flights(movers: Any, world: Any, moving: Any, player: Any, rows: Any, written: Any) -> None:
    """Write how everything flies that flies another way than when it was written last; what does not fit is counted."""
    if movers is None:
        return
    end = player.tick * world.dt
    for index in range(movers.flying.shape[0]):
        flying = movers.flying[index]
        if flying.tell == UNTOLD:
            continue
        mover, pose = movers.movers[flying.mover], moving[flying.mover]
        if mover.loose and flying.layer != 0:
            # The bodies tell of themselves.
            continue
        x, y, vx, vy, t = pose.from_x, pose.from_y, pose.fly_vx, pose.fly_vy, pose.from_t
        angle, spin, lasts = pose.from_angle, pose.fly_spin, GOES_ON if flying.layer != 0 else IS_GONE
        if flying.tell == EVERY_TICK:
            if pose.t != end:
                # The body never meets it, so that it was not brought there.
                pose_at(movers, world, moving, flying.mover, end)
                pose.t = math.nan
            if not pose.here:
                continue
            # Turned by what carries it, too.
            x, y, vx, vy, angle, spin = pose.x, pose.y, pose.vx, pose.vy, math.atan2(pose.sine, pose.cosine), pose.spin
            t, lasts = end, THIS_TICK
        else:
            flying.tell = UNTOLD
        place = written[0]
        written[0] = place + 1
        if place < rows.shape[0]:
            row = rows[place]
            row.tick, row.mover, row.t, row.x, row.y = player.tick, flying.mover, t, mover.x + x, mover.y + y
            row.angle, row.vx, row.vy, row.spin, row.scale, row.lasts = angle, vx, vy, spin, pose.scale, lasts
            row.torque = 0.0
