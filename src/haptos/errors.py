"""The errors that a user can cause, each one clear sentence with its place."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager


class HaptosError(Exception):
    """Anything that makes an input unusable; its text is one sentence for the person who wrote it."""


class LevelError(HaptosError):
    """A level that can't be used, with all that is wrong in it; its text has a line for each.

    Parameters
    ----------
    place : str
        Where in the level, in the words of the file: ``pieces[2] 'door', shape.box``.
    message : str
        What was found and what is expected.
    file : str
        The file's path, once a reader knows it.
    line : int, optional
        The line of the file, from one.
    others : iterable of LevelError
        What is wrong besides.
    """

    def __init__(
        self, place: str, message: str, file: str = "", line: int | None = None, others: Iterable[LevelError] = ()
    ) -> None:
        self.place = place
        self.message = message
        self.file = file
        self.line = line
        self.others = tuple(others)
        super().__init__("\n".join(one.sentence for one in self.all))

    def __reduce__(self) -> tuple[type[LevelError], tuple[str, str, str, int | None, tuple[LevelError, ...]]]:
        # By itself an exception is made again from its text alone.
        return LevelError, (self.place, self.message, self.file, self.line, self.others)

    @property
    def all(self) -> tuple[LevelError, ...]:
        """All that is wrong, this first."""
        return (self, *self.others)

    @property
    def sentence(self) -> str:
        """What is wrong here, without the others, on one line whatever is in the names."""
        file = f"{self.file}:{self.line}" if self.file and self.line is not None else self.file
        words = ": ".join(part for part in (file, self.place, self.message) if part)
        return "".join(sign if sign.isprintable() else repr(sign)[1:-1] for sign in words)

    def within(self, file: str, line_of: Callable[[str], int | None] = lambda place: None) -> LevelError:
        """Return the same errors with the file's path in front, and the line of each place."""
        all_of_them = [LevelError(one.place, one.message, file, line_of(one.place)) for one in self.all]
        first, *others = sorted(all_of_them, key=lambda one: one.line or 0)
        return LevelError(first.place, first.message, file, first.line, others)


class Faults:
    """Gathers what is wrong in a level, so that all of it is told at once.

    Examples
    --------
    >>> faults = Faults()
    >>> for name in ("door", "lift"):
    ...     with faults.gathered():
    ...         raise LevelError(name, "found nothing, expected a shape")
    >>> len(faults.found)
    2
    """

    def __init__(self) -> None:
        self.found: list[LevelError] = []

    @contextmanager
    def gathered(self) -> Iterator[None]:
        """Keep an error that is raised inside."""
        try:
            yield
        except LevelError as error:
            self.add(error)

    def add(self, error: LevelError) -> None:
        """Keep an error, unless it has been said already."""
        said = {(one.place, one.message) for one in self.found}
        self.found += [one for one in error.all if (one.place, one.message) not in said]

    def raise_any(self) -> None:
        """Raise all that was found as one error, if anything was."""
        if self.found:
            first, *others = self.found
            raise LevelError(first.place, first.message, others=others)


class CueError(HaptosError):
    """A cue, or a cue sheet, that can't be read."""


class KernelError(HaptosError):
    """Machine code of a kernel that can't be used."""
