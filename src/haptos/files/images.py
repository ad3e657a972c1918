"""Images of drawings."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from haptos.errors import HaptosError


def read_image(path: str | Path) -> NDArray[np.float64]:
    """Return an image as (rows, columns, 3 or 4) with values from 0 to 1.

    Raises
    ------
    HaptosError
        If there is no such file, or it is no image.
    """
    from matplotlib.image import imread

    try:
        pixels = np.asarray(imread(path), dtype=np.float64)
    except FileNotFoundError:
        raise HaptosError(f"{path}: no such image") from None
    except Exception:
        raise HaptosError(f"{path}: found no image that can be read, expected a PNG") from None
    if pixels.ndim == 2:
        pixels = np.repeat(pixels[..., None], 3, axis=2)
    return pixels / 255.0 if pixels.max() > 1.0 else pixels
