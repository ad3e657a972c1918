"""Cue sheets as tests: pytest collects ``*.cues.toml``, a test for each thing that a sheet expects."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

import pytest

if TYPE_CHECKING:
    from haptos.study.verify_sheets import Verified

ENDING = ".cues.toml"


class NotHeldError(Exception):
    """An expectation that does not hold; its text is the nearest miss."""


def pytest_collect_file(file_path: Path, parent: pytest.Collector) -> pytest.Collector | None:
    """Collect a cue sheet."""
    if file_path.name.endswith(ENDING):
        sheet: pytest.Collector = SheetFile.from_parent(parent, path=file_path)
        return sheet
    return None


class SheetFile(pytest.File):
    """A cue sheet; its run is made once, for the first of its tests."""

    @cached_property
    def verified(self) -> Verified:
        """What became of the sheet."""
        from haptos.study.verify_sheets import verify_file

        return verify_file(self.path)

    def collect(self) -> Iterator[SheetItem]:
        """Return a test for each expectation; one for the whole sheet if it can't be used."""
        from haptos.files.sheet_heads import read_head

        head = read_head(self.path)
        for index, name in enumerate((head.expects if head else ()) or ("the sheet",)):
            yield SheetItem.from_parent(self, name=name, index=index)


class SheetItem(pytest.Item):
    """One expectation of a cue sheet."""

    def __init__(self, *, index: int, **more: Any) -> None:
        super().__init__(**more)
        self.index = index

    def runtest(self) -> None:
        """Fail with the nearest miss if it does not hold."""
        assert isinstance(self.parent, SheetFile)
        found = self.parent.verified
        if found.error:
            raise NotHeldError(found.error)
        outcome = found.outcomes[self.index]
        if not outcome.held:
            raise NotHeldError(outcome.message)

    def repr_failure(self, excinfo: pytest.ExceptionInfo[BaseException], style: Any = None) -> Any:
        """Return the message alone: where in haptos it was found is of no interest."""
        if isinstance(excinfo.value, NotHeldError):
            return str(excinfo.value)
        return super().repr_failure(excinfo, style)

    def reportinfo(self) -> tuple[Path, int | None, str]:
        """Return what stands above a failure."""
        return self.path, None, f"{self.path.name}: {self.name}"
