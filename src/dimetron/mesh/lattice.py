"""A lattice of knots around a shape: moved knots take what lies within along.

Source: T. W. Sederberg and S. R. Parry, Free-form deformation of solid geometric models, SIGGRAPH
1986.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import comb

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, MeshError, extent, freeze

#: A shape without extent along an axis gets this share of its largest one there.
_LEAST = 0.01


@dataclass(frozen=True, eq=False)
class Lattice:
    """box (2, 3): around the shape as it was; knots (a, b, c, 3): where they are now."""

    box: Floats
    knots: Floats

    def __post_init__(self) -> None:
        freeze(self.box, self.knots)

    @property
    def counts(self) -> tuple[int, int, int]:
        """How many knots there are along each axis."""
        a, b, c = self.knots.shape[:3]
        return a, b, c

    def moved(self, chosen: Ints, by: Floats) -> Lattice:
        """With knots (k,), counted along the last axis first, moved by a vector (3,)."""
        knots = self.knots.reshape(-1, 3).copy()
        knots[chosen] += by
        return replace(self, knots=knots.reshape(self.knots.shape))

    def shaped(self, points: Floats) -> Floats:
        """(n, 3) where points of the shape as it was go: each knot counts by Bernstein's
        polynomials of where a point lies in the box."""
        share = (points - self.box[0]) / (self.box[1] - self.box[0])
        weights = [_bernstein(share[:, axis], count) for axis, count in enumerate(self.counts)]
        return np.asarray(np.einsum("ni,nj,nk,ijkd->nd", *weights, self.knots, optimize=True))


def lattice_around(points: Floats, counts: tuple[int, int, int]) -> Lattice:
    """An even lattice around points (n, 3), which changes nothing yet. Raises MeshError for fewer
    than two knots along an axis, and for nothing to be around."""
    if min(counts) < 2:
        raise MeshError("A lattice has two knots or more along each axis.")
    if not len(points):
        raise MeshError("Choose a mesh, or select a part of it, for the lattice to be around.")
    box = extent(points)
    size = box[1] - box[0]
    room = np.maximum(_LEAST * max(float(size.max()), 1.0) - size, 0.0) / 2
    box = np.stack([box[0] - room, box[1] + room])
    axes = [np.linspace(box[0, k], box[1, k], counts[k]) for k in range(3)]
    return Lattice(box, np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1))


def lines_of(lattice: Lattice) -> list[Floats]:
    """(k, 3) polylines through the knots, along each axis."""
    found: list[Floats] = []
    for axis in range(3):
        rows = np.moveaxis(lattice.knots, axis, 2)
        found += list(rows.reshape(-1, rows.shape[2], 3))
    return found


def _bernstein(t: Floats, count: int) -> Floats:
    """(n, count) the polynomials of degree count - 1 at places t (n,)."""
    degree = count - 1
    k = np.arange(count)
    factor = np.array([comb(degree, i) for i in range(count)], float)
    return np.asarray(factor * t[:, None] ** k * (1 - t[:, None]) ** (degree - k))
