"""The function that machine code is entered by: it reads a kernel's arguments back from their words."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numba.core import types
from numba.core.typing.templates import signature as signature_of
from numba.extending import intrinsic
from numba.np import numpy_support

from haptos.engine.compiling.bundle_types import WORD, Bundle, read_words, words_in
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
        kinds = tuple(map(type_of, value))
        if not hasattr(value, "_fields"):
            return types.Tuple(kinds)
        return Bundle(type(value), kinds, tuple(item if isinstance(item, bool) else None for item in value))
    if value is None:
        return types.none
    if isinstance(value, bool):
        return types.boolean
    return types.int64 if isinstance(value, (int, np.integer)) else types.float64


def entry_of(function: Callable[..., Any], arguments: tuple[Any, ...]) -> Callable[[int], None]:
    """Return a function of one address, that of the words, which calls a kernel with the arguments in them."""
    wanted = type_of(arguments)
    call: Any = function
    kinds: tuple[Any, ...] = tuple(wanted)
    places = [sum(map(words_in, kinds[:number])) for number in range(len(kinds))]

    @intrinsic
    def unpack(typing: Any, address: Any) -> Any:
        def read(context: Any, builder: Any, signature: Any, args: Any) -> Any:
            words = builder.inttoptr(args[0], WORD.as_pointer())
            values = [
                read_words(context, builder, kind, argument, words, place)
                for kind, argument, place in zip(kinds, arguments, places, strict=True)
            ]
            return context.make_tuple(builder, wanted, values)

        return signature_of(wanted, types.int64), read

    arguments_at: Any = unpack

    def entry(address: int) -> None:
        call(*arguments_at(address))

    return entry
