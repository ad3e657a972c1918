"""Arrays as leaves hand them on to one another: where the rows lie, and how many there are.

To Numba an array is seven values, of which kernels use two. A leaf takes dozens of arrays, and nearly half of all that
had to be compiled was taking them apart and putting them together again. A kernel therefore turns what it is given
into rows first.
"""

from __future__ import annotations

import operator
from typing import Any

from numba.core import cgutils, config, types
from numba.core.datamodel import models, register_default
from numba.core.imputils import lower_builtin, lower_getattr
from numba.core.typing.templates import AbstractTemplate, AttributeTemplate, infer_getattr, infer_global
from numba.core.typing.templates import signature as signature_of
from numba.extending import intrinsic

NUMBERS: dict[Any, int] = {}
Type: Any = types.Type
StructModel: Any = models.StructModel
Template: Any = AbstractTemplate
Attributes: Any = AttributeTemplate
NamedTupleType: Any = types.BaseNamedTuple
_config: Any = config


class Rows(Type):
    """The type of rows of one sort.

    References
    ----------
    .. [1] Numba's documentation, "Low-level extension API": types, data models, typing templates and lowering.
    """

    def __init__(self, dtype: Any) -> None:
        self.dtype = dtype
        # A short name: that of a record says all of its fields, and is part of the name of every leaf.
        super().__init__(name=f"rows({NUMBERS.setdefault(dtype, len(NUMBERS))})")

    @property
    def key(self) -> Any:
        """What makes two of them the same."""
        return self.dtype


@register_default(Rows)
class RowsModel(StructModel):
    """What rows are to LLVM."""

    def __init__(self, manager: Any, kind: Any) -> None:
        super().__init__(manager, kind, [("data", types.voidptr), ("count", types.int64)])


@infer_global(operator.getitem)
class ReadsRow(Template):
    """``rows[index]``."""

    def generic(self, args: Any, kws: Any) -> Any:
        """Return the signature."""
        if isinstance(args[0], Rows) and isinstance(args[1], types.Integer):
            return signature_of(args[0].dtype, args[0], types.int64)
        return None


@infer_global(operator.setitem)
class WritesRow(Template):
    """``rows[index] = value``, of rows of numbers."""

    def generic(self, args: Any, kws: Any) -> Any:
        """Return the signature."""
        if isinstance(args[0], Rows) and isinstance(args[1], types.Integer):
            return signature_of(types.none, args[0], types.int64, args[0].dtype)
        return None


@infer_getattr
class RowsAttributes(Attributes):
    """``rows.shape``."""

    key = Rows

    def resolve_shape(self, rows: Any) -> Any:
        """Return the type of a shape."""
        return types.UniTuple(types.int64, 1)


def _place(context: Any, builder: Any, kind: Any, value: Any, index: Any) -> Any:
    """Return where a row lies; an index below zero counts from the end, as in Python."""
    data, count = (builder.extract_value(value, number) for number in range(2))
    is_behind = builder.icmp_signed("<", index, index.type(0))
    index = builder.select(is_behind, builder.add(index, count), index)
    row = context.get_data_type(kind.dtype)
    return builder.gep(builder.bitcast(data, row.as_pointer()), [index])


@lower_builtin(operator.getitem, Rows, types.Integer)
def _read(context: Any, builder: Any, signature: Any, args: Any) -> Any:
    kind = signature.args[0]
    place = _place(context, builder, kind, *args)
    if isinstance(kind.dtype, types.Record):
        return builder.bitcast(place, context.get_value_type(kind.dtype))
    return context.unpack_value(builder, kind.dtype, place)


@lower_builtin(operator.setitem, Rows, types.Integer, types.Any)
def _write(context: Any, builder: Any, signature: Any, args: Any) -> Any:
    kind = signature.args[0]
    value, index, new = args
    context.pack_value(builder, kind.dtype, new, _place(context, builder, kind, value, index))
    return context.get_dummy_value()


@lower_getattr(Rows, "shape")
def _shape(context: Any, builder: Any, kind: Any, value: Any) -> Any:
    return context.make_tuple(builder, types.UniTuple(types.int64, 1), [builder.extract_value(value, 1)])


def _sort_of(kind: Any) -> Any:
    """Return which type rows of a type are: arrays of one dimension become rows, also within named tuples."""
    if isinstance(kind, types.Array) and kind.ndim == 1:
        return Rows(kind.dtype)
    if isinstance(kind, NamedTupleType):
        return types.NamedTuple([_sort_of(one) for one in kind], kind.instance_class)
    return kind


def _turned(context: Any, builder: Any, kind: Any, value: Any) -> Any:
    """Return the value of that type."""
    result = _sort_of(kind)
    if isinstance(result, Rows):
        array = context.make_array(kind)(context, builder, value)
        rows = cgutils.create_struct_proxy(result)(context, builder)
        rows.data = builder.bitcast(array.data, cgutils.voidptr_t)
        rows.count = builder.extract_value(array.shape, 0)
        return rows._getvalue()
    if isinstance(kind, NamedTupleType):
        sorts = enumerate(kind)
        turned = [_turned(context, builder, one, builder.extract_value(value, number)) for number, one in sorts]
        return context.make_tuple(builder, result, turned)
    return value


@intrinsic
def _rows_of(typing: Any, given: Any) -> Any:
    def turn(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        return _turned(context, builder, signature.args[0], args[0])

    return signature_of(_sort_of(given), given), turn


def _as_given(given: Any) -> Any:
    return given


# Where Numba is told not to compile, arrays are handed on as they are.
rows_of: Any = _as_given if _config.DISABLE_JIT else _rows_of
