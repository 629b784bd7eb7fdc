"""How much vertices around a selection go along with it, less and less with the distance."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from dimetron.mesh.arrays import Floats, Ints

#: Weights by the share of the radius that is left (1 at the selection, 0 at the radius).
_SHAPES = {
    "smooth": lambda left: left * left * (3 - 2 * left),
    "even": lambda left: left,
    "sharp": lambda left: left * left,
    "round": lambda left: np.sqrt(left * (2 - left)),
}
SHAPES = tuple((name, name) for name in _SHAPES)


class Going(NamedTuple):
    """vertices (k,) rising that go along, weights (k,) by how much: 1 for those that are selected,
    more than 0 for the others."""

    vertices: Ints
    weights: Floats


def going(positions: Floats, selected: Ints, radius: float, shape: str = "smooth") -> Going:
    """What of positions (n, 3) goes along with some vertices (k,) within a radius, mm."""
    if radius <= 0 or not len(selected) or len(selected) == len(positions):
        return Going(selected, np.ones(len(selected)))
    from scipy.spatial import cKDTree  # takes a while; only a soft move needs it

    low = positions[selected].min(axis=0) - radius
    high = positions[selected].max(axis=0) + radius
    near = np.flatnonzero(((positions >= low) & (positions <= high)).all(axis=1))
    away = cKDTree(positions[selected]).query(positions[near], distance_upper_bound=radius)[0]
    there = np.isfinite(away)
    left = (1 - away[there] / radius).clip(0, 1)
    weights = np.asarray(_SHAPES[shape](left))
    counts = weights > 0
    return Going(near[there][counts].astype(np.int32), weights[counts])
