"""Make the pictures in docs/screenshots anew from the demo data: `make screenshots`."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

import matplotlib
from PIL import Image, ImageDraw, ImageFont

from haptos.demo import demo_file

FOLDER = Path(__file__).parent / "screenshots"
ROOM = "first-room.toml"
COLUMNS = 128
SIZE = (1280, 800)
PAPER, INK, PROMPT = "#fbfaf6", "#23282e", "#c2410c"

# A picture of the terminal for each: the words after `haptos`.
TERMINALS = {
    "run": [["run", ROOM, "gets-through.toml"]],
    "moves": [["moves", ROOM]],
    "check": [["check", ROOM], ["check", "leaky.toml"]],
    "why": [
        ["why", ROOM, "player", "stair lamp"],
        ["why", ROOM, "player", "telescope"],
        ["show", ROOM, "book shelf"],
    ],
}

# The first room with a tile missing in its outer wall, a rule for a lamp that is not there, and an open side.
LEAKY = (
    (
        "#......................................................................#\n",
        "#.......................................................................\n",
    ),
    ('right = "wall"', 'right = "open"'),
    ('piece = "door lamp"', 'piece = "door lmap"'),
)


def leaky(text: str) -> str:
    """Return the first room with three faults in it."""
    hole, rest = LEAKY[0], LEAKY[1:]
    first = text.index(hole[0])
    text = text[:first] + hole[1] * 3 + text[first + 3 * len(hole[0]) :]
    for old, new in rest:
        text = text.replace(old, new)
    return text


def say(words: list[str], folder: Path) -> str:
    """Run a command and return what a user sees."""
    environment = os.environ | {"COLUMNS": str(COLUMNS), "NO_COLOR": "1"}
    done = subprocess.run(
        [sys.executable, "-m", "haptos.cli", *words], cwd=folder, env=environment, capture_output=True, text=True
    )
    shown = " ".join(f'"{word}"' if " " in word else word for word in words)
    return f"$ haptos {shown}\n{done.stdout or done.stderr}"


def terminal(text: str, path: Path) -> None:
    """Draw text as a terminal shows it."""
    fonts = Path(matplotlib.get_data_path()) / "fonts" / "ttf"
    font = ImageFont.truetype(str(fonts / "DejaVuSansMono.ttf"), 15)
    image = Image.new("RGB", SIZE, PAPER)
    pen = ImageDraw.Draw(image)
    for number, line in enumerate(text.split("\n")):
        pen.text((24, 20 + 19 * number), line.rstrip(), fill=PROMPT if line.startswith("$") else INK, font=font)
    image.save(path, optimize=True)


def main() -> None:
    """Make all of them."""
    FOLDER.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for file in (ROOM, "gets-through.toml", "falls-short.toml"):
            shutil.copy(demo_file(file), folder / file)
        (folder / "leaky.toml").write_text(leaky((folder / ROOM).read_text()))
        for title, calls in TERMINALS.items():
            terminal("\n".join(say(words, folder) for words in calls), FOLDER / f"{title}.png")
        for sheet in ("gets-through", "falls-short"):
            picture = str(FOLDER / f"draw-{sheet}.png")
            say(["draw", ROOM, f"{sheet}.toml", "--out", picture], folder)
    print(f"screenshots: {FOLDER}")


if __name__ == "__main__":
    main()
