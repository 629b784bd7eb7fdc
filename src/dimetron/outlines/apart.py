"""How far two sets of closed polygons lie apart."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.spatial import cKDTree

from dimetron.geometry.segments import nearest_on
from dimetron.outlines.path import Floats

#: Both are looked at so many times along the larger extent.
_FINE = 2000


def apart(one: Sequence[Floats], other: Sequence[Floats]) -> Floats:
    """(n,) how far places all along each of two outlines (closed polygons (k, 2)) lie from the
    other one, both ways."""
    size = max(float(np.ptp(np.concatenate(part), axis=0).max()) for part in (one, other))
    step = max(size, 1e-9) / _FINE
    a, b = ([along(loop, step) for loop in part] for part in (one, other))
    return np.concatenate([_away(a, b), _away(b, a)])


def _away(places: Sequence[Floats], loops: Sequence[Floats]) -> Floats:
    """How far places lie from loops of dense points: from the chords at the nearest of them."""
    points, at = np.concatenate(loops), np.concatenate(places)
    before = np.concatenate([np.roll(loop, 1, axis=0) for loop in loops])
    after = np.concatenate([np.roll(loop, -1, axis=0) for loop in loops])
    near = cKDTree(points).query(at)[1]
    return np.minimum(*(nearest_on(at, points[near], ends[near])[1] for ends in (before, after)))


def along(loop: Floats, step: float) -> Floats:
    """(n, 2) places around a closed polygon, about ``step`` apart."""
    whole = np.concatenate([loop, loop[:1]])
    long = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(whole, axis=0).T))])
    at = np.linspace(0.0, long[-1], max(3, round(long[-1] / step)), endpoint=False)
    return np.stack([np.interp(at, long, whole[:, k]) for k in (0, 1)], axis=1)
