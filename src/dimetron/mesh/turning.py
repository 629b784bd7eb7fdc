"""Turns about an axis."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from dimetron.mesh.arrays import Floats
from dimetron.mesh.frames import WORLD


def rotation(axis: int, degrees: float) -> Floats:
    """(3, 3) by which points as rows are multiplied to turn them, counter-clockwise as seen from
    the axis' positive end; exact for quarters."""
    quarters, rest = divmod(degrees / 90.0, 1.0)
    if abs(rest) < 1e-12:
        cosine, sine = [(1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0)][int(quarters) % 4]
    else:
        cosine, sine = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    a, b = (axis + 1) % 3, (axis + 2) % 3
    turn = np.eye(3)
    turn[a, a], turn[b, b], turn[a, b], turn[b, a] = cosine, cosine, sine, -sine
    return turn


def turning(
    axis: int, degrees: float, pivot: Floats, axes: Floats = WORLD
) -> Callable[[Floats], Floats]:
    """What turns points (n, 3) about one of the axes (3, 3) through a point (3,), or about one
    through a point (n, 3) of each."""
    turn = rotation(axis, degrees)
    if axes is not WORLD:
        turn = axes.T @ turn @ axes
    return lambda points: np.asarray((points - pivot) @ turn + pivot)
