"""Mistakes of a first hour, each with its sentence; the level next to it, without the mistake, has none."""

from __future__ import annotations

import copy
import json

import pytest

import haptos

SOUND = {
    "world": {
        "bounds": {"corners": [-300, -200, 300, 300], "left": "wall", "right": "wall", "top": "wall", "bottom": "lost"}
    },
    "player": {"at": [0, 14]},
    "counters": {"oil": {"rewards": [{"every": 2, "lives": 1}]}},
    "kinds": {
        "plank": {"layer": "ledge", "shape": {"box": [48, 8]}, "crumble": {"delay": 0.5, "returns_after": 2}},
        "drop": {"shape": {"circle": 5}, "pickup": {"counter": "oil"}},
    },
    "pieces": [
        {"name": "floor", "shape": {"corners": [-300, -40, 300, 0]}},
        {"name": "plank", "kind": "plank", "at": [-200, 40], "copies": [[-140, 60]]},
        {"name": "drop", "kind": "drop", "at": [60, 30], "copies": [[90, 30]]},
        {"name": "rigging", "ladder": {}, "shape": {"box": [16, 96]}, "at": [200, 48]},
        {"name": "loft", "solid_from": "above", "shape": {"box": [90, 8]}, "at": [253, 92]},
        {
            "name": "lift",
            "shape": {"box": [48, 8]},
            "at": [-60, 60],
            "route": {"stops": [[0, 0], [0, 40]], "speed": 40},
        },
        {"name": "tar", "layer": "zone", "shape": {"box": [30, 12]}, "at": [120, 6], "field": {"speed_factor": 0.5}},
        {"name": "lamp", "checkpoint": {"respawn_at": [0, 20]}, "shape": {"box": [20, 40]}, "at": [-240, 20]},
        {"name": "door", "finish": {}, "shape": {"box": [20, 40]}, "at": [260, 120]},
    ],
    "rules": [{"when": "land", "piece": "kind:plank", "do": [{"say": "it creaks"}]}],
}
PIECES = [piece["name"] for piece in SOUND["pieces"]]


def spoilt(change):
    """The sound level with other values, by paths such as ``pieces.tar.layer``; None takes a key away."""
    data = copy.deepcopy(SOUND)
    for path, value in change.items():
        here, *keys = data, *path.split(".")
        for key in keys[:-1]:
            here = here[PIECES.index(key)] if isinstance(here, list) else here.setdefault(key, {})
        if isinstance(here, list):
            here.append(value)
        elif value is None:
            del here[keys[-1]]
        else:
            here[keys[-1]] = value
    return data


def piece(name, **facets):
    return {f"pieces.{name}": {"name": name, **facets}}


MISTAKES = {
    # What can't act.
    "facet-ignored": (
        {"pieces.tar.layer": "shot"},
        "pieces[6] 'tar', field: it can never act: it acts on who is inside, but the piece is ignored by the player",
    ),
    "facet-wrong-sort": ({"pieces.rigging.layer": "terrain"}, "'rigging', ladder: it can never act: it is climbed"),
    "a crumbling zone": (
        {"kinds.plank.layer": "zone"},
        "'plank', crumble: it can never act: it gives way under who stands on it, but the piece is only felt by the "
        "player; make the layers 'body' and 'zone' solid to each other (also 'plank 2')",
    ),
    "a side of what is felt": ({"pieces.loft.layer": "zone"}, "'loft', solid_from: it can never act"),
    "zone-unheard": (
        piece("mist", layer="zone", shape={"box": [9, 9]}, at=[0, 60]),
        "'mist': the player only feels it, and nothing comes of that",
    ),
    # Where things are.
    "out-of-bounds": (piece("attic", shape={"box": [9, 9]}, at=[0, 400]), "'attic': it lies wholly outside of the"),
    "route-out-of-bounds": (
        {"pieces.lift.route.stops": [[0, 0], [0, 400]]},
        "'lift', route.stops: its way leads wholly out of the bounds, to (-60, 460) after 10 s",
    ),
    "stops-absolute": (
        {"pieces.lift.route.stops": [[-60, 60], [-60, 100]]},
        "the first stop (-60, 60) looks like a place in the level, but stops are relative to `at`: it begins at (-120",
    ),
    "first-stop": ({"pieces.lift.route.stops": [[0, 10], [0, 40]]}, "the first stop is (0, 10), not [0, 0]"),
    "respawn-far": (
        {"pieces.lamp.at": [120, 20], "pieces.lamp.checkpoint.respawn_at": [130, 20]},
        "'lamp', checkpoint.respawn_at: (130, 20) looks like a place in the level, but it is relative to the piece: "
        "the player comes back at (250, 40)",
    ),
    "squeezes": (
        {"pieces.lift.at": [-60, 240], "pieces.lift.route.stops": [[0, 0], [0, 45]]},
        "it squeezes the player against 'bounds/top': after 1.12 s of its way it leaves 11 where the body needs 28",
    ),
    "ladder-cut": (
        piece("shelf", shape={"box": [60, 8]}, at=[200, 60]),
        "'rigging': it goes through 'shelf' at (200, 60), which is solid: a body that climbs stops below",
    ),
    "start-above-nothing": (
        {"world.gravity": [0, 1800], "world.bounds": {"corners": [-300, -200, 300, 300]}},
        "gravity [0, 1800] points away from what is solid on the other side: is its sign meant?",
    ),
    # Numbers.
    "a crawl": ({"player.gaits.walk": 0.25}, "player.gaits.walk: 0.25 px/s needs 112 s for the body's own height"),
    "a flash": ({"player.gaits.sprint": 30000}, "30000 px/s is 1.07e+03 times the body's height a second"),
    "frames for seconds": (
        {"player.jump.coyote_time": 6},
        "player.jump.coyote_time: 6 s is far more than a slip of the finger; '6 frame' would be 0.1 s",
    ),
    "a standstill": ({"pieces.tar.field.speed_factor": 0}, "'tar', field.speed_factor: 0 means that who is"),
    "per cent": ({"pieces.tar.field.speed_factor": 50}, "50 makes 7500 px/s of the walk of 150"),
    "metres for pixels": ({"world.length_unit": "m"}, "player.shape: the body is 28 m tall; is length_unit = 'px'"),
    # What there is to win.
    "finish-out-of-reach": (
        {"pieces.door.at": [260, 260]},
        "'door', finish: the level can't be finished by it: no jump from anywhere in reach gets to it",
    ),
    "pickup-out-of-reach": (
        piece("star", kind="drop", at=[-20, 280]),
        "'star', pickup: it can't be taken: no jump from anywhere in reach gets to it",
    ),
    "reward-unearned": (
        {"counters.oil.rewards": [{"every": 3, "lives": 1}]},
        "counters.oil.rewards[0]: it is given for each 3, but there are only 2 to be had in the level",
    ),
    # Passages.
    "narrow-passage": (
        piece("wall", shape={"corners": [-260, 20, -250, 300]}),
        "a passage 20 wide at (-255, 10) between ",
    ),
}  # fmt: skip


def test_a_sound_level_has_no_finding():
    assert haptos.check(haptos.Level(**SOUND)) == []


@pytest.mark.parametrize("mistake", MISTAKES)
def test_a_mistake_of_the_first_hour_is_told(tool, tmp_path, mistake):
    change, sentence = MISTAKES[mistake]
    file = tmp_path / "attic.json"
    file.write_text(json.dumps(spoilt(change)))
    _, out, err = tool("check", file)
    assert err == ""
    assert sentence in " ".join(out.split())
    assert "-" not in mistake or f"[{mistake}]" in out


def test_a_kinds_route_may_wait_for_a_rule_of_the_same_placing():
    door = {
        "shape": {"box": [8, 40]}, "route": {"stops": [[0, 0], [0, 60]], "speed": 60, "waits_for": "self/knock"},
        "rules": [{"name": "knock", "when": "touch", "piece": "self", "do": [{"say": "in"}]}],
    }  # fmt: skip
    pieces = [
        SOUND["pieces"][0],
        *({"name": name, "kind": "door", "at": [x, 20]} for name, x in (("east", 60), ("west", -60))),
    ]
    run = haptos.simulate(haptos.Level(player={"at": [0, 14]}, kinds={"door": door}, pieces=pieces), "right 1 s")
    rows = run.pieces[run.pieces["tick"] == run.ticks].set_index("piece")
    touched = run.events[run.events["event"] == "touch"].set_index("piece")["t"]
    assert rows["y"]["east"] == pytest.approx(20 + 60 * (1 - touched["east"]), abs=1e-6)
    assert rows["y"]["west"] == 20


def test_a_narrow_passage_is_a_warning_only_where_a_room_lies_behind_it():
    room = [
        {"name": "floor", "shape": {"corners": [-200, -20, 200, 0]}},
        {"name": "wall", "shape": {"corners": [80, 20, 90, 200]}},
    ]
    bounds = {"corners": [-200, -40, 200, 200], "left": "wall", "right": "wall", "top": "wall", "bottom": "wall"}
    level = haptos.Level(world={"bounds": bounds}, player={"at": [0, 14]}, pieces=room)
    (found,) = (one for one in haptos.check(level) if one.code == "narrow-passage")
    assert found.severity == "warning"
    assert "a passage 20 wide" in found.message
    assert "between 'wall' and 'floor'" in found.message or "between 'floor' and 'wall'" in found.message
    roofless = level.changed({"pieces.wall.shape.corners": [80, 20, 90, 150]})
    (found,) = (one for one in haptos.check(roofless) if one.code == "narrow-passage")
    assert found.severity == "note"


def test_numbers_and_words_of_a_run_are_exact():
    level = haptos.Level(
        world={"tick_rate": 24}, player={"at": [0, 14]},
        pieces=[SOUND["pieces"][0], {"name": "lamp", "shape": {"box": [20, 40]}, "at": [40, 20], "harm": {}}],
        rules=[{"when": "apex", "do": [{"finish": True}]}],
    )  # fmt: skip
    run = haptos.simulate(level, "jump 1 s")
    assert run.summary()["highest"] == pytest.approx(14 + 72, abs=1e-9)
    assert run.events["detail"][run.events["event"] == "finish"].item() == "a rule finishes the level"
    hurt = haptos.simulate(level, "right 1 s").events
    assert hurt["detail"][hurt["event"] == "hurt"].iloc[0] == "lamp takes 1 point of health"
