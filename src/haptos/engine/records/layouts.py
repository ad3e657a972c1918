"""The type of every table and of every part of the state: arrays of records with named fields."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Records = NDArray[np.void]
