"""Cubic splines through points of the plane: smooth in their second derivative, natural at their ends, or closed [1]_.

SciPy has them, but its import takes longer than everything else that a level with a smooth route needs.

References
----------
.. [1] C. de Boor, "A Practical Guide to Splines", Springer (1978), chapter IV.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


class Spline:
    """A cubic spline, by its slopes at the points.

    Parameters
    ----------
    at : (n,) array_like
        The parameter of each point, increasing.
    points : (n, 2) array_like
    closed : bool
        Whether it goes on from its last point, which is the first one again, as from its first; otherwise it is
        straight at both ends.

    Examples
    --------
    >>> line = Spline([0.0, 1.0, 3.0], [[0.0, 0.0], [2.0, 1.0], [6.0, 3.0]], closed=False)
    >>> line(2.0).tolist(), line.slope(2.0).tolist()
    ([4.0, 2.0], [2.0, 1.0])
    """

    def __init__(self, at: ArrayLike, points: ArrayLike, *, closed: bool) -> None:
        self.at, self.points = np.asarray(at, dtype=np.float64), np.asarray(points, dtype=np.float64)
        self.slopes = _slopes(self.at, self.points, closed)

    def __call__(self, t: ArrayLike) -> Floats:
        """Return the places at parameters of any shape, with one axis more."""
        piece, w, size = self._pieces(t)
        h0, h1 = (1 + 2 * w) * (1 - w) ** 2, w * (1 - w) ** 2
        h2, h3 = w**2 * (3 - 2 * w), w**2 * (w - 1)
        points, slopes = self.points, self.slopes
        whole: Floats = (
            h0 * points[piece] + h2 * points[piece + 1] + size * (h1 * slopes[piece] + h3 * slopes[piece + 1])
        )
        return whole

    def slope(self, t: ArrayLike) -> Floats:
        """Return the derivatives there by the parameter."""
        piece, w, size = self._pieces(t)
        points, slopes = self.points, self.slopes
        whole: Floats = (
            6 * w * (1 - w) * (points[piece + 1] - points[piece]) / size
            + (1 - w) * (1 - 3 * w) * slopes[piece] + w * (3 * w - 2) * slopes[piece + 1]
        )  # fmt: skip
        return whole

    def _pieces(self, t: ArrayLike) -> tuple[NDArray[np.intp], Floats, Floats]:
        """Return on which piece each parameter lies, how far along it, from 0 to 1, and the size of the piece."""
        t = np.asarray(t, dtype=np.float64)
        piece = np.clip(np.searchsorted(self.at, t, side="right") - 1, 0, len(self.at) - 2)
        size = (self.at[piece + 1] - self.at[piece])[..., None]
        return piece, (t - self.at[piece])[..., None] / size, size


def _slopes(at: Floats, points: Floats, closed: bool) -> Floats:
    """Return the slopes at the points for which the second derivatives of both pieces there are the same."""
    near = 1.0 / np.diff(at)
    rises = 3.0 * np.diff(points, axis=0) * near[:, None] ** 2
    count = len(at) - 1 if closed else len(at)
    matrix, wanted = np.zeros((count, count)), np.zeros((count, 2))
    # Of each piece: what its two ends ask for.
    for piece in range(len(at) - 1):
        here, there = piece % count, (piece + 1) % count
        matrix[here, here] += 2.0 * near[piece]
        matrix[here, there] += near[piece]
        matrix[there, here] += near[piece]
        matrix[there, there] += 2.0 * near[piece]
        wanted[here] += rises[piece]
        wanted[there] += rises[piece]
    slopes = np.asarray(np.linalg.solve(matrix, wanted), dtype=np.float64)
    return np.vstack((slopes, slopes[:1])) if closed else slopes
