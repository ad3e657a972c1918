"""Who meets whom, layer by layer: every pair once, and how many pairs of pieces each cell concerns."""

from __future__ import annotations

import json
import math

import pytest

import haptos

LEVEL = {
    "contacts": {
        "layers": ["hero", "stone", "oil", "fog"],
        "solid": {"hero": ["stone"]},
        "overlap": {"hero": ["oil"], "oil": ["stone"]},
    },
    "player": {"at": [0, 14], "layer": "hero"},
    "pieces": [
        {"name": "floor", "layer": "stone", "shape": {"box": [900, 16]}, "at": [0, -8]},
        {"name": "lens", "layer": "stone", "shape": {"box": [20, 20]}, "at": [90, 10], "copies": [[130, 10]]},
        {"name": "drop", "layer": "oil", "shape": {"circle": 4}, "at": [40, 20], "copies": [[50, 20], [60, 20]]},
    ],
}


def test_every_pair_of_layers_is_there_once_with_its_pairs_of_pieces():
    table = haptos.contacts(haptos.Level(**LEVEL)).set_index(["layer", "other"])
    assert len(table) == 10
    assert table.index.is_unique
    meetings = {pair: meeting for pair, meeting in table.meeting.items() if meeting != "nothing"}
    assert meetings == {("hero", "stone"): "solid", ("hero", "oil"): "overlap", ("stone", "oil"): "overlap"}
    # One player, three of stone, three drops, and nothing in the fog.
    assert table.pairs["hero", "stone"] == 1 * 3
    assert table.pairs["stone", "oil"] == 3 * 3
    assert table.pairs["oil", "oil"] == math.comb(3, 2)
    assert table.pairs["hero", "hero"] == 0
    # Each of the seven meets each other one in some cell.
    assert table.pairs.sum() == math.comb(7, 2)


def test_the_tool_prints_the_table_and_marks_what_is_unused(tool, tmp_path):
    file = tmp_path / "attic.toml"
    haptos.Level(**LEVEL).save(file)
    code, out, _ = tool("contacts", file, "--out", tmp_path / "contacts.png")
    assert code == 0
    assert "unused: fog" in out
    assert "▨ 9" in out
    assert max(map(len, out.splitlines()[:8])) <= 80
    assert (tmp_path / "contacts.png").stat().st_size > 10_000
    code, out, _ = tool("contacts", file, "--json", "--set", "pieces.drop.layer=fog")
    told = json.loads(out)
    assert told["unused"] == ["oil"]
    assert {"layer": "stone", "other": "fog", "meeting": "nothing", "pairs": 9} in told["contacts"]


@pytest.mark.parametrize(
    ("words", "expected"),
    [(("--out", "table.gif"), "expected a picture"), (("--set", "pieces.drop.layer=mist"), "mist")],
)
def test_what_cannot_be_done_is_told_in_a_sentence(tool, tmp_path, words, expected):
    file = tmp_path / "attic.toml"
    haptos.Level(**LEVEL).save(file)
    code, out, err = tool("contacts", file, *words)
    assert (code, out) == (2, "")
    assert expected in err
