"""The errors that a user can cause, each one clear sentence with its place."""

from __future__ import annotations


class HaptosError(Exception):
    """Anything that makes an input unusable; its text is one sentence for the person who wrote it."""


class LevelError(HaptosError):
    """A level that can't be used.

    Parameters
    ----------
    place : str
        Where in the level, in the words of the file: ``pieces[2] 'door', shape.box``.
    message : str
        What was found and what is expected.
    file : str
        The file's path, once a reader knows it.
    """

    def __init__(self, place: str, message: str, file: str = "") -> None:
        self.place = place
        self.message = message
        self.file = file
        super().__init__(": ".join(part for part in (file, place, message) if part))

    def __reduce__(self) -> tuple[type[LevelError], tuple[str, str, str]]:
        # By itself an exception is made again from its text alone.
        return LevelError, (self.place, self.message, self.file)

    def within(self, file: str) -> LevelError:
        """Return the same error with the file's path in front."""
        return LevelError(self.place, self.message, file)


class CueError(HaptosError):
    """A cue, or a cue sheet, that can't be read."""


class KernelError(HaptosError):
    """Machine code of a kernel that can't be used."""
