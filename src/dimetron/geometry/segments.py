"""Places and straight segments in a plane."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def nearest_on(at: Floats, a: Floats, b: Floats) -> tuple[Floats, Floats]:
    """Where on segments from ``a`` to ``b`` (..., 2) they are nearest to places ``at`` (..., 2), as
    shares of them, and how far away they are there."""
    way = b - a
    long = np.maximum((way * way).sum(axis=-1), 1e-30)
    share = np.clip(((at - a) * way).sum(axis=-1) / long, 0.0, 1.0)
    off = at - a - share[..., None] * way
    return np.asarray(share), np.asarray(np.hypot(off[..., 0], off[..., 1]))
