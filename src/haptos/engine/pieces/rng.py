"""Random numbers by counting: the same seed, stream and count give the same number, in any order and in any batch.

The bits are mixed by the finaliser of SplitMix64 [1]_.

References
----------
.. [1] G. L. Steele, D. Lea, C. H. Flood, "Fast splittable pseudorandom number generators", OOPSLA (2014).
"""

from __future__ import annotations

import numpy as np

from haptos.engine.compiling.contract import leaf

GOLDEN = np.uint64(0x9E3779B97F4A7C15)
FIRST_MIX = np.uint64(0xBF58476D1CE4E5B9)
SECOND_MIX = np.uint64(0x94D049BB133111EB)
SHIFTS = (np.uint64(30), np.uint64(27), np.uint64(31), np.uint64(11))
UNIT = 1.0 / 9007199254740992.0


@leaf
def chance(seed: int, stream: int, count: int, low: float, high: float) -> float:
    """Return a number evenly between two."""
    bits = _mix(np.uint64(seed) + GOLDEN)
    bits = _mix(bits + GOLDEN * np.uint64(stream + 1))
    bits = _mix(bits + GOLDEN * np.uint64(count + 1))
    return low + (high - low) * (np.float64(bits >> SHIFTS[3]) * UNIT)


@leaf
def _mix(bits: np.uint64) -> np.uint64:
    bits = (bits ^ (bits >> SHIFTS[0])) * FIRST_MIX
    bits = (bits ^ (bits >> SHIFTS[1])) * SECOND_MIX
    return bits ^ (bits >> SHIFTS[2])
