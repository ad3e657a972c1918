"""Bundles as leaves hand them on to one another: one address, behind which the words of their parts lie.

To Numba a NamedTuple is all of its parts, and a call hands each of them on: dozens of words, at every call, pushed and
loaded again, took a third of the time of a tick. But the words of a kernel's arguments stay where they are as long as
it runs, so that the address of the first one will do; a part is read where it is used.
"""

from __future__ import annotations

from typing import Any

from llvmlite import ir
from numba.core import cgutils, types
from numba.core.datamodel import models, register_default
from numba.core.imputils import lower_getattr_generic
from numba.core.typing.templates import AttributeTemplate, infer_getattr

from haptos.engine.compiling.rows import Rows, Table

WORD = ir.IntType(64)
NUMBERS: dict[Any, int] = {}
Type: Any = types.Type
PrimitiveModel: Any = models.PrimitiveModel
Attributes: Any = AttributeTemplate


class Bundle(Type):
    """The type of the bundles of one sort.

    Parameters
    ----------
    sort : NamedTuple class
    kinds : tuple of types
        Of its parts.
    known : tuple of bool or None
        The values of those parts that code is made for.
    """

    def __init__(self, sort: type[Any], kinds: tuple[Any, ...], known: tuple[bool | None, ...]) -> None:
        self.sort, self.kinds, self.known = sort, kinds, known
        # A short name, which is part of the name of every leaf that takes one.
        super().__init__(name=f"{sort.__name__}({NUMBERS.setdefault(self.key, len(NUMBERS))})")

    @property
    def key(self) -> Any:
        """What makes two of them the same."""
        return self.sort, self.kinds, self.known


@register_default(Bundle)
class BundleModel(PrimitiveModel):
    """What a bundle is to LLVM."""

    def __init__(self, manager: Any, kind: Any) -> None:
        super().__init__(manager, kind, WORD.as_pointer())


@infer_getattr
class BundleAttributes(Attributes):
    """``bundle.part``."""

    key = Bundle

    def generic_resolve(self, bundle: Any, name: str) -> Any:
        """Return the type of a part."""
        fields = bundle.sort._fields
        return bundle.kinds[fields.index(name)] if name in fields else None


@lower_getattr_generic(Bundle)
def _part(context: Any, builder: Any, kind: Any, words: Any, name: str) -> Any:
    index = kind.sort._fields.index(name)
    place = sum(map(words_in, kind.kinds[:index]))
    return read_words(context, builder, kind.kinds[index], kind.known[index], words, place)


def words_in(kind: Any) -> int:
    """Return how many words a value of a kind takes, as `haptos.engine.compiling.packing.words_of` makes them."""
    if isinstance(kind, (Bundle, types.BaseTuple)):
        parts: Any = kind.kinds if isinstance(kind, Bundle) else kind
        return sum(map(words_in, parts))
    if isinstance(kind, (types.NoneType, types.Boolean)):
        return 0
    return {Rows: 2, Table: 3}.get(type(kind), 1)


def read_words(context: Any, builder: Any, kind: Any, known: bool | None, words: Any, place: int) -> Any:
    """Return a value of a kind whose words begin at a place; a bool takes no word, and is known."""
    if isinstance(kind, types.NoneType):
        return context.get_dummy_value()
    if isinstance(kind, types.Boolean):
        return context.get_constant(kind, known)
    if isinstance(kind, Bundle):
        return cgutils.gep_inbounds(builder, words, place)
    if isinstance(kind, (Rows, Table)):
        rows = cgutils.create_struct_proxy(kind)(context, builder)
        rows.data = _load(builder, words, place, cgutils.voidptr_t)
        rows.count = _load(builder, words, place + 1, WORD)
        if isinstance(kind, Table):
            rows.width = _load(builder, words, place + 2, WORD)
        return rows._getvalue()
    return _load(builder, words, place, context.get_value_type(kind))


def _load(builder: Any, words: Any, place: int, kind: Any) -> Any:
    """Read one word, which nothing writes to as long as the kernel runs: LLVM may read it once for many uses."""
    word = cgutils.gep_inbounds(builder, words, place)
    value = builder.load(builder.bitcast(word, kind.as_pointer()))
    value.set_metadata("invariant.load", builder.module.add_metadata([]))
    return value
