"""Leaves as plain Python: records whose fields are attributes, over the memory of NumPy arrays.

A record is a view of several rows of numbers over the same memory, one for each sort of number in it; its fields are
properties that read and write one of them.

An interpreted run is the checked one. It raises where machine code would go on with garbage: an index outside of a
table, one that counts from its end too; an integer made of what is not finite, or too large for its field; a division
by zero; the root of a negative number.
"""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

from haptos.engine.compiling.packing import Record

# The sorts of numbers that records have, as NumPy and as `memoryview` call them.
SORTS = {"f8": "d", "i8": "q", "i4": "i", "i2": "h"}


class View:
    """One record; `view_type` makes a class of it, with a property for each field.

    Parameters
    ----------
    rows : Rows
    at : int
        Where it begins, in bytes.
    """

    __slots__ = ("_at", "_rows")

    def __init__(self, rows: Rows, at: int) -> None:
        self._rows, self._at = rows, at


def _field(sort: str, offset: int) -> property:
    name, size, is_float = SORTS[sort], int(sort[1]), sort == "f8"

    def read(self: View) -> Any:
        return getattr(self._rows, name)[(self._at + offset) // size]

    def write(self: View, value: Any) -> None:
        # As in machine code, what is written to an integer loses its fraction.
        getattr(self._rows, name)[(self._at + offset) // size] = value if is_float else int(value)

    return property(read, write)


@cache
def view_type(dtype: np.dtype[np.void]) -> type[View]:
    """Return the class of views of one sort of record."""
    fields: Any = dtype.fields
    members: dict[str, Any] = {"__slots__": ()}
    for name, (kind, offset, *_) in fields.items():
        members[name] = _field(f"{kind.kind}{kind.itemsize}", offset)
    return type("Record", (View,), members)


class Numbers:
    """A row of numbers, each of which can be read and written.

    Parameters
    ----------
    array : (n,) ndarray of numbers
    """

    __slots__ = ("_numbers", "shape")

    def __init__(self, array: np.ndarray[Any, Any]) -> None:
        self._numbers: Any = memoryview(array.data)
        self.shape = array.shape

    def __getitem__(self, index: int) -> Any:
        # In machine code, what is before the first number is the last one, or other memory.
        if index < 0:
            raise IndexError(f"number {index} of {self.shape[0]}")
        return self._numbers[index]

    def __setitem__(self, index: int, value: Any) -> None:
        if index < 0:
            raise IndexError(f"number {index} of {self.shape[0]}")
        self._numbers[index] = value


class Rows:
    """A row of records, each of which can be read and written by the names of its fields."""

    __slots__ = ("_kind", "_size", "d", "h", "i", "q", "shape")

    def __init__(self, array: np.ndarray[Any, Any]) -> None:
        self.shape = array.shape
        self._kind, self._size = view_type(array.dtype), array.dtype.itemsize
        flat = array.reshape(-1).view(np.uint8) if array.size else np.zeros(0, dtype=np.uint8)
        numbers: Any = memoryview(flat.data)
        self.d, self.q, self.i, self.h = (numbers.cast(sort) for sort in "dqih")

    def __getitem__(self, index: int) -> View:
        # In machine code, what is before the first record is other memory.
        if not 0 <= index < self.shape[0]:
            raise IndexError(f"record {index} of {self.shape[0]}")
        return self._kind(self, index * self._size)


def readable(value: Any) -> Any:
    """Return an argument as a leaf reads it when it is run as plain Python.

    Parameters
    ----------
    value : anything that `haptos.engine.compiling.packing.words_of` takes

    Examples
    --------
    >>> rows = np.zeros(2, dtype=[("x", "f8"), ("piece", "i8")])
    >>> readable(rows)[1].x = 2.5
    >>> rows["x"].tolist()
    [0.0, 2.5]
    """
    if isinstance(value, Record):
        return Rows(value.rows)[0]
    if isinstance(value, np.ndarray):
        if value.ndim == 2:
            return [readable(row) for row in value]
        return Numbers(value) if value.dtype.fields is None else Rows(value)
    if isinstance(value, tuple):
        items = [readable(item) for item in value]
        kind: Any = type(value)
        return kind(*items) if hasattr(value, "_fields") else tuple(items)
    return value
