"""Write the page of findings from what `haptos check --explain` says: `make screenshots`."""

from __future__ import annotations

from pathlib import Path

from haptos.study.explained import EXPLAINED

PAGE = Path(__file__).parent / "findings.md"
HEAD = """# What `check` may find

Each finding has a code, a severity (error: it can't work; warning: it is likely not meant; note: worth knowing),
what it means, the smallest level that has it, and one that is nearly the same and has it not.
`haptos check --explain CODE` prints an entry.

What is meant can be allowed, with the reason: `allow = { code = "reason" }` in a piece, in a kind (for all pieces of
it), or at the top of the level (anywhere). An allowance that silences nothing is a finding itself.
`haptos check LEVEL --format github` prints findings as notes on the lines of a change, `--json` for other programs.
"""


def page() -> str:
    """Return the page."""
    parts = [HEAD]
    for one in EXPLAINED.values():
        wrong, right = (f"```toml\n{text}```\n" for text in (one.wrong, one.right))
        parts.append(f"## {one.code}\n\n*{one.severity}*: {one.says}\n\n{wrong}\nNot this:\n\n{right}")
    return "\n".join(parts)


def main() -> None:
    """Write it."""
    PAGE.write_text(page(), encoding="utf-8")
    print(f"page: {PAGE}")


if __name__ == "__main__":
    main()
