"""Make the pictures in docs/screenshots anew from the demo data: `make screenshots`."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

import matplotlib
import run_pages
import write_findings
from draw_rooms import draw
from PIL import Image, ImageDraw, ImageFont

from haptos.demo import DEMO_SHEETS, demo_file

FOLDER = Path(__file__).parent / "screenshots"
ROOM, HALL, SHAFT = "first-room.toml", "stair-hall.toml", "lift-shaft.toml"
LOFT, GALLERY = "orrery-loft.toml", "ember-gallery.toml"
LANTERN, ORRERY, LIBRARY = "lantern-way.toml", "orrery-hall.toml", "library.toml"
# What is drawn of rooms, as pictures of levels.
DRAWN = ((HALL, "up-the-rigging"), (LANTERN, "to-the-lantern"), (LIBRARY, "through-the-cellar"))
COLUMNS = 128
SIZE = (1280, 800)
PAPER, INK, PROMPT = "#fbfaf6", "#23282e", "#c2410c"

# A picture of the terminal for each: the words after `haptos`.
TERMINALS = {
    "run": [["run", ROOM, "gets-through.toml"]],
    "moves": [["moves", ROOM]],
    "gaps": [["moves", HALL, "--gaps"]],
    "check": [["check", ROOM], ["check", "leaky.toml"]],
    "check-motion": [["check", SHAFT], ["check", LOFT]],
    "check-surfaces": [["check", HALL], ["check", "faulty-hall.toml"]],
    "check-stakes": [["check", LANTERN], ["check", "faulty-way.toml"], ["check", "faulty-orrery.toml"]],
    "verify": [
        ["verify", "gets-through.toml", "falls-short.toml", "over-the-pit.toml"],
        ["verify", "gets-through.toml", "falls-short.toml", "--set", "player.jump.height=40"],
    ],
    "why-run": [
        ["why", HALL, "--cues", "up-the-rigging.toml", "--at", "4.5"],
        ["why", ORRERY, "--cues", "round-the-globes.toml", "--at", "1.2"],
        ["why", LANTERN, "player", "weight", "--cues", "to-the-lantern.toml"],
        ["why", ROOM, "player", "stair lamp", "--cues", "falls-short.toml"],
    ],
    "why-rule": [
        ["why", LANTERN, "--cues", "to-the-lantern.toml", "--rule", "open"],
        ["why", LANTERN, "--cues", "right 3 s", "--rule", "open"],
        ["why", LANTERN, "--cues", "to-the-lantern.toml", "--rule", "tar dries"],
        ["why", LANTERN, "--cues", "right 3 s", "--rule", "enough"],
        ["why", ORRERY, "--cues", "right 1 s", "--rule", "chime"],
    ],
    "why": [
        ["why", ROOM, "player", "stair lamp"],
        ["why", ROOM, "player", "telescope"],
        ["show", LOFT, "cabin/floor"],
    ],
}

# The first room with a tile missing in its outer wall, a rule for a lamp that is not there, and an open side.
LEAKY = (
    (
        "#......................................................................#\n",
        "#.......................................................................\n",
    ),
    ('right = "wall"', 'right = "open"'),
    ('piece = "door lamp"', 'piece = "#lit"'),
)


# The hall with its drum upside down, its ramp too steep, a loft that is solid, and a step too high by little.
FAULTY = (
    ("at = [690, 30]\n", "at = [690, 30]\nturn = 180\nlaunch = { speed = 700 }\n"),
    ("[[0, 0], [112, 56], [192, 56], [288, 0]]", "[[0, 0], [40, 56], [192, 56], [288, 0]]"),
    ("at = [1000, 237]", 'at = [1000, 250]\nlayer = "stone"'),
    ("[48, 12], [48, 8], [24, 8], [24, 4], [0, 4]]", "[48, 12], [48, 6], [0, 6]]"),
    ('solid_from = "above"\n', ""),
)


# The way to the lantern with drops that are taken before they come, lamps that save inside the floor, thorns that the
# player ignores, and no finish; the orrery hall with two pulls that tie, and a globe that sticks out of its own.
FAULTY_WAY = (
    ("attract_within = 48", "attract_within = 3"),
    ("respawn_at = [0, -8]", "respawn_at = [0, -16]"),
    ('hero = ["oil", "thorn", "air"]', 'hero = ["oil", "air"]'),
    ('finish = { needs = "oil" }\n', ""),
)
FAULTY_ORRERY = (
    ("shape = { circle = 130 }", "shape = { circle = 80 }"),
    ("at = [1080, 190]", "at = [930, 190]"),
    ('moon = ["air"]', "moon = []"),
    ('{ say = "every globe turns', '{ remove = "moon" }, { kick = 900, at = "moon" }, { say = "every globe turns'),
)


def faulty(text: str, faults: tuple[tuple[str, str], ...]) -> str:
    """Return a level with faults."""
    for old, new in faults:
        assert old in text, old
        text = text.replace(old, new)
    return text


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
        for room, sheets in DEMO_SHEETS.items():
            for file in (f"{room}.toml", *(f"{sheet}.toml" for sheet in sheets)):
                shutil.copy(demo_file(file), folder / file)
        (folder / "leaky.toml").write_text(leaky((folder / ROOM).read_text()))
        for room, title, faults in (
            (HALL, "faulty-hall", FAULTY), (LANTERN, "faulty-way", FAULTY_WAY), (ORRERY, "faulty-orrery", FAULTY_ORRERY)
        ):  # fmt: skip
            (folder / f"{title}.toml").write_text(faulty((folder / room).read_text(), faults))
        for title, calls in TERMINALS.items():
            terminal("\n".join(say(words, folder) for words in calls), FOLDER / f"{title}.png")
        for room, sheet in DRAWN:
            say(["draw", room, f"{sheet}.toml", "--out", str(FOLDER / f"draw-{sheet}.png")], folder)
        higher = ["--set", "player.jump.height=80", "--out", str(FOLDER / "compare.png")]
        say(["compare", HALL, "up-the-rigging.toml", *higher], folder)
        swept = ["--set", "player.jump.height=40:120:17", "--set", "player.gaits.walk=110:190:17"]
        measures = ["end x", "event land 'book shelf'", "count lost", "expect"]
        asked = [word for measure in measures for word in ("--measure", measure)]
        say(["sweep", ROOM, "gets-through.toml", *swept, *asked, "--out", "swept"], folder)
        shutil.copy(folder / "swept" / "sweep.png", FOLDER / "sweep.png")
        say(["timeline", LANTERN, "to-the-lantern.toml", "--out", str(FOLDER / "timeline.png")], folder)
        say(["contacts", LANTERN, "--out", str(FOLDER / "contacts.png")], folder)
        say(["draw", HALL, "--gaps", "--out", str(FOLDER / "draw-gaps.png")], folder)
    draw(FOLDER.parent / "rooms.png")
    write_findings.main()
    run_pages.main()
    print(f"screenshots: {FOLDER}")


if __name__ == "__main__":
    main()
