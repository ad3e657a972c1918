"""The pages that show how it is done: what stands on them is what comes of running them."""

from __future__ import annotations

import doctest
import re
import runpy
from pathlib import Path

import pytest

import haptos
from haptos.level.level import Level
from haptos.level.pieces import FACETS, Kind, Part, Piece, TileMap
from haptos.level.player import Player
from haptos.level.routes import Route
from haptos.level.rules import Action, Rule
from haptos.level.section import Section, fields_of
from haptos.level.shapes import Shape
from haptos.level.world import Bounds, World

DOCS = Path(__file__).parents[1] / "docs"
READ = runpy.run_path(str(DOCS / "run_pages.py"))


@pytest.mark.parametrize("page", READ["PAGES"])
def test_a_page_says_what_its_commands_print_and_shows_what_they_draw(page, tmp_path):
    text = (DOCS / f"{page}.md").read_text(encoding="utf-8")
    again = READ["filled"](text, tmp_path)
    assert again == text
    assert "haptos: " not in again
    drawn = {picture.name for picture in tmp_path.glob("*.png")}
    assert drawn == set(re.findall(rf"\]\({page}/(.+?\.png)\)", text))
    assert all((DOCS / page / name).exists() for name in drawn)


def test_the_tutorial_has_ten_steps_each_with_a_command_and_a_picture():
    text = (DOCS / "tutorial.md").read_text(encoding="utf-8")
    steps = re.split(r"^## \d+\. ", text, flags=re.MULTILINE)[1:]
    assert len(steps) == 10
    assert all("$ haptos " in step and "![" in step for step in steps)


def test_the_page_of_the_library_runs_and_names_all_of_it(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    text = (DOCS / "python.md").read_text(encoding="utf-8")
    names: dict[str, object] = {}
    for number, block in enumerate(re.findall(r"^```python\n(.*?)^```", text, re.MULTILINE | re.DOTALL)):
        test = doctest.DocTestParser().get_doctest(block, names, f"block {number}", "python.md", 0)
        runner = doctest.DocTestRunner()
        out: list[str] = []
        runner.run(test, out=out.append, clear_globs=False)
        names = test.globs
        assert runner.failures == 0, "".join(out)
    for name in haptos.__all__:
        assert re.search(rf"\b{name}\b", text), name


def test_every_key_in_a_table_of_the_level_file_is_one_of_a_section():
    text = (DOCS / "level-file.md").read_text(encoding="utf-8")
    known = set()

    def gather(section: type[Section]) -> None:
        known.update(fields_of(section))
        for field in section.model_fields.values():
            for part in re.findall(r"\b([A-Z]\w+)\b", str(field.annotation)):
                inner = SECTIONS.get(part)
                if inner is not None and inner not in seen:
                    seen.add(inner)
                    gather(inner)

    SECTIONS = {one.__name__: one for one in _all_sections(Section)}
    seen: set[type[Section]] = set()
    for section in (
        Level,
        World,
        Bounds,
        Player,
        Piece,
        Kind,
        Part,
        Shape,
        TileMap,
        Rule,
        Action,
        Route,
        *FACETS.values(),
    ):
        gather(section)
    tables = text[: text.index("## Conditions")]
    keys = set()
    for row in re.findall(r"^\| (`.+?) \|", tables, re.MULTILINE):
        for word in re.findall(r"`([\w.]+)(?: =[^`]*)?`", row):
            keys.add(word.split(".")[-1])
    assert len(keys) > 100
    assert keys - known - WORDS == set()


# What stands in first cells besides keys: the words that `when` can be, and sides.
WORDS = {"bounds", "left", "right", "bottom", "top"}


def _all_sections(section: type[Section]) -> list[type[Section]]:
    return [section, *(one for inner in section.__subclasses__() for one in _all_sections(inner))]
