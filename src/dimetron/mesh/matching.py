"""A part set right by some of its points: turned, moved and, if wished, resized so that they come
to where they are to be, as far as that is known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import Floats, Mask, MeshError

#: How strongly a turn or another size is held back where the points leave it open, against a miss
#: of the part's whole extent.
_HELD = 1e-3


@dataclass(frozen=True, eq=False)
class Pair:
    """point (3,) of the part; target (3,) where it is to be, of which only the coordinates that are
    ``known`` (3,) count."""

    point: Floats
    target: Floats
    known: Mask


@dataclass(frozen=True, eq=False)
class Placing:
    """turn (3, 3) by which rows are multiplied, times, and by (3,): how points go; misses (k,) mm:
    how far each pair stays apart, as far as its target is known."""

    turn: Floats
    times: float
    by: Floats
    misses: Floats

    def moved(self, points: Floats) -> Floats:
        """(n, 3) where points go."""
        return np.asarray(points @ self.turn * self.times + self.by)


def placing(pairs: Sequence[Pair], resized: bool = False) -> Placing:
    """The placing in which the pairs miss one another least, in the sum of squares; what they leave
    open stays as it is. Raises MeshError if there is none that says anything."""
    told = [pair for pair in pairs if pair.known.any()]
    if not told:
        raise MeshError("Click a point of the part, and then where it is to be.")
    from scipy.optimize import least_squares  # takes a while; only placing needs it
    from scipy.spatial.transform import Rotation

    points = np.array([pair.point for pair in told])
    targets = np.array([pair.target for pair in told])
    known = np.array([pair.known for pair in told])
    middle = points.mean(axis=0)
    extent = max(float(np.ptp(points, axis=0).max()), 1.0)

    def applied(unknown: Floats, at: Floats) -> Floats:
        turn = Rotation.from_rotvec(unknown[:3]).as_matrix()
        times = float(np.exp(unknown[6])) if resized else 1.0
        return np.asarray((at - middle) @ turn.T * times + middle + unknown[3:6] * extent)

    def residuals(unknown: Floats) -> Floats:
        off = (applied(unknown, points) - targets) / extent
        held = unknown * _HELD * np.r_[1, 1, 1, 1e-3, 1e-3, 1e-3, 1][: len(unknown)]
        return np.concatenate([off[known], held])

    start = np.zeros(7 if resized else 6)
    found = least_squares(residuals, start, method="trf", x_scale="jac").x
    turn = Rotation.from_rotvec(found[:3]).as_matrix().T
    times = float(np.exp(found[6])) if resized else 1.0
    by = middle + found[3:6] * extent - middle @ turn * times
    off = np.where(known, points @ turn * times + by - targets, 0.0)
    return Placing(turn, times, by, np.linalg.norm(off, axis=1))
