"""Arguments of kernels as one row of 64-bit words, and a text that says how they lie in it.

An array becomes its place and its lengths, a record its place, a float its bits, an integer itself; None and True take
no word, since the text says them.
"""

from __future__ import annotations

from functools import cache
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray


class Record(NamedTuple):
    """One record of an array of records, as a kernel's argument.

    Attributes
    ----------
    rows : (1,) array of records
    """

    rows: NDArray[np.void]


def words_of(value: Any) -> list[int]:
    """Return the words of an argument.

    Parameters
    ----------
    value : None, bool, int, float, ndarray of one or two dimensions, Record, or NamedTuple of such

    Returns
    -------
    list of int
        Unsigned.

    Raises
    ------
    ValueError
        If an array is not contiguous, so that a place and its lengths do not say where everything lies.

    Examples
    --------
    >>> words_of(1.0) == [0x3FF0000000000000], words_of(-1) == [2**64 - 1], words_of(None)
    (True, True, [])
    """
    if value is None or isinstance(value, bool):
        return []
    if isinstance(value, np.ndarray):
        if not value.flags.c_contiguous:
            raise ValueError("found an array with gaps, expected a contiguous one")
        return [value.ctypes.data, *value.shape]
    if isinstance(value, Record):
        return words_of(value.rows)[:1]
    if isinstance(value, tuple):
        return [word for item in value for word in words_of(item)]
    if isinstance(value, (int, np.integer)):
        return [int(value) & 0xFFFF_FFFF_FFFF_FFFF]
    return [int(np.float64(value).view(np.uint64))]


def count_words(value: Any) -> int:
    """Return how many words an argument takes."""
    if value is None or isinstance(value, bool):
        return 0
    if isinstance(value, np.ndarray):
        return 1 + value.ndim
    if isinstance(value, tuple) and not isinstance(value, Record):
        return sum(map(count_words, value))
    return 1


def place_of(value: Any, way: tuple[int, ...]) -> int:
    """Return where the words of a part begin, or of a part of a part.

    Examples
    --------
    >>> place_of((1, (2.0, None, np.zeros(3)), np.zeros(2)), (1, 2))
    2
    """
    place = 0
    for number in way:
        place += sum(map(count_words, value[:number]))
        value = value[number]
    return place


def with_part(value: Any, way: tuple[int, ...], part: Any) -> Any:
    """Return a tuple with another part, or part of a part.

    Examples
    --------
    >>> with_part((1, (2.0, None)), (1, 0), 3.0)
    (1, (3.0, None))
    """
    first, *rest = way
    parts = list(value)
    parts[first] = with_part(parts[first], tuple(rest), part) if rest else part
    kind: Any = type(value)
    return kind(*parts) if hasattr(value, "_fields") else tuple(parts)


def layout_of(value: Any) -> str:
    """Return how an argument lies in its words: all that machine code takes for granted about it.

    Examples
    --------
    >>> layout_of((1, 2.0, None, np.zeros(3)))
    '(i,f,-,<f8[1])'
    """
    if value is None:
        return "-"
    if isinstance(value, bool):
        return str(value)
    if isinstance(value, np.ndarray):
        return f"{_kind(value.dtype)}[{value.ndim}]"
    if isinstance(value, Record):
        return f"{_kind(value.rows.dtype)}[0]"
    if isinstance(value, tuple):
        if not hasattr(value, "_fields"):
            return f"({','.join(map(layout_of, value))})"
        parts = (f"{name}={layout_of(item)}" for name, item in zip(value._fields, value, strict=True))
        return f"{type(value).__name__}({','.join(parts)})"
    return "i" if isinstance(value, (int, np.integer)) else "f"


@cache
def _kind(dtype: np.dtype[Any]) -> str:
    if dtype.fields is None:
        return dtype.str
    fields = ",".join(f"{name}:{kind.str}@{offset}" for name, (kind, offset, *_) in dtype.fields.items())
    return f"{{{fields};{dtype.itemsize}}}"
