"""From leaves to machine code: the one room where Numba is used.

A kernel's arguments come as words (see `packing`), so that its code needs neither Python nor Numba, but only the
mathematics library and a function that clears memory. It is optimised for every processor of its architecture alike,
without vectorisers, which find nothing in short loops full of branches, and without fused operations, which round
otherwise than the plain ones: so the bits are the same on all machines.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache
from types import FunctionType
from typing import Any

import llvmlite.binding as llvm
import numba
from numba.core import event, types
from numba.core.compiler import Flags, compile_extra
from numba.core.registry import cpu_target
from numba.core.typing.typeof import typeof_impl

from haptos.engine.compiling.contract import LEAVES
from haptos.engine.compiling.entry import entry_of
from haptos.engine.compiling.linking import KernelCompiler, LeafCompiler
from haptos.engine.compiling.machine_code import OPTIMISATION, baseline_machine
from haptos.errors import KernelError

# Kernels allocate nothing: without Numba's reference counting they run several times faster. Nobody but kernels calls
# leaves, so they need no wrappers for that.
OPTIONS = {"error_model": "numpy", "_nrt": False, "no_cfunc_wrapper": True, "no_cpython_wrapper": True}
# What code may call: it is there on every platform.
AT_HAND = {
    "memset", "memcpy", "sqrt", "sin", "cos", "tan", "asin", "acos", "atan", "atan2", "exp", "expm1", "log", "log1p",
    "pow", "fmod", "floor", "ceil", "trunc", "rint",
}  # fmt: skip
_njit: Any = numba.njit
_type_of_others: Any = typeof_impl.dispatch(object)


@cache
def _dispatcher_of(function: Callable[..., Any]) -> Any:
    return _njit(pipeline_class=LeafCompiler, **OPTIONS)(function)


@typeof_impl.register(FunctionType)
def _type_of_function(function: Any, context: Any) -> Any:
    """Tell Numba what a leaf is wherever it meets one, so that leaves stay plain functions in their modules."""
    if function in LEAVES:
        return types.Dispatcher(_dispatcher_of(function))
    return _type_of_others(function, context)


def build(function: Callable[..., Any], arguments: tuple[Any, ...], name: str) -> bytes:
    """Return a kernel's code for arguments like these.

    Parameters
    ----------
    function : leaf
    arguments : tuple
        As `packing.words_of` takes them; only what `packing.layout_of` says of them is looked at.
    name : str
        What the code is entered by.

    Returns
    -------
    bytes
        LLVM's bitcode: optimised, without names, for any platform.
    """
    flags = Flags()
    cpu_target.options.parse_as_flags(flags, OPTIONS)
    entry = entry_of(function, arguments)
    with _quick_typing():
        typing, target = cpu_target.typing_context, cpu_target.target_context
        typing.refresh()
        target.refresh()
        compiled = compile_extra(
            typing, target, entry, (types.int64,), types.none, flags, {}, pipeline_class=KernelCompiler
        )
    module = compiled.library.module
    _keep_only(module, compiled.fndesc.llvm_func_name, name)
    machine = baseline_machine()
    module.data_layout = str(machine.target_data)
    tuning = llvm.create_pipeline_tuning_options(OPTIMISATION)
    tuning.loop_vectorization = tuning.slp_vectorization = False
    builder = llvm.create_pass_builder(machine, tuning)
    passes = builder.getModulePassManager()
    passes.add_strip_symbols_pass()
    passes.add_strip_dead_prototype_pass()
    passes.run(module, builder)
    needed = {item.name for item in module.functions if item.is_declaration and not item.name.startswith("llvm.")}
    if needed - AT_HAND:
        raise KernelError(f"found that {name} calls {', '.join(sorted(needed - AT_HAND))}, expected plain arithmetic")
    code: bytes = module.as_bitcode()
    return code


def _keep_only(module: Any, entry: str, name: str) -> None:
    """Name the entry, and make everything else the module's own, so that LLVM can take it in or leave it out."""
    for item in (*module.functions, *module.global_variables):
        if item.name == entry:
            item.name, item.linkage = name, "external"
        elif not item.is_declaration:
            item.linkage = "internal"


@contextmanager
def _quick_typing() -> Iterator[None]:
    """Look each call of an operator up once, and tell nobody about every step: a quarter of the time."""
    kind: Any = types.BaseFunction
    look_up, broadcast = kind.get_call_type, event.broadcast
    known: dict[Any, Any] = {}

    def call_type(self: Any, context: Any, args: Any, kws: Any) -> Any:
        key = (self, tuple(args), tuple(sorted(kws.items())))
        if key not in known:
            known[key] = look_up(self, context, args, kws)
        return known[key]

    def tell_nobody(_event: Any) -> None:
        pass

    kind.get_call_type, event.broadcast = call_type, tell_nobody
    try:
        yield
    finally:
        kind.get_call_type, event.broadcast = look_up, broadcast
