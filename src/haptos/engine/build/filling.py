"""Tables filled by name: each row says which number goes into which column, and none is left out."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

import numpy as np

from haptos.engine.records import Records
from haptos.level.facet_base import Facet

Row = Mapping[str, Any]


def facet_row(facet: Facet, layout: np.dtype[np.void], **others: Any) -> dict[str, Any]:
    """Return a row of a facet's table.

    Parameters
    ----------
    facet : Facet
        Its keys go into the columns of the same names.
    layout : dtype
        Of the table.
    others
        Columns that are not keys, or differ from them.

    Examples
    --------
    >>> from haptos.level.stakes import Harm
    >>> facet_row(Harm(), np.dtype([("piece", "i8"), ("points", "f8"), ("every", "f8")]), piece=3)
    {'piece': 3, 'points': 1.0, 'every': inf}
    """
    keys = type(facet).model_fields
    return {
        name: others[name] if name in others else facet.number(name, getattr(facet, name))
        for name in layout.names or ()
        if name in others or name in keys
    }


def filled(layout: np.dtype[np.void], rows: Iterable[Row]) -> Records:
    """Return a table.

    Parameters
    ----------
    layout : dtype
    rows : iterable of mappings
        Each with a value for every column, and nothing else.

    Raises
    ------
    KeyError
        If a row lacks a column, or has one that the table does not.

    Examples
    --------
    >>> filled(np.dtype([("x", "f8"), ("piece", "i8")]), [{"piece": 1, "x": 0.5}]).tolist()
    [(0.5, 1)]
    """
    names = layout.names or ()
    found = list(rows)
    for row in found:
        if row.keys() != set(names):
            raise KeyError(f"found a row of {', '.join(row)}, expected {', '.join(names)}")
    return np.array([tuple(row[name] for name in names) for row in found], dtype=layout)
