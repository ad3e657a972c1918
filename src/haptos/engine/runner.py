"""Ticks of one world, run in stretches: what they gave, and how a level begins again."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.build.compile_level import CompiledLevel
from haptos.engine.build.initial_state import new_state
from haptos.engine.game.rule_engine import CROWDED
from haptos.engine.records.journal import EVENT, NO_PIECE, PIECE_TRACK, RESTARTS, THE_PLAYER, TRACK
from haptos.engine.records.layouts import Records
from haptos.engine.records.state import MOST_WAITING, RESTARTING, State
from haptos.engine.tick.advance import advance
from haptos.errors import LevelError

# Events are taken off the buffer after this many ticks. There is room for so many of them to begin with, and one more
# for every few ticks; it doubles whenever it does not do.
STRETCH = 32768
FIRST_ROOM = 1024
TICKS_PER_EVENT = 8
NO_CONTROLS: NDArray[np.uint8] = np.zeros(0, dtype=np.uint8)
NO_TICKS: NDArray[np.int64] = np.zeros(0, dtype=np.int64)
NO_PLACES: NDArray[np.float64] = np.zeros((0, 2))


class Ticks(NamedTuple):
    """What some ticks gave.

    Attributes
    ----------
    track : (n + 1,) TRACK
    scores : (n + 1, counters) ndarray
    events : (m,) EVENT
    flights : (k,) PIECE_TRACK
    """

    track: Records
    scores: NDArray[np.float64]
    events: Records
    flights: Records


def run_ticks(
    compiled: CompiledLevel,
    state: State,
    world: int,
    held: NDArray[np.uint8],
    place_tick: NDArray[np.int64] = NO_TICKS,
    place_at: NDArray[np.float64] = NO_PLACES,
) -> Ticks:
    """Run one world of a state through some ticks.

    The events of a stretch of ticks go to a buffer. Where they need more room, the world goes back to the stretch's
    begin and runs it again with twice as much. A stretch ends where the level begins again.
    """
    own = state.only(world)
    track = np.zeros(len(held) + 1, dtype=TRACK)
    scores = np.zeros((len(held) + 1, len(compiled.level.counters)))
    events: list[Records] = []
    flights: list[Records] = []
    begin = 0
    while True:
        end = min(begin + STRETCH, len(held))
        row = track[begin].copy()
        count = scores[begin].copy()
        # What is to be put somewhere at the very end, after the last tick, is put there then.
        here = (place_tick >= begin) & ((place_tick < end) | (end == len(held)))
        met, flown, done = _stretch(
            compiled, own, held[begin:end], place_tick[here] - begin, place_at[here], track[begin : end + 1],
            scores[begin : end + 1],
        )  # fmt: skip
        if begin > 0:
            # A stretch begins with the last row of the one before, as that left it.
            track[begin], scores[begin] = row, count
        events.append(met)
        flights.append(flown)
        begin += done
        if own.player["over"][0] == RESTARTING:
            events.append(_begin_again(compiled, own))
            if begin == len(held) and not (place_tick >= begin).any():
                break
        elif begin == len(held):
            break
    return Ticks(track, scores, np.concatenate(events), np.concatenate(flights))


def _stretch(
    compiled: CompiledLevel, own: State, held: NDArray[np.uint8], place_tick: NDArray[np.int64],
    place_at: NDArray[np.float64], track: Records, scores: NDArray[np.float64],
) -> tuple[Records, Records, int]:  # fmt: skip
    """Run one world through a stretch; return its events, what flew, and how many ticks were run."""
    written, flown = np.zeros(1, dtype=np.int64), np.zeros(1, dtype=np.int64)
    buffer = np.zeros(FIRST_ROOM + len(held) // TICKS_PER_EVENT, dtype=EVENT)
    movers = compiled.tables.movers
    room = 0 if movers is None or not movers.flights["flies"].any() else len(held) + FIRST_ROOM
    flights = np.zeros(room, dtype=PIECE_TRACK)
    before = own.copy()
    tables = compiled.tables
    if compiled.cells is not None:
        # What rules may change is this world's own.
        tables = compiled.cells.tables_of(tables, own.cells[0])
        if tables.movers is not None and own.corners.shape[1] > 0:
            tables = tables._replace(movers=tables.movers._replace(corners=own.corners[0]))
    while True:
        written[0] = flown[0] = 0
        advance(
            tables, own, 0, held, place_tick, place_at, track, scores, buffer, written, flights, flown
        )  # fmt: skip
        if written[0] <= len(buffer) and flown[0] <= len(flights):
            break
        if written[0] > len(buffer):
            buffer = np.zeros(max(2 * len(buffer), int(written[0])), dtype=EVENT)
        if flown[0] > len(flights):
            flights = np.zeros(int(flown[0]), dtype=PIECE_TRACK)
        own.restore(before)
    if own.player["looping"][0]:
        raise _stopped(compiled, own)
    events, flights = buffer[: written[0]].copy(), flights[: flown[0]].copy()
    era = int(own.player["era"][0])
    events["tick"] += era
    events["t"] += era / compiled.level.world.tick_rate
    flights["tick"] += era
    return events, flights, int(own.player["tick"][0] - before.player["tick"][0])


def _stopped(compiled: CompiledLevel, own: State) -> LevelError:
    """Return the error of rules that fire each other without end, or of one with too many firings that wait."""
    burst = own.rules["burst"][0][: len(compiled.ruled.titles)]
    # All that go on and on have fired about as often.
    names = [title for title, times in zip(compiled.ruled.titles, burst, strict=True) if times > burst.max() // 10]
    t = (own.player["era"][0] + own.player["tick"][0]) / compiled.level.world.tick_rate
    what = " and ".join(names)
    if own.player["looping"][0] == CROWDED:
        message = f"found more than {MOST_WAITING} firings that wait for its after at {t:.4g} s, wanted a shorter delay"
        return LevelError(what, message)
    return LevelError(what, f"found rules that fire each other without end at {t:.4g} s, wanted once, or a delay")


def _begin_again(compiled: CompiledLevel, own: State) -> Records:
    """Bring everything back to the start, but for the lives and the controls that are held; return what is said."""
    player = own.player
    era = int(player["era"][0] + player["tick"][0])
    lives, held = player["lives"][0], player["held"][0]
    own.restore(new_state(compiled, 1))
    player["lives"], player["held"], player["era"] = lives, held, era
    event = np.zeros(1, dtype=EVENT)
    event["tick"], event["t"], event["kind"] = era, era / compiled.level.world.tick_rate, RESTARTS
    event["who"], event["piece"], event["amount"] = THE_PLAYER, NO_PIECE, math.nan
    event["x"], event["y"] = player["x"], player["y"]
    return event
