"""Runs of points with the noise of pixels taken out, and which way they lie."""

from __future__ import annotations

import math

import numpy as np

from dimetron.outlines.path import Floats


def smoothed(points: Floats, sigma: float, ring: bool) -> Floats:
    """Points in order, each the mean of those around; the ends of what is open stay."""
    if len(points) < 5:
        return points
    reach = min(int(np.ceil(3 * sigma)), len(points) - 1)
    kernel = np.exp(-0.5 * (np.arange(-reach, reach + 1) / sigma) ** 2)
    kernel /= kernel.sum()
    if ring:
        padded = np.concatenate([points[-reach:], points, points[:reach]])
    else:
        # Mirrored through the ends, a straight line stays as long as it is.
        padded = np.concatenate(
            [
                2 * points[0] - points[reach:0:-1],
                points,
                2 * points[-1] - points[-2 : -reach - 2 : -1],
            ]
        )
    return np.stack([np.convolve(padded[:, k], kernel, "valid") for k in (0, 1)], axis=1)


def main_way(points: Floats) -> Floats:
    """(2,) the unit direction of the longest extent of points (n, 2), either sense."""
    away = points - points.mean(axis=0)
    x, y = away[:, 0], away[:, 1]
    angle = 0.5 * math.atan2(2 * float(x @ y), float(x @ x) - float(y @ y))
    return np.array([math.cos(angle), math.sin(angle)])
