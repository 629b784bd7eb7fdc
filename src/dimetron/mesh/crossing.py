"""Where a straight line crosses polygons of a plane."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.mesh.arrays import Floats


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
