"""Places and straight segments in a plane."""

from __future__ import annotations

from collections.abc import Sequence

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


def line_crossings(polygons: Sequence[Floats], a: Floats, b: Floats) -> Floats:
    """(k,) how far from a (2,) to b (2,) the line between them crosses closed polygons (n, 2),
    rising."""
    way = b - a
    long = float(np.linalg.norm(way))
    found = [np.zeros(0)]
    for polygon in polygons:
        p, q = polygon - a, np.roll(polygon, -1, axis=0) - a
        side_p = way[0] * p[:, 1] - way[1] * p[:, 0]
        side_q = way[0] * q[:, 1] - way[1] * q[:, 0]
        cut = (side_p > 0) != (side_q > 0)
        share = side_p[cut] / (side_p[cut] - side_q[cut])
        place = p[cut] + (q[cut] - p[cut]) * share[:, None]
        along = place @ way / max(long, 1e-12)
        found.append(along[(along >= 0) & (along <= long)])
    return np.sort(np.concatenate(found))
