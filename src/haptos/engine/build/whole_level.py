"""A level that is checked whole when it is made."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any, Self

from haptos.engine.build.compile_level import compile_level
from haptos.errors import HaptosError
from haptos.level.changes import as_written, with_changes
from haptos.level.level import Level as Sections
from haptos.level.portrait import portrait, portrait_html
from haptos.level.toml_text import toml_text
from haptos.writing import to_json_text, write_text


class Level(Sections):
    """Everything the designer wrote, with the same names as in the file.

    A level stays as it was made; `changed` gives another one.

    Raises
    ------
    LevelError
        One sentence about each thing that can't be used.

    Examples
    --------
    >>> level = Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -8]}])
    >>> level.player.gaits.walk
    150.0
    """

    def __init__(self, /, **data: Any) -> None:
        super().__init__(**data)
        compile_level(self)

    def changed(self, changes: Mapping[str, Any]) -> Self:
        """Return a level with other values, checked as those of a file are.

        Parameters
        ----------
        changes : mapping
            New values, with units if wanted, by the paths of the file: ``player.jump.height``,
            ``pieces.lift.route.speed``, ``kinds.plank.crumble.delay``, ``rules[0].after``.

        Raises
        ------
        LevelError
            If there is no such path, or a value can't be used.

        Examples
        --------
        >>> level = Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -8]}])
        >>> level.changed({"player.jump.height": "100 px", "pieces.floor.at": [0, -10]}).player.jump.height
        100.0
        """
        return type(self)(**with_changes(self, changes))

    def save(self, path: str | Path) -> Path:
        """Write the level as TOML or JSON, whole or not at all; images of looks keep their full paths.

        Parameters
        ----------
        path : str or Path
            Ending in ``.toml`` or ``.json``.

        Raises
        ------
        HaptosError
            If the file can't be written.

        Examples
        --------
        >>> import haptos, tempfile
        >>> level = Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -8]}])
        >>> with tempfile.TemporaryDirectory() as folder:
        ...     haptos.load(level.save(Path(folder, "attic.toml"))) == level
        True
        """
        file = Path(path)
        if file.suffix.lower() == ".json":
            write_text(file, to_json_text({"haptos": self.haptos, **as_written(self)}))
        elif file.suffix.lower() == ".toml":
            write_text(file, toml_text(self))
        else:
            raise HaptosError(f"{file}: expected a level ending in .toml or .json")
        return file

    def __repr__(self) -> str:
        return portrait(self)

    __str__ = __repr__

    def _repr_html_(self) -> str:
        return portrait_html(self)
