"""Record layouts of everything that changes during a run; one block of memory for each world."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from haptos.engine.compiling.contract import constant
from haptos.engine.records import Records
from haptos.engine.records.loose_records import PAIR, POINT, lists_of_pairs
from haptos.engine.records.state_records import CONTACT, TOUCH

# Of a number, and of what processors share, in bytes.
WORD, LINE = 8, 128
# Faces and corners that a body can rest against at once, at first: in the plane two carry it; more meet it at joints.
CONTACTS = 8
# Pieces that it can touch at once, at first.
TOUCHED = 8
# Firings of one rule that can wait for its delay at once.
MOST_WAITING = constant(64)
PLAYER = np.dtype(
    [
        ("tick", "i8"),
        ("x", "f8"),
        ("y", "f8"),
        ("vx", "f8"),
        ("vy", "f8"),
        ("up_x", "f8"),
        ("up_y", "f8"),
        ("handed", "f8"),
        ("gravity_x", "f8"),
        ("gravity_y", "f8"),
        ("facing", "f8"),  # +1 right, -1 left; degrees in the top view
        ("held", "i8"),  # controls during the tick before
        ("stance", "i8"),
        ("support", "i8"),  # outline under the foot, NO_SUPPORT in the air
        ("contacts", "i8"),
        ("touched", "i8"),
        ("air_since", "f8"),
        ("coyote", "i8"),  # walked off an edge and has not jumped since
        ("press_at", "f8"),  # when jump was last pressed
        ("press_armed", "i8"),  # that press has not made a jump yet
        ("cut_armed", "i8"),  # letting go of jump still shortens the rise
        ("jumps_left", "i8"),
        ("stepped", "i8"),  # the last tick in which it stepped up
        ("crushed", "i8"),  # and in which it was squeezed to death: once a tick
        ("peak", "f8"),  # greatest height since the last support
        ("base", "f8"),  # height on the last support
        ("sweep", "i8"),  # counts the sweeps over zones
        ("started", "i8"),
        ("ground", "i8"),  # the outline that carried the body last
        ("ladder", "i8"),  # the ladder that is held, or -1
        ("grip", "i8"),  # up or down was pressed since the last jump off a ladder
        ("on_ledge", "i8"),  # whether the ground is solid from one side alone
        ("dropping", "i8"),  # how many one-way outlines are being dropped through
        ("tuned", "i8"),  # for which ground the factors below hold; STALE after a change
        ("speed_factor", "f8"),
        ("speed_limit", "f8"),
        ("accel_factor", "f8"),
        ("jump_factor", "f8"),
        ("friction", "f8"),  # of the ground, below zero if grip follows the slope alone
        ("conveyor", "f8"),  # speed of the ground, clockwise
        ("belt_x", "f8"),  # velocity of the floor in the top view
        ("belt_y", "f8"),
        ("frame", "i8"),  # the mover that the velocity is relative to, or NO_MOVER
        ("near", "i8"),  # how many movers it can meet in this tick
        ("rides", "i8"),  # the mover that it was said to board, and the piece of it
        ("rides_piece", "i8"),
        ("boards", "i8"),  # the mover that it rides on now, the piece of it, and since when; said once time goes on
        ("boards_piece", "i8"),
        ("boards_since", "f8"),
        ("frame_vx", "f8"),
        ("frame_vy", "f8"),
        ("local_x", "f8"),  # where the body touches it, in its own coordinates
        ("local_y", "f8"),
        ("local_nx", "f8"),  # the normal there
        ("local_ny", "f8"),
        ("foot_x", "f8"),  # from that point to the body's centre
        ("foot_y", "f8"),
        ("foot_nx", "f8"),  # the normal there, in the world
        ("foot_ny", "f8"),
        ("foot_turns", "i8"),  # whether that turns with the mover
        ("carried_x", "f8"),  # where it was carried to; it has moved by itself if it is elsewhere
        ("carried_y", "f8"),
        *((name, "f8") for name in ("found_x", "found_y", "found_vx", "found_vy", "found_gx", "found_gy")),
        ("found_held", "i8"),  # what its contacts were found for, at the end of a tick: nothing has to be found again
        ("found_stance", "i8"),
        ("found_dropping", "i8"),
        ("found_shape", "i8"),
        ("home_x", "f8"),  # where it comes back
        ("home_y", "f8"),
        ("home_facing", "f8"),
        ("home_gravity", "i8"),
        ("saved_at", "i8"),  # the checkpoint that saved last, or -1
        ("health", "f8"),
        ("lives", "f8"),  # infinite without a limit
        ("mercy_until", "f8"),
        ("wanted_x", "f8"),  # the up that gravity asks for
        ("wanted_y", "f8"),
        ("push_x", "f8"),  # acceleration that is no gravity
        ("push_y", "f8"),
        ("drag", "f8"),
        ("terminal_factor", "f8"),
        ("base_gravity", "i8"),  # its source: a field that lasts, or the world
        ("gravity_source", "i8"),  # the one that holds
        ("entries", "i8"),  # into fields, counted
        ("hides_apex", "i8"),  # whether an apex is nothing to speak of
        ("is_blocked", "i8"),  # whether its turn waits for room
        ("shape", "i8"),  # counts how often its core has turned
        ("kick_x", "f8"),  # what rules have thrown it by in this tick
        ("kick_y", "f8"),
        ("stirs", "i8"),  # counts what rules have changed: loose bodies wake at it
        ("among", "i8"),  # whether there are loose bodies
        ("wish", "i8"),  # what a rule asks for at the end of the tick
        ("halted", "i8"),  # why its ticks are no good: rules without end, a table that is too small
        ("over", "i8"),  # why the run does not go on, or 0
        ("era", "i8"),  # ticks before the level began again last; times are counted from there
    ]
)


class State(NamedTuple):
    """The state of one world: arrays over one block of memory, which is copied as a whole.

    Attributes
    ----------
    player : (1,) PLAYER
    contacts : (CONTACTS,) CONTACT
    touched : (TOUCHED,) TOUCH
    segment : (1,) SEGMENT, scratch
    path : (1,) PATH, scratch
    probe : (1,) CONTACT, scratch: what a look down leaves out
    hit : (1,) HIT, scratch
    inside : (zone outlines,) whether the body overlaps each
    seen : (zone outlines,) in which sweep each was looked at last
    visits : (pieces,) how many outlines of each piece it overlaps
    rules : (rules,) RULE_STATE
    firings : (rules with a delay, MOST_WAITING) FIRING, in a ring
    passing : (solid outlines + 1,) which one-way outlines are passed through; the last: all of them
    within : (effect outlines,) whether the body is inside each
    occupied : (fields,) how many outlines of each it is inside
    ready : (launches,) when each works again
    moving : (movers,) POSE
    near : (movers,) which of them the body can meet in this tick
    outlines, faces : (solid outlines,), (faces,) where they are now, if anything moves
    spawning : (spawners,) SPAWNING
    taken : (pickups,) TAKEN
    coming : (1 + pickups,) how many pickups come, and which
    hurting : (harms,) HURTING
    counts : (counters,) COUNT
    given : (rewards,) how many times each was given
    saved : (checkpoints,) whether each has saved
    corners : (n,) CORNER as in the tables, where the body turns
    watching : (watches,) whether each piece is in its zone
    cells : (n,) every number that rules may change; see `haptos.engine.build.changeable`
    zone_outlines, zone_faces, effect_outlines, effect_faces : the same of the zones and the effects
    near_solids, near_zones, near_effects : (1 + outlines that move,) how many are near in this tick, and which
    around_solids, box_solids, and so on : those that stay, as in the tables
    flying, links, heads : of what is free to fly, as in the tables
    due : (1 + flights,) how many of what flies have to look out in this tick, and which
    partakers, pairs, points, heads_of_pairs, pinned, order, loads, immersed, hand, tally, patch, spots :
        Of loose bodies; see `haptos.engine.records.loose_records.Stirred`.
    led : (m,) MOVER as in the tables, where bodies make their movers turn as they will
    """

    player: Records
    contacts: Records
    touched: Records
    segment: Records
    path: Records
    probe: Records
    hit: Records
    inside: NDArray[np.uint8]
    seen: NDArray[np.int64]
    visits: NDArray[np.int64]
    rules: Records
    firings: Records
    passing: NDArray[np.uint8]
    within: NDArray[np.uint8]
    occupied: NDArray[np.int64]
    ready: NDArray[np.float64]
    moving: Records
    near: NDArray[np.int64]
    outlines: Records
    faces: Records
    zone_outlines: Records
    zone_faces: Records
    effect_outlines: Records
    effect_faces: Records
    near_solids: NDArray[np.int64]
    near_zones: NDArray[np.int64]
    near_effects: NDArray[np.int64]
    around_solids: NDArray[np.int64]
    around_zones: NDArray[np.int64]
    around_effects: NDArray[np.int64]
    box_solids: NDArray[np.float64]
    box_zones: NDArray[np.float64]
    box_effects: NDArray[np.float64]
    flying: Records
    links: Records
    heads: NDArray[np.int64]
    due: NDArray[np.int64]
    spawning: Records
    taken: Records
    coming: NDArray[np.int64]
    hurting: Records
    counts: Records
    given: NDArray[np.int64]
    saved: NDArray[np.uint8]
    corners: Records
    watching: NDArray[np.uint8]
    cells: NDArray[np.float64]
    partakers: Records
    pairs: Records
    points: Records
    heads_of_pairs: NDArray[np.int64]
    pinned: Records
    order: NDArray[np.int64]
    loads: NDArray[np.float64]
    immersed: NDArray[np.uint8]
    hand: Records
    tally: Records
    patch: Records
    spots: Records
    led: Records


class Room(NamedTuple):
    """How many contacts and touches of the player, and pairs of shapes of bodies, a world has room for.

    Where a tick has more of one, there is twice the room from then on, and the tick is run again.
    """

    contacts: int
    touches: int
    pairs: int


class World(NamedTuple):
    """One world that runs.

    Attributes
    ----------
    state : State
    memory : (n,) ndarray of bytes, in which every array of the state lies
        The same bytes in every world of a level whose tables are as large: no place in memory is among them.
    """

    state: State
    memory: NDArray[np.uint8]

    def copy(self) -> World:
        """Return a world of its own that is at the same moment."""
        return in_one_block(self.state)

    @property
    def room(self) -> Room:
        """How much there is room for of what is more in some ticks than in others."""
        state = self.state
        return Room(len(state.contacts), len(state.touched), len(state.pairs) // 2)

    def with_room(self, room: Room) -> World:
        """Return the same with other room, no less than is used.

        The pairs stay those that they are; their lists are made anew in each tick.
        """
        state, own = self.state, min(self.room.pairs, room.pairs)
        contacts, touched = np.zeros(room.contacts, dtype=CONTACT), np.zeros(room.touches, dtype=TOUCH)
        for new, old in ((contacts, state.contacts), (touched, state.touched)):
            kept = min(len(new), len(old))
            new[:kept] = old[:kept]
        wider = state._replace(contacts=contacts, touched=touched)
        if room.pairs:
            halves = zip((PAIR, POINT), (state.pairs, state.points), (1, 2), strict=True)
            pairs, points = (_halves(layout, old, each * own, each * room.pairs) for layout, old, each in halves)
            heads = np.full(lists_of_pairs(room.pairs), -1, dtype=np.int64)
            wider = wider._replace(pairs=pairs, points=points, heads_of_pairs=heads)
        return in_one_block(wider)


def _halves(layout: np.dtype[np.void], old: Records, kept: int, room: int) -> Records:
    """Return rows in two halves with other room in each, the first of each half kept."""
    new = np.zeros(2 * room, dtype=layout)
    for half in range(2):
        begin = half * (len(old) // 2)
        new[half * room : half * room + kept] = old[begin : begin + kept]
    return new


def in_one_block(state: State) -> World:
    """Return a copy of a state, all of whose arrays lie in one block of memory.

    Parameters
    ----------
    state : State

    Returns
    -------
    World
    """
    arrays: Any = state
    ends = np.cumsum([-(-array.nbytes // WORD) * WORD for array in arrays]).tolist()
    # Worlds run on several threads at once: what one writes must not lie on a cache line of another.
    room = np.zeros(ends[-1] + 2 * LINE, dtype=np.uint8)
    first = -room.ctypes.data % LINE
    memory = room[first : first + ends[-1]]
    copies: list[Any] = []
    for array, begin in zip(arrays, [0, *ends], strict=False):
        place = memory[begin : begin + array.nbytes]
        copies.append(place.view(array.dtype).reshape(array.shape))
        copies[-1][...] = array
    return World(State(*copies), memory)
