"""Kernels as Python calls them: their arguments packed once, their code found, made or interpreted."""

from __future__ import annotations

import hashlib
import importlib
import lzma
import os
import sys
import tarfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from typing import Any, NamedTuple

import numpy as np

from haptos.engine.compiling import shipped
from haptos.engine.compiling.interpreting import readable
from haptos.engine.compiling.packing import layout_of, place_of, with_part, words_of
from haptos.errors import KernelError

# Code that is loaded in this process, by key.
_loaded: dict[str, Callable[[int], int]] = {}
_loading = threading.RLock()


@contextmanager
def _say(text: str) -> Iterator[None]:
    print(f"haptos: {text}", file=sys.stderr)
    yield


class Announcer:
    """How a compile is announced: with a line on standard error, unless somebody sets another way.

    Attributes
    ----------
    around : function of a text, that returns a context manager in which the compile takes place
    """

    around: Callable[[str], AbstractContextManager[None]] = staticmethod(_say)


def is_interpreted() -> bool:
    """Whether kernels are run as plain Python, as `HAPTOS_INTERPRET=1` asks for."""
    return os.environ.get("HAPTOS_INTERPRET", "") not in ("", "0")


class Form:
    """What the calls of a kernel with arguments of one layout have in common.

    Parameters
    ----------
    name : str
        Of the kernel and its sort.
    arguments : tuple
        Of any of them.

    Attributes
    ----------
    key : str
        The kernel's name, and a digest of the layout of its arguments.
    """

    def __init__(self, name: str, arguments: tuple[Any, ...]) -> None:
        layout = layout_of(arguments)
        self.key = f"{name}-{hashlib.sha256(layout.encode()).hexdigest()[:12]}"
        self._arguments = arguments
        self._places: dict[tuple[int, ...], int] = {}

    def place_of(self, way: tuple[int, ...]) -> int:
        """Return where the words of an argument begin, or of a part of one."""
        if way not in self._places:
            self._places[way] = place_of(self._arguments, way)
        return self._places[way]


class Pointed(NamedTuple):
    """An array that a call points to: where it lies, how long a row is, how many there are, and which word says so."""

    array: np.ndarray[Any, Any]
    place: int
    stride: int
    rows: int
    word: int


class KernelCall:
    """One kernel with its arguments.

    Parameters
    ----------
    function : leaf, or str
        Itself, or where it is, ``"haptos.engine.tick.advance:advance"``: it, and all that it calls, is then imported
        only if it is interpreted or compiled.
    name : str
        Of the kernel and its sort: ``advance-side-plain``.
    arguments : tuple
        As `packing.words_of` takes them. The call keeps them alive.
    interpreted : bool, optional
    form : Form, optional
        Of other calls of the kernel with arguments of the same layout.

    Examples
    --------
    >>> import numpy as np
    >>> from haptos.engine.compiling.contract import leaf
    >>> @leaf
    ... def double(numbers):
    ...     numbers[0] = 2.0 * numbers[0]
    >>> numbers = np.array([21.0])
    >>> call = KernelCall(double, "double", (numbers,), interpreted=True)
    >>> call()
    >>> numbers
    array([42.])
    """

    def __init__(
        self, function: Callable[..., Any] | str, name: str, arguments: tuple[Any, ...],
        interpreted: bool | None = None, form: Form | None = None,
    ) -> None:  # fmt: skip
        self._function, self.name = function, name
        self.arguments = list(arguments)
        self.interpreted = is_interpreted() if interpreted is None else interpreted
        self.form = form or Form(name, arguments)
        if self.interpreted:
            self._readable: Any = tuple(readable(argument) for argument in arguments)
            return
        self.words = np.array(words_of(arguments), dtype=np.uint64)
        self._address = self.words.ctypes.data
        # Python's own numbers are written through this in half the time.
        self._written: Any = memoryview(self.words.data)
        self._enter: Callable[[int], int] | None = None
        self._pointed: dict[tuple[int, ...], Pointed] = {}

    @property
    def function(self) -> Callable[..., Any]:
        """The leaf that is called."""
        if not isinstance(self._function, str):
            return self._function
        home, name = self._function.split(":")
        leaf: Callable[..., Any] = getattr(importlib.import_module(home), name)
        return leaf

    def replace(self, number: int, argument: Any) -> None:
        """Call with another argument from now on, of the same layout."""
        self.arguments[number] = argument
        if self.interpreted:
            self._readable = with_part(self._readable, (number,), readable(argument))
            return
        words, place = words_of(argument), self.form.place_of((number,))
        self.words[place : place + len(words)] = words

    def point(self, way: tuple[int, ...], array: np.ndarray[Any, Any], row: int) -> None:
        """Call with an array from a row on, which for the array of last time takes no more than two words.

        Parameters
        ----------
        way : tuple of int
            Which argument it is, or which part of one: of the bundle 0, the part 3.
        array : ndarray
            The call keeps it alive.
        row : int
        """
        if self.interpreted:
            self._readable = with_part(self._readable, way, readable(array[row:]))
            return
        last = self._pointed.get(way)
        if last is None or last.array is not array:
            word = self.form.place_of(way)
            last = self._pointed[way] = Pointed(array, array.ctypes.data, array.strides[0], len(array), word)
        written, word = self._written, last.word
        written[word] = last.place + row * last.stride
        written[word + 1] = last.rows - row

    def __call__(self) -> None:
        """Run the kernel."""
        if self.interpreted:
            with np.errstate(all="ignore"):
                self.function(*self._readable)
            return
        if self._enter is None:
            self._enter = self._find()
        if self._enter(self._address) != 0:
            raise KernelError(f"the kernel {self.name} stopped at an error of its own")

    @property
    def key(self) -> str:
        """The kernel's name, and a digest of the layout of its arguments."""
        return self.form.key

    def needs_compiling(self) -> bool:
        """Whether the first call will compile, which takes some seconds."""
        return not self.interpreted and self.key not in _loaded and ready_code(self.key)[0] is None

    def _find(self) -> Callable[[int], int]:
        key = self.key
        with _loading:
            if key not in _loaded:
                _loaded[key] = self._load(key)
            return _loaded[key]

    def _load(self, key: str) -> Callable[[int], int]:
        from haptos.engine.compiling import machine_code

        code, why = ready_code(key)
        if code is None:
            code = self._compiled(key, why)
        return machine_code.load(code, entry_name(self.name))

    def _compiled(self, key: str, why: str) -> bytes:
        """Return machine code made now."""
        last = shipped.last_times().get(self.name)
        takes = "up to a minute" if last is None else f"about {last:.0f} s, as last time"
        with Announcer.around(f"compiling the simulation for this sort of level ({self.name}, {takes}): {why}"):
            begin = time.perf_counter()
            from haptos.engine.compiling import machine_code
            from haptos.engine.compiling.building import build

            bitcode = build(self.function, tuple(self.arguments), entry_name(self.name))
            code = machine_code.object_of(bitcode)
            shipped.note_time(self.name, time.perf_counter() - begin)
        shipped.keep_code(key, machine_code.platform(), code)
        return code


def entry_name(name: str) -> str:
    """Return what a kernel's code is entered by."""
    return "haptos_" + name.replace("-", "_")


def ready_code(key: str) -> tuple[bytes | None, str]:
    """Return machine code that need not be compiled, or None and why there is none."""
    from haptos.engine.compiling import machine_code

    platform, why = machine_code.platform(), "it does not ship for this platform"
    try:
        code = shipped.shipped_code(key, platform)
    except (KernelError, OSError, EOFError, lzma.LZMAError, tarfile.TarError) as error:
        code, why = None, str(error)
    return code or shipped.cached_code(key, platform), why
