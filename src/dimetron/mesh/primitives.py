"""Meshes to begin with."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from dimetron.mesh.arrays import MeshError, box_corners
from dimetron.mesh.mesh import Mesh, from_faces

#: Faces of a box, seen counter-clockwise from outside; vertex i has bits x, y, z of i.
_BOX_FACES = np.array(
    [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [3, 2, 6, 7], [1, 3, 7, 5], [2, 0, 4, 6]], np.int32
)


def box(low: ArrayLike, high: ArrayLike) -> Mesh:
    """An axis-parallel box between two opposite corners (3,), six quads facing outwards.

    Raises MeshError if it would have no thickness along an axis.
    """
    ends = np.sort(np.array([low, high], dtype=np.float64), axis=0)
    if np.any(ends[1] - ends[0] <= 0):
        raise MeshError("A box needs a width, a depth and a height of more than zero.")
    return from_faces(box_corners(ends), _BOX_FACES)
