"""Layer by layer: who is solid to whom, who only overlaps, and how many pairs of actual pieces that is about."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from haptos.engine.build.compile_level import compile_level
from haptos.level.level import Level

if TYPE_CHECKING:
    import pandas as pd

COLUMNS = ("layer", "other", "meeting", "pairs")


def contacts(level: Level) -> pd.DataFrame:
    """Return what the contacts table says for each pair of layers, and how many pairs of pieces that concerns.

    Parameters
    ----------
    level : Level

    Returns
    -------
    DataFrame
        A row for each pair of layers, in the order of the table: layer, other, meeting (solid, overlap, nothing),
        pairs: how many pairs there are of a piece, or the player, on the one and one on the other; `never_meets` is
        not taken off. A layer that has none is in no pair.

    Raises
    ------
    LevelError
        If a piece can't be resolved.
    TypeError
        If it is no level.

    Examples
    --------
    >>> import haptos
    >>> level = haptos.Level(pieces=[{"name": "floor", "shape": {"box": [400, 16]}, "at": [0, -22]}])
    >>> table = contacts(level).query("pairs > 0")
    >>> table.values.tolist()
    [['body', 'terrain', 'solid', 1]]
    """
    import pandas as pd

    resolved = compile_level(level).cast.resolved
    count = Counter(piece.layer for piece in resolved.pieces)
    count[resolved.player_layer] += 1
    layers = resolved.contacts.layers
    rows = []
    for number, layer in enumerate(layers):
        for other in layers[number:]:
            pairs = count[layer] * count[other] if layer != other else count[layer] * (count[layer] - 1) // 2
            rows.append((layer, other, resolved.contacts.between(layer, other).meeting, pairs))
    return pd.DataFrame(rows, columns=list(COLUMNS))


def unused_layers(level: Level) -> tuple[str, ...]:
    """Return the layers of the table that neither a piece nor the player is on."""
    resolved = compile_level(level).cast.resolved
    used = {piece.layer for piece in resolved.pieces} | {resolved.player_layer}
    return tuple(layer for layer in resolved.contacts.layers if layer not in used)
