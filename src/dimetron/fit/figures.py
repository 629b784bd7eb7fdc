"""Figures of how far places along lines are off, by length."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Floats


def mean_of(off: Floats, weights: Floats) -> float:
    """off (n,): by how much, mm; weights (n,): mm of line that each place speaks for."""
    return float((off * weights).sum() / weights.sum())


def kept_within(off: Floats, weights: Floats, share: float) -> float:
    """mm that a share of the lines keeps within."""
    order = np.argsort(off)
    at = np.searchsorted(np.cumsum(weights[order]), share * weights.sum())
    return float(off[order][min(int(at), len(off) - 1)])
