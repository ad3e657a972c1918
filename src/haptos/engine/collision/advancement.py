"""When two things that move come as near to each other as that: the one place where time is stepped to a contact."""

from __future__ import annotations

import math
from typing import Any

from haptos.engine.compiling.contract import leaf

# Steps that are as short as the gap asks for; from then on none is shorter than `shortest`, so that there is an end.
PATIENT_STEPS = 64

# The last digit of a time: a shorter step would be none.
DIGITS = 1e-15


@leaf
def first_within(gap_at: Any, scene: Any, pace: float, near: float, t: float, limit: float, shortest: float) -> float:
    """Return when a gap first is as small as `near`; infinite if it is not by a time.

    While a gap is not used up at the greatest speed at which it can close, nothing can happen: it is safe to go on
    for so long, and to look again [1]_.

    Parameters
    ----------
    gap_at : leaf
        Of the scene and a time; it returns the gap then.
    scene : tuple
        All that it needs.
    pace : float
        No gap closes faster.
    near : float
    t, limit : float
        From when to when is looked.
    shortest : float
        Where things all but touch for long, a nearer approach than that may be missed; in units of `t`, above zero.

    Returns
    -------
    float

    References
    ----------
    .. [1] B. Mirtich, "Timewarp Rigid Body Simulation", SIGGRAPH (2000): conservative advancement.

    Examples
    --------
    A gap of 10 that closes by 4 a second, where 5 are possible:

    >>> @leaf
    ... def gap_at(scene, t):
    ...     return scene[0] - 4.0 * t
    >>> round(first_within(gap_at, (10.0,), 5.0, 1e-9, 0.0, 9.0, 1e-6), 6)
    2.5
    >>> first_within(gap_at, (10.0,), 5.0, 1e-9, 0.0, 2.0, 1e-6)
    inf
    """
    step = 0
    while True:
        gap = gap_at(scene, t)
        if gap <= near:
            return t
        # Written so that a gap that is no number ends it, too.
        if not gap <= pace * (limit - t):
            return math.inf
        stride = gap / pace
        if step >= PATIENT_STEPS:
            stride = max(stride, max(shortest, DIGITS * abs(t)))
        t = min(t + stride, limit)
        step += 1
