"""Random levels as plain Python, which raises where machine code would read outside of a table: the same bits."""

from __future__ import annotations

import ast
from collections.abc import Callable, Iterator

import pytest

import haptos
from haptos.engine.compiling.contract import LEAVES
from haptos.engine.compiling.shipped import PACKAGE, sources
from tests import generated, generated_bodies, generated_crossings

Bits = list[tuple[str, bytes]]
# Levels of each sort, for about a minute in all on two cores; `benchmarks/checked_runs.py` plays two thousand.
CONTACTS, BODIES, CROSSINGS = 50, 24, 48
PART = 4


def contacts_of(seed: int) -> Iterator[tuple[str, bytes]]:
    try:
        level = generated.level_of(seed)
    except haptos.LevelError:
        # Not all that is drawn can be.
        return
    run = haptos.simulate(level, generated.cues_of(seed, 3))
    yield from generated_crossings.bits_of(run)


def bodies_of(seed: int) -> Iterator[tuple[str, bytes]]:
    level, cues = generated_bodies.scene_of(seed)
    run = haptos.simulate(level, cues.split(",")[0])
    yield from generated_crossings.bits_of(run)


def crossings_of(seed: int) -> Iterator[tuple[str, bytes]]:
    yield from generated_crossings.played(generated_crossings.level_of(seed), seed, 100)


@pytest.mark.parametrize(
    ("played", "first"),
    [
        (played, first)
        for played, count in ((contacts_of, CONTACTS), (bodies_of, BODIES), (crossings_of, CROSSINGS))
        for first in range(0, count, PART)
    ],
)
def test_nothing_is_raised_as_plain_python_and_machine_code_gives_the_same_bits(
    played: Callable[[int], Iterator[tuple[str, bytes]]], first: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    for seed in range(first, first + PART):
        found: list[Bits] = []
        for interpreted in ("0", "1"):
            monkeypatch.setenv("HAPTOS_INTERPRET", interpreted)
            found.append(list(played(seed)))
        differing = [name for (name, one), (_, other) in zip(*found, strict=True) if one != other]
        assert differing == [], f"seed {seed}"


def test_the_generator_reaches_every_facet_and_every_way_to_be_there() -> None:
    facets, ways, sided = set(), set(), False
    for seed in range(120):
        level = generated_crossings.level_of(seed)
        cast = haptos.Simulation(level).compiled.cast
        for index, piece in enumerate(cast.resolved.pieces):
            facets |= set(piece.facets)
            sided |= piece.solid_from is not None
            is_child = "/" in piece.name.removeprefix("player/")
            ways |= {
                way
                for way, holds in (
                    ("made", index in cast.made), ("child", is_child),
                    ("on the player", piece.name.startswith("player/")),
                    ("copy", piece.name.endswith(" 2")), ("tile", bool(piece.tiles)),
                    ("carried", piece.parent is not None and not is_child),
                )
                if holds
            }  # fmt: skip
    assert {"body", "drift", "spawner", "fragile", "crumble", "route", "spin", "field", "launch", "ladder"} <= facets
    assert {"surface", "pickup", "harm", "checkpoint"} <= facets
    assert sided
    assert ways == {"made", "on the player", "child", "copy", "tile", "carried"}


def test_leaves_take_no_whole_power_which_plain_python_rounds_otherwise() -> None:
    assert LEAVES
    found = []
    for path in sources():
        if "engine" not in path.relative_to(PACKAGE).parts:
            continue
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            is_leaf = isinstance(node, ast.FunctionDef) and any("leaf" in ast.dump(one) for one in node.decorator_list)
            if not is_leaf:
                continue
            powers = [one for one in ast.walk(node) if isinstance(one, ast.BinOp) and isinstance(one.op, ast.Pow)]
            found += [f"{path.name}:{one.lineno}" for one in powers if isinstance(one.right, ast.Constant)]
    assert found == []
