"""Random levels with loose bodies, what is wrong with a run of one, and the energy of what is left to itself."""

from __future__ import annotations

from typing import Any

import numpy as np

import haptos

G = 1800.0
SHAPES: list[dict[str, Any]] = [
    {"box": [30, 30]},
    {"circle": 12},
    {"capsule": [14, 34]},
    {"box": [60, 10]},
    {"polygon": [[0, 0], [30, 0], [0, 30]]},
]
SOLIDS: list[dict[str, Any]] = [{"box": [60, 12]}, {"circle": 15}, {"capsule": [20, 60]}]
DOINGS: list[dict[str, Any]] = [
    {},
    {"solid_from": "above"},
    {"route": {"stops": [[0, 0], [80, 60]], "speed": 90}},
    {"spin": {"speed": 60}},
    {"surface": {"conveyor": 80}},
]
HINGES: list[dict[str, Any]] = [
    {},
    {"limits": [-60, 60]},
    {"motor": {"speed": 90, "max_torque": 1e6}},
    {"hold": {"stiffness": 1e6, "damping": 1e5}},
]
PLAYERS: list[dict[str, Any]] = [{"capsule": [14, 28]}, {"box": [14, 28]}, {"circle": 14}]
MOVES = ["right", "left", "right+jump", "left+jump", "right+sprint", "wait", "jump", "down", "up"]
HALF, LOW, HIGH = 450, -16, 500


def _solid(draw: np.random.Generator, number: int) -> dict[str, Any]:
    at = [float(draw.uniform(-350, 350)), float(draw.uniform(0, 200))]
    turn = float(draw.choice([0, 0, 30, -20]))
    shape, doing = SOLIDS[draw.integers(3)], DOINGS[draw.integers(5)]
    return {"name": f"ledge {number}", "at": at, "turn": turn, "shape": shape, **doing}


def _body(draw: np.random.Generator, number: int) -> dict[str, Any]:
    at = [float(draw.uniform(-350, 350)), float(draw.uniform(10, 300))]
    turn, shape = float(draw.choice([0, 0, 45])), SHAPES[draw.integers(5)]
    facet = {
        "restitution": float(draw.choice([0, 0, 0.5, 1])), "friction": float(draw.choice([0, 0.5, 1])),
        "mass": float(draw.choice([1, 10, 40, 200])),
        "velocity": [float(draw.normal(0, 100)), float(draw.normal(0, 100))], "spin": float(draw.normal(0, 100)),
    }  # fmt: skip
    piece = {"name": f"trunk {number}", "at": at, "turn": turn, "shape": shape, "body": facet}
    if draw.random() < 0.25:
        piece["hinge"] = {"at": [float(draw.uniform(-10, 10)), 0], **HINGES[draw.integers(4)]}
    return piece


def scene_of(seed: int) -> tuple[haptos.Level, str]:
    """Return a level between four walls, in the side view or seen from above, and what the player does in it."""
    draw = np.random.default_rng(seed)
    view = "top" if draw.random() < 0.3 else "side"
    pieces: list[dict[str, Any]] = [{"name": "floor", "at": [0, -8], "shape": {"box": [2 * HALF, 16]}}]
    pieces += [_solid(draw, number) for number in range(int(draw.integers(0, 5)))]
    pieces += [_body(draw, number) for number in range(int(draw.integers(1, 12)))]
    edges = {"corners": [-HALF, LOW, HALF, HIGH], **dict.fromkeys(("left", "right", "top", "bottom"), "wall")}
    level = haptos.Level(
        world={"gravity": [0, -G], "view": view, "bounds": edges},
        player={"at": [0, 14], "shape": PLAYERS[seed % 3]}, pieces=pieces,
    )  # fmt: skip
    return level, ", ".join(f"{MOVES[draw.integers(len(MOVES))]} 20 frame" for _ in range(20))


def flaws_of(run: haptos.Run) -> list[str]:
    """Return what is wrong with a run: a stall, who is no number or out of the walls, disorder, a second touch."""
    events, path = run.events, run.pieces[run.pieces.piece.str.startswith("trunk")]
    flaws = ["stall"] if (events.event == "stall").any() else []
    if not np.isfinite(path[["x", "y", "vx", "vy", "spin"]].to_numpy()).all():
        flaws.append("no number")
    # What a lift squeezes against a wall, two hundred times its mass behind it, comes back out of that.
    if not (path.x.between(-HALF - 20, HALF + 20) & path.y.between(LOW - 20, HIGH + 20)).all():
        flaws.append("out of the walls")
    if (events.t.diff().dropna() < -1e-9).any():
        flaws.append("disorder")
    meetings = events[events.event.isin(["touch", "part"])]
    if (meetings.event == meetings.groupby(["who", "piece"]).event.shift()).any():
        flaws.append("the same twice")
    return flaws


def closed_scene_of(seed: int) -> haptos.Level:
    """Return a level of bodies between four walls that nothing drives: seen from above, the player elsewhere."""
    draw = np.random.default_rng(seed)
    walls = {
        "left": [-270, 0, 20, 560],
        "right": [270, 0, 20, 560],
        "low": [0, -270, 560, 20],
        "high": [0, 270, 560, 20],
    }
    pieces: list[dict[str, Any]] = [
        {"name": name, "at": [x, y], "shape": {"box": [wide, high]}} for name, (x, y, wide, high) in walls.items()
    ]
    bounces, rubs = float(draw.choice([0, 0.5, 1])), float(draw.choice([0, 0.5]))
    for number in range(int(draw.integers(3, 9))):
        at = [-180 + 120 * (number % 4) + float(draw.uniform(-15, 15)), -120 + 120 * (number // 4)]
        facet = {
            "restitution": bounces, "friction": rubs, "mass": float(draw.choice([1, 10, 40])),
            "velocity": draw.normal(0, 300, 2).tolist(), "spin": float(draw.normal(0, 300)),
        }  # fmt: skip
        piece = {"name": f"trunk {number}", "at": at, "shape": SHAPES[draw.choice([0, 1, 3])], "body": facet}
        if draw.random() < 0.4:
            piece["hinge"] = {"at": [float(draw.uniform(-8, 8)), 0], **HINGES[draw.integers(2)]}
            facet["velocity"] = [0, 0]
        pieces.append(piece)
    return haptos.Level(world={"view": "top"}, player={"at": [0, 900]}, pieces=pieces)


def gain_of(level: haptos.Level, run: haptos.Run) -> float:
    """Return the most that the energy of motion of all bodies, boxes and circles, grows by, as a share of the first.

    Who is struck at the end of a tick is told to move in the next one: three ticks are looked at together.
    """
    energy = np.zeros(run.ticks)
    for piece in level.pieces:
        if piece.body is None:
            continue
        mass = piece.body.mass
        if piece.shape.circle is not None:
            inertia = mass * piece.shape.circle**2 / 2
        else:
            inertia = mass * (piece.shape.box[0] ** 2 + piece.shape.box[1] ** 2) / 12
        path = run.pieces[run.pieces.piece == piece.name].set_index("tick").reindex(range(1, run.ticks + 1))
        # Who sleeps has no rows, and no energy.
        path = path.fillna({"vx": 0.0, "vy": 0.0, "spin": 0.0})
        spin = np.radians(path.spin.to_numpy())
        energy += 0.5 * mass * (path.vx**2 + path.vy**2).to_numpy() + 0.5 * inertia * spin**2
    before = np.maximum.reduce([energy[:-3], energy[1:-2], energy[2:-1]])
    return float((energy[3:] - before).max() / energy[0])
