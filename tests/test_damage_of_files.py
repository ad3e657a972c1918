"""Whatever is in a file or among the arguments: it runs, or is refused in sentences of our own."""

from __future__ import annotations

import re
import warnings

import pytest

from haptos.demo import demo_file
from tests.damaged import CUES, FOREIGN, damaged_cues, damaged_level, outcome, random_arguments

WHERE = re.compile(r"^\S+\.toml(:\d+)?: ")


@pytest.mark.parametrize("part", range(4))
def test_a_damaged_level_runs_or_is_refused_in_a_sentence_with_its_line(part, tmp_path):
    file = tmp_path / "damaged.toml"
    ran = 0
    for seed in range(50 * part, 50 * part + 50):
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            said = outcome(damaged_level(seed), CUES, file)
        ran += said == "ran"
        for line in said.splitlines() if said != "ran" else ():
            assert not FOREIGN.search(line), (seed, line)
            assert WHERE.match(line) or line.startswith("cue"), (seed, line)
    assert 5 < ran < 45


def test_damaged_cues_run_or_are_refused_in_a_sentence_with_their_number(tmp_path):
    text, file = demo_file("first-room.toml").read_text(encoding="utf-8"), tmp_path / "room.toml"
    said = [outcome(text, damaged_cues(seed), file) for seed in range(150)]
    assert 2 < said.count("ran") < 140
    for sentence in set(said) - {"ran"}:
        assert re.match(r"cue \d+: |found ", sentence), sentence
        assert not FOREIGN.search(sentence), sentence


def test_arguments_are_used_or_refused_in_one_sentence(tool, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    codes = []
    for seed in range(80):
        code, _, error = tool(*random_arguments(seed, demo_file("first-room.toml")))
        codes.append(code)
        assert code in (0, 1, 2)
        assert not FOREIGN.search(error), error
        assert code != 2 or re.match(r"haptos[a-z ]*: ", error), error
    assert {0, 2} <= set(codes)
