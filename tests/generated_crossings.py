"""Random levels in which every facet meets every other: whoever it acts on, however it came to be there."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

import numpy as np

import haptos

Draw = np.random.Generator
Data = dict[str, Any]

PLAYERS: list[Data] = [{"capsule": [14, 28]}, {"box": [14, 28]}, {"circle": 12}]
SHAPES: list[Data] = [
    {"box": [48, 16]}, {"box": [16, 48]}, {"box": [24, 24]}, {"circle": 12}, {"capsule": [40, 16]},
    {"polygon": [[-16, -8], [24, -8], [0, 24]]}, {"polygon": [[-20, 0], [20, 0], [20, 20], [8, 20], [8, 8], [-20, 8]]},
    {"line": [[-30, 0], [30, 0]]},
]  # fmt: skip
HELD = (
    "", "right", "left", "up", "down", "jump", "right+jump", "left+jump", "down+jump", "right+sprint", "act",
    "right+act", "up+right", "left+sprint+jump",
)  # fmt: skip
UNTIL = ("land", "x > 40", "jump", "touch", "ledge", "vy < 0", "apex", "stance == air")
GRAVITIES: list[Data] = [
    {"flip": True}, {"flip": True, "lasts": "toggle"}, {"flip": True, "lasts": "after"}, {"vector": [900, 300]},
    {"vector": [0, 1500], "lasts": "after"}, {"toward": True, "strength": 1500},
    {"toward": True, "strength": 900, "falloff": "linear", "reference": 60, "core": 10},
    {"toward": True, "strength": -700, "lasts": "toggle"},
]  # fmt: skip
BODIES: list[Data] = [
    {"mass": 1, "restitution": 0.7}, {"mass": 20, "friction": 0.5}, {"mass": 200, "spin": 200.0}, {"turns": False},
]  # fmt: skip
TILES: list[Data] = [
    {}, {"solid_from": "above"}, {"surface": {"conveyor": 80}}, {"layer": "zone", "field": {"gravity": {"flip": True}}},
    {"harm": {}}, {"crumble": {}}, {"launch": {"height": 40}}, {"checkpoint": {}}, {"layer": "zone", "ladder": {}},
]  # fmt: skip
# What the faulty part of a level is, by the place that its error names.
FAULTY = re.compile(r"^(player\.pieces|pieces|rules|kinds\.(\w+))(?:\[(\d+)\])?")
# What a piece may do without.
SHED = {
    "pieces", "parent", "copies", "crumble", "route", "spin", "drift", "fragile", "spawner", "pickup", "launch",
    "ladder", "surface", "field", "body", "solid_from", "layer", "rules", "checkpoint", "harm", "turn", "scale",
}  # fmt: skip
HOLDS = re.compile(r"found (player\.pieces|pieces)(x?)\[(\d+)\].* which holds")


def level_of(seed: int) -> haptos.Level:
    """Return the level of a seed; what can't be in it, by the level's own word, is left out."""
    data = data_of(seed)
    while True:
        try:
            return haptos.Level(**data)
        except haptos.LevelError as error:
            _leave_out(data, error)


def _leave_out(data: Data, error: haptos.LevelError) -> None:
    """Leave out the parts of a level that an error is about."""
    matches = [match for one in error.all for match in (FAULTY.match(one.place), HOLDS.search(one.message)) if match]
    found = {(match[1], match[2], match[3]) for match in matches}
    if match := re.match(r"player\.(shot|never_meets)", error.place):
        data["player"].pop(match[1])
    elif error.place.startswith("map"):
        data.pop("map")
    elif not found:
        raise error
    for where, kind, number in sorted(found, key=lambda one: int(one[2] or 0), reverse=True):
        rows = data["player"]["pieces"] if where == "player.pieces" else data.get(where, data["kinds"])
        number = kind or int(number or 0)
        said = [key for key in rows[number] if key in SHED and (key in error.place or key in error.message)]
        if said:
            del rows[number][said[-1]]
        elif kind:
            rows[kind] = {"shape": {"box": [16, 16]}}
        else:
            del rows[number]


def data_of(seed: int) -> Data:
    """Return the same as it would stand in a file, faults included."""
    draw = np.random.default_rng(seed + 7_000_000)
    view = "top" if draw.random() < 0.2 else "side"
    sides = {side: str(draw.choice(["wall", "wall", "open", "lost"])) for side in ("left", "right", "top", "bottom")}
    if draw.random() < 0.15:
        sides |= {"left": "wrap", "right": "wrap"}
    world: Data = {
        "view": view, "seed": seed, "tick_rate": int(draw.choice([60, 60, 60, 30, 240])),
        "bounds": {"corners": [-240, -160, 240, 200], **sides},
    }  # fmt: skip
    if view == "side":
        world["lost_below"] = -400
    if draw.random() < 0.1:
        world["method"] = str(draw.choice(["semi-implicit-euler", "velocity-verlet"]))
    if draw.random() < 0.15:
        world["gravity"] = [[1200.0, -900.0], [0.0, 1800.0], [0.0, -200.0]][draw.integers(3)]
    kinds = {f"kind{number}": _kind(draw, number) for number in range(4)}
    kinds["tile"] = TILES[draw.integers(len(TILES))]
    pieces = [{"name": "floor", "at": [0, -40], "shape": {"box": [400, 16]}}]
    for number in range(int(draw.integers(3, 10))):
        pieces.append(_piece(draw, f"piece {number}", kinds))
        if draw.random() < 0.12:
            pieces.append({**pieces[-1], "name": f"twin {number}"})
    names = [piece["name"] for piece in pieces]
    for piece in pieces[1:]:
        if draw.random() < 0.12:
            piece["parent"] = "player" if draw.random() < 0.5 else str(draw.choice(names))
    player: Data = {
        "at": [float(draw.integers(-100, 100)), float(draw.integers(-10, 60))], "shape": PLAYERS[draw.integers(3)],
        "crush": {"lethal": bool(draw.random() < 0.5), "points": 1}, "health": {"points": 3, "mercy_time": 0.1},
        "on_death": str(draw.choice(["respawn", "respawn", "restart", "end"])), "jump": {"extra_jumps": 1},
    }  # fmt: skip
    if draw.random() < 0.4:
        player["pieces"] = [_piece(draw, f"held {number}", kinds) for number in range(int(draw.integers(1, 3)))]
        for piece in player["pieces"]:
            piece["at"] = [float(one) for one in draw.integers(-20, 20, 2)] if draw.random() < 0.7 else [0, 0]
            piece.pop("copies", None)
    if draw.random() < 0.5:
        player["shot"] = {"kind": f"kind{draw.integers(4)}", "speed": 300, "cooldown": 0.1, "limit": 3}
    if draw.random() < 0.2:
        player["turn_rate"] = 720
    if draw.random() < 0.2:
        player["never_meets"] = [str(draw.choice(names))]
    data: Data = {
        "world": world, "player": player, "kinds": kinds | {"stone": {}}, "pieces": pieces,
        "counters": {"oil": {"rewards": [{"every": 2, "lives": 1, "spend": True}]}},
        "rules": [_rule(draw, names, kinds) for _ in range(int(draw.integers(0, 6)))],
    }  # fmt: skip
    if draw.random() < 0.3:
        data["map"] = {
            "tile": 16, "at": [-96, -64], "rows": "....==..\n##....##\n########",
            "signs": {"#": "stone", "=": "tile"},
        }  # fmt: skip
    return data


def _kind(draw: Draw, number: int) -> Data:
    """Return a kind that may be placed, made while the level runs, or drawn as tiles."""
    kind: Data = {"shape": SHAPES[draw.integers(len(SHAPES) - 1)], "marks": ["lit"] if draw.random() < 0.3 else []}
    # More of what is made flies, breaks or is loose.
    if draw.random() < 0.6:
        kind["drift" if draw.random() < 0.5 else "body"] = {"velocity": [float(draw.integers(-200, 200)), 60.0]}
        if draw.random() < 0.5:
            kind["fragile"] = {"on": ["terrain", "prop"], "hits": int(draw.integers(1, 3))}
    for name, facet in _facets(draw):
        kind.setdefault(name, facet)
    if draw.random() < 0.3:
        child = {"name": "child", "at": [float(draw.integers(-16, 16)), 12.0], "shape": {"circle": 6}}
        kind["pieces"] = [child | dict(_facets(draw))]
    if draw.random() < 0.2:
        when = str(draw.choice(["enter", "touch", "vanish"]))
        kind["rules"] = [{"when": when, "piece": "self", "who": "other", "do": [{"say": "met"}]}]
    if number > 1 and draw.random() < 0.4:
        kind["based_on"] = f"kind{number - 1}"
    return kind


def _piece(draw: Draw, name: str, kinds: Data) -> Data:
    at = [float(one) * 8 for one in draw.integers(-13, 13, 2)]
    piece: Data = {"name": name, "at": at, "shape": SHAPES[draw.integers(len(SHAPES))], **dict(_facets(draw))}
    if draw.random() < 0.3:
        piece = {"name": name, "at": at, "kind": str(draw.choice(list(kinds)))}
        piece |= dict(_facets(draw)) if draw.random() < 0.3 else {}
    if draw.random() < 0.2:
        piece["turn"] = float(draw.integers(0, 24) * 15)
    if draw.random() < 0.15:
        piece["scale"] = float(draw.choice([0.5, 2.0]))
    if draw.random() < 0.1:
        piece["copies"] = [[at[0] + 64, at[1]]]
    if draw.random() < 0.1:
        piece["active"] = False
    if draw.random() < 0.2:
        piece.setdefault("pieces", []).append({"name": "arm", "at": [24, 0], **_piece(draw, "arm", {"kind0": {}})})
        piece["pieces"][-1]["name"] = "arm"
        piece["pieces"][-1]["at"] = [float(draw.integers(-24, 24)), 8.0]
    return piece


def _facets(draw: Draw) -> Iterator[tuple[str, Data | str]]:
    """Yield facets for one piece, one or two for most."""
    is_loose = draw.random() < 0.3
    if is_loose:
        yield "body", BODIES[draw.integers(len(BODIES))] | {"velocity": [float(draw.integers(-200, 200)), 0.0]}
    for _ in range(int(draw.choice([0, 1, 1, 1, 2, 2, 3]))):
        name, facet = _facet(draw)
        if not is_loose or name not in ("route", "spin", "crumble", "spawner", "pickup", "body", "ladder"):
            yield name, facet


def _facet(draw: Draw) -> tuple[str, Data | str]:
    number = float(draw.integers(-200, 200))
    facets: list[tuple[str, Data | str]] = [
        ("solid_from", str(draw.choice(["above", "below", "left"]))),
        ("layer", str(draw.choice(["zone", "prop", "ledge", "terrain", "hazard"]))),
        ("surface", [{"restitution": 0.6}, {"friction": 0.2, "conveyor": number}, {"speed_factor": 0.5}][
            draw.integers(3)]),
        ("field", {"gravity": GRAVITIES[draw.integers(len(GRAVITIES))], "rank": int(draw.integers(3))}),
        ("field", [{"push": [number, 50.0], "drag": 1.0}, {"pull": 300.0, "whirl": number}, {"carries": True},
                   {"speed_factor": 0.5, "speed_limit": 60.0, "stacks": True}][draw.integers(4)]),
        ("ladder", {}),
        ("launch", {"height": 50} if draw.random() < 0.5 else {"impulse": 9000, "from": "any", "cooldown": 0.2}),
        ("crumble", {"delay": 0.1, "shake": 1, "gone_after": 0.3, "returns_after": 0.4}),
        ("route", {"stops": [[0, 0], [number / 2, 40], [40, 0]], "speed": 90, "turns": bool(draw.random() < 0.3),
                   "curve": str(draw.choice(["straight", "smooth"])), "mode": str(draw.choice(["loop", "shuttle"]))}),
        ("route", {"stops": [[0, 0], [0, 48]], "speed": 120, "ease": True, "waits_for": "ridden", "mode": "once"}),
        ("spin", {"speed": number, "pivot": [float(draw.integers(-10, 10)), 0.0]}),
        ("pickup", {"counter": "oil", "attract_within": 60, "motion": str(draw.choice(["steady", "ease"])),
                    "blocked_by": ["terrain"], "latched": False}),
        ("pickup", {"by": ["player", "prop"], "worth": 2}),
        ("harm", {"points": 1, "knock": 200, "every": 0.2} if draw.random() < 0.7 else {"lethal": True}),
        ("checkpoint", {"respawn_at": [0, 20]}),
        ("drift", {"velocity": [number, 100.0], "spin": number, "restitution": 0.8, "mass": 2}),
        ("drift", {"velocity": [number, -150.0], "on_exit": str(draw.choice(["vanish", "wrap", "reaim"])),
                   "box": [60, 60]}),
        ("spawner", {"kind": f"kind{draw.integers(4)}", "every": 0.15, "limit": 4, "scale": [0.5, 1.5],
                     "turn": [0, 90], "area": "outside", "aim": {"at": "player", "speed": 150}}),
        ("spawner", {"kind": f"kind{draw.integers(4)}", "every": [0.1, 0.3], "limit": 3, "lasts": 0.3}),
        ("fragile", {"on": [str(draw.choice(["terrain", "prop", "body"]))], "hits": 1}),
    ]  # fmt: skip
    name, facet = facets[draw.integers(len(facets))]
    return name, facet


def _rule(draw: Draw, names: list[str], kinds: Data) -> Data:
    one, other = (str(draw.choice(names)) for _ in range(2))
    kind = f"kind{draw.integers(4)}"
    rule: Data = [
        {"when": "timer", "every": 0.15}, {"when": "start"}, {"when": "touch", "piece": one}, {"when": "jump"},
        {"when": "enter", "piece": one, "who": str(draw.choice(["player", "prop", kind]))}, {"when": "act"},
        {"when": "inside", "piece": one, "every": 0.1}, {"when": "occupied", "piece": one, "who": kind},
        {"when": "land"}, {"when": "spawn"}, {"when": "vanish"}, {"when": "counter", "if": "oil >= 1"},
        {"when": "hurt"}, {"when": "timer", "every": 0.1, "if": f"'{one}'.y > 0 and not '{other}'.active"},
        {"when": "empty", "piece": other, "who": "layer:prop"},
    ][draw.integers(15)]  # fmt: skip
    actions: list[Data] = [
        {"say": "heard"}, {"add": "oil"}, {"spawn": kind, "at": other, "limit": 3},
        {"spawn": kind, "parent": "player", "limit": 2}, {"spawn": kind, "parent": other, "limit": 2, "lasts": 0.2},
        {"spawn": kind, "at": "player", "offset": [0, 40], "limit": 3}, {"remove": other},
        {"kick": 8000, "radius": 120},
        {"set": f"{other}.active", "to": bool(draw.random() < 0.5)}, {"set": "player.gaits.walk", "to": 90},
        {"set": f"{kind}.active", "to": False}, {"respawn": True}, {"set": f"{other}.route.running", "to": False},
        {"set": f"{other}.field.push", "to": [0, 50]}, {"kick": 8000, "radius": 90, "at": one},
    ]  # fmt: skip
    rule["do"] = [actions[draw.integers(len(actions))] for _ in range(int(draw.integers(1, 3)))]
    if draw.random() < 0.06:
        rule["do"] = [{"restart": True}]
        rule["after"] = 0.2
    if draw.random() < 0.3:
        rule["after"] = 0.05
    if draw.random() < 0.2:
        rule["once"] = True
    return rule


def cues_of(level: haptos.Level, seed: int, seconds: float) -> str:
    """Return cues that hold controls, wait for something, put the player somewhere and lay hands on bodies."""
    draw = np.random.default_rng(seed)
    bodies = [piece.name for piece in level.pieces if piece.body is not None]
    parts: list[str] = []
    for _ in range(6):
        held = str(draw.choice(HELD[1:]))
        if draw.random() < 0.3:
            until = draw.choice(UNTIL if level.world.view == "side" else ["x > 40", "touch", "y < 0"])
            parts.append(f"{held} until {until} within {seconds / 6:.9f} s")
        elif draw.random() < 0.12:
            parts.append(f"place {draw.integers(-150, 150)},{draw.integers(-40, 150)}")
        elif draw.random() < 0.3 and bodies:
            name = draw.choice(bodies)
            x, y = draw.integers(-150, 150, 2)
            parts.append(
                f'shove "{name}" by {x * 30},{y * 30}' if draw.random() < 0.4
                else f'{held} {seconds / 6:.9f} s & hand "{name}" to {x},{y}'
            )  # fmt: skip
        else:
            parts.append(f"{held} {seconds / 6:.9f} s")
    return ", ".join(parts)


def played(level: haptos.Level, seed: int, ticks: int) -> Iterator[tuple[str, bytes]]:
    """Play a level, at once and by hand with snapshots; yield what came of it, for comparison bit by bit."""
    try:
        run = haptos.simulate(level, cues_of(level, seed, 0.6 * ticks / level.world.tick_rate))
    except haptos.LevelError as error:
        yield "error", str(error).encode()
        return
    yield from bits_of(run)
    draw = np.random.default_rng(seed)
    simulation = haptos.Simulation(level)
    kept = [simulation.snapshot()]
    for number in range(8):
        try:
            simulation.step(str(draw.choice(HELD)), int(ticks // 20))
        except haptos.LevelError as error:
            yield "error", str(error).encode()
            return
        if number % 3 == 1:
            kept.append(simulation.snapshot())
        if number == 4:
            simulation.place(*(float(one) for one in draw.integers(-100, 100, 2)), 50.0, 0.0)
        if number == 5:
            simulation.restore(kept[draw.integers(len(kept))])
        hit = simulation.first_hit((0, 100), (0.3, -1))
        yield "ray", repr(hit).encode()
        yield "now", repr((simulation.x, simulation.y, simulation.support, simulation.pieces)).encode()
    yield from bits_of(simulation.run)


def bits_of(run: haptos.Run) -> Iterator[tuple[str, bytes]]:
    """Yield all that a run left behind, and what its tables say."""
    for name in ("track_records", "scores", "event_records", "flight_records"):
        yield name, getattr(run, name).tobytes()
    yield "events", run.events.to_csv(index=False).encode()
    yield "pieces", run.pieces.to_csv(index=False).encode()
