"""Whom a name means in rules and filters: a piece, a kind, a mark or a layer.

The exact piece goes first, then the kind with what is based on it, then the layer; ``piece:NAME``, ``kind:NAME``
and ``layer:NAME`` say it outright, and ``#NAME`` is a mark.
"""

from __future__ import annotations

from collections.abc import Collection

MARK, OF_PIECE, OF_KIND, OF_LAYER = "#", "piece:", "kind:", "layer:"
OUTRIGHT = (MARK, OF_PIECE, OF_KIND, OF_LAYER)


def exactly(selector: str, pieces: Collection[str], kinds: Collection[str]) -> str:
    """Return a selector that says outright what it means.

    Parameters
    ----------
    selector : str
    pieces, kinds : collection of str
        The names that there are.

    Examples
    --------
    >>> exactly("plank", pieces=["shelf"], kinds=["plank"])
    'kind:plank'
    """
    if selector.startswith(OUTRIGHT):
        return selector
    if selector in pieces:
        return OF_PIECE + selector
    return (OF_KIND if selector in kinds else OF_LAYER) + selector


def senses(
    selector: str, pieces: Collection[str], kinds: Collection[str], layers: Collection[str]
) -> list[str]:  # fmt: skip
    """Return all that a name could mean, what it does mean first.

    Examples
    --------
    >>> senses("plank", ["shelf"], ["plank"], ["plank", "stone"])
    ['kind:plank', 'layer:plank']
    """
    if selector.startswith(OUTRIGHT):
        return [selector]
    known = {OF_PIECE: pieces, OF_KIND: kinds, OF_LAYER: layers}
    return [prefix + selector for prefix, names in known.items() if selector in names]


def in_words(selector: str) -> str:
    """Return an outright selector in words: ``the kind 'plank'``."""
    prefix = next(prefix for prefix in OUTRIGHT if selector.startswith(prefix))
    what = {MARK: "mark", OF_PIECE: "piece", OF_KIND: "kind", OF_LAYER: "layer"}[prefix]
    return f"the {what} '{selector.removeprefix(prefix)}'"
