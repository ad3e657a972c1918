"""Whole powers, the same in machine code and in plain Python, whose own `**` is rounded otherwise than a product."""

from __future__ import annotations

from haptos.engine.compiling.contract import leaf


@leaf
def square(x: float) -> float:
    """Return x to the power of 2.

    Examples
    --------
    >>> square(1.5)
    2.25
    """
    return x * x


@leaf
def cube(x: float) -> float:
    """Return x to the power of 3.

    Examples
    --------
    >>> cube(2.0)
    8.0
    """
    return x * (x * x)


@leaf
def fourth_power(x: float) -> float:
    """Return x to the power of 4.

    Examples
    --------
    >>> fourth_power(2.0)
    16.0
    """
    return (x * x) * (x * x)
