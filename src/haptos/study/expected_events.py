"""Whether events came as they were expected: which, of whom, when, how often."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from haptos.engine.build.named_pieces import numbers_meant, numbers_named
from haptos.engine.nearness import nearest
from haptos.engine.records.events import EVENT_NAMES
from haptos.engine.report.event_rows import Event
from haptos.engine.run import Run
from haptos.errors import CueError
from haptos.level.assemblies import PLAYER
from haptos.level.expectations import Expectation
from haptos.level.rules import OWN_MOMENTS

# So many times of an event are told.
MOST_TIMES = 6
# A time this near a limit is on it, seconds: the times of events are exact to rounding alone.
SAME_TIME = 1e-9


def judge_event(run: Run, one: Expectation, where: str) -> tuple[bool, str]:
    """Return whether an event came as expected, and what to say of it.

    Parameters
    ----------
    run : Run
    one : Expectation
        Of an event.
    where : str
        Where it stands, for messages.

    Raises
    ------
    CueError
        If it names something that the level does not have.
    """
    came = events_meant(run, one, where)
    within = [event for event in came if _is_in_time(event, one)]
    words, window = one.event_words, one.window_words
    low, high = _bounds_of(one)
    if low <= len(within) and (high is None or len(within) <= high):
        return True, f"{words}: {_times(within) if within else f'never came{window}'}"
    if high == 0:
        return False, f"{words}: expected never{window}, came {_times(within)}{_by(within[0])}"
    if (low, high) == (1, None):
        return False, f"{words}: expected{window or ' at least once'}{_nearest_miss(run, one, came, where)}"
    often = f"{low}" if high == low else f"at least {low}" if len(within) < low else f"at most {high}"
    found = f" ({_times(within)})" if within else _nearest_miss(run, one, came, where)
    return False, f"{words}: expected {often}{window}, found {len(within)}{found}"


def judge_time(run: Run, one: Expectation, where: str) -> tuple[bool, str]:
    """Return whether a run, or an event, took less than expected, and what to say of it."""
    assert one.under is not None
    if one.event is None:
        held = run.duration < one.under
        return held, f"the run: {'' if held else f'expected under {one.under:g} s, '}took {run.duration:.6g} s"
    came, words = events_meant(run, one, where), one.event_words
    if not came:
        return False, f"{words}: expected under {one.under:g} s{_nearest_miss(run, one, came, where)}"
    held = came[0].t < one.under
    return held, f"{words}: {'' if held else f'expected under {one.under:g} s, '}came at {came[0].t:.6g} s"


def events_meant(run: Run, one: Expectation, where: str) -> list[Event]:
    """Return the events of a run that an expectation is about, whenever they came."""
    return [run.event_rows[index] for index in numbers_of_events(run, one, where)]


def numbers_of_events(run: Run, one: Expectation, where: str) -> list[int]:
    """Return the numbers, among the events of a run, of those that an expectation is about.

    Raises
    ------
    CueError
        If it names something that the level does not have.
    """
    about = _filter(run, one.piece, f"{where}.piece")
    by = _filter(run, one.who, f"{where}.who")
    assert one.event is not None
    # As cues wait for it: what pieces do among themselves is asked for by name.
    is_own = one.event in OWN_MOMENTS and one.event != "touch"
    found = []
    for index in np.flatnonzero(run.event_records["kind"] == EVENT_NAMES.index(one.event)).tolist():
        record, (who, piece) = run.event_records[index], run.names.pair(index)
        is_by, is_about = (int(record["who"]), who), (int(record["piece"]), piece)
        if about is not None and not (about(*is_about) or (by is None and about(*is_by))):
            continue
        if by is None:
            if about is None and who != PLAYER and not is_own:
                continue
        elif not by(*is_by):
            continue
        found.append(index)
    return found


def _filter(run: Run, name: str | None, where: str) -> Callable[[int, str], bool] | None:
    """Return what tells whether a piece, by number and by name, is one of those that a name means."""
    if name is None:
        return None
    if name == PLAYER:
        return lambda number, called: called == PLAYER
    roster = run.compiled.cast.resolved
    kind, _, serial = name.rpartition(" ")
    if serial.isdigit() and not numbers_meant(roster, name) and kind in run.level.kinds:
        # One of those that are made while the level runs.
        return lambda number, called: called == name
    try:
        numbers = frozenset(numbers_named(roster, name))
    except ValueError as error:
        raise CueError(f"{where}: {error}") from None
    return lambda number, called: number in numbers


def _bounds_of(one: Expectation) -> tuple[int, int | None]:
    """Return how often an event has to come, at least and at most."""
    if one.never or one.count is not None:
        exactly = one.count or 0
        return exactly, exactly
    if one.at_least is None and one.at_most is not None:
        return 0, one.at_most
    return (1 if one.at_least is None else one.at_least), one.at_most


def _is_in_time(event: Event, one: Expectation) -> bool:
    after = one.after is None or event.t >= one.after - SAME_TIME
    return after and (one.before is None or event.t <= one.before + SAME_TIME)


def _times(events: list[Event]) -> str:
    told = ", ".join(f"{event.t:.6g}" for event in events[:MOST_TIMES])
    more = f" and {len(events) - MOST_TIMES} times more" if len(events) > MOST_TIMES else ""
    return f"at {told} s{more}"


def _by(event: Event) -> str:
    """Return what an event was about, if it was about a piece."""
    return f" ({event.piece})" if event.piece else ""


def _nearest_miss(run: Run, one: Expectation, came: list[Event], where: str) -> str:
    """Return how it came instead: at another time, elsewhere, or how near it was."""
    if came:
        limits = [limit for limit in (one.after, one.before) if limit is not None]
        closest = min(came, key=lambda event: min((abs(event.t - limit) for limit in limits), default=0.0))
        return f", came at {closest.t:.6g} s"
    words = ", never came"
    if one.piece is not None:
        words += _how_near(run, one.piece)
        others = events_meant(run, one.model_copy(update={"piece": None}), where)
        elsewhere = [event for event in others if event.piece]
        if elsewhere:
            words += f"; {one.event} came on {elsewhere[-1].piece} at {elsewhere[-1].t:.6g} s"
    return words


def _how_near(run: Run, name: str) -> str:
    """Return how near the body came to what a name means."""
    known = [
        index
        for index in numbers_meant(run.compiled.cast.resolved, name)
        if 0 <= index < len(run.compiled.resolved.pieces)
    ]
    gaps = [(gap, tick) for gap, tick in (nearest(run, index) for index in known) if gap is not None]
    if not gaps:
        return ""
    gap, tick = min(gaps)
    world = run.level.world
    return f"; the body came as near as {gap:.4g} {world.length_unit}, at {tick / world.tick_rate:.6g} s"
