"""Which events of two runs are the same ones: an alignment of two sequences."""

from __future__ import annotations

from collections.abc import Hashable, Sequence

import numpy as np
from numpy.typing import NDArray


def align(
    one: Sequence[Hashable], other: Sequence[Hashable], times: Sequence[float], other_times: Sequence[float]
) -> list[tuple[int, int]]:
    """Return pairs of places, in order, as many as there can be, that hold the same in two sequences.

    It is the longest common subsequence [1]_. Of several, that whose times agree best once the shift that most share is
    taken off: so a sequence that is only later as a whole is matched as if it were not.

    Parameters
    ----------
    one, other : sequences
    times, other_times : of each entry (s)

    Returns
    -------
    list of (int, int)

    References
    ----------
    .. [1] R. Wagner, M. Fischer, "The string-to-string correction problem", J. ACM 21 (1974).

    Examples
    --------
    >>> align("jlj", "jljl", [0, 1, 2], [0, 1, 2, 3])
    [(0, 0), (1, 1), (2, 2)]
    >>> align("jl", "jljl", [5, 6], [2, 3, 5, 6])
    [(0, 2), (1, 3)]
    >>> align("abc", "xabc", [0, 1, 2], [0, 10, 11, 12])
    [(0, 1), (1, 2), (2, 3)]
    """
    same = 0
    while same < min(len(one), len(other)) and one[same] == other[same] and times[same] == other_times[same]:
        same += 1
    head = [(place, place) for place in range(same)]
    numbers: dict[Hashable, int] = {}
    left, right = (
        np.array([numbers.setdefault(key, len(numbers)) for key in keys[same:]], dtype=np.int64)
        for keys in (one, other)
    )
    if not len(left) or not len(right):
        return head
    t, u = np.asarray(times[same:], dtype=float), np.asarray(other_times[same:], dtype=float)
    pairs = _longest(left, right, t, u, 0.0)
    shift = float(np.median([u[j] - t[i] for i, j in pairs])) if pairs else 0.0
    if shift != 0.0:
        again = _longest(left, right, t, u, shift)
        pairs = min((pairs, again), key=lambda found: sum(abs(u[j] - t[i] - shift) for i, j in found))
    return head + [(i + same, j + same) for i, j in pairs]


def _longest(
    one: NDArray[np.int64], other: NDArray[np.int64], t: NDArray[np.float64], u: NDArray[np.float64], shift: float
) -> list[tuple[int, int]]:
    """Return the longest common subsequence; of several that whose times agree best but for a shift."""
    # All that times add is less than one match.
    span = max(float(np.ptp(np.concatenate((t, u - shift)))), 1e-9)
    most = 0.5 / (min(len(one), len(other)) * span)
    best = np.zeros((len(one) + 1, len(other) + 1))
    for row in range(len(one)):
        worth = np.where(other == one[row], 1.0 - most * np.abs(u - shift - t[row]), -1.0)
        best[row + 1, 1:] = np.maximum(best[row, 1:], best[row, :-1] + worth)
        best[row + 1] = np.maximum.accumulate(best[row + 1])
    pairs, i, j = [], len(one), len(other)
    while i > 0 and j > 0:
        if best[i, j] == best[i - 1, j]:
            i -= 1
        elif best[i, j] == best[i, j - 1]:
            j -= 1
        else:
            i, j = i - 1, j - 1
            pairs.append((i, j))
    return pairs[::-1]
