"""What the docs say of names, keys and numbers is what the code knows."""

from __future__ import annotations

import re
import runpy
import subprocess
import sys
from pathlib import Path
from typing import get_args

import pytest

from haptos.engine.build.changeable import BODY_PATHS, FACET_PATHS, SWITCHES
from haptos.engine.records.events import EVENT_NAMES
from haptos.engine.report.event_text import EVENTS
from haptos.level.level import Level
from haptos.level.pieces import FACETS, Kind, Piece, TileMap
from haptos.level.player import Player
from haptos.level.rules import Rule, When
from haptos.level.section import fields_of
from haptos.level.world import World

ROOT = Path(__file__).parents[1]
LEVEL_FILE = (ROOT / "docs" / "level-file.md").read_text(encoding="utf-8")
TICK = (ROOT / "docs" / "tick.md").read_text(encoding="utf-8")
# Moments that are no events of their own: two are those of enter and leave, two of no event at all.
OTHER_MOMENTS = {"occupied", "empty", "timer", "counter"}


def test_the_table_of_events_is_that_of_the_code():
    rows = [[cell.strip() for cell in line.split("|")[1:3]] for line in TICK.splitlines() if line.startswith("| `")]
    assert rows == [[f"`{EVENT_NAMES[kind]}`", text.amount] for kind, text in EVENTS.items()]
    # `start` is written for the kernels' own use.
    assert {EVENT_NAMES[kind] for kind in EVENTS} == set(EVENT_NAMES) - {"start"}


def test_rules_can_ask_for_every_event_that_something_does():
    moments = set(get_args(When))
    assert moments - OTHER_MOMENTS <= set(EVENT_NAMES)
    assert set(EVENT_NAMES) - moments == {"set", "stall", "too_late", "end"}


@pytest.mark.parametrize(
    "section",
    [Level, World, Player, Piece, Kind, TileMap, Rule, *FACETS.values()],
    ids=lambda section: section.__name__,
)
def test_every_key_of_the_level_file_is_in_its_docs(section):
    # `route = "name"` is what a shared route is written as.
    for key in fields_of(section).keys() - {"shared"}:
        assert re.search(rf"\b{re.escape(key)}\b", LEVEL_FILE), key


def test_the_paths_that_rules_can_change_are_those_of_the_docs():
    start = LEVEL_FILE.index("Paths are `PIECE.active`")
    words = LEVEL_FILE[start : LEVEL_FILE.index("Anything else is refused", start)]
    for path in (*SWITCHES, *FACET_PATHS):
        facet, _, key = path.rpartition(".")
        assert f"`{key}`" in words or f"`PIECE.{path}`" in words, path
        assert f"PIECE.{facet}" in words, path
    said = set(re.findall(r"`(\w+)`", words))
    assert said <= {path.rpartition(".")[2] for path in FACET_PATHS} | {"gaits", "run", "attract_bonus"}
    for path in BODY_PATHS:
        assert f"`{path}`" in words or path.split(".")[0] in ("gaits", "run"), path


def test_the_code_of_the_readme_runs(tmp_path):
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    (code,) = re.findall(r"```python\n(.*?)```", readme, re.DOTALL)
    done = subprocess.run([sys.executable, "-c", code], cwd=tmp_path, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert "jump" in done.stdout
    assert (tmp_path / "first-room.png").read_bytes().startswith(b"\x89PNG")


@pytest.mark.parametrize(
    "page", ["README.md", "CONTRIBUTING.md", *(f"docs/{page.name}" for page in sorted((ROOT / "docs").glob("*.md")))]
)
def test_links_of_the_docs_lead_somewhere(page):
    file = ROOT / page
    for target in re.findall(r"\]\((?!https?:)([^)#]+)", file.read_text(encoding="utf-8")):
        assert (file.parent / target).exists(), target


def test_rooms_import_one_way_and_no_two_files_share_a_name():
    drawing = runpy.run_path(str(ROOT / "docs" / "draw_rooms.py"))
    found, files = drawing["imports"]()
    for room in files:
        assert drawing["depth"](room, found) >= 0
    names = [file.name for file in (ROOT / "src").rglob("*.py") if file.name != "__init__.py"]
    assert sorted(names) == sorted(set(names))


@pytest.mark.parametrize("page", ["CONTRIBUTING.md", "docs/architecture.md", "docs/tick.md"])
def test_the_files_that_the_docs_name_exist(page):
    files = [file.relative_to(ROOT).as_posix() for file in ROOT.rglob("*.py") if ".venv" not in file.parts]
    for name in re.findall(r"`((?:[a-z_]+/)*[a-z_]+\.py)`", (ROOT / page).read_text(encoding="utf-8")):
        assert any(file == name or file.endswith(f"/{name}") for file in files), name
