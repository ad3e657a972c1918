"""What an event says to people: a short sentence for each sort, with its numbers."""

from __future__ import annotations

import math

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
    ENTER,
    FINISHES,
    FIRES,
    FLIPS,
    FROM_ASIDE,
    FROM_BEHIND,
    GOES,
    HURTS,
    JUMPS,
    JUMPS_OFF,
    LAND,
    LAUNCHED,
    LEAVE,
    LEFT_BOUNDS,
    LETS_GO,
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
    SAVES,
    SPAWNS,
    STALL,
    STEPPED,
    TAKES_HOLD,
    TILTS,
    TIMED_OUT,
    TOO_MANY,
    TOUCHES,
    VANISHES,
    WRAP,
)
from haptos.level.assemblies import PLAYER
from haptos.level.world import SIDES

PLAIN = {
    TOUCHES: "meets {piece} at {amount:.4g} {unit}/s",
    PARTS: "parts from {piece}",
    LAND: "lands on {piece} after a drop of {amount:.4g} {unit}, at {more:.4g} {unit}/s",
    JUMPS: "leaves at {amount:.4g} {unit}/s",
    APEX: "{amount:.4g} {unit} over the last support",
    ENTER: "enters {piece}",
    LEAVE: "leaves {piece}",
    RESPAWN: "starts again",
    PLACED: "put there by a cue",
    ACT: "act is pressed",
    STALL: "more contacts than one tick can hold; {amount:.3g} s of it dropped",
    LAUNCHED: "{piece} throws it at {amount:.4g} {unit}/s",
    BOARD: "rides on {piece}",
    ALIGHT: "no longer rides on {piece}",
    CRUSH: "is squeezed by {piece}",
    CRUMBLES: "{piece} is touched and begins to shake",
    DROPS: "{who} falls",
    GOES: "{who} is gone",
    RETURNS: "{who} is back",
    SPAWNS: "{who} makes {piece}",
    FIRES: "fires {piece} at {amount:.4g} {unit}/s",
    REAIMS: "{who} leaves the bounds and turns back",
    ATTRACTS: "{piece} begins to come, {amount:.4g} {unit} away",
    COLLECTS: "takes {piece}, worth {amount:g}",
    BLOCKED: "something is in the way: {amount:.4g} degrees of its turn have to wait",
    FLIPS: "gravity is turned over",
    TILTS: "another gravity holds",
    RELEASES: "{piece} no longer comes, {amount:.4g} {unit} away",
    REWARDS: "a reward, number {amount:g}",
    SAVES: "comes back at {piece} from now on",
    FINISHES: "the level is finished at {piece}",
    RESTARTS: "the level begins again",
    STEPPED: "steps {amount:.4g} {unit} up onto {piece}",
}
# These say more by their second number.
CODED = {
    PASSES: {
        DROPPED: "drops through {piece}: down and jump were pressed on it",
        CLIMBED: "climbs through {piece}: a one-way piece lets through who holds a ladder",
        FROM_BEHIND: "passes through {piece}: it is solid from its other side alone, and is met from behind",
        FROM_ASIDE: "passes through {piece}: it is solid from one side alone, and the body is not wholly on that side",
    },
    CLIMB: {
        TAKES_HOLD: "takes hold of {piece}",
        AT_BOTTOM: "lets go at the bottom of {piece}",
        ON_TOP: "stands on the top of {piece}",
        JUMPS_OFF: "jumps off {piece}",
        LETS_GO: "lets go of {piece}",
    },
    REFUSED: {
        TOO_MANY: "{who} makes none: as many are there as may be",
        COOLING: "nothing is fired: the cooldown is not over",
        NOT_THERE: "nothing is made: {who} is not there",
    },
    VANISHES: {
        BROKE: "{who} breaks on {piece}",
        TIMED_OUT: "{who} has lasted its time",
        LEFT_BOUNDS: "{who} has left the bounds",
        REMOVED: "{who} is taken away",
    },
    WRAP: {float(number): f"crossed the {side} edge and came back opposite" for number, side in enumerate(SIDES)},
    LOST: {float(number): f"its centre crossed the {side} edge of the bounds" for number, side in enumerate(SIDES)}
    | {BY_HARM: "no health is left"},
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
        return f"{piece} takes {amount:.4g} points of health" + (", all of it" if more == math.inf else "")
    if kind == COLLECTS and who != PLAYER:
        return f"{who} takes {piece}, worth {amount:g}"
    sentence = CODED[kind][more] if kind in CODED else PLAIN.get(kind, "")
    return sentence.format(who=who, piece=piece, amount=amount, more=more, unit=unit)
