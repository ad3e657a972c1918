"""Arrays as leaves hand them on to one another: where the rows lie, and how many there are.

To Numba an array is seven values, of which kernels use two. A leaf takes dozens of arrays, and nearly half of all that
had to be compiled was taking them apart and putting them together again.
"""

from __future__ import annotations

import operator
from typing import Any

from numba.core import cgutils, types
from numba.core.datamodel import models, register_default
from numba.core.imputils import lower_builtin, lower_getattr
from numba.core.typing.templates import AbstractTemplate, AttributeTemplate, infer_getattr, infer_global
from numba.core.typing.templates import signature as signature_of

NUMBERS: dict[Any, int] = {}
Type: Any = types.Type
StructModel: Any = models.StructModel
Template: Any = AbstractTemplate
Attributes: Any = AttributeTemplate


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


class Table(Type):
    """The type of rows of rows, all of one length.

    The item `table[index]` is one of them.
    """

    def __init__(self, dtype: Any) -> None:
        self.rows = Rows(dtype)
        super().__init__(name=f"table({NUMBERS[dtype]})")

    @property
    def key(self) -> Any:
        """What makes two of them the same."""
        return self.rows.dtype


@register_default(Table)
class TableModel(StructModel):
    """What a table is to LLVM."""

    def __init__(self, manager: Any, kind: Any) -> None:
        words = [(name, types.int64) for name in ("count", "width")]
        super().__init__(manager, kind, [("data", types.voidptr), *words])


@infer_global(operator.getitem)
class ReadsTable(Template):
    """``table[index]``."""

    def generic(self, args: Any, kws: Any) -> Any:
        """Return the signature."""
        if isinstance(args[0], Table) and isinstance(args[1], types.Integer):
            return signature_of(args[0].rows, args[0], types.int64)
        return None


@lower_builtin(operator.getitem, Table, types.Integer)
def _read_table(context: Any, builder: Any, signature: Any, args: Any) -> Any:
    kind = signature.args[0]
    data, _, width = (builder.extract_value(args[0], number) for number in range(3))
    row = context.get_data_type(kind.rows.dtype).as_pointer()
    place = builder.gep(builder.bitcast(data, row), [builder.mul(args[1], width)])
    rows = cgutils.create_struct_proxy(kind.rows)(context, builder)
    rows.data = builder.bitcast(place, cgutils.voidptr_t)
    rows.count = width
    return rows._getvalue()


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
