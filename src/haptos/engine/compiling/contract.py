"""What kernels and leaves are, and what they may do.

A *leaf* is a plain Python function that kernels call; a *kernel* is a leaf that Python calls, through
`haptos.engine.compiling.kernels.KernelCall`. Both can be called, stepped through and tested as they are, on records
(see `haptos.engine.compiling.interpreting`). Numba reads them only when machine code is made.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

import numpy as np

Function = TypeVar("Function", bound=Callable[..., Any])

# Every leaf there is, as what makes machine code finds them.
LEAVES: set[Callable[..., Any]] = set()


def leaf(function: Function) -> Function:
    """Mark a function as part of kernels; it stays the function that it is.

    The contract of a leaf:

    - It allocates nothing and makes no Python object but tuples of fixed length; its loops are over numbers.
    - A capability that a level lacks is None. `if table is not None:`, alone in its `if` and about an argument, lets
      the compiler drop what stands below it; joined to another condition by `and`, or about a field of a bundle, it
      does not.
    - It may return numbers, rows, and tuples of them, but no record.
    - It takes bundles, NamedTuples that come with a kernel's arguments, and makes none: each is one address.
    - A number that stays the same and is handed on as an argument is a `constant`, or every plain integer would make
      another machine code of the function that takes it.
    - It never raises. Where Python would, compiled code goes on: division of plain floats by zero gives infinity or
      NaN, `math.sqrt` of a negative number NaN, an index outside the rows reads whatever lies there. A leaf tests
      before it divides, takes a root, or looks something up.
    - It reads globals as they are when it is compiled. Only numbers, tuples of numbers and other leaves will do.

    Examples
    --------
    >>> from haptos.engine.collision.roots import falls_at
    >>> falls_at(1.0, -1.0, 0.0)
    1.0
    """
    LEAVES.add(function)
    return function


def constant(value: int) -> int:
    """Return an integer that kernels take as a value: Numba compiles a function again for every plain one."""
    code: Any = np.int64(value)
    return code
