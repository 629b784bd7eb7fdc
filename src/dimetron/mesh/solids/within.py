"""Places within closed polygons, and along them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.mesh.arrays import Floats, Mask, spans


def within(loops: Sequence[Floats], rows: int, columns: int) -> Mask:
    """(rows, columns) which places of a grid lie within an odd number of loops: how many of their
    edges are crossed on the way from the left."""
    crossed = np.zeros((rows, columns + 1), np.int32)
    for loop in loops:
        a, b = loop, np.roll(loop, -1, axis=0)
        low, high = np.minimum(a[:, 1], b[:, 1]), np.maximum(a[:, 1], b[:, 1])
        first = np.clip(np.ceil(low), 0, rows).astype(np.intp)
        last = np.clip(np.ceil(high), 0, rows).astype(np.intp)
        edge = np.repeat(np.arange(len(a)), last - first)
        row = spans(first, last - first)
        rise = (b - a)[edge]
        x = a[edge, 0] + (row - a[edge, 1]) / rise[:, 1] * rise[:, 0]
        np.add.at(crossed, (row, np.clip(np.ceil(x), 0, columns).astype(np.intp)), 1)
    return np.asarray(np.cumsum(crossed[:, :-1], axis=1) % 2 == 1)


def dense(loop: Floats, step: float) -> Floats:
    """A closed polygon by places no farther apart than ``step``."""
    way = np.roll(loop, -1, axis=0) - loop
    counts = np.maximum(1, np.ceil(np.hypot(*way.T) / step)).astype(np.intp)
    which = np.repeat(np.arange(len(loop)), counts)
    first = np.repeat(np.cumsum(counts) - counts, counts)
    t = (np.arange(len(which)) - first) / counts[which]
    return np.asarray(loop[which] + t[:, None] * way[which])


def signed_area(loop: Floats) -> float:
    """Of a closed polygon (n, 2): positive when it runs counter-clockwise."""
    x, y = loop.T
    return float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum() / 2)


def counter(loop: Floats) -> Floats:
    """A closed polygon (n, 2) so that it runs counter-clockwise."""
    return loop if signed_area(loop) > 0 else loop[::-1]
