"""The function that machine code is entered by: it reads a kernel's arguments back from their words."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numba.core import cgutils, types
from numba.core.typing.templates import signature as signature_of
from numba.extending import intrinsic
from numba.np import numpy_support

from haptos.engine.compiling.packing import Record
from haptos.engine.compiling.rows import Rows, Table

TO_ROWS = {1: Rows, 2: Table}


def type_of(value: Any) -> Any:
    """Return the type that an argument has within a kernel."""
    if isinstance(value, (np.ndarray, Record)):
        array = value.rows if isinstance(value, Record) else value
        item = numpy_support.from_dtype(array.dtype)
        return item if isinstance(value, Record) else TO_ROWS[array.ndim](item)
    if isinstance(value, tuple):
        kinds = [type_of(item) for item in value]
        return types.NamedTuple(kinds, type(value)) if hasattr(value, "_fields") else types.Tuple(kinds)
    if value is None:
        return types.none
    if isinstance(value, bool):
        return types.boolean
    return types.int64 if isinstance(value, (int, np.integer)) else types.float64


def entry_of(function: Callable[..., Any], arguments: tuple[Any, ...]) -> Callable[[int], None]:
    """Return a function of one address, that of the words, which calls a kernel with the arguments in them."""
    wanted = type_of(arguments)
    call: Any = function

    @intrinsic
    def unpack(typing: Any, address: Any) -> Any:
        def read(context: Any, builder: Any, signature: Any, args: Any) -> Any:
            words = builder.inttoptr(args[0], cgutils.intp_t.as_pointer())
            value, _ = _read(context, builder, wanted, arguments, words, 0)
            return value

        return signature_of(wanted, types.int64), read

    read_words: Any = unpack

    def entry(address: int) -> None:
        call(*read_words(address))

    return entry


def _read(context: Any, builder: Any, kind: Any, value: Any, words: Any, place: int) -> tuple[Any, int]:
    """Return a value of a kind read from its words, which begin at a place, and where the next begins."""

    def word(offset: int) -> Any:
        return builder.load(cgutils.gep_inbounds(builder, words, place + offset))

    if isinstance(kind, types.BaseTuple):
        items = []
        kinds: Any = kind
        for item_kind, item in zip(kinds, value, strict=True):
            one, place = _read(context, builder, item_kind, item, words, place)
            items.append(one)
        return context.make_tuple(builder, kind, items), place
    if isinstance(kind, types.NoneType):
        return context.get_dummy_value(), place
    if isinstance(kind, types.Boolean):
        return context.get_constant(kind, value), place
    if isinstance(kind, (Rows, Table)):
        rows = cgutils.create_struct_proxy(kind)(context, builder)
        rows.data = builder.inttoptr(word(0), cgutils.voidptr_t)
        rows.count = word(1)
        if isinstance(kind, Table):
            rows.width = word(2)
        return rows._getvalue(), place + value.ndim + 1
    if isinstance(kind, types.Record):
        return builder.inttoptr(word(0), context.get_value_type(kind)), place + 1
    if isinstance(kind, types.Float):
        return builder.bitcast(word(0), context.get_value_type(kind)), place + 1
    return word(0), place + 1
