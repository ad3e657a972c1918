"""From a kernel's code to a function that can be called, by LLVM alone."""

from __future__ import annotations

import ctypes
from collections.abc import Callable
from functools import cache
from typing import Any

import llvmlite.binding as llvm

# The processors that code is made for, by architecture: the oldest of each, since newer ones brought nothing.
BASELINES = {"x86_64": "x86-64", "aarch64": "generic", "arm64": "apple-m1"}
OPTIMISATION = 3
_keep_alive: list[Any] = []

Entry = Callable[[int], int]


@cache
def platform() -> str:
    """Return the platform of this process, as LLVM calls it: ``x86_64-unknown-linux-gnu``."""
    return str(llvm.get_process_triple())


@cache
def baseline_machine(triple: str = "") -> Any:
    """Return LLVM's description of the plainest processor of an architecture; of this one's if none is given."""
    if triple:
        llvm.initialize_all_targets()
        llvm.initialize_all_asmprinters()
    else:
        llvm.initialize_native_target()
        llvm.initialize_native_asmprinter()
    triple = triple or platform()
    target: Any = llvm.Target.from_triple(triple)
    cpu = BASELINES.get(triple.split("-")[0], "")
    return target.create_target_machine(cpu=cpu, features="", opt=OPTIMISATION, reloc="pic", codemodel="small")


def object_of(bitcode: bytes, triple: str = "") -> bytes:
    """Return the machine code for this platform, or another one.

    Raises
    ------
    RuntimeError
        If this is no bitcode, or one of a newer LLVM than the one that is installed.
    """
    machine = baseline_machine(triple)
    # In a context of its own, where nothing else is named.
    module = llvm.parse_bitcode(bitcode, context=llvm.create_context())
    module.triple = triple or platform()
    module.data_layout = str(machine.target_data)
    code: bytes = machine.emit_object(module)
    return code


def load(code: bytes, name: str) -> Entry:
    """Return the function of an address that machine code of this platform is entered by.

    Its value is 0; anything else means that the code raised what it never should.

    Raises
    ------
    RuntimeError
        If it is no machine code, or has no function of that name.
    """
    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    _make_known()
    engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), _loading_machine())
    file = llvm.ObjectFileRef.from_data(code)
    engine.add_object_file(file)
    engine.finalize_object()
    address = engine.get_function_address(name)
    if not address:
        raise RuntimeError(f"found no function {name} in a kernel's code")
    # Numba's convention: where the result and an exception go, then the arguments. The call lets go of Python's lock.
    function = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.c_void_p, ctypes.c_void_p, ctypes.c_int64)(address)
    result, exception = ctypes.create_string_buffer(16), ctypes.create_string_buffer(16)
    places = ctypes.addressof(result), ctypes.addressof(exception)
    _keep_alive.append((engine, file, result, exception))

    def enter(words: int) -> int:
        return int(function(*places, words))

    return enter


def _loading_machine() -> Any:
    """Return a description of this processor for an engine, which takes it for its own."""
    target: Any = llvm.Target.from_triple(platform())
    return target.create_target_machine(codemodel="default", jit=True)


@cache
def _make_known() -> None:
    """Tell LLVM where the mathematics library and `memset` are: it does not look into the process by itself."""
    llvm.load_library_permanently("")
