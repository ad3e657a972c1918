"""Record layouts of tables, state, and what a run leaves behind.

Every table, and every part of the state, is an array of records with named fields.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Records = NDArray[np.void]
