"""Every finding is explained, by a level that has it and one that has not; and what is meant can be allowed."""

from __future__ import annotations

import ast
import json
import re
import runpy
import tomllib
from pathlib import Path

import pytest
from PIL import Image

import haptos
from haptos.study import check as checks

ROOT = Path(__file__).parents[1]
PAGE = (ROOT / "docs" / "findings.md").read_text(encoding="utf-8")
ENTRIES = re.findall(
    r"^## (\S+)\n\n\*(\w+)\*: (.+?)\n\n```toml\n(.*?)```\n\nNot this:\n\n```toml\n(.*?)```",
    PAGE,
    re.MULTILINE | re.DOTALL,
)


def found(text: str) -> dict[str, str]:
    return {finding.code: finding.severity for finding in haptos.check(haptos.Level(**tomllib.loads(text)))}


@pytest.mark.parametrize(("code", "severity", "says", "wrong", "right"), ENTRIES, ids=[entry[0] for entry in ENTRIES])
def test_an_entry_has_a_level_that_has_it_and_one_that_has_not(
    code, severity, says, wrong, right, tmp_path, monkeypatch
):
    monkeypatch.chdir(tmp_path)
    Image.new("RGBA", (48, 8), (120, 80, 40, 255)).save("plank.png")
    Image.new("RGBA", (48, 8), (0, 0, 0, 0)).save("empty.png")
    assert found(wrong).get(code) == severity
    assert code not in found(right)
    assert says.endswith(".")


def test_the_page_has_every_code_that_the_sources_have_and_is_what_is_printed(tool):
    codes = set()
    for file in (ROOT / "src" / "haptos" / "study").glob("*.py"):
        for call in ast.walk(ast.parse(file.read_text(encoding="utf-8"))):
            if isinstance(call, ast.Call) and getattr(call.func, "id", "") == "Finding" and len(call.args) > 1:
                if isinstance(call.args[1], ast.Constant):
                    codes.add(call.args[1].value)
    assert len(codes) > 80
    assert codes <= {entry[0] for entry in ENTRIES}
    assert runpy.run_path(str(ROOT / "docs" / "write_findings.py"))["page"]() == PAGE
    code, out, _ = tool("check", "--explain", "mass-ratio")
    assert (code, "Heavy on light" in out, "mass = 60000" in out) == (0, True, True)
    code, _, err = tool("check", "--explain", "mas-ratio")
    assert (code, "(did you mean 'mass-ratio'?)" in err) == (2, True)


LEVEL = """
haptos = 1
{top}
[world]
lost_below = -400
[kinds.lamp]
layer = "zone"
shape = {{ box = [9, 9] }}
{kind}
[[pieces]]
name = "floor"
shape = {{ corners = [-200, -40, 400, -20] }}
[[pieces]]
name = "lamp"
kind = "lamp"
at = [50, 0]
copies = [[90, 0]]
{piece}
"""


@pytest.mark.parametrize("place", ["top", "kind", "piece"])
def test_what_is_allowed_is_silent_and_an_idle_allowance_is_not(tool, tmp_path, place):
    def level(allow):
        return LEVEL.format(**({"top": "", "kind": "", "piece": ""} | {place: allow}))

    assert "zone-unheard" in found(level(""))
    assert not {"zone-unheard", "allowance-idle"} & set(found(level('allow = { zone-unheard = "later" }')))
    assert "zone-unheard" in found(level('allow = { too-steep = "leans" }'))
    assert found(level('allow = { too-steep = "leans" }'))["allowance-idle"] == "warning"
    file = tmp_path / "attic.toml"
    file.write_text(level('allow = { zone-unherd = "slip" }'))
    code, out, _ = tool("check", file, "--format", "github")
    line = 1 + file.read_text().splitlines().index('allow = { zone-unherd = "slip" }')
    assert code == 1
    assert f"::warning file={file},line={line},title=allowance-idle::" in out
    assert "(did you mean 'zone-unheard'?)" in out
    assert any(one["code"] == "allowance-idle" for one in json.loads(tool("check", file, "--json")[1])["findings"])
    with pytest.raises(haptos.LevelError, match="found no reason for 'too-steep'"):
        found(level('allow = { too-steep = "" }'))


def test_every_check_is_in_the_list():
    looks = {
        node.name
        for file in (ROOT / "src" / "haptos" / "study").glob("*.py")
        for node in ast.parse(file.read_text(encoding="utf-8")).body
        if isinstance(node, ast.FunctionDef) and node.name.startswith("find_") and "list[Finding]" in ast.unparse(node)
    }
    assert {look.__name__ for look in checks.CHECKS} == looks
