"""Draw the rooms of the package and who imports whom: `docs/rooms.png`."""

from __future__ import annotations

import ast
from collections import defaultdict
from pathlib import Path

from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure
from matplotlib.patches import FancyBboxPatch

SOURCE = Path(__file__).parents[1] / "src" / "haptos"
PAPER, INK, FAINT, OWN, INNER = "#fbfaf6", "#23282e", "#8a929b", "#dfe7ee", "#f3e4cf"
# Files that every room may use.
COMMON = ("errors", "writing")
WIDTH, HEIGHT = 0.86, 0.52


def room_of(module: str) -> str:
    """Return the room of a module: a folder, or one of the engine's inner ones; `engine` for its own files."""
    parts = module.split(".")
    if (parts[0] == "engine" and len(parts) > 2) or (parts[0] == "engine" and (SOURCE / "engine" / parts[-1]).is_dir()):
        return f"engine/{parts[1]}"
    return parts[0]


def imports() -> tuple[dict[str, set[str]], dict[str, int]]:
    """Return which rooms each room imports from, and how many files it has."""
    found: dict[str, set[str]] = defaultdict(set)
    files: dict[str, int] = defaultdict(int)
    for path in SOURCE.rglob("*.py"):
        module = path.relative_to(SOURCE).with_suffix("").as_posix().replace("/", ".").removesuffix(".__init__")
        own = room_of(module)
        if own in (*COMMON, "__init__"):
            continue
        files[own] += path.name != "__init__.py"
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("haptos."):
                other = room_of((node.module or "").removeprefix("haptos."))
                if other != own and other not in COMMON:
                    found[own].add(other)
    return found, files


def depth(room: str, found: dict[str, set[str]], above: tuple[str, ...] = ()) -> int:
    """Return how many rooms are below a room at most; raise where rooms import each other in a circle."""
    if room in above:
        raise ValueError(f"found the circle {' → '.join([*above, room])}, expected imports one way")
    return 1 + max((depth(other, found, (*above, room)) for other in found[room]), default=-1)


def below(room: str, found: dict[str, set[str]]) -> set[str]:
    """Return all that a room imports from, directly or not."""
    return found[room].union(*(below(other, found) for other in found[room]))


def nearest(found: dict[str, set[str]]) -> dict[str, set[str]]:
    """Return the imports of each room without those that lead where another one leads too."""
    return {
        room: {one for one in others if not any(one in below(other, found) for other in others)}
        for room, others in list(found.items())
    }


def draw(path: Path) -> None:
    """Draw every room above all that it imports from."""
    found, files = imports()
    rows: dict[int, list[str]] = defaultdict(list)
    for room in files:
        rows[depth(room, found)].append(room)
    figure = Figure(figsize=(12.8, 8.0), dpi=100, facecolor=PAPER)
    FigureCanvasAgg(figure)
    ax = figure.add_axes((0.02, 0.02, 0.96, 0.9))
    places = {}
    for level, rooms in rows.items():
        for number, room in enumerate(sorted(rooms)):
            # Every other row is shifted, so that arrows do not run through rooms.
            places[room] = (number - (len(rooms) - 1) / 2) * 1.5 + (0.35 if level % 2 else -0.35), level
    for room, others in nearest(found).items():
        for other in others:
            (x0, y0), (x1, y1) = places[room], places[other]
            arrow = {"arrowstyle": "-|>", "color": FAINT, "linewidth": 0.8, "alpha": 0.75, "shrinkA": 0, "shrinkB": 2}
            ax.annotate("", (x1, y1 + HEIGHT / 2), (x0, y0 - HEIGHT / 2), arrowprops=arrow)
    for room, (x, y) in places.items():
        inner = room.startswith("engine")
        box = FancyBboxPatch(
            (x - WIDTH / 2, y - HEIGHT / 2), WIDTH, HEIGHT, boxstyle="round,pad=0.04", edgecolor=INK, linewidth=0.9,
            facecolor=INNER if inner else OWN,
        )  # fmt: skip
        ax.add_patch(box)
        ax.text(x, y + 0.08, room.removeprefix("engine/"), ha="center", va="center", color=INK, fontsize=12)
        ax.text(
            x,
            y - 0.16,
            f"{files[room]} file{'s' if files[room] > 1 else ''}",
            ha="center",
            va="center",
            color=INK,
            fontsize=8,
        )
    xs = [x for x, _ in places.values()]
    ax.set_xlim(min(xs) - 0.7, max(xs) + 0.7)
    ax.set_ylim(-0.5, max(rows) + 0.5)
    ax.set_axis_off()
    title = "The rooms of Haptos, those of the engine in a warm colour: each stands above all that it imports from"
    figure.text(0.02, 0.95, title, color=INK, fontsize=13)
    figure.savefig(path)


if __name__ == "__main__":
    draw(Path(__file__).parent / "rooms.png")
