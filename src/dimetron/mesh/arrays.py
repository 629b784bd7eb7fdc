"""The kinds of arrays that meshes are made of, and what is raised where they make none."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.signedinteger[Any]]
Mask = NDArray[np.bool_]


#: More corners than this are beyond what a mesh is worked on with.
MOST_CORNERS = 60_000_000


class MeshError(ValueError):
    """The arrays do not describe a mesh, or an operation has no meaning on it."""


def extent(points: Floats) -> Floats:
    """(2, 3) lowest and highest of points (n, 3), n > 0; column by column, which is many times
    quicker than along the first axis."""
    columns = [points[:, axis] for axis in range(points.shape[1])]
    return np.array([[c.min() for c in columns], [c.max() for c in columns]])


def spans(starts: Ints, sizes: Ints) -> Ints:
    """The numbers from each start (k,) on, as many as its size (k,), one span after the other."""
    before = np.cumsum(sizes) - sizes
    return np.asarray(np.repeat(starts - before, sizes) + np.arange(int(np.sum(sizes))))


def unit(vectors: Floats) -> Floats:
    """Vectors (k, 3) of length one; those of no length stay."""
    long = np.linalg.norm(vectors, axis=1, keepdims=True)
    return np.asarray(np.divide(vectors, long, out=np.zeros_like(vectors), where=long > 0))


def distinct(numbers: Ints) -> Ints:
    """What is there, rising; of few numbers several times as quick as np.unique."""
    risen = np.sort(numbers)
    keep = np.ones(len(risen), bool)
    np.not_equal(risen[1:], risen[:-1], out=keep[1:])
    return risen[keep]


def grid_quads(grid: Ints) -> Ints:
    """(k, 4) the cells of a grid (r, s) of vertices, row by row."""
    return np.stack([grid[:-1, :-1], grid[1:, :-1], grid[1:, 1:], grid[:-1, 1:]], 2).reshape(-1, 4)


def freeze(*arrays: NDArray[Any]) -> None:
    """What belongs to a value is not written to."""
    for array in arrays:
        array.setflags(write=False)


#: Which end of each axis a corner of a box takes.
_ENDS = (np.arange(8)[:, None] >> np.arange(3)) & 1


def box_corners(box: Floats) -> Floats:
    """(8, 3) corners of a box by its lowest and highest (2, 3); X changes first."""
    return np.asarray(box[_ENDS, np.arange(3)])
