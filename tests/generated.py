"""Random levels as a designer might draw them, and random play in them: pieces that touch, overlap, move and carry."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

import numpy as np

import haptos
from haptos.engine.records.events import STALL
from tests.hall import scaled_player

BODIES: list[dict[str, Any]] = [{"capsule": [14, 28]}, {"circle": 10}, {"box": [14, 28]}]
CUES = (
    "right", "left", "up", "down", "right+jump", "left+jump", "up+left", "down+right", "jump", "right+sprint", "wait",
    "down+jump", "left+sprint+jump",
)  # fmt: skip
# After these a body is, or may be, somewhere else.
EXPLAINS = {"respawn", "step", "crush", "launch", "touch", "part", "land"}
PAIRS = (("touch", "part"), ("enter", "leave"))


def level_of(seed: int, moves: bool = True, tick_rate: int = 60) -> haptos.Level:
    """Return the level of a seed: on a grid of 16, so that corners and edges meet, and walled in."""
    return haptos.Level(**data_of(seed, moves, tick_rate))


def data_of(seed: int, moves: bool = True, tick_rate: int = 60) -> dict[str, Any]:
    """Return the same as it stands in a file."""
    rng = np.random.default_rng(seed)
    pieces: list[dict[str, Any]] = []
    view = "top" if rng.random() < 0.3 else "side"
    for index in range(int(rng.integers(4, 11))):
        piece = {"name": f"piece {index}", **_shape(rng)}
        _add_facets(rng, piece, view)
        if moves and rng.random() < 0.4:
            _add_motion(rng, piece)
        pieces.append(piece)
        if rng.random() < 0.1:
            pieces.append({**piece, "name": f"twin {index}"})
    if view == "side" and rng.random() < 0.15:
        pull = {"name": "pull", "at": [0, 0], "layer": "zone", "shape": {"circle": 500}}
        pieces.append({**pull, "field": {"gravity": {"toward": True, "strength": 1500}}})
    corners = [-320, -240, 320, 240]
    bounds = {"corners": corners, "left": "wall", "right": "wall", "top": "wall", "bottom": "wall"}
    at = [float(rng.integers(-250, 250)), float(rng.integers(150, 210))]
    return {
        "world": {"view": view, "bounds": bounds, "tick_rate": tick_rate},
        "player": {"at": at, "shape": BODIES[seed % 3], "crush": {"lethal": bool(rng.random() < 0.5), "points": 0}},
        "pieces": pieces,
    }


def transformed(data: dict[str, Any], angle: float = 0.0, scale: float = 1.0, side: float = 1.0) -> haptos.Level:
    """Return a level turned by degrees, scaled, and, for a side of -1, mirrored; its walls become pieces."""
    cosine, sine = math.cos(math.radians(angle)), math.sin(math.radians(angle))

    def put(point: Any) -> list[float]:
        x, y = side * scale * point[0], scale * point[1]
        return [x * cosine - y * sine, x * sine + y * cosine]

    def sized(shape: dict[str, Any]) -> dict[str, Any]:
        if "polygon" in shape:
            return {"polygon": [[side * scale * x, scale * y] for x, y in shape["polygon"]]}
        return {
            form: scale * size if form == "circle" else [scale * one for one in size] for form, size in shape.items()
        }

    walls = [([-340, 0], [40, 560]), ([340, 0], [40, 560]), ([0, -260], [720, 40]), ([0, 260], [720, 40])]
    pieces = [{"name": f"wall {at}", "at": at, "shape": {"box": size}} for at, size in walls]
    found = []
    for piece in [*pieces, *data["pieces"]]:
        new = {**piece, "at": put(piece["at"]), "shape": sized(piece["shape"])}
        new["turn"] = side * piece.get("turn", 0.0) + angle
        if "surface" in piece:
            factor = {"conveyor": side * scale}
            new["surface"] = {key: factor.get(key, 1.0) * value for key, value in piece["surface"].items()}
        if "push" in piece.get("field", {}):
            new["field"] = {"push": put(piece["field"]["push"])}
        if "gravity" in piece.get("field", {}):
            new["field"] = {"gravity": {"toward": True, "strength": scale * 1500}}
        if "launch" in piece:
            new["launch"] = {"height": scale * 60}
        if "spin" in piece:
            new["spin"] = {"speed": side * piece["spin"]["speed"]}
        if "route" in piece:
            route = piece["route"]
            stops = [put(stop) for stop in route["stops"]]
            new["route"] = {**route, "stops": stops, "speed": scale * route["speed"]}
        found.append(new)
    world = {"view": data["world"]["view"], "tick_rate": data["world"]["tick_rate"]}
    # In the top view, which can't be turned, it presses on the floor.
    world["gravity"] = put([0, -1800])
    player = {**data["player"], **scaled_player(scale), "at": put(data["player"]["at"])}
    player["shape"] = sized(player["shape"])
    return haptos.Level(world=world, player=player, pieces=found)


def cues_of(seed: int, count: int = 30) -> str:
    """Return random cues, each of some whole ticks at 60 a second."""
    rng = np.random.default_rng(seed + 10**6)
    words, ticks = rng.choice(CUES, count), rng.integers(4, 60, count)
    return ", ".join(f"{word} {tick / 60:.9f} s" for word, tick in zip(words, ticks, strict=True))


def flaws_of(run: haptos.Run) -> list[str]:
    """Return what must never be in a run, in words."""
    found = []
    track = run.track
    if (run.event_records["kind"] == STALL).any():
        found.append(f"{int((run.event_records['kind'] == STALL).sum())} stalls")
    if not np.isfinite(track[["x", "y", "vx", "vy"]].to_numpy()).all():
        found.append("not a number")
    x0, y0, x1, y1 = run.level.world.bounds.corners
    if not (track.x.between(x0, x1).all() and track.y.between(y0, y1).all()):
        found.append("outside the walls")
    rows = [row for row in run.event_rows if row.who == "player"]
    for begins, ends in PAIRS:
        inside: dict[str, bool] = {}
        for row in rows:
            if row.event in (begins, ends):
                if inside.get(row.piece, False) == (row.event == begins):
                    found.append(f"{row.event} {row.piece} twice at {row.t:.4f}")
                inside[row.piece] = row.event == begins
    found += [f"goes too far at tick {tick}" for tick in _leaps(run)]
    if (depth := _depth(run)) > 1e-3:
        found.append(f"{depth:.2g} body heights deep in what stays")
    rides = [row.event for row in rows if row.event in ("board", "alight")]
    if any(one == other for one, other in pairwise(rides)):
        found.append("boards or alights twice")
    return found


def _leaps(run: haptos.Run) -> list[int]:
    """Return the ticks in which the body went farther than its speed, a step and gravity explain, without an event."""
    track, dt = run.track, 1.0 / run.level.world.tick_rate
    speed = np.hypot(track.vx, track.vy).to_numpy()
    step = np.hypot(np.diff(track.x), np.diff(track.y))
    up = np.arctan2(track.up_y, track.up_x).to_numpy()
    # As the body turns, its middle goes round its foot, or makes room: a body height a radian at most.
    turned = np.abs((np.diff(up) + np.pi) % (2 * np.pi) - np.pi) * float(run.compiled.tables.body["height"][0])
    most = np.maximum(speed[1:], speed[:-1]) * dt + 1800 * dt**2 + 5 + turned
    explained = {row.tick for row in run.event_rows if row.event in EXPLAINS}
    # Who starts inside something is pressed out of it in the first tick.
    return [int(tick) for tick in np.flatnonzero(step > most) + 1 if tick > 1 and tick not in explained]


def _depth(run: haptos.Run) -> float:
    """Return how deep the body comes into what stays and is solid from all sides, at the ends of ticks, in heights."""
    tables = run.compiled.tables
    if tables.world["turns"][0]:
        # Turned, the body is another one.
        return 0.0
    places = run.track[["x", "y"]].to_numpy()
    starts = [0, *(row.tick for row in run.event_rows if row.event == "respawn"), len(places)]
    deepest = 0.0
    for outline in tables.solids.outlines:
        if outline["mover"] >= 0 or outline["side_x"] or outline["side_y"]:
            continue
        faces = tables.solids.faces[outline["first"] : outline["first"] + outline["count"]]
        gap = np.full(len(places), np.inf)
        outside = np.full(len(places), -np.inf)
        for face in faces:
            away = places - [face["x"], face["y"]]
            along = np.clip(away @ [face["tx"], face["ty"]], 0, face["length"])
            gap = np.minimum(gap, np.hypot(*(away - along[:, None] * [face["tx"], face["ty"]]).T))
            outside = np.maximum(outside, away @ [face["nx"], face["ny"]])
        depth = outline["radius"] - np.where((outside < 0) & (len(faces) > 2), -gap, gap)
        # Who starts inside is not held until it has left.
        for begin, end in pairwise(starts):
            out = begin + np.flatnonzero(depth[begin:end] <= 0)
            deepest = max(deepest, float(depth[out[0] : end].max()) if len(out) else 0.0)
    return deepest / float(tables.body["height"][0])


def _shape(rng: np.random.Generator) -> dict[str, Any]:
    x, y = (float(one) * 16 for one in rng.integers(-12, 11, 2))
    w, h = (float(one) * 16 for one in rng.integers(1, 7, 2))
    form = int(rng.integers(0, 6))
    if form <= 1:
        return {"at": [x + w / 2, y + h / 2], "shape": {"box": [w, h]}}
    if form == 2:
        return {"at": [x, y], "shape": {"circle": w / 2}}
    if form == 3:
        return {"at": [x, y], "shape": {"box": [w, h]}, "turn": float(rng.integers(0, 24) * 15)}
    if form == 4:
        return {"at": [x, y], "shape": {"polygon": [[0, 0], [w, 0], [w, h]]}}
    return {"at": [x, y], "shape": {"capsule": [w + 16, 16]}}


def _add_facets(rng: np.random.Generator, piece: dict[str, Any], view: str) -> None:
    chance = rng.random()
    if chance < 0.12 and view == "side":
        piece["solid_from"] = "above"
    elif chance < 0.2:
        piece["surface"] = {"restitution": 0.7}
    elif chance < 0.26:
        piece["surface"] = {"friction": 0.1, "conveyor": float(rng.integers(-60, 60))}
    elif chance < 0.31 and view == "side":
        piece["launch"] = {"height": 60}
    elif chance < 0.36:
        piece["layer"] = "zone"
        piece["field"] = (
            {"speed_factor": 0.5} if rng.random() < 0.5 else {"push": [float(rng.integers(-300, 300)), 0.0]}
        )
    elif chance < 0.4 and view == "side":
        piece.update(layer="zone", ladder={}, shape={"box": [16, 96]})
    elif chance < 0.45:
        piece["crumble"] = {"delay": 0.3, "returns_after": 1.0}


def _add_motion(rng: np.random.Generator, piece: dict[str, Any]) -> None:
    if "ladder" in piece:
        return
    way = [float(one) * 16 for one in rng.integers(-6, 7, 2)]
    if way == [0.0, 0.0]:
        way = [64.0, 0.0]
    if rng.random() < 0.3 and "solid_from" not in piece:
        piece["spin"] = {"speed": float(rng.choice([-120, -40, 15, 60, 200]))}
        return
    stops = [[0.0, 0.0], way]
    if rng.random() < 0.3:
        stops.append([way[1], -way[0]])
    route: dict[str, Any] = {"stops": stops, "speed": float(rng.choice([5, 40, 80, 160, 300]))}
    route["mode"] = str(rng.choice(["shuttle", "loop", "once"]))
    if rng.random() < 0.3:
        route["ease"] = True
    if rng.random() < 0.3:
        route["pause"] = 0.3
    if len(stops) > 2 and rng.random() < 0.4:
        route["curve"] = "smooth"
    if math.hypot(*way) > 0:
        piece["route"] = route
