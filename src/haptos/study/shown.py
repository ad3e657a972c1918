"""What a name of a level resolved to: a piece, the player, a kind, or a side of the bounds."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from haptos.engine.build.compile_level import compile_level
from haptos.errors import LevelError
from haptos.level.assemblies import PLAYER, chain_of
from haptos.level.changes import as_written
from haptos.level.level import Level
from haptos.level.names import did_you_mean
from haptos.level.origins import Value, values_of
from haptos.level.section import Section
from haptos.level.selectors import OF_KIND, OF_PIECE
from haptos.level.world import BOUNDS

if TYPE_CHECKING:
    import pandas as pd

DEFAULT = "default"


def show(level: Level, name: str) -> pd.DataFrame:
    """Return what a name resolved to, value by value, and where each value comes from.

    Parameters
    ----------
    level : Level
    name : str
        A piece (``map/KIND`` for tiles), ``player``, a kind, or a side of the bounds, ``bounds/left``.

    Returns
    -------
    DataFrame
        key, value, origin.

    Raises
    ------
    LevelError
        If nothing is called that.

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(player={"jump": {"height": 90}})
    >>> table = haptos.show(level, "player").set_index("key")
    >>> table.value["jump.height"], table.origin["jump.height"], table.origin["gaits.walk"]
    (90.0, 'player', 'default')
    """
    import pandas as pd

    return pd.DataFrame(_values(level, name), columns=list(Value._fields))


def _values(level: Level, name: str) -> list[Value]:
    resolved = compile_level(level).resolved
    if name == PLAYER:
        return list(_section(level.player, "player"))
    if name in BOUNDS:
        return [_side(level, name)]
    exact = resolved.exactly(name)
    if exact.removeprefix(OF_PIECE) in resolved.by_name:
        return values_of(resolved, exact.removeprefix(OF_PIECE))
    if exact.removeprefix(OF_KIND) in level.kinds:
        return _kind(level, exact.removeprefix(OF_KIND))
    known = [PLAYER, *resolved.by_name, *level.kinds, *BOUNDS]
    raise LevelError("", f"no piece or kind is called '{name}'{did_you_mean(name, known, lists=False)}")


def _section(section: Section, origin: str, prefix: str = "") -> Iterator[Value]:
    """Yield the values of a section and of those in it; what is not said has its default."""
    for key, field in type(section).model_fields.items():
        value = getattr(section, key)
        own = origin if key in section.model_fields_set else DEFAULT
        if isinstance(value, Section):
            yield from _section(value, own, f"{prefix}{field.alias or key}.")
        elif value is not None and value != ():
            yield Value(f"{prefix}{field.alias or key}", _plain(value), own)


def _side(level: Level, name: str) -> Value:
    bounds, side = level.world.bounds, name.removeprefix("bounds/")
    if bounds is None:
        return Value(name, "open", "default: the world has no bounds")
    said = side in bounds.model_fields_set
    return Value(name, getattr(bounds, side), f"world.bounds.{side}" if said else DEFAULT)


def _kind(level: Level, kind: str) -> list[Value]:
    """Return what a kind and those that it is based on say, the nearest of each key."""
    written = as_written(level)["kinds"]
    found: dict[str, Value] = {}
    chain = chain_of(level, kind)
    for one in chain:
        for key, value in _leaves(written[one]):
            if key != "based_on":
                found.setdefault(key, Value(key, value, f"kind {one}"))
    return [Value("kind", " ← ".join(chain), f"kinds.{kind}"), *found.values()]


def _leaves(written: dict[str, Any], prefix: str = "") -> Iterator[tuple[str, Any]]:
    for key, value in written.items():
        if isinstance(value, dict):
            yield from _leaves(value, f"{prefix}{key}.")
        else:
            yield f"{prefix}{key}", value


def _plain(value: Any) -> Any:
    return [_plain(part) for part in value] if isinstance(value, tuple | list) else value
