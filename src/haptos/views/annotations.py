"""Findings as a build server shows them on the lines of a change."""

from __future__ import annotations

from haptos.study.findings import Finding

WORDS = {"error": "error", "warning": "warning", "note": "notice"}


def annotation(finding: Finding, file: str) -> str:
    """Return a finding as a workflow command of GitHub: a note on a line of a file.

    Examples
    --------
    >>> annotation(Finding("note", "layer-empty", "contacts", "nothing is on it", line=4), "attic.toml")
    '::notice file=attic.toml,line=4,title=layer-empty::contacts: nothing is on it'
    """
    line = "" if finding.line is None else f",line={finding.line}"
    where = f"file={_escaped(file, ',:')}{line},title={finding.code}"
    return f"::{WORDS[finding.severity]} {where}::{_escaped(f'{finding.place}: {finding.message}')}"


def _escaped(text: str, more: str = "") -> str:
    """Return a text in which what has a meaning of its own is written as its number."""
    for sign in f"%\r\n{more}":
        text = text.replace(sign, f"%{ord(sign):02X}")
    return text
