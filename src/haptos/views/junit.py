"""What was verified as a report that build servers read: JUnit XML, a test case for each expectation."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING
from xml.etree import ElementTree

from haptos.writing import write_text

if TYPE_CHECKING:
    from haptos.study.verify_sheets import Verified


def save_junit(found: Sequence[Verified], path: str | Path) -> None:
    """Write a report of what was verified.

    Parameters
    ----------
    found : sequence of Verified
    path : str or Path

    Raises
    ------
    HaptosError
        If the file can't be written.
    """
    suites = ElementTree.Element("testsuites", name="haptos verify")
    for one in found:
        cases = one.outcomes
        suite = ElementTree.SubElement(
            suites, "testsuite", name=str(one.sheet), tests=str(max(len(cases), 1)), time=f"{one.seconds:.3f}",
            failures=str(sum(not outcome.held for outcome in cases)), errors=str(int(bool(one.error))),
        )  # fmt: skip
        if one.error:
            case = ElementTree.SubElement(suite, "testcase", name="the sheet", classname=str(one.sheet))
            ElementTree.SubElement(case, "error", message=_printable(one.error))
        for outcome in cases:
            case = ElementTree.SubElement(
                suite, "testcase", name=_printable(outcome.name), classname=str(one.sheet), time="0"
            )
            if not outcome.held:
                ElementTree.SubElement(case, "failure", message=_printable(outcome.message))
    ElementTree.indent(suites)
    text = ElementTree.tostring(suites, encoding="unicode")
    write_text(Path(path), f'<?xml version="1.0" encoding="utf-8"?>\n{text}\n')


def _printable(text: str) -> str:
    """Return a text without the signs that no XML can hold."""
    return "".join(sign if sign.isprintable() or sign == "\n" else " " for sign in text)
