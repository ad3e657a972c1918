"""What an event says to people: a short sentence for each sort, with its numbers."""

from __future__ import annotations

import math
from typing import NamedTuple

from haptos.engine.records.events import (
    ACT,
    ALIGHT,
    APEX,
    AT_BOTTOM,
    ATTRACTS,
    BLOCKED,
    BOARD,
    BROKE,
    BY_HARM,
    CLIMB,
    CLIMBED,
    COLLECTS,
    COOLING,
    CRUMBLES,
    CRUSH,
    DROPPED,
    DROPS,
    END,
    ENTER,
    FINISHES,
    FIRES,
    FLIPS,
    FROM_ASIDE,
    FROM_BEHIND,
    GOES,
    HANDS,
    HURTS,
    INSIDE,
    JUMPS,
    JUMPS_OFF,
    LAND,
    LAUNCHED,
    LEAVE,
    LEFT_BOUNDS,
    LET_GO,
    LETS_GO,
    LOSES,
    LOST,
    MERCY,
    NOT_THERE,
    ON_TOP,
    PARTS,
    PASSES,
    PLACED,
    REAIMS,
    REFUSED,
    RELEASES,
    REMOVED,
    RESPAWN,
    RESTARTS,
    RETURNS,
    REWARDS,
    ROUGHLY,
    SAVES,
    SAY,
    SETS,
    SHOVES,
    SLEEPS,
    SPAWNS,
    STALL,
    STEPPED,
    STOOD_STILL,
    TAKES,
    TAKES_HOLD,
    TILTS,
    TIMED_OUT,
    TOO_LATE,
    TOO_MANY,
    TOUCHES,
    VANISHES,
    WAKES,
    WRAP,
)
from haptos.level.assemblies import PLAYER
from haptos.level.world import SIDES


class EventText(NamedTuple):
    """What one sort of event says to people.

    Attributes
    ----------
    sentence : its detail, with `who`, `piece`, `amount`, `more` and `unit` to be filled in; one for each value of
        `more` where that is a code; empty where what is said, or done, is in the level's own words
    amount : what its main number is, empty if it has none
    is_marked : whether it gets a number in pictures; touches and parts go with their landings and jumps
    """

    sentence: str | dict[float, str]
    amount: str = ""
    is_marked: bool = False


EVENTS = {
    TOUCHES: EventText("meets {piece} at {amount:.4g} {unit}/s", "approach speed"),
    PARTS: EventText("parts from {piece}"),
    LAND: EventText("lands on {piece} after a drop of {amount:.4g} {unit}, at {more:.4g} {unit}/s", "drop", True),
    JUMPS: EventText("leaves at {amount:.4g} {unit}/s", "speed", True),
    APEX: EventText("{amount:.4g} {unit} over the last support", "height over the last support", True),
    ENTER: EventText("enters {piece}", "", True),
    LEAVE: EventText("leaves {piece}", "", True),
    LOST: EventText(
        {float(number): f"its centre crossed the {side} edge of the bounds" for number, side in enumerate(SIDES)}
        | {BY_HARM: "no health is left"},
        "",
        True,
    ),
    RESPAWN: EventText("starts again", "", True),
    WRAP: EventText(
        {float(number): f"crossed the {side} edge and came back opposite" for number, side in enumerate(SIDES)},
        "",
        True,
    ),
    PLACED: EventText("put there by a cue", "", True),
    ACT: EventText("act is pressed"),
    STALL: EventText(
        {
            ROUGHLY: "more contacts than one tick can hold; the last {amount:.3g} s of it were gone through roughly",
            STOOD_STILL: "more impacts than one tick can hold; for {amount:.3g} s of it {who} stood still",
        },
        "seconds left",
        True,
    ),
    SAY: EventText("", "", True),
    INSIDE: EventText(""),
    PASSES: EventText(
        {
            DROPPED: "drops through {piece}: down and jump were pressed on it",
            CLIMBED: "climbs through {piece}: a one-way piece lets through who holds a ladder",
            FROM_BEHIND: "passes through {piece}: it is solid from its other side alone, and is met from behind",
            FROM_ASIDE: "passes through {piece}: solid from one side alone, and the body is not wholly on that side",
        },
        "",
        True,
    ),
    CLIMB: EventText(
        {
            TAKES_HOLD: "takes hold of {piece}",
            AT_BOTTOM: "lets go at the bottom of {piece}",
            ON_TOP: "stands on the top of {piece}",
            JUMPS_OFF: "jumps off {piece}",
            LETS_GO: "lets go of {piece}",
        },
        "",
        True,
    ),
    LAUNCHED: EventText("{piece} throws it at {amount:.4g} {unit}/s", "speed", True),
    STEPPED: EventText("steps {amount:.4g} {unit} up onto {piece}", "height", True),
    BOARD: EventText("rides on {piece}", "", True),
    ALIGHT: EventText("no longer rides on {piece}", "", True),
    CRUSH: EventText("is squeezed by {piece}", "", True),
    CRUMBLES: EventText("{piece} is touched and begins to shake", "", True),
    DROPS: EventText("{who} falls", "", True),
    GOES: EventText("{who} is gone", "", True),
    RETURNS: EventText("{who} is back", "", True),
    SPAWNS: EventText("{who} makes {piece}", "its number"),
    REFUSED: EventText(
        {
            TOO_MANY: "{who} makes none: as many are there as may be",
            COOLING: "nothing is fired: the cooldown is not over",
            NOT_THERE: "nothing is made: {who} is not there",
        }
    ),
    VANISHES: EventText(
        {
            BROKE: "{who} breaks on {piece}",
            TIMED_OUT: "{who} has lasted its time",
            LEFT_BOUNDS: "{who} has left the bounds",
            REMOVED: "{who} is taken away",
        },
        "",
        True,
    ),
    FIRES: EventText("fires {piece} at {amount:.4g} {unit}/s", "speed", True),
    REAIMS: EventText("{who} leaves the bounds and turns back"),
    ATTRACTS: EventText("{piece} begins to come, {amount:.4g} {unit} away", "distance"),
    COLLECTS: EventText("takes {piece}, worth {amount:g}", "worth", True),
    REWARDS: EventText("a reward, number {amount:g}", "its number", True),
    HURTS: EventText("", "points", True),
    SAVES: EventText("comes back at {piece} from now on", "", True),
    FINISHES: EventText("the level is finished at {piece}", "", True),
    RESTARTS: EventText("the level begins again", "", True),
    SETS: EventText(""),
    RELEASES: EventText("{piece} no longer comes, {amount:.4g} {unit} away", "distance"),
    FLIPS: EventText("gravity is turned over", "", True),
    TILTS: EventText("another gravity holds", "", True),
    BLOCKED: EventText("rotation blocked, {amount:.4g}° left", "degrees that wait", True),
    WAKES: EventText("{who} is stirred"),
    SLEEPS: EventText("{who} has come to rest"),
    HANDS: EventText(
        {
            TAKES: "a hand takes hold of {who}",
            LET_GO: "the hand lets go of {who}",
            LOSES: "{who} is out of the hand's reach, and drops",
        },
        "distance from where the hand is",
        True,
    ),
    SHOVES: EventText("{who} is shoved by {amount:.4g}", "impulse", True),
    TOO_LATE: EventText("", "how near it came", True),
    END: EventText(""),
}
CUSHIONED = "; the landing is cushioned"


def detail_of(kind: int, who: str, piece: str, amount: float, more: float, unit: str, lost_below: float | None) -> str:
    """Return the sentence of one event.

    Examples
    --------
    >>> detail_of(int(JUMPS), "player", "", 509.0, 0.0, "px", None)
    'leaves at 509 px/s'
    """
    if kind == LOST and more == len(SIDES):
        return f"its centre sank below lost_below = {lost_below:g}"
    if kind == HURTS:
        if more == MERCY:
            return f"meets {piece}, which does no harm in the mercy time"
        points = "1 point" if amount == 1.0 else f"{amount:.4g} points"
        return f"{piece} takes {points} of health" + (", all of it" if more == math.inf else "")
    if kind == TOUCHES and who != PLAYER:
        return f"meets {piece} at {more:.4g} {unit}/s, with an impulse of {amount:.4g}"
    if kind == FINISHES and not piece:
        return "a rule finishes the level"
    if kind == COLLECTS and who != PLAYER:
        return f"{who} takes {piece}, worth {amount:g}"
    sentence = EVENTS[kind].sentence
    if isinstance(sentence, dict):
        sentence = sentence[more]
    return sentence.format(who=who, piece=piece, amount=amount, more=more, unit=unit)
